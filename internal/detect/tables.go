package detect

import (
	"math"

	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/geom"
)

// judgeTables lowers cells that belong to a table which is mostly printed full:
// a blank cell there is a gap in the print, not a place to write. A column that
// is blank below its head stays.
func (f *finder) judgeTables() {
	for i := range f.cands {
		c := &f.cands[i]
		if c.how != fromCell && c.how != fromColumn {
			continue
		}
		if c.beside {
			c.score -= 0.2
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
		if c.caption != "" {
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
