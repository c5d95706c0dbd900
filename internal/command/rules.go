package command

import (
	"fmt"
	"slices"
	"strings"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/rules"
	"zealousmargin.example/internal/snags"
)

// CheckAdd adds a check to fields: one of [form.Tests]. A and B are what it holds answers to; empty
// is something to begin with.
type CheckAdd struct {
	Fields  []string  `json:"fields"`
	Test    form.Test `json:"test"`
	A       string    `json:"a,omitempty"`
	B       string    `json:"b,omitempty"`
	Message string    `json:"message,omitempty"`
}

func (c CheckAdd) plan(d *Desk) (form.Edit, error) {
	if !slices.Contains(form.Tests, c.Test) {
		return form.Edit{}, form.ErrNothing
	}
	return d.checks(c.Fields, func(f *form.Field) error {
		x := form.Check{Test: c.Test, A: c.A, B: c.B, Message: c.Message}
		if c.A+c.B == "" {
			x = newCheck(c.Test, *f)
			x.Message = c.Message
		} else if err := rules.CheckProblem(f, x, rules.FormulaFields(d.Draft.Fields)); err != nil {
			return err
		}
		f.Checks = append(f.Checks, x)
		return nil
	})
}

// checks changes what answers of fields must hold.
func (d *Desk) checks(refs []string, alter func(*form.Field) error) (form.Edit, error) {
	ids, err := d.ids(refs)
	if err != nil {
		return form.Edit{}, err
	}
	p, _ := form.PropertyOf(form.FieldProperties, "checks")
	return d.Draft.Set(p.Titled(d.who(ids), ""), ids, alter)
}

// newCheck is a check to begin with, one that can be done.
func newCheck(test form.Test, f form.Field) form.Check {
	c := form.Check{Test: test}
	switch test {
	case form.Between, form.Length:
		c.A = "1"
		if f.Format.Kind == form.Date {
			c.A = "today"
		}
	case form.OneOf:
		c.A = "yes, no"
	case form.MatchesMask:
		c.A = form.Masks[3].Value
	case form.NotBefore, form.NotAfter:
		c.A = "today"
	case form.Holds:
		c.A = rules.QuoteName(f.Name) + ` <> ""`
	}
	return c
}

// CheckSet changes a part of a check: a, b or message. N counts a field's checks from 1.
type CheckSet struct {
	Fields []string `json:"fields"`
	N      int      `json:"n"`
	Part   string   `json:"part"`
	Value  string   `json:"value"`
}

func (c CheckSet) plan(d *Desk) (form.Edit, error) {
	p, ok := form.PropertyOf(form.CheckProperties, c.Part)
	if !ok || c.Part == "test" {
		return form.Edit{}, fmt.Errorf("a check has no %q that can be set: use a, b or message", c.Part)
	}
	names := rules.FormulaFields(d.Draft.Fields)
	return d.checks(c.Fields, func(f *form.Field) error {
		if c.N < 1 || c.N > len(f.Checks) {
			return form.ErrClash
		}
		x := &f.Checks[c.N-1]
		if err := p.Set(x, strings.TrimSpace(c.Value)); err != nil || c.Part == "message" {
			return err
		}
		return rules.CheckProblem(f, *x, names)
	})
}

// CheckDrop takes a check away. N counts from 1.
type CheckDrop struct {
	Fields []string `json:"fields"`
	N      int      `json:"n"`
}

func (c CheckDrop) plan(d *Desk) (form.Edit, error) {
	return d.checks(c.Fields, func(f *form.Field) error {
		if c.N < 1 || c.N > len(f.Checks) {
			return form.ErrClash
		}
		f.Checks = slices.Delete(f.Checks, c.N-1, c.N)
		return nil
	})
}

// Mend mends a snag, by its key.
type Mend struct {
	Snag string `json:"snag"`
}

// Reads is the pages that a form is looked through on.
func (c Mend) Reads(t *form.Template) []int { return snags.Pages(t) }

func (c Mend) plan(d *Desk) (form.Edit, error) { return snags.Mend(d.Draft, d.Pages, d.Now, c.Snag) }
