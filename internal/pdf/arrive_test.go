package pdf_test

import (
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/pdf/engine"
	"zealousmargin.example/internal/pdf/object"
	"zealousmargin.example/internal/pdf/proof"
	"zealousmargin.example/internal/pdf/read"
	"zealousmargin.example/internal/pdf/write"
	"zealousmargin.example/internal/snags"
)

// realForms are public-domain forms with fields that nobody here made.
func realForms(t *testing.T) map[string][]byte {
	t.Helper()
	files, err := filepath.Glob("../../node_modules/pdf2json/test/data/f1040*.pdf")
	require.NoError(t, err)
	require.NotEmpty(t, files, "the real forms are missing: run make test")
	out := map[string][]byte{}
	for _, f := range files {
		b, err := os.ReadFile(f)
		require.NoError(t, err)
		out[filepath.Base(f)] = b
	}
	return out
}

// draftOf makes the draft that bringing a file in makes.
func draftOf(t *testing.T, b []byte) *form.Template {
	t.Helper()
	pages, err := engine.Pages(t.Context(), b)
	require.NoError(t, err)
	a, err := read.Arrive(b)
	require.NoError(t, err)
	tpl := &form.Template{Pages: pages, Details: a.Details}
	for i := range tpl.Pages {
		tpl.Pages[i].ID, tpl.Pages[i].File, tpl.Pages[i].N = form.NewID(), "src", i+1
	}
	require.NoError(t, tpl.Apply(form.Edit{After: a.Fields}))
	return tpl
}

// releaseOf writes a draft and has it proved.
func releaseOf(t *testing.T, b []byte, tpl *form.Template) []byte {
	t.Helper()
	base, as, err := write.Base(tpl, write.Sources{File: func(string) ([]byte, error) { return b, nil }})
	require.NoError(t, err)
	out, err := write.Release(base, as)
	require.NoError(t, err)
	require.NoError(t, proof.ProveRelease(t.Context(), base, out, as))
	return out
}

func TestFieldsOfAFileArriveAndStayAsTheyAre(t *testing.T) {
	for name, b := range realForms(t) {
		was, err := read.Widgets(b)
		require.NoError(t, err)
		tpl := draftOf(t, b)
		assert.Len(t, tpl.Fields, len(was), name)
		out := releaseOf(t, b, tpl)
		assert.Equal(t, b, out[:len(b)], "%s: the original bytes stay", name)
		sound(t, out)
		now, err := read.Widgets(out)
		require.NoError(t, err)
		require.Len(t, now, len(was), name)
		for i := range was {
			assert.Equal(t, said(was[i]), said(now[i]), name)
			assert.True(t, now[i].HasLooks || now[i].Kind != form.Text, "what had no appearance has one now")
		}
	}
}

// said is what a widget says, without where it stands in the file.
func said(w read.Widget) read.Widget {
	return read.Widget{
		Page: w.Page, Rect: w.Rect, Kind: w.Kind, Name: w.Name, Tooltip: w.Tooltip, Flags: w.Flags, Annot: w.Annot,
		Value: w.Value, MaxLen: w.MaxLen, Options: w.Options, Export: w.Export, Checked: w.Checked, Scripts: w.Scripts,
		Presses: w.Presses,
	}
}

func TestFieldsThatCameWithAFileCanBeMended(t *testing.T) {
	b := realForms(t)["f1040ez.pdf"]
	tpl := draftOf(t, b)
	var text, tick, drop form.Field
	for _, f := range tpl.Fields {
		switch {
		case f.Kind == form.Text && text.ID == "" && !f.Origin.Shared:
			text = f
		case f.Kind == form.Text && drop.ID == "" && text.ID != "":
			drop = f
		case f.Kind == form.CheckBox && tick.ID == "" && !f.Origin.Shared:
			tick = f
		}
	}
	do := func(e form.Edit, err error) {
		t.Helper()
		require.NoError(t, err)
		require.NoError(t, tpl.Apply(e))
	}
	do(tpl.Rename(text.ID, "first_name"))
	do(tpl.Set("", []string{text.ID}, func(f *form.Field) error {
		f.Tooltip, f.Required, f.MaxLen = "Your first name", true, 30
		f.Format = form.Format{Kind: form.Date, Pattern: "dd.mm.yyyy"}
		return nil
	}))
	do(tpl.Move([]string{tick.ID}, 3, -2))
	do(tpl.Remove([]string{drop.ID}))
	do(tpl.Place(form.Field{Page: 1, Kind: form.Text, Name: "added", Rect: geom.R(40, 20, 140, 36)}))
	do(tpl.MoveInOrder(tick.ID, 0))
	out := releaseOf(t, b, tpl)
	sound(t, out)
	ws, err := read.Widgets(out)
	require.NoError(t, err)
	by := map[string]read.Widget{}
	for _, w := range ws {
		by[w.Name] = w
	}
	assert.Equal(t, "Your first name", by["first_name"].Tooltip)
	assert.NotZero(t, by["first_name"].Flags&object.FlagRequired)
	assert.Equal(t, 30, by["first_name"].MaxLen)
	assert.Contains(t, by["first_name"].Scripts["F"], "AFDate_FormatEx")
	assert.NotContains(t, by, drop.Name)
	assert.NotContains(t, by, text.Name)
	assert.Contains(t, by, "added")
	assert.Equal(t, tick.Name, ws[0].Name, "the tab order is the draft's")
	assert.Equal(t, tick.Rect.Shift(3, -2).Rounded(), ws[0].Rect)
	was, err := read.Widgets(b)
	require.NoError(t, err)
	assert.Len(t, ws, len(was), "one out, one in")
}

// Boxes whose value, state and drawings contradict each other arrive as they show, and say so.
func TestFirstValuesThatContradictEachOtherAreSaid(t *testing.T) {
	draft := &form.Template{Pages: []form.Page{{ID: "p", N: 1, Width: 400, Height: 600}}, Fields: []form.Field{
		{
			ID: "a", Page: 1, Order: 1, Kind: form.CheckBox, Name: "power", Tooltip: "Power", Export: "on", Default: "on",
			Rect: geom.R(20, 500, 30, 510),
		},
		{
			ID: "b", Page: 1, Order: 2, Kind: form.Radio, Name: "keel", Tooltip: "Keel", Export: "fin", Default: "fin",
			Rect: geom.R(20, 470, 30, 480),
		},
		{ID: "c", Page: 1, Order: 3, Kind: form.Radio, Name: "keel", Tooltip: "Keel", Export: "long", Rect: geom.R(50, 470, 60, 480)},
	}}
	out, err := write.Build(plain(""), draft)
	require.NoError(t, err)
	f, err := object.Parse(out)
	require.NoError(t, err)
	ws, err := read.WidgetsOf(f)
	require.NoError(t, err)
	for _, w := range ws { // the file is changed so that states and values differ
		switch w.Export {
		case "on":
			w.Dict.Update("V", object.NameOf("Off"))
		case "long":
			w.Dict.Update("AS", object.NameOf("long"))
		}
		f.Touch(w.Refs[0])
	}
	odd, err := f.Increment()
	require.NoError(t, err)
	came := draftOf(t, odd)
	require.Len(t, came.Fields, 3)
	assert.Contains(t, came.Fields[0].Origin.Odd, "its value is Off, but it shows on")
	assert.Contains(t, came.Fields[2].Origin.Odd, "its value is fin, but it shows long")
	assert.Len(t, form.Excess(came.Fields), 1)
	checks := map[string]int{}
	for _, s := range snags.Find(came, nil, time.Now()) {
		checks[s.Check]++
		if s.Check != "two-on" && s.Check != "start-disagrees" {
			continue
		}
		e, err := snags.Mend(came, nil, time.Now(), s.Key())
		require.NoError(t, err, s.Key())
		require.NoError(t, came.Apply(e))
	}
	assert.Equal(t, []int{1, 2}, []int{checks["two-on"], checks["start-disagrees"]})
	mended := releaseOf(t, odd, came) // which proves that value, state and reset agree
	again := draftOf(t, mended)
	for i, on := range []bool{true, true, false} {
		assert.Equal(t, on, again.Fields[i].On(), again.Fields[i].Export)
		assert.Empty(t, again.Fields[i].Origin.Odd)
	}
	// the start of a group that came with the file moves to the other button
	again.Fields[1].Default, again.Fields[2].Default = "", "long"
	third := draftOf(t, releaseOf(t, mended, again))
	assert.False(t, third.Fields[1].On())
	assert.True(t, third.Fields[2].On())
}
