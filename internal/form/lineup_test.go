package form_test

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
)

func draft(fields ...form.Field) *form.Template {
	t := &form.Template{Pages: []form.Page{
		{ID: "a", N: 1, Width: 600, Height: 800},
		{ID: "b", N: 2, Width: 600, Height: 800},
		{ID: "c", N: 3, Width: 400, Height: 400},
	}}
	for i, f := range fields {
		if f.ID == "" {
			f.ID = form.NewID()
		}
		if f.Page == 0 {
			f.Page = 1
		}
		f.Order = float64(i + 1)
		t.Fields = append(t.Fields, f)
	}
	return t
}

func apply(t *testing.T, tpl *form.Template, e form.Edit, err error) {
	t.Helper()
	require.NoError(t, err)
	require.NoError(t, tpl.Apply(e))
}

func TestCopiesStandAtTheirStepAndHaveNamesOfTheirOwn(t *testing.T) {
	tpl := draft(form.Field{ID: "x", Kind: form.CheckBox, Name: "berth_1", Rect: geom.R(50, 700, 60, 710)})
	e, err := tpl.Repeat([]string{"x"}, 3, 0, -20)
	apply(t, tpl, e, err)
	assert.Equal(t, "made 3 copies", e.Title)
	var names []string
	for i, f := range e.After {
		names = append(names, f.Name)
		assert.InDelta(t, 700-20*float64(i+1), f.Rect.Y0, 0.01)
	}
	assert.Equal(t, []string{"berth_2", "berth_3", "berth_4"}, names)
	e, err = tpl.Repeat([]string{"x"}, 60, 0, -20)
	require.NoError(t, err)
	assert.Len(t, e.After, 35, "those that would lie off the page are left out")
	_, err = tpl.Repeat([]string{"x"}, 501, 0, -1)
	assert.ErrorContains(t, err, "500")
}

func TestCopiesOfRadioButtonsOnOtherPagesAreGroupsOfTheirOwn(t *testing.T) {
	tpl := draft(form.Field{ID: "p", Kind: form.Radio, Name: "side", Export: "port", Rect: geom.R(50, 300, 60, 310)},
		form.Field{ID: "s", Kind: form.Radio, Name: "side", Export: "starboard", Rect: geom.R(80, 700, 90, 710)})
	e, err := tpl.CopyToPages([]string{"p", "s"}, []int{1, 2, 3})
	apply(t, tpl, e, err)
	require.Len(t, e.After, 4, "not on the page that they stand on")
	groups := map[int]map[string]bool{}
	for _, f := range e.After {
		if groups[f.Page] == nil {
			groups[f.Page] = map[string]bool{}
		}
		groups[f.Page][f.Name] = true
		assert.True(t, tpl.Pages[f.Page-1].Rect().Covers(f.Rect, 0.01), "moved onto a smaller page")
	}
	for page, g := range groups {
		assert.Len(t, g, 1, "one group on page %d", page)
		assert.NotContains(t, g, "side")
	}
}

func TestWhatIsPastedHasFreeNamesAndStandsBesideWhatItWasCopiedFrom(t *testing.T) {
	x := form.Field{
		ID: "x", Kind: form.Text, Name: "vessel", Tooltip: "Vessel", Rect: geom.R(50, 700, 150, 716),
		Look: form.Look{Fill: "#ffffff"},
	}
	tpl := draft(x)
	e, err := tpl.Paste([]form.Field{x}, 1)
	apply(t, tpl, e, err)
	got := e.After[0]
	assert.Equal(t, "vessel_2", got.Name)
	assert.NotEqual(t, "x", got.ID)
	assert.Equal(t, x.Look, got.Look)
	assert.InDelta(t, 62, got.Rect.X0, 0.01)
	e, err = tpl.Paste([]form.Field{x}, 2)
	apply(t, tpl, e, err)
	assert.InDelta(t, 50, e.After[0].Rect.X0, 0.01, "on another page at the same place")
	_, err = tpl.Paste([]form.Field{x}, 9)
	assert.Error(t, err)
}

func TestLooksThatCannotBeDrawnAreRefused(t *testing.T) {
	page := form.Page{Width: 600, Height: 800}
	ok := form.Field{ID: "x", Kind: form.Text, Name: "a", Rect: geom.R(0, 0, 50, 20)}
	for _, bad := range []func(*form.Field){
		func(f *form.Field) { f.Look.Colour = "red" },
		func(f *form.Field) { f.Look.Font = "Gill" },
		func(f *form.Field) { f.Look.Size = 300 },
		func(f *form.Field) { f.Look.BorderWidth = 40 },
		func(f *form.Field) { f.Look.BorderStyle = "wavy" },
		func(f *form.Field) { f.Look.Align = "justified" },
		func(f *form.Field) { f.Look.Turn = 45 },
		func(f *form.Field) { f.Mark = "check" },
		func(f *form.Field) { f.Unison = true },
		func(f *form.Field) { f.List = form.ListBox },
		func(f *form.Field) { f.Show = "somewhere" },
		func(f *form.Field) { f.Password, f.Multiline = true, true },
		func(f *form.Field) { f.FilePath, f.Comb = true, 4 },
		func(f *form.Field) { f.Kind, f.Hint = form.CheckBox, "here" },
		func(f *form.Field) { f.Kind, f.Mark = form.CheckBox, "skull" },
	} {
		f := ok
		bad(&f)
		assert.Error(t, f.Check(page), "%+v", f)
	}
	assert.NoError(t, ok.Check(page))
}

// Any edit, applied and taken back, leaves the draft as it was.
func TestAnyEditIsTakenBack(t *testing.T) {
	rnd := rand.New(rand.NewPCG(7, 11))
	tpl := draft()
	tpl.Fields = []form.Field{}
	kinds := []form.Kind{form.Text, form.CheckBox, form.Radio, form.Choice, form.Button, form.Signature}
	for i := range 400 {
		var ids []string
		for _, f := range tpl.Fields {
			if rnd.IntN(3) == 0 {
				ids = append(ids, f.ID)
			}
		}
		at := geom.R(rnd.Float64()*400, rnd.Float64()*380, rnd.Float64()*400+410, rnd.Float64()*380+390)
		var e form.Edit
		var err error
		switch rnd.IntN(10) {
		case 0, 1:
			e, err = tpl.Place(form.Field{
				Kind: kinds[rnd.IntN(len(kinds))], Name: fmt.Sprintf("f_%d", rnd.IntN(20)),
				Page: 1 + rnd.IntN(3), Rect: at, Export: fmt.Sprint(i),
			})
		case 2:
			e, err = tpl.Move(ids, rnd.Float64()*40-20, rnd.Float64()*40-20)
		case 3:
			e, err = tpl.Set("set", ids, func(f *form.Field) error { f.Required = !f.Required; f.Look.Size = 8; return nil })
		case 4:
			e, err = tpl.Duplicate(ids[:min(3, len(ids))], 5, 5)
		case 5:
			e, err = tpl.Repeat(ids[:min(2, len(ids))], 2, 3, 3)
		case 6:
			e, err = tpl.CopyToPages(ids[:min(2, len(ids))], []int{1, 2})
		case 7:
			if len(tpl.Fields) > 40 {
				e, err = tpl.Remove(ids)
			} else {
				e, err = tpl.Paste(tpl.OnPage(1)[:min(2, len(tpl.OnPage(1)))], 2)
			}
		case 8:
			rects := map[string]geom.Rect{}
			for _, id := range ids {
				rects[id] = at
			}
			e, err = tpl.Lay("laid", rects)
		default:
			if len(ids) > 0 {
				e, err = tpl.MoveInOrder(ids[0], rnd.IntN(10))
			} else {
				err = form.ErrNothing
			}
		}
		if err != nil {
			continue
		}
		before := slices.Clone(tpl.Fields)
		if tpl.Apply(e) != nil {
			require.Equal(t, before, tpl.Fields, "a refused edit changes nothing")
			continue
		}
		after := slices.Clone(tpl.Fields)
		require.NoError(t, tpl.Apply(e.Inverse()))
		require.Equal(t, before, tpl.Fields, "%s", e.Title)
		require.NoError(t, tpl.Apply(e))
		require.Equal(t, after, tpl.Fields, "%s", e.Title)
	}
	assert.Greater(t, len(tpl.Fields), 10)
}
