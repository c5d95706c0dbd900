package scan_test

import (
	"fmt"
	"image"
	"image/color"
	"image/draw"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/image/font"
	"golang.org/x/image/font/gofont/goregular"
	"golang.org/x/image/font/opentype"
	"golang.org/x/image/math/fixed"

	"zealousmargin.example/internal/scan"
	"zealousmargin.example/internal/scan/simulate"
)

// form draws an A4 page of labels, rules, a table and a paragraph.
func form(t *testing.T, dpi float64) *image.RGBA {
	t.Helper()
	px := func(mm float64) int { return int(math.Round(mm * dpi / 25.4)) }
	p := image.NewRGBA(image.Rect(0, 0, px(210), px(297)))
	draw.Draw(p, p.Rect, image.White, image.Point{}, draw.Src)
	ft, err := opentype.Parse(goregular.TTF)
	require.NoError(t, err)
	face, err := opentype.NewFace(ft, &opentype.FaceOptions{Size: 10.5, DPI: dpi})
	require.NoError(t, err)
	d := font.Drawer{Dst: p, Src: image.Black, Face: face}
	text := func(x, y float64, s string) {
		d.Dot = fixed.P(px(x), px(y))
		d.DrawString(s)
	}
	bar := func(x0, y0, x1, y1 float64) {
		draw.Draw(p, image.Rect(px(x0), px(y0), max(px(x1), px(x0)+1), max(px(y1), px(y0)+1)), image.Black, image.Point{}, draw.Src)
	}
	labels := []string{
		"Name of the applicant", "Postal address", "Telephone by day", "Vessel and port of registry", "Length over all",
		"Berth wanted from", "Sail number if any", "Insured with", "Policy number",
	}
	for i, l := range labels {
		y := 40 + 9*float64(i)
		text(25, y, l)
		bar(85, y+1, 185, y+1.2)
	}
	for i := range 12 {
		text(25, 140+5*float64(i), "Berths are given in the order in which complete applications arrive at the quay, by hand or by post.")
	}
	for i := range 6 {
		bar(25, 215+9*float64(i), 185, 215.2+9*float64(i))
	}
	return p
}

func TestSkewIsMeasuredToATenthOfADegree(t *testing.T) {
	for _, dpi := range []float64{100, 200} {
		page := form(t, dpi)
		for i, want := range []float64{-3, -1.4, -0.3, 0, 0.6, 1.7, 3} {
			got := scan.Skew(scan.Gray(simulate.Scan(page, dpi,
				simulate.Faults{Skew: want, Specks: 150, Light: 0.2, JPEG: 70, Seed: uint64(i)})))
			assert.InDelta(t, want, got, 0.11, "%g degrees at %g dpi", want, dpi)
		}
		bw := simulate.Scan(page, dpi, simulate.Faults{Skew: 1.2, Specks: 80, OneBit: true})
		assert.InDelta(t, 1.2, scan.Skew(scan.Gray(bw)), 0.11, "black and white")
	}
	blank := image.NewGray(image.Rect(0, 0, 800, 1100))
	draw.Draw(blank, blank.Rect, image.White, image.Point{}, draw.Src)
	assert.Zero(t, scan.Skew(blank), "a blank page leans nowhere")
}

func TestTurnedPagesAreNoticed(t *testing.T) {
	for _, dpi := range []float64{100, 200} {
		page := form(t, dpi)
		for q := range 4 {
			img := simulate.Scan(page, dpi, simulate.Faults{Skew: 1.1, Quarters: q, Specks: 100, Seed: uint64(q)})
			turn, sure := scan.Turn(scan.Gray(img))
			assert.Equal(t, (4-q)%4, turn, "turned by %d quarters at %g dpi", q, dpi)
			assert.Greater(t, sure, 0.3)
			assert.Equal(t, page.Bounds().Size(), scan.Quarters(img, turn).Bounds().Size())
		}
	}
	_, sure := scan.Turn(image.NewGray(image.Rect(0, 0, 500, 700)))
	assert.Zero(t, sure, "nothing to go by")
}

func ink(img image.Image) int {
	n := 0
	for _, v := range scan.Threshold(scan.Gray(img)).Pix {
		n += int(v)
	}
	return n
}

func TestSpeckleAndUnevenLightAreCleaned(t *testing.T) {
	page := form(t, 200)
	clean := ink(page)
	dirty := simulate.Scan(page, 200, simulate.Faults{Specks: 900, Light: 0.45, Grey: 0.1, Seed: 3})
	c := scan.Clean(dirty, 200)
	assert.True(t, c.Light)
	assert.Greater(t, c.Specks, 600, "all but those among the print")
	// What is left of the dirt is less than a tenth, and nothing of the form is lost.
	assert.InDelta(t, clean, ink(c.Picture), 0.02*float64(clean))
	g := scan.Gray(c.Picture)
	for _, at := range []image.Point{{60, 60}, {1590, 60}, {60, 2280}, {1590, 2280}} {
		assert.Greater(t, g.GrayAt(at.X, at.Y).Y, uint8(240), "paper is white at %v", at)
	}
	same := scan.Clean(page, 200)
	assert.False(t, same.Light)
	assert.Zero(t, same.Specks, "full stops and dots of i are no dirt")
	assert.Equal(t, image.Image(page), same.Picture, "a clean page is left alone")
}

func TestTintedFormsKeepTheirTint(t *testing.T) {
	page := form(t, 150)
	tint := color.RGBA{214, 222, 218, 255}
	draw.Draw(page, image.Rect(100, 150, 1100, 520), image.NewUniform(tint), image.Point{}, draw.Over)
	c := scan.Clean(simulate.Scan(page, 150, simulate.Faults{Light: 0.3}), 150)
	g := scan.Gray(c.Picture)
	assert.InDelta(t, 219, float64(g.GrayAt(600, 500).Y), 12)
}

func TestAPhotographOfPaperIsFlattened(t *testing.T) {
	page := form(t, 120)
	for _, c := range []struct{ tilt, lean float64 }{{0, 0}, {0.12, 3}, {0.15, -5}, {0.1, 7}} {
		t.Run(fmt.Sprint(c), func(t *testing.T) {
			photo, truth := simulate.Photograph(page, c.tilt, c.lean, 1)
			q, ok := scan.PageEdges(photo)
			require.True(t, ok)
			for i := range q {
				assert.InDelta(t, truth[i].X, q[i].X, 9, "corner %d", i)
				assert.InDelta(t, truth[i].Y, q[i].Y, 9, "corner %d", i)
			}
			flat := scan.Flatten(photo, q)
			b := flat.Bounds()
			assert.InDelta(t, 297.0/210, float64(b.Dy())/float64(b.Dx()), 0.005, "it is A4 again")
			assert.InDelta(t, 0, scan.Skew(scan.Gray(flat)), 0.21)
		})
	}
	_, ok := scan.PageEdges(page)
	assert.False(t, ok, "a page that fills the picture has no edges to see")
	_, ok = scan.PageEdges(image.NewRGBA(image.Rect(0, 0, 300, 300)))
	assert.False(t, ok)
}
