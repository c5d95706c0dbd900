package arrange_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"zealousmargin.example/internal/arrange"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
)

// priced is a table of three rows and four columns with a wide field below.
func priced() []form.Field {
	var out []form.Field
	for r := range 3 {
		for c, name := range []string{"day", "quantity", "rate", "amount"} {
			x, y := 40+100*float64(c), 700-20*float64(r)
			f := form.Field{
				ID: name + string(rune('1'+r)), Page: 1, Kind: form.Text, Name: "line_" + string(rune('1'+r)) + "_" + name,
				Rect: geom.R(x, y, x+90, y+16),
			}
			if name == "day" {
				f.Find = &form.Find{Looks: "date"}
			}
			out = append(out, f)
		}
	}
	return append(out,
		form.Field{ID: "wide", Page: 1, Kind: form.Text, Name: "remarks", Tooltip: "Anything else", Rect: geom.R(40, 600, 430, 640)},
		form.Field{ID: "tick", Page: 1, Kind: form.CheckBox, Name: "member", Required: true, Rect: geom.R(40, 560, 52, 572)})
}

func TestFieldsAreChosenByWhatTheyHaveInCommon(t *testing.T) {
	view := geom.ToView(595, 842, 0)
	assert.Equal(t, []string{"rate1", "rate2", "rate3"}, arrange.Column(priced(), "rate2", view), "from the top, and not the wide one")
	assert.Equal(t, []string{"day2", "quantity2", "rate2", "amount2"}, arrange.Row(priced(), "rate2", view))
	assert.Equal(t, []string{"wide"}, arrange.Column(priced(), "wide", view))
	assert.Empty(t, arrange.Row(priced(), "nobody", view))
	for pattern, want := range map[string]int{
		"line_*_amount": 3, "line_2_*": 4, "*": 14, "LINE": 12, "else": 1, "*mark*": 1, "amount*": 0, "": 0, "a*b": 0, "line_*_*_amount": 0,
	} {
		assert.Len(t, arrange.Named(priced(), pattern), want, pattern)
	}
	kinds := arrange.Kinds(priced())
	assert.Len(t, kinds, 2)
	assert.Equal(t, "text fields", kinds[0].Words)
	assert.Len(t, kinds[0].IDs, 13)
	asks := arrange.Asks(priced())
	assert.Equal(t, arrange.Alike{Words: "dates", IDs: []string{"day1", "day2", "day3"}}, asks[0])
	assert.Equal(t, arrange.Alike{Words: "that must be filled in", IDs: []string{"tick"}}, asks[1])
}

// A page that lies on its side has its rows as it is shown.
func TestRowsAndColumnsGoByThePageAsItIsShown(t *testing.T) {
	view := geom.ToView(595, 842, 90)
	all := priced()
	assert.Equal(t, 3, len(arrange.Row(all, "rate2", view)))
}
