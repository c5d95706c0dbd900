package arrange_test

import (
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"

	"zealousmargin.example/internal/arrange"
	"zealousmargin.example/internal/geom"
)

func TestASquareFindsRoomNearTheEdge(t *testing.T) {
	page := geom.R(0, 0, 595, 842)
	free := func(taken ...geom.Rect) func(geom.Rect) bool {
		return func(r geom.Rect) bool {
			for _, x := range taken {
				if x.Overlaps(r) {
					return false
				}
			}
			return true
		}
	}
	r, ok := arrange.FreeSpot(page, 68, 24, free())
	assert.True(t, ok)
	assert.Equal(t, geom.R(503, 24, 571, 92), r, "at the lower right")
	r, ok = arrange.FreeSpot(page, 68, 24, free(geom.R(0, 0, 595, 100)))
	assert.True(t, ok)
	assert.Equal(t, geom.R(503, 750, 571, 818), r, "else at the upper right")
	_, ok = arrange.FreeSpot(page, 68, 24, free(page))
	assert.False(t, ok)
	_, ok = arrange.FreeSpot(geom.R(0, 0, 60, 842), 68, 24, free())
	assert.False(t, ok, "a page that is narrower than the square")
	for range 200 { // wherever things are, it lies on none of them and on the page
		var taken []geom.Rect
		for range 30 {
			x, y := rand.Float64()*595, rand.Float64()*842
			taken = append(taken, geom.R(x, y, x+rand.Float64()*150, y+rand.Float64()*60))
		}
		if r, ok := arrange.FreeSpot(page, 68, 24, free(taken...)); ok {
			assert.True(t, free(taken...)(r))
			assert.True(t, page.Inset(24).Covers(r, 1e-9), r)
		}
	}
}
