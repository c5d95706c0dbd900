package arrange_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/arrange"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
)

func three() []form.Field {
	f := func(id string, x0, y0, x1, y1 float64) form.Field {
		return form.Field{ID: id, Page: 1, Rect: geom.R(x0, y0, x1, y1)}
	}
	return []form.Field{f("a", 50, 700, 150, 716), f("b", 80, 600, 140, 620), f("c", 200, 560, 300, 570)}
}

func TestFieldsAreLinedUpSixWaysSpreadMatchedAndCentred(t *testing.T) {
	page := form.Page{Width: 600, Height: 800}
	for how, want := range map[string][]geom.Rect{
		"left":          {geom.R(50, 700, 150, 716), geom.R(50, 600, 110, 620), geom.R(50, 560, 150, 570)},
		"right":         {geom.R(200, 700, 300, 716), geom.R(240, 600, 300, 620), geom.R(200, 560, 300, 570)},
		"centre":        {geom.R(125, 700, 225, 716), geom.R(145, 600, 205, 620), geom.R(125, 560, 225, 570)},
		"top":           {geom.R(50, 700, 150, 716), geom.R(80, 696, 140, 716), geom.R(200, 706, 300, 716)},
		"bottom":        {geom.R(50, 560, 150, 576), geom.R(80, 560, 140, 580), geom.R(200, 560, 300, 570)},
		"middle":        {geom.R(50, 630, 150, 646), geom.R(80, 628, 140, 648), geom.R(200, 633, 300, 643)},
		"same-width":    {geom.R(50, 700, 150, 716), geom.R(80, 600, 180, 620), geom.R(200, 560, 300, 570)},
		"same-height":   {geom.R(50, 700, 150, 716), geom.R(80, 600, 140, 616), geom.R(200, 560, 300, 576)},
		"page-across":   {geom.R(175, 700, 275, 716), geom.R(205, 600, 265, 620), geom.R(325, 560, 425, 570)},
		"page-down":     {geom.R(50, 462, 150, 478), geom.R(80, 362, 140, 382), geom.R(200, 322, 300, 332)},
		"spread-down":   {geom.R(50, 700, 150, 716), geom.R(80, 625, 140, 645), geom.R(200, 560, 300, 570)},
		"spread-across": {geom.R(50, 700, 150, 716), geom.R(145, 600, 205, 620), geom.R(200, 560, 300, 570)},
	} {
		got, err := arrange.LineUp(three(), how, page)
		require.NoError(t, err, how)
		for i, f := range three() {
			assert.Equal(t, want[i], got[f.ID], "%s: %s", how, f.ID)
		}
	}
	for _, how := range arrange.LineUps {
		_, err := arrange.LineUp(three(), how, page)
		assert.NoError(t, err, how)
	}
	_, err := arrange.LineUp(three()[:1], "left", page)
	assert.ErrorContains(t, err, "at least 2")
	_, err = arrange.LineUp(three()[:2], "spread-down", page)
	assert.ErrorContains(t, err, "at least 3")
	_, err = arrange.LineUp(three(), "askew", page)
	assert.Error(t, err)
}

func TestLinedUpAsThePageIsShown(t *testing.T) {
	turned := form.Page{Width: 600, Height: 800, Rotate: 90} // its left is the lower edge of the page
	got, err := arrange.LineUp(three(), "left", turned)
	require.NoError(t, err)
	for id, r := range got {
		assert.InDelta(t, 560, r.Y0, 0.01, id)
	}
}

func order(fields []form.Field, how string) string {
	s := ""
	for _, id := range arrange.Order(fields, how, geom.ToView(600, 800, 0)) {
		s += id
	}
	return s
}

func TestATwoColumnPageIsReadColumnByColumn(t *testing.T) {
	at := func(id string, x, y float64) form.Field {
		return form.Field{ID: id, Rect: geom.R(x, y, x+200, y+14)}
	}
	// a head across the page, two columns whose rows do not match, a foot
	page := []form.Field{
		{ID: "a", Rect: geom.R(50, 740, 550, 754)},
		at("b", 50, 700), at("c", 50, 670), at("d", 50, 640), at("e", 50, 610),
		at("f", 330, 693), at("g", 330, 652), at("h", 330, 611.5),
		{ID: "i", Rect: geom.R(50, 560, 550, 574)},
	}
	assert.Equal(t, "abcdefghi", order(page, "structure"))
	assert.NotEqual(t, "abcdefghi", order(page, "rows"))
	// fields that stand in rows are read by rows, though there is a gutter
	rows := []form.Field{at("a", 50, 700), at("b", 330, 700), at("c", 50, 670), at("d", 330, 670), at("e", 50, 640), at("f", 330, 640)}
	assert.Equal(t, "abcdef", order(rows, "structure"))
	assert.Equal(t, "abcdef", order(rows, "rows"))
	assert.Equal(t, "acebdf", order(rows, "columns"))
}
