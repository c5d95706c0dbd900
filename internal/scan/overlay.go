package scan

import (
	"cmp"
	"image"
	"math"
	"slices"

	"golang.org/x/image/draw"
)

// How a picture is laid over a page: tiles of so many pixels are looked for, at most so many of them, this far away at first and then
// nearer.
const (
	tile      = 40
	mostTiles = 140
	likeness  = 0.55 // of a tile that counts as found, from 0 to 1
	farthest  = 0.06 // of the width of the page
)

// Overlay lays a picture of a filled sheet over the page that the sheet was printed from, by what is printed on both: it gives the
// picture as large as the page, point upon point, and how much of the page was found in it, from 0 to 1. The picture may lie askew, in
// any quarter, be of another size, or seen from aside when its edges are seen.
//
// The first guess goes by the skew and by the profiles of the ink; tiles of the page are then looked for by correlation, and a transform
// with perspective is fitted to them by least squares, leaving out those that do not agree (random sample consensus, M. Fischler and R.
// Bolles, Communications of the ACM 24(6), 1981).
func Overlay(picture image.Image, page *image.Gray) (laid *image.Gray, sure float64) {
	if q, ok := PageEdges(picture); ok {
		picture = Flatten(picture, q)
	}
	g := Gray(picture)
	small := page
	if page.Rect.Dx() > 1200 {
		small = Shrink(page, 1)
	}
	w, h := small.Rect.Dx(), small.Rect.Dy()
	want := inkMap(small)
	best, bestSure := mapping{}, -1.0
	from := g
	turns, _ := Turn(g)
	if across := (w < h) != (g.Rect.Dx() < g.Rect.Dy()); across != (turns%2 == 1) {
		turns = (turns + 1) % 4
	}
	for _, quarters := range []int{turns, (turns + 2) % 4} {
		upright := Gray(Quarters(g, quarters))
		at := guess(upright, want, w, h)
		found := 0.0
		for _, reach := range []float64{farthest * float64(w), 0.015 * float64(w), 5} {
			at, found = refined(upright, want, at, w, h, reach)
		}
		if found > bestSure {
			best, bestSure, from = at, found, upright
		}
		if found > 0.6 {
			break
		}
	}
	k := float64(w) / float64(page.Rect.Dx())
	for _, i := range []int{0, 1, 3, 4, 6, 7} {
		best[i] *= k
	}
	if k != 1 && bestSure > 0 {
		if at, found := refined(from, inkMap(page), best, page.Rect.Dx(), page.Rect.Dy(), 5); found > bestSure/2 {
			best = at
		}
	}
	return best.draw(from, page.Rect.Dx(), page.Rect.Dy()), max(0, bestSure)
}

// mapping takes places of the page to places of the picture: a transform with perspective.
type mapping [9]float64

func (m mapping) at(x, y float64) (float64, float64) {
	d := m[6]*x + m[7]*y + m[8]
	return (m[0]*x + m[1]*y + m[2]) / d, (m[3]*x + m[4]*y + m[5]) / d
}

// draw gives the picture as the page lies.
func (m mapping) draw(g *image.Gray, w, h int) *image.Gray {
	out := image.NewGray(image.Rect(0, 0, w, h))
	flat := m[6] == 0 && m[7] == 0 && m[8] == 1 // without perspective
	for y := range h {
		fy, row := float64(y)+0.5, out.Pix[y*out.Stride:][:w]
		if flat {
			u, v := m[1]*fy, m[4]*fy
			for x := range row {
				fx := float64(x) + 0.5
				row[x] = between(g, m[0]*fx+u+m[2]-0.5, m[3]*fx+v+m[5]-0.5)
			}
			continue
		}
		for x := range row {
			u, v := m.at(float64(x)+0.5, fy)
			row[x] = between(g, u-0.5, v-0.5)
		}
	}
	return out
}

// between is the tone between four pixels; beside the picture it is white.
func between(g *image.Gray, x, y float64) uint8 {
	x0, y0 := int(math.Floor(x)), int(math.Floor(y))
	if x0 < 0 || y0 < 0 || x0+1 >= g.Rect.Dx() || y0+1 >= g.Rect.Dy() {
		return 255
	}
	i := y0*g.Stride + x0
	a, b, c, d := g.Pix[i], g.Pix[i+1], g.Pix[i+g.Stride], g.Pix[i+g.Stride+1]
	if a == b && a == c && a == d { // as on most of a sheet
		return a
	}
	fx, fy := x-float64(x0), y-float64(y0)
	up := float64(a)*(1-fx) + float64(b)*fx
	down := float64(c)*(1-fx) + float64(d)*fx
	return uint8(up*(1-fy) + down*fy + 0.5)
}

// soft is how dark a picture is, 0 to 255, a little blurred, so that lines need not meet pixel by pixel.
type soft struct {
	w, h int
	pix  []uint8
}

func inkMap(g *image.Gray) soft {
	ink := Threshold(g)
	s := soft{ink.W, ink.H, make([]uint8, len(ink.Pix))}
	var tones [17]uint8 // by how many sixteenths of a place and its neighbours are ink
	for n := range tones {
		tones[n] = uint8(n * 255 / 16)
	}
	across := make([]uint8, len(ink.Pix)) // a place twice, and its neighbours to both sides
	for y := range s.h {
		row, to := ink.Pix[y*s.w:][:s.w], across[y*s.w:][:s.w]
		for x := 1; x < s.w-1; x++ {
			to[x] = row[x-1] + 2*row[x] + row[x+1]
		}
	}
	for y := 1; y < s.h-1; y++ {
		up, here, down := across[(y-1)*s.w:][:s.w], across[y*s.w:][:s.w], across[(y+1)*s.w:][:s.w]
		to := s.pix[y*s.w:][:s.w]
		for x := 1; x < s.w-1; x++ {
			to[x] = tones[up[x]+2*here[x]+down[x]]
		}
	}
	return s
}

// profiles are the sums of a map along its rows and columns, in steps of so many pixels.
func (s soft) profiles(step int) (rows, columns []float64) {
	rows, columns = make([]float64, s.h/step+1), make([]float64, s.w/step+1)
	for y := range s.h {
		for x := range s.w {
			if v := float64(s.pix[y*s.w+x]); v > 0 {
				rows[y/step] += v
				columns[x/step] += v
			}
		}
	}
	return rows, columns
}

// guess lays the picture by its skew, its size and the profiles of its ink.
func guess(g *image.Gray, page soft, w, h int) mapping {
	skew := Skew(g) * math.Pi / 180
	const step = 3
	rows, columns := page.profiles(step)
	fit := (float64(g.Rect.Dx())/float64(w) + float64(g.Rect.Dy())/float64(h)) / 2
	best, most := mapping{}, math.Inf(-1)
	for _, k := range []float64{0.94, 0.96, 0.98, 1, 1.02, 1.04, 1.06} {
		scale := fit * k
		sin, cos := math.Sincos(skew)
		cx, cy := float64(g.Rect.Dx())/2, float64(g.Rect.Dy())/2
		m := mapping{
			scale * cos, -scale * sin, cx - scale*(cos*float64(w)-sin*float64(h))/2,
			scale * sin, scale * cos, cy - scale*(sin*float64(w)+cos*float64(h))/2, 0, 0, 1,
		}
		laid := inkMap(m.draw(g, w, h))
		r, c := laid.profiles(step)
		dy, sy := shift(rows, r, len(rows)/8)
		dx, sx := shift(columns, c, len(columns)/8)
		if s := sx + sy; s > most {
			most = s
			x, y := float64(dx*step), float64(dy*step)
			m[2] += m[0]*x + m[1]*y
			m[5] += m[3]*x + m[4]*y
			best = m
		}
	}
	return best
}

// shift is by how many steps b lies behind a, and how much they are alike then.
func shift(a, b []float64, most int) (int, float64) {
	best, score := 0, math.Inf(-1)
	for d := -most; d <= most; d++ {
		n := 0.0
		var sa, sb, saa, sbb, sab float64
		for i := range a {
			if j := i + d; j >= 0 && j < len(b) {
				n++
				sa, sb, saa, sbb, sab = sa+a[i], sb+b[j], saa+a[i]*a[i], sbb+b[j]*b[j], sab+a[i]*b[j]
			}
		}
		va, vb := saa-sa*sa/n, sbb-sb*sb/n
		if va <= 0 || vb <= 0 {
			continue
		}
		if s := (sab - sa*sb/n) / math.Sqrt(va*vb) * math.Sqrt(n/float64(len(a))); s > score {
			best, score = d, s
		}
	}
	return best, score
}

// pair is a place of the page and where it was found in the picture laid so far.
type pair struct{ x, y, u, v float64 }

// refined looks for tiles of the page in the picture as it is laid, and lays it by where they are. It tells what share was found.
func refined(g *image.Gray, page soft, at mapping, w, h int, reach float64) (mapping, float64) {
	tiles := page.tiles()
	if len(tiles) == 0 {
		return at, 0
	}
	laid := inkMap(at.draw(g, w, h)).sought()
	var pairs []pair
	for _, t := range tiles {
		if dx, dy, like := laid.find(page, t, int(reach)); like >= likeness {
			cx, cy := float64(t.X)+tile/2, float64(t.Y)+tile/2
			u, v := at.at(cx+float64(dx), cy+float64(dy))
			pairs = append(pairs, pair{cx, cy, u, v})
		}
	}
	good := agreeing(pairs, math.Max(2.5, reach/8)*math.Hypot(at[0], at[3]))
	if len(good) < 6 {
		return at, 0
	}
	m, ok := fitted(good, len(good) >= 12)
	if !ok {
		return at, 0
	}
	return m, float64(len(good)) / float64(len(tiles))
}

// tiles are places of a page with enough ink to be known again, spread over the page.
func (s soft) tiles() []image.Point {
	type one struct {
		p    image.Point
		rich float64
	}
	var all []one
	for y := tile / 2; y+tile < s.h; y += tile {
		for x := tile / 2; x+tile < s.w; x += tile {
			var n, across, down float64
			for v := range tile {
				for u := range tile {
					i := (y+v)*s.w + x + u
					c := float64(s.pix[i])
					n += c
					across += math.Abs(c - float64(s.pix[i+1]))
					down += math.Abs(c - float64(s.pix[i+s.w]))
				}
			}
			if n > 255*tile*tile*0.02 { // a line alone is found anywhere along itself
				all = append(all, one{image.Point{x, y}, math.Min(across, down)})
			}
		}
	}
	slices.SortStableFunc(all, func(a, b one) int { return cmp.Compare(b.rich, a.rich) })
	if len(all) > mostTiles {
		all = all[:mostTiles]
	}
	var out []image.Point
	for _, a := range all {
		if a.rich > 255*tile*0.8 {
			out = append(out, a.p)
		}
	}
	return out
}

// sought is a map in which tiles are looked for.
type sought struct {
	soft
	near, far *sums // at every place, and at every other one
}

func (s soft) sought() sought { return sought{s, s.summed(1), s.summed(2)} }

// sums are the tones of a map, and their squares, added up from the upper left over every step-th place: those of a tile are the
// difference of four (F. Crow, Summed-area tables for texture mapping, SIGGRAPH 1984). They may run over, which differences do not mind.
type sums struct {
	step, w  int
	one, two []uint32
}

func (s soft) summed(step int) *sums {
	t := sums{step: step, w: s.w + step}
	t.one, t.two = make([]uint32, t.w*(s.h+step)), make([]uint32, t.w*(s.h+step))
	for y := range s.h {
		for x := range s.w {
			v := uint32(s.pix[y*s.w+x])
			i := (y+step)*t.w + x + step
			left, up, across := i-step, i-step*t.w, i-step*t.w-step
			t.one[i] = v + t.one[left] + t.one[up] - t.one[across]
			t.two[i] = v*v + t.two[left] + t.two[up] - t.two[across]
		}
	}
	return &t
}

// of are the sums of the tile at a place.
func (t *sums) of(x, y int) (one, two float64) {
	n := (tile + t.step - 1) / t.step * t.step
	a, b := y*t.w+x, (y+n)*t.w+x
	return float64(t.one[b+n] - t.one[b] - t.one[a+n] + t.one[a]), float64(t.two[b+n] - t.two[b] - t.two[a+n] + t.two[a])
}

// mould is what is known of a tile of the page before it is looked for: the places of its ink in a map that is as wide, and its sums.
type mould struct {
	at             image.Point
	dark           []struct{ place, tone int }
	n, one, spread float64
	sums           *sums // of the map
}

func (s sought) mould(page soft, t image.Point, by *sums) mould {
	m := mould{at: t, sums: by}
	two := 0.0
	for v := 0; v < tile; v += by.step {
		row := page.pix[(t.Y+v)*page.w+t.X:]
		for u := 0; u < tile; u += by.step {
			m.n++
			if p := int(row[u]); p > 0 {
				m.dark = append(m.dark, struct{ place, tone int }{v*s.w + u, p})
				m.one += float64(p)
				two += float64(p * p)
			}
		}
	}
	m.spread = two - m.one*m.one/m.n
	return m
}

// find looks for a tile of the page nearby: where it is, and how like it, from 0 to 1. Far away only every other place is looked at first.
func (s sought) find(page soft, t image.Point, reach int) (dx, dy int, like float64) {
	if reach <= 10 {
		return s.best(s.mould(page, t, s.near), image.Point{}, reach)
	}
	bu, bv, _ := s.best(s.mould(page, t, s.far), image.Point{}, reach)
	return s.best(s.mould(page, t, s.near), image.Point{X: bu, Y: bv}, 2)
}

// best is where around a place a tile is most alike.
func (s sought) best(m mould, around image.Point, reach int) (dx, dy int, like float64) {
	dx, dy = around.X, around.Y
	for v := around.Y - reach; v <= around.Y+reach; v += m.sums.step {
		for u := around.X - reach; u <= around.X+reach; u += m.sums.step {
			if l := s.like(m, u, v); l > like {
				dx, dy, like = u, v, l
			}
		}
	}
	return dx, dy, like
}

// like is the normalized correlation of a tile with a place of the map.
func (s sought) like(m mould, du, dv int) float64 {
	x, y := m.at.X+du, m.at.Y+dv
	if x < 0 || y < 0 || x+tile >= s.w || y+tile >= s.h {
		return 0
	}
	one, two := m.sums.of(x, y)
	spread := two - one*one/m.n
	if m.spread <= 0 || spread <= 0 {
		return 0
	}
	both := 0
	here := s.pix[y*s.w+x:]
	for _, d := range m.dark {
		both += d.tone * int(here[d.place])
	}
	return (float64(both) - m.one*one/m.n) / math.Sqrt(m.spread*spread)
}

// agreeing are the pairs that one transform explains, to within so many pixels of the picture.
func agreeing(pairs []pair, within float64) []pair {
	if len(pairs) < 6 {
		return nil
	}
	var best []pair
	seed := uint32(
		2463534242,
	) // xorshift (G. Marsaglia, Journal of Statistical Software 8(14), 2003): the same picture is laid in the same way
	next := func(n int) int {
		seed ^= seed << 13
		seed ^= seed >> 17
		seed ^= seed << 5
		return int(seed % uint32(n)) //nolint:gosec // n is small
	}
	for range 300 {
		m, ok := fitted([]pair{pairs[next(len(pairs))], pairs[next(len(pairs))], pairs[next(len(pairs))]}, false)
		if !ok {
			continue
		}
		var good []pair
		for _, p := range pairs {
			if u, v := m.at(p.x, p.y); math.Hypot(u-p.u, v-p.v) < within {
				good = append(good, p)
			}
		}
		if len(good) > len(best) {
			best = good
		}
	}
	return best
}

// fitted is the transform that takes pairs to each other by least squares: six numbers, or eight with perspective.
func fitted(pairs []pair, perspective bool) (mapping, bool) {
	n := 6
	if perspective {
		n = 8
	}
	a := make([][]float64, n)
	for i := range a {
		a[i] = make([]float64, n+1)
	}
	add := func(row []float64, value float64) {
		for i := range n {
			for k := range n {
				a[i][k] += row[i] * row[k]
			}
			a[i][n] += row[i] * value
		}
	}
	const unit = 1000 // so that the numbers are of one size
	for _, p := range pairs {
		x, y, u, v := p.x/unit, p.y/unit, p.u/unit, p.v/unit
		if perspective {
			add([]float64{x, y, 1, 0, 0, 0, -x * u, -y * u}, u)
			add([]float64{0, 0, 0, x, y, 1, -x * v, -y * v}, v)
		} else {
			add([]float64{x, y, 1, 0, 0, 0}, u)
			add([]float64{0, 0, 0, x, y, 1}, v)
		}
	}
	r, ok := solved(a)
	if !ok {
		return mapping{}, false
	}
	m := mapping{r[0], r[1], r[2] * unit, r[3], r[4], r[5] * unit, 0, 0, 1}
	if perspective {
		m[6], m[7] = r[6]/unit, r[7]/unit
	}
	return m, true
}

// solved solves linear equations by elimination; false where they have no one solution.
func solved(a [][]float64) ([]float64, bool) {
	n := len(a)
	for c := range n {
		p := c
		for r := c + 1; r < n; r++ {
			if math.Abs(a[r][c]) > math.Abs(a[p][c]) {
				p = r
			}
		}
		if math.Abs(a[p][c]) < 1e-10 {
			return nil, false
		}
		a[c], a[p] = a[p], a[c]
		for r := range n {
			if r == c {
				continue
			}
			f := a[r][c] / a[c][c]
			for k := c; k <= n; k++ {
				a[r][k] -= f * a[c][k]
			}
		}
	}
	out := make([]float64, n)
	for i := range out {
		out[i] = a[i][n] / a[i][i]
	}
	return out, true
}

// Written is what stands on a laid picture and not on the page: the tone where somebody has written, white elsewhere. What is printed is
// taken away with a rim of so many pixels; where writing crosses it, small gaps stay.
func Written(laid, page *image.Gray, rim int) *image.Gray {
	w, h := page.Rect.Dx(), page.Rect.Dy()
	printed, ink := Threshold(page), Threshold(laid)
	near := make([]bool, w*h)
	for y := range h {
		for x := range w {
			if printed.Pix[y*w+x] == 0 {
				continue
			}
			for v := max(0, y-rim); v <= min(h-1, y+rim); v++ {
				for u := max(0, x-rim); u <= min(w-1, x+rim); u++ {
					near[v*w+u] = true
				}
			}
		}
	}
	out := image.NewGray(page.Rect)
	for i := range out.Pix {
		out.Pix[i] = 255
		if !near[i] && (ink.Pix[i] != 0 || laid.Pix[i] < 200 && beside(ink, i, w)) {
			out.Pix[i] = laid.Pix[i]
		}
	}
	return out
}

// beside tells whether ink is next to a pixel.
func beside(k *Ink, i, w int) bool {
	for _, d := range []int{-1, 1, -w, w} {
		if j := i + d; j >= 0 && j < len(k.Pix) && k.Pix[j] != 0 {
			return true
		}
	}
	return false
}

// Covered is the share of the pixels of a rectangle that are darker than the middle tone.
func Covered(g *image.Gray, r image.Rectangle) float64 {
	r = r.Intersect(g.Rect)
	if r.Empty() {
		return 0
	}
	n := 0
	for y := r.Min.Y; y < r.Max.Y; y++ {
		for x := r.Min.X; x < r.Max.X; x++ {
			if g.Pix[y*g.Stride+x] < 150 {
				n++
			}
		}
	}
	return float64(n) / float64(r.Dx()*r.Dy())
}

// Enlarged is a part of a picture, so many times as large, on a white ground with a rim.
func Enlarged(g *image.Gray, r image.Rectangle, times float64, rim int) *image.Gray {
	r = r.Intersect(g.Rect)
	w, h := int(float64(r.Dx())*times), int(float64(r.Dy())*times)
	out := image.NewGray(image.Rect(0, 0, w+2*rim, h+2*rim))
	for i := range out.Pix {
		out.Pix[i] = 255
	}
	draw.CatmullRom.Scale(out, image.Rect(rim, rim, rim+w, rim+h), g, r, draw.Src, nil)
	return out
}
