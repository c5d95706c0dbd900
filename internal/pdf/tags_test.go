package pdf_test

import (
	"bytes"
	"fmt"
	"image"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/pdf/engine"
	"zealousmargin.example/internal/pdf/proof"
	"zealousmargin.example/internal/pdf/read"
	"zealousmargin.example/internal/pdf/write"
)

// tagged is a form with tags.
func tagged(t *testing.T, src []byte) []byte {
	t.Helper()
	pages, err := engine.Printed(t.Context(), src)
	require.NoError(t, err)
	out, err := write.Tagged(src, pages, map[int]string{1: "a photograph of the quay"})
	require.NoError(t, err)
	assert.True(t, bytes.HasPrefix(out, src))
	assert.Contains(t, told(t, "qpdf", "--check", stored(t, out)), "No syntax or stream encoding errors")
	return out
}

// rules is a page with a heading of each of two sizes, a paragraph, a list, a table, a link and a line to write on, with a field on that.
func rulesPage(t *testing.T) []byte {
	t.Helper()
	c := `BT /F1 20 Tf 60 560 Td (Harbour rules) Tj ET
q 0.5 w 60 552 m 340 552 l S Q
BT /F1 11 Tf 60 530 Td (A first paragraph, long enough to be what most of) Tj 0 -13 Td (the page is set in, and that goes on.) Tj ET
BT /F1 14 Tf 60 490 Td (What to bring) Tj ET
BT /F1 11 Tf 60 470 Td (1. the papers of the vessel) Tj 0 -14 Td (2. the proof of) Tj ( insurance) Tj ET
0.8 w 60 420 m 260 420 l S 60 400 m 260 400 l S 60 380 m 260 380 l S 60 360 m 260 360 l S
60 360 m 60 420 l S 160 360 m 160 420 l S 260 360 m 260 420 l S
BT /F1 11 Tf 66 406 Td (Length) Tj 100 0 Td (Fee) Tj -100 -20 Td (6 m) Tj 100 0 Td (10.00) Tj -100 -20 Td (9 m) Tj 100 0 Td (20.00) Tj ET
BT /F1 11 Tf 60 320 Td (Name of vessel) Tj 90 0 Td (______________________) Tj ET
BT /F1 11 Tf 60 280 Td (our pages) Tj ET
q 60 0 0 40 300 220 cm /Im0 Do Q
`
	src := assembled(
		"<< /Type /Catalog /Pages 2 0 R >>", "<< /Type /Pages /Kids [4 0 R] /Count 1 /MediaBox [0 0 400 600] >>",
		"<< /Type /Font /Subtype /Type1 /BaseFont /Helvetica /Encoding /WinAnsiEncoding >>",
		"<< /Type /Page /Parent 2 0 R /Resources << /Font << /F1 3 0 R >> /XObject << /Im0 7 0 R >> >> /Contents 5 0 R /Annots [6 0 R] >>",
		fmt.Sprintf("<< /Length %d >>\nstream\n%sendstream", len(c), c),
		"<< /Type /Annot /Subtype /Link /Rect [60 276 120 292] /Border [0 0 0] /A << /S /URI /URI (https://gannet-quay.example) >> >>",
		"<< /Type /XObject /Subtype /Image /Width 1 /Height 1 /BitsPerComponent 8 /ColorSpace /DeviceGray /Length 1 >>\n"+
			"stream\n\x40\nendstream",
	)
	h, err := read.Check(t.Context(), src)
	require.NoError(t, err)
	details := form.Details{Title: "Harbour rules", Language: "en-GB"}
	out, err := write.Release(src, &form.Template{Pages: h.Pages, Details: details, Fields: []form.Field{
		{ID: "v", Page: 1, Kind: form.Text, Name: "vessel", Tooltip: "Name of vessel", Rect: geom.R(150, 316, 300, 332), Order: 1},
	}})
	require.NoError(t, err)
	return out
}

// A page without tags gets those that a person would give it: poppler, which knows nothing of us, reads them back. Nothing looks otherwise.
func TestAPageWithoutTagsGetsThem(t *testing.T) {
	src := rulesPage(t)
	out := tagged(t, src)
	said := regexp.MustCompile(`\s+`).ReplaceAllString(told(t, "pdfinfo", "-struct-text", stored(t, out)), " ")
	said = regexp.MustCompile(` \((block|inline)\)|Object \d+ 0 `).ReplaceAllString(said, "")
	cells := func(kind, scope string, words ...string) (s string) {
		for _, w := range words {
			s += kind + scope + fmt.Sprintf(` P "%s" `, w)
		}
		return "TR " + s
	}
	want := `Document H1 "Harbour rules" P "A first paragraph, long enough to be what most of" "the page is set in, and that goes on." ` +
		`H2 "What to bring" L LI LBody "1. the papers of the vessel" LI LBody "2. the proof of insurance" Table ` +
		cells("TH:", " /Scope /Column", "Length", "Fee") + cells("TD", "", "6 m", "10.00") + cells("TD", "", "9 m", "20.00") +
		`P "Name of vessel" Form P "our pages" Figure "" Link `
	assert.Equal(t, want, said)
	assert.Contains(t, told(t, "qpdf", "--json", "--json-key=qpdf", stored(t, out)), `"/Alt": "u:a photograph of the quay"`)
	require.NoError(t, proof.Profile(t.Context(), src, out, form.Accessible))
	for name, draw := range map[string]func(*testing.T, []byte) []byte{"poppler": seenByPoppler, "mutool": seenByMutool} {
		looksAsBefore(t, draw(t, src), draw(t, out), name)
	}
	_, err := write.Tagged(plain(""), nil, nil)
	require.ErrorContains(t, err, "in which language")
}

// The demo's form, with its two pages and a table, holds to all that is asked.
func TestTheBerthApplicationIsAccessible(t *testing.T) {
	base, _, draft := aForm(t)
	for i := range draft.Fields {
		draft.Fields[i].Tooltip = "Say " + draft.Fields[i].Name
	}
	src, err := write.Release(base, draft)
	require.NoError(t, err)
	out := tagged(t, src)
	require.NoError(t, proof.Profile(t.Context(), src, out, form.Accessible))
	said := regexp.MustCompile(`[ \n]+`).ReplaceAllString(told(t, "pdfinfo", "-struct-text", stored(t, out)), " ")
	assert.Contains(t, said, `H1 (block) "Gannet Quay Harbour Office"`)
	assert.Contains(t, said, "/Scope /Column")
	assert.NotContains(t, said, "____", "a line to write on is no text")
	assert.Equal(t, 4, strings.Count(said, " Form "))
}

// Each requirement is seen to be broken by a fault for it (ISO 14289-1, section 7): signs of the file are changed for as many others.
func TestEveryRequirementOfAccessibilityIsChecked(t *testing.T) {
	out := tagged(t, rulesPage(t))
	file := stored(t, out)
	open := filepath.Join(t.TempDir(), "open.pdf")
	told(t, "qpdf", "--qdf", "--object-streams=disable", "--newline-before-endstream", file, open)
	b, err := os.ReadFile(open)
	require.NoError(t, err)
	broken, err := proof.Accessible(b)
	require.NoError(t, err)
	require.Empty(t, broken)
	faults := map[string][2]string{
		"the file says that it is tagged":                      {"/Marked true", "/Marked 1234"},
		"everything on a page is tagged, or an artifact":       {"/Artifact BMC", "/Artifakt BMC"},
		"nothing tagged lies in an artifact":                   {"S\nEMC", "S\n%MC"},
		"what is numbered on a page belongs to an element":     {"/MCID 3>>", "/MCID 2>>"},
		"elements are of the standard types":                   {"/S /H2", "/S /Hx"},
		"readers show the title":                               {"/DisplayDocTitle true", "/DisplayDocTitle 1234"},
		"the file says in which language it is":                {"/Lang (en-GB)", "/Lang (     )"},
		"every figure has words for those who cannot see it":   {"/Alt (", "/Alx ("},
		"no level of headings is left out":                     {"/S /H1", "/S /H2"},
		"tables have rows of cells":                            {"/Scope /Column", "/Scopf /Column"},
		"lists have items":                                     {"/S /LI\n", "/S /TR\n"},
		"every field has words for those who cannot see it":    {"/TU (", "/TX ("},
		"the tab order is that of the structure":               {"/Tabs /S", "/Tabs /R"},
		"every field is tagged as one":                         {"/S /Form", "/S /Part"},
		"every link is tagged as one, and says where it leads": {"/S /Link", "/S /Part"},
	}
	require.Len(t, faults, len(proof.Requirements), "a fault for each")
	for _, r := range proof.Requirements {
		seen := false
		for says, x := range faults {
			if !strings.HasPrefix(r.Says, says) {
				continue
			}
			require.Equal(t, len(x[0]), len(x[1]))
			require.Contains(t, string(b), x[0], r.Says)
			bad := bytes.Replace(b, []byte(x[0]), []byte(x[1]), 1)
			broken, err := proof.Accessible(bad)
			require.NoError(t, err)
			for _, f := range broken {
				seen = seen || f.Says == r.Says
			}
			assert.True(t, seen, "%s %s: %v", r.Clause, r.Says, broken)
		}
		assert.True(t, seen, r.Says)
	}
}

// Columns are read one after the other, a table row by row: the words of the structure come in the order in which a person reads them.
func TestTheStructureIsInReadingOrder(t *testing.T) {
	for seed := range uint64(8) {
		b, columns := leaflet(t, seed)
		h, err := read.Check(t.Context(), b)
		require.NoError(t, err)
		src, err := write.Release(b, &form.Template{Pages: h.Pages, Details: form.Details{Title: "Leaflet", Language: "en"}})
		require.NoError(t, err)
		out := tagged(t, src)
		require.NoError(t, proof.Profile(t.Context(), src, out, form.Accessible))
		structure := told(t, "pdfinfo", "-struct-text", stored(t, out))
		said := regexp.MustCompile(`\b[ab][0-9]+\b`).FindAllString(structure, -1)
		assert.Equal(t, columns, said, "seed %d", seed)
	}
}

// Content that is not quite as it should be is tagged all the same: paths that are never painted, marks of others, an image in the stream,
// words of one line in several pieces, text that moves by its own leading.
func TestContentThatIsOddIsTagged(t *testing.T) {
	c := `60 500 m 100 500 l
BT /F1 12 Tf 14 TL 60 480 Td (One) Tj ( and two) Tj T* (three) ' ET
/Mine <</Note (a \) bracket)>> BDC q 1 0 0 1 0 -60 cm BT /F1 12 Tf 1 0 0 1 60 480 Tm [(fo) -20 (ur)] TJ ET Q EMC
/Artifact BMC BT /F1 9 Tf 60 20 Td (page 1) Tj ET EMC
q 10 0 0 10 300 300 cm BI /W 1 /H 1 /BPC 8 /CS /G ID ` + "\x40" + ` EI Q
60 300 m 100 300 l`
	src := assembled(
		"<< /Type /Catalog /Pages 2 0 R >>", "<< /Type /Pages /Kids [4 0 R] /Count 1 /MediaBox [0 0 400 600] >>",
		"<< /Type /Font /Subtype /Type1 /BaseFont /Helvetica /Encoding /WinAnsiEncoding >>",
		"<< /Type /Page /Parent 2 0 R /Resources << /Font << /F1 3 0 R >> >> /Contents 5 0 R >>",
		fmt.Sprintf("<< /Length %d >>\nstream\n%s\nendstream", len(c), c),
	)
	h, err := read.Check(t.Context(), src)
	require.NoError(t, err)
	form, err := write.Release(src, &form.Template{Pages: h.Pages, Details: form.Details{Title: "Odd", Language: "en"}})
	require.NoError(t, err)
	out := tagged(t, form)
	broken, err := proof.Accessible(out)
	require.NoError(t, err)
	assert.Empty(t, broken)
	said := told(t, "pdfinfo", "-struct-text", stored(t, out))
	for _, w := range []string{"One and two", "three", "four"} {
		assert.Contains(t, said, w)
	}
	assert.NotContains(t, said, "page 1", "what the file says is an artifact stays one")
}

// A scan is read out from the words that were recognised on it, and its picture is an artifact.
func TestAScanIsReadOutFromItsWords(t *testing.T) {
	img := image.NewGray(image.Rect(0, 0, 600, 800))
	for i := range img.Pix {
		img.Pix[i] = 255
	}
	pic, err := write.FromPictures([]write.Picture{{Image: img, DPI: 72, Orientation: 1}})
	require.NoError(t, err)
	words := evidence.Text{Place: geom.Matrix{1, 0, 0, 1, 0, 0}, Language: "eng"}
	for i, row := range []string{"Visiting craft declaration", "Hand this in at the quay", "within one tide of arrival"} {
		x := 60.0
		size := []float64{22, 11, 11}[i]
		y := []float64{740, 700, 686}[i]
		for _, w := range strings.Fields(row) {
			r := geom.R(x, y, x+float64(len(w))*size*0.5, y+size*0.72)
			words.Words = append(words.Words, evidence.Word{Text: w, Rect: r, Base: y, Size: size})
			x = r.X1 + size*0.3
		}
	}
	h, err := read.Check(t.Context(), pic)
	require.NoError(t, err)
	page := h.Pages[0]
	page.ID, page.N, page.File, page.Scan, page.Text = "a", 1, "picture", true, "words"
	tpl := &form.Template{Pages: []form.Page{page}, Details: form.Details{Title: "Declaration", Language: "en"}, Fields: []form.Field{
		{ID: "v", Page: 1, Kind: form.Text, Name: "vessel", Tooltip: "Name of vessel", Rect: geom.R(60, 600, 300, 620), Order: 1},
	}}
	base, draft, err := write.Base(tpl, write.Sources{
		File: func(string) ([]byte, error) { return pic, nil }, Text: func(string) (evidence.Text, error) { return words, nil },
	})
	require.NoError(t, err)
	src, err := write.Release(base, draft)
	require.NoError(t, err)
	out := tagged(t, src)
	require.NoError(t, proof.Profile(t.Context(), src, out, form.Accessible))
	said := regexp.MustCompile(`\s+`).ReplaceAllString(told(t, "pdfinfo", "-struct-text", stored(t, out)), " ")
	plain := strings.NewReplacer(`"`, "", " (block)", "", "Object ", "").Replace(said)
	assert.Regexp(t, `H1 *Visiting *craft *declaration *P *Hand *this *in *at *the *quay *within *one *tide *of *arrival *Form`, plain)
}
