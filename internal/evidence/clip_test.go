package evidence_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/geom"
)

func TestOnlyWhatIsInsideTheClipIsThere(t *testing.T) {
	b := evidence.NewBuilder(600, 800, 0)
	clip := geom.R(100, 400, 300, 500)
	cut := func(p evidence.Path) {
		p.Clip = &clip
		b.Path(p)
	}
	cut(line(50, 450, 550, 450)) // shows from edge to edge of the clip
	cut(line(50, 600, 550, 600)) // not at all
	cut(evidence.Path{Fill: true, Tone: 0.8, Subpaths: []evidence.Subpath{rect(geom.R(200, 300, 400, 480))}})
	cut(evidence.Path{Stroke: true, Width: 0.7, Subpaths: []evidence.Subpath{rect(geom.R(250, 350, 400, 480))}})
	p := b.Page()
	require.Len(t, p.H, 2, "the line, and the upper side of the bordered box")
	assert.InDelta(t, 480, p.H[0].At, 0.01)
	assert.InDelta(t, 250, p.H[0].From, 1)
	assert.InDelta(t, 300, p.H[0].To, 1)
	assert.InDelta(t, 100, p.H[1].From, 1)
	assert.InDelta(t, 300, p.H[1].To, 1)
	require.Len(t, p.V, 1, "its left side: the right one is cut off")
	assert.InDelta(t, 250, p.V[0].At, 0.01)
	require.Len(t, p.Boxes, 1)
	assert.InDelta(t, 0, 1-p.Boxes[0].Rect.IoU(geom.R(200, 400, 300, 480)), 0.02)
}

// arc gives the end points of a quarter of a circle, as a curve is read.
func arc(from, mid1, mid2, to geom.Point) evidence.Subpath {
	return evidence.Subpath{Curved: true, Points: []geom.Point{from, mid1, mid2, to}}
}

func TestARoundedFrameHasFourSides(t *testing.T) {
	// as one path
	whole := evidence.NewBuilder(600, 800, 0)
	whole.Path(evidence.Path{Stroke: true, Width: 1, Subpaths: []evidence.Subpath{{Closed: true, Curved: true, Points: []geom.Point{
		{X: 110, Y: 400},
		{X: 290, Y: 400},
		{X: 296, Y: 400},
		{X: 300, Y: 404},
		{X: 300, Y: 410},
		{X: 300, Y: 440},
		{X: 300, Y: 446},
		{X: 296, Y: 450},
		{X: 290, Y: 450},
		{X: 110, Y: 450},
		{X: 104, Y: 450},
		{X: 100, Y: 446},
		{X: 100, Y: 440},
		{X: 100, Y: 410},
		{X: 100, Y: 404},
		{X: 104, Y: 400},
	}}}})
	// in pieces: four sides and four curves
	pieces := evidence.NewBuilder(600, 800, 0)
	pieces.Path(line(110, 400, 290, 400))
	pieces.Path(line(110, 450, 290, 450))
	pieces.Path(line(100, 410, 100, 440))
	pieces.Path(line(300, 410, 300, 440))
	for _, s := range []evidence.Subpath{
		arc(geom.Point{X: 290, Y: 400}, geom.Point{X: 296, Y: 400}, geom.Point{X: 300, Y: 404}, geom.Point{X: 300, Y: 410}),
		arc(geom.Point{X: 300, Y: 440}, geom.Point{X: 300, Y: 446}, geom.Point{X: 296, Y: 450}, geom.Point{X: 290, Y: 450}),
		arc(geom.Point{X: 110, Y: 450}, geom.Point{X: 104, Y: 450}, geom.Point{X: 100, Y: 446}, geom.Point{X: 100, Y: 440}),
		arc(geom.Point{X: 100, Y: 410}, geom.Point{X: 100, Y: 404}, geom.Point{X: 104, Y: 400}, geom.Point{X: 110, Y: 400}),
	} {
		pieces.Path(evidence.Path{Stroke: true, Width: 1, Subpaths: []evidence.Subpath{s}})
	}
	for name, b := range map[string]*evidence.Builder{"one path": whole, "pieces": pieces} {
		p := b.Page()
		require.Len(t, p.H, 2, name)
		require.Len(t, p.V, 2, name)
		for _, h := range p.H {
			assert.InDelta(t, 100, h.From, 0.01, name)
			assert.InDelta(t, 300, h.To, 0.01, name)
		}
		for _, v := range p.V {
			assert.InDelta(t, 400, v.From, 0.01, name)
			assert.InDelta(t, 450, v.To, 0.01, name)
		}
	}
}
