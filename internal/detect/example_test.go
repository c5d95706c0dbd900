package detect_test

import (
	"fmt"

	"zealousmargin.example/internal/detect"
	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/geom"
)

// A rule behind a label is a place to write, and the label names it.
func Example() {
	b := evidence.NewBuilder(400, 200, 0)
	for i, r := range "Name of vessel" {
		if r != ' ' {
			b.Glyph(r, geom.R(40+float64(i)*5, 100, 45+float64(i)*5, 109))
		}
	}
	b.Path(evidence.Path{
		Stroke: true, Width: 0.5,
		Subpaths: []evidence.Subpath{{Points: []geom.Point{{X: 120, Y: 99}, {X: 340, Y: 99}}}},
	})
	for _, f := range detect.Page(b.Page()) {
		fmt.Println(f.Kind, f.Name, f.Tooltip)
	}
	// Output: text name_vessel Name of vessel
}
