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

// openTables finds tables whose rows are ruled or striped but whose columns are only
// told by the words at their heads, and makes a cell of every blank place in them. The
// rules between the rows are no longer lines to write on then.
func (f *finder) openTables() {
	for _, edges := range f.rowEdges() {
		f.openTable(edges)
	}
}

// rowEdges are the runs of three and more horizontal edges of one extent that lie below
// each other at one distance: rules, or the edges of stripes, from the top down.
func (f *finder) rowEdges() [][]evidence.Rule {
	ruled := slices.Clone(f.ev.H)
	for _, b := range f.ev.Boxes { // rows begin below a dark bar as well
		if r := b.Rect; !b.Stroked && b.Tone >= 0 && b.Tone < darkBar && r.H() >= 9 && r.H() <= 40 {
			ruled = append(ruled, evidence.Rule{Horizontal: true, From: r.X0, To: r.X1, At: r.Y0})
		}
	}
	out := evenRuns(ruled)
	var edges []evidence.Rule
	for _, h := range f.ev.H { // those that are part of no run of rules alone
		if !slices.ContainsFunc(out, func(run []evidence.Rule) bool {
			return slices.ContainsFunc(run, func(r evidence.Rule) bool { return math.Abs(r.At-h.At) < 0.5 && math.Abs(r.From-h.From) < 3 })
		}) {
			edges = append(edges, h)
		}
	}
	striped := func(stripes []stripe) [][]evidence.Rule {
		all := slices.Clone(edges)
		for _, s := range stripes {
			all = append(all, evidence.Rule{Horizontal: true, From: s.rect.X0, To: s.rect.X1, At: s.rect.Y0},
				evidence.Rule{Horizontal: true, From: s.rect.X0, To: s.rect.X1, At: s.rect.Y1})
		}
		return evenRuns(all)
	}
	stripes := f.stripes()
	rows := striped(stripes)
	if f.ev.Ground != nil {
		asHighAsGaps(stripes)
		if even := striped(stripes); edgesOf(even) > edgesOf(rows) {
			rows = even
		}
	}
	return append(out, rows...)
}

func edgesOf(runs [][]evidence.Rule) int {
	n := 0
	for _, r := range runs {
		n += len(r)
	}
	return n
}

// asHighAsGaps makes stripes that follow each other at one distance as high as the gaps between them, where they nearly are: on a noisy
// scan it is not clear where a pale tint ends.
func asHighAsGaps(stripes []stripe) {
	for i := 0; i+1 < len(stripes); {
		pitch := stripes[i].rect.Mid().Y - stripes[i+1].rect.Mid().Y
		j := i
		for j+1 < len(stripes) {
			a, b := stripes[j].rect, stripes[j+1].rect
			apart := a.Mid().Y - b.Mid().Y
			if math.Abs(a.X0-b.X0) > 3 || math.Abs(a.X1-b.X1) > 3 || math.Abs(apart-pitch) > 2 || pitch < 2*minSlotH || pitch > 80 {
				break
			}
			j++
		}
		for k := i; k <= j && j > i; k++ {
			if r := &stripes[k].rect; r.H() > 0.35*pitch && r.H() < 0.65*pitch {
				r.Y0, r.Y1 = r.Mid().Y-pitch/4, r.Mid().Y+pitch/4
			}
		}
		i = max(j, i+1)
	}
}

// darkBar is how light a bar with light words on it is at most.
const darkBar = 0.5

// evenRuns finds runs of edges of one extent at one distance.
func evenRuns(edges []evidence.Rule) [][]evidence.Rule {
	edges = slices.DeleteFunc(slices.Clone(edges), func(h evidence.Rule) bool { return h.Len() < 150 })
	slices.SortFunc(edges, func(a, b evidence.Rule) int {
		return cmp.Or(cmp.Compare(b.At, a.At), cmp.Compare(a.From, b.From))
	})
	var alike [][]evidence.Rule // edges of one extent, from the top down
	for _, e := range edges {
		i := slices.IndexFunc(alike, func(of []evidence.Rule) bool {
			last := of[len(of)-1]
			return math.Abs(last.From-e.From) < 3 && math.Abs(last.To-e.To) < 3
		})
		if i < 0 {
			alike = append(alike, []evidence.Rule{e})
			continue
		}
		alike[i] = append(alike[i], e)
	}
	var out [][]evidence.Rule
	for _, of := range alike {
		out = append(out, runsAt(of)...)
	}
	return out
}

// runsAt are the runs at one distance among edges of one extent.
func runsAt(edges []evidence.Rule) [][]evidence.Rule {
	var out [][]evidence.Rule
	for i := 0; i < len(edges); {
		run := []evidence.Rule{edges[i]}
		j, step := i+1, 0.0
		for ; j < len(edges); j++ {
			d := run[len(run)-1].At - edges[j].At
			if d >= 0 && d < 1.5 {
				continue // the edge of a stripe along a rule
			}
			if d < minSlotH || d > 40 || step > 0 && math.Abs(d-step) > 2.5 {
				break
			}
			step = d
			run = append(run, edges[j])
		}
		if len(run) < 3 { // another may begin within it: below the head of a table
			i++
			continue
		}
		out = append(out, run)
		i = max(j, i+1)
	}
	return out
}

// stripe is a tinted row; cuts are the edges of the cells that it was painted in.
type stripe struct {
	rect geom.Rect
	cuts []float64
}

// stripes are the tinted rows of a page: areas of one colour beside each other are one.
func (f *finder) stripes() []stripe {
	var tints []evidence.Box
	for _, b := range f.ev.Boxes {
		if r := b.Rect; !b.Stroked && !b.Round && b.Tone >= shade && b.Tone < 1 && r.H() >= 9 && r.H() <= 40 && r.W() > 14 {
			tints = append(tints, b)
		}
	}
	slices.SortFunc(tints, func(a, b evidence.Box) int {
		return cmp.Or(cmp.Compare(math.Round(b.Rect.Y0), math.Round(a.Rect.Y0)), cmp.Compare(a.Rect.X0, b.Rect.X0))
	})
	var out []stripe
	for i := 0; i < len(tints); {
		s := stripe{tints[i].Rect, []float64{tints[i].Rect.X0, tints[i].Rect.X1}}
		j := i + 1
		for ; j < len(tints); j++ {
			r := tints[j].Rect
			if math.Abs(r.Y0-s.rect.Y0) > 1 || math.Abs(r.Y1-s.rect.Y1) > 1 || r.X0-s.rect.X1 > 1.5 ||
				math.Abs(tints[j].Tone-tints[i].Tone) > 0.01 {
				break
			}
			if r.X1 < s.rect.X1+1 { // painted twice
				continue
			}
			s.rect = s.rect.Union(r)
			s.cuts = append(s.cuts, r.X1)
		}
		if i = j; s.rect.W() > 150 {
			out = append(out, s)
		}
	}
	return out
}

// paintedCuts are the edges of the columns of a table whose stripes were painted cell by cell; nil when they were not.
func (f *finder) paintedCuts(area geom.Rect) []float64 {
	var cuts []float64
	painted, whole := 0, 0
	for _, s := range f.stripes() {
		switch {
		case !area.Inset(-2).Covers(s.rect, 0):
			continue
		case len(s.cuts) < 3:
			whole++
			continue
		}
		if cuts != nil && !slices.EqualFunc(cuts, s.cuts, func(a, b float64) bool { return math.Abs(a-b) < 2 }) {
			return nil
		}
		cuts = s.cuts
		painted++
	}
	if f.ev.Ground != nil && painted == 1 && whole > 0 {
		return nil // on paper it is a torn one
	}
	return cuts
}

// openTable makes cells of the blank places of one table.
func (f *finder) openTable(edges []evidence.Rule) {
	top, bottom := edges[0], edges[len(edges)-1]
	area := geom.Rect{X0: top.From, X1: top.To, Y0: bottom.At, Y1: top.At}
	step := (top.At - bottom.At) / float64(len(edges)-1)
	for _, v := range f.walls {
		if v.At > area.X0+3 && v.At < area.X1-3 && math.Min(v.To, area.Y1)-math.Max(v.From, area.Y0) > 0.5*step {
			return // its columns are drawn
		}
	}
	if f.captionedRows(edges) || f.whiteRows(area) {
		return
	}
	heads, first := f.headsOver(area, step)
	if first { // the uppermost row is the head itself
		edges = edges[1:]
		area.Y1 = edges[0].At
	}
	cuts := f.paintedCuts(area)
	if cuts == nil && len(heads) >= 2 {
		cuts = columnCuts(heads, area)
	}
	if cuts == nil || len(edges) < 3 {
		return
	}
	var cells []candidate
	for c := 1; c < len(cuts); c++ {
		var blank []candidate
		for r := 1; r < len(edges); r++ {
			cell := geom.Rect{X0: cuts[c-1], X1: cuts[c], Y0: edges[r].At, Y1: edges[r-1].At}
			if len(f.inkIn(cell)) > 0 || f.shaded(cell) {
				continue
			}
			rect := cell
			if cell.H() > rowH+4 {
				rect.Y1 = rect.Y0 + 15
			}
			blank = append(blank, candidate{
				kind: form.Text, rect: rect, area: cell, how: fromColumn, score: 0.86, free: cell.H(),
				what: fmt.Sprintf("place %s pt wide in a ruled row", pt(cell.W())),
			})
		}
		if 2*len(blank) > len(edges)-1 { // else a gap in a printed column
			cells = append(cells, blank...)
		}
	}
	if len(cells) == 0 {
		return
	}
	f.cands = slices.DeleteFunc(f.cands, func(c candidate) bool {
		return c.kind == form.Text && c.comb == 0 && c.rect.X0 >= area.X0-3 && c.rect.X1 <= area.X1+3 &&
			slices.ContainsFunc(edges, func(e evidence.Rule) bool { return math.Abs(c.area.Y0-e.At) < 2 })
	})
	f.cands = append(f.cands, cells...)
}

// captionedRows tells whether most rows have nothing but words at their upper edge, with room to write below them: each is the place of its
// caption, and no row of a table.
func (f *finder) captionedRows(edges []evidence.Rule) bool {
	n := 0
	for i := 1; i < len(edges); i++ {
		row := geom.Rect{X0: edges[i].From, X1: edges[i].To, Y0: edges[i].At, Y1: edges[i-1].At}
		ink := f.inkIn(row)
		if len(ink) > 0 && !slices.ContainsFunc(ink, func(k mark) bool {
			below := k.rect.Y0 - row.Y0
			return below < roomBelow || row.Y1-k.rect.Y1 > 0.6*below
		}) {
			n++
		}
	}
	return 10*n >= 7*(len(edges)-1)
}

// whiteRows tells whether rows of an area are white places on a tint, with words on the ground between them.
func (f *finder) whiteRows(area geom.Rect) bool {
	var white []geom.Rect
	for _, c := range f.cands {
		if c.how == fromWhite && area.Inset(-2).Covers(c.area, 0) && c.area.W() > 0.8*area.W() && c.area.H() < 40 {
			white = append(white, c.area)
		}
	}
	slices.SortFunc(white, func(a, b geom.Rect) int { return cmp.Compare(b.Y0, a.Y0) })
	captioned := 0
	for i, w := range white {
		below := geom.Rect{X0: area.X0, X1: area.X1, Y0: area.Y0, Y1: w.Y0}
		if i+1 < len(white) {
			below.Y0 = white[i+1].Y1
		}
		if f.hasWords(below) {
			captioned++
		}
	}
	return captioned >= 2
}

// headsOver reads the words at the heads of the columns of a table: in its first row,
// or right above it. First tells that they fill the first row.
func (f *finder) headsOver(area geom.Rect, step float64) (heads []evidence.Line, first bool) {
	in := func(y0, y1 float64) []evidence.Line {
		var out []evidence.Line
		for _, l := range f.wideGaps(f.lines) {
			if m := l.Rect.Mid(); m.Y > y0 && m.Y < y1 && l.Rect.X0 > area.X0-2 && l.Rect.X1 < area.X1+2 &&
				(l.Text() == evidence.Unread || strings.ContainsFunc(l.Text(), unicode.IsLetter)) {
				out = append(out, l)
			}
		}
		slices.SortFunc(out, func(a, b evidence.Line) int { return cmp.Compare(a.Rect.X0, b.Rect.X0) })
		for i := 1; i < len(out); i++ { // the lines of one head stand over each other
			if out[i].Rect.OverlapX(out[i-1].Rect) > 0 {
				out[i-1].Rect = out[i-1].Rect.Union(out[i].Rect)
				out = slices.Delete(out, i, i+1)
				i--
			}
		}
		return out
	}
	if heads = in(area.Y1-step, area.Y1); len(heads) >= 2 {
		return heads, true
	}
	reach := 1.4 * step
	for _, b := range f.ev.Boxes { // a bar right above the table is its head, however high it is
		r := b.Rect
		if bar := !b.Stroked && b.Tone >= 0 && b.Tone < paper && r.H() <= 40; !bar {
			continue
		}
		if math.Abs(r.Y0-area.Y1) < 3 && r.OverlapX(area) > 0.8*area.W() {
			reach = math.Max(reach, r.H())
		}
	}
	return in(area.Y1, area.Y1+reach), false
}

// wideGaps parts lines where words stand much farther apart than the words of the page do: heads of narrow columns, read as one line.
func (f *finder) wideGaps(lines []evidence.Line) []evidence.Line {
	usual := f.wordGap()
	var out []evidence.Line
	for _, l := range lines {
		start := 0
		for i := 1; i <= len(l.Words); i++ {
			if i < len(l.Words) && l.Words[i].Rect.X0-l.Words[i-1].Rect.X1 < 1.7*usual*l.Size {
				continue
			}
			out = append(out, partOf(l, start, i))
			start = i
		}
	}
	return out
}

// wordGap is how far apart words stand on most of the page, in parts of the type's size.
func (f *finder) wordGap() float64 {
	if f.gap == 0 {
		var gaps []float64
		for _, l := range f.lines {
			for i := 1; i < len(l.Words); i++ {
				gaps = append(gaps, (l.Words[i].Rect.X0-l.Words[i-1].Rect.X1)/l.Size)
			}
		}
		f.gap = 0.35 // common practice, no source
		if slices.Sort(gaps); len(gaps) >= 8 {
			f.gap = math.Max(0.2, gaps[len(gaps)/2])
		}
	}
	return f.gap
}

// columnCuts are the x of the edges of columns: where the heads begin, less what the
// first stands in, or half way between them when they are centred.
func columnCuts(heads []evidence.Line, area geom.Rect) []float64 {
	cuts := []float64{area.X0}
	indent := heads[0].Rect.X0 - area.X0
	for i := 1; i < len(heads); i++ {
		x := heads[i].Rect.X0 - indent
		if indent > 9 {
			x = (heads[i-1].Rect.X1 + heads[i].Rect.X0) / 2
		}
		cuts = append(cuts, x)
	}
	return append(cuts, area.X1)
}
