package scan

import (
	"bytes"
	"image"
	"math"
)

// faintest is how much darker than the paper on both sides of it a line is at least, in steps of lightness.
const faintest = 5

// ridges finds the pixels of thin lines, however pale: darker than the paper at a distance on both sides, by more than the noise of the
// page, for most of a stretch. What goes down comes transposed. Type and areas are none.
func ridges(g *image.Gray, down bool, distance, stretch int) *Ink {
	w, h := g.Rect.Dx(), g.Rect.Dy()
	found := &Ink{W: w, H: h, Pix: make([]uint8, w*h)}
	least := max(faintest, int(math.Ceil(1.3*grain(g, distance))))
	row := func(y int) []uint8 { return g.Pix[y*g.Stride : y*g.Stride+w] }
	if down {
		for y := range h {
			at, dst := row(y), found.Pix[y*w:(y+1)*w]
			for x := distance; x < w-distance; x++ {
				if v := int(at[x]) + least; v < int(at[x-distance]) && v < int(at[x+distance]) {
					dst[x] = 1
				}
			}
		}
		return found.transposed().stretches(stretch)
	}
	for y := distance; y < h-distance; y++ {
		over, under, dst := row(y-distance), row(y+distance), found.Pix[y*w:(y+1)*w]
		for x, v := range row(y) {
			if v := int(v) + least; v < int(over[x]) && v < int(under[x]) {
				dst[x] = 1
			}
		}
	}
	return found.stretches(stretch)
}

// grain is the noise of a page: the deviation of a pixel from the mean of two others near it, where most pixels are paper.
func grain(g *image.Gray, distance int) float64 {
	var hist [256]int
	n := 0
	for y := distance; y < g.Rect.Dy()-distance; y += 7 {
		for x := 0; x < g.Rect.Dx(); x += 5 {
			at := y*g.Stride + x
			n++
			hist[abs(int(g.Pix[at])-(int(g.Pix[at-distance*g.Stride])+int(g.Pix[at+distance*g.Stride]))/2)]++
		}
	}
	seen := 0
	for v, k := range hist {
		if seen += k; 2*seen >= n {
			return float64(v) / 0.6745 // of a normal distribution, from its median deviation
		}
	}
	return 0
}

// stretches keeps the pixels of rows that are set for at least six in seven of a stretch around them, and what is set for more
// than half of one between such places, closed to runs.
func (k *Ink) stretches(long int) *Ink {
	sure, likely := k.filled(long, long*6/7), k.filled(long, long*4/7)
	for y := range k.H {
		strong, weak := sure.Pix[y*k.W:(y+1)*k.W], likely.Pix[y*k.W:(y+1)*k.W]
		for x := 0; x < k.W; x++ {
			if weak[x] == 0 {
				continue
			}
			from, n := x, 0
			for x < k.W && weak[x] == 1 {
				n += int(strong[x])
				x++
			}
			if 5*n < 3*(x-from) {
				copy(weak[from:x], strong[from:x])
				continue
			}
			for at := from; strong[at] == 0; at++ { // it ends where it is sure
				weak[at] = 0
			}
			for at := x - 1; strong[at] == 0; at-- {
				weak[at] = 0
			}
		}
	}
	return likely
}

// filled marks the stretches of rows of which at least so many pixels are set, from the first to the last of them.
func (k *Ink) filled(long, need int) *Ink {
	out := &Ink{W: k.W, H: k.H, Pix: make([]uint8, len(k.Pix))}
	for y := range k.H {
		src, dst := k.Pix[y*k.W:(y+1)*k.W], out.Pix[y*k.W:(y+1)*k.W]
		if bytes.Count(src, []byte{1}) < need {
			continue
		}
		n, done := 0, 0
		for x, v := range src {
			n += int(v)
			if x >= long {
				n -= int(src[x-long])
			}
			if n < need || x < long-1 || v == 0 {
				continue
			}
			from := max(x-long+1, done)
			for src[from] == 0 && from > done {
				from++
			}
			for i := from; i <= x; i++ {
				dst[i] = 1
			}
			done = x
		}
	}
	return out
}
