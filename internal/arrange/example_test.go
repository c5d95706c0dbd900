package arrange_test

import (
	"fmt"

	"zealousmargin.example/internal/arrange"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
)

// Two columns are gone down one after the other.
func ExampleOrder() {
	var fields []form.Field
	for i, at := range [][2]float64{{300, 700}, {50, 660}, {300, 660}, {50, 700}} {
		fields = append(fields, form.Field{ID: string("abcd"[i]), Rect: geom.R(at[0], at[1], at[0]+150, at[1]+14)})
	}
	view := geom.ToView(595, 842, 0)
	fmt.Println(arrange.Order(fields, "rows", view), arrange.Order(fields, "columns", view))
	// Output: [d a b c] [d b a c]
}
