package detect

import (
	"math"
	"slices"
	"strings"

	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
)

// judgeTables lowers cells that belong to a table which is mostly printed full:
// a blank cell there is a gap in the print, not a place to write. A column that
// is blank below its head stays.
func (f *finder) judgeTables() {
	heads := f.rowHeads()
	for i := range f.cands {
		c := &f.cands[i]
		if c.how != fromCell && c.how != fromColumn {
			continue
		}
		if c.beside && f.likeNeighbours(c) {
			c.score += 0.15
			continue
		}
		if c.caption != "" && f.heads(c) && (f.heads(f.nextTo(c, -1)) || f.heads(f.nextTo(c, 1))) {
			c.score -= 0.5
			continue
		}
		if heads[i] {
			c.score -= 0.5
			continue
		}
		if c.beside {
			c.score -= 0.2
			if o := f.nextTo(c, 1); o != nil && o.caption == "" && o.kind == form.Text {
				c.score -= 0.2 // the words name the blank cell that follows
			}
			n := 0
			for _, r := range f.columnsBeside(c.area) {
				if f.hasWords(r) {
					n++
				}
			}
			if n >= 2 { // a row of a printed table, with room after the words
				c.score -= 0.5
			}
			continue
		}
		if c.caption != "" || c.white {
			continue
		}
		full, blank := 0, 0
		for _, x := range f.columnsBeside(c.area) {
			if f.hasWords(x) {
				full++
			} else {
				blank++
			}
		}
		if full <= blank {
			continue
		}
		colFull, colBlank := 0, 0
		for _, h := range f.ev.H {
			// cells of the same row height above and below, in this column and the next ones
			cell := geom.Rect{X0: c.area.X0, X1: c.area.X1, Y0: h.At, Y1: h.At + c.area.H()}
			if math.Abs(h.At-c.area.Y0) > 6*c.area.H() || h.From > c.area.X0+2 || h.To < c.area.X1-2 || cell.Y1 > f.ev.Height {
				continue
			}
			if f.hasWords(cell) {
				colFull++
			} else {
				colBlank++
			}
		}
		if colFull > colBlank && colFull >= 3 {
			c.score -= 0.5
		}
	}
}

// likeNeighbours tells whether a cell that begins with words adjoins one that does so
// too and asks with a colon or an arrow: then its words are a caption as well.
func (f *finder) likeNeighbours(c *candidate) bool {
	if len(strings.Fields(c.caption)) > 5 {
		return false
	}
	return slices.ContainsFunc(f.cands, func(o candidate) bool {
		if o.beside || o.caption == "" || o.rect.X0 < o.area.X0+6 || o.score < 0.6 || math.Abs(o.area.H()-c.area.H()) > 3 {
			return false
		}
		row := math.Abs(o.area.Y0-c.area.Y0) < 2 && (math.Abs(o.area.X1-c.area.X0) < 3 || math.Abs(o.area.X0-c.area.X1) < 3)
		column := math.Abs(o.area.X0-c.area.X0) < 3 && (math.Abs(o.area.Y0-c.area.Y1) < 3 || math.Abs(o.area.Y1-c.area.Y0) < 3)
		return row || column
	})
}

// heads tells whether two and more blank cells without words hang below a cell, as
// wide as it: then it is the head of a column.
func (f *finder) heads(c *candidate) bool {
	if c == nil || c.caption == "" {
		return false
	}
	at := c.area
	for n := 0; n < 2; n++ {
		next := slices.IndexFunc(f.cands, func(o candidate) bool {
			return o.caption == "" && o.kind == form.Text && inColumn(o.area, at) &&
				math.Abs(o.area.Y1-at.Y0) < 3
		})
		if next < 0 {
			return false
		}
		at = f.cands[next].area
	}
	return true
}

// rowHeads are the cells whose words are the heads of their rows, by index, and the cells with words above and below them.
func (f *finder) rowHeads() map[int]bool {
	heads := map[int]bool{}
	for i := range f.cands {
		if c := &f.cands[i]; c.caption != "" && c.how == fromCell && f.headsRow(c) {
			heads[i] = true
		}
	}
	for again := len(heads) > 0; again; {
		again = false
		for i, c := range f.cands {
			if heads[i] || c.caption == "" || c.how != fromCell {
				continue
			}
			for k := range heads {
				o := f.cands[k].area
				if inColumn(o, c.area) && (math.Abs(o.Y0-c.area.Y1) < 3 || math.Abs(o.Y1-c.area.Y0) < 3) {
					heads[i], again = true, true
					break
				}
			}
		}
	}
	return heads
}

// headsRow tells whether the words of a cell are the head of its row: blank cells without words follow, in this row and in
// the one below or above.
func (f *finder) headsRow(c *candidate) bool {
	next := f.nextTo(c, 1)
	if next == nil || next.caption != "" || next.kind != form.Text || math.Abs(next.area.H()-c.area.H()) > 2 {
		return false
	}
	return slices.ContainsFunc(f.cands, func(o candidate) bool {
		return o.caption == "" && o.kind == form.Text && inColumn(o.area, next.area) &&
			(math.Abs(o.area.Y1-next.area.Y0) < 3 || math.Abs(o.area.Y0-next.area.Y1) < 3)
	})
}

// inColumn tells whether two cells are of one column: their sides are the same.
func inColumn(a, b geom.Rect) bool { return math.Abs(a.X0-b.X0) < 2.5 && math.Abs(a.X1-b.X1) < 2.5 }

// topShare is the part of a page in which a table from the page before goes on.
const topShare = 0.12

// continued tells whether a cell without words belongs to a table that begins at the top of the page, without heads: they
// stand on the page before. Two rows and two columns of blank cells are needed.
func (f *finder) continued(c candidate) bool {
	if c.how != fromCell && c.how != fromColumn && c.how != fromWhite || c.caption != "" || c.comb > 0 {
		return false
	}
	top, stacked := f.stack(c, func(geom.Rect) bool { return true })
	next, before := f.nextTo(&c, 1), f.nextTo(&c, -1)
	beside := next != nil || before != nil
	long := next != nil && f.nextTo(next, 1) != nil || before != nil && f.nextTo(before, -1) != nil || next != nil && before != nil
	return (stacked || long) && !f.hasWords(c.area) && beside && top.Y1 > (1-topShare)*f.ev.Height &&
		!f.hasWords(geom.Rect{X1: f.ev.Width, Y0: top.Y1, Y1: f.ev.Height})
}

// stack is the uppermost of the cells that a cell stands under, each right below the next and taken when it fits, and whether it
// has one above or below it.
func (f *finder) stack(c candidate, fits func(geom.Rect) bool) (top geom.Rect, stacked bool) {
	top = c.area
	for again := true; again; {
		again = false
		for _, o := range f.cands {
			above := o.area.Y1 > top.Y1+minSlotH/2 && math.Abs(o.area.Y0-top.Y1) < 3
			if o.kind == form.Text && above && inColumn(o.area, top) && fits(o.area) {
				top, again, stacked = o.area, true, true
				break
			}
		}
	}
	return top, stacked || slices.ContainsFunc(f.cands, func(o candidate) bool {
		return o.kind == form.Text && inColumn(o.area, c.area) && math.Abs(o.area.Y1-c.area.Y0) < 3
	})
}

// headUnread tells whether a cell of a scan stands in a column whose head is to be seen and could not be read.
func (f *finder) headUnread(c candidate) bool {
	if f.ev.Ground == nil || c.how != fromCell && c.how != fromColumn || c.caption != "" || c.comb > 0 {
		return false
	}
	top, stacked := f.stack(c, func(r geom.Rect) bool { return !f.hasWords(r) })
	head := geom.Rect{X0: top.X0, X1: top.X1, Y0: top.Y1, Y1: top.Y1 + 1.5*top.H()}
	return stacked && (slices.ContainsFunc(f.ev.Words, func(w evidence.Word) bool {
		return w.Text == evidence.Unread && head.Contains(w.Rect.Mid())
	}) || slices.ContainsFunc(f.ev.Ink, func(r geom.Rect) bool { return head.Contains(r.Mid()) }))
}

// nextTo is the candidate that adjoins a cell in its row, left (-1) or right (1).
func (f *finder) nextTo(c *candidate, dir int) *candidate {
	for i := range f.cands {
		o := &f.cands[i]
		near := math.Abs(o.area.X0-c.area.X1) < 3
		if dir < 0 {
			near = math.Abs(o.area.X1-c.area.X0) < 3
		}
		if o != c && near && math.Abs(o.area.Y0-c.area.Y0) < 2 {
			return o
		}
	}
	return nil
}

// columnsBeside are the cells left and right of one, closed by the same two rules.
func (f *finder) columnsBeside(area geom.Rect) []geom.Rect {
	xs := []float64{}
	for _, v := range f.ev.V {
		if v.From <= area.Y0+2 && v.To >= area.Y1-2 {
			xs = append(xs, v.At)
		}
	}
	var out []geom.Rect
	for i := 1; i < len(xs); i++ {
		r := geom.Rect{X0: xs[i-1], X1: xs[i], Y0: area.Y0, Y1: area.Y1}
		if r.W() > 10 && math.Abs(r.X0-area.X0) > 2 {
			out = append(out, r)
		}
	}
	return out
}

func (f *finder) hasWords(r geom.Rect) bool {
	for i := range f.ev.Words {
		w := &f.ev.Words[i]
		if w.Rect.Y0 > r.Y1 || w.Rect.Y1 < r.Y0 || w.Rect.X0 > r.X1 || w.Rect.X1 < r.X0 {
			continue
		}
		if r.Contains(w.Rect.Mid()) && !evidence.IsLeader(w.Text) {
			return true
		}
	}
	return false
}
