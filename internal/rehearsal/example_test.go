package rehearsal_test

import (
	"fmt"
	"time"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/rehearsal"
)

// One answer in a rehearsal by hand, and what the form comes to with it.
func ExampleAnswer() {
	fields := []form.Field{
		{
			ID: "a", Page: 1, Kind: form.Text, Name: "crew", Required: true, Format: form.Format{Kind: form.Number},
			Rect: geom.R(50, 700, 250, 716),
		},
		{ID: "b", Page: 1, Kind: form.Text, Name: "fee", Formula: "crew * 2", Rect: geom.R(50, 670, 250, 686)},
	}
	state, _ := rehearsal.Answer{Given: map[string]string{}, Name: "crew", Value: "4"}.Follow(fields, time.Now())
	fmt.Println(state.Shown["fee"], state.Missing)
	// Output: 8 []
}
