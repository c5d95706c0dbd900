package geom_test

import (
	"fmt"

	"zealousmargin.example/internal/geom"
)

// A field on a page that is shown turned to the right: where it lies as it is seen.
func Example() {
	field := geom.R(50, 700, 250, 716)
	view := geom.ToView(612, 792, 90)
	fmt.Println(field.Apply(view))
	// Output: {700 50 716 250}
}
