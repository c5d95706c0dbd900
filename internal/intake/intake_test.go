package intake_test

import (
	"archive/zip"
	"bytes"
	"context"
	"encoding/binary"
	"fmt"
	"image"
	"image/color"
	"image/jpeg"
	"image/png"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/demo"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/intake"
	"zealousmargin.example/internal/pdf/engine"
	"zealousmargin.example/internal/pdf/object"
	"zealousmargin.example/internal/pdf/proof"
	"zealousmargin.example/internal/pdf/read"
	"zealousmargin.example/internal/pdf/write"
	"zealousmargin.example/internal/scan/simulate"
	"zealousmargin.example/internal/standin"
)

var ctx = context.Background()

func silent(string, int, int) {}

func bringIn(name string, b []byte) (intake.Result, error) {
	return intake.Read(ctx, intake.Source{Name: name, Bytes: b}, silent)
}

func mustRead(t *testing.T, name string, b []byte) intake.Result {
	t.Helper()
	r, err := bringIn(name, b)
	require.NoError(t, err, name)
	return r
}

// text is what poppler reads in a PDF.
func text(t *testing.T, b []byte) string {
	t.Helper()
	f := filepath.Join(t.TempDir(), "x.pdf")
	require.NoError(t, os.WriteFile(f, b, 0o600))
	out, err := exec.Command("pdftotext", "-layout", f, "-").Output()
	require.NoError(t, err)
	check, err := exec.Command("qpdf", "--check", f).CombinedOutput()
	require.NoError(t, err, string(check))
	return string(out)
}

func berth(t *testing.T) demo.Document {
	t.Helper()
	d, err := demo.Berth()
	require.NoError(t, err)
	return d
}

func TestTitlesComeFromFileNames(t *testing.T) {
	for name, want := range map[string]string{
		"berth-application.pdf": "Berth application", `C:\forms\Crew_list 2027.PDF`: "Crew list 2027", "/a/b/üben.pdf": "Üben",
		".pdf": "Document without a name", "": "Document without a name", "noext": "Noext",
	} {
		assert.Equal(t, want, intake.TitleOf(name), name)
	}
}

func TestReadingTellsHowFarItIs(t *testing.T) {
	d := berth(t)
	var steps []string
	r, err := intake.Read(ctx, intake.Source{Name: d.File, Bytes: d.Bytes}, func(what string, done, total int) {
		steps = append(steps, fmt.Sprintf("%s %d/%d", what, done, total))
	})
	require.NoError(t, err)
	assert.Equal(t, []string{"looking it over 0/1", "read 1/1", "reading page 1 of 2 0/2", "reading page 2 of 2 1/2"}, steps)
	assert.Len(t, r.Pages, 2)
	assert.Empty(t, r.Notice)
	assert.Equal(t, d.Bytes, r.PDF, "a sound file is worked on as it is")
	assert.Nil(t, r.Ready)
}

func TestWhatThePersonShouldKnowIsSaid(t *testing.T) {
	d := berth(t)
	r := mustRead(t, "torn.pdf", d.Bytes[:len(d.Bytes)-30])
	assert.Contains(t, r.Notice, "repaired")

	tpl := &form.Template{Pages: r.Pages, Fields: []form.Field{{
		ID: "a", Page: 1, Kind: form.Text, Name: "a",
		Rect: geom.R(50, 50, 150, 70),
	}}}
	withField, err := write.Build(d.Bytes, tpl)
	require.NoError(t, err)
	r = mustRead(t, "own.pdf", withField)
	assert.Contains(t, r.Notice, "It brought one field")
	require.Len(t, r.Fields, 1)
	assert.Equal(t, "a", r.Fields[0].Name)
}

// A form that is defined by XFA as well: the AcroForm part is used, the XFA part is
// said and left out (ISO 32000-2, 12.7.8).
func TestXFAIsRecognisedAndLeftOut(t *testing.T) {
	d := berth(t)
	tpl := &form.Template{Fields: []form.Field{{ID: "a", Page: 1, Kind: form.Text, Name: "a", Rect: geom.R(50, 50, 150, 70)}}}
	pages, err := engine.Pages(t.Context(), d.Bytes)
	require.NoError(t, err)
	tpl.Pages = pages
	b, err := write.Build(d.Bytes, tpl)
	require.NoError(t, err)
	b = bytes.Replace(b, []byte("/Fields["), []byte("/XFA(x)/Fields["), 1) // offsets shift: the reader repairs
	r := mustRead(t, "xfa.pdf", b)
	assert.Contains(t, r.Notice, "XFA")
	require.Len(t, r.Fields, 1)
	draft := &form.Template{Pages: r.Pages, Fields: r.Fields}
	base, as, err := write.Base(draft, write.Sources{File: func(string) ([]byte, error) { return r.PDF, nil }})
	require.NoError(t, err)
	out, err := write.Release(base, as)
	require.NoError(t, err)
	a, err := read.Arrive(out)
	require.NoError(t, err)
	assert.False(t, a.XFA)
	assert.Len(t, a.Fields, 1)
}

func TestRefusalsSayWhatToDo(t *testing.T) {
	for want, f := range map[string]intake.Source{
		"empty":                 {Name: "x.pdf"},
		"not a PDF":             {Name: "x.pdf", Bytes: []byte("GIF89a")},
		"damaged beyond repair": {Name: "x.pdf", Bytes: []byte("%PDF-1.7\nand then nothing of use")},
		"the limit is 64 MB":    {Name: "x.pdf", Bytes: make([]byte, intake.MaxBytes+1)},
		"cannot be brought in":  {Name: "x.bin", Bytes: []byte{0, 1, 2, 3, 4, 0}},
		"picture cannot be":     {Name: "x.png", Bytes: []byte("\x89PNG\r\n\x1a\n and no more")},
		"word-processor file": {Name: "x.docx", Bytes: zipped(t,
			map[string]string{"word/document.xml": "<no", "[Content_Types].xml": "<no"})},
		"folder": {Name: "x.zip", Bytes: zipped(t, map[string]string{"a.txt": "a"})},
	} {
		_, err := intake.Read(ctx, f, silent)
		require.Error(t, err, want)
		assert.Contains(t, err.Error(), want)
		assert.Contains(t, err.Error(), ":", "the reason, and after a colon what to do")
	}
}

func zipped(t *testing.T, files map[string]string) []byte {
	t.Helper()
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for name, content := range files {
		w, err := z.Create(name)
		require.NoError(t, err)
		_, err = w.Write([]byte(content))
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	return b.Bytes()
}

func TestALockedFileOpensWithItsPassword(t *testing.T) {
	dir := t.TempDir()
	plain, locked := filepath.Join(dir, "a.pdf"), filepath.Join(dir, "b.pdf")
	require.NoError(t, os.WriteFile(plain, berth(t).Bytes, 0o600))
	out, err := exec.Command("qpdf", "--encrypt", "tide", "gale", "256", "--", plain, locked).CombinedOutput()
	require.NoError(t, err, string(out))
	b, err := os.ReadFile(locked)
	require.NoError(t, err)
	_, err = bringIn("b.pdf", b)
	require.ErrorIs(t, err, object.ErrEncrypted)
	_, err = intake.Read(ctx, intake.Source{Name: "b.pdf", Bytes: b, Password: "ebb"}, silent)
	require.ErrorIs(t, err, object.ErrPassword)
	r, err := intake.Read(ctx, intake.Source{Name: "b.pdf", Bytes: b, Password: "tide"}, silent)
	require.NoError(t, err)
	assert.Contains(t, r.Notice, "was locked")
	assert.Contains(t, text(t, r.PDF), "Gannet Quay Harbour Office")
}

// marked is a picture 300 by 200 pixels, red in its upper left corner.
func marked() *image.RGBA {
	p := image.NewRGBA(image.Rect(0, 0, 300, 200))
	for i := range p.Pix {
		p.Pix[i] = 255
	}
	for y := range 60 {
		for x := range 60 {
			p.SetRGBA(x, y, color.RGBA{200, 0, 0, 255})
		}
	}
	return p
}

// corner tells in which corner of a drawn page the red is.
func corner(t *testing.T, b []byte, n int) string {
	t.Helper()
	img, err := engine.DrawPage(t.Context(), b, n, 1)
	require.NoError(t, err)
	w, h := img.Bounds().Dx(), img.Bounds().Dy()
	for name, at := range map[string]image.Point{
		"upper left": {8, 8}, "upper right": {w - 9, 8}, "lower left": {8, h - 9},
		"lower right": {w - 9, h - 9},
	} {
		if c := img.RGBAAt(at.X, at.Y); c.R > 150 && c.G < 90 {
			return name
		}
	}
	return "nowhere"
}

// withExif puts an Exif segment with an orientation after the start of a JPEG (JEITA
// CP-3451, 4.6.4; the eight cases are the table there).
func withExif(b []byte, orientation uint16) []byte {
	tiff := []byte("II*\x00\x08\x00\x00\x00\x01\x00")
	tiff = binary.LittleEndian.AppendUint16(tiff, 0x0112)
	tiff = binary.LittleEndian.AppendUint16(tiff, 3)
	tiff = binary.LittleEndian.AppendUint32(tiff, 1)
	tiff = binary.LittleEndian.AppendUint16(tiff, orientation)
	tiff = append(tiff, 0, 0, 0, 0, 0, 0)
	seg := append([]byte("Exif\x00\x00"), tiff...)
	out := []byte{0xff, 0xd8, 0xff, 0xe1}
	out = binary.BigEndian.AppendUint16(out, uint16(len(seg)+2))
	return append(append(out, seg...), b[2:]...)
}

func TestPicturesBecomePagesTheRightWayUp(t *testing.T) {
	var b bytes.Buffer
	require.NoError(t, jpeg.Encode(&b, marked(), &jpeg.Options{Quality: 95}))
	for o, want := range map[uint16]struct {
		corner string
		lying  bool
	}{
		1: {"upper left", true}, 2: {"upper right", true}, 3: {"lower right", true}, 4: {"lower left", true},
		5: {"upper left", false}, 6: {"upper right", false}, 7: {"lower right", false}, 8: {"lower left", false},
	} {
		r, err := intake.Pages(ctx, intake.Source{Name: "photo.jpg", Bytes: withExif(b.Bytes(), o)})
		require.NoError(t, err)
		assert.Equal(t, want.corner, corner(t, r.PDF, 1), "orientation %d", o)
		assert.Equal(t, want.lying, r.Pages[0].Width > r.Pages[0].Height, "orientation %d", o)
		text(t, r.PDF)
	}
	// A PNG says its resolution: the page is pixels x 72 / dpi.
	p, err := standin.PNG(marked(), 150)
	require.NoError(t, err)
	r, err := intake.Pages(ctx, intake.Source{Name: "a.png", Bytes: p})
	require.NoError(t, err)
	assert.InDelta(t, 144, r.Pages[0].Width, 0.1)
	assert.Equal(t, "upper left", corner(t, r.PDF, 1))
}

// tiffOf writes an uncompressed TIFF with one page a picture (TIFF 6.0, section 3).
func tiffOf(pages ...*image.Gray) []byte {
	b := []byte("II*\x00\x00\x00\x00\x00")
	link := 4
	for _, p := range pages {
		strip := len(b)
		b = append(b, p.Pix...)
		binary.LittleEndian.PutUint32(b[link:], uint32(len(b)))
		tags := [][3]uint32{
			{256, 4, uint32(p.Rect.Dx())},
			{257, 4, uint32(p.Rect.Dy())},
			{258, 3, 8},
			{259, 3, 1},
			{262, 3, 1},
			{273, 4, uint32(strip)},
			{277, 3, 1},
			{278, 4, uint32(p.Rect.Dy())},
			{279, 4, uint32(len(p.Pix))},
		}
		b = binary.LittleEndian.AppendUint16(b, uint16(len(tags)))
		for _, tag := range tags {
			b = binary.LittleEndian.AppendUint16(b, uint16(tag[0]))
			b = binary.LittleEndian.AppendUint16(b, uint16(tag[1]))
			b = binary.LittleEndian.AppendUint32(b, 1)
			b = binary.LittleEndian.AppendUint32(b, tag[2])
		}
		link = len(b)
		b = append(b, 0, 0, 0, 0)
	}
	return b
}

func TestEveryPageOfATIFFAndAWebPOpen(t *testing.T) {
	gray := func(v uint8) *image.Gray {
		g := image.NewGray(image.Rect(0, 0, 170, 220))
		for i := range g.Pix {
			g.Pix[i] = v
		}
		return g
	}
	r, err := intake.Pages(ctx, intake.Source{Name: "fax.tif", Bytes: tiffOf(gray(250), gray(128), gray(10))})
	require.NoError(t, err)
	require.Len(t, r.Pages, 3)
	for n, want := range []uint8{250, 128, 10} {
		img, err := engine.DrawPage(t.Context(), r.PDF, n+1, 0.3)
		require.NoError(t, err)
		assert.InDelta(t, want, img.RGBAAt(5, 5).R, 3)
	}
	// A WebP that nobody here made: a test picture of golang.org/x/image.
	dir, err := exec.Command("go", "list", "-m", "-f", "{{.Dir}}", "golang.org/x/image").Output()
	require.NoError(t, err)
	b, err := os.ReadFile(filepath.Join(strings.TrimSpace(string(dir)), "testdata", "blue-purple-pink.lossless.webp"))
	require.NoError(t, err)
	r, err = intake.Pages(ctx, intake.Source{Name: "a.webp", Bytes: b})
	require.NoError(t, err)
	assert.Len(t, r.Pages, 1)
	text(t, r.PDF)
}

func TestTextAndMarkdownAreSetAsPages(t *testing.T) {
	r := mustRead(t, "berths.txt", []byte("Name of vessel: ______________\nŁódź, Ærø and Ωmega\tafter a tab\n\fSecond page\n[ "+
		"] shore power\n"))
	require.Len(t, r.Pages, 2)
	seen := text(t, r.PDF)
	for _, want := range []string{"Name of vessel: ______________", "Łódź, Ærø and Ωmega", "[ ] shore power"} {
		assert.Contains(t, seen, want)
	}
	// Windows-1252, as older editors write it.
	assert.Contains(t, text(t, mustRead(t, "alt.txt", []byte("Liegeplatz f\xfcr G\xe4ste")).PDF), "Liegeplatz für Gäste")

	r = mustRead(t, "rules.md", []byte("# Rules of the quay\n\nLines are *doubled* when the **gale cone** is up.\n\n1. Land "+
		"batteries\n2. Close tanks\n\n- one\n- two\n\n| Length | Charge |\n|---|---|\n| up to 6 m | 11.00 |\n\n> Keep "+
		"clear.\n\n---\n\n`code`\n"))
	seen = text(t, r.PDF)
	for _, want := range []string{
		"Rules of the quay", "doubled", "gale cone", "1.", "Land batteries", "up to 6 m", "11.00",
		"Keep clear.",
	} {
		assert.Contains(t, seen, want)
	}
	long := strings.Repeat("A line of text that goes on and on over the edge of the page, and further still than that.\n", 200)
	assert.Greater(t, len(mustRead(t, "long.txt", []byte(long)).Pages), 3)
}

// converted has LibreOffice write a document in another of its formats.
func converted(t *testing.T, name string, b []byte, to string) []byte {
	t.Helper()
	dir := t.TempDir()
	in := filepath.Join(dir, name)
	require.NoError(t, os.WriteFile(in, b, 0o600))
	out, err := exec.Command("soffice", "--headless", "-env:UserInstallation=file://"+dir+"/profile", "--convert-to", to, "--outdir",
		dir+"/out", in).CombinedOutput()
	require.NoError(t, err, string(out))
	made, err := os.ReadFile(filepath.Join(dir, "out", strings.TrimSuffix(name, filepath.Ext(name))+"."+to))
	require.NoError(t, err, string(out))
	return made
}

func byName(fields []form.Field) map[string]form.Field {
	out := map[string]form.Field{}
	for _, f := range fields {
		out[f.Name] = f
	}
	return out
}

// Content controls as our DOCX has them, and as LibreOffice writes them itself.
func TestContentControlsArriveAsFields(t *testing.T) {
	d, err := demo.Storage()
	require.NoError(t, err)
	r := mustRead(t, d.File, d.Bytes)
	f := byName(r.Fields)
	require.Len(t, f, 8)
	assert.Equal(t, form.Text, f["owner_name"].Kind)
	assert.Equal(t, "Owner: telephone", f["owner_telephone"].Tooltip)
	assert.Equal(t, form.Choice, f["shed_place"].Kind)
	assert.Equal(t, []form.Option{
		{Label: "North wall", Export: "N"},
		{Label: "South wall", Export: "S"},
		{Label: "Middle row", Export: "M"},
	}, f["shed_place"].Options)
	assert.Equal(t, "N", f["shed_place"].Default)
	assert.Equal(t, form.Format{Kind: form.Date, Pattern: "dd.mm.yyyy"}, f["stored_from"].Format)
	assert.Equal(t, form.CheckBox, f["mast_out"].Kind)
	seen := text(t, r.PDF)
	assert.Contains(t, seen, "Name of owner:")
	assert.NotContains(t, seen, "Click and type", "what a control asks for is not printed under its field")

	// LibreOffice's own files, from a flat document with content controls.
	flat := `<?xml version="1.0" encoding="UTF-8"?>
<office:document xmlns:office="urn:oasis:names:tc:opendocument:xmlns:office:1.0" xmlns:text="urn:oasis:names:tc:opendocument:xmlns:text:1.0" xmlns:loext="urn:org:documentfoundation:names:experimental:office:xmlns:loext:1.0" office:version="1.3" office:mimetype="application/vnd.oasis.opendocument.text">
<office:body><office:text>
<text:p>Owner: <loext:content-control loext:showing-place-holder="true">Name of the owner</loext:content-control></text:p>
<text:p>Berth: <loext:content-control loext:dropdown="true"><loext:list-item loext:display-text="North" loext:value="N"/><loext:list-item loext:display-text="South" loext:value="S"/>North</loext:content-control></text:p>
<text:p>Insured: <loext:content-control loext:checkbox="true" loext:checked="true" loext:checked-state="☒" loext:unchecked-state="☐">☒</loext:content-control> yes</text:p>
</office:text></office:body></office:document>`
	for _, kind := range []string{"docx", "odt"} {
		r := mustRead(t, "agreement."+kind, converted(t, "agreement.fodt", []byte(flat), kind))
		require.Len(t, r.Fields, 3, kind)
		assert.Equal(t, form.Text, r.Fields[0].Kind, kind)
		assert.Equal(t, "Name of the owner", r.Fields[0].Tooltip, kind)
		assert.Len(t, r.Fields[1].Options, 2, kind)
		assert.Equal(t, "N", r.Fields[1].Default, kind)
		assert.Equal(t, form.CheckBox, r.Fields[2].Kind, kind)
		assert.Equal(t, "Yes", r.Fields[2].Default, "%s: it was ticked", kind)
		assert.Equal(t, "insured", r.Fields[2].Name, "%s: a control without a name is called by its label", kind)
	}
}

// Old-style form fields (ISO/IEC 29500-1, 17.16.5): of RTF, and of the DOC and the DOCX
// that LibreOffice makes of it.
func TestOldFormFieldsArriveAsFields(t *testing.T) {
	rtf := `{\rtf1\ansi\deff0{\fonttbl{\f0 Liberation Serif;}}\f0\fs24
Vessel: {\field{\*\fldinst { FORMTEXT {\*\formfield{\fftype0\fftypetxt0{\*\ffname vessel}{\*\ffdeftext Tern}\ffmaxlen30}}}}{\fldrslt Tern}}\par
Wash: {\field{\*\fldinst { FORMCHECKBOX {\*\formfield{\fftype1\ffres1{\*\ffname wash}}}}}{\fldrslt }}\par
Quay: {\field{\*\fldinst { FORMDROPDOWN {\*\formfield{\fftype2\ffres1\ffhaslistbox1{\*\ffname quay}{\*\ffl Long quay}{\*\ffl Short quay}}}}}{\fldrslt }}\par
}`
	for _, kind := range []string{"rtf", "doc", "docx"} {
		b := []byte(rtf)
		if kind != "rtf" {
			b = converted(t, "old.rtf", b, kind)
		}
		r := mustRead(t, "old."+kind, b)
		f := byName(r.Fields)
		require.Len(t, f, 3, "%s: %v", kind, r.Fields)
		assert.Equal(t, "Tern", f["vessel"].Default, kind)
		assert.Equal(t, form.CheckBox, f["wash"].Kind, kind)
		assert.Len(t, f["quay"].Options, 2, kind)
	}
}

// A scan: recognised as one, measured, straightened, cleaned; the words of the page
// are where they stand on the paper.
func TestAScanIsMadeReadyAndRecognised(t *testing.T) {
	d, err := demo.Declaration()
	require.NoError(t, err)
	r := mustRead(t, d.File, d.Bytes)
	require.Equal(t, 1, r.Scans)
	require.Len(t, r.Ready, 1)
	p := r.Ready[0]
	assert.Contains(t, p.Notes, "straightened 1.4°")
	assert.Contains(t, p.Notes, "specks removed")
	assert.Equal(t, r.Pages[0].ID, p.ID)
	file := r.Files[p.File]
	skew, err := intake.MeasureSkew(ctx, file, p)
	require.NoError(t, err)
	assert.InDelta(t, 0, skew, 0.11)

	words, err := intake.Recognise(ctx, file, p, 200, "eng")
	require.NoError(t, err)
	seen := map[string]geom.Rect{}
	all := ""
	for _, w := range words.Words {
		seen[w.Text] = w.Rect
		all += w.Text + " "
	}
	for _, want := range []string{"vessel", "Flag", "Skipper", "arrival", "Persons", "declare?", "Signature", "Draught"} {
		assert.Contains(t, all, want)
	}
	assert.InDelta(t, 56, seen["Flag"].X0, 6, "where it stands on the sheet")
	assert.InDelta(t, 842-156, seen["Flag"].Y0, 6)
}

func TestTurnedScansAndPhotographsAreSetUpright(t *testing.T) {
	d, err := demo.Charges()
	require.NoError(t, err)
	page, err := engine.DrawPage(ctx, d.Bytes, 1, 150.0/72)
	require.NoError(t, err)
	for q := 1; q <= 3; q++ {
		b, err := standin.PNG(simulate.Scan(page, 150, simulate.Faults{Quarters: q, Skew: 0.7, Seed: uint64(q)}), 150)
		require.NoError(t, err)
		r := mustRead(t, "turned.png", b)
		require.Len(t, r.Ready, 1)
		p := r.Ready[0]
		w, h := p.ViewSize()
		assert.Less(t, w, h, "it stands upright again: %s", p.Notes)
		assert.Contains(t, p.Notes, fmt.Sprintf("turned by %d°", 90*(4-q)))
	}
	photo, _ := simulate.Photograph(page, 0.1, 4, 9)
	var b bytes.Buffer
	require.NoError(t, jpeg.Encode(&b, photo, &jpeg.Options{Quality: 90}))
	r := mustRead(t, "photo.jpg", b.Bytes())
	require.Len(t, r.Ready, 1)
	assert.Contains(t, r.Ready[0].Notes, "flattened")
	assert.InDelta(t, 297.0/210, r.Ready[0].Height/r.Ready[0].Width, 0.01)
}

func TestReadingEndsWithinASecondOfBeingCancelled(t *testing.T) {
	d, err := demo.Storage()
	require.NoError(t, err)
	for _, c := range []intake.Source{{Name: d.File, Bytes: d.Bytes}} {
		inner, cancel := context.WithCancel(ctx)
		done := make(chan error, 1)
		go func() {
			_, err := intake.Read(inner, c, silent)
			done <- err
		}()
		time.Sleep(300 * time.Millisecond)
		cancel()
		select {
		case err := <-done:
			assert.ErrorIs(t, err, context.Canceled)
		case <-time.After(time.Second):
			t.Error("still running a second later")
		}
	}
}

func TestAFolderIsUnpacked(t *testing.T) {
	files, skipped, err := intake.Folder(zipped(t,
		map[string]string{"a/one.txt": "one", "two.md": "# two", "__MACOSX/._one.txt": "x", "song.mp3": "ID3\x00\x00", ".hidden": "x"}))
	require.NoError(t, err)
	assert.Len(t, files, 2)
	assert.Equal(t, []string{"song.mp3 (not a document)"}, skipped)
	_, _, err = intake.Folder(zipped(t, map[string]string{"song.mp3": "ID3\x00\x00"}))
	assert.ErrorContains(t, err, "no document")
}

// What other programs made is brought in or refused with a reason; none hangs or
// crashes. The samples are those of the Go module pdfcpu.
func TestForeignFilesAreBroughtInAndWrittenSoundly(t *testing.T) {
	dir, err := exec.Command("go", "list", "-m", "-f", "{{.Dir}}", "github.com/pdfcpu/pdfcpu").Output()
	require.NoError(t, err)
	root := filepath.Join(strings.TrimSpace(string(dir)), "pkg", "testdata")
	for _, name := range []string{
		"Hybrid-PDF.pdf", "empty.pdf", "annotTest.pdf", "T6.pdf", "Walden.pdf", "bookletTestA6.pdf", "testRot.pdf", "testImage.pdf",
		"zineTest.pdf",
		"Acroforms2.pdf", "xdp_2.0.pdf", "pdf20/i277.pdf", "pdf20/withOffsetStart.pdf", "pdf20/viaIncrementalSave.pdf",
		"pdf20/pageLevelOutputIntent.pdf", "pdf20/utf8test.pdf",
	} {
		b, err := os.ReadFile(filepath.Join(root, name))
		require.NoError(t, err)
		r, err := bringIn(name, b)
		require.NoError(t, err, name)
		tpl := &form.Template{Pages: r.Pages, Fields: r.Fields}
		e, err := tpl.Place(form.Field{Page: 1, Kind: form.Text, Name: "zm_added", Rect: geom.R(10, 10, 60, 30)})
		require.NoError(t, err)
		require.NoError(t, tpl.Apply(e))
		for pass := range 2 { // as it came, and with its first page last
			if pass == 1 {
				e, err := tpl.MovePages([]string{tpl.Pages[0].ID}, len(tpl.Pages)+1)
				if err != nil {
					continue // one page
				}
				require.NoError(t, tpl.Apply(e))
			}
			base, as, err := write.Base(tpl, write.Sources{File: func(string) ([]byte, error) { return r.PDF, nil }})
			require.NoError(t, err, name)
			out, err := write.Release(base, as)
			require.NoError(t, err, name)
			assert.NoError(t, proof.ProveRelease(t.Context(), base, out, as), name)
		}
	}
}

func FuzzBringIn(f *testing.F) {
	d, err := demo.Berth()
	require.NoError(f, err)
	f.Add("a.pdf", d.Bytes[:2000])
	f.Add("a.pdf", []byte("%PDF-1.7\n1 0 obj<</Type/Catalog/Pages 2 0 R>>endobj 2 0 obj<</Type/Pages/Kids[3 0 R]/Count 1>>endobj 3 "+
		"0 obj<</Type/Page/MediaBox[0 0 9 9]/Parent 2 0 R>>endobj trailer<</Root 1 0 R>>"))
	var p bytes.Buffer
	require.NoError(f, png.Encode(&p, image.NewGray(image.Rect(0, 0, 8, 8))))
	f.Add("a.png", p.Bytes())
	f.Add("a.tif", tiffOf(image.NewGray(image.Rect(0, 0, 4, 4))))
	f.Add("a.txt", []byte("Name: ____"))
	f.Add("a.md", []byte("# a\n\n|a|b|\n|-|-|\n|1|2|"))
	f.Add("a.jpg", withExif([]byte("\xff\xd8\xff\xd9"), 6))
	f.Fuzz(func(t *testing.T, name string, b []byte) {
		if len(b) > 1<<16 {
			return
		}
		inner, cancel := context.WithTimeout(ctx, 20*time.Second)
		defer cancel()
		r, err := intake.Pages(inner, intake.Source{Name: name, Bytes: b})
		if err == nil && len(r.Pages) == 0 {
			t.Error("brought in without a page and without a reason")
		}
	})
}
