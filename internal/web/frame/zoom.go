package frame

// zooms are the steps of the zoom, in percent of 96 pixels an inch.
var zooms = []int{50, 75, 100, 125, 150, 200, 300, 400}

// Zoom is the zoom that a page is shown at when one is asked for, in percent of 96 pixels an inch.
func Zoom(want int) int { return max(25, min(want, zooms[len(zooms)-1])) }

// ZoomSteps are the next smaller and the next larger zoom; 0 at the ends.
func ZoomSteps(zoom int) (out, in int) {
	for _, z := range zooms {
		if z < zoom {
			out = z
		}
		if z > zoom && in == 0 {
			in = z
		}
	}
	return out, in
}
