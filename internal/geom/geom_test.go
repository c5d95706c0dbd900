package geom_test

import (
	"encoding/json"
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
