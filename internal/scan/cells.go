package scan

import (
	"image"
	"slices"
)

// Rows of small cells, one for each sign of an answer, are mended where blur and noise took parts of their lines: a side is looked for
// in all of its height at once, where little noise is left of it.

// cellRow is a row of uprights of one height; xs are their middles, from the left.
type cellRow struct {
	top, foot int
	xs        []int
}

// mendCells adds the sides of cells that are missing in rows of them, and parts the lines above and below cells that stand apart.
func mendCells(g *image.Gray, across, down []Part, px func(pt float64) int) (newAcross, newDown []Part) {
	for _, row := range cellRows(down, px) {
		sides := row.missing(g, across, px)
		for _, x := range sides {
			down = append(down, Part{x - 1, row.top, x + 2, row.foot, 0})
		}
		row.xs = append(row.xs, sides...)
		slices.Sort(row.xs)
		across = row.parted(across, px)
	}
	return across, down
}

// cellRows groups uprights that have the height of cells by where they begin and end; a row has three at least.
func cellRows(down []Part, px func(pt float64) int) []cellRow {
	const enough = 3
	near := px(1.6)
	used := make([]bool, len(down))
	var out []cellRow
	for i, a := range down {
		if used[i] || a.H() < px(8) || a.H() > px(26) {
			continue
		}
		row := cellRow{top: a.Y0, foot: a.Y1}
		for j := i; j < len(down); j++ {
			if b := down[j]; !used[j] && abs(a.Y0-b.Y0) <= near && abs(a.Y1-b.Y1) <= near {
				used[j] = true
				row.xs = append(row.xs, (b.X0+b.X1)/2)
			}
		}
		if len(row.xs) < enough {
			continue
		}
		slices.Sort(row.xs)
		for from, i := 0, 1; i <= len(row.xs); i++ { // what stands far apart is of two rows
			if i < len(row.xs) && row.xs[i]-row.xs[i-1] <= px(45) {
				continue
			}
			if i-from >= enough {
				out = append(out, cellRow{row.top, row.foot, slices.Clone(row.xs[from:i])})
			}
			from = i
		}
	}
	return out
}

// depth is how much darker than both sides of it a column is, on average, between two heights.
func depth(g *image.Gray, x, y0, y1, apart int) float64 {
	if x-apart < 0 || x+apart >= g.Rect.Dx() || y1 <= y0 {
		return 0
	}
	left, mid, right := 0, 0, 0
	for y := y0; y < y1; y++ {
		row := g.Pix[y*g.Stride:]
		left, mid, right = left+int(row[x-apart]), mid+int(row[x]), right+int(row[x+apart])
	}
	return float64(min(left, right)-mid) / float64(y1-y0)
}

// deepest is the depth of a column or of one beside it, since an upright leans a little.
func deepest(g *image.Gray, x, y0, y1, apart int) float64 {
	return max(depth(g, x-1, y0, y1, apart), depth(g, x, y0, y1, apart), depth(g, x+1, y0, y1, apart))
}

// missing finds the sides of cells that are to be seen in a row though no line was made of them: as deep as the others, or nearly so, in
// each quarter of the height, below or above a line across.
func (r cellRow) missing(g *image.Gray, across []Part, px func(pt float64) int) []int {
	apart, margin := px(1.4), (r.foot-r.top)/7
	y0, y1 := r.top+margin, r.foot-margin
	var known []float64
	for _, x := range r.xs {
		known = append(known, deepest(g, x, y0, y1, apart))
	}
	slices.Sort(known)
	usual := known[len(known)/2]
	if usual < 2 {
		return nil
	}
	throughout := func(x int) bool {
		const parts = 4
		for i := range parts {
			a, b := y0+(y1-y0)*i/parts, y0+(y1-y0)*(i+1)/parts
			if deepest(g, x, a, b, apart) < 0.25*usual {
				return false
			}
		}
		return true
	}
	reach := px(2.5)
	ended := func(x int) bool {
		return slices.ContainsFunc(across, func(p Part) bool {
			level := min(abs(p.Y0-r.top), abs(p.Y1-r.foot)) <= reach
			return level && p.X0-reach <= x && x <= p.X1+reach
		})
	}
	var out []int
	from, to := r.xs[0]-px(32), r.xs[len(r.xs)-1]+px(32)
	best, deep := -1, 0.0
	flush := func() {
		if best >= 0 && ended(best) && throughout(best) {
			out = append(out, best)
		}
		best, deep = -1, 0
	}
	for x := max(apart, from); x < min(g.Rect.Dx()-apart, to); x++ {
		d := depth(g, x, y0, y1, apart)
		if d < 0.4*usual || slices.ContainsFunc(r.xs, func(o int) bool { return abs(o-x) <= px(1.8) }) {
			flush()
			continue
		}
		if d > deep {
			best, deep = x, d
		}
	}
	flush()
	return out
}

// parted cuts the lines above and below a row where its cells stand a little apart, two times at least.
func (r cellRow) parted(across []Part, px func(pt float64) int) []Part {
	type gap struct{ from, to int }
	var gaps []gap
	for i := 2; i < len(r.xs)-1; i++ {
		a, b := r.xs[i-1], r.xs[i]
		if d := b - a; d <= px(4.5) && a-r.xs[i-2] >= 5*d/2 && r.xs[i+1]-b >= 5*d/2 {
			gaps = append(gaps, gap{a, b})
		}
	}
	if len(gaps) < 2 {
		return across
	}
	near := px(2)
	var out []Part
	for _, p := range across {
		if min(abs(p.Y0-r.top), abs(p.Y1-r.foot)) > near {
			out = append(out, p)
			continue
		}
		for _, g := range gaps {
			if p.X0 < g.from-near && p.X1 > g.to+near {
				out = append(out, Part{p.X0, p.Y0, g.from + 1, p.Y1, 0})
				p.X0 = g.to - 1
			}
		}
		out = append(out, p)
	}
	return out
}

// paleTicks finds the short strokes that divide a line evenly though most of them are too pale to be ink: at every edge of a cell the
// paper right above the line is darker than beside, and in the middle of no cell.
func paleTicks(g *image.Gray, line Part, down []Part, px func(pt float64) int) []Part {
	if line.W() < px(24) || line.Y0 < px(8) {
		return nil
	}
	apart, low, high := px(1.4), line.Y0-px(4.2), line.Y0-px(1)
	at := func(x int) float64 { return deepest(g, x, low, high, apart) }
	const faint = 5 // steps of lightness
	best, deepest := 0, 0.0
	for n := 3; n <= 40 && line.W()/n >= px(8); n++ {
		if line.W()/n > px(26) {
			continue
		}
		least, sum, between := 255.0, 0.0, 0.0
		for k := 1; k < n; k++ {
			d := at(line.X0 + line.W()*k/n)
			least, sum = min(least, d), sum+d
			between = max(between, at(line.X0+line.W()*(2*k-1)/(2*n)), at(line.X0+line.W()*(2*k+1)/(2*n)))
		}
		if mean := sum / float64(n-1); least > faint && least > 0.4*mean && between < 0.35*mean && mean > deepest {
			best, deepest = n, mean
		}
	}
	var out []Part
	for k := 1; k < best; k++ {
		x := line.X0 + line.W()*k/best
		if slices.ContainsFunc(down, func(p Part) bool { return p.X0-px(1.8) < x && x < p.X1+px(1.8) && p.Y0 < line.Y0 && p.Y1 > low }) {
			continue
		}
		out = append(out, Part{x - 1, low, x + 1, line.Y1, 0})
	}
	return out
}
