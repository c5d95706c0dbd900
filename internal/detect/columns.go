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

// tableCell is where a candidate stands in a table of empty cells.
type tableCell struct {
	head  string // at the top of its column
	row   string // at the start of its row
	n     int    // of the row, from 1
	title string // of the table
}

// findTables looks for columns of three and more empty cells below each other and
// reads the words at their heads and at the starts of their rows. It returns the
// place of each candidate, by index.
func (f *finder) findTables() map[int]tableCell {
	var cells []int
	for i, c := range f.cands {
		if (c.how == fromCell || c.how == fromColumn || c.how == fromWhite) && c.kind == form.Text && c.caption == "" && !c.multiline &&
			c.area.W() < 0.6*f.ev.Width {
			cells = append(cells, i)
		}
	}
	area := func(i int) geom.Rect { return f.cands[i].area }
	slices.SortFunc(cells, func(a, b int) int {
		return cmp.Or(cmp.Compare(math.Round(area(a).X0/2), math.Round(area(b).X0/2)), cmp.Compare(area(b).Y0, area(a).Y0))
	})
	var columns [][]int
	for i := 0; i < len(cells); {
		j := i + 1
		for j < len(cells) && math.Abs(area(cells[j]).X0-area(cells[i]).X0) < 2.5 && math.Abs(area(cells[j]).X1-area(cells[i]).X1) < 2.5 {
			above, below := area(cells[j-1]), area(cells[j])
			gap := above.Y0 - below.Y1
			if gap < -3 || gap > 2.2*area(cells[i]).H()+2 || gap > 4 &&
				f.wordsNear(geom.Rect{X0: below.X0, X1: below.X1, Y0: below.Y1, Y1: above.Y0}) {
				break
			}
			j++
		}
		if j-i >= 3 {
			columns = append(columns, cells[i:j])
		}
		i = max(j, i+1)
	}
	out := map[int]tableCell{}
	for _, col := range columns {
		top := area(col[0])
		head := f.headOf(top)
		if head == "" || f.beside(col, columns) {
			continue
		}
		first := top // the leftmost column of the table
		for _, o := range columns {
			if a := area(o[0]); math.Abs(a.Y1-top.Y1) < 3 && a.X0 < first.X0 {
				first = a
			}
		}
		title := f.tableTitle(first)
		for k, i := range col {
			out[i] = tableCell{head: head, n: k + 1, row: f.rowLabel(area(i), columns), title: title}
		}
	}
	return out
}

// beside tells whether a column of cells stands alone and most of its cells have words of their own left of them: they are
// places with their labels, not a table.
func (f *finder) beside(col []int, columns [][]int) bool {
	first := f.cands[col[0]].area
	for _, other := range columns {
		if a := f.cands[other[0]].area; a != first && math.Abs(a.Y1-first.Y1) < 3 && (math.Abs(a.X0-first.X1) < 4 ||
			math.Abs(a.X1-first.X0) < 4) {
			return false
		}
	}
	n := 0
	for _, i := range col {
		if l, dist, blocked := f.leftOf(f.cands[i]); l.where != none && !blocked && dist < 140 {
			n++
		}
	}
	return 10*n >= 7*len(col) && f.nextTo(&f.cands[col[0]], -1) == nil
}

// headOf reads the words over a column: in the printed cell above its first empty one,
// or right above it.
func (f *finder) headOf(top geom.Rect) string {
	probe := geom.Rect{X0: top.X0 - 1, X1: top.X1 + 1, Y0: top.Y1 - 1, Y1: top.Y1 + 44}
	for _, h := range f.ev.H { // no further than the cell above reaches
		if h.At > top.Y1+6 && h.At < probe.Y1 && h.From < top.X0+4 && h.To > top.X1-4 {
			probe.Y1 = h.At
		}
	}
	var lines []evidence.Line
	for _, l := range f.lines {
		if l.Rect.Y0 >= probe.Y0 && l.Rect.Y1 <= probe.Y1+1 && l.Rect.OverlapX(top) > 0.7*l.Rect.W() {
			lines = append(lines, l)
		}
	}
	slices.SortFunc(lines, func(a, b evidence.Line) int { return cmp.Compare(b.Base, a.Base) })
	var parts []string
	last, size := math.Inf(1), 0.0
	for _, l := range slices.Backward(lines) { // from the lowest line up, while they are close
		if !math.IsInf(last, 1) && (l.Base-last > 1.7*math.Max(l.Size, 6) || l.Size > 1.2*size) {
			break
		}
		last, size = l.Base, l.Size
		parts = append([]string{l.Text()}, parts...)
	}
	return clean(strings.Join(parts, " "))
}

// rowLabel reads the printed words at the start of a row, left of all empty columns.
func (f *finder) rowLabel(cell geom.Rect, columns [][]int) string {
	left := cell.X0
	for _, col := range columns {
		for _, i := range col {
			if a := f.cands[i].area; math.Abs(a.Y0-cell.Y0) < 3 {
				left = math.Min(left, a.X0)
			}
		}
	}
	best, text := math.Inf(-1), ""
	for _, l := range f.lines {
		if m := l.Rect.Mid(); l.Rect.X1 <= left+2 && m.Y > cell.Y0 && m.Y < cell.Y1 && left-l.Rect.X1 < 220 && l.Rect.X1 > best {
			best, text = l.Rect.X1, l.Text()
		}
	}
	if numbering(text) {
		return ""
	}
	return clean(text)
}

// tableTitle reads a short heading above the head of a table: not the end of a sentence,
// and not the title of the page, which is large or underlined across.
func (f *finder) tableTitle(top geom.Rect) string {
	best, text := math.Inf(1), ""
	for _, l := range f.lines {
		d := l.Rect.Y0 - top.Y1
		if d > 20 && d < 46 && d < best && len(significant(l.Text(), 4)) <= 2 && len(l.Words) <= 4 && l.Size > 9 && l.Size < 15 &&
			!strings.HasSuffix(l.Text(), ".") && !strings.HasSuffix(l.Text(), ",") && l.Rect.X0 < top.X0+8 && l.Rect.X1 > top.X0-200 &&
			!f.parted(l.Rect, top.Y1+20) {
			best, text = d, l.Text()
		}
	}
	return clean(text)
}

// parted tells whether a rule much longer than words lies below them, down to y.
func (f *finder) parted(words geom.Rect, y float64) bool {
	return slices.ContainsFunc(f.ev.H, func(h evidence.Rule) bool {
		return h.At > y && h.At < words.Y0 && h.From < words.X0+2 && h.To > words.X1+100
	})
}

// cellLabel is the label of a table cell.
func (t tableCell) label() label {
	return label{where: header, raw: t.head, text: t.head, row: t.row, n: t.n, title: t.title}
}

// Column gives the other empty cells of the column that a field stands in, top down,
// each called by its head and row. The rectangle is in page space.
func Column(ev *evidence.Page, r geom.Rect) []Find {
	f := examine(ev)
	toPage, fromPage := ev.ToPage()
	r = r.Apply(fromPage)
	var out []Find
	for _, c := range f.cands {
		if c.kind != form.Text || c.how != fromCell && c.how != fromColumn && c.how != fromWhite {
			continue
		}
		if math.Abs(c.area.X0-r.X0) > 6 || math.Abs(c.area.X1-r.X1) > 6 || c.rect.IoU(r) > 0.3 ||
			math.Abs(c.rect.H()-r.H()) > 0.6*math.Max(c.rect.H(), r.H()) {
			continue
		}
		l := f.labelFor(c)
		out = append(out, Find{
			Kind: form.Text, Rect: c.rect.Apply(toPage).Rounded(), Label: l.text, Tooltip: tooltip(l), Name: nameFrom(l), Comb: c.comb,
			Format:     formatOf(l.text, true),
			Confidence: 0.9, Evidence: c.evidence(l) + "; extended over its column",
		})
	}
	slices.SortFunc(out, func(a, b Find) int { return cmp.Compare(b.Rect.Y0, a.Rect.Y0) })
	nameAll(out)
	return out
}
