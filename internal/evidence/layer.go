package evidence

import (
	"image"

	"zealousmargin.example/internal/geom"
)

const (
	layerDoubt  = 0.3  // of words of an earlier recognition, which nothing says how sure it was
	layerFits   = 0.65 // share of the letters of a layer that must lie on ink
	leastDark   = 0.02 // share of dark pixels under a letter
	darkPixel   = 160  // a pixel this dark is ink
	layerSample = 400  // letters that are looked at
)

// Lettered tells whether the page has brought letters with it.
func (b *Builder) Lettered() bool { return len(b.glyph) > 0 }

// Layer weighs the words that a scanned page brings with it, against the picture of the page: when most of its letters do not
// lie on ink they are dropped as a whole, else they count like recognised ones. Without use they are dropped at once: the page
// has been recognised again.
func (b *Builder) Layer(g *image.Gray, use bool) {
	if !b.Lettered() {
		return
	}
	if !use || !b.fits(g) {
		b.glyph = nil
		return
	}
	b.doubted = true
}

// fits tells whether the letters of a page lie where its picture is dark.
func (b *Builder) fits(g *image.Gray) bool {
	k := float64(g.Rect.Dx()) / b.page.Width
	looked, on := 0, 0
	step := max(1, len(b.glyph)/layerSample)
	for i := 0; i < len(b.glyph); i += step {
		r := b.glyph[i].rect
		if r.W() < 1 || r.H() < 1 {
			continue
		}
		looked++
		if darkness(g, r, b.page.Height, k) >= leastDark {
			on++
		}
	}
	return looked > 0 && float64(on) >= layerFits*float64(looked)
}

// darkness is the share of dark pixels of an area of the page; k is pixels to a point.
func darkness(g *image.Gray, r geom.Rect, height, k float64) float64 {
	dark, all := 0, 0
	for y := max(0, int((height-r.Y1)*k)); y < min(g.Rect.Dy(), int((height-r.Y0)*k)+1); y++ {
		for x := max(0, int(r.X0*k)); x < min(g.Rect.Dx(), int(r.X1*k)+1); x++ {
			all++
			if g.Pix[y*g.Stride+x] < darkPixel {
				dark++
			}
		}
	}
	if all == 0 {
		return 0
	}
	return float64(dark) / float64(all)
}
