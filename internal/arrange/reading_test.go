package arrange_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"zealousmargin.example/internal/arrange"
	"zealousmargin.example/internal/geom"
)

// grid is fields in rows and columns, y downwards, each with its label left of it.
func grid(rows, columns int) (fields, around []geom.Rect) {
	for r := range rows {
		for c := range columns {
			x, y := 60+250*float64(c), 100+30*float64(r)
			fields = append(fields, geom.R(x+80, y, x+220, y+14))
			around = append(around, geom.R(x, y, x+220, y+14))
		}
	}
	return fields, around
}

func TestFieldsInCommonRowsAreReadByRowsUnlessEachColumnHasItsHeading(t *testing.T) {
	fields, around := grid(3, 2)
	assert.Equal(t, []int{0, 1, 2, 3, 4, 5}, arrange.Read(fields, around, arrange.Printed{}))
	heads := arrange.Printed{Heads: []geom.Rect{geom.R(60, 70, 120, 82), geom.R(310, 70, 380, 82)}}
	assert.Equal(t, []int{0, 2, 4, 1, 3, 5}, arrange.Read(fields, around, heads))
	one := arrange.Printed{Heads: heads.Heads[:1]}
	assert.Equal(t, []int{0, 1, 2, 3, 4, 5}, arrange.Read(fields, around, one), "one heading is for both")
}

func TestWordsAcrossAGutterLeaveNoColumns(t *testing.T) {
	var fields []geom.Rect
	for i := range 3 { // rows that do not match
		y := 100 + 30*float64(i)
		fields = append(fields, geom.R(60, y, 260, y+14), geom.R(310, y+12, 510, y+26))
	}
	assert.Equal(t, []int{0, 2, 4, 1, 3, 5}, arrange.Read(fields, fields, arrange.Printed{}))
	across := arrange.Printed{Text: []geom.Rect{geom.R(60, 104, 510, 109), geom.R(60, 146, 510, 150)}}
	assert.Equal(t, []int{0, 1, 2, 3, 4, 5}, arrange.Read(fields, fields, across), "a line of words runs over both")
}

func TestASideThatGoesOnAloneDoesNotMakeColumns(t *testing.T) {
	fields, around := grid(3, 2)
	for i := range 4 { // more fields below, on the left only
		r := geom.R(60, 200+30*float64(i), 280, 214+30*float64(i))
		fields, around = append(fields, r), append(around, r)
	}
	assert.Equal(t, []int{0, 1, 2, 3, 4, 5, 6, 7, 8, 9}, arrange.Read(fields, around, arrange.Printed{}))
}
