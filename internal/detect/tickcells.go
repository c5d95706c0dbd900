package detect

import (
	"fmt"
	"math"
	"slices"

	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
)

// Small bordered cells are boxes to tick up to this size, when words stand right beside them (common practice, no source).
const (
	widestTickCell = 24.0
	tallestTick    = 18.0
	flattestTick   = 2.0 // width by height
	besideTick     = 14.0
)

// tickCells takes small empty cells that stand free, alone or stacked without a gap, with words beside each, for boxes to
// tick: word processors draw them so.
func (f *finder) tickCells() {
	var cells []int
	for i, c := range f.cands {
		w, h := c.area.W(), c.area.H()
		if c.kind == form.Text && c.how == fromCell && c.comb == 0 && c.caption == "" && w >= minTick && w <= widestTickCell &&
			h >= minTick &&
			h <= tallestTick+hair && w <= flattestTick*h && h <= flattestTick*w && f.standsFree(c.area) {
			cells = append(cells, i)
		}
	}
	for _, i := range cells {
		c := &f.cands[i]
		right, left := f.wordsBeside(c.area)
		stack := slices.ContainsFunc(cells, func(k int) bool {
			return k != i && math.Abs(f.cands[k].area.X0-c.area.X0) < 2 && math.Abs(f.cands[k].area.X1-c.area.X1) < 2
		})
		if !right && !(left && stack) {
			continue
		}
		c.kind, c.how, c.score, c.rect = form.CheckBox, fromTick, 0.9, c.area
		c.what = fmt.Sprintf("small cell %s by %s pt", pt(c.area.W()), pt(c.area.H()))
		f.ticks = append(f.ticks, c.area)
	}
}

// standsFree tells whether the rules above and below a cell end with it.
func (f *finder) standsFree(r geom.Rect) bool {
	ends := func(y float64) bool {
		return slices.ContainsFunc(f.ev.H, func(h evidence.Rule) bool {
			return math.Abs(h.At-y) < 1.5 && math.Abs(h.From-r.X0) < 2 && math.Abs(h.To-r.X1) < 2
		})
	}
	return ends(r.Y0) && ends(r.Y1)
}

// wordsBeside tells whether a line of words begins right after a cell, or ends right before it.
func (f *finder) wordsBeside(r geom.Rect) (right, left bool) {
	for _, l := range f.lines {
		if l.Rect.OverlapY(r) < 0.5*math.Min(l.Rect.H(), r.H()) {
			continue
		}
		right = right || l.Rect.X0 > r.X1-1 && l.Rect.X0-r.X1 < besideTick
		left = left || l.Rect.X1 < r.X0+1 && r.X0-l.Rect.X1 < 12*besideTick
	}
	return right, left
}
