package outline_test

import (
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"

	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/outline"
)

func line(x, y float64, text string, size float64) outline.Piece {
	return outline.Piece{Rect: geom.R(x, y, x+float64(len(text))*size/2, y+size), Text: text, Size: size}
}

func build(pieces []outline.Piece, h, v []evidence.Rule) []outline.Element {
	b := outline.Builder{Sizes: outline.SizesOf([][]outline.Piece{pieces})}
	return b.Page(pieces, h, v)
}

// types are those of elements and of what is in them.
func types(all []outline.Element) (out []string) {
	for _, e := range all {
		out = append(out, e.Type)
		out = append(out, types(e.Kids)...)
	}
	return out
}

// No level of headings is left out, whatever sizes a page is set in (ISO 14289-1, 7.4.2).
func TestLevelsOfHeadingsAreNotLeftOut(t *testing.T) {
	e := build([]outline.Piece{
		line(60, 780, "Small heading first", 14), line(60, 740, "The largest", 24), line(60, 700, "A middle one", 18),
		line(60, 660, "The smallest", 14), line(60, 640, "What most of the page is set in, line after line of it", 10),
	}, nil, nil)
	assert.Equal(t, []string{"H1", "H1", "H2", "H3", "P"}, types(e))
}

func TestAHeadingOfSeveralLinesIsOne(t *testing.T) {
	e := build([]outline.Piece{
		line(60, 780, "Application for a berth at the quay", 18), line(60, 760, "for the season", 18),
		line(60, 700, "What most of the page is set in, line after line of it, and so on", 10),
	}, nil, nil)
	assert.Equal(t, []string{"H1", "P"}, types(e))
	assert.Equal(t, []int{0, 1}, e[0].Pieces)
}

func TestItemsMakeAList(t *testing.T) {
	e := build([]outline.Piece{
		line(60, 700, "Bring these to the office:", 10), line(60, 680, "• the papers of the vessel, and", 10),
		line(72, 667, "those of the crew", 10),
		line(60, 650, "• the proof of insurance", 10), line(60, 600, "Then come to the quay.", 10),
	}, nil, nil)
	assert.Equal(t, []string{"P", "L", "LI", "LBody", "LI", "LBody", "P"}, types(e))
	assert.Equal(t, []int{1, 2}, e[1].Kids[0].Kids[0].Pieces)
}

// A table that is printed with rules has its heads; words before fields are the head of their row.
func TestATableHasItsHeads(t *testing.T) {
	var h, v []evidence.Rule
	for _, y := range []float64{700, 680, 660, 640} {
		h = append(h, evidence.Rule{Horizontal: true, From: 60, To: 360, At: y})
	}
	for _, x := range []float64{60, 160, 260, 360} {
		v = append(v, evidence.Rule{From: 640, To: 700, At: x})
	}
	pieces := []outline.Piece{
		line(66, 684, "Service", 10), line(166, 684, "From", 10), line(266, 684, "Until", 10),
		line(66, 664, "Water", 10), line(66, 644, "Power", 10),
		{Rect: geom.R(162, 662, 258, 678), Field: true},
		{Rect: geom.R(262, 662, 358, 678), Field: true},
		{Rect: geom.R(162, 642, 258, 658), Field: true},
		{Rect: geom.R(262, 642, 358, 658), Field: true},
	}
	e := build(pieces, h, v)
	assert.Equal(t, []string{
		"Table", "TR", "TH", "P", "TH", "P", "TH", "P", "TR", "TH", "P", "TD", "Form", "TD", "Form",
		"TR", "TH", "P", "TD", "Form", "TD", "Form",
	}, types(e))
	assert.Equal(t, "Column", e[0].Kids[0].Kids[1].Scope)
	assert.Equal(t, "Row", e[0].Kids[1].Kids[0].Scope)
}

// Whatever stands on a page, every piece is in the structure, once.
func TestNothingIsLostAndNothingIsTwice(t *testing.T) {
	for range 300 {
		var pieces []outline.Piece
		var h, v []evidence.Rule
		for range 1 + rand.IntN(40) {
			x, y := rand.Float64()*500, rand.Float64()*800
			p := line(x, y, "some words of it"[:1+rand.IntN(15)], 6+rand.Float64()*20)
			p.Field = rand.IntN(4) == 0
			pieces = append(pieces, p)
		}
		for range rand.IntN(12) {
			h = append(h, evidence.Rule{Horizontal: true, From: 50, To: 550, At: float64(rand.IntN(40) * 20)})
			v = append(v, evidence.Rule{From: 100, To: 700, At: float64(50 + rand.IntN(11)*50)})
		}
		seen := map[int]int{}
		var count func([]outline.Element)
		count = func(all []outline.Element) {
			for _, e := range all {
				for _, i := range e.Pieces {
					seen[i]++
				}
				count(e.Kids)
			}
		}
		count(build(pieces, h, v))
		for i := range pieces {
			assert.Equal(t, 1, seen[i], "%v %v %v", pieces[i], h, v)
		}
	}
}
