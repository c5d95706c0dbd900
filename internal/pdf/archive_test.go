package pdf_test

import (
	"bytes"
	"fmt"
	"maps"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/e2e/readers"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/pdf/fill"
	"zealousmargin.example/internal/pdf/proof"
	"zealousmargin.example/internal/pdf/read"
	"zealousmargin.example/internal/pdf/write"
)

// byOffice is a page as an office program writes it: as PDF 1.7, or as its own PDF/A-2. It writes each once.
func byOffice(t *testing.T, version int) []byte {
	t.Helper()
	offices.Lock()
	defer offices.Unlock()
	if b := offices.wrote[version]; b != nil {
		return bytes.Clone(b)
	}
	dir := t.TempDir()
	in := filepath.Join(dir, "in.html")
	require.NoError(t, os.WriteFile(in, []byte(`<html><head><title>Winter storage</title><meta charset="utf-8"></head><body>
<h1>Winter storage</h1><p>Name of vessel: <b>Łódź</b>, fee 30,00 € <i>a month</i></p><table border=1><tr><td>a</td><td>b</td></tr></table>
<p><a href="https://gannet-quay.example/">our pages</a></p></body></html>`), 0o600))
	out, err := exec.Command(
		"soffice",
		"--headless",
		"-env:UserInstallation=file://"+dir+"/profile",
		"--convert-to",
		fmt.Sprintf(
			`pdf:writer_web_pdf_Export:{"SelectPdfVersion":{"type":"long","value":"%d"}}`,
			version,
		),
		"--outdir",
		dir,
		in,
	).CombinedOutput()
	require.NoError(t, err, string(out))
	b, err := os.ReadFile(filepath.Join(dir, "in.pdf"))
	require.NoError(t, err)
	offices.wrote[version] = b
	return bytes.Clone(b)
}

var offices = struct {
	sync.Mutex
	wrote map[int][]byte
}{wrote: map[int][]byte{}}

func clauses(t *testing.T, b []byte) (out []string) {
	t.Helper()
	broken, err := proof.Archive(b)
	require.NoError(t, err)
	for _, f := range broken {
		out = append(out, f.Clause+" "+f.What)
	}
	return out
}

// What another program writes as PDF/A-2 holds to all that is asked here, but for the level: it says B. The same page as an ordinary PDF
// does not.
func TestPDFAOfAnotherProgramHolds(t *testing.T) {
	assert.Equal(t, []string{`6.6.4 it says part "2", level "B"`}, clauses(t, byOffice(t, 2)))
	assert.Contains(t, strings.Join(clauses(t, byOffice(t, 0)), "; "), "6.2.3")
}

// archived is a form with fields, made flat, that says that it is PDF/A-2u.
func archived(t *testing.T) (whole, flat, out []byte) {
	t.Helper()
	base := byOffice(t, 0)
	h, err := read.Check(t.Context(), base)
	require.NoError(t, err)
	details := form.Details{Title: "Winter storage", Language: "en-GB"}
	whole, err = write.Release(base, &form.Template{Pages: h.Pages, Details: details, Fields: []form.Field{
		{
			ID:    "a",
			Page:  1,
			Kind:  form.Text,
			Name:  "vessel",
			Rect:  geom.R(150, 316, 300, 332),
			Order: 1,
			Look:  form.Look{Border: "#000000"},
		},
		{ID: "b", Page: 1, Kind: form.CheckBox, Name: "ashore", Rect: geom.R(150, 286, 162, 298), Order: 2, Default: "Yes", Export: "Yes"},
		{
			ID:      "c",
			Page:    1,
			Kind:    form.Text,
			Name:    "quay",
			Rect:    geom.R(150, 256, 300, 272),
			Order:   3,
			Default: "Łabędź",
			Look:    form.Look{Font: "Go"},
		},
	}})
	require.NoError(t, err)
	flat, err = fill.Still(whole)
	require.NoError(t, err)
	out, err = write.AsArchive(flat, details)
	require.NoError(t, err)
	return whole, flat, out
}

// A flat form whose fonts are all in it says that it is PDF/A-2u, and is; readers of other makes find nothing wrong with it.
func TestAFlatFormIsPDFA(t *testing.T) {
	whole, flat, out := archived(t)
	require.Empty(t, clauses(t, out))
	require.NoError(t, proof.Profile(t.Context(), whole, out, form.Flat))
	file := stored(t, out)
	assert.Contains(t, told(t, "qpdf", "--check", file), "No syntax or stream encoding errors")
	assert.Contains(t, told(t, "pdfinfo", "-meta", file), "<pdfaid:part>2</pdfaid:part><pdfaid:conformance>U</pdfaid:conformance>")
	assert.Contains(t, told(t, "pdftotext", file, "-"), "Łabędź")
	for name, draw := range map[string]func(*testing.T, []byte) []byte{"poppler": seenByPoppler, "mutool": seenByMutool} {
		looksAsBefore(t, draw(t, flat), draw(t, out), name)
	}
	bad := bytes.Replace(out, []byte("/OutputIntents"), []byte("/OutputIntentX"), 1)
	require.ErrorContains(
		t,
		proof.Profile(t.Context(), whole, append(bytes.Clone(whole), bad[len(whole):]...), form.Flat),
		"says that it is PDF/A, and is not",
	)
}

// A font that is not in the file keeps it from being PDF/A, and it is said which.
func TestAFontThatIsNotThereKeepsAFormFromPDFA(t *testing.T) {
	src := plain("")
	out, err := write.AsArchive(src, form.Details{Title: "x"})
	require.NoError(t, err)
	assert.Contains(t, strings.Join(clauses(t, out), "; "), "6.2.11.4 Helvetica of page 1")
}

// Forms that nobody here made become flat, and look the same whether they say that they are PDF/A or not; those that are held to be so
// have, by another reader, all their fonts in them.
func TestFormsOfOtherProgramsForTheArchive(t *testing.T) {
	forms, err := readers.FormsOfOthers("../..")
	require.NoError(t, err)
	sample := readers.NewSample()
	t.Log("ZM_SEED=" + strconv.FormatUint(sample.Seed, 10))
	for _, name := range sample.Of(slices.Sorted(maps.Keys(forms)), 15) {
		t.Run(name, func(t *testing.T) {
			h, err := read.Check(t.Context(), forms[name])
			require.NoError(t, err)
			flat, err := fill.Still(releaseOf(t, h.Bytes, draftOf(t, h.Bytes)))
			require.NoError(t, err)
			out, err := write.AsArchive(flat, form.Details{Title: "A form"})
			require.NoError(t, err)
			assert.Contains(t, told(t, "qpdf", "--check", stored(t, out)), "No syntax or stream encoding errors")
			if broken := clauses(t, out); len(broken) > 0 {
				return
			}
			for _, font := range strings.Split(told(t, "pdffonts", stored(t, out)), "\n")[2:] {
				if cells := strings.Fields(font); len(cells) > 5 {
					assert.Equal(t, "yes", cells[len(cells)-5], "%s is in the file", font)
					assert.True(t, cells[len(cells)-3] == "yes" || strings.Contains(font, " WinAnsi "), "%s has its letters", font)
				}
			}
			looksAsBefore(t, seenByPoppler(t, flat), seenByPoppler(t, out))
		})
	}
}

// The colour profile is read by another program (mutool, which has its own engine for colours): the same colours come of it as of sRGB.
func TestTheColourProfileIsSRGB(t *testing.T) {
	_, _, out := archived(t)
	profile := told(t, "mutool", "show", "-b", stored(t, out), "trailer/Root/OutputIntents/1/DestOutputProfile")
	require.Len(t, profile, int(uint32(profile[0])<<24|uint32(profile[1])<<16|uint32(profile[2])<<8|uint32(profile[3])))
	page := func(space, extra string) []byte {
		var c strings.Builder
		c.WriteString(space)
		for i := range 8 {
			for k := range 8 {
				fmt.Fprintf(&c, "%.3f %.3f %.3f scn %d %d 50 50 re f\n", float64(i)/7, float64(k)/7, float64((i+k)%8)/7, 50*i, 50*k)
			}
		}
		return assembled(
			"<< /Type /Catalog /Pages 2 0 R >>", "<< /Type /Pages /Kids [4 0 R] /Count 1 /MediaBox [0 0 400 400] >>",
			fmt.Sprintf("<< /N 3 /Length %d >>\nstream\n%s\nendstream", len(profile), profile),
			"<< /Type /Page /Parent 2 0 R /Resources << "+extra+" >> /Contents 5 0 R >>",
			fmt.Sprintf("<< /Length %d >>\nstream\n%s\nendstream", c.Len(), c.String()),
		)
	}
	drawn := func(b []byte) string {
		return tool(t, b, "mutool", "draw", "-q", "-r", "18", "-F", "ppm", "-o", "-", "IN", "1")
	}
	ours, theirs := drawn(page("/CS0 cs\n", "/ColorSpace << /CS0 [/ICCBased 3 0 R] >>")), drawn(page("/DeviceRGB cs\n", ""))
	require.Len(t, ours, len(theirs))
	most := 0
	for i := range []byte(ours) {
		most = max(most, int(ours[i])-int(theirs[i]), int(theirs[i])-int(ours[i]))
	}
	assert.LessOrEqual(t, most, 2, "of 255")
	assert.NotEqual(t, ours[20:], strings.Repeat("\xff", len(ours)-20))
}

// Each requirement is seen to be broken by a fault for it: signs of the file are changed for others, or a page draws what it should not.
func TestEveryRequirementOfTheArchiveIsChecked(t *testing.T) {
	_, _, out := archived(t)
	open := filepath.Join(t.TempDir(), "open.pdf")
	told(t, "qpdf", "--qdf", "--object-streams=disable", stored(t, out), open)
	b, err := os.ReadFile(open)
	require.NoError(t, err)
	require.Empty(t, clauses(t, b), "what qpdf writes of it holds as well")
	in := func(from, to string) []byte {
		require.Len(t, to, len(from))
		require.Contains(t, string(b), from)
		return bytes.Replace(b, []byte(from), []byte(to), 1)
	}
	drawn := func(content, resources string) []byte {
		return assembled(
			"<< /Type /Catalog /Pages 2 0 R >>",
			"<< /Type /Pages /Kids [3 0 R] /Count 1 /MediaBox [0 0 400 400] >>",
			"<< /Type /Page /Parent 2 0 R /Contents 4 0 R /Resources << "+resources+" >> >>",
			fmt.Sprintf("<< /Length %d >>\nstream\n%s\nendstream", len(content), content),
			"<< /Subtype /Image /Width 1 /Height 1 /BitsPerComponent 8 /ColorSpace /DeviceGray /Interpolate true /Length 1 >>\n"+
				"stream\n@\nendstream",
			"<< /Type /XObject /Subtype /Form /BBox [0 0 1 1] /Ref << >> /Resources << >> /Length 1 >>\nstream\nn\nendstream",
		)
	}
	faults := map[string][][]byte{
		"6.1.2":  {in("%PDF-1.6", "%PDF-2.0"), in("\n%\xbf\xf7\xa2\xfe", "\n%abcd")},
		"6.1.3":  {in("/ID [", "/IX ["), append(bytes.Clone(b), "more"...)},
		"6.1.7":  {in("\nendstream", "\n\nndstream"), in("/N 3\n", "/F 3\n")},
		"6.1.9":  {in("\nendobj", " endobj")},
		"6.1.13": {in("/Lang (en-GB)", "/Lang <12345>"), in("/FirstChar 0\n", "/Firs   9e12\n")},
		"6.2.2":  {in("\nQ\n", "\nX\n"), drawn("/Im0 Do", ""), drawn("q BI /W 1 /H 1 ID @ EI Q", "")},
		"6.2.3":  {in("/OutputIntents", "/OutputIntentX"), in("GTS_PDFA1", "GTS_PDFX1"), in("mntrRGB ", "mntrGRAY"), in("acsp", "acsq")},
		"6.2.4": {
			drawn("0 0 0 1 k", ""),
			drawn("/DeviceCMYK cs", ""),
			drawn("/C cs", "/ColorSpace << /C [/Separation /Spot /DeviceCMYK 9 0 R] >>"),
		},
		"6.2.5": {
			drawn("/G gs", "/ExtGState << /G << /TR /Identity >> >>"),
			drawn("/Loud ri", ""),
			drawn("/G gs", "/ExtGState << /G << /BM /Sum >> >>"),
		},
		"6.2.8":    {drawn("/I Do", "/XObject << /I 5 0 R >>")},
		"6.2.9":    {drawn("/I Do", "/XObject << /I 6 0 R >>"), drawn("/I Do", "/XObject << /I 1 0 R >>")},
		"6.2.11.4": {in("/FontFile2 ", "/FontFileX "), in("/CIDToGIDMap", "/CIDToGIDMaq")},
		"6.2.11.5": {in("/FirstChar 0\n", "/FirstChar 1\n")},
		"6.2.11.7": {in("/ToUnicode", "/ToUnicodf"), in("endbfchar", "endbfchaq")},
		"6.2.11.8": {bytes.ReplaceAll(b, []byte("cmap"), []byte("cmaq"))},
		"6.3":      {in("/Subtype /Link", "/Subtype /Movi"), in("/F 4\n", "/F 2\n")},
		"6.4":      {in("/DisplayDocTitle true", "/Acr 1 >> /AcroForm 1")},
		"6.5":      {in("/S /URI", "/S /URX"), in("/Lang (en-GB)", "/AA   << >>  ")},
		"6.6.2":    {in("pdfaid:part>2</pdfaid:part", "pdfaid:parx>2</pdfaid:parx"), in("/Metadata ", "/Metadatx ")},
		"6.6.4":    {in("<pdfaid:part>2<", "<pdfaid:part>3<"), in("conformance>U", "conformance>A")},
		"6.8":      {in("/Lang (en-GB)", "/AF   [     ]")},
	}
	sound := strings.Join(clauses(t, drawn("0 0 1 1 re f", "")), "\n")
	for _, r := range proof.Archived {
		assert.NotEmpty(t, faults[r.Clause], "a fault for %s", r.Clause)
		for i, bad := range faults[r.Clause] {
			if bytes.Contains(bad, []byte("[0 0 400 400]")) {
				assert.NotContains(t, sound, r.Clause+" ")
			}
			assert.Contains(t, strings.Join(clauses(t, bad), "\n"), r.Clause+" ", "%s, fault %d", r.Clause, i)
		}
	}
}
