package evidence

import (
	"image"
	"math"
	"slices"
	"strings"

	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/scan"
)

// Pixels adds the drawn marks of a picture that shows the whole page upright: rules,
// small boxes and circles, rows of dots, shaded areas. Words are recognised elsewhere
// and added by [Builder.Word].
func (b *Builder) Pixels(g *image.Gray) {
	m, k := b.pixels(g, b.page.Rect())
	if k == 0 {
		return
	}
	b.page.Ground = ground(m.Ground, k)
	b.picture = m.Ink
}

// PicturePixels adds the drawn marks of a picture that covers an area of the page, when it
// is a drawing of lines on paper. Others, such as photographs, stay pictures; the bool is
// false then.
func (b *Builder) PicturePixels(g *image.Gray, at geom.Rect) bool {
	light := 0
	for y := range g.Rect.Dy() {
		for _, v := range g.Pix[y*g.Stride : y*g.Stride+g.Rect.Dx()] {
			if v > 215 {
				light++
			}
		}
	}
	if 100*light < 85*g.Rect.Dx()*g.Rect.Dy() {
		return false
	}
	b.pixels(g, at)
	b.page.Pictures = slices.DeleteFunc(b.page.Pictures, func(r geom.Rect) bool { return r == at })
	return true
}

// Large gives the pictures that cover at least a tenth of the page and not most of it.
func (b *Builder) Large() []geom.Rect {
	var out []geom.Rect
	for _, r := range b.page.Pictures {
		if share := r.Intersect(b.page.Rect()).Area() / b.page.Rect().Area(); share >= 0.1 && share <= 0.6 && b.page.Rect().Covers(r, 1) {
			out = append(out, r)
		}
	}
	return out
}

// pixels adds the drawn marks of a picture that shows an area of the page; k is the size
// of a pixel in points, 0 when there are none.
func (b *Builder) pixels(g *image.Gray, at geom.Rect) (m scan.Marks, k float64) {
	kx, ky, ok := pixelSize(g, at)
	if !ok {
		return m, 0
	}
	m = scan.FindMarks(g, 72/kx)
	rect := placing(at, kx, ky)
	h, v := rules(m, rect)
	b.page.H, b.page.V = append(b.page.H, h...), append(b.page.V, v...)
	for _, p := range m.Squares {
		b.page.Boxes = append(b.page.Boxes, Box{Rect: rect(p), Stroked: true, Tone: -1})
	}
	for _, p := range m.Circles {
		b.page.Boxes = append(b.page.Boxes, Box{Rect: rect(p), Stroked: true, Tone: -1, Round: true})
	}
	for _, t := range m.Tints {
		b.page.Boxes = append(b.page.Boxes, Box{Rect: rect(t.Part), Tone: t.Tone})
	}
	for _, p := range m.Brackets {
		r, text := rect(p), "[ ]"
		if p.Area == 1 {
			text = "( )"
		}
		b.dots = append(b.dots, Word{Text: text, Rect: r, Base: r.Y0 + 0.2*r.H(), Size: r.H()})
	}
	for _, p := range m.Letters {
		if r := rect(p); r.W() > 1.8 || r.H() < 3*r.W() { // else an upright stroke: a part of a comb
			b.ink = append(b.ink, r)
		}
	}
	for _, p := range m.Dots {
		r := rect(p)
		b.dots = append(b.dots, Word{Text: strings.Repeat(".", p.Area), Rect: r, Base: r.Y0, Size: 10})
	}
	return m, kx
}

// Crowded notes the area of a drawing of very many pieces. A small one is an ornament and forgotten.
func (b *Builder) Crowded(r geom.Rect) {
	page := b.page.Rect()
	if r = r.Intersect(page); r.Empty() || r.Area() < 0.1*page.Area() {
		return
	}
	if b.crowd.Empty() {
		b.crowd = r
	}
	b.crowd = b.crowd.Union(r)
}

// Crowd is the area of the drawings that were noted with [Builder.Crowded]; empty when there are none.
func (b *Builder) Crowd() geom.Rect { return b.crowd }

// PixelRules adds the lines that a picture of the whole page, upright, shows in an area and that are not there yet.
func (b *Builder) PixelRules(g *image.Gray, area geom.Rect) {
	kx, ky, ok := pixelSize(g, b.page.Rect())
	if !ok {
		return
	}
	across, down := rules(scan.FindMarks(g, 72/kx), placing(b.page.Rect(), kx, ky))
	add := func(to *[]Rule, found []Rule) {
		for _, r := range found {
			if area.Inset(-1).Covers(r.Rect(), 0) && !among(*to, r) {
				*to = append(*to, r)
			}
		}
	}
	add(&b.page.H, across)
	add(&b.page.V, down)
}

// pixelSize is the size in points of a pixel of a picture that shows an area; not ok when it has none.
func pixelSize(g *image.Gray, at geom.Rect) (kx, ky float64, ok bool) {
	w, h := float64(g.Rect.Dx()), float64(g.Rect.Dy())
	return at.W() / w, at.H() / h, w >= 1 && h >= 1
}

// placing takes parts of a picture to the area that it shows.
func placing(at geom.Rect, kx, ky float64) func(scan.Part) geom.Rect {
	return func(p scan.Part) geom.Rect {
		return geom.Rect{
			X0: at.X0 + float64(p.X0)*kx, X1: at.X0 + float64(p.X1)*kx, Y0: at.Y1 - float64(p.Y1)*ky,
			Y1: at.Y1 - float64(p.Y0)*ky,
		}
	}
}

// spreadInk is how much thicker than on paper a line comes out of a scan, in points.
const spreadInk = 0.7

// heavy is how many times as thick as most lines of a picture those are that stand out.
const heavy = 1.7

// rules are the lines among the marks of a picture.
func rules(m scan.Marks, rect func(scan.Part) geom.Rect) (h, v []Rule) {
	var heights []float64
	for _, p := range m.Across {
		heights = append(heights, rect(p).H())
	}
	slices.Sort(heights)
	for _, p := range m.Across {
		r := rect(p)
		thick := r.H() - spreadInk
		if r.H() < heavy*heights[len(heights)/2] { // as thick as all of them
			thick = min(thick, 2)
		}
		h = append(h, Rule{Horizontal: true, From: r.X0, To: r.X1, At: r.Mid().Y, Thick: thick})
	}
	for _, p := range m.Down {
		r := rect(p)
		v = append(v, Rule{From: r.Y0, To: r.Y1, At: r.Mid().X, Thick: min(r.W(), 2)})
	}
	return h, v
}

// among tells whether a rule lies along one of others.
func among(all []Rule, r Rule) bool {
	return slices.ContainsFunc(all, func(o Rule) bool {
		return math.Abs(o.At-r.At) < 1 && math.Min(o.To, r.To)-math.Max(o.From, r.From) > 0.5*r.Len()
	})
}

// ground is the coarse picture of a page as evidence, paper made white.
func ground(g scan.Ground, k float64) *Ground {
	w, h := g.Rect.Dx(), g.Rect.Dy()
	out := &Ground{Cell: float64(g.Side) * k, W: w, H: h, Tone: make([]uint8, w*h)}
	for y := range h {
		for x := range w {
			out.Tone[y*w+x] = uint8(min(255, int(g.Pix[y*g.Stride+x])*255/max(1, g.Paper)))
		}
	}
	return out
}
