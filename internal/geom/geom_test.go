package geom_test

import (
	"encoding/json"
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/geom"
)

func TestRectJSONIsFourNumbersInAnyCornerOrder(t *testing.T) {
	var r geom.Rect
	require.NoError(t, json.Unmarshal([]byte(`[10, 40, 5, 20.126]`), &r))
	b, err := json.Marshal(r)
	require.NoError(t, err)
	assert.JSONEq(t, `[5, 20.13, 10, 40]`, string(b))
	assert.ErrorContains(t, json.Unmarshal([]byte(`[1,2,3]`), &r), "four numbers")
	assert.ErrorContains(t, json.Unmarshal([]byte(`"wide"`), &r), "[x0, y0, x1, y1]")
}

// The turn is clockwise (ISO 32000-2, table 31, Rotate): on a page turned by 90
// degrees the lower left corner of the paper is shown at the upper left.
func TestToViewTurnsClockwise(t *testing.T) {
	const w, h = 612.0, 792.0
	corner := geom.Point{}
	want := map[int]geom.Point{0: {X: 0, Y: h}, 90: {X: 0, Y: 0}, 180: {X: w, Y: 0}, 270: {X: h, Y: w}}
	for turn, p := range want {
		assert.Equal(t, p, geom.ToView(w, h, turn).Apply(corner), "turn %d", turn)
	}
}

func TestFromViewUndoesToView(t *testing.T) {
	rng := rand.New(rand.NewPCG(1, 2))
	for range 200 {
		w, h := 100+rng.Float64()*900, 100+rng.Float64()*900
		p := geom.Point{X: rng.Float64() * w, Y: rng.Float64() * h}
		for _, turn := range []int{0, 90, 180, 270, -90, 450} {
			back := geom.ToView(w, h, turn).Then(geom.FromView(w, h, turn)).Apply(p)
			assert.InDelta(t, p.X, back.X, 1e-9)
			assert.InDelta(t, p.Y, back.Y, 1e-9)
		}
	}
}

func TestIoUAgainstHandWorkedAreas(t *testing.T) {
	a := geom.R(0, 0, 10, 10)
	assert.InDelta(t, 1.0, a.IoU(a), 1e-12)
	assert.InDelta(t, 25.0/175.0, a.IoU(geom.R(5, 5, 15, 15)), 1e-12)
	assert.Zero(t, a.IoU(geom.R(20, 20, 30, 30)))
}

func TestClampKeepsTheSizeWhenItFits(t *testing.T) {
	page := geom.R(0, 0, 100, 100)
	assert.Equal(t, geom.R(80, 0, 100, 10), geom.R(95, -4, 115, 6).Clamp(page))
	assert.Equal(t, geom.R(0, 0, 100, 10), geom.R(-50, 0, 200, 10).Clamp(page))
}

// counted is how many points of a grid lie in all of the rectangles: an area without arithmetic.
func counted(all ...geom.Rect) (n int) {
	for x := 0.5; x < 20; x++ {
		for y := 0.5; y < 20; y++ {
			in := true
			for _, r := range all {
				in = in && r.Contains(geom.Point{X: x, Y: y})
			}
			if in {
				n++
			}
		}
	}
	return n
}

// Areas, overlaps and unions are what counting says they are.
func TestRectanglesAgainstCounting(t *testing.T) {
	rng := rand.New(rand.NewPCG(rand.Uint64(), 1))
	some := func() geom.Rect {
		return geom.R(float64(rng.IntN(21)), float64(rng.IntN(21)), float64(rng.IntN(21)), float64(rng.IntN(21)))
	}
	for range 400 {
		a, b := some(), some()
		both := counted(a, b)
		require.EqualValues(t, counted(a), a.Area())
		require.EqualValues(t, both, a.Intersect(b).Area())
		require.Equal(t, both > 0, a.Overlaps(b), "%v %v", a, b)
		if either := counted(a) + counted(b) - both; either > 0 {
			require.InDelta(t, float64(both)/float64(either), a.IoU(b), 1e-12)
		}
		u := a.Union(b)
		require.True(t, u.Covers(a, 0) && u.Covers(b, 0))
		require.Equal(t, counted(a), counted(a, u))
		if !a.Empty() && !b.Empty() && a.OverlapX(b) > 0 && a.OverlapY(b) > 0 {
			require.EqualValues(t, both, a.OverlapX(b)*a.OverlapY(b))
		}
		page := geom.R(0, 0, 20, 20)
		c := a.Shift(rng.Float64()*90-45, rng.Float64()*90-45).Clamp(page)
		require.True(t, page.Covers(c, 1e-9), "%v", c)
		require.InDelta(t, a.W(), c.W(), 1e-9)
		require.InDelta(t, a.H(), c.H(), 1e-9)
	}
}

// Transforms one after the other are the one transform; what is undone is where it was; a turn keeps lengths.
func TestTransformsAgainstDoingThemOneByOne(t *testing.T) {
	rng := rand.New(rand.NewPCG(rand.Uint64(), 2))
	number := func() float64 { return rng.NormFloat64() * 5 }
	for range 400 {
		m := geom.Matrix{number(), number(), number(), number(), number(), number()}
		n := geom.Matrix{number(), number(), number(), number(), number(), number()}
		p := geom.Point{X: number(), Y: number()}
		one, two := m.Then(n).Apply(p), n.Apply(m.Apply(p))
		require.InDelta(t, two.X, one.X, 1e-9)
		require.InDelta(t, two.Y, one.Y, 1e-9)
		if inv, ok := m.Inverse(); ok {
			back := inv.Apply(m.Apply(p))
			off := 1e-9 / math.Min(1, m.Scale()*m.Scale())
			require.InDelta(t, p.X, back.X, off)
			require.InDelta(t, p.Y, back.Y, off)
		}
		about := geom.Point{X: number(), Y: number()}
		turned := geom.Turn(number()*40, about).Apply(p)
		require.InDelta(t, math.Hypot(p.X-about.X, p.Y-about.Y), math.Hypot(turned.X-about.X, turned.Y-about.Y), 1e-9)
		r := geom.R(number(), number(), number(), number())
		around := r.Apply(m)
		for range 8 {
			in := geom.Point{X: r.X0 + rng.Float64()*r.W(), Y: r.Y0 + rng.Float64()*r.H()}
			require.True(t, around.Inset(-1e-9).Contains(m.Apply(in)))
		}
		for _, rotate := range []int{0, 90, 180, 270, -90, 450} {
			to, back := geom.Upright(300, 500, rotate)
			w, h := geom.ViewSize(300, 500, rotate)
			require.True(t, geom.R(0, 0, w, h).Inset(-1e-9).Covers(geom.R(0, 0, 300, 500).Apply(to), 0))
			again := back.Apply(to.Apply(p))
			require.InDelta(t, p.X, again.X, 1e-9)
			require.InDelta(t, p.Y, again.Y, 1e-9)
		}
	}
	_, ok := geom.Matrix{1, 2, 2, 4, 0, 0}.Inverse()
	assert.False(t, ok, "a page that is flat cannot be raised again")
}

// The scale of a transform is that by which areas grow, by its root.
func TestTheScaleOfATransform(t *testing.T) {
	for want, m := range map[float64]geom.Matrix{
		1: geom.Identity, 3: {3, 0, 0, 3, 7, 8}, 2: {0, 4, -1, 0, 0, 0}, 0: {1, 1, 1, 1, 0, 0},
	} {
		assert.InDelta(t, want, m.Scale(), 1e-12)
	}
	assert.InDelta(t, 1, geom.Turn(33, geom.Point{X: 5, Y: 6}).Scale(), 1e-12, "a turn")
}
