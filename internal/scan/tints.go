package scan

import (
	"cmp"
	"image"
	"slices"
)

// groundOf looks at a page coarsely, so that type does not count.
func groundOf(g *image.Gray, dpi float64) Ground {
	n := 0
	for d := dpi; d > 60; d /= 2 {
		n++
	}
	small := brightest(g, n)
	return Ground{small, 1 << n, paperTone(small)}
}

// edge is the tone between tinted and blank paper: half way to the tint when the page has
// much of one, a little below paper otherwise.
func (g Ground) edge() int {
	var hist [256]int
	for _, v := range g.Pix {
		hist[v]++
	}
	tint, most := 0, 0
	for v := 150; v <= g.Paper-3; v++ {
		if n := hist[v-1] + hist[v] + hist[v+1]; n > most {
			tint, most = v, n
		}
	}
	if most*12 < len(g.Pix) || tint < g.Paper-14 {
		return g.Paper - 7
	}
	return (tint + g.Paper + 2) / 2
}

// levels are the tones that much of a page is tinted with, each as the range of tones that is taken for it: between two of them
// few pixels lie.
func (g Ground) levels(from, to int) [][2]int {
	var hist [256]int
	for _, v := range g.Pix {
		hist[v]++
	}
	near := func(v int) int {
		n := 0
		for at := max(from, v-1); at <= min(to-1, v+1); at++ {
			n += hist[at]
		}
		return n
	}
	var out [][2]int
	last, low := 0, from // the peak before, and the tone between that least is of
	for v := from; v < to; v++ {
		if near(v) < near(low) {
			low = v
		}
		peak := near(v)
		if peak < max(24, len(g.Pix)/1500) || peak < near(v-1) || peak < near(v+1) || v+2 < to && peak < near(v+2) {
			continue
		}
		if n := len(out); n > 0 && 5*near(low) > 3*min(peak, near(last)) { // one with the peak before
			if peak > near(last) {
				last = v
			}
			low = v
			continue
		} else if n > 0 {
			out[n-1][1] = low
		}
		out = append(out, [2]int{low, to})
		last, low = v, v
	}
	if len(out) > 0 {
		out[0][0] = from
	}
	return out
}

// between is where a page, seen coarsely, has a tone from one to below another.
func (g Ground) between(from, to int) *Ink {
	w, h := g.Rect.Dx(), g.Rect.Dy()
	out := &Ink{W: w, H: h, Pix: make([]uint8, w*h)}
	for y := range h {
		for x, v := range g.Pix[y*g.Stride : y*g.Stride+w] {
			if int(v) >= from && int(v) < to {
				out.Pix[y*w+x] = 1
			}
		}
	}
	return out
}

// tints finds large areas of one shade and the white rectangles in them.
func tints(page *image.Gray, g Ground) []Tint {
	small := g.Gray
	w := small.Rect.Dx()
	edge := g.edge()
	var out []Tint
	up := g.Side
	scale := func(p Part) Part { return Part{p.X0 * up, p.Y0 * up, p.X1 * up, p.Y1 * up, p.Area * up * up} }
	var grounds []Part
	for _, level := range append(g.levels(darkest, edge), [2]int{0, darkest}) {
		shaded := g.between(level[0], level[1])
		for _, p := range mended(shaded, shaded.Connect().Parts) {
			if p.W() < w/20 || p.H() < 6 || 10*p.Area < 4*p.W()*p.H() {
				continue
			}
			grounds = append(grounds, p)
			tone := toneOf(small, shaded, p)
			for _, white := range shaded.notches(p) {
				out = append(out, Tint{scale(white), 1})
			}
			out = append(out, Tint{spread(page, scale(p), level[0], (int(255*tone)+g.Paper)/2, up), tone})
		}
	}
	out = oneTone(out, up)
	for _, p := range g.between(edge, 256).Connect().Parts {
		inside := slices.ContainsFunc(grounds, func(o Part) bool {
			return p.X0 > o.X0 && p.X1 < o.X1 && p.Y0 > o.Y0 && p.Y1 < o.Y1
		})
		if inside && p.W() >= 6 && p.H() >= 6 && 10*p.Area >= 8*p.W()*p.H() {
			out = append(out, Tint{scale(p), 1})
		}
	}
	return out
}

// mended joins the pieces of shaded bands that noise tore: those of one height beside each other, when half of what lies between
// them is shaded.
func mended(shaded *Ink, parts []Part) []Part {
	bands := slices.DeleteFunc(slices.Clone(parts), func(p Part) bool { return p.H() < 6 || p.W() < p.H()/2 })
	slices.SortFunc(bands, func(a, b Part) int { return cmp.Compare(a.X0, b.X0) })
	out := slices.DeleteFunc(slices.Clone(parts), func(p Part) bool { return slices.Contains(bands, p) })
	for len(bands) > 0 {
		p := bands[0]
		rest := bands[:0:0]
		for _, q := range bands[1:] {
			gap := q.X0 - p.X1
			if abs(p.Y0-q.Y0) > 1 || abs(p.Y1-q.Y1) > 1 || gap < 0 || gap > 2*p.H() ||
				2*shaded.count(p.X1, p.Y0, q.X0, p.Y1) < gap*p.H() {
				rest = append(rest, q)
				continue
			}
			p = Part{p.X0, min(p.Y0, q.Y0), q.X1, max(p.Y1, q.Y1), p.Area + q.Area + shaded.count(p.X1, p.Y0, q.X0, p.Y1)}
		}
		out, bands = append(out, p), rest
	}
	return out
}

// oneTone joins the pieces of bands that were taken for two tones though they differ by hardly any: those of one height that adjoin.
func oneTone(tints []Tint, near int) []Tint {
	const hardly = 0.025
	slices.SortStableFunc(tints, func(a, b Tint) int { return cmp.Compare(a.X0, b.X0) })
	var out []Tint
	for _, t := range tints {
		i := slices.IndexFunc(out, func(o Tint) bool {
			return max(o.Tone-t.Tone, t.Tone-o.Tone) < hardly && t.Tone < 1 && o.Tone < 1 &&
				abs(o.Y0-t.Y0) <= near && abs(o.Y1-t.Y1) <= near && t.X0 > o.X0 && t.X0 < o.X1+2*near && t.X1 > o.X1
		})
		if i < 0 {
			out = append(out, t)
			continue
		}
		o := &out[i]
		if t.Area > o.Area {
			o.Tone = t.Tone
		}
		o.Part = Part{o.X0, min(o.Y0, t.Y0), t.X1, max(o.Y1, t.Y1), o.Area + t.Area}
	}
	return out
}

// notches are the oblong pieces that an area lacks in its box: places on it that reach to its edge.
func (k *Ink) notches(p Part) []Part {
	if full := float64(p.Area) / float64(p.W()*p.H()); full > 0.92 {
		return nil
	}
	rest := &Ink{W: p.W(), H: p.H(), Pix: make([]uint8, p.W()*p.H())}
	for y := range rest.H {
		for x := range rest.W {
			if !k.At(p.X0+x, p.Y0+y) {
				rest.Pix[y*rest.W+x] = 1
			}
		}
	}
	var out []Part
	for _, q := range rest.Connect().Parts {
		if q.W() >= 12 && q.H() >= 5 && 10*q.Area >= 8*q.W()*q.H() && q.W()*q.H() < p.W()*p.H()*9/10 {
			out = append(out, Part{p.X0 + q.X0, p.Y0 + q.Y0, p.X0 + q.X1, p.Y0 + q.Y1, q.Area})
		}
	}
	return out
}

// spread moves the edges of a shaded area outwards, up to reach pixels, to where most of the picture is no longer from low to
// edge in tone.
func spread(g *image.Gray, p Part, low, edge, reach int) Part {
	dark := func(x0, y0, x1, y1 int) bool {
		if x0 < 0 || y0 < 0 || x1 > g.Rect.Dx() || y1 > g.Rect.Dy() {
			return false
		}
		step := max(1, max(x1-x0, y1-y0)/100)
		n, all := 0, 0
		for y := y0; y < y1; y += step {
			for x := x0; x < x1; x += step {
				all++
				if v := int(g.Pix[y*g.Stride+x]); v >= low && v < edge {
					n++
				}
			}
		}
		return 3*n > 2*all
	}
	q := p
	for q.Y0 > p.Y0-reach && dark(p.X0, q.Y0-1, p.X1, q.Y0) {
		q.Y0--
	}
	for q.Y1 < p.Y1+reach && dark(p.X0, q.Y1, p.X1, q.Y1+1) {
		q.Y1++
	}
	for q.X0 > p.X0-reach && dark(q.X0-1, p.Y0, q.X0, p.Y1) {
		q.X0--
	}
	for q.X1 < p.X1+reach && dark(q.X1, p.Y0, q.X1+1, p.Y1) {
		q.X1++
	}
	return q
}

// brightest halves a picture n times by the brightest of four pixels: thin lines and
// type vanish, areas stay.
func brightest(g *image.Gray, n int) *image.Gray {
	return halved(g, n, func(a, b, c, d uint8) uint8 { return max(a, b, c, d) })
}

// paperTone is the most frequent of the light tones.
func paperTone(g *image.Gray) int {
	var hist [256]int
	for _, v := range g.Pix {
		hist[v]++
	}
	best := 255
	for v := 255; v > 200; v-- {
		if hist[v] > hist[best] {
			best = v
		}
	}
	// A tinted form is mostly tint: white is what is lighter than that, if there is much.
	above, white := 0, 255
	for v := 255; v > best+6; v-- {
		above += hist[v]
		if hist[v] > hist[white] {
			white = v
		}
	}
	if 25*above > len(g.Pix) {
		return max(white-2, 250)
	}
	return best
}

func toneOf(g *image.Gray, k *Ink, p Part) float64 {
	var v []int
	for y := p.Y0; y < p.Y1; y += 2 {
		for x := p.X0; x < p.X1; x += 2 {
			if k.At(x, y) {
				v = append(v, int(g.Pix[y*g.Stride+x]))
			}
		}
	}
	if len(v) == 0 {
		return 1
	}
	return float64(median(v)) / 255
}
