package snags

import (
	"fmt"
	"slices"
	"strings"

	"zealousmargin.example/internal/arrange"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
)

// The kinds of reader that leave something of a form undone, in words for those who make it: docs/readers.md has what was tried.
const (
	inPages = "readers that are part of a web page"
	light   = "light readers, without a whole engine for scripts,"
)

// ignored are the things that some kind of reader does not do, with the way round.
var ignored = []struct {
	check string
	has   func(d *desk, f *form.Field) bool
	why   string // after the names of the fields
}{
	{
		"reader-unison", func(_ *desk, f *form.Field) bool { return f.Kind == form.Radio && f.Unison },
		"go together where they send the same; " + inPages + " turn each on by itself, and send the same all the same",
	},
	{
		"picture-script", func(_ *desk, f *form.Field) bool { return f.Action.Do == form.TakePicture },
		"take a picture by a script that " + inPages + " and those of telephones do not run: let people send the picture " +
			"beside the form, too",
	},
	{
		"reader-free", func(d *desk, f *form.Field) bool { return f.ReadOnly && d.freed(f.Name) },
		"are read-only until a step frees them; " + light + " never free them: let them start free, and be locked when the document opens",
	},
	{
		"reader-entry", func(_ *desk, f *form.Field) bool { return f.Kind == form.Choice && f.List == form.ComboBox },
		"take an entry of one's own; " + inPages + " offer the list only: add an option such as other, and a text field beside it",
	},
	{
		"reader-required", func(_ *desk, f *form.Field) bool { return f.RequireIf != "" },
		"must be filled in on a condition; some readers, the one of a widespread browser among them, do not hold people to it: " +
			"what comes back is held to it here",
	},
}

// readers tells which readers leave something undone: one hint for each thing, on the first field that has it.
func (d *desk) readers() {
	for _, what := range ignored {
		var names []string
		var first *form.Field
		for i := range d.fields {
			f := &d.fields[i]
			if !what.has(d, f) || slices.Contains(names, f.Name) {
				continue
			}
			if first == nil {
				first = f
			}
			names = append(names, f.Name)
		}
		if first != nil {
			s := d.say(what.check, Hint, first, "%s %s", listed(names), what.why)
			if what.check == "reader-free" {
				s.Mend = "lock them when the document opens"
				s.mend = func(t *form.Template) (form.Edit, error) { return lockedByStep(t, names) }
			}
		}
	}
}

// lockedByStep lets fields start free and be locked when the document opens: where scripts run they are as they were, and elsewhere the
// form can be filled in.
func lockedByStep(t *form.Template, names []string) (form.Edit, error) {
	var ids []string
	for _, f := range t.Fields {
		if slices.Contains(names, f.Name) {
			ids = append(ids, f.ID)
		}
	}
	e, err := t.Set("let "+listed(names)+" start free", ids, func(f *form.Field) error { f.ReadOnly = false; return nil })
	if err != nil {
		return e, err
	}
	x := t.Details
	x.Events = append(slices.Clone(x.Events), form.Step{When: form.DocumentOpened, Do: form.LockFields, Fields: strings.Join(names, ", ")})
	with, err := t.Describe(x)
	e.Details = with.Details
	return e, err
}

// listed names up to three fields, and how many more there are.
func listed(names []string) string {
	const most = 3
	if n := len(names) - most; n > 0 {
		return strings.Join(names[:most], ", ") + fmt.Sprintf(" and %d more", n)
	}
	return strings.Join(names, ", ")
}

// freed tells whether some step frees a field.
func (d *desk) freed(name string) bool {
	return slices.ContainsFunc(d.fields, func(f form.Field) bool {
		return slices.ContainsFunc(f.Sequence(), func(s form.Step) bool {
			return s.Do == form.FreeFields && slices.Contains(s.Named(), name)
		})
	})
}

// byHand looks at a tab order that is neither the one in which the page is read nor row by row, as readers have it that go by the places
// of the fields.
func (d *desk) byHand(n int, on []form.Field, read []string) {
	var order []string
	for _, f := range on {
		order = append(order, f.ID)
	}
	p := d.t.Pages[n-1]
	if !slices.Equal(order, read) && !slices.Equal(order, arrange.Rows(on, geom.ToView(p.Width, p.Height, p.Rotate))) {
		d.say("reader-order", Hint, nil, "the tab order of page %d was made by hand; %s go row by row whatever the order is: if it "+
			"matters there, place the fields so", n, inPages).Page = n
	}
}
