package pdf_test

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"image"
	"image/color"
	"image/draw"
	"image/jpeg"
	"image/png"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/pdf/fill"
	"zealousmargin.example/internal/pdf/proof"
	"zealousmargin.example/internal/pdf/read"
	"zealousmargin.example/internal/pdf/write"
)

var sea = color.RGBA{0x20, 0x70, 0xa0, 0xff}

// pennant is a picture of 40 by 20 pixels: the left half is see-through when hollow.
func pennant(hollow bool) image.Image {
	img := image.NewNRGBA(image.Rect(0, 0, 40, 20))
	draw.Draw(img, img.Bounds(), image.NewUniform(sea), image.Point{}, draw.Src)
	if hollow {
		draw.Draw(img, image.Rect(0, 0, 20, 20), image.Transparent, image.Point{}, draw.Src)
	}
	return img
}

func pngOf(t *testing.T, img image.Image) []byte {
	var b bytes.Buffer
	require.NoError(t, png.Encode(&b, img))
	return b.Bytes()
}

func addressOf(b []byte) string {
	sum := sha256.Sum256(b)
	return hex.EncodeToString(sum[:])
}

// pictured is a draft of one button for every layout, 90 by 50 points, in a column.
func pictured(picture []byte) *form.Template {
	t := &form.Template{
		Pages:    []form.Page{{ID: "p", N: 1, Width: 400, Height: 600}},
		Pictures: map[string][]byte{addressOf(picture): picture},
	}
	for i, l := range form.Layouts {
		y := 540 - 70*float64(i)
		t.Fields = append(t.Fields, form.Field{
			ID: form.NewID(), Page: 1, Order: float64(i + 1), Kind: form.Button, Name: "b" + string(rune('a'+i)), Tooltip: "Go",
			Caption: "Ahoy",
			Rect:    geom.R(100, y, 190, y+50), Action: form.Action{Do: form.ClearForm}, Show: form.ShowScreen,
			Face: form.Face{Picture: addressOf(picture), Layout: l, Pressed: form.PressedLooks[i%4]},
		})
	}
	t.Fields[0].Face.PressedCaption = "Aye"
	return t
}

// Where the picture of each layout lies, from the lower left of the button: ISO 32000-2,
// table 192, /TP says on which side the caption is.
var pictureAt = map[form.Layout]geom.Point{
	form.PictureOnly: {X: 45, Y: 25}, form.CaptionBelow: {X: 45, Y: 38}, form.CaptionAbove: {X: 45, Y: 12},
	form.CaptionRight: {X: 20, Y: 25}, form.CaptionLeft: {X: 70, Y: 25},
}

func TestAButtonShowsItsPictureWhereItsLayoutSays(t *testing.T) {
	draft := pictured(pngOf(t, pennant(false)))
	out, err := write.Build(plain(""), draft)
	require.NoError(t, err)
	sound(t, out)
	require.NoError(t, proof.Prove(t.Context(), plain(""), out, draft))
	at := shownByPoppler(t, out)
	for _, f := range draft.Fields {
		p, ok := pictureAt[f.Face.Layout]
		if !ok {
			continue
		}
		c := at(f.Rect.X0+p.X, f.Rect.Y0+p.Y)
		assert.InDelta(t, sea.R, c.R, 3, f.Face.Layout)
		assert.InDelta(t, sea.B, c.B, 3, f.Face.Layout)
	}
	captions := strings.Count(tool(t, out, "pdftotext", "IN", "-"), "Ahoy")
	assert.Equal(t, len(form.Layouts)-1, captions, "all but the picture alone show the caption")
	assert.Contains(t, tool(t, out, "qpdf", "--qdf", "--object-streams=disable", "IN", "-"), "/AC (Aye)")

	a, err := read.Arrive(out)
	require.NoError(t, err)
	require.Len(t, a.Fields, len(draft.Fields))
	for i, got := range a.Fields {
		want := draft.Fields[i].Face
		want.Picture = "" // it stays in the file
		assert.Equal(t, want, got.Face)
		assert.Contains(t, got.Origin.Keeps, "its picture")
	}
}

func TestWhatShinesThroughAPictureDoesSoOnTheForm(t *testing.T) {
	draft := pictured(pngOf(t, pennant(true)))
	draft.Fields = draft.Fields[1:2]
	draft.Fields[0].Look.Fill = "#ffee00"
	out, err := write.Build(plain(""), draft)
	require.NoError(t, err)
	at := shownByPoppler(t, out)
	r := draft.Fields[0].Rect
	assert.Equal(t, color.RGBA{0xff, 0xee, 0, 0xff}, at(r.X0+25, r.Y0+25), "the ground of the button")
	assert.InDelta(t, sea.B, at(r.X0+65, r.Y0+25).B, 3)
}

func TestAJPEGIsWrittenAsItIs(t *testing.T) {
	var b bytes.Buffer
	require.NoError(t, jpeg.Encode(&b, pennant(false), nil))
	draft := pictured(b.Bytes())
	draft.Fields = draft.Fields[1:2]
	out, err := write.Build(plain(""), draft)
	require.NoError(t, err)
	sound(t, out)
	assert.Contains(t, string(out), b.String(), "no second loss")
	r := draft.Fields[0].Rect
	assert.InDelta(t, sea.B, shownByPoppler(t, out)(r.X0+45, r.Y0+25).B, 6)
}

func TestAPictureThatCameWithAFileStaysWhenItsButtonIsMended(t *testing.T) {
	src, err := write.Build(plain(""), pictured(pngOf(t, pennant(false))))
	require.NoError(t, err)
	draft := draftOf(t, src)
	for i := range draft.Fields {
		draft.Fields[i].Caption = "Land"
	}
	out := releaseOf(t, src, draft)
	sound(t, out)
	assert.NotContains(t, tool(t, out, "pdftotext", "IN", "-"), "Ahoy")
	at := shownByPoppler(t, out)
	for _, f := range draft.Fields {
		if p, ok := pictureAt[f.Face.Layout]; ok {
			assert.InDelta(t, sea.B, at(f.Rect.X0+p.X, f.Rect.Y0+p.Y).B, 3, f.Face.Layout)
		}
	}
}

func TestAPictureFieldAsksForAPicture(t *testing.T) {
	draft := &form.Template{Pages: []form.Page{{ID: "p", N: 1, Width: 400, Height: 600}}, Fields: []form.Field{{
		ID: "a", Page: 1, Kind: form.Button, Name: "photo", Tooltip: "Photograph", Caption: "Press for a picture",
		Rect:   geom.R(100, 400, 220, 500),
		Action: form.Action{Do: form.TakePicture}, Face: form.Face{Layout: form.PictureOnly},
	}}}
	out, err := write.Build(plain(""), draft)
	require.NoError(t, err)
	sound(t, out)
	require.NoError(t, proof.Prove(t.Context(), plain(""), out, draft))
	ws, err := read.Widgets(out)
	require.NoError(t, err)
	assert.Equal(t, []string{"JavaScript event.target.buttonImportIcon();"}, ws[0].Presses, "ISO 21757-1, Field.buttonImportIcon")
	a, err := read.Arrive(out)
	require.NoError(t, err)
	assert.Equal(t, form.TakePicture, a.Fields[0].Action.Do)
	assert.Contains(t, tool(t, out, "pdftotext", "IN", "-"), "Press for a picture")
}

func TestWhatIsNoPictureIsRefused(t *testing.T) {
	require.NoError(t, write.CheckPicture(pngOf(t, pennant(true))))
	assert.ErrorContains(t, write.CheckPicture([]byte("gannet")), "choose a PNG")
	assert.ErrorContains(t, write.CheckPicture(pngOf(t, image.NewGray(image.Rect(0, 0, 4000, 1500)))), "make it smaller")
	draft := pictured([]byte("gannet"))
	_, err := write.Build(plain(""), draft)
	require.ErrorContains(t, err, "choose a PNG")
	draft.Pictures = nil
	_, err = write.Build(plain(""), draft)
	assert.ErrorContains(t, err, "choose it again")
}

// Harbour, road and a Polish town, in three alphabets.
const abroad = "Λιμάνι Рейд Łódź"

func TestAnEmbeddedFontShowsThreeAlphabets(t *testing.T) {
	draft := &form.Template{Pages: []form.Page{{ID: "p", N: 1, Width: 400, Height: 600}}}
	for i, f := range form.EmbeddedFonts {
		y := 300 - 40*float64(i)
		draft.Fields = append(draft.Fields, form.Field{
			ID: form.NewID(), Page: 1, Order: float64(i), Kind: form.Text, Name: "t" + f,
			Tooltip: f, Default: abroad, Rect: geom.R(50, y, 350, y+20), Look: form.Look{Font: f, Size: 11},
		})
	}
	out, err := write.Build(plain(""), draft)
	require.NoError(t, err)
	sound(t, out)
	require.NoError(t, proof.Prove(t.Context(), plain(""), out, draft))
	assert.Equal(t, 2, strings.Count(tool(t, out, "pdftotext", "IN", "-"), abroad))
	fonts := tool(t, out, "pdffonts", "IN")
	assert.Regexp(t, `GoRegular +CID TrueType +Identity-H +yes`, fonts)
	assert.Regexp(t, `LiberationSerif +CID TrueType +Identity-H +yes`, fonts)
	a, err := read.Arrive(out)
	require.NoError(t, err)
	for i, got := range a.Fields {
		assert.Equal(t, form.EmbeddedFonts[i], got.Look.Font)
	}

	// A reader of another make fills it in with signs that the form did not have.
	dir := t.TempDir()
	in, filled, js := filepath.Join(dir, "in.pdf"), filepath.Join(dir, "out.pdf"), filepath.Join(dir, "fill.js")
	require.NoError(t, os.WriteFile(in, out, 0o600))
	require.NoError(t, os.WriteFile(js, []byte(`var d = new PDFDocument(scriptArgs[0]); var ws = d.loadPage(0).getWidgets(); for (var i = 0; i < ws.length; i++) { ws[i].setTextValue("Жүк"+"Ξύλο"); ws[i].update(); } d.save(scriptArgs[1], "incremental")`), 0o600))
	tool(t, out, "mutool", "run", js, in, filled)
	b, err := os.ReadFile(filled)
	require.NoError(t, err)
	ws, err := read.Widgets(b)
	require.NoError(t, err)
	for _, w := range ws {
		assert.Equal(t, "ЖүкΞύλο", w.Value)
	}
	again, err := fill.Fill(out, map[string]any{"tGo": "Ξύλο", "tLiberation-Serif": "Жук"})
	require.NoError(t, err)
	text := tool(t, again, "pdftotext", "IN", "-")
	assert.Contains(t, text, "Ξύλο")
	assert.Contains(t, text, "Жук")
}
