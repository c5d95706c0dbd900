package evidence

import (
	"cmp"
	"math"
	"slices"
	"strings"
)

const (
	textGutter   = 9.0 // points that stay blank between columns of running text
	columnLines  = 3   // lines that a column of running text has at least
	columnFilled = 0.6 // of its width, that the lines of running text take on average; cells of tables take less
)

// Text is what is printed on the page as plain text, in reading order: columns of running text one after the other, and
// everything else line by line, with a tab between parts of a line that stand apart, so that the columns of tables stay
// columns. Every line ends with a line feed.
func (p *Page) Text() string {
	var b strings.Builder
	for _, row := range p.Rows() {
		for i, l := range row {
			if i > 0 {
				b.WriteString("\t")
			}
			b.WriteString(l.Text())
		}
		b.WriteString("\n")
	}
	return b.String()
}

// Rows are the lines of the page as [Page.Text] has them: rows in reading order, each from the left.
func (p *Page) Rows() [][]Line { return rowsOf(p.Lines, 0) }

func rowsOf(lines []Line, depth int) [][]Line {
	if x, ok := textColumns(lines); ok && depth < 6 {
		return bandRows(lines, x, depth)
	}
	return plainRows(lines)
}

// plainRows are lines row by row from the top, and each row from the left.
func plainRows(lines []Line) (out [][]Line) {
	lines = slices.Clone(lines)
	slices.SortStableFunc(lines, func(a, b Line) int { return cmp.Compare(b.Base, a.Base) })
	for len(lines) > 0 {
		n := 1
		for n < len(lines) && lines[0].Base-lines[n].Base < 0.35*math.Max(4, math.Min(lines[0].Size, lines[n].Size)) {
			n++
		}
		row := lines[:n]
		slices.SortStableFunc(row, func(a, b Line) int { return cmp.Compare(a.Rect.X0, b.Rect.X0) })
		out = append(out, row)
		lines = lines[n:]
	}
	return out
}

// band is a run of lines from the top down that no line across the gutter parts.
type band struct{ left, right, across []Line }

// bandsAt parts lines by an upright gutter in the middle of which x lies.
func bandsAt(lines []Line, x float64) []band {
	lines = slices.Clone(lines)
	slices.SortStableFunc(lines, func(a, b Line) int { return cmp.Compare(b.Rect.Y1, a.Rect.Y1) })
	var out []band
	var now band
	for _, l := range lines {
		switch {
		case l.Rect.X1 <= x-textGutter/2:
			now.left = append(now.left, l)
		case l.Rect.X0 >= x+textGutter/2:
			now.right = append(now.right, l)
		default:
			if len(now.left)+len(now.right) > 0 {
				out = append(out, now)
				now = band{}
			}
			if n := len(out); n > 0 && out[n-1].across != nil {
				out[n-1].across = append(out[n-1].across, l)
			} else {
				out = append(out, band{across: []Line{l}})
			}
		}
	}
	if len(now.left)+len(now.right) > 0 {
		out = append(out, now)
	}
	return out
}

// columns tells whether both sides of a band are running text.
func (c band) columns() bool { return running(c.left) && running(c.right) }

// running tells whether lines are a column of running text: enough of them, and most of its width is written on.
func running(lines []Line) bool {
	if len(lines) < columnLines {
		return false
	}
	x0, x1, sum := math.Inf(1), math.Inf(-1), 0.0
	for _, l := range lines {
		x0, x1, sum = math.Min(x0, l.Rect.X0), math.Max(x1, l.Rect.X1), sum+l.Rect.W()
	}
	return x1-x0 > 60 && sum/float64(len(lines)) > columnFilled*(x1-x0)
}

// textColumns finds the gutter beside which most lines stand in columns of running text.
func textColumns(lines []Line) (x float64, ok bool) {
	best := 0
	for _, l := range lines {
		at := l.Rect.X0 - textGutter/2 - 0.1 // a gutter ends where a column begins
		n := 0
		for _, c := range bandsAt(lines, at) {
			if c.columns() {
				n += len(c.left) + len(c.right)
			}
		}
		if n > best {
			best, x = n, at
		}
	}
	return x, best > 0
}

func bandRows(lines []Line, x float64, depth int) (out [][]Line) {
	for _, c := range bandsAt(lines, x) {
		switch {
		case c.across != nil:
			out = append(out, plainRows(c.across)...)
		case c.columns():
			out = append(append(out, rowsOf(c.left, depth+1)...), rowsOf(c.right, depth+1)...)
		default:
			out = append(out, plainRows(append(slices.Clone(c.left), c.right...))...)
		}
	}
	return out
}
