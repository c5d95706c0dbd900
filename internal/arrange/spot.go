package arrange

import "zealousmargin.example/internal/geom"

// spotStep is how far a square that finds no room is moved along, in points.
const spotStep = 6

// FreeSpot finds room for a square near the edge of a page: along the bottom from the right, along the top from the right, then up along
// the right and the left edge. Side and margin are in points; free tells whether nothing is in an area. False means that there is none.
func FreeSpot(page geom.Rect, side, margin float64, free func(geom.Rect) bool) (geom.Rect, bool) {
	in := page.Inset(margin)
	if in.W() < side || in.H() < side {
		return geom.Rect{}, false
	}
	try := func(x, y float64) (geom.Rect, bool) {
		r := geom.R(x, y, x+side, y+side)
		return r, free(r)
	}
	for _, y := range []float64{in.Y0, in.Y1 - side} {
		for x := in.X1 - side; x >= in.X0; x -= spotStep {
			if r, ok := try(x, y); ok {
				return r, true
			}
		}
	}
	for _, x := range []float64{in.X1 - side, in.X0} {
		for y := in.Y0; y <= in.Y1-side; y += spotStep {
			if r, ok := try(x, y); ok {
				return r, true
			}
		}
	}
	return geom.Rect{}, false
}
