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

// findLeaders takes runs of underscores and dots that lead to nothing.
func (f *finder) findLeaders() {
	for _, w := range f.ev.Words {
		if !evidence.IsLeader(w.Text) || f.inTyped(w) {
			continue
		}
		dots := w.Text[0] != '_'
		n := len([]rune(w.Text))
		r := w.Rect
		if r.W() < 18 || n < 4 {
			continue
		}
		c := candidate{kind: form.Text, how: fromLeader, score: 0.86}
		size := f.typeSize(w)
		height := math.Max(11, math.Min(18, size*1.25))
		if dots {
			c.score = 0.62
			c.what = fmt.Sprintf("dotted leader %s pt long", pt(r.W()))
			if f.leadsToSomething(r) {
				continue
			}
			c.rect = geom.Rect{X0: r.X0, Y0: r.Y0 - 1.5, X1: r.X1, Y1: r.Y0 - 1.5 + height}
		} else {
			c.what = fmt.Sprintf("row of underscores %s pt long", pt(r.W()))
			c.rect = geom.Rect{X0: r.X0, Y0: r.Y0, X1: r.X1, Y1: r.Y0 + height}
		}
		c.rect = f.underWords(c.rect)
		c.area = c.rect
		f.cands = append(f.cands, c)
	}
	f.joinLeaders()
}

// underWords makes a place lower when words stand in its upper part.
func (f *finder) underWords(r geom.Rect) geom.Rect {
	out := r
	for _, l := range f.lines {
		if l.Rect.Y0 > r.Y0+minSlotH && l.Rect.Y0 < out.Y1 && l.Rect.OverlapX(r) > 1 {
			out.Y1 = l.Rect.Y0 - 0.3
		}
	}
	return out
}

// tornGap is how much of a leader gets lost on a scan at most.
const tornGap = 18.0

// joinLeaders makes one candidate of pieces of a leader that follow each other.
func (f *finder) joinLeaders() {
	var out []candidate
	for _, c := range f.cands {
		if n := len(out); c.how == fromLeader && n > 0 && out[n-1].how == fromLeader {
			p := &out[n-1]
			gap := c.rect.X0 - p.rect.X1
			torn := f.ev.Ground != nil && gap < tornGap && f.oneLeader(p.rect, c.rect)
			if math.Abs(p.rect.Y0-c.rect.Y0) < 1.5 && gap > -1 && (gap < 2 || torn || gap < 24 && f.separated(p.rect, c.rect)) {
				if gap >= 2 && !torn {
					p.parts = max(p.parts, 1) + 1
					p.what = fmt.Sprintf("row of underscores in %d parts", p.parts)
				}
				p.rect, p.area = p.rect.Union(c.rect), p.area.Union(c.rect)
				continue
			}
		}
		out = append(out, c)
	}
	f.cands = out
}

// oneLeader tells whether two long pieces of leaders on one line are one: nothing stands between them, and the second has no words
// of its own.
func (f *finder) oneLeader(a, b geom.Rect) bool {
	return math.Min(a.W(), b.W()) > 2*tornGap && !f.wordsBetween(a, b) && !f.beginsUnderWords(b)
}

// beginsUnderWords tells whether words begin right above or below a blank where it begins: it is their own.
func (f *finder) beginsUnderWords(r geom.Rect) bool {
	return slices.ContainsFunc(f.lines, func(l evidence.Line) bool {
		return math.Abs(l.Rect.X0-r.X0) < 8 && l.Rect.Y0-r.Y1 < 14 && r.Y0-l.Rect.Y1 < 10 && !evidence.IsLeader(l.Words[0].Text)
	})
}

// separated tells whether nothing but a stroke or a stop stands between two blanks, as in
// the parts of a date.
func (f *finder) separated(a, b geom.Rect) bool {
	between := geom.Rect{X0: a.X1 - 0.5, X1: b.X0 + 0.5, Y0: a.Y0, Y1: a.Y0 + 8}
	n := 0
	for _, w := range f.ev.Words {
		if !evidence.IsLeader(w.Text) && between.Contains(w.Rect.Mid()) {
			if strings.Trim(w.Text, "/.-–") != "" {
				return false
			}
			n++
		}
	}
	return n > 0
}

// typeSize is the size of the type beside a leader.
func (f *finder) typeSize(w evidence.Word) float64 {
	for _, l := range f.lines {
		if math.Abs(l.Base-w.Base) < 4 {
			return l.Size
		}
	}
	return 11
}

// leadsToSomething tells whether a leader only leads the eye: to a figure, such as a price or the number of a
// page, to a drawn cell, or to words that begin at one stop in several rows. Words that go on after it in a sentence,
// and units, say that it is a blank.
func (f *finder) leadsToSomething(r geom.Rect) bool {
	for _, v := range f.ev.V {
		if v.At > r.X1-2 && v.At < r.X1+leaderReach && v.Len() < tallestColumn/2 && v.From < r.Y0+8 && v.To > r.Y0-2 {
			return true
		}
	}
	next := f.after(r)
	if next == nil {
		return f.pricedFarOff(r)
	}
	if evidence.IsLeader(next.Text) {
		return f.leadsToSomething(next.Rect)
	}
	if f.asks(next) {
		return false
	}
	if strings.ContainsFunc(next.Text, unicode.IsDigit) || !strings.ContainsFunc(next.Text, unicode.IsLetter) {
		return true
	}
	if len([]rune(strings.TrimRight(next.Text, ".,;"))) <= longestUnit {
		return false
	}
	rows := 0
	for i := range f.ev.Words {
		if w := &f.ev.Words[i]; evidence.IsLeader(w.Text) && w.Text[0] != '_' {
			if o := f.after(w.Rect); o != nil && math.Abs(o.Rect.X0-next.Rect.X0) < 2 {
				rows++
			}
		}
	}
	return rows >= 3
}

// pricedFarOff tells whether figures stand at the end of the line of a leader that stops well before them, as in several lines:
// a list of prices.
func (f *finder) pricedFarOff(r geom.Rect) bool {
	figure := func(r geom.Rect) (end float64) {
		for _, l := range f.lines {
			for _, w := range l.Words {
				if w.Rect.X0 > r.X1 && math.Abs(w.Base-r.Y0) < 2 {
					if end > 0 || strings.ContainsFunc(w.Text, unicode.IsLetter) || !strings.ContainsAny(w.Text, "0123456789?") {
						return 0
					}
					end = w.Rect.X1
				}
			}
		}
		return end
	}
	end := figure(r)
	if end == 0 {
		return false
	}
	rows := 0
	for _, w := range f.ev.Words {
		if evidence.IsLeader(w.Text) && math.Abs(figure(w.Rect)-end) < 2 {
			rows++
		}
	}
	return rows >= 2
}

// asks tells whether a word begins a question of its own: a line that ends in a colon, or that a blank follows.
func (f *finder) asks(w *evidence.Word) bool {
	return slices.ContainsFunc(f.lines, func(l evidence.Line) bool {
		if l.Words[0].Rect != w.Rect {
			return false
		}
		if strings.HasSuffix(strings.TrimSpace(l.Text()), ":") {
			return true
		}
		next := f.after(l.Rect)
		return next != nil && evidence.IsLeader(next.Text)
	})
}

const (
	leaderReach = 40.0 // what a leader leads to stands so near its end
	longestUnit = 4    // letters of "kg", "Std", "pcs" and their like
)

// after is the first word that stands on the line of a leader right of it, if it is near.
func (f *finder) after(r geom.Rect) *evidence.Word {
	probe := geom.Rect{X0: r.X1, X1: r.X1 + leaderReach, Y0: r.Y0 - 2, Y1: r.Y0 + 8}
	var next *evidence.Word
	for i := range f.ev.Words {
		if w := &f.ev.Words[i]; probe.Overlaps(w.Rect) && (next == nil || w.Rect.X0 < next.Rect.X0) {
			next = w
		}
	}
	return next
}

// stackRules makes one place of several lines of rules that lie below each other at one
// distance, of one length, with no words between or beside them.
func (f *finder) stackRules() {
	var rules []int
	for i, c := range f.cands {
		if c.how == fromRule && c.comb == 0 && c.rect.W() > 120 {
			rules = append(rules, i)
		}
	}
	slices.SortFunc(rules, func(a, b int) int { return cmp.Compare(f.cands[b].rect.Y0, f.cands[a].rect.Y0) })
	gone := map[int]bool{}
	for k := 0; k < len(rules); k++ {
		if gone[rules[k]] {
			continue
		}
		stack := []int{rules[k]}
		step := 0.0
		for _, next := range rules[k+1:] {
			last := f.cands[stack[len(stack)-1]].area
			r := f.cands[next].area
			d := last.Y0 - r.Y0
			if math.Abs(r.X0-last.X0) > 3 || math.Abs(r.X1-last.X1) > 3 || d < 10 {
				continue
			}
			if d > 34 || step > 0 && math.Abs(d-step) > 2 ||
				f.wordsNear(geom.Rect{X0: last.X0 - 20, X1: last.X1, Y0: r.Y0 - 1, Y1: last.Y0 - 1}) || f.labelled(r, r.Y0-1, last.Y0-1) {
				break
			}
			step = d
			stack = append(stack, next)
		}
		if len(stack) < 2 {
			continue
		}
		top := &f.cands[stack[0]]
		last := f.cands[stack[len(stack)-1]]
		top.multiline = true
		top.rect.Y0, top.area.Y0 = last.rect.Y0, last.area.Y0
		top.rect.Y1 = math.Max(top.rect.Y1, math.Min(f.cands[stack[0]].area.Y1, last.rect.Y0+step*float64(len(stack))-1))
		if blank := top.free; blank > 0 {
			base := last.rect.Y0 + step*float64(len(stack)-1)
			top.rect.Y1 = math.Min(top.rect.Y1, base+math.Max(11, blank))
		}
		top.what = fmt.Sprintf("%d rules below each other", len(stack))
		top.score = math.Max(top.score, 0.8)
		top.divider = false
		for _, i := range stack[1:] {
			gone[i] = true
		}
	}
	if len(gone) == 0 {
		return
	}
	kept := f.cands[:0:0]
	for i, c := range f.cands {
		if !gone[i] {
			kept = append(kept, c)
		}
	}
	f.cands = kept
}

// labelled tells whether words stand left of a rule between two heights, with nothing to write on between them and it.
func (f *finder) labelled(r geom.Rect, low, high float64) bool {
	return slices.ContainsFunc(f.lines, func(l evidence.Line) bool {
		if m := l.Rect.Mid(); m.Y < low || m.Y > high || l.Rect.X1 > r.X0+2 || r.X0-l.Rect.X1 > farLabel || numbering(l.Text()) {
			return false
		}
		return !slices.ContainsFunc(f.cands, func(o candidate) bool {
			return o.rect.X0 >= l.Rect.X1-4 && o.rect.X1 <= r.X0+2 && o.rect.Y0 < high && o.rect.Y1 > low
		})
	})
}

// farLabel is how far left of its place a label stands at most.
const farLabel = 300.0

// wordsNear tells whether words, other than leaders, stand in an area.
func (f *finder) wordsNear(r geom.Rect) bool {
	return slices.ContainsFunc(f.ev.Words, func(w evidence.Word) bool {
		return !evidence.IsLeader(w.Text) && w.Rect.Intersect(r).Area() > 0.3*w.Rect.Area()
	})
}
