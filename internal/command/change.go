package command

import (
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/rules"
)

// Words is the value of a property as words. In JSON a flag may be true or false, and a number a
// number.
type Words string

// UnmarshalJSON reads words.
func (w *Words) UnmarshalJSON(b []byte) error {
	var v any
	if err := json.Unmarshal(b, &v); err != nil {
		return err
	}
	switch v := v.(type) {
	case string:
		*w = Words(v)
	case bool:
		*w = Words(form.YesNo(v))
	case float64:
		*w = Words(strconv.FormatFloat(v, 'f', -1, 64))
	case nil:
		*w = ""
	default: // data, as its property reads it
		*w = Words(b)
	}
	return nil
}

// Set sets one property of fields; Key is one of [form.FieldProperties], or ready for a list of
// options that is ready. What is said of one place of a field is said of all.
type Set struct {
	Fields []string `json:"fields"`
	Key    string   `json:"key"`
	Value  Words    `json:"value"`
}

// fixed are properties that other commands change.
var fixed = map[string]string{"id": "", "page": "copy-to", "order": "order", "linked": "link", "find": "find", "origin": "", "label": ""}

func (c Set) plan(d *Desk) (form.Edit, error) {
	ids, err := d.ids(c.Fields)
	if err != nil {
		return form.Edit{}, err
	}
	who, value := d.who(ids), strings.TrimSpace(string(c.Value))
	switch c.Key {
	case "name":
		return d.rename(ids, value)
	case "ready":
		options, err := ReadyList(value)
		if err != nil {
			return form.Edit{}, err
		}
		return d.Draft.Set("changed the list of "+who, ids, func(f *form.Field) error { f.Options = options; return nil })
	}
	p, ok := form.PropertyOf(form.FieldProperties, c.Key)
	if other, no := fixed[c.Key]; !ok || no {
		if other != "" {
			return form.Edit{}, fmt.Errorf("%q is not set: use the command %s", c.Key, other)
		}
		return form.Edit{}, fmt.Errorf("%q cannot be set", c.Key)
	}
	if p.Group == form.OfRules && value != "" {
		if err := rules.CheckFormula(value, rules.FormulaFields(d.Draft.Fields)); err != nil {
			return form.Edit{}, err
		}
	}
	e, err := d.Draft.Set(p.Titled(who, value), ids, func(f *form.Field) error {
		if !p.Has(f.Kind) {
			if len(ids) > 1 {
				return nil // of several fields, those that have it
			}
			if p.Refused != "" {
				return fmt.Errorf("%s cannot %s: it is a %s", f.Name, p.Refused, f.Kind)
			}
			return fmt.Errorf("%s has nothing called %s: it is a %s", f.Name, c.Key, f.Kind)
		}
		calculated := f.Formula != ""
		if err := p.Set(f, value); err != nil {
			return err
		}
		if c.Key == "formula" { // what is calculated is not typed over
			f.ReadOnly = f.Formula != "" || !calculated && f.ReadOnly
		}
		return nil
	})
	if err == nil && c.Key == "formula" {
		err = d.circle(e)
	}
	return e, err
}

// rename gives one field another name, and lets formulas that read it follow.
func (d *Desk) rename(ids []string, name string) (form.Edit, error) {
	f, _ := d.Draft.Field(ids[0])
	for _, id := range ids[1:] {
		if g, _ := d.Draft.Field(id); g.Name != f.Name {
			return form.Edit{}, errors.New("give one field a name at a time")
		}
	}
	e, err := d.Draft.Rename(f.ID, name)
	if err != nil || len(e.Before) == 0 {
		return e, err
	}
	for _, g := range d.Draft.Fields {
		h, changed := rules.Renamed(g, f.Name, name)
		if !changed {
			continue
		}
		if i := slices.IndexFunc(e.After, func(x form.Field) bool { return x.ID == g.ID }); i >= 0 {
			e.After[i], _ = rules.Renamed(e.After[i], f.Name, name)
			continue
		}
		e.Before, e.After = append(e.Before, g), append(e.After, h)
	}
	return e, nil
}

// circle refuses an edit after which formulas need each other.
func (d *Desk) circle(e form.Edit) error {
	after := *d.Draft
	after.Fields = slices.Clone(after.Fields)
	for _, f := range e.After {
		for i := range after.Fields {
			if after.Fields[i].ID == f.ID {
				after.Fields[i] = f
			}
		}
	}
	var round *rules.CircleError
	if _, err := rules.CompileForm(after.Placed()); errors.As(err, &round) {
		return err
	}
	return nil
}

// Put sets one or several of the numbers that say where fields lie, in points of the page as it is
// shown, from its upper left.
type Put struct {
	Fields []string `json:"fields"`
	Left   *float64 `json:"left,omitempty"`
	Top    *float64 `json:"top,omitempty"`
	Width  *float64 `json:"width,omitempty"`
	Height *float64 `json:"height,omitempty"`
}

// Dress gives fields a style; Name is what the style is called.
type Dress struct {
	Fields []string   `json:"fields"`
	Name   string     `json:"name"`
	Style  form.Style `json:"style"`
}

func (c Dress) plan(d *Desk) (form.Edit, error) {
	ids, err := d.ids(c.Fields)
	if err != nil {
		return form.Edit{}, err
	}
	return d.Draft.Dress(c.Name, ids, c.Style)
}

// Describe changes what readers show about the document, and what a release leaves behind; what is
// not named stays.
type Describe struct {
	Title    *string `json:"title,omitempty"`
	Author   *string `json:"author,omitempty"`
	Subject  *string `json:"subject,omitempty"`
	Language *string `json:"language,omitempty"`
	Leave    *string `json:"leave,omitempty"`
	Roles    *string `json:"roles,omitempty"` // who fill it in, in order, with commas between
}

func (c Describe) plan(d *Desk) (form.Edit, error) {
	x := d.Draft.Details
	for key, v := range map[string]*string{
		"title": c.Title, "author": c.Author, "subject": c.Subject, "language": c.Language,
		"leave": c.Leave, "roles": c.Roles,
	} {
		if v == nil {
			continue
		}
		p, _ := form.PropertyOf(form.DetailProperties, key)
		if err := p.Set(&x, strings.TrimSpace(*v)); err != nil {
			return form.Edit{}, err
		}
	}
	return d.Draft.Describe(x)
}
