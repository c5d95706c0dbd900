package detect

import (
	"cmp"
	"fmt"
	"math"
	"slices"

	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
)

// blankEnd is the blank end of a line of words, before a wall.
type blankEnd struct{ rect geom.Rect }

// commonEnds takes blank ends of lines that stand below each other and begin at one
// tab stop: four and more of them are a column to write in.
func (f *finder) commonEnds() {
	slices.SortFunc(f.ends, func(a, b blankEnd) int {
		return cmp.Or(cmp.Compare(math.Round(a.rect.X1/2), math.Round(b.rect.X1/2)), cmp.Compare(b.rect.Y0, a.rect.Y0))
	})
	for i := 0; i < len(f.ends); {
		j := i + 1
		for j < len(f.ends) && math.Abs(f.ends[j].rect.X1-f.ends[i].rect.X1) < 2 {
			j++
		}
		group := f.ends[i:j]
		i = j
		var starts []float64
		for _, e := range group {
			starts = append(starts, e.rect.X0)
		}
		slices.Sort(starts)
		mid := starts[len(starts)/2]
		var column []blankEnd
		stop := 0.0
		for _, e := range group {
			if math.Abs(e.rect.X0-mid) <= 14 {
				column = append(column, e)
				stop = math.Max(stop, e.rect.X0)
			}
		}
		if len(column) < 4 {
			continue
		}
		for _, e := range column {
			r := e.rect
			r.X0 = stop
			if r.W() < 26 || r.H() < minSlotH {
				continue
			}
			f.cands = append(f.cands, candidate{
				kind: form.Text, how: fromColumn, rect: r, area: r, score: 0.8, free: r.H(),
				what: fmt.Sprintf("blank end %s pt wide of a line, in a column of %d", pt(r.W()), len(column)),
			})
		}
	}
}

// thickAt tells whether a rule is thicker than those of forms and than the others of its page.
func (f *finder) thickAt(s slot) bool {
	const thick = 2.1
	n, own := 0, false
	for _, h := range f.ev.H {
		if h.Thick < thick || h.Len() < 100 {
			continue
		}
		n++
		own = own || math.Abs(h.At-s.bottom) < 0.5 && h.From < s.x0+2 && h.To > s.x1-2
	}
	return own && n <= 4
}

// ticksIn counts the boxes to tick that stand lower than y.
func ticksIn(ink []mark, y float64) int {
	n := 0
	for _, k := range ink {
		if k.tick && k.rect.Y0 < y {
			n++
		}
	}
	return n
}

// overWords is the height that is blank above the words of a cell.
func overWords(area geom.Rect, ink []mark) float64 {
	top := area.Y0
	for _, k := range ink {
		top = math.Max(top, k.rect.Y1)
	}
	return area.Y1 - top
}

// mitred is how far from its corner a side of a frame may end, in points: word processors cut corners of broad borders at an angle.
const mitred = 4.0

// hanging tells whether uprights hang from both ends of the bottom rule and none
// stands on it.
func (f *finder) hanging(s slot) bool {
	at := func(x float64) bool {
		return slices.ContainsFunc(f.ev.V, func(v evidence.Rule) bool {
			return math.Abs(v.At-x) < mitred && math.Abs(v.To-s.bottom) < mitred && v.From < s.bottom-6
		})
	}
	return at(s.x0) && at(s.x1)
}

// fieldHeight chooses how high a field stands on its rule, given the free height.
// On printed forms fields are about 12 points high even in higher cells; a blank
// cell up to 18 points is filled, a higher one for the most part.
func fieldHeight(how source, free float64, under bool) float64 {
	if how == fromRule {
		return math.Min(free, math.Max(11, math.Min(14, free-1)))
	}
	switch {
	case free <= rowH+hair:
		return free
	case under:
		return 14
	case free > 60+hair:
		return 14
	case free > multiFrom: // too narrow for several lines
		return lowCell * free
	case free <= multiFrom:
		return math.Max(15, tallCell*free)
	}
	return 15
}

// mark is what stands in an area already: a word, a tick box.
type mark struct {
	rect   geom.Rect
	base   float64 // of words
	text   string
	leader bool
	tick   bool
}

func (f *finder) inkIn(area geom.Rect) []mark {
	var out []mark
	for i := range f.ev.Words {
		w := &f.ev.Words[i]
		if w.Rect.Y0 >= area.Y1+1 || w.Rect.Y1 <= area.Y0-1 || w.Rect.X0 >= area.X1 || w.Rect.X1 <= area.X0 || isPattern(w.Text) {
			continue
		}
		if area.Contains(w.Rect.Mid()) || w.Rect.Intersect(area).Area() > 0.35*w.Rect.Area() {
			out = append(out, mark{
				rect: w.Rect, base: w.Base, text: w.Text, leader: evidence.IsLeader(w.Text),
				tick: evidence.IsTick(w.Text),
			})
		}
	}
	for _, r := range f.ev.Ink {
		if r.Y0 < area.Y1 && r.Y1 > area.Y0 && area.Inset(1).Contains(r.Mid()) {
			out = append(out, mark{rect: r, base: r.Y0})
		}
	}
	for _, t := range f.ticks {
		if area.Overlaps(t) && t.Area() < 0.7*area.Area() {
			out = append(out, mark{rect: t, base: t.Y0, tick: true})
		}
	}
	slices.SortFunc(out, func(a, b mark) int { return cmp.Compare(a.rect.X0, b.rect.X0) })
	return out
}

// blank finds the widest blank stretch of the writing band just above the rule.
// Rank is a bonus or malus to the confidence that this stretch gives.
func (f *finder) blank(s slot, area geom.Rect, all []mark, band float64) (gap [2]float64, rank float64, found bool) {
	var low []mark
	for _, k := range all {
		// what merely hangs down from a line of words above is not in the way
		if k.rect.Y0 < area.Y0+band-1.5 && k.rect.Y1 > area.Y0+0.8 && (k.base < area.Y0+band-1.5 || k.leader) {
			low = append(low, k)
		}
	}
	if len(low) == 0 {
		return [2]float64{s.x0, s.x1}, 0, true
	}
	x, best := s.x0, [2]float64{}
	if !slices.ContainsFunc(low, func(k mark) bool { return !k.tick }) {
		return gap, 0, false // it is there for its box to tick
	}
	leaders := false
	last := ""
	lastText := ""
	for _, k := range low {
		if k.rect.X0-x > best[1]-best[0] {
			best = [2]float64{x, k.rect.X0}
			lastText = last
		}
		x = math.Max(x, k.rect.X1)
		leaders = leaders || k.leader
		last = k.text
	}
	if s.x1-x > best[1]-best[0] {
		best = [2]float64{x, s.x1}
		lastText = last
	}
	w := best[1] - best[0]
	if best[0] > s.x0 {
		best[0] += 3 // clear of the label
	}
	if best[1] < s.x1 {
		best[1] -= 3
	}
	colon := len(lastText) > 0 && (lastText[len(lastText)-1] == ':' || lastText == "►" || lastText == "▶")
	share := w / area.W()
	switch {
	case leaders || w < 26:
		return best, 0, false
	case colon && share >= 0.2:
		return best, -0.02, true
	case share >= 0.5 && w >= 40 && len(lastText) > 3 && lastText[len(lastText)-1] == '.':
		return best, besideWords + afterSentence, true
	case share >= 0.5 && w >= 40:
		return best, besideWords, true
	}
	return best, 0, false
}

// textWidth is the width from the leftmost to the rightmost word of the page.
func (f *finder) textWidth() float64 {
	if len(f.ev.Words) == 0 {
		return f.ev.Width
	}
	x0, x1 := math.Inf(1), math.Inf(-1)
	for _, w := range f.ev.Words {
		x0, x1 = math.Min(x0, w.Rect.X0), math.Max(x1, w.Rect.X1)
	}
	return x1 - x0
}
