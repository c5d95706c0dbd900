package form_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
)

func TestOneFieldAtSeveralPlaces(t *testing.T) {
	tpl := draft(form.Field{ID: "x", Kind: form.Text, Name: "vessel", Tooltip: "Vessel", Rect: geom.R(50, 700, 150, 716), MaxLen: 30},
		form.Field{ID: "y", Kind: form.Text, Name: "boat", Page: 2, Rect: geom.R(60, 600, 200, 616)},
		form.Field{ID: "z", Kind: form.CheckBox, Name: "tick", Rect: geom.R(60, 500, 70, 510)})
	e, err := tpl.PlaceAgain("x", 2, geom.R(100, 100, 200, 116))
	apply(t, tpl, e, err)
	places := tpl.Places("x")
	require.Len(t, places, 2)
	assert.Equal(t, "vessel", places[1].Name)
	assert.Equal(t, 30, places[1].MaxLen)

	// what is said of one is said of all
	e, err = tpl.Set("made it required", []string{places[1].ID}, func(f *form.Field) error { f.Required = true; return nil })
	apply(t, tpl, e, err)
	for _, p := range tpl.Places("x") {
		assert.True(t, p.Required)
	}
	e, err = tpl.Rename("x", "vessel_name")
	apply(t, tpl, e, err)
	assert.Len(t, tpl.Places("x"), 2)

	// another field becomes a place too, and keeps its own
	e, err = tpl.Link("y", "x")
	apply(t, tpl, e, err)
	y, _ := tpl.Field("y")
	assert.Equal(t, "vessel_name", y.Name)
	assert.Equal(t, 2, y.Page)
	assert.InDelta(t, 60, y.Rect.X0, 0.01)
	assert.True(t, y.Required)
	assert.Len(t, tpl.Places("y"), 3)

	// moving one leaves the others
	e, err = tpl.Move([]string{"y"}, 5, 0)
	apply(t, tpl, e, err)
	require.Len(t, e.After, 1)

	// unlinked, one by one: the last is alone
	for _, id := range []string{"y", places[1].ID} {
		e, err = tpl.Unlink(id)
		apply(t, tpl, e, err)
	}
	x, _ := tpl.Field("x")
	assert.False(t, x.Linked)
	names := map[string]int{}
	for _, f := range tpl.Fields {
		names[f.Name]++
	}
	for n, k := range names {
		assert.Equal(t, 1, k, n)
	}
	_, err = tpl.Unlink("x")
	assert.ErrorIs(t, err, form.ErrNothing)
}

func TestWhatCannotBeLinkedSaysWhy(t *testing.T) {
	tpl := draft(form.Field{ID: "x", Kind: form.Text, Name: "vessel", Rect: geom.R(50, 700, 150, 716)},
		form.Field{ID: "z", Kind: form.CheckBox, Name: "tick", Rect: geom.R(60, 500, 70, 510)},
		form.Field{ID: "s", Kind: form.Signature, Name: "sign", Rect: geom.R(60, 400, 170, 430)},
		form.Field{ID: "o", Kind: form.Text, Name: "old", Rect: geom.R(60, 300, 170, 330), Origin: &form.Origin{Object: 4}})
	_, err := tpl.Link("x", "z")
	assert.ErrorContains(t, err, "one kind")
	_, err = tpl.PlaceAgain("s", 1, geom.R(0, 0, 50, 20))
	assert.ErrorContains(t, err, "no answer")
	_, err = tpl.Link("x", "o")
	assert.ErrorContains(t, err, "came with the document")
	_, err = tpl.PlaceAgain("x", 9, geom.R(0, 0, 50, 20))
	assert.Error(t, err)

	// a name that is taken: the error says which is free
	_, err = tpl.Rename("x", "old")
	var taken *form.TakenError
	require.ErrorAs(t, err, &taken)
	assert.Equal(t, "old_2", taken.Free)
}

// Removing all places but one leaves a field like any other.
func TestRemovingAPlaceLeavesTheOthers(t *testing.T) {
	tpl := draft(form.Field{ID: "x", Kind: form.Text, Name: "vessel", Rect: geom.R(50, 700, 150, 716)})
	e, err := tpl.PlaceAgain("x", 1, geom.R(100, 100, 200, 116))
	apply(t, tpl, e, err)
	e, err = tpl.Remove([]string{"x"})
	apply(t, tpl, e, err)
	require.Len(t, tpl.Fields, 1)
	assert.False(t, tpl.Fields[0].Linked)
	require.NoError(t, tpl.Apply(e.Inverse()))
	assert.Len(t, tpl.Places("x"), 2)
}
