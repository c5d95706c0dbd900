package scan_test

import (
	"image"
	"image/color"
	"image/draw"
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/scan"
)

// paper is a blank page at 200 dpi, so many points wide and high.
func paper(w, h float64, tone uint8) *image.Gray {
	g := image.NewGray(image.Rect(0, 0, at(w), at(h)))
	draw.Draw(g, g.Rect, image.NewUniform(color.Gray{Y: tone}), image.Point{}, draw.Src)
	return g
}

func at(pt float64) int { return int(pt * 200 / 72) }

// bar inks an area given in points from the upper left.
func bar(g *image.Gray, x0, y0, x1, y1 float64, tone uint8) {
	r := image.Rect(at(x0), at(y0), max(at(x0)+2, at(x1)), max(at(y0)+2, at(y1)))
	draw.Draw(g, r, image.NewUniform(color.Gray{Y: tone}), image.Point{}, draw.Src)
}

func TestTicksOnALineAreFoundWhenTheyStandEvenly(t *testing.T) {
	ticks := func(xs ...float64) int {
		g := paper(300, 100, 255)
		bar(g, 20, 50, 280, 50.8, 0)
		for _, x := range xs {
			bar(g, x, 45, x+0.8, 50, 0)
		}
		return len(scan.FindMarks(g, 200).Down)
	}
	assert.Equal(t, 5, ticks(40, 60, 80, 100, 120))
	assert.Zero(t, ticks(40, 47, 80, 133), "letters that touch a line stand anywhere")
}

func TestASquareWithABrokenSideIsASquare(t *testing.T) {
	g := paper(200, 100, 255)
	bar(g, 50, 40, 60, 40.8, 0)
	bar(g, 50, 49.2, 60, 50, 0)
	bar(g, 50, 40, 50.8, 45, 0) // the lower part of its left side is missing, and the right side's middle
	bar(g, 50, 47, 50.8, 50, 0)
	bar(g, 59.2, 40, 60, 44, 0)
	bar(g, 59.2, 46.5, 60, 50, 0)
	m := scan.FindMarks(g, 200)
	require.Len(t, m.Squares, 1)
	assert.InDelta(t, at(50), m.Squares[0].X0, 2)
	assert.InDelta(t, at(60), m.Squares[0].X1, 2)

	open := paper(200, 100, 255)
	bar(open, 50, 40, 60, 40.8, 0)
	bar(open, 50, 49.2, 60, 50, 0)
	assert.Empty(t, scan.FindMarks(open, 200).Squares, "two strokes are none")
}

func TestALightTintIsToldFromWhite(t *testing.T) {
	g := paper(300, 300, 246)
	bar(g, 0, 0, 300, 60, 255)
	bar(g, 100, 150, 200, 170, 255)
	m := scan.FindMarks(g, 200)
	require.Len(t, m.Tints, 2)
	assert.InDelta(t, 246.0/255, m.Tints[0].Tone, 0.01)
	assert.InDelta(t, 1, m.Tints[1].Tone, 1e-9)
	assert.InDelta(t, at(100), m.Tints[1].X0, 6)
	assert.InDelta(t, at(200), m.Tints[1].X1, 6)
}

func TestDotsCloseTogetherAreALine(t *testing.T) {
	g := paper(300, 100, 255)
	for x := 20.0; x < 280; x += 1.6 {
		bar(g, x, 50, x+0.7, 50.7, 0)
	}
	m := scan.FindMarks(g, 200)
	require.Len(t, m.Across, 1)
	assert.Greater(t, m.Across[0].W(), at(250))
}

// noisy adds grain of a deviation to a picture.
func noisy(g *image.Gray, deviation float64) *image.Gray {
	rng := rand.New(rand.NewPCG(1, 2))
	for i, v := range g.Pix {
		g.Pix[i] = uint8(max(0, min(255, float64(v)+rng.NormFloat64()*deviation)))
	}
	return g
}

func TestPaleLinesAreFoundInGrain(t *testing.T) {
	g := paper(400, 200, 245)
	bar(g, 40, 60, 360, 60.8, 218) // a ninth darker than the paper: no threshold parts it from grain
	bar(g, 40, 60, 40.8, 120, 218)
	m := scan.FindMarks(noisy(g, 6), 200)
	long := func(ps []scan.Part, across bool) (n int) {
		for _, p := range ps {
			if across && p.W() > at(300) || !across && p.H() > at(50) {
				n++
			}
		}
		return n
	}
	assert.Equal(t, 1, long(m.Across, true))
	assert.Equal(t, 1, long(m.Down, false))

	empty := scan.FindMarks(noisy(paper(400, 200, 245), 6), 200)
	assert.Empty(t, empty.Across)
	assert.Empty(t, empty.Down)
}

func TestALineThatEndsAtADarkBarIsALine(t *testing.T) {
	g := paper(400, 200, 255)
	bar(g, 40, 40, 360, 60, 0)
	for _, x := range []float64{40, 150, 260, 359} {
		bar(g, x, 60, x+1, 160, 0)
	}
	n := 0
	for _, p := range scan.FindMarks(g, 200).Down {
		if p.H() > at(90) {
			n++
		}
	}
	assert.Equal(t, 4, n)
}

func TestBoxesAreBoxesHoweverHeavyOrPaleTheyAre(t *testing.T) {
	for name, tone := range map[string]uint8{"heavy": 0, "pale": 222} {
		thick := map[string]float64{"heavy": 2.5, "pale": 0.7}[name]
		g := paper(200, 100, 250)
		bar(g, 50, 40, 61, 40+thick, tone)
		bar(g, 50, 51-thick, 61, 51, tone)
		bar(g, 50, 40, 50+thick, 51, tone)
		bar(g, 61-thick, 40, 61, 51, tone)
		m := scan.FindMarks(g, 200)
		require.Len(t, m.Squares, 1, name)
		assert.InDelta(t, at(50), m.Squares[0].X0, 2, name)
		assert.InDelta(t, at(61), m.Squares[0].X1, 2, name)
	}
	cells := paper(300, 100, 255) // of a comb: lines go on from each of them
	for i := range 6 {
		bar(cells, 50+14*float64(i), 40, 50.8+14*float64(i), 54, 0)
	}
	bar(cells, 50, 40, 120.8, 40.8, 0)
	bar(cells, 50, 53.2, 120.8, 54, 0)
	assert.Empty(t, scan.FindMarks(cells, 200).Squares)
}

func TestTintsBesideEachOtherAreApartAndReachToTheirEdges(t *testing.T) {
	g := paper(400, 300, 255)
	bar(g, 41, 41, 361, 61.5, 222)   // the head of a table
	bar(g, 41, 61.5, 361, 80.3, 240) // its first row
	bar(g, 41, 99, 361, 117.7, 240)  // its third
	bar(g, 41, 140, 361, 160, 40)    // a dark bar
	var tints []scan.Tint
	for _, tint := range scan.FindMarks(g, 200).Tints {
		if tint.W() > at(300) {
			tints = append(tints, tint)
		}
	}
	require.Len(t, tints, 4)
	slices.SortFunc(tints, func(a, b scan.Tint) int { return a.Y0 - b.Y0 })
	for i, edges := range [][2]float64{{41, 61.5}, {61.5, 80.3}, {99, 117.7}, {140, 160}} {
		assert.InDelta(t, at(edges[0]), tints[i].Y0, 2)
		assert.InDelta(t, at(edges[1]), tints[i].Y1, 2)
		assert.InDelta(t, at(361), tints[i].X1, 2)
	}
}

func TestLightWordsOnDarkBarsBecomeDarkOnes(t *testing.T) {
	g := paper(400, 200, 255)
	bar(g, 40, 40, 360, 56, 30)
	bar(g, 50, 45, 52, 52, 250) // a stroke of a letter
	bar(g, 200, 100, 202, 107, 0)
	turned := scan.BarsTurned(g, 200)
	tone := func(x, y float64) uint8 { return turned.GrayAt(at(x), at(y)).Y }
	assert.Greater(t, tone(100, 48), uint8(200))
	assert.Less(t, tone(51, 48), uint8(60))
	assert.Zero(t, tone(201, 104), "what stands on paper stays")
	assert.Equal(t, uint8(30), g.GrayAt(at(100), at(48)).Y, "the picture itself stays")
	plain := paper(100, 100, 255)
	assert.Same(t, plain, scan.BarsTurned(plain, 200))
}

// The dots of a pale dotted line are lost here and there; those that are left are no dirt.
func TestTheDotsOfALineAreNoSpecks(t *testing.T) {
	g := paper(400, 200, 255)
	for i := range 100 {
		if i%5 != 3 {
			bar(g, 50+3*float64(i), 100, 50.5+3*float64(i), 100.5, 60)
		}
	}
	rng := rand.New(rand.NewPCG(3, 4))
	for range 40 {
		x, y := 20+360*rng.Float64(), 120+70*rng.Float64()
		bar(g, x, y, x+0.6, y+0.6, 60)
	}
	before := len(scan.Threshold(g.SubImage(image.Rect(0, 0, at(400), at(110))).(*image.Gray)).Connect().Parts)
	c := scan.Clean(g, 200)
	assert.Greater(t, c.Specks, 25)
	after := scan.Gray(c.Picture).SubImage(image.Rect(0, 0, at(400), at(110))).(*image.Gray)
	assert.Len(t, scan.Threshold(after).Connect().Parts, before)
}

func TestTheBusiestBandHasMostLetters(t *testing.T) {
	g := paper(400, 600, 255)
	for row := range 4 {
		for i := range 30 {
			bar(g, 50+8*float64(i), 420+14*float64(row), 54+8*float64(i), 427+14*float64(row), 0)
		}
	}
	band := scan.BusiestBand(g)
	assert.Less(t, band.Min.Y, at(421))
	assert.Greater(t, band.Max.Y, at(468))
	assert.Less(t, band.Dy(), at(120))
	assert.True(t, scan.BusiestBand(paper(400, 600, 255)).Empty())
}

func TestAPlaceThatReachesToTheEdgeOfItsTintIsWhite(t *testing.T) {
	g := paper(400, 200, 255)
	bar(g, 41, 41, 300, 71, 225)
	bar(g, 41, 41, 280, 55, 255)
	var white []scan.Tint
	for _, tint := range scan.FindMarks(g, 200).Tints {
		if tint.Tone > 0.99 {
			white = append(white, tint)
		}
	}
	require.Len(t, white, 1)
	assert.InDelta(t, at(280), white[0].X1, 6)
	assert.InDelta(t, at(55), white[0].Y1, 6)
}
