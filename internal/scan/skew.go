package scan

import (
	"image"
	"math"
)

// Limits of the skew that is looked for, in degrees.
const (
	maxSkew    = 5.0
	coarseStep = 0.25
	fineStep   = 0.02
)

// Skew is how far the lines of a page lean from the horizontal, in degrees,
// clockwise positive, to a tenth. It is 0 when there are too few lines to tell.
//
// The lower edges of ink are projected along slanted rows; at the angle of the lines
// the projection is most uneven (projection profile method; common practice, no
// single source).
func Skew(g *image.Gray) float64 {
	small := Shrink(g, halvings(g, 1400))
	ink := Threshold(small)
	edges := lowerEdges(ink)
	if len(edges) < 200 {
		return 0
	}
	score := func(deg float64) float64 { return unevenness(edges, ink.W, ink.H, deg) }
	best, most := 0.0, -1.0
	for a := -maxSkew; a <= maxSkew+1e-9; a += coarseStep {
		if s := score(a); s > most {
			best, most = a, s
		}
	}
	middle := best
	for a := middle - coarseStep; a <= middle+coarseStep+1e-9; a += fineStep {
		if s := score(a); s > most {
			best, most = a, s
		}
	}
	if most < 1.05*score(best+2.5) && most < 1.05*score(best-2.5) {
		return 0 // no angle stands out
	}
	return math.Round(best*10) / 10
}

type spot struct{ x, y float64 }

// lowerEdges are the ends of ink downwards: baselines and the lower sides of rules.
// Pixels along upright strokes are few among them.
func lowerEdges(k *Ink) []spot {
	var out []spot
	for y := range k.H - 1 {
		row, next := k.Pix[y*k.W:(y+1)*k.W], k.Pix[(y+1)*k.W:(y+2)*k.W]
		for x := range k.W {
			if row[x] == 1 && next[x] == 0 {
				out = append(out, spot{float64(x), float64(y)})
			}
		}
	}
	if n := len(out) / 120000; n > 0 { // as many as are needed
		kept := out[:0]
		for i := 0; i < len(out); i += n + 1 {
			kept = append(kept, out[i])
		}
		out = kept
	}
	return out
}

func unevenness(edges []spot, w, h int, deg float64) float64 {
	slope := math.Tan(deg * math.Pi / 180)
	pad := int(math.Abs(slope)*float64(w)) + 2
	bins := make([]float64, h+2*pad)
	for _, e := range edges {
		at := e.y - e.x*slope + float64(pad)
		i := int(at)
		f := at - float64(i)
		if i >= 0 && i+1 < len(bins) {
			bins[i] += 1 - f
			bins[i+1] += f
		}
	}
	s := 0.0
	for i := 1; i < len(bins); i++ {
		d := bins[i] - bins[i-1]
		s += d * d
	}
	return s
}
