package scan

import (
	"image"
	"image/color"
	"image/draw"
	"math"
	"slices"
)

// RGBA is the picture in that form, transparent parts on white.
func RGBA(img image.Image) *image.RGBA {
	b := img.Bounds()
	if src, ok := img.(*image.RGBA); ok && b.Min == (image.Point{}) && src.Opaque() {
		return src
	}
	out := image.NewRGBA(image.Rect(0, 0, b.Dx(), b.Dy()))
	draw.Draw(out, out.Rect, image.NewUniform(color.White), image.Point{}, draw.Src)
	draw.Draw(out, out.Rect, img, b.Min, draw.Over)
	return out
}

// light is how bright the paper is over the picture: a surface of second degree.
type light [6]float64

func (s light) at(x, y float64) float64 {
	return s[0] + s[1]*x + s[2]*y + s[3]*x*x + s[4]*x*y + s[5]*y*y
}

// paperLight fits the surface to the bright parts of the picture. Spread is the
// darkest place of it over the brightest. Coordinates run from -1 to 1.
func paperLight(g *image.Gray) (s light, spread float64, ok bool) {
	const n = 24
	w, h := g.Rect.Dx(), g.Rect.Dy()
	if w < n*2 || h < n*2 {
		return s, 1, false
	}
	type sample struct{ x, y, v float64 }
	var all []sample
	for by := range n {
		for bx := range n {
			var hist [256]int
			total := 0
			for y := by * h / n; y < (by+1)*h/n; y += 2 {
				for x := bx * w / n; x < (bx+1)*w/n; x += 2 {
					hist[g.Pix[y*g.Stride+x]]++
					total++
				}
			}
			v, seen := 255, 0
			for ; v > 0; v-- {
				if seen += hist[v]; seen*5 >= total {
					break
				}
			}
			all = append(all, sample{2*(float64(bx)+0.5)/n - 1, 2*(float64(by)+0.5)/n - 1, float64(v)})
		}
	}
	use := all
	for range 4 {
		var a [6][7]float64
		for _, p := range use {
			f := [6]float64{1, p.x, p.y, p.x * p.x, p.x * p.y, p.y * p.y}
			for i := range 6 {
				for j := range 6 {
					a[i][j] += f[i] * f[j]
				}
				a[i][6] += f[i] * p.v
			}
		}
		var solved bool
		if s, solved = solve6(a); !solved {
			return s, 1, false
		}
		var kept []sample
		for _, p := range all { // shaded parts of the form are no shadow on the paper
			if p.v > s.at(p.x, p.y)-10 {
				kept = append(kept, p)
			}
		}
		if len(kept) < 40 {
			break
		}
		use = kept
	}
	low, high := math.Inf(1), 0.0
	for _, p := range all {
		v := s.at(p.x, p.y)
		low, high = math.Min(low, v), math.Max(high, v)
	}
	if high < 40 || low < 20 {
		return s, 1, false
	}
	return s, low / high, true
}

func solve6(a [6][7]float64) (light, bool) {
	for i := range 6 {
		p := i
		for r := i + 1; r < 6; r++ {
			if math.Abs(a[r][i]) > math.Abs(a[p][i]) {
				p = r
			}
		}
		if math.Abs(a[p][i]) < 1e-9 {
			return light{}, false
		}
		a[i], a[p] = a[p], a[i]
		for r := range 6 {
			if r == i {
				continue
			}
			f := a[r][i] / a[i][i]
			for c := i; c < 7; c++ {
				a[r][c] -= f * a[i][c]
			}
		}
	}
	var s light
	for i := range 6 {
		s[i] = a[i][6] / a[i][i]
	}
	return s, true
}

// Cleaned is what [Clean] has done.
type Cleaned struct {
	Picture image.Image
	Light   bool // uneven light or grey paper was evened
	Specks  int  // how many were taken off
}

// Clean evens the light of a page and takes specks off. A picture that needs neither
// is returned as it is. Dpi is its resolution, for what counts as a speck: at most a
// third of a millimetre, alone by 0.8 mm.
func Clean(img image.Image, dpi float64) Cleaned {
	g := Gray(img)
	out := Cleaned{Picture: img}
	var rgba *image.RGBA
	if s, spread, ok := paperLight(g); ok && (spread < 0.93 || s.at(0, 0) < 225) {
		rgba = image.NewRGBA(image.Rect(0, 0, g.Rect.Dx(), g.Rect.Dy()))
		draw.Draw(rgba, rgba.Rect, RGBA(img), image.Point{}, draw.Src)
		evenLight(rgba, s, brighter(g, s))
		out.Light = true
		g = Gray(rgba)
	}
	specks, ink := specksOf(g, dpi)
	out.Specks = len(specks)
	// A few specks are full stops and dots of a drawing; dirt comes in numbers.
	if out.Specks < 12 {
		out.Specks = 0
	} else {
		if rgba == nil {
			rgba = image.NewRGBA(image.Rect(0, 0, g.Rect.Dx(), g.Rect.Dy()))
			draw.Draw(rgba, rgba.Rect, RGBA(img), image.Point{}, draw.Src)
		}
		for _, p := range specks {
			wipe(rgba, ink, p)
		}
	}
	if rgba != nil {
		out.Picture = rgba
	}
	return out
}

// brighter is how much lighter than the paper's light the lightest areas are: on a
// tinted form they are the white ones, and must stay lighter than the tint.
func brighter(g *image.Gray, s light) float64 {
	w, h := g.Rect.Dx(), g.Rect.Dy()
	var hist [400]int
	n := 0
	for y := 0; y < h; y += 3 {
		fy := 2*(float64(y)+0.5)/float64(h) - 1
		for x := 0; x < w; x += 3 {
			fx := 2*(float64(x)+0.5)/float64(w) - 1
			hist[min(399, int(200*float64(g.Pix[y*g.Stride+x])/math.Max(30, s.at(fx, fy))))]++
			n++
		}
	}
	seen := 0
	for v := 399; v > 200; v-- {
		if seen += hist[v]; seen*25 >= n {
			if q := float64(v) / 200; q > 1.03 {
				return q
			}
			break
		}
	}
	return 1
}

func evenLight(p *image.RGBA, s light, over float64) {
	w, h := p.Rect.Dx(), p.Rect.Dy()
	bands(h, func(from, to int) {
		for y := from; y < to; y++ {
			fy := 2*(float64(y)+0.5)/float64(h) - 1
			row := p.Pix[y*p.Stride : y*p.Stride+4*w]
			for x := range w {
				fx := 2*(float64(x)+0.5)/float64(w) - 1
				k := 264 / over / max(30, s.at(fx, fy)) // paper becomes white, with its grain
				at := row[4*x : 4*x+4 : 4*x+4]
				for c := range 3 {
					at[c] = uint8(min(255, int(float64(at[c])*k)))
				}
			}
		}
	})
}

// inRow is how many others keep a dot in its row, though pale ones among them are lost.
const inRow = 2

// specksOf finds small pieces of ink with nothing else near them.
func specksOf(g *image.Gray, dpi float64) ([]Part, *Ink) {
	ink := Threshold(g)
	parts := ink.Connect().Parts
	most := max(2, int(math.Round(dpi*0.33/25.4)))
	apart := max(3, int(math.Round(dpi*0.8/25.4)))
	// Pieces that can keep a small one company.
	cell, far := apart+most, 4*apart
	grid := map[[2]int][]int{}
	small := func(p Part) bool { return p.W() <= most && p.H() <= most }
	for i, p := range parts {
		for gx := p.X0 / cell; gx <= (p.X1-1)/cell; gx++ {
			for gy := p.Y0 / cell; gy <= (p.Y1-1)/cell; gy++ {
				grid[[2]int{gx, gy}] = append(grid[[2]int{gx, gy}], i)
			}
		}
	}
	var out []Part
	for i, p := range parts {
		if !small(p) {
			continue
		}
		company, row := 0, 0
		for gx := (p.X0 - far) / cell; gx <= (p.X1+far)/cell; gx++ {
			for gy := p.Y0/cell - 1; gy <= p.Y1/cell+1; gy++ {
				for _, j := range grid[[2]int{gx, gy}] {
					o := parts[j]
					if j == i || o == p {
						continue
					}
					dx, dy := max(0, o.X0-p.X1, p.X0-o.X1), max(0, o.Y0-p.Y1, p.Y0-o.Y1)
					switch {
					case !small(o) && dx*dx+dy*dy < apart*apart:
						company += 2
					case small(o) && dy <= 1 && dx < apart && o.Area > 1: // dots in a row lead somewhere
						company++
					}
					if small(o) && dy <= 1 && dx < far {
						row++
					}
				}
			}
		}
		if company < 2 && row < inRow {
			out = append(out, p)
		}
	}
	return out, ink
}

// wipe paints a speck over with the paper around it.
func wipe(p *image.RGBA, ink *Ink, s Part) {
	box := image.Rect(s.X0-3, s.Y0-3, s.X1+3, s.Y1+3).Intersect(p.Rect)
	var around [3][]int
	for y := box.Min.Y; y < box.Max.Y; y++ {
		for x := box.Min.X; x < box.Max.X; x++ {
			if !ink.At(x, y) && (x < s.X0-1 || x > s.X1 || y < s.Y0-1 || y > s.Y1) {
				for c := range 3 {
					around[c] = append(around[c], int(p.Pix[y*p.Stride+4*x+c]))
				}
			}
		}
	}
	if len(around[0]) == 0 {
		return
	}
	fill := color.RGBA{A: 255}
	for c, dst := range []*uint8{&fill.R, &fill.G, &fill.B} {
		slices.Sort(around[c])
		*dst = uint8(around[c][len(around[c])/2])
	}
	inner := image.Rect(s.X0-1, s.Y0-1, s.X1+1, s.Y1+1).Intersect(p.Rect)
	draw.Draw(p, inner, image.NewUniform(fill), image.Point{}, draw.Src)
}
