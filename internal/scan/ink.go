package scan

import (
	"image"
	"image/color"
	"image/draw"
	"slices"
)

// Gray is the lightness of a picture (ITU-R BT.601 weights), transparent parts on white.
func Gray(img image.Image) *image.Gray {
	b := img.Bounds()
	out := image.NewGray(image.Rect(0, 0, b.Dx(), b.Dy()))
	switch src := img.(type) {
	case *image.Gray:
		for y := range b.Dy() {
			copy(out.Pix[y*out.Stride:y*out.Stride+b.Dx()], src.Pix[(y+b.Min.Y-src.Rect.Min.Y)*src.Stride+b.Min.X-src.Rect.Min.X:])
		}
		return out
	case *image.RGBA:
		bands(b.Dy(), func(from, to int) {
			for y := from; y < to; y++ {
				row, dst := src.Pix[y*src.Stride:y*src.Stride+4*b.Dx()], out.Pix[y*out.Stride:y*out.Stride+b.Dx()]
				for x := range dst {
					p := row[4*x : 4*x+4 : 4*x+4]
					dst[x] = uint8((299*uint32(p[0])+587*uint32(p[1])+114*uint32(p[2]))/1000 + 255 - uint32(p[3]))
				}
			}
		})
		return out
	case *image.YCbCr:
		for y := range b.Dy() {
			at := src.YOffset(b.Min.X, y+b.Min.Y)
			copy(out.Pix[y*out.Stride:y*out.Stride+b.Dx()], src.Y[at:at+b.Dx()])
		}
		return out
	}
	draw.Draw(out, out.Rect, image.NewUniform(color.White), image.Point{}, draw.Src)
	draw.Draw(out, out.Rect, img, b.Min, draw.Over)
	return out
}

// Colourless gives a picture in grey, sample by sample, when that is all it shows: 8-bit RGBA, opaque and without colours.
func Colourless(img image.Image) (*image.Gray, bool) {
	p, ok := img.(*image.RGBA)
	if !ok {
		return nil, false
	}
	out := image.NewGray(image.Rect(0, 0, p.Rect.Dx(), p.Rect.Dy()))
	for y := range out.Rect.Dy() {
		row, dst := p.Pix[y*p.Stride:y*p.Stride+4*out.Rect.Dx()], out.Pix[y*out.Stride:(y+1)*out.Stride]
		for x := range dst {
			c := row[4*x : 4*x+4 : 4*x+4]
			if c[0] != c[1] || c[1] != c[2] || c[3] != 255 {
				return nil, false
			}
			dst[x] = c[0]
		}
	}
	return out, true
}

// Ink is a picture in black and white: 1 is ink.
type Ink struct {
	W, H int
	Pix  []uint8 // W*H, row by row
}

// At tells whether there is ink at a pixel; outside there is none.
func (k *Ink) At(x, y int) bool {
	return x >= 0 && y >= 0 && x < k.W && y < k.H && k.Pix[y*k.W+x] == 1
}

// Without is the ink that lies on none of some parts, nor a pixel beside them.
func (k *Ink) Without(parts []Part) *Ink {
	out := &Ink{W: k.W, H: k.H, Pix: slices.Clone(k.Pix)}
	for _, p := range parts {
		for y := max(0, p.Y0-1); y < min(k.H, p.Y1+1); y++ {
			for x := max(0, p.X0-1); x < min(k.W, p.X1+1); x++ {
				out.Pix[y*k.W+x] = 0
			}
		}
	}
	return out
}

// Within is the box around the ink in an area, and how much of it there is; nothing when there is none.
func (k *Ink) Within(at Part) Part {
	out := Part{X0: k.W, Y0: k.H}
	for y := max(0, at.Y0); y < min(k.H, at.Y1); y++ {
		for x := max(0, at.X0); x < min(k.W, at.X1); x++ {
			if k.Pix[y*k.W+x] == 1 {
				out.Area++
				out.X0, out.X1 = min(out.X0, x), max(out.X1, x+1)
				out.Y0, out.Y1 = min(out.Y0, y), max(out.Y1, y+1)
			}
		}
	}
	if out.Area == 0 {
		return Part{}
	}
	return out
}

// Threshold parts ink from paper: a pixel is ink when it is darker than the mean of
// its surroundings, a window of a sixteenth of the width, by a seventh. The method is
// adaptive thresholding on an integral image (D. Bradley, G. Roth, Journal of
// Graphics Tools 12(2), 2007); large dark areas are held to half of white as well.
func Threshold(g *image.Gray) *Ink {
	w, h := g.Rect.Dx(), g.Rect.Dy()
	out := &Ink{W: w, H: h, Pix: make([]uint8, w*h)}
	if w == 0 || h == 0 {
		return out
	}
	sum := make([]uint32, (w+1)*(h+1))
	for y := range h {
		row := uint32(0)
		src := g.Pix[y*g.Stride : y*g.Stride+w]
		up, at := sum[y*(w+1):(y+1)*(w+1)], sum[(y+1)*(w+1):(y+2)*(w+1)]
		for x, v := range src {
			row += uint32(v)
			at[x+1] = up[x+1] + row
		}
	}
	half := max(8, w/32)
	for y := range h {
		y0, y1 := max(0, y-half), min(h, y+half+1)
		lo, hi := sum[y0*(w+1):(y0+1)*(w+1)], sum[y1*(w+1):(y1+1)*(w+1)]
		src := g.Pix[y*g.Stride : y*g.Stride+w]
		dst := out.Pix[y*w : (y+1)*w]
		for x, v := range src {
			x0, x1 := max(0, x-half), min(w, x+half+1)
			n := uint32((x1 - x0) * (y1 - y0))
			s := hi[x1] - hi[x0] - lo[x1] + lo[x0]
			if uint32(v)*n*7 < s*6 || v < 64 && s < 128*n {
				dst[x] = 1
			}
		}
	}
	return out
}

// Shrink halves a picture n times, by the mean of four pixels.
func Shrink(g *image.Gray, n int) *image.Gray {
	return halved(g, n, func(a, b, c, d uint8) uint8 { return uint8((uint32(a) + uint32(b) + uint32(c) + uint32(d) + 2) / 4) })
}

// halved halves a picture n times, making one pixel of four, as long as it stays 8
// pixels wide and high.
func halved(g *image.Gray, n int, of func(a, b, c, d uint8) uint8) *image.Gray {
	for range n {
		w, h := g.Rect.Dx()/2, g.Rect.Dy()/2
		if w < 8 || h < 8 {
			return g
		}
		out := image.NewGray(image.Rect(0, 0, w, h))
		for y := range h {
			a, b := g.Pix[2*y*g.Stride:], g.Pix[(2*y+1)*g.Stride:]
			dst := out.Pix[y*out.Stride:]
			for x := range w {
				dst[x] = of(a[2*x], a[2*x+1], b[2*x], b[2*x+1])
			}
		}
		g = out
	}
	return g
}

// halvings is how often a picture can be halved until its longer side is at most n.
func halvings(g *image.Gray, n int) int {
	k := 0
	for m := max(g.Rect.Dx(), g.Rect.Dy()); m > n; m /= 2 {
		k++
	}
	return k
}
