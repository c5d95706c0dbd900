package form_test

import (
	"fmt"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
)

// An edit is worked out, carried out, and taken back.
func Example() {
	t := form.Template{Pages: []form.Page{{Width: 595, Height: 842}}}
	placed, _ := t.Place(form.Field{Page: 1, Kind: form.Text, Name: "vessel", Rect: geom.R(50, 700, 250, 716)})
	_ = t.Apply(placed)
	fmt.Println(placed.Title, len(t.Fields))
	_ = t.Apply(placed.Inverse())
	fmt.Println(len(t.Fields))
	// Output:
	// placed vessel 1
	// 0
}

// Properties are read and set by their keys, in words.
func ExamplePropertyOf() {
	f := form.Field{Kind: form.Text, Name: "arrival"}
	p, _ := form.PropertyOf(form.FieldProperties, "required")
	_ = p.Set(&f, "yes")
	fmt.Println(p.Titled(f.Name, "yes"), f.Required)
	// Output: made arrival required true
}
