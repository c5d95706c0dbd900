package measure_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/measure"
	"zealousmargin.example/internal/pdf/read"
)

func TestMatchAgainstAHandWorkedExample(t *testing.T) {
	field := func(page int, k form.Kind, r geom.Rect) form.Field { return form.Field{Page: page, Kind: k, Rect: r} }
	found := []form.Field{
		field(1, form.Text, geom.R(0, 0, 100, 10)),    // exact
		field(1, form.Text, geom.R(0, 100, 100, 110)), // the wrong kind
		field(1, form.Text, geom.R(0, 200, 49, 210)),  // less than half
		field(1, form.Text, geom.R(0, 0, 100, 11)),    // a second find on the same field
		field(2, form.Text, geom.R(0, 200, 100, 210)), // the right place on another page
	}
	wanted := []read.Widget{
		{Page: 1, Kind: form.Text, Rect: geom.R(0, 0, 100, 10)},
		{Page: 1, Kind: form.CheckBox, Rect: geom.R(0, 100, 100, 110)},
		{Page: 1, Kind: form.Text, Rect: geom.R(0, 200, 100, 210)},
		{Page: 1, Kind: form.Text, Rect: geom.R(0, 300, 100, 310)},
	}
	s := measure.Match(found, wanted)
	assert.Equal(t, 2, s.Hit)
	assert.Equal(t, 1, s.RightKind)
	assert.InDelta(t, 2.0/5, s.Precision(), 1e-12)
	assert.InDelta(t, 2.0/4, s.Recall(), 1e-12)
	assert.InDelta(t, 4.0/9, s.F1(), 1e-12) // 2*0.4*0.5/0.9
	assert.Zero(t, measure.Score{}.F1())
}
