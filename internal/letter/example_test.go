package letter_test

import (
	"fmt"

	"zealousmargin.example/internal/letter"
)

// A letter to one person.
func Example() {
	w := letter.Words{Subject: "{form}", Text: "Good day {name}, here it is: {link}"}
	if err := w.Check(); err != nil {
		panic(err)
	}
	one := w.With(map[string]string{"name": "Ida Marl", "form": "Berth application", "link": "https://forms.example/f/x"})
	fmt.Println(one.Subject)
	fmt.Println(one.Text)
	// Output:
	// Berth application
	// Good day Ida Marl, here it is: https://forms.example/f/x
}
