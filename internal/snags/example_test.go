package snags_test

import (
	"fmt"
	"time"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/snags"
)

// A form is looked through, and one snag is mended.
func Example() {
	t := form.Template{
		Pages:   []form.Page{{Width: 595, Height: 842}},
		Details: form.Details{Title: "Berths", Language: "en"},
		Fields: []form.Field{{
			ID: "a", Page: 1, Kind: form.Text, Name: "vessel", Label: "Name of vessel",
			Rect: geom.R(50, 700, 250, 716),
		}},
	}
	for _, s := range snags.Find(&t, nil, time.Now()) {
		fmt.Println(s.Severity, s.Check, s.Mend)
		e, _ := snags.Mend(&t, nil, time.Now(), s.Key())
		_ = t.Apply(e)
	}
	fmt.Println(t.Fields[0].Tooltip)
	// Output:
	// risky no-tooltip give it its label as a tooltip
	// Name of vessel
}
