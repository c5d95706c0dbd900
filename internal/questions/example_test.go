package questions_test

import (
	"fmt"
	"time"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/questions"
)

// A form becomes questions, and what was answered so far tells what is still missing.
func Example() {
	t := &form.Template{Pages: []form.Page{{Width: 400, Height: 800}}, Fields: []form.Field{
		{ID: "a", Page: 1, Kind: form.Text, Name: "vessel", Tooltip: "Name of vessel", Required: true, Rect: geom.R(50, 700, 250, 716)},
		{
			ID:      "b",
			Page:    1,
			Kind:    form.Radio,
			Name:    "keel",
			Tooltip: "Keel: fin",
			Label:   "fin",
			Export:  "fin",
			Order:   1,
			Rect:    geom.R(50, 670, 60, 680),
		},
		{
			ID:      "c",
			Page:    1,
			Kind:    form.Radio,
			Name:    "keel",
			Tooltip: "Keel: bilge",
			Label:   "bilge",
			Export:  "bilge",
			Order:   2,
			Rect:    geom.R(90, 670, 99, 680),
		},
	}}
	for _, s := range questions.Steps(t, nil, nil) {
		for _, q := range s.Cards[0].Questions {
			fmt.Println(q.Label, len(q.Options))
		}
	}
	state, _ := questions.Follow(t.Fields, map[string]string{"keel": "fin"}, time.Now())
	fmt.Println(state.Missing)
	// Output:
	// Name of vessel 0
	// Keel 2
	// [vessel]
}
