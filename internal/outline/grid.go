package outline

import (
	"math"
	"slices"

	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/geom"
)

// grid is a table that is printed with rules: its columns from the left and its rows from the top.
type grid struct {
	box  geom.Rect
	x, y []float64 // edges; y from the top down
}

const (
	meets     = 2.5 // points within which rules meet
	leastCols = 2
	leastRows = 3
)

// grids finds tables: vertical rules of one height side by side, with horizontal ones across all of them.
func grids(h, v []evidence.Rule) []grid {
	var out []grid
	taken := make([]bool, len(v))
	for i := range v {
		if taken[i] {
			continue
		}
		var same []int
		for j := range v {
			if !taken[j] && math.Abs(v[j].From-v[i].From) < meets && math.Abs(v[j].To-v[i].To) < meets {
				same = append(same, j)
			}
		}
		if len(same) < leastCols+1 {
			continue
		}
		g := grid{}
		for _, j := range same {
			g.x = append(g.x, v[j].At)
		}
		slices.Sort(g.x)
		left, right := g.x[0], g.x[len(g.x)-1]
		for _, r := range h {
			if r.From < left+meets && r.To > right-meets && r.At > v[i].From-meets && r.At < v[i].To+meets {
				g.y = append(g.y, r.At)
			}
		}
		slices.SortFunc(g.y, func(a, b float64) int { return int(math.Copysign(1, b-a)) })
		g.y = slices.CompactFunc(g.y, func(a, b float64) bool { return math.Abs(a-b) < meets })
		g.x = slices.CompactFunc(g.x, func(a, b float64) bool { return math.Abs(a-b) < meets })
		if len(g.x) < leastCols+1 || len(g.y) < leastRows+1 {
			continue
		}
		g.box = geom.R(g.x[0], g.y[len(g.y)-1], g.x[len(g.x)-1], g.y[0])
		for _, j := range same {
			taken[j] = true
		}
		out = append(out, g)
	}
	return out
}

// element is a table with the pieces in its cells. A first row with words in every cell and no field has the heads of the columns; words in
// the first cell of a row of fields are the head of the row.
func (g grid) element(pieces []Piece, inside []int) Element {
	t := Element{Type: Table}
	for r := range len(g.y) - 1 {
		row := Element{Type: Row}
		words, fields := 0, 0
		for c := range len(g.x) - 1 {
			cell := geom.R(g.x[c], g.y[r+1], g.x[c+1], g.y[r])
			e := Element{Type: Cell}
			e.Kids, inside = contents(pieces, inside, cell)
			has := func(field bool) bool {
				return slices.ContainsFunc(e.Kids, func(k Element) bool { return (k.Type == Form) == field })
			}
			if has(false) {
				words++
			}
			if has(true) {
				fields++
			}
			row.Kids = append(row.Kids, e)
		}
		cols := len(g.x) - 1
		switch {
		case r == 0 && fields == 0 && words == cols:
			for c := range row.Kids {
				row.Kids[c].Type, row.Kids[c].Scope = Head, "Column"
			}
		case fields > 0 && len(row.Kids[0].Kids) > 0 && !slices.ContainsFunc(row.Kids[0].Kids, isField):
			row.Kids[0].Type, row.Kids[0].Scope = Head, "Row"
		}
		t.Kids = append(t.Kids, row)
	}
	return t
}

func isField(e Element) bool { return e.Type == Form }

// contents are the pieces in a cell, in order, and those that are left for others.
func contents(pieces []Piece, inside []int, cell geom.Rect) (out []Element, left []int) {
	var at []int
	for _, i := range inside {
		if cell.Contains(pieces[i].Rect.Mid()) {
			at = append(at, i)
		} else {
			left = append(left, i)
		}
	}
	for _, i := range ordered(pieces, at) {
		if pieces[i].Field {
			out = append(out, Element{Type: Form, Pieces: []int{i}})
		} else if n := len(out) - 1; n >= 0 && out[n].Type == Paragraph {
			out[n].Pieces = append(out[n].Pieces, i)
		} else {
			out = append(out, Element{Type: Paragraph, Pieces: []int{i}})
		}
	}
	return out, left
}
