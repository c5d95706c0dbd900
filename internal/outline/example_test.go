package outline_test

import (
	"fmt"

	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/outline"
)

// A page with a heading, a line with a field behind it, and what is below.
func Example() {
	pieces := []outline.Piece{
		{Rect: geom.R(60, 700, 260, 720), Text: "Berth application", Size: 20},
		{Rect: geom.R(60, 650, 140, 660), Text: "Name of vessel", Size: 10},
		{Rect: geom.R(150, 648, 300, 664), Field: true},
		{Rect: geom.R(60, 620, 500, 630), Text: "Berths are given out in the order in which", Size: 10},
		{Rect: geom.R(60, 607, 400, 617), Text: "complete applications arrive.", Size: 10},
	}
	b := outline.Builder{Sizes: outline.SizesOf([][]outline.Piece{pieces})}
	for _, e := range b.Page(pieces, nil, nil) {
		fmt.Println(e.Type, e.Pieces)
	}
	// Output:
	// H1 [0]
	// P [1]
	// Form [2]
	// P [3 4]
}
