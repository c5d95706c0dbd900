package command

import (
	"fmt"
	"slices"
	"strings"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/rules"
)

// Steps of fields are named by the fields; those of the document by no field at all. N counts from
// 1 what a note shows: the steps after the plain action of a button.

// StepAdd adds a thing that fields, or the document, do when something happens: one of
// [form.StepDeeds], with something to begin with.
type StepAdd struct {
	Fields []string  `json:"fields,omitempty"`
	Do     form.Deed `json:"deed"`
}

func (c StepAdd) plan(d *Desk) (form.Edit, error) {
	if !slices.Contains(form.StepDeeds, c.Do) {
		return form.Edit{}, form.ErrNothing
	}
	return d.steps(c.Fields, func(f form.Field, all []form.Step, _ int) ([]form.Step, error) {
		return append(all, newStep(c.Do, f, d.Draft)), nil
	})
}

// StepSet changes a part of a step: one of [form.StepProperties]. Number 0 is the plain action of a
// button, which becomes a step where it says more than a plain one can.
type StepSet struct {
	Fields []string `json:"fields,omitempty"`
	N      int      `json:"n"`
	Part   string   `json:"part"`
	Value  Words    `json:"value"`
}

func (c StepSet) plan(d *Desk) (form.Edit, error) {
	p, ok := form.PropertyOf(form.StepProperties, c.Part)
	if !ok {
		return form.Edit{}, fmt.Errorf("a step has no %q that can be set", c.Part)
	}
	value := strings.TrimSpace(string(c.Value))
	return d.steps(c.Fields, func(f form.Field, all []form.Step, first int) ([]form.Step, error) {
		at := c.N - 1 + first
		if at < 0 || at >= len(all) {
			return nil, form.ErrClash
		}
		s := &all[at]
		if err := p.Set(s, value); err != nil {
			return nil, err
		}
		switch c.Part {
		case "when":
			if s.OnPage = 0; s.When == form.PageOpened || s.When == form.PageClosed {
				s.OnPage = 1
			}
		case "do":
			when, on := s.When, s.OnPage
			*s = newStep(s.Do, f, d.Draft)
			s.When, s.OnPage = when, on
		case "fields":
			return all, lost(d.Draft, *s)
		case "page":
			_, err := d.page(s.Page)
			return all, err
		case "onpage":
			_, err := d.page(s.OnPage)
			return all, err
		case "script":
			return all, rules.CheckScript(s.Script)
		}
		return all, nil
	})
}

// StepUp lets a step be done before the one that stands above it.
type StepUp struct {
	Fields []string `json:"fields,omitempty"`
	N      int      `json:"n"`
}

func (c StepUp) plan(d *Desk) (form.Edit, error) {
	return d.steps(c.Fields, func(_ form.Field, all []form.Step, first int) ([]form.Step, error) {
		at := c.N - 1 + first
		if c.N < 1 || at >= len(all) {
			return nil, form.ErrClash
		}
		if at > 0 {
			all[at-1], all[at] = all[at], all[at-1]
		}
		return all, nil
	})
}

// StepDrop takes a step away.
type StepDrop struct {
	Fields []string `json:"fields,omitempty"`
	N      int      `json:"n"`
}

func (c StepDrop) plan(d *Desk) (form.Edit, error) {
	return d.steps(c.Fields, func(_ form.Field, all []form.Step, first int) ([]form.Step, error) {
		at := c.N - 1 + first
		if c.N < 1 || at >= len(all) {
			return nil, form.ErrClash
		}
		return slices.Delete(all, at, at+1), nil
	})
}

// steps changes what fields do, or the document. The function gets all that one does, of which the
// first ones are its plain action.
func (d *Desk) steps(refs []string, alter func(f form.Field, all []form.Step, first int) ([]form.Step, error)) (form.Edit, error) {
	if len(refs) == 0 {
		return d.events(alter)
	}
	ids, err := d.ids(refs)
	if err != nil {
		return form.Edit{}, err
	}
	p, _ := form.PropertyOf(form.FieldProperties, "steps")
	return d.Draft.Set(p.Titled(d.who(ids), ""), ids, func(f *form.Field) error {
		all := f.Sequence()
		all, err := alter(*f, all, len(all)-len(f.Steps))
		if err == nil {
			f.SetSequence(all)
		}
		return err
	})
}

func (d *Desk) events(alter func(f form.Field, all []form.Step, first int) ([]form.Step, error)) (form.Edit, error) {
	x := d.Draft.Details
	all, err := alter(form.Field{Kind: form.Button, Name: "the document"}, slices.Clone(x.Events), 0)
	if err != nil {
		return form.Edit{}, err
	}
	for i := range all {
		if all[i].When == form.WhenPressed {
			all[i].When = form.DocumentOpened
		}
	}
	x.Events = all
	e, err := d.Draft.Describe(x)
	e.Title = "changed what the document does"
	return e, err
}

// newStep is a step to begin with, one that can be done.
func newStep(do form.Deed, f form.Field, t *form.Template) form.Step {
	s := form.Step{Do: do}
	if f.Kind != form.Button {
		s.When = form.FieldLeft
	}
	switch do {
	case form.SubmitForm, form.OpenLink:
		s.URL = "https://"
	case form.GoToPage:
		s.Page = 1
	case form.OpenPDF:
		s.URL = "other.pdf"
	case form.BringIn:
		s.URL = "answers.fdf"
	case form.ShowFields, form.HideFields, form.LockFields, form.FreeFields, form.SetValue:
		for _, o := range t.Fields {
			if o.ID != f.ID && o.Placed() {
				s.Fields = o.Name
				break
			}
		}
		if s.Fields == "" {
			s.Fields = f.Name
		}
	case form.RunScript:
		s.Script = "// event.target is this field"
	}
	return s
}

// NameError is a name in an entry that no field has. At and End are where it stands, in bytes.
type NameError struct {
	Name    string
	At, End int
}

func (e *NameError) Error() string {
	return fmt.Sprintf("there is no field called %q: mend this name, the others stay as you wrote them", e.Name)
}

// Span tells where the name stands in what was entered, in bytes.
func (e *NameError) Span() (at, end int) { return e.At, e.End }

// lost refuses names of fields that are not there.
func lost(t *form.Template, s form.Step) error {
	from := 0
	for _, n := range s.Named() {
		at := from + strings.Index(s.Fields[from:], n)
		from = at + len(n)
		if !slices.ContainsFunc(t.Fields, func(o form.Field) bool { return o.Name == n }) {
			return &NameError{Name: n, At: at, End: from}
		}
	}
	return nil
}
