package command_test

import (
	"encoding/json"
	"fmt"

	"zealousmargin.example/internal/command"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
)

// Two commands as JSON are carried out as one edit.
func Example() {
	draft := form.Template{
		Pages:  []form.Page{{Width: 595, Height: 842}},
		Fields: []form.Field{{ID: "a", Page: 1, Kind: form.Text, Name: "arrival", Rect: geom.R(50, 700, 250, 716)}},
	}
	var list command.List
	_ = json.Unmarshal([]byte(`[
		{"do": "set", "fields": ["arrival"], "key": "format", "value": "date"},
		{"do": "set", "fields": ["arrival"], "key": "required", "value": true}
	]`), &list)
	e, err := command.Desk{Draft: &draft}.Do(list...)
	fmt.Println(e.Title, e.After[0].Required, e.After[0].Format.Pattern, err)
	// Output: changed what arrival accepts, made arrival required true dd.mm.yyyy <nil>
}
