package scan

import (
	"bytes"
	"cmp"
	"image"
	"math"
	"slices"
	"sync"
)

// Marks are the drawn marks on a picture of a page: what is not type. Boxes are in
// pixels, X1 and Y1 beyond the last.
type Marks struct {
	Across, Down []Part // lines
	Squares      []Part // small empty boxes
	Circles      []Part // small empty circles
	Brackets     []Part // square brackets around nothing; Area 1 says that they are round
	Dots         []Part // rows of dots that lead the eye; Area is how many
	Tints        []Tint
	Letters      []Part // what has the size of a letter or a figure
	Ground       Ground
	Ink          *Ink // all of it
}

// Ground is what a page looks like without its thin lines and its type, coarsely.
type Ground struct {
	*image.Gray
	Side  int // of a coarse pixel, in pixels of the page
	Paper int // the tone of blank paper
}

// Tint is a shaded area, or a white one inside a shaded one.
type Tint struct {
	Part
	Tone float64 // 0 black to 1 white
}

// FindMarks finds the drawn marks of a page at a resolution in dots per inch.
func FindMarks(g *image.Gray, dpi float64) Marks {
	px := func(pt float64) int { return max(1, int(math.Round(pt*dpi/72))) }
	ink := Threshold(g)
	m := Marks{Ink: ink}
	var level, upright *Ink
	var parts, squares, frames, rings, broken []Part
	together(func() { // nothing of this needs anything of the other
		level = ridges(g, false, px(1.4), px(5))
		m.Across = lines(ink, level, px(3.5), px(8), px(3.2), max(2, px(1.3)))
		broken = framed(ink, px(5), px(17.5))
	}, func() {
		upright = ridges(g, true, px(1.4), px(5))
		m.Down = flipped(lines(ink.transposed(), upright, px(3.5), px(8), px(3.2), 2))
		m.Ground = groundOf(g, dpi)
		m.Tints = tints(g, m.Ground)
	})
	for _, line := range m.Across {
		m.Down = append(m.Down, ticksOn(ink, line, px(2.2), px(7.9), px(2), px(6))...)
	}
	for _, line := range m.Across {
		m.Down = append(m.Down, paleTicks(g, line, m.Down, px)...)
	}
	m.Across, m.Down = mendCells(g, m.Across, m.Down, px)
	together(func() {
		parts = ink.Connect().Parts
		m.Squares, m.Circles = hollow(ink, parts, px(5), px(17.5))
		m.Brackets = brackets(ink, parts, px(6), px(17))
		m.Dots = dotRows(parts, px(2.4), px(8), px(7.5))
	}, func() {
		// Thin lines of a coarse scan are broken: look once more with the breaks closed.
		thick := ink.dilated()
		squares, _ = hollow(thick, thick.Connect().Parts, px(5), px(18.5))
		frames, rings = around(ink.with(level.with(upright.transposed()).dilated()), px(3.2), px(16), px(3.4))
	})
	known := func(p Part) bool {
		return slices.ContainsFunc(m.Squares, func(o Part) bool { return touches(o, p) }) ||
			slices.ContainsFunc(m.Circles, func(o Part) bool { return touches(o, p) })
	}
	for _, p := range squares {
		p = Part{p.X0 + 1, p.Y0 + 1, p.X1 - 1, p.Y1 - 1, p.Area}
		if !slices.ContainsFunc(m.Squares, func(o Part) bool { return touches(o, p) }) {
			m.Squares = append(m.Squares, p)
		}
	}
	for _, p := range rings {
		if !known(p) {
			m.Circles = append(m.Circles, p)
		}
	}
	for _, p := range append(frames, broken...) { // whose outline is heavy, pale or broken
		if !known(p) {
			m.Squares = append(m.Squares, p)
		}
	}
	letter := func(p Part) bool {
		return p.H() >= px(3) && p.H() <= px(30) && p.W() <= px(90) && p.W() >= px(1) && 8*p.Area > p.W()*p.H()
	}
	for _, t := range m.Tints {
		if bar := t.Part; 255*t.Tone < darkest && bar.H() >= px(7) && bar.H() <= px(48) {
			m.Letters = append(m.Letters, slices.DeleteFunc(lightOn(g, bar), func(p Part) bool { return !letter(p) })...)
		}
	}
	for _, p := range parts {
		if slices.ContainsFunc(m.Down, func(o Part) bool { return touches(o, p) }) ||
			slices.ContainsFunc(m.Across, func(o Part) bool { return touches(o, p) && p.W() > 3*p.H() }) {
			continue // a piece of a line
		}
		if letter(p) {
			m.Letters = append(m.Letters, p)
		}
	}
	return m
}

// together does two things side by side, and is done when both are.
func together(a, b func()) {
	var done sync.WaitGroup
	done.Go(a)
	b()
	done.Wait()
}

// bands does work on the rows of a picture in two halves, side by side.
func bands(rows int, work func(from, to int)) {
	together(func() { work(0, rows/2) }, func() { work(rows/2, rows) })
}

func touches(a, b Part) bool {
	return a.X0 < b.X1 && b.X0 < a.X1 && a.Y0 < b.Y1 && b.Y0 < a.Y1
}

// dilated makes every piece of ink a pixel larger on all sides.
func (k *Ink) dilated() *Ink {
	rows := &Ink{W: k.W, H: k.H, Pix: make([]uint8, len(k.Pix))}
	for y := range k.H {
		src, dst := k.Pix[y*k.W:(y+1)*k.W], rows.Pix[y*k.W:(y+1)*k.W]
		for x, v := range src {
			if v == 1 {
				dst[x] = 1
				if x > 0 {
					dst[x-1] = 1
				}
				if x+1 < k.W {
					dst[x+1] = 1
				}
			}
		}
	}
	out := &Ink{W: k.W, H: k.H, Pix: make([]uint8, len(k.Pix))}
	for y := range k.H {
		dst := out.Pix[y*k.W : (y+1)*k.W]
		copy(dst, rows.Pix[y*k.W:(y+1)*k.W])
		for _, d := range [2]int{-1, 1} {
			if y+d < 0 || y+d >= k.H {
				continue
			}
			for x, v := range rows.Pix[(y+d)*k.W : (y+d+1)*k.W] {
				dst[x] |= v
			}
		}
	}
	return out
}

func (k *Ink) transposed() *Ink {
	out := &Ink{W: k.H, H: k.W, Pix: make([]uint8, len(k.Pix))}
	const block = 32 // rows are walked in bands that stay in the cache
	for by := 0; by < k.H; by += block {
		for y := by; y < min(by+block, k.H); y++ {
			row := k.Pix[y*k.W : (y+1)*k.W]
			for x := next(row, 0); x < k.W; x = next(row, x+1) {
				out.Pix[x*k.H+y] = 1
			}
		}
	}
	return out
}

// next is where the next ink of a row is, from x on; its length when there is none.
func next(row []uint8, x int) int {
	if i := bytes.IndexByte(row[x:], 1); i >= 0 {
		return x + i
	}
	return len(row)
}

func flipped(ps []Part) []Part {
	for i, p := range ps {
		ps[i] = Part{p.Y0, p.X0, p.Y1, p.X1, p.Area}
	}
	return ps
}

// lines finds lines across: runs of ink of at least run pixels, gaps of so many closed, and pale ones as they were found,
// that together are at least long and no thicker than thick. The steps of a line that leans a little touch each other, and so
// make one.
func lines(k, pale *Ink, run, long, thick, gap int) []Part {
	only := &Ink{W: k.W, H: k.H, Pix: make([]uint8, len(k.Pix))}
	if pale != nil {
		copy(only.Pix, pale.Pix)
	}
	for y := range k.H {
		row := k.Pix[y*k.W : (y+1)*k.W]
		start, last := -1, -1
		close := func() {
			if start >= 0 && last+1-start >= run {
				for x := start; x <= last; x++ {
					only.Pix[y*k.W+x] = 1
				}
			}
			start = -1
		}
		for x := next(row, 0); x < k.W; x = next(row, x+1) {
			if start >= 0 && x-last > gap+1 {
				close()
			}
			if start < 0 {
				start = x
			}
			last = x
		}
		close()
	}
	only.thin(thick + 1)
	var out []Part
	for _, p := range only.Connect().Parts {
		if p.W() >= long && p.H() <= thick+p.W()/250 && p.W() >= 3*p.H() && 3*p.Area >= p.W() { // long lines may lean a little
			out = append(out, p)
		}
	}
	return out
}

// thin takes away what is higher than so many pixels: areas that lines end at.
func (k *Ink) thin(most int) {
	from := make([]int, k.W) // row where the run of each column began, +1; 0 when there is none
	begun := 0
	for y := range k.H + 1 {
		var row []uint8
		if y < k.H {
			row = k.Pix[y*k.W : (y+1)*k.W]
		}
		if begun > 0 {
			for x, since := range from {
				if since == 0 || y < k.H && row[x] == 1 {
					continue
				}
				if y+1-since > most {
					for at := since - 1; at < y; at++ {
						k.Pix[at*k.W+x] = 0
					}
				}
				from[x] = 0
				begun--
			}
		}
		if y == k.H {
			return
		}
		for x := next(row, 0); x < k.W; x = next(row, x+1) {
			if from[x] == 0 {
				from[x] = y + 1
				begun++
			}
		}
	}
}

// ticksOn finds the short strokes that stand on a line across at one distance: at least
// three, from least to most high, no wider than thick and no closer than apart. They
// part a line to write on into cells.
func ticksOn(k *Ink, line Part, least, most, thick, apart int) []Part {
	var ticks []Part
	start := -1
	top := 0
	for x := line.X0; x <= line.X1; x++ {
		if above := k.above(line, x, most); x < line.X1 && above >= least && above <= most {
			if start < 0 {
				start, top = x, line.Y0-above
			}
			top = min(top, line.Y0-above)
			continue
		}
		if start >= 0 && x-start <= thick {
			ticks = append(ticks, Part{start, top, x, line.Y1, 0})
		}
		start = -1
	}
	// Evenly spaced ones only: letters that touch a line stand anywhere.
	var best []Part
	for i := range ticks {
		for j := i + 1; j < len(ticks); j++ {
			step := ticks[j].X0 - ticks[i].X0
			if step < apart || step > 6*apart {
				continue
			}
			run := []Part{ticks[i], ticks[j]}
			for _, t := range ticks[j+1:] {
				if abs(t.X0-run[len(run)-1].X0-step) <= max(2, step/8) {
					run = append(run, t)
				}
			}
			if len(run) > len(best) {
				best = run
			}
		}
	}
	if len(best) >= 3 {
		return best
	}
	// Fewer part a line that has an upright at either end.
	step := line.W() / (len(ticks) + 1)
	if len(ticks) == 0 || len(ticks) > 2 || step < apart || step > 6*apart {
		return nil
	}
	for i, t := range ticks {
		if abs(t.X0-(line.X0+step*(i+1))) > max(2, step/8) {
			return nil
		}
	}
	left, right := 0, 0
	for d := range thick + 1 {
		left, right = max(left, k.above(line, line.X0+d, most)), max(right, k.above(line, line.X1-1-d, most))
	}
	if min(left, right) < least {
		return nil
	}
	return ticks
}

// above is how far ink that stands on a line reaches above it at x, all of the line counted as one though it may lean; looked at up to
// a little more than most, 0 where nothing stands on it.
func (k *Ink) above(line Part, x, most int) int {
	y := line.Y1 - 1
	for y >= line.Y0 && !k.At(x, y) {
		y--
	}
	if y < line.Y0 {
		return 0
	}
	for high := 0; y >= 0 && high <= most+line.H() && k.At(x, y); high++ {
		y--
	}
	return max(0, line.Y0-(y+1))
}

// hollow finds small empty squares and circles among the pieces of ink.
func hollow(k *Ink, parts []Part, least, most int) (squares, circles []Part) {
	const cell = 64
	grid := map[[2]int][]Part{}
	for _, p := range parts {
		at := [2]int{p.X0 / cell, p.Y0 / cell}
		grid[at] = append(grid[at], p)
	}
	beside := func(p Part, reach int) bool { // a letter of the same word
		for gx := (p.X0 - 3*most) / cell; gx <= (p.X1+reach)/cell; gx++ {
			for gy := (p.Y0 - most) / cell; gy <= p.Y1/cell; gy++ {
				for _, o := range grid[[2]int{gx, gy}] {
					if o == p || o.H() < p.H()/3 || o.H() > 3*p.H() {
						continue
					}
					gap := max(o.X0-p.X1, p.X0-o.X1)
					if gap < reach && gap > -2 && min(o.Y1, p.Y1)-max(o.Y0, p.Y0) > p.H()/2 {
						return true
					}
				}
			}
		}
		return false
	}
	for _, p := range parts {
		w, h := p.W(), p.H()
		if w < least || h < least || w > most || h > most || 10*max(w, h) > 14*min(w, h) || 2*p.Area > w*h {
			continue
		}
		inside := k.count(p.X0+w/4, p.Y0+h/4, p.X1-w/4, p.Y1-h/4)
		if 20*inside > w*h/4 {
			continue
		}
		top, bottom := k.side(p, false, false), k.side(p, false, true)
		left, right := k.side(p, true, false), k.side(p, true, true)
		switch corner := k.corners(p); {
		case min(top, bottom, left, right) >= 0.75 && corner >= 3:
			squares = append(squares, p)
		case corner == 0 && min(top, bottom, left, right) >= 0.2 && k.ring(p) >= 0.85 && !beside(p, max(2, w/4)) && w >= least*3/2:
			circles = append(circles, p)
		}
	}
	return squares, circles
}

// framed finds small empty squares by their upper and lower sides, though a corner or a
// part of a side may be missing.
func framed(k *Ink, least, most int) []Part {
	short := lines(k, nil, max(3, least/2), least, max(2, least/3), 2)
	short = slices.DeleteFunc(short, func(p Part) bool { return p.W() > most })
	slices.SortFunc(short, func(a, b Part) int { return cmp.Compare(a.Y0, b.Y0) })
	var out []Part
	for i, a := range short {
		for _, b := range short[i+1:] {
			h := b.Y1 - a.Y0
			if h > most {
				break
			}
			p := Part{min(a.X0, b.X0), a.Y0, max(a.X1, b.X1), b.Y1, 0}
			if h < least || abs(a.X0-b.X0) > 3 || abs(a.X1-b.X1) > 3 || 10*max(p.W(), h) > 13*min(p.W(), h) {
				continue
			}
			w := p.W()
			if k.count(p.X0+w/4, p.Y0+h/4, p.X1-w/4, p.Y1-h/4)*20 > w*h/4 {
				continue
			}
			if min(k.side(p, false, false), k.side(p, false, true)) >= 0.7 &&
				min(k.side(p, true, false), k.side(p, true, true)) >= 0.6 && k.corners(p) >= 3 {
				out = append(out, p)
			}
		}
	}
	return out
}

// brackets finds pairs of brackets with nothing between them.
func brackets(k *Ink, parts []Part, least, most int) []Part {
	var tall []Part
	for _, p := range parts {
		if p.H() >= least && p.H() <= most && 2*p.W() <= p.H() && p.W() >= 2 {
			tall = append(tall, p)
		}
	}
	slices.SortFunc(tall, func(a, b Part) int { return cmp.Compare(a.X0, b.X0) })
	var out []Part
	for i, a := range tall {
		for _, b := range tall[i+1:] {
			gap := b.X0 - a.X1
			if gap > 2*a.H() {
				break
			}
			if gap < a.H()/4 || abs(a.Y0-b.Y0) > 2 || abs(a.Y1-b.Y1) > 2 || k.count(a.X1, a.Y0, b.X0, a.Y1) > 2 {
				continue
			}
			// the backs face outwards
			third := max(1, a.W()/3)
			if k.count(a.X0, a.Y0, a.X0+third, a.Y1) <= k.count(a.X1-third, a.Y0, a.X1, a.Y1) ||
				k.count(b.X1-third, b.Y0, b.X1, b.Y1) <= k.count(b.X0, b.Y0, b.X0+third, b.Y1) {
				continue
			}
			p := Part{a.X0, min(a.Y0, b.Y0), b.X1, max(a.Y1, b.Y1), 0}
			if k.side(a, true, false) < 0.9 || k.count(a.X1-third, a.Y0, a.X1, a.Y0+max(2, a.H()/8)) == 0 {
				p.Area = 1
			}
			if k.count(a.X0, a.Y0, a.X0+third, a.Y0+max(1, a.H()/10)) == 0 { // its corner is cut: round
				p.Area = 1
			}
			out = append(out, p)
			break
		}
	}
	return out
}

func (k *Ink) count(x0, y0, x1, y1 int) int {
	n := 0
	for y := y0; y < y1; y++ {
		for x := x0; x < x1; x++ {
			if k.At(x, y) {
				n++
			}
		}
	}
	return n
}

// side is the share of an edge of a box that has ink within a fifth of its size.
func (k *Ink) side(p Part, upright, far bool) float64 {
	deep := max(2, min(p.W(), p.H())/5)
	length := p.W()
	if upright {
		length = p.H()
	}
	n := 0
	for i := range length {
		for d := range deep {
			x, y := p.X0+i, p.Y0+d
			if far {
				y = p.Y1 - 1 - d
			}
			if upright {
				x, y = p.X0+d, p.Y0+i
				if far {
					x = p.X1 - 1 - d
				}
			}
			if k.At(x, y) {
				n++
				break
			}
		}
	}
	return float64(n) / float64(length)
}

// corners counts the corners of a box that have ink.
func (k *Ink) corners(p Part) int {
	d := max(2, min(p.W(), p.H())/8)
	n := 0
	for _, c := range [4][2]int{{p.X0, p.Y0}, {p.X1 - d, p.Y0}, {p.X0, p.Y1 - d}, {p.X1 - d, p.Y1 - d}} {
		if k.count(c[0], c[1], c[0]+d, c[1]+d) > 0 {
			n++
		}
	}
	return n
}

// ring is the share of a circle's circumference that has ink.
func (k *Ink) ring(p Part) float64 {
	cx, cy := float64(p.X0+p.X1)/2, float64(p.Y0+p.Y1)/2
	n := 0
	const steps = 48
	for i := range steps {
		sin, cos := math.Sincos(2 * math.Pi * float64(i) / steps)
		for _, r := range []float64{0.5, 0.46, 0.42, 0.38} {
			if k.At(int(cx+cos*r*float64(p.W())), int(cy+sin*r*float64(p.H()))) {
				n++
				break
			}
		}
	}
	return float64(n) / steps
}

// dotRows finds rows of at least eight dots or dashes: no higher than most, no longer
// than long, with gaps of at most gap.
func dotRows(parts []Part, most, long, gap int) []Part {
	var dots []Part
	for _, p := range parts {
		if p.W() <= long && p.H() <= most {
			dots = append(dots, p)
		}
	}
	slices.SortFunc(dots, func(a, b Part) int { return cmp.Or(cmp.Compare(a.Y1, b.Y1), cmp.Compare(a.X0, b.X0)) })
	var rows [][]Part
	for _, d := range dots {
		placed := false
		for i := len(rows) - 1; i >= 0 && i >= len(rows)-30; i-- {
			if last := rows[i][0]; abs(last.Y1-d.Y1) <= max(1, most/3) {
				rows[i] = append(rows[i], d)
				placed = true
				break
			}
		}
		if !placed {
			rows = append(rows, []Part{d})
		}
	}
	var out []Part
	for _, row := range rows {
		slices.SortFunc(row, func(a, b Part) int { return cmp.Compare(a.X0, b.X0) })
		for i := 0; i < len(row); {
			j := i + 1
			p := row[i]
			for j < len(row) && row[j].X0-row[j-1].X1 <= gap {
				p.X1, p.Y0, p.Y1 = max(p.X1, row[j].X1), min(p.Y0, row[j].Y0), max(p.Y1, row[j].Y1)
				j++
			}
			if p.Area = j - i; p.Area >= 8 {
				out = append(out, p)
			}
			i = j
		}
	}
	return out
}
