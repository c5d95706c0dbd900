package detect

import (
	"cmp"
	"math"
	"slices"
	"strings"

	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
)

// settled is a candidate with its label, on its way to being a find.
type settled struct {
	candidate
	label label
	conf  float64
	kind  form.Kind
	group string // the question that radio buttons answer together
}

// choices makes radio groups of tick boxes that answer one question of which one
// answer is meant: yes and no, circles, or where the wording says so.
func (f *finder) choices(all []settled) {
	var ticks []int
	for i, c := range all {
		if c.candidate.kind == form.CheckBox {
			ticks = append(ticks, i)
		}
	}
	used := map[int]bool{}
	for _, chain := range f.chains(all, ticks) {
		chain = slices.DeleteFunc(chain, func(i int) bool { return used[i] })
		for _, part := range f.answers(all, chain) {
			q := f.questionOf(all, part)
			if !f.onlyOne(all, part, q) {
				continue
			}
			name := q
			if name == "" {
				name = "choice"
			}
			for _, i := range part {
				all[i].kind, all[i].group = form.Radio, name
				used[i] = true
			}
		}
	}
}

// chains are runs of tick boxes of one size: on one line, and below each other.
func (f *finder) chains(all []settled, ticks []int) [][]int {
	rect := func(i int) geom.Rect { return all[i].rect }
	var out [][]int
	sorted := slices.Clone(ticks)
	same := func(a, b geom.Rect) bool { return math.Abs(a.W()-b.W()) < 1.5 && math.Abs(a.H()-b.H()) < 1.5 }
	// on a line, from the left
	slices.SortFunc(sorted, func(a, b int) int {
		return cmp.Or(cmp.Compare(math.Round(rect(b).Mid().Y/3), math.Round(rect(a).Mid().Y/3)), cmp.Compare(rect(a).X0, rect(b).X0))
	})
	for i := 0; i < len(sorted); {
		j := i + 1
		for j < len(sorted) && same(rect(sorted[j]), rect(sorted[i])) && math.Abs(rect(sorted[j]).Mid().Y-rect(sorted[i]).Mid().Y) < 3 {
			j++
		}
		if j-i >= 2 {
			out = append(out, slices.Clone(sorted[i:j]))
		}
		i = j
	}
	// below each other, from the top
	slices.SortFunc(sorted, func(a, b int) int {
		return cmp.Or(cmp.Compare(math.Round(rect(a).X0/3), math.Round(rect(b).X0/3)), cmp.Compare(rect(b).Y0, rect(a).Y0))
	})
	for i := 0; i < len(sorted); {
		j := i + 1
		for j < len(sorted) && same(rect(sorted[j]), rect(sorted[i])) && math.Abs(rect(sorted[j]).X0-rect(sorted[i]).X0) < 3 &&
			rect(sorted[j-1]).Y0-rect(sorted[j]).Y1 < 26 {
			j++
		}
		if j-i >= 2 {
			out = append(out, slices.Clone(sorted[i:j]))
		}
		i = j
	}
	return out
}

// answers cuts a chain where another question begins: a pair of yes and no is a
// question's own, and so is a line of boxes after words that end with a colon or a
// question mark.
func (f *finder) answers(all []settled, chain []int) [][]int {
	var out [][]int
	start := 0
	for i := 1; i <= len(chain); i++ {
		if i < len(chain) && !(f.isPair(all, chain[i-1:i+1]) && i-1 > start) && !f.newQuestion(all, chain[i-1], chain[i]) &&
			!(i-start == 2 && f.isPair(all, chain[start:i])) {
			continue
		}
		if i-start >= 2 {
			out = append(out, chain[start:i])
		}
		start = i
	}
	return out
}

// newQuestion tells whether words that are no answer stand between two boxes of a chain.
func (f *finder) newQuestion(all []settled, a, b int) bool {
	ra, rb := all[a].rect, all[b].rect
	if ra.OverlapY(rb) > 0 { // on a line: the words after a belong to it, unless they ask
		between := strings.TrimSpace(all[a].label.raw)
		return strings.HasSuffix(between, "?") || strings.HasSuffix(between, ":") || rb.X0-ra.X1 > 260
	}
	for _, l := range f.lines { // above each other: a line of words that begins left of the boxes
		if l.Rect.Y0 > rb.Y1-1 && l.Rect.Y1 < ra.Y0+1 && l.Rect.X0 < rb.X0-2 {
			return true
		}
	}
	return false
}

func (f *finder) isPair(all []settled, pair []int) bool {
	if len(pair) != 2 {
		return false
	}
	say := func(i int, sense string) bool {
		ws := wordsOf(all[i].label.text)
		return len(ws) == 1 && loadLexicon().is(ws[0], sense)
	}
	a, b := all[pair[0]], all[pair[1]]
	if (a.label.where == none) != (b.label.where == none) && a.rect.OverlapY(b.rect) > 0 && b.rect.X0-a.rect.X1 < 70 {
		i := pair[0] // the words of the other were not read
		if a.label.where == none {
			i = pair[1]
		}
		return say(i, "yes") || say(i, "no")
	}
	return say(pair[0], "yes") && say(pair[1], "no") || say(pair[0], "no") && say(pair[1], "yes")
}

// onlyOne tells whether the boxes stand for answers of which one is meant.
func (f *finder) onlyOne(all []settled, part []int, question string) bool {
	switch {
	case f.isPair(all, part):
		return true
	case speaks(question, "choose-many"):
		return false
	case speaks(question, "choose-one"):
		return true
	}
	for _, i := range part {
		if !all[i].round {
			return false
		}
	}
	return true
}

// questionOf reads the words that ask: left of the first box on its line, or the
// nearest line above that is no answer.
func (f *finder) questionOf(all []settled, part []int) string {
	first := all[part[0]].rect
	answer := func(l evidence.Line) bool {
		return slices.ContainsFunc(part, func(i int) bool {
			return all[i].label.raw == l.Text() && all[i].label.where != above && all[i].label.where != header
		})
	}
	best, text := math.Inf(-1), ""
	for _, l := range f.lines {
		if l.Rect.X1 <= first.X0+2 && l.Rect.OverlapY(first) > 0.3*math.Min(l.Rect.H(), first.H()) && l.Rect.X1 > best && !answer(l) {
			best, text = l.Rect.X1, l.Text()
		}
	}
	if text != "" && !numbering(text) {
		return clean(text)
	}
	low := math.Inf(1)
	for _, l := range f.lines {
		if d := l.Rect.Y0 - first.Y1; d > -2 && d < 30 && d < low && l.Rect.X0 < first.X1+60 && l.Rect.X1 > first.X0-60 && !answer(l) {
			low, text = d, l.Text()
		}
	}
	return clean(text)
}

// export is the value of a radio button: its answer, short and in plain letters.
func export(answer string) string {
	return strings.Join(significant(answer, 3), "_")
}
