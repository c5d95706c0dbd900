package detect

import (
	"math"
	"slices"
	"strings"

	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
)

const (
	arrowButton = 24.0 // the button that an arrow stands in is so wide at most
	lowChoice   = 30.0 // higher places with arrows beside them are not for one answer
)

// arrowSigns are the signs that print as an arrow of a list to choose from.
const arrowSigns = "▼▾▿▽⌄˅🔽⏷"

// takeArrows takes the signs of arrows out of the words of a page and counts them with those that were drawn.
func takeArrows(ev *evidence.Page) *evidence.Page {
	isArrow := func(w evidence.Word) bool { return strings.Trim(w.Text, arrowSigns) == "" }
	if !slices.ContainsFunc(ev.Words, isArrow) {
		return ev
	}
	out := *ev
	out.Arrows, out.Words, out.Lines = slices.Clone(ev.Arrows), nil, nil
	for _, w := range ev.Words {
		if isArrow(w) {
			out.Arrows = append(out.Arrows, w.Rect)
		} else {
			out.Words = append(out.Words, w)
		}
	}
	for _, l := range ev.Lines {
		if l.Words = slices.DeleteFunc(slices.Clone(l.Words), isArrow); len(l.Words) == 0 {
			continue
		}
		l.Rect = l.Words[0].Rect
		for _, w := range l.Words[1:] {
			l.Rect = l.Rect.Union(w.Rect)
		}
		out.Lines = append(out.Lines, l)
	}
	return &out
}

// readArrows makes choices of places with an arrow at their right end, and takes out what stands in the buttons of arrows and in scroll
// bars, which have an arrow at either end.
func (f *finder) readArrows() {
	for _, a := range f.ev.Arrows {
		button := f.buttonOf(a)
		f.cands = slices.DeleteFunc(f.cands, func(c candidate) bool {
			return c.rect.W() <= arrowButton && c.rect.Inset(-1).Covers(a, 1)
		})
		if bar, ok := f.scrollBar(a); ok {
			f.cands = slices.DeleteFunc(f.cands, func(c candidate) bool { return bar.Inset(-2).Covers(c.rect, 0) })
			continue
		}
		for i := range f.cands {
			c := &f.cands[i]
			if c.kind != form.Text || c.rect.H() > lowChoice || a.Mid().Y < c.area.Y0 || a.Mid().Y > c.area.Y1 ||
				a.X0 < c.rect.X1-arrowButton || button.X0 > c.rect.X1+3 {
				continue
			}
			c.kind, c.comb, c.multiline = form.Choice, 0, false
			c.rect.X1, c.area.X1 = math.Max(c.rect.X1, button.X1), math.Max(c.area.X1, button.X1)
			c.what += ", with an arrow to choose by"
		}
	}
}

// holdsArrow tells whether a box is the button of an arrow.
func (f *finder) holdsArrow(r geom.Rect) bool {
	return slices.ContainsFunc(f.ev.Arrows, func(a geom.Rect) bool { return r.Covers(a, 0.5) })
}

// buttonOf is the smallest frame around an arrow; the arrow itself when it stands in none of its own.
func (f *finder) buttonOf(a geom.Rect) geom.Rect {
	best := a
	for _, b := range f.ev.Boxes {
		if r := b.Rect; r.Inset(-0.5).Covers(a, 0) && r.W() <= arrowButton && r.H() <= lowChoice && (best == a || r.Area() < best.Area()) {
			best = r
		}
	}
	return best
}

// scrollBar is the bar between an arrow and another one well above or below it.
func (f *finder) scrollBar(a geom.Rect) (geom.Rect, bool) {
	for _, o := range f.ev.Arrows {
		if math.Abs(o.Mid().X-a.Mid().X) < 1.5 && math.Abs(o.Mid().Y-a.Mid().Y) > lowChoice && f.oneBar(a, o) {
			bar := f.buttonOf(a).Union(f.buttonOf(o))
			return bar, true
		}
	}
	return geom.Rect{}, false
}

// oneBar tells whether a narrow area reaches from one arrow to another: else they are those of two lists below each other.
func (f *finder) oneBar(a, o geom.Rect) bool {
	both := a.Union(o)
	return slices.ContainsFunc(f.ev.Boxes, func(b evidence.Box) bool {
		return b.Rect.W() <= arrowButton && b.Rect.Inset(-1).Covers(both, 0)
	})
}
