package detect

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
)

// Tick boxes are drawn from about 5 to 16 points (common practice, no source).
const (
	minTick = 5.0
	maxTick = 17.0
)

// small tells whether an area has the size and the shape of a tick box.
func small(w, h float64) bool {
	return w >= minTick && w <= maxTick && h >= minTick && h <= maxTick && math.Max(w, h) <= 1.35*math.Min(w, h)
}

// findTicks takes small squares and circles that are empty: drawn as one path, as
// four strokes, or printed as a sign.
func (f *finder) findTicks() {
	var boxes []geom.Rect
	kinds := map[geom.Rect]string{}
	add := func(r geom.Rect, what string) {
		for i, b := range boxes {
			if b.IoU(r) > 0.5 || b.Covers(r, 0.5) || r.Covers(b, 0.5) {
				if r.Area() > b.Area() { // outer edge of a box drawn twice
					boxes[i] = r
					kinds[r] = what
				}
				return
			}
		}
		boxes = append(boxes, r)
		kinds[r] = what
	}
	for _, b := range f.ev.Boxes {
		if !small(b.Rect.W(), b.Rect.H()) || !b.Stroked && !(b.Tone >= paper && f.onTint(b.Rect)) || b.Tone >= 0 && b.Tone < 0.6 {
			continue
		}
		what := "drawn box"
		if b.Round {
			what = "drawn circle"
		}
		add(b.Rect, fmt.Sprintf("%s %s pt wide", what, pt(b.Rect.W())))
	}
	for _, r := range f.squares() {
		add(r, fmt.Sprintf("drawn box %s pt wide", pt(r.W())))
	}
	for _, w := range f.ev.Words {
		if evidence.IsTick(w.Text) {
			r := w.Rect
			if r.W() < minTick || r.H() < minTick {
				m := r.Mid()
				r = geom.Rect{X0: math.Min(r.X0, m.X-5), Y0: math.Min(r.Y0, m.Y-5), X1: math.Max(r.X1, m.X+5), Y1: math.Max(r.Y1, m.Y+5)}
			}
			what := "printed box"
			if strings.ContainsAny(w.Text, "○◯(") {
				what = "printed circle"
			}
			add(r, what)
		}
	}
	isRound := func(r geom.Rect) bool {
		return strings.HasPrefix(kinds[r], "drawn circle") || kinds[r] == "printed circle"
	}
	inComb := f.signCombs(f.signCells())
	for _, r := range boxes {
		if inComb(r) || f.partOfComb(r, boxes) || f.filled(r) || f.holdsArrow(r) {
			continue
		}
		f.ticks = append(f.ticks, r)
		f.cands = append(f.cands, candidate{
			kind: form.CheckBox, rect: r, area: r, how: fromTick, score: 0.9, what: kinds[r],
			round: isRound(r),
		})
	}
}

// signCells are the boxes, and the cells closed on three sides, that are large enough for one sign and no larger.
func (f *finder) signCells() []geom.Rect {
	out := f.signBoxes()
	add := func(r geom.Rect) {
		if isSign(r) && !slices.ContainsFunc(out, func(o geom.Rect) bool { return o.IoU(r) > 0.5 }) {
			out = append(out, r)
		}
	}
	closed := func(x0, x1, y float64) bool {
		return slices.ContainsFunc(f.ev.H, func(h evidence.Rule) bool {
			return math.Abs(h.At-y) < 1.8 && math.Min(h.To, x1)-math.Max(h.From, x0) > 0.92*(x1-x0)
		})
	}
	for i, a := range f.ev.V { // they come from left to right
		if a.Len() < 8 || a.Len() > tallestCell+4 {
			continue
		}
		for _, b := range f.ev.V[i+1:] {
			if b.At-a.At > maxSign+3 {
				break
			}
			if b.At-a.At < 7 || math.Abs(b.From-a.From) > 2.6 || math.Abs(b.To-a.To) > 2.6 {
				continue
			}
			if r := (geom.Rect{X0: a.At, X1: b.At, Y0: math.Max(a.From, b.From), Y1: math.Min(a.To, b.To)}); closed(r.X0, r.X1, r.Y0) {
				add(r)
				break
			}
		}
	}
	return out
}

// signBoxes are the drawn boxes that are large enough for one sign and no larger.
func (f *finder) signBoxes() []geom.Rect {
	var out []geom.Rect
	for _, b := range f.ev.Boxes {
		r := b.Rect
		if b.Stroked && !b.Round && r.W() >= 7 && r.W() <= maxSign && r.H() >= 8 && r.H() <= tallestCell+hair && r.H() >= 0.6*r.W() &&
			!slices.ContainsFunc(out, func(o geom.Rect) bool { return o.IoU(r) > 0.5 }) {
			out = append(out, r)
		}
	}
	for _, r := range f.squares() {
		if !slices.ContainsFunc(out, func(o geom.Rect) bool { return o.IoU(r) > 0.5 }) {
			out = append(out, r)
		}
	}
	return out
}

// squares finds small boxes that were drawn as four separate strokes.
func (f *finder) squares() []geom.Rect {
	var out []geom.Rect
	for i, low := range f.ev.H {
		if low.Len() < minTick || low.Len() > maxTick {
			continue
		}
		for j, high := range f.ev.H {
			if i == j || high.At <= low.At || math.Abs(high.From-low.From) > 1 || math.Abs(high.To-low.To) > 1 ||
				!small(low.Len(), high.At-low.At) {
				continue
			}
			sides := 0
			for _, v := range f.ev.V {
				if v.From <= low.At+1 && v.To >= high.At-1 && v.Len() <= maxTick+2 &&
					(math.Abs(v.At-low.From) <= 1 || math.Abs(v.At-low.To) <= 1) {
					sides++
				}
			}
			if sides >= 2 {
				out = append(out, geom.Rect{X0: low.From, Y0: low.At, X1: low.To, Y1: high.At})
			}
		}
	}
	return out
}

// partOfComb tells whether a box adjoins others of its size left or right: three
// in a row are a comb to write in, not boxes to tick.
func (f *finder) partOfComb(r geom.Rect, all []geom.Rect) bool {
	n := 1
	for _, dir := range []float64{-1, 1} {
		at := r
		for {
			next := slices.IndexFunc(all, func(o geom.Rect) bool {
				return math.Abs(o.Y0-at.Y0) < 1 && math.Abs(o.W()-at.W()) < 1 && math.Abs(o.X0-(at.X0+dir*at.W())) < 1.5
			})
			if next < 0 {
				break
			}
			n++
			at = all[next]
		}
	}
	return n >= 3
}

// filled tells whether something is printed in a box.
func (f *finder) filled(r geom.Rect) bool {
	in := r.Inset(1)
	for _, w := range f.ev.Words {
		if !evidence.IsTick(w.Text) && in.Contains(w.Rect.Mid()) {
			return true
		}
	}
	for _, p := range f.ev.Pictures {
		if p.Covers(r, 1) && p.Area() < 0.8*f.ev.Rect().Area() {
			return true
		}
	}
	return false
}
