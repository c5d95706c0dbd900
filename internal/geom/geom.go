package geom

import (
	"encoding/json"
	"fmt"
	"math"
)

// Point is a place on a page, in points.
type Point struct{ X, Y float64 }

// Rect is an upright rectangle with X0 <= X1 and Y0 <= Y1, in points. Its JSON
// form is the array [x0, y0, x1, y1].
type Rect struct{ X0, Y0, X1, Y1 float64 }

// R makes a normalised rectangle from any two opposite corners.
func R(x0, y0, x1, y1 float64) Rect {
	return Rect{math.Min(x0, x1), math.Min(y0, y1), math.Max(x0, x1), math.Max(y0, y1)}
}

// MarshalJSON writes the rectangle as [x0, y0, x1, y1] to a hundredth of a point.
func (r Rect) MarshalJSON() ([]byte, error) {
	return json.Marshal([4]float64{Round(r.X0), Round(r.Y0), Round(r.X1), Round(r.Y1)})
}

// UnmarshalJSON reads [x0, y0, x1, y1] in any corner order. It fails on
// anything but four finite numbers.
func (r *Rect) UnmarshalJSON(b []byte) error {
	var a []float64
	if err := json.Unmarshal(b, &a); err != nil {
		return fmt.Errorf("a rectangle is written [x0, y0, x1, y1]: %w", err)
	}
	if len(a) != 4 {
		return fmt.Errorf("a rectangle has four numbers [x0, y0, x1, y1], not %d", len(a))
	}
	*r = R(a[0], a[1], a[2], a[3])
	return nil
}

// Round rounds a length to a hundredth of a point, the precision kept and
// written throughout.
func Round(v float64) float64 { return math.Round(v*100) / 100 }

// Rounded is r with every edge rounded by [Round].
func (r Rect) Rounded() Rect { return Rect{Round(r.X0), Round(r.Y0), Round(r.X1), Round(r.Y1)} }

// W is the width of r in points.
func (r Rect) W() float64 { return r.X1 - r.X0 }

// H is the height of r in points.
func (r Rect) H() float64 { return r.Y1 - r.Y0 }

// Area is the area of r in square points.
func (r Rect) Area() float64 { return math.Max(0, r.W()) * math.Max(0, r.H()) }

// Mid is the centre of r.
func (r Rect) Mid() Point { return Point{(r.X0 + r.X1) / 2, (r.Y0 + r.Y1) / 2} }

// Corners are the four corners of r, counter-clockwise from the lower left.
func (r Rect) Corners() []Point {
	return []Point{{r.X0, r.Y0}, {r.X1, r.Y0}, {r.X1, r.Y1}, {r.X0, r.Y1}}
}

// Empty tells whether r encloses no area.
func (r Rect) Empty() bool { return r.W() <= 0 || r.H() <= 0 }

// Contains tells whether p lies in r, edges included.
func (r Rect) Contains(p Point) bool {
	return p.X >= r.X0 && p.X <= r.X1 && p.Y >= r.Y0 && p.Y <= r.Y1
}

// Covers tells whether s lies wholly in r, give or take tol points on each side.
func (r Rect) Covers(s Rect, tol float64) bool {
	return s.X0 >= r.X0-tol && s.X1 <= r.X1+tol && s.Y0 >= r.Y0-tol && s.Y1 <= r.Y1+tol
}

// Intersect is the part common to r and s; it is Empty when there is none.
func (r Rect) Intersect(s Rect) Rect {
	return Rect{math.Max(r.X0, s.X0), math.Max(r.Y0, s.Y0), math.Min(r.X1, s.X1), math.Min(r.Y1, s.Y1)}
}

// Overlaps tells whether r and s share some area.
func (r Rect) Overlaps(s Rect) bool { return !r.Intersect(s).Empty() }

// Union is the smallest rectangle around both.
func (r Rect) Union(s Rect) Rect {
	return Rect{math.Min(r.X0, s.X0), math.Min(r.Y0, s.Y0), math.Max(r.X1, s.X1), math.Max(r.Y1, s.Y1)}
}

// Inset moves every edge inwards by d points (outwards when d < 0).
func (r Rect) Inset(d float64) Rect { return Rect{r.X0 + d, r.Y0 + d, r.X1 - d, r.Y1 - d} }

// Shift moves r by dx, dy.
func (r Rect) Shift(dx, dy float64) Rect { return Rect{r.X0 + dx, r.Y0 + dy, r.X1 + dx, r.Y1 + dy} }

// IoU is the area common to r and s over the area covered by either, from 0 to 1.
func (r Rect) IoU(s Rect) float64 {
	i := r.Intersect(s).Area()
	if i == 0 {
		return 0
	}
	return i / (r.Area() + s.Area() - i)
}

// OverlapX is the length shared by r and s along x; negative is the gap between them.
func (r Rect) OverlapX(s Rect) float64 { return math.Min(r.X1, s.X1) - math.Max(r.X0, s.X0) }

// OverlapY is the length shared by r and s along y; negative is the gap between them.
func (r Rect) OverlapY(s Rect) float64 { return math.Min(r.Y1, s.Y1) - math.Max(r.Y0, s.Y0) }

// Clamp moves r, without changing its size where possible, so that it lies inside page.
func (r Rect) Clamp(page Rect) Rect {
	if r.W() > page.W() {
		r.X0, r.X1 = page.X0, page.X1
	}
	if r.H() > page.H() {
		r.Y0, r.Y1 = page.Y0, page.Y1
	}
	dx, dy := 0.0, 0.0
	if r.X0 < page.X0 {
		dx = page.X0 - r.X0
	} else if r.X1 > page.X1 {
		dx = page.X1 - r.X1
	}
	if r.Y0 < page.Y0 {
		dy = page.Y0 - r.Y0
	} else if r.Y1 > page.Y1 {
		dy = page.Y1 - r.Y1
	}
	return r.Shift(dx, dy)
}

// Matrix is the affine transform [a b c d e f] of ISO 32000-2, 8.3.3:
// x' = a*x + c*y + e, y' = b*x + d*y + f.
type Matrix [6]float64

// Identity leaves everything where it is.
var Identity = Matrix{1, 0, 0, 1, 0, 0}

// Apply transforms p.
func (m Matrix) Apply(p Point) Point {
	return Point{m[0]*p.X + m[2]*p.Y + m[4], m[1]*p.X + m[3]*p.Y + m[5]}
}

// Then is the transform that does m first and n after it.
func (m Matrix) Then(n Matrix) Matrix {
	return Matrix{
		m[0]*n[0] + m[1]*n[2], m[0]*n[1] + m[1]*n[3],
		m[2]*n[0] + m[3]*n[2], m[2]*n[1] + m[3]*n[3],
		m[4]*n[0] + m[5]*n[2] + n[4], m[4]*n[1] + m[5]*n[3] + n[5],
	}
}

// Turn is the rotation by degrees counterclockwise about a point.
func Turn(degrees float64, about Point) Matrix {
	sin, cos := math.Sincos(degrees * math.Pi / 180)
	return Matrix{1, 0, 0, 1, -about.X, -about.Y}.Then(Matrix{cos, sin, -sin, cos, 0, 0}).Then(Matrix{1, 0, 0, 1, about.X, about.Y})
}

// Inverse undoes m; ok is false when m cannot be undone.
func (m Matrix) Inverse() (inv Matrix, ok bool) {
	det := m[0]*m[3] - m[1]*m[2]
	if math.Abs(det) < 1e-12 {
		return Identity, false
	}
	inv = Matrix{m[3] / det, -m[1] / det, -m[2] / det, m[0] / det, 0, 0}
	inv[4] = -(m[4]*inv[0] + m[5]*inv[2])
	inv[5] = -(m[4]*inv[1] + m[5]*inv[3])
	return inv, true
}

// Scale is the mean length that one unit has after m.
func (m Matrix) Scale() float64 { return math.Sqrt(math.Abs(m[0]*m[3] - m[1]*m[2])) }

// Apply transforms r and returns the upright rectangle around the result.
func (r Rect) Apply(m Matrix) Rect {
	out := Rect{math.Inf(1), math.Inf(1), math.Inf(-1), math.Inf(-1)}
	for _, c := range [4]Point{{r.X0, r.Y0}, {r.X1, r.Y0}, {r.X0, r.Y1}, {r.X1, r.Y1}} {
		p := m.Apply(c)
		out = Rect{math.Min(out.X0, p.X), math.Min(out.Y0, p.Y), math.Max(out.X1, p.X), math.Max(out.Y1, p.Y)}
	}
	return out
}

// ToView is the transform from page space (origin lower left, unrotated) to the
// page as it is shown: turned clockwise by rotate degrees (0, 90, 180 or 270;
// ISO 32000-2, table 31, /Rotate), origin upper left, y downwards, still in points.
// Width and height are those of the unrotated page.
func ToView(width, height float64, rotate int) Matrix {
	switch ((rotate % 360) + 360) % 360 {
	case 90:
		return Matrix{0, 1, 1, 0, 0, 0}
	case 180:
		return Matrix{-1, 0, 0, 1, width, 0}
	case 270:
		return Matrix{0, -1, -1, 0, height, width}
	}
	return Matrix{1, 0, 0, -1, 0, height}
}

// Upright is the transform from page space to the page as it is shown, origin lower
// left, y upwards, and its inverse.
func Upright(width, height float64, rotate int) (to, back Matrix) {
	_, h := ViewSize(width, height, rotate)
	flip := Matrix{1, 0, 0, -1, 0, h}
	return ToView(width, height, rotate).Then(flip), flip.Then(FromView(width, height, rotate))
}

// FromView undoes [ToView].
func FromView(width, height float64, rotate int) Matrix {
	switch ((rotate % 360) + 360) % 360 {
	case 90:
		return Matrix{0, 1, 1, 0, 0, 0}
	case 180:
		return Matrix{-1, 0, 0, 1, width, 0}
	case 270:
		return Matrix{0, -1, -1, 0, width, height}
	}
	return Matrix{1, 0, 0, -1, 0, height}
}

// ViewSize is the size of the page as shown.
func ViewSize(width, height float64, rotate int) (w, h float64) {
	if rotate%180 != 0 {
		return height, width
	}
	return width, height
}
