package scan

import (
	"image"
	"math"
)

// Corner is a place in a picture, in pixels.
type Corner struct{ X, Y float64 }

// Quad is a four-sided shape: upper left, upper right, lower right, lower left.
type Quad [4]Corner

// PageEdges finds the sheet of paper on a photograph: the large bright area with
// four straight sides on a darker ground. Ok is false when the paper fills the
// picture, or when there is none to see.
func PageEdges(img image.Image) (q Quad, ok bool) {
	g := Gray(img)
	n := halvings(g, 700)
	g = Shrink(g, n)
	w, h := g.Rect.Dx(), g.Rect.Dy()
	if w < 40 || h < 40 {
		return q, false
	}
	bright := brightArea(g)
	parts := bright.Connect()
	best := -1
	for i, p := range parts.Parts {
		if best < 0 || p.Area > parts.Parts[best].Area {
			best = i
		}
	}
	if best < 0 {
		return q, false
	}
	sheet := fillOf(parts, best, w, h)
	q, ok = corners(sheet, w, h)
	if !ok {
		return q, false
	}
	area := q.area()
	covered := 0
	for _, r := range sheet {
		if r[0] >= 0 {
			covered += r[1] - r[0]
		}
	}
	all := float64(w * h)
	if area < 0.2*all || area > 0.965*all || float64(covered) < 0.93*area || float64(covered) > 1.08*area {
		return q, false
	}
	// Paper on a table: what lies around it is much darker. A tinted form is no photograph.
	var in, out, inN, outN float64
	for y, r := range sheet {
		for x := range w {
			v := float64(g.Pix[y*g.Stride+x])
			if r[0] >= 0 && x >= r[0] && x < r[1] {
				in, inN = in+v, inN+1
			} else {
				out, outN = out+v, outN+1
			}
		}
	}
	if inN == 0 || outN == 0 || out/outN > 0.68*in/inN {
		return q, false
	}
	k := float64(int(1) << n)
	for i := range q {
		q[i].X, q[i].Y = q[i].X*k, q[i].Y*k
	}
	return q, true
}

// brightArea marks what is lighter than the threshold between paper and ground (N.
// Otsu, IEEE Transactions on Systems, Man and Cybernetics 9(1), 1979).
func brightArea(g *image.Gray) *Ink {
	w, h := g.Rect.Dx(), g.Rect.Dy()
	var hist [256]float64
	for _, v := range g.Pix {
		hist[v]++
	}
	total, sum := float64(len(g.Pix)), 0.0
	for v, n := range hist {
		sum += float64(v) * n
	}
	best, at, nb, sb := -1.0, 127, 0.0, 0.0
	for v := range 256 {
		nb += hist[v]
		sb += float64(v) * hist[v]
		if nb == 0 || nb == total {
			continue
		}
		d := sb/nb - (sum-sb)/(total-nb)
		if between := nb * (total - nb) * d * d; between > best {
			best, at = between, v
		}
	}
	out := &Ink{W: w, H: h, Pix: make([]uint8, w*h)}
	for y := range h {
		for x := range w {
			if int(g.Pix[y*g.Stride+x]) > at {
				out.Pix[y*w+x] = 1
			}
		}
	}
	return out
}

// fillOf gives, for each row, from where to where the area reaches; -1 where it does not.
func fillOf(l *Labels, part int, w, h int) [][2]int {
	rows := make([][2]int, h)
	for i := range rows {
		rows[i] = [2]int{-1, -1}
	}
	for i, r := range l.runs {
		if int(l.of[i]) != part {
			continue
		}
		row := &rows[r.y]
		if row[0] < 0 || int(r.x0) < row[0] {
			row[0] = int(r.x0)
		}
		row[1] = max(row[1], int(r.x1))
	}
	return rows
}

// corners takes the extremes of an area along its diagonals and then fits straight
// lines to the sides between them.
func corners(rows [][2]int, w, h int) (Quad, bool) {
	var q Quad
	ext := [4]float64{math.Inf(-1), math.Inf(-1), math.Inf(-1), math.Inf(-1)}
	put := func(i int, v, x, y float64) {
		if v > ext[i] {
			ext[i], q[i] = v, Corner{x, y}
		}
	}
	for y, r := range rows {
		if r[0] < 0 {
			continue
		}
		for _, x := range []float64{float64(r[0]), float64(r[1])} {
			fy := float64(y)
			put(0, -x-fy, x, fy)
			put(1, x-fy, x, fy)
			put(2, x+fy, x, fy)
			put(3, fy-x, x, fy)
		}
	}
	if math.IsInf(ext[0], -1) {
		return q, false
	}
	left, okL := sideLine(rows, q[0], q[3], 0, false)
	right, okR := sideLine(rows, q[1], q[2], 1, false)
	top, okT := sideLine(rows, q[0], q[1], 0, true)
	bottom, okB := sideLine(rows, q[3], q[2], 1, true)
	if !okL || !okR || !okT || !okB {
		return q, q.area() > 0
	}
	var fit Quad
	for i, pair := range [4][2]line{{left, top}, {right, top}, {right, bottom}, {left, bottom}} {
		c, ok := pair[0].meets(pair[1])
		if !ok || math.Hypot(c.X-q[i].X, c.Y-q[i].Y) > 0.08*float64(w+h) {
			return q, true
		}
		fit[i] = Corner{math.Max(0, math.Min(c.X, float64(w))), math.Max(0, math.Min(c.Y, float64(h)))}
	}
	return fit, true
}

// line is a*x + b*y = c.
type line struct{ a, b, c float64 }

func (l line) meets(m line) (Corner, bool) {
	det := l.a*m.b - m.a*l.b
	if math.Abs(det) < 1e-9 {
		return Corner{}, false
	}
	return Corner{(l.c*m.b - m.c*l.b) / det, (l.a*m.c - m.a*l.c) / det}, true
}

// sideLine fits a line to the border of the area between two corners, away from
// the corners themselves. Which 0 is the left or upper border, 1 the right or lower.
func sideLine(rows [][2]int, from, to Corner, which int, flat bool) (line, bool) {
	var xs, ys []float64
	if !flat {
		y0, y1 := from.Y+0.1*(to.Y-from.Y), to.Y-0.1*(to.Y-from.Y)
		for y := int(y0); y <= int(y1) && y < len(rows); y++ {
			if y >= 0 && rows[y][which] >= 0 {
				xs, ys = append(xs, float64(rows[y][which])), append(ys, float64(y))
			}
		}
		m, c, ok := fit(ys, xs) // x = m*y + c
		return line{1, -m, c}, ok
	}
	x0, x1 := from.X+0.1*(to.X-from.X), to.X-0.1*(to.X-from.X)
	for x := int(x0); x <= int(x1); x++ {
		at := -1
		for i := range rows {
			y := i
			if which == 1 {
				y = len(rows) - 1 - i
			}
			if rows[y][0] >= 0 && rows[y][0] <= x && x < rows[y][1] {
				at = y
				break
			}
		}
		if at >= 0 {
			xs, ys = append(xs, float64(x)), append(ys, float64(at+which))
		}
	}
	m, c, ok := fit(xs, ys) // y = m*x + c
	return line{-m, 1, c}, ok
}

// fit is a straight line through points, without the tenth that lies worst.
func fit(xs, ys []float64) (m, c float64, ok bool) {
	for round := range 3 {
		n := float64(len(xs))
		if n < 10 {
			return 0, 0, false
		}
		var sx, sy, sxx, sxy float64
		for i := range xs {
			sx, sy, sxx, sxy = sx+xs[i], sy+ys[i], sxx+xs[i]*xs[i], sxy+xs[i]*ys[i]
		}
		det := n*sxx - sx*sx
		if det == 0 {
			return 0, 0, false
		}
		m = (n*sxy - sx*sy) / det
		c = (sy - m*sx) / n
		if round == 2 {
			break
		}
		var dev float64
		for i := range xs {
			dev += math.Abs(ys[i] - m*xs[i] - c)
		}
		dev = 2.2*dev/n + 0.5
		var kx, ky []float64
		for i := range xs {
			if math.Abs(ys[i]-m*xs[i]-c) <= dev {
				kx, ky = append(kx, xs[i]), append(ky, ys[i])
			}
		}
		xs, ys = kx, ky
	}
	return m, c, true
}

func (q Quad) area() float64 {
	s := 0.0
	for i := range q {
		j := (i + 1) % 4
		s += q[i].X*q[j].Y - q[j].X*q[i].Y
	}
	return math.Abs(s) / 2
}

// paperShapes are the sides of usual paper, short over long (ISO 216; ANSI/ASME
// Y14.1 size A; legal).
var paperShapes = []float64{1 / math.Sqrt2, 8.5 / 11, 8.5 / 14}

// Flatten draws what lies in q as a rectangle, as the sheet would be seen from right
// above. The shape is that of usual paper when it is near one.
func Flatten(img image.Image, q Quad) image.Image {
	side := func(i, j int) float64 { return math.Hypot(q[i].X-q[j].X, q[i].Y-q[j].Y) }
	w, h := (side(0, 1)+side(3, 2))/2, (side(0, 3)+side(1, 2))/2
	shape := math.Min(w, h) / math.Max(w, h)
	near, off := shape, 0.05
	for _, s := range paperShapes {
		if d := math.Abs(s - shape); d < off {
			near, off = s, d
		}
	}
	if w < h {
		w = h * near
	} else {
		h = w * near
	}
	if k := 3600 / math.Max(w, h); k < 1 {
		w, h = w*k, h*k
	}
	ow, oh := int(math.Round(w)), int(math.Round(h))
	m := homography(q, float64(ow), float64(oh))
	src := RGBA(img)
	out := image.NewRGBA(image.Rect(0, 0, ow, oh))
	for y := range oh {
		for x := range ow {
			fx, fy := float64(x)+0.5, float64(y)+0.5
			d := m[6]*fx + m[7]*fy + 1
			sample(src, (m[0]*fx+m[1]*fy+m[2])/d-0.5, (m[3]*fx+m[4]*fy+m[5])/d-0.5, out.Pix[y*out.Stride+4*x:][:4])
		}
	}
	return out
}

// sample takes the colour at a place between pixels, bilinearly.
func sample(p *image.RGBA, x, y float64, dst []uint8) {
	w, h := p.Rect.Dx(), p.Rect.Dy()
	x, y = math.Max(0, math.Min(x, float64(w-1))), math.Max(0, math.Min(y, float64(h-1)))
	x0, y0 := int(x), int(y)
	x1, y1 := min(x0+1, w-1), min(y0+1, h-1)
	fx, fy := x-float64(x0), y-float64(y0)
	for c := range 3 {
		a, b := float64(p.Pix[y0*p.Stride+4*x0+c]), float64(p.Pix[y0*p.Stride+4*x1+c])
		d, e := float64(p.Pix[y1*p.Stride+4*x0+c]), float64(p.Pix[y1*p.Stride+4*x1+c])
		dst[c] = uint8(a*(1-fx)*(1-fy) + b*fx*(1-fy) + d*(1-fx)*fy + e*fx*fy + 0.5)
	}
	dst[3] = 255
}

// homography maps the rectangle w by h onto q: x' = (m0 x + m1 y + m2)/(m6 x + m7 y + 1),
// y' likewise with m3 to m5. The closed form of the square-to-quadrilateral map is by
// P. Heckbert, Fundamentals of Texture Mapping and Image Warping, 1989, 2.2.3.
func homography(q Quad, w, h float64) [8]float64 {
	dx1, dy1 := q[1].X-q[2].X, q[1].Y-q[2].Y
	dx2, dy2 := q[3].X-q[2].X, q[3].Y-q[2].Y
	sx, sy := q[0].X-q[1].X+q[2].X-q[3].X, q[0].Y-q[1].Y+q[2].Y-q[3].Y
	det := dx1*dy2 - dx2*dy1
	if det == 0 {
		det = 1e-9
	}
	g, k := (sx*dy2-dx2*sy)/det, (dx1*sy-sx*dy1)/det
	a, b := q[1].X-q[0].X+g*q[1].X, q[3].X-q[0].X+k*q[3].X
	d, e := q[1].Y-q[0].Y+g*q[1].Y, q[3].Y-q[0].Y+k*q[3].Y
	return [8]float64{a / w, b / h, q[0].X, d / w, e / h, q[0].Y, g / w, k / h}
}
