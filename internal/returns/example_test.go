package returns_test

import (
	"fmt"
	"time"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/returns"
)

// What a recipient's program has sent becomes answers of the edition that asks for them, held to its rules.
func Example() {
	berth := &form.Template{Fields: []form.Field{
		{ID: "a", Page: 1, Kind: form.Text, Name: "vessel", Required: true, Rect: geom.R(50, 700, 250, 716)},
		{ID: "b", Page: 1, Kind: form.Text, Name: "length", Format: form.Format{Kind: form.Number}, Rect: geom.R(50, 670, 250, 686)},
	}}
	editions := []returns.Edition{{Number: 1, Form: berth}}
	body := []byte("vessel=Petrel&length=nine")
	all, _ := returns.Data(returns.KindOf(body), body)
	number, _ := returns.Match(all[0].Named, editions)
	answers, _ := returns.Read(berth, all[0], time.Now())
	fmt.Println(number, answers.Values["vessel"], answers.Broken["length"])
	// Output: 1 Petrel Please write a number.
}
