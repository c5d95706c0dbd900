package scan_test

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"

	"zealousmargin.example/internal/scan"
)

// cells draws n cells of 14 by 16 points, so far apart, on noisy paper; sides tells how dark each upright is.
func cells(n int, apart, grain float64, tone uint8, sides func(upright int) uint8) scan.Marks {
	g := paper(400, 120, 246)
	for i := range n {
		x := 40 + float64(i)*(14+apart)
		bar(g, x, 40, x+14, 40.7, tone)
		bar(g, x, 56, x+14.7, 56.7, tone)
		bar(g, x, 40, x+0.7, 56, sides(2*i))
		bar(g, x+14, 40, x+14.7, 56, sides(2*i+1))
	}
	return scan.FindMarks(noisy(g, grain), 200)
}

// uprights counts where along a row uprights were found.
func uprights(m scan.Marks) (xs []int) {
	for _, p := range m.Down {
		x := (p.X0 + p.X1) / 2
		known := false
		for _, o := range xs {
			known = known || math.Abs(float64(o-x)) <= 3
		}
		if !known {
			xs = append(xs, x)
		}
	}
	return xs
}

func TestAPaleSideOfACellIsFoundByTheOthers(t *testing.T) {
	one := cells(5, 3, 9, 200, func(upright int) uint8 {
		if upright == 5 {
			return 226
		}
		return 200
	})
	assert.Len(t, uprights(one), 10)
	gone := cells(5, 3, 9, 200, func(upright int) uint8 {
		if upright == 5 {
			return 246
		}
		return 200
	})
	assert.Len(t, uprights(gone), 9, "where nothing is, no side is made up")
}

func TestLinesAreCutBetweenCellsThatStandApart(t *testing.T) {
	m := cells(5, 3, 4, 190, func(int) uint8 { return 190 })
	for _, p := range m.Across {
		assert.Less(t, p.W(), at(18), "a line goes on over the gap between two cells")
	}
	touching := cells(5, 0, 4, 190, func(int) uint8 { return 190 })
	longest := 0
	for _, p := range touching.Across {
		longest = max(longest, p.W())
	}
	assert.Greater(t, longest, at(60), "cells that touch share their lines")
}

func TestPaleTicksDivideALineEvenly(t *testing.T) {
	line := func(step float64, tone uint8) scan.Marks {
		g := paper(400, 120, 246)
		bar(g, 40, 60, 180, 60.8, 90)
		for x := 40 + step; x < 179; x += step {
			bar(g, x, 55.2, x+0.7, 60, tone)
		}
		return scan.FindMarks(noisy(g, 3), 200)
	}
	assert.Len(t, uprights(line(14, 222)), 9)
	assert.Empty(t, uprights(line(14, 246)))
}

func TestABandThatNoiseToreIsOne(t *testing.T) {
	g := paper(500, 200, 250)
	bar(g, 40, 60, 460, 78, 234)
	bar(g, 150, 60, 150.7, 78, 250) // two scratches tear a sliver out of it
	bar(g, 157, 60, 157.7, 78, 250)
	m := scan.FindMarks(noisy(g, 3), 200)
	wide := 0
	for _, tint := range m.Tints {
		if tint.W() > at(400) {
			wide++
		}
	}
	assert.Equal(t, 1, wide)
}

func TestLightLettersOnADarkBarAreSeen(t *testing.T) {
	g := paper(400, 100, 255)
	bar(g, 40, 40, 360, 56, 40)
	for i := range 5 {
		x := 60 + 6*float64(i)
		bar(g, x, 44, x+4, 51, 250)
	}
	n := 0
	for _, p := range scan.FindMarks(g, 200).Letters {
		if p.X0 >= at(59) && p.X1 <= at(90) && p.Y0 >= at(43) && p.Y1 <= at(53) {
			n++
		}
	}
	assert.Equal(t, 5, n)
}
