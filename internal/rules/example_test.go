package rules_test

import (
	"fmt"
	"time"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/rules"
)

// A form is filled in: one answer, and what follows from it.
func ExampleSession() {
	fields := []form.Field{
		{ID: "a", Page: 1, Kind: form.Text, Name: "nights", Format: form.Format{Kind: form.Number}},
		{ID: "b", Page: 1, Kind: form.Text, Name: "fee", Formula: "nights * 12.5", Format: form.Format{Kind: form.Number, Decimals: 2}},
	}
	s, _ := rules.NewSession(fields, time.Date(2026, 4, 1, 0, 0, 0, 0, time.UTC))
	_, _ = s.Set("nights", "3")
	fmt.Println(s.Shown("fee"))
	// Output: 37.50
}
