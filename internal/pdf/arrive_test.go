package pdf_test

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/pdf/engine"
	"zealousmargin.example/internal/pdf/object"
	"zealousmargin.example/internal/pdf/proof"
	"zealousmargin.example/internal/pdf/read"
	"zealousmargin.example/internal/pdf/write"
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
	d, err := engine.Open(b)
	require.NoError(t, err)
	defer d.Close()
	a, err := read.Arrive(b)
	require.NoError(t, err)
	tpl := &form.Template{Pages: d.Pages(), Details: a.Details}
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
	require.NoError(t, proof.ProveRelease(base, out, as))
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
