package inbox_test

import (
	"fmt"
	"time"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/inbox"
	"zealousmargin.example/internal/returns"
)

// Without an edition that asks for them, answers wait for a person.
func Example() {
	f := inbox.Forms{Editions: []returns.Edition{{Number: 1, Form: &form.Template{Fields: []form.Field{
		{ID: "a", Page: 1, Kind: form.Text, Name: "vessel", Rect: geom.R(50, 700, 250, 716)},
	}}}}}
	u, _ := f.Understand(0, returns.Came{Named: map[string][]string{"rent": {"400"}, "street": {"Mill Lane"}}}, time.Now())
	fmt.Println(u.Waits, u.Problem)
	// Output: true these are answers of no edition of this form
}
