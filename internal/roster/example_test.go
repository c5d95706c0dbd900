package roster_test

import (
	"fmt"
	"time"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/roster"
)

// A form asks for what the office knows: the sources are proposed, taken over, and the form is filled in for a person.
func Example() {
	columns, people, _, err := roster.Read([][]string{
		{"Customer number", "Name", "Date of birth", "Name of vessel"},
		{"GQ-1001", "Ida Marl", "1941-01-01", "Petrel"},
	})
	if err != nil {
		panic(err)
	}
	t := &form.Template{Pages: []form.Page{{Width: 595, Height: 842}}, Fields: []form.Field{
		{ID: "a", Page: 1, Kind: form.Text, Name: "vessel", Label: "Name of vessel", Rect: geom.R(50, 700, 250, 716)},
		{ID: "b", Page: 1, Kind: form.Text, Name: "born", Label: "Date of birth", Rect: geom.R(50, 660, 250, 676)},
	}}
	e, err := roster.Accept(t, roster.Propose(t, columns))
	if err != nil {
		panic(err)
	}
	if err := t.Apply(e); err != nil {
		panic(err)
	}
	values, _ := roster.Values(t, people[0], roster.With{Today: time.Now()})
	fmt.Println(values["vessel"], values["born"])
	// Output: Petrel 01.01.1941
}
