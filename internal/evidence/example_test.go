package evidence_test

import (
	"fmt"

	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/geom"
)

// Glyphs and a thin filled rectangle become a word and the rule that it stands at.
func Example() {
	b := evidence.NewBuilder(200, 100, 0)
	for i, r := range "Berth" {
		b.Glyph(r, geom.R(20+float64(i)*6, 50, 26+float64(i)*6, 60))
	}
	b.Path(evidence.Path{Fill: true, Subpaths: []evidence.Subpath{{Points: []geom.Point{
		{X: 60, Y: 49.5},
		{X: 180, Y: 49.5},
		{X: 180, Y: 50},
		{X: 60, Y: 50},
	}, Closed: true}}})
	page := b.Page()
	fmt.Println(page.Words[0].Text, len(page.H), page.H[0].Len())
	// Output: Berth 1 120
}
