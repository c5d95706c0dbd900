package arrange

import (
	"cmp"
	"fmt"
	"slices"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
)

// LineUps are the ways in which fields are lined up, as the page is shown: six
// alignments, even spreads, sizes matched to the first, and the middle of the page.
var LineUps = []string{
	"left", "centre", "right", "top", "middle", "bottom", "spread-across", "spread-down", "same-width",
	"same-height", "page-across", "page-down",
}

// LineUp gives the new rectangles of fields of one page, by id. The first field is the
// one that sizes are taken from; edges are taken from the outermost field. It fails for a
// way that is not one of [LineUps], and where there are too few fields.
func LineUp(fields []form.Field, how string, p form.Page) (map[string]geom.Rect, error) {
	least := map[string]int{"spread-across": 3, "spread-down": 3, "page-across": 1, "page-down": 1}
	if n := max(2, least[how]); len(fields) < n && least[how] != 1 || len(fields) == 0 {
		return nil, fmt.Errorf("choose at least %d fields to line up like this", n)
	}
	view := geom.ToView(p.Width, p.Height, p.Rotate)
	back := geom.FromView(p.Width, p.Height, p.Rotate)
	w, h := p.ViewSize()
	rects := make([]geom.Rect, len(fields)) // as shown, y downwards
	all := fields[0].Rect.Apply(view)
	for i, f := range fields {
		if f.Page != fields[0].Page {
			return nil, fmt.Errorf("fields are lined up on one page: choose those of one")
		}
		rects[i] = f.Rect.Apply(view)
		all = all.Union(rects[i])
	}
	first := rects[0]
	each := func(move func(r geom.Rect) geom.Rect) {
		for i := range rects {
			rects[i] = move(rects[i])
		}
	}
	switch how {
	case "left":
		each(func(r geom.Rect) geom.Rect { return r.Shift(all.X0-r.X0, 0) })
	case "right":
		each(func(r geom.Rect) geom.Rect { return r.Shift(all.X1-r.X1, 0) })
	case "centre":
		each(func(r geom.Rect) geom.Rect { return r.Shift(all.Mid().X-r.Mid().X, 0) })
	case "top":
		each(func(r geom.Rect) geom.Rect { return r.Shift(0, all.Y0-r.Y0) })
	case "bottom":
		each(func(r geom.Rect) geom.Rect { return r.Shift(0, all.Y1-r.Y1) })
	case "middle":
		each(func(r geom.Rect) geom.Rect { return r.Shift(0, all.Mid().Y-r.Mid().Y) })
	case "same-width":
		each(func(r geom.Rect) geom.Rect { r.X1 = r.X0 + first.W(); return r })
	case "same-height":
		each(func(r geom.Rect) geom.Rect { r.Y0 = r.Y1 - first.H(); return r })
	case "page-across":
		each(func(r geom.Rect) geom.Rect { return r.Shift(w/2-all.Mid().X, 0) })
	case "page-down":
		each(func(r geom.Rect) geom.Rect { return r.Shift(0, h/2-all.Mid().Y) })
	case "spread-across":
		spread(rects, all.W(), func(r geom.Rect) (float64, float64) { return r.X0, r.W() },
			func(r geom.Rect, d float64) geom.Rect { return r.Shift(d, 0) })
	case "spread-down":
		spread(rects, all.H(), func(r geom.Rect) (float64, float64) { return r.Y0, r.H() },
			func(r geom.Rect, d float64) geom.Rect { return r.Shift(0, d) })
	default:
		return nil, fmt.Errorf("%q is not a way to line fields up", how)
	}
	out := make(map[string]geom.Rect, len(fields))
	for i, f := range fields {
		out[f.ID] = rects[i].Apply(back).Rounded()
	}
	return out, nil
}

// spread makes the gaps between rectangles even; the outermost stay.
func spread(rects []geom.Rect, whole float64, side func(geom.Rect) (at, size float64), shift func(geom.Rect, float64) geom.Rect) {
	order := make([]int, len(rects))
	used := 0.0
	for i, r := range rects {
		order[i] = i
		_, size := side(r)
		used += size
	}
	slices.SortStableFunc(order, func(a, b int) int {
		x, _ := side(rects[a])
		y, _ := side(rects[b])
		return cmp.Compare(x, y)
	})
	gap := (whole - used) / float64(len(rects)-1)
	at, _ := side(rects[order[0]])
	for _, i := range order {
		was, size := side(rects[i])
		rects[i] = shift(rects[i], at-was)
		at += size + gap
	}
}

// Orders are the ways in which a page can be put into tab order by itself.
var Orders = []string{"rows", "columns", "structure"}

// Order gives the ids of fields in one of [Orders], as the page is shown.
func Order(fields []form.Field, how string, view geom.Matrix) []string {
	rects := make([]geom.Rect, len(fields))
	for i, f := range fields {
		rects[i] = f.Rect.Apply(view)
	}
	by := map[string]func([]geom.Rect) []int{"columns": Columns, "structure": Structure}[how]
	if by == nil {
		by = ReadingOrder
	}
	out := make([]string, len(fields))
	for i, k := range by(rects) {
		out[i] = fields[k].ID
	}
	return out
}

// Columns gives the indices of rectangles (y downwards) column by column from the left,
// each from the top. Rectangles share a column when they begin at nearly one x.
func Columns(rects []geom.Rect) []int {
	order := make([]int, len(rects))
	for i := range order {
		order[i] = i
	}
	slices.SortStableFunc(order, func(a, b int) int { return cmp.Compare(rects[a].X0, rects[b].X0) })
	var out []int
	for i := 0; i < len(order); {
		j := i + 1
		for j < len(order) && rects[order[j]].X0-rects[order[i]].X0 < 18 {
			j++
		}
		col := slices.Clone(order[i:j])
		slices.SortStableFunc(col, func(a, b int) int { return cmp.Compare(rects[a].Y0, rects[b].Y0) })
		out = append(out, col...)
		i = j
	}
	return out
}

// Structure gives the indices of rectangles (y downwards) as the page is built: blocks
// that lie below each other one after the other, columns of a block one after the other,
// rows within. A gutter parts columns when the rows on its two sides do not match: fields
// that stand in one row belong to one row.
func Structure(rects []geom.Rect) []int { return Read(rects, rects, Printed{}) }
