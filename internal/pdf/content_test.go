package pdf_test

import (
	"bytes"
	"fmt"
	"image"
	"image/color"
	"image/draw"
	"image/png"
	"strings"
	"testing"

	"codeberg.org/go-pdf/fpdf"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/detect"
	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/pdf/engine"
)

// evidenceOf reads page 1 of a file.
func evidenceOf(t *testing.T, b []byte) *evidence.Page {
	t.Helper()
	ev, err := engine.ReadPage(t.Context(), b, 1)
	require.NoError(t, err)
	return ev
}

// drawn makes a page with a content stream of its own.
func drawn(t *testing.T, operators string) []byte {
	t.Helper()
	f := fpdf.NewCustom(&fpdf.InitType{OrientationStr: "P", UnitStr: "pt", Size: fpdf.SizeType{Wd: 595, Ht: 842}})
	f.AddPage()
	f.RawWriteStr(operators)
	var out bytes.Buffer
	require.NoError(t, f.Output(&out))
	return out.Bytes()
}

// The operators re, W, n and S are those of ISO 32000-2, 8.5.
func TestWhatIsClippedAwayIsNoEvidence(t *testing.T) {
	ev := evidenceOf(t, drawn(t, "q 100 400 200 100 re W n 50 450 m 550 450 l S 50 600 m 550 600 l S Q 50 700 m 250 700 l S"))
	require.Len(t, ev.H, 2)
	assert.InDelta(t, 700, ev.H[0].At, 0.1)
	assert.InDelta(t, 100, ev.H[1].From, 1)
	assert.InDelta(t, 300, ev.H[1].To, 1)
}

func TestPathsOfOneRuleAndOfOneArea(t *testing.T) {
	ev := evidenceOf(t, drawn(t, "100 500 200 0.8 re f 0.9 g 100 300 200 40 re f 0 G 100 200 m 300 200 l S"))
	require.Len(t, ev.H, 2, "a thin filled rectangle is a rule")
	assert.InDelta(t, 500.4, ev.H[0].At, 0.1)
	assert.InDelta(t, 200, ev.H[0].Len(), 0.5)
	require.Len(t, ev.Boxes, 1)
	assert.InDelta(t, 0.9, ev.Boxes[0].Tone, 0.01)
	assert.InDelta(t, 1, ev.Boxes[0].Rect.IoU(geom.R(100, 300, 300, 340)), 0.01)
}

// onPage makes a page with two labels and a picture beside them, 300 by 200 points.
func onPage(t *testing.T, img image.Image) []byte {
	t.Helper()
	var b bytes.Buffer
	require.NoError(t, png.Encode(&b, img))
	f := fpdf.NewCustom(&fpdf.InitType{OrientationStr: "P", UnitStr: "pt", Size: fpdf.SizeType{Wd: 595, Ht: 842}})
	f.AddPage()
	f.SetFont("Helvetica", "", 11)
	f.Text(60, 235, "Name of vessel")
	f.Text(60, 335, "Home port")
	f.RegisterImageOptionsReader("form", fpdf.ImageOptions{ImageType: "PNG"}, &b)
	f.ImageOptions("form", 200, 200, 300, 200, false, fpdf.ImageOptions{ImageType: "PNG"}, 0, "")
	var out bytes.Buffer
	require.NoError(t, f.Output(&out))
	return out.Bytes()
}

func TestAFormThatStandsInAPageAsAPictureIsRead(t *testing.T) {
	k := 300.0 / 72
	img := image.NewGray(image.Rect(0, 0, int(300*k), int(200*k)))
	draw.Draw(img, img.Rect, image.White, image.Point{}, draw.Src)
	for _, y := range []float64{20, 120} { // two boxes, 250 by 20 points
		outer := image.Rect(int(20*k), int(y*k), int(270*k), int((y+20)*k))
		draw.Draw(img, outer, image.Black, image.Point{}, draw.Src)
		draw.Draw(img, outer.Inset(4), image.White, image.Point{}, draw.Src)
	}
	finds := detect.Page(evidenceOf(t, onPage(t, img)))
	require.Len(t, finds, 2)
	assert.Equal(t, "name_vessel", finds[0].Name)
	assert.Equal(t, "home_port", finds[1].Name)
	for i, f := range finds {
		assert.Equal(t, form.Text, f.Kind)
		top := 842 - 220 - 100*float64(i)
		assert.Greater(t, f.Rect.IoU(geom.R(220, top-20, 470, top)), 0.7, "on the box of the picture")
	}

	photo := image.NewGray(img.Rect)
	for y := range photo.Rect.Dy() {
		for x := range photo.Rect.Dx() {
			photo.SetGray(x, y, color.Gray{Y: uint8(60 + 120*x/photo.Rect.Dx())})
		}
	}
	draw.Draw(photo, image.Rect(100, 100, 900, 180), image.White, image.Point{}, draw.Src)
	ev := evidenceOf(t, onPage(t, photo))
	assert.Len(t, ev.Pictures, 1, "a photograph stays a picture")
	assert.Empty(t, detect.Page(ev))
}

// A path of very many pieces is no drawing of strokes any more: what it looks like counts.
func TestADottedLineInOnePathIsALine(t *testing.T) {
	dots := func(y float64) string {
		var b strings.Builder
		for x := 50.0; x < 550; x += 1.5 {
			fmt.Fprintf(&b, "%.1f %.1f 0.8 0.8 re ", x, y)
		}
		return b.String()
	}
	one := evidenceOf(t, drawn(t, dots(600)+"f"))
	require.Len(t, one.H, 1, "a path for each line")
	assert.InDelta(t, 600.4, one.H[0].At, 0.5)
	all := evidenceOf(t, drawn(t, dots(600)+dots(560)+dots(520)+dots(480)+"f"))
	require.Len(t, all.H, 4, "a path for all lines")
	for i, h := range all.H {
		assert.InDelta(t, 600-40*float64(i), h.At, 1.5)
		assert.InDelta(t, 500, h.Len(), 6)
	}
}
