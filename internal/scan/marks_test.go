package scan_test

import (
	"image"
	"image/color"
	"image/draw"
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
