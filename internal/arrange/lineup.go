package arrange

import (
	"cmp"
	"fmt"
	"math"
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
func Structure(rects []geom.Rect) []int {
	all := make([]int, len(rects))
	for i := range all {
		all[i] = i
	}
	return structure(rects, all, 0)
}

func structure(rects []geom.Rect, in []int, depth int) []int {
	rows := func() []int {
		part := make([]geom.Rect, len(in))
		for i, k := range in {
			part[i] = rects[k]
		}
		out := make([]int, len(in))
		for i, k := range ReadingOrder(part) {
			out[i] = in[k]
		}
		return out
	}
	if len(in) < 4 || depth > 12 {
		return rows()
	}
	if left, right, ok := gutter(rects, in); ok {
		return append(structure(rects, left, depth+1), structure(rects, right, depth+1)...)
	}
	if upper, middle, lower, ok := block(rects, in); ok {
		out := append(structure(rects, upper, depth+1), structure(rects, middle, depth+1)...)
		return append(out, structure(rects, lower, depth+1)...)
	}
	return rows()
}

// gutter finds the widest upright gap that parts rectangles into two columns.
func gutter(rects []geom.Rect, in []int) (left, right []int, ok bool) {
	order := slices.Clone(in)
	slices.SortStableFunc(order, func(a, b int) int { return cmp.Compare(rects[a].X0, rects[b].X0) })
	end, widest, at := math.Inf(-1), 9.0, 0
	for i, k := range order {
		if gap := rects[k].X0 - end; i > 0 && gap > widest {
			a, b := order[:i], order[i:]
			if len(a) >= 2 && len(b) >= 2 && !sameRows(rects, a, b) {
				widest, at = gap, i
			}
		}
		end = math.Max(end, rects[k].X1)
	}
	if at == 0 {
		return nil, nil, false
	}
	return slices.Clone(order[:at]), slices.Clone(order[at:]), true
}

// sameRows tells whether most rectangles of the smaller side stand in a row with one of the other.
func sameRows(rects []geom.Rect, a, b []int) bool {
	if len(b) < len(a) {
		a, b = b, a
	}
	n := 0
	for _, i := range a {
		if slices.ContainsFunc(b, func(k int) bool { return math.Abs(rects[i].Y1-rects[k].Y1) < 2.5 }) {
			n++
		}
	}
	return 10*n >= 7*len(a)
}

// block finds the largest part of a page, between two level gaps, that has columns of its
// own, and what stands above and below it.
func block(rects []geom.Rect, in []int) (upper, middle, lower []int, ok bool) {
	order := slices.Clone(in)
	slices.SortStableFunc(order, func(a, b int) int { return cmp.Compare(rects[a].Y0, rects[b].Y0) })
	cuts := []int{0}
	end := math.Inf(-1)
	for i, k := range order {
		if i > 0 && rects[k].Y0 > end {
			cuts = append(cuts, i)
		}
		end = math.Max(end, rects[k].Y1)
	}
	cuts = append(cuts, len(order))
	for size := len(cuts) - 2; size > 0; size-- { // the whole has none
		for at := 0; at+size < len(cuts); at++ {
			a, b := cuts[at], cuts[at+size]
			if b-a < 4 || b-a == len(order) {
				continue
			}
			if _, _, found := gutter(rects, order[a:b]); found {
				return slices.Clone(order[:a]), slices.Clone(order[a:b]), slices.Clone(order[b:]), true
			}
		}
	}
	return nil, nil, nil, false
}
