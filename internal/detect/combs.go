package detect

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strings"
	"unicode"

	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
)

// maxSign is the widest printed cell, in points, that is meant for one sign (common
// practice, no source).
const maxSign = 27.0

// spacedCombs finds rows of small boxes that stand a little apart at one distance, and
// makes a comb of each row: its cells are as wide as the boxes are apart, so that every
// sign falls into its box. Groups that follow each other, such as those of a date, are a
// comb each, from two boxes on.
func (f *finder) signCombs(boxes []geom.Rect) (used func(geom.Rect) bool) {
	rows := inRows(boxes)
	like := func(a, b geom.Rect) bool {
		return math.Abs(a.Y0-b.Y0) < 1.2 && math.Abs(a.H()-b.H()) < 1.2 && math.Abs(a.W()-b.W()) < math.Max(1.5, 0.12*a.W())
	}
	type run struct {
		boxes []geom.Rect
		gap   float64
	}
	var runs []run
	for i := 0; i < len(rows); {
		j, gap := i+1, 0.0
		for j < len(rows) && like(rows[i], rows[j]) {
			g := rows[j].X0 - rows[j-1].X1
			if g < -1.6 || g > 0.7*rows[i].W() || j > i+1 && math.Abs(g-gap) > 1.3 ||
				f.wordsNear(geom.Rect{X0: rows[j-1].X1 - 1, X1: rows[j].X0 + 1, Y0: rows[i].Y0, Y1: rows[i].Y1}) {
				break
			}
			if j == i+1 {
				gap = g
			}
			j++
		}
		runs = append(runs, run{rows[i:j], gap})
		i = j
	}
	var taken []geom.Rect
	for i, r := range runs {
		first, last := r.boxes[0], r.boxes[len(r.boxes)-1]
		n := len(r.boxes)
		beside := func(o run) bool {
			a, b := o.boxes[len(o.boxes)-1], first
			if o.boxes[0].X0 > first.X0 {
				a, b = last, o.boxes[0]
			}
			return len(o.boxes) >= 2 && like(a, b) && b.X0-a.X1 < 3*a.W() && b.X0 > a.X1
		}
		grouped := i > 0 && beside(runs[i-1]) || i+1 < len(runs) && beside(runs[i+1])
		least := 4 // three alone may be an ornament
		if r.gap < 1.6 {
			least = 3
		}
		if n < 2 || n < least && !grouped || first.H() < 8 {
			continue
		}
		area := first.Union(last)
		if len(f.inkIn(area)) > 0 || f.captioned(r.boxes) || f.shaded(area) {
			continue
		}
		taken = append(taken, r.boxes...)
		rect := area
		if r.gap > 0 {
			rect.X0, rect.X1 = area.X0-r.gap/2, area.X1+r.gap/2
		}
		f.cands = append(f.cands, candidate{
			kind: form.Text, rect: rect, area: area, how: fromCell, comb: n, score: 0.93,
			what: fmt.Sprintf("%d printed boxes in a row", n),
		})
	}
	return func(r geom.Rect) bool {
		return slices.ContainsFunc(taken, func(t geom.Rect) bool { return t.IoU(r) > 0.5 })
	}
}

// isSign tells whether a cell is as small as one sign.
func isSign(r geom.Rect) bool {
	return r.W() >= 7 && r.W() <= maxSign+3 && r.H() >= 8 && r.H() <= tallestCell+hair && r.H() >= 0.6*r.W()
}

// inRows sorts boxes by rows, and by where they begin.
func inRows(boxes []geom.Rect) []geom.Rect {
	rows := slices.Clone(boxes)
	slices.SortFunc(rows, func(a, b geom.Rect) int { return cmp.Compare(a.Y0, b.Y0) })
	for i := 0; i < len(rows); {
		j := i + 1
		for j < len(rows) && rows[j].Y0-rows[j-1].Y0 < 0.7 && rows[j].Y0-rows[i].Y0 < 2 {
			j++
		}
		slices.SortFunc(rows[i:j], func(a, b geom.Rect) int { return cmp.Compare(a.X0, b.X0) })
		i = j
	}
	return rows
}

// firstGroup is the comb at the left of those that follow each other on one line, with nothing or a stroke between: the
// groups of one date or number. It is c itself when c stands alone.
func (f *finder) firstGroup(c candidate) (first candidate, before int) {
	for c.comb > 0 {
		i := slices.IndexFunc(f.cands, func(o candidate) bool {
			cell := c.rect.W() / float64(c.comb)
			gap := c.rect.X0 - o.rect.X1
			return o.comb > 0 && math.Abs(o.rect.Y0-c.rect.Y0) < 1.5 && math.Abs(o.rect.W()/float64(o.comb)-cell) < 0.15*cell &&
				gap > -0.3*cell && gap < 2*cell && !f.wordsBetween(o.rect, c.rect)
		})
		if i < 0 {
			break
		}
		c = f.cands[i]
		before++
	}
	return c, before
}

// wordsBetween tells whether words with letters or figures stand between two areas of one line. A single one that was hardly
// read is a stroke or a stop.
func (f *finder) wordsBetween(a, b geom.Rect) bool {
	between := geom.Rect{X0: a.X1 - 1, X1: b.X0 + 1, Y0: a.Y0, Y1: a.Y1}
	return slices.ContainsFunc(f.ev.Words, func(w evidence.Word) bool {
		stroke := w.Doubt > 0.2 && len([]rune(w.Text)) == 1
		return between.Contains(w.Rect.Mid()) && !stroke && strings.ContainsFunc(w.Text, func(r rune) bool {
			return unicode.IsLetter(r) ||
				unicode.IsDigit(r)
		})
	})
}

// captioned tells whether most boxes of a row have words of their own right above or
// below them: then each is an answer of its own.
func (f *finder) captioned(boxes []geom.Rect) bool {
	n := 0
	for _, b := range boxes {
		if slices.ContainsFunc(f.ev.Words, func(w evidence.Word) bool {
			d := math.Max(w.Rect.Y0-b.Y1, b.Y0-w.Rect.Y1)
			return d > -1 && d < 8 && w.Rect.W() < 1.3*b.W() && math.Abs(w.Rect.Mid().X-b.Mid().X) < 0.25*b.W() && !isDatePart(w.Text)
		}) {
			n++
		}
	}
	return 2*n > len(boxes)
}

// combs makes combs of the closed cells that are as small as one sign, and tells which slots they use up.
func (f *finder) combs(cells []slot) func(slot) bool {
	area := func(s slot) geom.Rect { return geom.Rect{X0: s.x0, Y0: s.bottom, X1: s.x1, Y1: s.top} }
	inComb := func(r geom.Rect) bool {
		return r.W() <= maxSign+3 && slices.ContainsFunc(f.cands, func(c candidate) bool { return c.comb > 0 && c.area.Covers(r, 2) })
	}
	var signs []geom.Rect
	for _, s := range cells {
		if r := area(s); isSign(r) && !inComb(r) {
			signs = append(signs, r)
		}
	}
	used := f.signCombs(signs)
	return func(s slot) bool { return used(area(s)) || inComb(area(s)) }
}

// mergeTicked joins neighbouring slots whose common upright reaches less than
// two thirds of the way to the roof: such an upright is a tick, unless it is a wall.
func mergeTicked(in []slot, topOf func(float64) float64, wall func(x, top float64) bool) []slot {
	var out []slot
	for _, s := range in {
		if n := len(out); n > 0 && out[n-1].right && s.left && out[n-1].x1 == s.x0 {
			reach := topOf(s.x0) - s.bottom
			if !wall(s.x0, topOf(s.x0)) && s.roof && out[n-1].roof && math.Abs(out[n-1].top-s.top) < 1 &&
				reach < 0.66*(s.top-s.bottom) && reach < 16 && s.x1-s.x0 < 60 {
				out[n-1].ticks = append(append(out[n-1].ticks, s.x0), s.ticks...)
				out[n-1].tickTop = math.Max(out[n-1].tickTop, math.Max(s.tickTop, topOf(s.x0)))
				out[n-1].x1, out[n-1].right, out[n-1].wallR = s.x1, s.right, s.wallR
				continue
			}
		}
		out = append(out, s)
	}
	return out
}

// mergeGroups joins neighbouring slots of a rule whose cells are all of one width, though taller uprights stand
// between their groups: they are the cells of one number. Groups with words of their own above stay apart.
func (f *finder) mergeGroups(in []slot, topOf func(float64) float64) []slot {
	pitch := func(s slot) float64 { return (s.x1 - s.x0) / float64(len(s.ticks)+1) }
	var out []slot
	for i := 0; i < len(in); {
		j, cells := i+1, len(in[i].ticks)+1
		p := pitch(in[i])
		ticked := len(in[i].ticks) > 0
		top := 0.0
		for j < len(in) && in[j].x0 == in[j-1].x1 && math.Abs(pitch(in[j])-p) < 0.08*p+0.3 && even(in[j]) && even(in[i]) &&
			topOf(in[j].x0)-in[j].bottom <= tallestCell+hair && !f.headed(in[j]) {
			top = math.Max(top, topOf(in[j].x0))
			ticked = ticked || len(in[j].ticks) > 0
			cells += len(in[j].ticks) + 1
			j++
		}
		if j-i < 2 || !ticked || cells < 3 || p < 6 || p > maxSign {
			out = append(out, in[i])
			i++
			continue
		}
		one := in[i]
		for _, s := range in[i+1 : j] {
			one.ticks = append(append(one.ticks, s.x0), s.ticks...)
			one.roof, one.top = one.roof && s.roof, math.Min(one.top, s.top)
		}
		one.x1, one.right, one.wallR, one.tickTop = in[j-1].x1, in[j-1].right, in[j-1].wallR, top
		out = append(out, one)
		i = j
	}
	return out
}

// tallestCell is how high the cells of a comb are at most.
const tallestCell = 36.0

// headed tells whether words begin right above a slot, other than the letters of a date.
func (f *finder) headed(s slot) bool {
	return slices.ContainsFunc(f.lines, func(l evidence.Line) bool {
		return l.Rect.X0 > s.x0-2 && l.Rect.X1 < s.x1+20 && l.Rect.Y0 > s.bottom && l.Rect.Y0 < s.bottom+tallestCell &&
			!isDatePart(l.Text())
	})
}

// even tells whether the ticks divide the slot into cells of one width.
func even(s slot) bool {
	step := (s.x1 - s.x0) / float64(len(s.ticks)+1)
	if step < 6 || step > 40 {
		return false
	}
	for i, x := range s.ticks {
		if math.Abs(x-(s.x0+step*float64(i+1))) > step*0.2 {
			return false
		}
	}
	return true
}

// isDatePart tells whether words under a cell only say which sign of a date goes there:
// the letters for day, month and year in the languages of the lexicon.
func isDatePart(s string) bool {
	return strings.Trim(strings.ToUpper(s), "DMYTJAGR") == "" && len([]rune(s)) <= 4
}
