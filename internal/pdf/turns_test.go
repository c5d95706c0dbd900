package pdf_test

import (
	"bytes"
	"fmt"
	"image"
	"image/color"
	"image/png"
	"math"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/pdf/fill"
	"zealousmargin.example/internal/pdf/object"
	"zealousmargin.example/internal/pdf/read"
	"zealousmargin.example/internal/pdf/write"
)

// signable is a form with a place to sign in, on a page that is turned or not.
func signable(t *testing.T, extra string) ([]byte, geom.Rect) {
	t.Helper()
	src := plain(extra)
	ws := []form.Field{
		{Kind: form.Text, Name: "vessel", Rect: geom.R(60, 400, 260, 418), Role: "applicant"},
		{Kind: form.Text, Name: "berth", Rect: geom.R(60, 360, 260, 378), Role: "harbour master", ReadOnly: false},
		{Kind: form.CheckBox, Name: "insured", Rect: geom.R(60, 320, 74, 334), Role: "applicant"},
		{Kind: form.Signature, Name: "sign_here", Rect: geom.R(60, 200, 260, 240), Role: "applicant"},
		{
			Kind:    form.Button,
			Name:    "send",
			Rect:    geom.R(60, 100, 160, 120),
			Caption: "Send",
			Action:  form.Action{Do: form.SubmitForm, URL: "https://x.example/in/A"},
		},
	}
	h, err := read.Check(t.Context(), src)
	require.NoError(t, err)
	tpl := &form.Template{Pages: h.Pages}
	for i, f := range ws {
		f.ID, f.Page, f.Order = form.NewID(), 1, float64(i+1)
		tpl.Fields = append(tpl.Fields, f)
	}
	out, err := write.Release(src, tpl)
	require.NoError(t, err)
	return out, ws[3].Rect
}

// Fields that are not somebody's are read-only in their copy, and are so no more when it is their turn: qpdf, which knows nothing of it,
// reads the flags (ISO 32000-2, table 227). What others have filled in stays.
func TestAFormIsFilledInByTurns(t *testing.T) {
	src, _ := signable(t, "")
	first, err := fill.Turn(src, []string{"vessel", "insured"})
	require.NoError(t, err)
	assert.True(t, bytes.HasPrefix(first, src))
	locked := func(b []byte) map[string]bool {
		ws, err := read.Widgets(b)
		require.NoError(t, err)
		out := map[string]bool{}
		for _, w := range ws {
			out[w.Name] = w.Flags&object.FlagReadOnly != 0
			if w.Name == "send" {
				out[w.Name] = w.Annot&object.AnnotHidden != 0
			}
		}
		return out
	}
	assert.Equal(t, map[string]bool{"vessel": false, "berth": true, "insured": false, "sign_here": false, "send": true}, locked(first))
	told := told(t, "qpdf", "--json", "--json-key=acroform", stored(t, first))
	assert.Equal(t, 1, strings.Count(told, `"fieldflags": 1,`), "berth alone, in the eyes of qpdf")
	filled, err := fill.Fill(first, map[string]any{"vessel": "Petrel", "insured": true})
	require.NoError(t, err)
	second, err := fill.Turn(filled, []string{"berth"})
	require.NoError(t, err)
	assert.Equal(t, map[string]bool{"vessel": true, "berth": false, "insured": true, "sign_here": false, "send": true}, locked(second))
	got, err := fill.Answers(second)
	require.NoError(t, err)
	assert.Equal(t, map[string]any{"vessel": "Petrel", "berth": "", "insured": "Yes"}, got)
	again, err := fill.Fill(src, got)
	require.NoError(t, err, "answers go into the form as they came out of it")
	back, err := fill.Answers(again)
	require.NoError(t, err)
	assert.Equal(t, got, back)
}

// A signature that is typed, drawn or a picture shows in its place and nowhere else, in two readers, on pages that are turned too; nobody
// can sign there again, and the name and the day are text that can be found.
func TestASignatureStandsInItsPlace(t *testing.T) {
	img := image.NewNRGBA(image.Rect(0, 0, 120, 40))
	for x := range 120 {
		img.Set(x, 20+int(12*math.Sin(float64(x)/9)), color.NRGBA{A: 255})
	}
	var pic bytes.Buffer
	require.NoError(t, png.Encode(&pic, img))
	var drawn []geom.Point
	for range 40 {
		drawn = append(drawn, geom.Point{X: rand.Float64() * 300, Y: rand.Float64() * 90})
	}
	for how, m := range map[string]write.Mark{
		"typed": {Name: "Łucja Ek"}, "drawn": {Name: "Ida Marl", Strokes: [][]geom.Point{drawn[:20], drawn[20:]}},
		"picture": {Name: "Ida Marl", Picture: pic.Bytes()},
	} {
		for _, extra := range []string{"", "/Rotate 90", "/Rotate 180", "/Rotate 270", "/MediaBox [100 200 500 800]"} {
			m.On = "26 November 2026"
			src, at := signable(t, extra)
			out, err := write.SignBy(src, []string{"sign_here"}, m)
			require.NoError(t, err)
			assert.Contains(t, told(t, "qpdf", "--check", stored(t, out)), "No syntax or stream encoding errors")
			flat := strings.Join(strings.Fields(told(t, "pdftotext", stored(t, out), "-")), " ")
			assert.Contains(t, flat, m.Name+", 26 November 2026", "%s %s", how, extra)
			ws, err := read.Widgets(out)
			require.NoError(t, err)
			for _, w := range ws {
				assert.NotEqual(t, "sign_here", w.Name)
			}
			for _, reader := range []string{"poppler", "mutool"} {
				before, after := drawnBy(t, reader, src), drawnBy(t, reader, out)
				box := inkBox(before, after)
				k := 150.0 / 72
				want := viewed(at, extra, k).Inset(-3)
				assert.True(t, want.Covers(box, 0), "%s %s %s: %v is not within %v", how, extra, reader, box, want)
				assert.Greater(t, box.W(), 60.0, "%s %s %s", how, extra, reader)
			}
		}
	}
	src, _ := signable(t, "")
	for what, m := range map[string]write.Mark{
		"say your name": {}, "only dots": {Name: "x", Strokes: [][]geom.Point{{{X: 1, Y: 1}}}},
		"not a picture":  {Name: "x", Picture: []byte("no picture")},
		"cannot be read": {Name: "x", Strokes: [][]geom.Point{{{X: math.NaN()}}}},
	} {
		_, err := write.SignBy(src, []string{"sign_here"}, m)
		assert.ErrorContains(t, err, what)
	}
	_, err := write.SignBy(src, []string{"vessel"}, write.Mark{Name: "x"})
	assert.ErrorContains(t, err, "no place called")
}

// viewed is a place on a page of 400 by 600 points as it is shown, in pixels from the upper left.
func viewed(r geom.Rect, extra string, k float64) geom.Rect {
	turn := 0
	_, _ = fmt.Sscanf(extra, "/Rotate %d", &turn)
	v := r.Apply(geom.ToView(400, 600, turn))
	return geom.R(v.X0*k, v.Y0*k, v.X1*k, v.Y1*k)
}

// inkBox is where two pictures differ.
func inkBox(a, b image.Image) geom.Rect {
	box := geom.Rect{X0: 1e9, Y0: 1e9, X1: -1e9, Y1: -1e9}
	for y := range b.Bounds().Dy() {
		for x := range b.Bounds().Dx() {
			if color.GrayModel.Convert(a.At(x, y)) != color.GrayModel.Convert(b.At(x, y)) {
				fx, fy := float64(x), float64(y)
				box = geom.Rect{X0: math.Min(box.X0, fx), Y0: math.Min(box.Y0, fy), X1: math.Max(box.X1, fx), Y1: math.Max(box.Y1, fy)}
			}
		}
	}
	return box
}

// Pages of text come behind those of the form; all that was there stays, and readers of other makes find the words.
func TestASheetComesBehindAForm(t *testing.T) {
	src, _ := signable(t, "")
	s := write.Sheet{
		Title: "How it was signed",
		Parts: []write.Part{
			{
				Head:  "Łucja Ek, applicant",
				Lines: []string{strings.Repeat("a long line that is broken ", 20), strings.Repeat("abcdef0123456789", 4)},
			},
		},
	}
	for range 40 {
		s.Parts = append(s.Parts, write.Part{Head: "Жук", Lines: []string{"signed"}})
	}
	out, err := write.Audit(src, s)
	require.NoError(t, err)
	assert.True(t, bytes.HasPrefix(out, src))
	file := stored(t, out)
	assert.Equal(t, "4", line(told(t, "pdfinfo", file), "Pages:"))
	assert.Contains(t, told(t, "qpdf", "--check", file), "No syntax or stream encoding errors")
	text := told(t, "pdftotext", file, "-")
	for _, w := range []string{"How it was signed", "Łucja Ek, applicant", strings.Repeat("abcdef0123456789", 4)} {
		assert.Contains(t, text, w)
	}
	assert.Equal(t, 40, strings.Count(text, "Жук"))
	assert.Contains(t, told(t, "mutool", "draw", "-q", "-F", "txt", file, "2"), "How it was signed")
	ws, err := read.Widgets(out)
	require.NoError(t, err)
	assert.Equal(t, 4, ws[len(ws)-1].Page)
	assert.Equal(t, write.SealField, ws[len(ws)-1].Name)
}
