package arrange_test

import (
	"math"
	"math/rand/v2"
	"strconv"
	"testing"

	"github.com/stretchr/testify/assert"

	"zealousmargin.example/internal/arrange"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
)

func TestRowsReadFromTheTopAndFromTheLeft(t *testing.T) {
	f := func(id string, x, y float64) form.Field {
		return form.Field{ID: id, Rect: geom.R(x, y, x+50, y+14)}
	}
	fields := []form.Field{f("e", 50, 500), f("b", 200, 703), f("a", 50, 700), f("c", 400, 698), f("d", 50, 650)}
	assert.Equal(t, []string{"a", "b", "c", "d", "e"}, arrange.Rows(fields, geom.ToView(595, 842, 0)))
	// On a page turned upside down the last comes first.
	assert.Equal(t, []string{"e", "d", "c", "b", "a"}, arrange.Rows(fields, geom.ToView(595, 842, 180)))
}

func TestATallFieldDoesNotPullTheRowsBesideItTogether(t *testing.T) {
	rects := []geom.Rect{geom.R(300, 100, 400, 160), geom.R(50, 100, 150, 114), geom.R(50, 146, 150, 160), geom.R(50, 180, 150, 194)}
	got := arrange.ReadingOrder(rects)
	assert.Equal(t, 3, got[3])
	assert.Len(t, got, 4)
}

func TestBeadsNeverCoverEachOther(t *testing.T) {
	rng := rand.New(rand.NewPCG(3, 5))
	for range 30 {
		n := 1 + rng.IntN(110)
		ids, y := make([]string, n), make([]float64, n)
		at := 0.0
		for i := range n {
			ids[i] = strconv.Itoa(i)
			if rng.IntN(3) == 0 {
				at += rng.Float64() * 30
			}
			y[i] = at
		}
		beads := arrange.Beads(ids, y)
		assert.Len(t, beads, n)
		for i, a := range beads {
			assert.Equal(t, i+1, a.N)
			for _, b := range beads[:i] {
				assert.GreaterOrEqual(t, math.Hypot(a.X-b.X, a.Y-b.Y), 2*arrange.BeadRadius-1e-9)
			}
		}
	}
}

func TestBeadsOfOneRowReadFromTheLeft(t *testing.T) {
	b := arrange.Beads([]string{"a", "b", "c", "d"}, []float64{50, 50, 52, 120})
	assert.Less(t, b[0].X, b[1].X)
	assert.Less(t, b[1].X, b[2].X)
	assert.Equal(t, b[2].X, b[3].X, "a bead alone stands next to the page")
	assert.InDelta(t, 120, b[3].Y, 1e-9)
}
