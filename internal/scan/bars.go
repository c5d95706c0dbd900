package scan

import "image"

// darkest is how light a dark bar is at most.
const darkest = 121

// BarsTurned gives a page at a resolution in dots per inch with its dark bars turned to light ones, so that the light words on
// them are dark like all others. The picture itself stays as it is; it is given back when it has no bars.
func BarsTurned(g *image.Gray, dpi float64) *image.Gray {
	ground := groundOf(g, dpi)
	px := func(pt float64) int { return int(pt * dpi / 72) }
	var out *image.Gray
	for _, p := range ground.between(0, darkest).Connect().Parts {
		bar := Part{p.X0 * ground.Side, p.Y0 * ground.Side, p.X1 * ground.Side, p.Y1 * ground.Side, 0}
		if bar.W() < px(40) || bar.H() < px(7) || bar.H() > px(48) || 10*p.Area < 6*p.W()*p.H() {
			continue
		}
		if out == nil {
			out = image.NewGray(g.Rect)
			copy(out.Pix, g.Pix)
		}
		bar = spread(g, bar, 0, darkest, ground.Side)
		for y := bar.Y0; y < bar.Y1; y++ {
			row := out.Pix[y*out.Stride+bar.X0 : y*out.Stride+bar.X1]
			for x, v := range row {
				row[x] = 255 - v
			}
		}
	}
	if out == nil {
		return g
	}
	return out
}

// lightOn are the light pieces on a dark bar: letters, mostly.
func lightOn(g *image.Gray, bar Part) []Part {
	k := &Ink{W: bar.W(), H: bar.H(), Pix: make([]uint8, bar.W()*bar.H())}
	for y := range k.H {
		for x, v := range g.Pix[(bar.Y0+y)*g.Stride+bar.X0 : (bar.Y0+y)*g.Stride+bar.X1] {
			if v > darkest+24 {
				k.Pix[y*k.W+x] = 1
			}
		}
	}
	parts := k.Connect().Parts
	for i, p := range parts {
		parts[i] = Part{p.X0 + bar.X0, p.Y0 + bar.Y0, p.X1 + bar.X0, p.Y1 + bar.Y0, p.Area}
	}
	return parts
}
