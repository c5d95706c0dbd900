package command_test

import (
	"encoding/json"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/command"
	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
)

// sheet is a page with two labelled lines to write on and two boxes to tick.
func sheet() *evidence.Page {
	b := evidence.NewBuilder(400, 300, 0)
	word := func(x, y float64, s string) {
		for i, r := range s {
			if r != ' ' {
				b.Glyph(r, geom.R(x+float64(i)*5, y, x+5+float64(i)*5, y+9))
			}
		}
	}
	line := func(points ...geom.Point) {
		b.Path(evidence.Path{Stroke: true, Width: 0.5, Subpaths: []evidence.Subpath{{Points: points}}})
	}
	word(40, 250, "Name of vessel")
	line(geom.Point{X: 120, Y: 249}, geom.Point{X: 340, Y: 249})
	word(40, 220, "Home port")
	line(geom.Point{X: 120, Y: 219}, geom.Point{X: 340, Y: 219})
	for i, s := range []string{"Shore power", "Water"} {
		y := 150 - 30*float64(i)
		b.Path(evidence.Path{Stroke: true, Width: 0.7, Subpaths: []evidence.Subpath{{
			Points: []geom.Point{{X: 40, Y: y}, {X: 50, Y: y}, {X: 50, Y: y + 10}, {X: 40, Y: y + 10}}, Closed: true,
		}}})
		word(60, y, s)
	}
	return b.Page()
}

func desk(fields ...form.Field) command.Desk {
	t := &form.Template{Pages: []form.Page{{ID: "p1", Width: 400, Height: 300}, {ID: "p2", Width: 400, Height: 300}}}
	for i := range fields {
		f := fields[i]
		if f.Page == 0 {
			f.Page = 1
		}
		f.Order = float64(i + 1)
		t.Fields = append(t.Fields, f)
	}
	return command.Desk{Draft: t, Pages: map[int]*evidence.Page{1: sheet()}, Now: time.Now()}
}

func text(id, name string, y float64) form.Field {
	return form.Field{ID: id, Kind: form.Text, Name: name, Tooltip: name, Rect: geom.R(50, y, 150, y+16)}
}

// do carries commands out and gives the draft as it is then.
func do(t *testing.T, d command.Desk, commands ...command.Command) *form.Template {
	t.Helper()
	e, err := d.Do(commands...)
	require.NoError(t, err)
	after := *d.Draft
	require.NoError(t, after.Apply(e))
	return &after
}

func named(t *testing.T, tpl *form.Template, name string) form.Field {
	t.Helper()
	for _, f := range tpl.Fields {
		if f.Name == name {
			return f
		}
	}
	require.Fail(t, "no field "+name)
	return form.Field{}
}

func TestAFieldIsPlacedWhereSomethingIsToBeWritten(t *testing.T) {
	tpl := do(t, desk(), command.Place{Page: 1, Kind: "text", At: &command.Point{200, 255}})
	f := named(t, tpl, "name_vessel")
	assert.Equal(t, "Name of vessel", f.Tooltip)
	assert.InDelta(t, 220, f.Rect.W(), 3, "as long as the line")
	tpl = do(t, desk(), command.Place{Page: 1, Kind: "checkbox", Rect: &command.Rect{30, 100, 58, 170}})
	assert.Len(t, tpl.Fields, 2, "a frame over two boxes fills both")
	tpl = do(t, desk(), command.Place{Page: 2, Kind: "picture", At: &command.Point{20, 200}})
	f = named(t, tpl, "picture")
	assert.Equal(t, form.TakePicture, f.Action.Do)
	assert.Equal(t, []float64{90, 110}, []float64{f.Rect.W(), f.Rect.H()})
	tpl = do(t, desk(), command.Place{Page: 1, Kind: "trio", At: &command.Point{0, 40}})
	assert.Len(t, tpl.Fields, 3)
	for _, kind := range []string{"hologram", ""} {
		_, err := desk().Do(command.Place{Page: 1, Kind: kind, At: &command.Point{}})
		assert.ErrorContains(t, err, "not in the kit")
	}
	_, err := desk().Do(command.Place{Page: 3, Kind: "text", At: &command.Point{}})
	assert.ErrorContains(t, err, "pages 1 to 2")
	_, err = desk().Do(command.Place{Page: 1, Kind: "text"})
	assert.ErrorContains(t, err, "say where")
}

func TestFieldsAreFoundWhereThereAreNone(t *testing.T) {
	d := desk()
	assert.Equal(t, []int{1, 2}, command.Reads(d.Draft, command.Find{}))
	tpl := do(t, d, command.Find{Page: 1})
	require.GreaterOrEqual(t, len(tpl.Fields), 4)
	d.Draft = tpl
	_, err := d.Do(command.Find{Page: 1})
	assert.ErrorIs(t, err, form.ErrNothing, "what is there is left alone")
	tpl = do(t, desk(), command.Find{Page: 1, Rect: &command.Rect{100, 240, 350, 270}})
	assert.Len(t, tpl.Fields, 1)
}

func TestSeveralCommandsAreAllOrNothing(t *testing.T) {
	d := desk(text("a", "vessel", 200), text("b", "port", 170))
	tpl := do(t, d,
		command.Set{Fields: []string{"vessel"}, Key: "required", Value: "yes"},
		command.Duplicate{Fields: []string{"vessel"}, DY: -100},
		command.Set{Fields: []string{"vessel_2"}, Key: "tooltip", Value: "Again"})
	assert.Len(t, tpl.Fields, 3)
	assert.Equal(t, "Again", named(t, tpl, "vessel_2").Tooltip)
	_, err := d.Do(command.Remove{Fields: []string{"port"}}, command.Set{Fields: []string{"port"}, Key: "required", Value: "yes"})
	assert.ErrorContains(t, err, `command 2 (set): there is no field called "port"`)
	assert.ErrorIs(t, err, form.ErrClash)
	assert.Len(t, d.Draft.Fields, 2, "the draft is as it was")
	_, err = d.Do(command.Move{Fields: []string{"a"}}, command.Set{Fields: []string{"a"}, Key: "name", Value: "vessel"})
	assert.ErrorIs(t, err, form.ErrNothing)
	e, err := d.Do(command.TurnPages{Pages: []string{"2"}, Quarters: 1}, command.Describe{Title: new("Berths")},
		command.Move{Fields: []string{"a"}, DX: 5})
	require.NoError(t, err)
	require.NotNil(t, e.Pages)
	require.NotNil(t, e.Details)
	assert.Equal(t, "turned page 2 right, changed the document details, and 1 more", e.Title)
}

func TestPropertiesAreSetByTheirKeys(t *testing.T) {
	d := desk(text("a", "vessel", 200), text("b", "fee", 170),
		form.Field{ID: "c", Kind: form.CheckBox, Name: "power", Rect: geom.R(50, 100, 60, 110)})
	tpl := do(t, d, command.Set{Fields: []string{"vessel", "power"}, Key: "comb", Value: "8"})
	assert.Equal(t, 8, named(t, tpl, "vessel").MaxLen, "of several fields, those that have it")
	tpl = do(t, d, command.Set{Fields: []string{"fee"}, Key: "formula", Value: "2 * 3"})
	assert.True(t, named(t, tpl, "fee").ReadOnly)
	tpl = do(t, d, command.Set{Fields: []string{"fee"}, Key: "showif", Value: `vessel <> ""`},
		command.Set{Fields: []string{"vessel"}, Key: "name", Value: "ship"})
	assert.Equal(t, `ship <> ""`, named(t, tpl, "fee").ShowIf, "formulas follow a name")
	tpl = do(t, d, command.Set{Fields: []string{"power"}, Key: "checked", Value: "yes"},
		command.Set{Fields: []string{"power"}, Key: "export", Value: "on"})
	assert.True(t, named(t, tpl, "power").On())
	for want, c := range map[string]command.Set{
		"it is a checkbox":           {Fields: []string{"power"}, Key: "hint", Value: "x"},
		"use the command order":      {Fields: []string{"fee"}, Key: "order", Value: "1"},
		"cannot be set":              {Fields: []string{"fee"}, Key: "smell", Value: "1"},
		"neither yes nor no":         {Fields: []string{"fee"}, Key: "required", Value: "perhaps"},
		"choose a field first":       {Key: "required", Value: "yes"},
		"give one field a name":      {Fields: []string{"fee", "vessel"}, Key: "name", Value: "x"},
		"no field called \"nobody\"": {Fields: []string{"fee"}, Key: "formula", Value: "nobody + 1"},
		"is already called":          {Fields: []string{"fee"}, Key: "name", Value: "vessel"},
	} {
		_, err := d.Do(c)
		if want == "no field called \"nobody\"" {
			assert.Error(t, err)
			continue
		}
		assert.ErrorContains(t, err, want)
	}
	_, err := desk(text("a", "a", 10)).Do(command.Set{Fields: []string{"a"}, Key: "formula", Value: "a + 1"})
	assert.Error(t, err, "a formula that needs itself")
}

func TestChecksAndStepsAreAddedChangedAndDropped(t *testing.T) {
	d := desk(text("a", "crew", 200), text("b", "port", 170))
	tpl := do(t, d,
		command.CheckAdd{Fields: []string{"crew"}, Test: form.Between},
		command.CheckSet{Fields: []string{"crew"}, N: 1, Part: "b", Value: "12"},
		command.CheckSet{Fields: []string{"crew"}, N: 1, Part: "message", Value: "At most twelve."})
	assert.Equal(t, []form.Check{{Test: form.Between, A: "1", B: "12", Message: "At most twelve."}}, named(t, tpl, "crew").Checks)
	tpl = do(t, d,
		command.StepAdd{Fields: []string{"crew"}, Do: form.ShowFields},
		command.StepAdd{Fields: []string{"crew"}, Do: form.SetValue},
		command.StepSet{Fields: []string{"crew"}, N: 2, Part: "value", Value: "Gannet"},
		command.StepUp{Fields: []string{"crew"}, N: 2})
	steps := named(t, tpl, "crew").Steps
	require.Len(t, steps, 2)
	assert.Equal(t, form.Step{When: form.FieldLeft, Do: form.SetValue, Fields: "port", Value: "Gannet"}, steps[0])
	tpl = do(t, d, command.StepAdd{Do: form.PrintForm}, command.StepSet{N: 1, Part: "when", Value: "page-opened"})
	assert.Equal(t, []form.Step{{When: form.PageOpened, OnPage: 1, Do: form.PrintForm}}, tpl.Details.Events, "of the document")
	for want, c := range map[string]command.Command{
		"changed the same":   command.CheckDrop{Fields: []string{"crew"}, N: 1},
		"a, b or message":    command.CheckSet{Fields: []string{"crew"}, N: 1, Part: "test"},
		"no \"colour\" that": command.StepSet{Fields: []string{"crew"}, N: 1, Part: "colour"},
	} {
		_, err := d.Do(c)
		assert.ErrorContains(t, err, want)
	}
	_, err := d.Do(command.StepAdd{Fields: []string{"crew"}, Do: form.GoToPage},
		command.StepSet{Fields: []string{"crew"}, N: 1, Part: "page", Value: "9"})
	assert.ErrorContains(t, err, "no page 9")
	_, err = d.Do(command.StepAdd{Fields: []string{"crew"}, Do: form.HideFields},
		command.StepSet{Fields: []string{"crew"}, N: 1, Part: "fields", Value: "nobody"})
	assert.ErrorContains(t, err, "nobody")
}

func TestAButtonThatIsTurnedOnTurnsTheOthersOff(t *testing.T) {
	radio := func(id, export string, x float64) form.Field {
		return form.Field{ID: id, Kind: form.Radio, Name: "keel", Export: export, Rect: geom.R(x, 100, x+10, 110)}
	}
	d := desk(radio("a", "fin", 50), radio("b", "long", 80))
	d.Draft = do(t, d, command.Set{Fields: []string{"a"}, Key: "checked", Value: "yes"})
	tpl := do(t, d, command.Set{Fields: []string{"b"}, Key: "checked", Value: "yes"})
	a, _ := tpl.Field("a")
	b, _ := tpl.Field("b")
	assert.False(t, a.On())
	assert.True(t, b.On())
	tpl = do(t, d, command.Set{Fields: []string{"b"}, Key: "name", Value: "hull"})
	for _, f := range tpl.Fields {
		assert.Equal(t, "hull", f.Name, "a group has one name")
	}
	tpl = do(t, d, command.Ungroup{Fields: []string{"b"}})
	b, _ = tpl.Field("b")
	assert.Equal(t, "keel_2", b.Name)
}

func TestPlacesAreSetAsThePageIsShown(t *testing.T) {
	d := desk(text("a", "vessel", 200))
	tpl := do(t, d, command.Put{Fields: []string{"a"}, Left: new(10.0), Top: new(20.0), Width: new(50.0)})
	assert.Equal(t, geom.R(10, 264, 60, 280), named(t, tpl, "vessel").Rect)
	_, err := d.Do(command.Put{Fields: []string{"a"}, Height: new(1.0)})
	assert.ErrorContains(t, err, "at least 4 points")
}

// Every command has a JSON name, is written and read again, and refuses what it does not know.
func TestCommandsAreData(t *testing.T) {
	list := command.List{
		command.Place{Page: 1, Kind: "text", At: &command.Point{1, 2}},
		command.Set{Fields: []string{"a"}, Key: "required", Value: "yes"},
		command.Straighten{Angles: map[string]float64{"1": 0.5}},
		command.Mend{Snag: "no-tooltip:a:1"},
	}
	b, err := json.Marshal(list)
	require.NoError(t, err)
	var again command.List
	require.NoError(t, json.Unmarshal(b, &again))
	assert.Equal(t, list, again)
	for _, n := range command.Names() {
		c, err := command.Read([]byte(`{"do": "` + n + `"}`))
		require.NoError(t, err, n)
		assert.Equal(t, n, command.Name(c))
		_, err = command.Read([]byte(`{"do": "` + n + `", "colour": 1}`))
		assert.ErrorContains(t, err, "colour", n)
	}
	for in, want := range map[string]string{`{}`: "JSON list", `[{"do": "fly"}]`: `no command "fly"`, `[3]`: "command 1"} {
		assert.ErrorContains(t, json.Unmarshal([]byte(in), &again), want)
	}
	var c command.Set
	require.NoError(t, json.Unmarshal([]byte(`{"value": 2.5}`), &c))
	assert.Equal(t, command.Words("2.5"), c.Value)
	require.NoError(t, json.Unmarshal([]byte(`{"value": [{"test": "luhn"}]}`), &c))
	assert.Equal(t, command.Words(`[{"test": "luhn"}]`), c.Value)
}
