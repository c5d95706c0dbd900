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

const (
	leastRows   = 3    // of a run: two rules may part anything
	widestLabel = 0.62 // share of a row that its label takes at most
	leastAnswer = 60.0 // points that are left to write in
	wordGap     = 14.0 // wider, and other words begin
	tallestRow  = 62.0 // taller, and the rules part sections
	roomBelow   = 9.5  // free height below a label in which one writes
	filledRow   = 38.0 // a row up to here, with its label half way up, is filled by its field
)

// ruledRow is a row of a run of rules with nothing but a label at its left.
type ruledRow struct {
	area  geom.Rect
	label geom.Rect
	words string
}

// stacked tells whether the label stands over a blank line rather than beside it: there is room for writing between it
// and the rule, and without a colon, or more than above it.
func (r ruledRow) stacked() bool {
	below, above := r.label.Y0-r.area.Y0, r.area.Y1-r.label.Y1
	return below >= roomBelow && (below > 1.5*above || !strings.HasSuffix(r.words, ":") && below > 0.7*above)
}

// ruledRows finds runs of rows that are parted by rules across the whole width and have a label at the left
// and nothing else: the place to write is what is right of the labels, from one tab stop.
func (f *finder) ruledRows() {
	for _, rules := range f.rowRules() {
		rows := f.labelledRows(rules)
		colons, stop, over := 0, 0.0, 0
		for _, r := range rows {
			if r.stacked() {
				over++
			}
			if strings.HasSuffix(r.words, ":") {
				colons++
			}
			stop = math.Max(stop, r.label.X1+6)
		}
		if 10*len(rows) < 7*len(rules) || 2*over > len(rows) {
			continue
		}
		score := 0.86
		if 2*colons < len(rows) {
			score = 0.58 // a list may look so as well
		}
		f.cands = slices.DeleteFunc(f.cands, func(c candidate) bool {
			return c.kind == form.Text && slices.ContainsFunc(rows, func(r ruledRow) bool { return r.area.Inset(-2).Covers(c.rect, 0) })
		})
		for _, r := range rows {
			rect := r.area.Inset(1)
			rect.X0 = stop
			if rect.W() < leastAnswer {
				rect.X0 = r.label.X1 + 4
			}
			if middle := math.Abs(r.label.Mid().Y-r.area.Mid().Y) < 0.2*r.area.H(); !middle && rect.H() > rowH+hair {
				rect.Y1 = rect.Y0 + 15
			} else if rect.H() > filledRow {
				rect.Y0, rect.Y1 = r.label.Mid().Y-filledRow/2, r.label.Mid().Y+filledRow/2
			}
			f.cands = append(f.cands, candidate{
				kind: form.Text, how: fromColumn, rect: rect, area: r.area, caption: r.words,
				score: score, free: r.area.H(), what: fmt.Sprintf("rest of a ruled row, one of %d", len(rows)),
			})
		}
	}
}

// rowRules are the runs of rules of one extent below each other, from the top down, with no uprights between
// their ends.
func (f *finder) rowRules() [][]evidence.Rule {
	wide := slices.DeleteFunc(slices.Clone(f.ev.H), func(h evidence.Rule) bool { return h.Len() < 150 })
	slices.SortFunc(wide, func(a, b evidence.Rule) int {
		return cmp.Or(cmp.Compare(math.Round(a.From/3), math.Round(b.From/3)), cmp.Compare(math.Round(a.To/3), math.Round(b.To/3)),
			cmp.Compare(b.At, a.At))
	})
	walled := func(low, high float64, from, to float64) bool {
		return slices.ContainsFunc(f.walls, func(v evidence.Rule) bool {
			return v.At > from+3 && v.At < to-3 && math.Min(v.To, high)-math.Max(v.From, low) > 0.5*(high-low)
		})
	}
	var runs [][]evidence.Rule
	for i := 0; i < len(wide); {
		j := i + 1
		for j < len(wide) && math.Abs(wide[j].From-wide[i].From) < 3 && math.Abs(wide[j].To-wide[i].To) < 3 {
			d := wide[j-1].At - wide[j].At
			if d < minSlotH || d > tallestRow || math.Abs(wide[j].Thick-wide[i].Thick) > 1 || wide[j].Dashed != wide[i].Dashed ||
				walled(wide[j].At, wide[j-1].At, wide[i].From, wide[i].To) {
				break
			}
			j++
		}
		runs = append(runs, wide[i:j])
		i = j
	}
	var out [][]evidence.Rule
	for i, run := range runs {
		n := len(run)
		for k, other := range runs { // rows of several columns count together
			if k != i && len(run) > 1 && sameRules(run, other) {
				n += len(other)
			}
		}
		if n >= leastRows {
			out = append(out, run)
		}
	}
	return out
}

// sameRules tells whether two runs beside each other lie at the same heights, as far as the shorter goes.
func sameRules(a, b []evidence.Rule) bool {
	if len(b) < len(a) {
		a, b = b, a
	}
	for _, r := range a {
		if !slices.ContainsFunc(b, func(o evidence.Rule) bool { return math.Abs(o.At-r.At) < 1 }) {
			return false
		}
	}
	return true
}

// labelledRows are the rows above the rules that have a label at the left and nothing else. Words
// without a colon that hang right below a rule are the caption of what is above it.
func (f *finder) labelledRows(rules []evidence.Rule) []ruledRow {
	var rows []ruledRow
	step := (rules[0].At - rules[len(rules)-1].At) / float64(len(rules)-1)
	for i, rule := range rules {
		area := geom.Rect{X0: rule.From, X1: rule.To, Y0: rule.At, Y1: rule.At + step}
		if i > 0 {
			area.Y1 = rules[i-1].At
		}
		ink := f.inkIn(area)
		if len(ink) == 0 || f.ruledInside(area) {
			continue
		}
		label := ink[0].rect
		var words []string
		if last := ink[len(ink)-1]; len(ink) > 1 && len([]rune(last.text)) <= longestUnit &&
			last.rect.X0-ink[len(ink)-2].rect.X1 > leastAnswer &&
			!strings.ContainsFunc(last.text, unicode.IsDigit) {
			area.X1 = last.rect.X0 - 3 // a unit at the end
			ink = ink[:len(ink)-1]
		}
		for _, k := range ink {
			if k.leader || k.tick || k.rect.X0 > label.X1+wordGap {
				label = geom.Rect{}
				break
			}
			label, words = label.Union(k.rect), append(words, k.text)
		}
		if label.Empty() || label.X0 > area.X0+24 || label.W() > widestLabel*area.W() || area.X1-label.X1 < leastAnswer ||
			label.H() > area.H() || f.shaded(area) || !strings.ContainsFunc(ink[0].text, unicode.IsLetter) {
			continue
		}
		if area.Y1-label.Y1 < 0.4*(label.Y0-area.Y0) && i > 0 && !strings.HasSuffix(words[len(words)-1], ":") {
			continue
		}
		rows = append(rows, ruledRow{area, label, strings.Join(words, " ")})
	}
	return rows
}

// ruledInside tells whether rules of other extents lie inside an area.
func (f *finder) ruledInside(area geom.Rect) bool {
	return slices.ContainsFunc(f.ev.H, func(h evidence.Rule) bool {
		return h.At > area.Y0+2 && h.At < area.Y1-2 && math.Min(h.To, area.X1)-math.Max(h.From, area.X0) > 0.3*area.W()
	})
}

// askedInRows tells whether a rule is one of a run of rules each of which has words of its own: all right below it, or all
// above it with room to write between. Such rules are for answers, however wide they are.
func (f *finder) askedInRows(s slot) bool {
	for _, rules := range f.rowRules() {
		if !slices.ContainsFunc(rules, func(r evidence.Rule) bool {
			return math.Abs(r.At-s.bottom) < 0.5 && r.From < s.x0+3 && r.To > s.x1-3
		}) {
			continue
		}
		under, over := 0, 0
		for i, r := range rules {
			above, below := rules[0].At-rules[1].At, rules[0].At-rules[1].At
			if i > 0 {
				above = rules[i-1].At - r.At
			}
			if i+1 < len(rules) {
				below = r.At - rules[i+1].At
			}
			if f.captionAt(r, r.At-1, r.At-below, func(l geom.Rect) bool {
				return r.At-l.Y1 < maxHang && l.Y0-(r.At-below) >= roomBelow
			}) {
				under++
			}
			if f.captionAt(r, r.At+above, r.At+roomBelow-1, func(l geom.Rect) bool { return l.Y0-r.At >= roomBelow }) {
				over++
			}
		}
		if 10*max(under, over) >= 8*len(rules) {
			return true
		}
	}
	return false
}

// maxHang is how far below a rule its caption hangs at most.
const maxHang = 6.0

// captionAt tells whether the words between two heights along a rule are captions: few, no sentence, and all of them fit.
func (f *finder) captionAt(r evidence.Rule, high, low float64, fits func(geom.Rect) bool) bool {
	n := 0
	for _, l := range f.lines {
		m := l.Rect.Mid()
		if m.Y > high || m.Y < low || m.X < r.From || m.X > r.To {
			continue
		}
		if !fits(l.Rect) || len(l.Words) > captionWords || note(l.Text()) || !strings.ContainsFunc(l.Words[0].Text, unicode.IsLetter) {
			return false
		}
		n++
	}
	return n > 0
}
