package arrange

import (
	"cmp"
	"math"
	"slices"

	"zealousmargin.example/internal/geom"
)

// Printed is what a page has printed about its fields; y counts downwards.
type Printed struct {
	Text  []geom.Rect // all lines of words
	Heads []geom.Rect // lines that are no label of a field: headings and running text
}

const (
	leastGutter = 6.0  // points that stay blank between columns
	raggedReach = 80.0 // points left of a column in which its heading may begin
	headReach   = 64.0 // points over the first field of a column in which its heading stands
)

// Read gives the indices of fields in the order in which a reader takes them, as far as the printed page tells: blocks
// below each other one after the other; columns one after the other where words and fields both stay inside them and a gutter
// runs down the block, unless the fields stand in common rows that have one heading. Fields are the places to write, around the
// same with their labels.
func Read(fields, around []geom.Rect, printed Printed) []int {
	all := make([]int, len(fields))
	for i := range all {
		all[i] = i
	}
	r := reader{fields: fields, around: around, printed: printed, lines: slices.Clone(printed.Text), rank: make([]int, len(fields))}
	slices.SortFunc(r.lines, func(a, b geom.Rect) int { return cmp.Compare(a.X0, b.X0) })
	order := slices.Clone(all)
	slices.SortStableFunc(order, func(a, b int) int { return cmp.Compare(around[a].X0, around[b].X0) })
	for i, k := range order {
		r.rank[k] = i
	}
	return r.read(all, 0)
}

type reader struct {
	fields, around []geom.Rect
	printed        Printed
	lines          []geom.Rect // of words, from left to right
	rank           []int       // of each field among all from left to right
}

func (r reader) read(in []int, depth int) []int {
	if len(in) < 3 || depth > 12 {
		return r.rows(in)
	}
	if left, right, ok := r.gutter(in); ok {
		return append(r.read(left, depth+1), r.read(right, depth+1)...)
	}
	if upper, middle, lower, ok := r.block(in); ok {
		out := append(r.read(upper, depth+1), r.read(middle, depth+1)...)
		return append(out, r.read(lower, depth+1)...)
	}
	return r.rows(in)
}

// rows reads fields row by row.
func (r reader) rows(in []int) []int {
	part := make([]geom.Rect, len(in))
	for i, k := range in {
		part[i] = r.fields[k]
	}
	out := make([]int, len(in))
	for i, k := range ReadingOrder(part) {
		out[i] = in[k]
	}
	return out
}

// extent is the rectangle around some fields with their labels.
func (r reader) extent(in []int) geom.Rect {
	out := r.around[in[0]]
	for _, k := range in[1:] {
		out = out.Union(r.around[k])
	}
	return out
}

// gutter finds an upright gap, free of words, that parts fields into two columns.
func (r reader) gutter(in []int) (left, right []int, ok bool) {
	order := slices.Clone(in)
	slices.SortFunc(order, func(a, b int) int { return cmp.Compare(r.rank[a], r.rank[b]) })
	whole := r.extent(in)
	end, widest, at := math.Inf(-1), leastGutter, 0
	for i, k := range order {
		if i > 0 && r.around[k].X0-end > widest {
			a, b := order[:i], order[i:]
			if gap := r.free(end, r.around[k].X0, whole); gap > widest && r.columns(a, b, whole) {
				widest, at = gap, i
			}
		}
		end = math.Max(end, r.around[k].X1)
	}
	if at == 0 {
		return nil, nil, false
	}
	return slices.Clone(order[:at]), slices.Clone(order[at:]), true
}

// free is the widest gap between two x that no line of words crosses, along a block.
func (r reader) free(from, to float64, block geom.Rect) float64 {
	widest, at := 0.0, from
	for _, t := range r.lines {
		if t.X0 >= to {
			break
		}
		if y := t.Mid().Y; y < block.Y0 || y > block.Y1 || t.X1 <= from {
			continue
		}
		widest = math.Max(widest, t.X0-at)
		at = math.Max(at, t.X1)
	}
	return math.Max(widest, to-at)
}

// columns tells whether two sides of a gutter are columns of their own: their fields do not stand in common rows, or each
// side has a heading over it.
func (r reader) columns(a, b []int, block geom.Rect) bool {
	if len(a) < 2 || len(b) < 2 {
		return false
	}
	if r.headed(a, math.Inf(-1), r.extent(b).X0, block) && r.headed(b, r.extent(a).X1, math.Inf(1), block) {
		return !r.endInRow(a, b)
	}
	return !r.commonRows(a, b)
}

// farther is how many times as far as its rows stand apart what follows columns stands below them.
const farther = 1.6

// endInRow tells whether the last fields of two columns stand in one row well below the others: the place and date beside the signature.
// They are no part of the columns.
func (r reader) endInRow(a, b []int) bool {
	var gaps []float64
	last := func(in []int) (k int, gap float64) {
		order := slices.Clone(in)
		slices.SortFunc(order, func(i, j int) int { return cmp.Compare(r.around[i].Y0, r.around[j].Y0) })
		end := math.Inf(-1)
		for _, k := range order {
			if gap = r.around[k].Y0 - end; !math.IsInf(gap, 0) {
				gaps = append(gaps, gap)
			}
			end = math.Max(end, r.around[k].Y1)
		}
		return order[len(order)-1], gap
	}
	i, gapA := last(a)
	k, gapB := last(b)
	x, y := r.around[i], r.around[k]
	if len(gaps) < 4 || x.OverlapY(y) < 0.5*math.Min(x.H(), y.H()) {
		return false
	}
	slices.Sort(gaps)
	return math.Min(gapA, gapB) > math.Max(12, farther*gaps[len(gaps)/2])
}

// rowShare is the part of the bands with fields on both sides of a gutter that must be plain rows for the fields to be read
// row by row.
const rowShare = 0.6

// rowOverlap is the part of the lowest field of a row that all of them have in common.
const rowOverlap = 0.6

// commonRows tells whether the fields on two sides of a gutter stand in common rows: level gaps part them into bands, and most
// bands with fields on both sides are one row. A side that goes on alone says nothing.
func (r reader) commonRows(a, b []int) bool {
	order := append(slices.Clone(a), b...)
	slices.SortStableFunc(order, func(i, k int) int { return cmp.Compare(r.around[i].Y0, r.around[k].Y0) })
	left := make([]bool, len(r.around))
	for _, k := range a {
		left[k] = true
	}
	plain, both := 0, 0
	for i := 0; i < len(order); {
		end, low, high, least := math.Inf(-1), math.Inf(-1), math.Inf(1), math.Inf(1)
		sides := [2]bool{}
		j := i
		for ; j < len(order) && (j == i || r.around[order[j]].Y0 < end-1); j++ {
			k := order[j]
			end = math.Max(end, r.around[k].Y1)
			low, high = math.Max(low, r.around[k].Y0), math.Min(high, r.around[k].Y1)
			least = math.Min(least, r.around[k].H())
			if left[k] {
				sides[0] = true
			} else {
				sides[1] = true
			}
		}
		if sides[0] && sides[1] {
			both++
			if high-low > rowOverlap*least {
				plain++
			}
		}
		i = j
	}
	return both == 0 || float64(plain) >= rowShare*float64(both)
}

// headed tells whether a line that is no label stands over the first field of a column: within its sides, or a little to the left of
// labels that end at their fields; from and to are where other columns end and begin.
func (r reader) headed(in []int, from, to float64, block geom.Rect) bool {
	side := r.extent(in)
	from, to = math.Max(from, side.X0-raggedReach), math.Min(to, side.X1+12)
	return slices.ContainsFunc(r.printed.Heads, func(t geom.Rect) bool {
		return t.X0 > from && t.X1 < to && t.Y1 <= side.Y0+2 && t.Y0 > block.Y0-headReach && side.Y0-t.Y1 < headReach
	})
}

// block finds the largest part, between two level gaps, that has columns of its own, and what stands above and below it.
func (r reader) block(in []int) (upper, middle, lower []int, ok bool) {
	order := slices.Clone(in)
	slices.SortStableFunc(order, func(a, b int) int { return cmp.Compare(r.around[a].Y0, r.around[b].Y0) })
	cuts := []int{0}
	end := math.Inf(-1)
	for i, k := range order {
		if i > 0 && r.around[k].Y0 > end-1 {
			cuts = append(cuts, i)
		}
		end = math.Max(end, r.around[k].Y1)
	}
	cuts = append(cuts, len(order))
	for size := len(cuts) - 2; size > 0; size-- { // the whole has none
		for at := 0; at+size < len(cuts); at++ {
			a, b := cuts[at], cuts[at+size]
			if b-a < 4 || b-a == len(order) {
				continue
			}
			if _, _, found := r.gutter(order[a:b]); found {
				return slices.Clone(order[:a]), slices.Clone(order[a:b]), slices.Clone(order[b:]), true
			}
		}
	}
	return nil, nil, nil, false
}
