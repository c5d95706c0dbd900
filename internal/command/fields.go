package command

import (
	"errors"
	"fmt"
	"slices"

	"zealousmargin.example/internal/form"
)

// Remove takes fields away.
type Remove struct {
	Fields []string `json:"fields"`
}

func (c Remove) plan(d *Desk) (form.Edit, error) {
	ids, err := d.ids(c.Fields)
	if err != nil {
		return form.Edit{}, err
	}
	return d.Draft.Remove(ids)
}

// Duplicate copies fields, DX, DY points away.
type Duplicate struct {
	Fields []string `json:"fields"`
	DX     float64  `json:"dx,omitempty"`
	DY     float64  `json:"dy,omitempty"`
}

func (c Duplicate) plan(d *Desk) (form.Edit, error) {
	ids, err := d.ids(c.Fields)
	if err != nil {
		return form.Edit{}, err
	}
	return d.Draft.Duplicate(ids, c.DX, c.DY)
}

// Repeat copies fields N times, each time DX, DY points further.
type Repeat struct {
	Fields []string `json:"fields"`
	N      int      `json:"n"`
	DX     float64  `json:"dx,omitempty"`
	DY     float64  `json:"dy,omitempty"`
}

func (c Repeat) plan(d *Desk) (form.Edit, error) {
	ids, err := d.ids(c.Fields)
	if err != nil {
		return form.Edit{}, err
	}
	return d.Draft.Repeat(ids, c.N, c.DX, c.DY)
}

// CopyTo copies fields to the same place of other pages: "2, 4-6", or "all".
type CopyTo struct {
	Fields []string `json:"fields"`
	Pages  string   `json:"pages"`
}

func (c CopyTo) plan(d *Desk) (form.Edit, error) {
	ids, err := d.ids(c.Fields)
	if err != nil {
		return form.Edit{}, err
	}
	pages, err := Numbers(c.Pages, len(d.Draft.Pages))
	if err != nil {
		return form.Edit{}, err
	}
	return d.Draft.CopyToPages(ids, pages)
}

// Paste places copied fields on a page.
type Paste struct {
	Page   int          `json:"page"`
	Copied []form.Field `json:"copied"`
}

func (c Paste) plan(d *Desk) (form.Edit, error) {
	if len(c.Copied) == 0 {
		return form.Edit{}, errors.New("there are no copied fields: choose some and press Ctrl C first")
	}
	return d.Draft.Paste(c.Copied, c.Page)
}

// Split cuts a field into N, along its longer side.
type Split struct {
	Field string `json:"field"`
	N     int    `json:"n"`
}

func (c Split) plan(d *Desk) (form.Edit, error) {
	f, err := d.one(c.Field)
	if err != nil {
		return form.Edit{}, err
	}
	return d.Draft.Split(f.ID, c.N)
}

// Join makes one field of several; a single one is joined with the next in tab order.
type Join struct {
	Fields []string `json:"fields"`
}

func (c Join) plan(d *Desk) (form.Edit, error) {
	ids, err := d.ids(c.Fields)
	if err != nil {
		return form.Edit{}, err
	}
	if len(ids) == 1 {
		f, _ := d.Draft.Field(ids[0])
		on := d.Draft.OnPage(f.Page)
		if i := slices.IndexFunc(on, func(o form.Field) bool { return o.ID == f.ID }); i+1 < len(on) {
			ids = append(ids, on[i+1].ID)
		}
	}
	return d.Draft.Join(ids)
}

// GroupRadio makes one radio group of fields; a single box takes those that stand in one line or
// column with it.
type GroupRadio struct {
	Fields []string `json:"fields"`
}

func (c GroupRadio) plan(d *Desk) (form.Edit, error) {
	ids, err := d.ids(c.Fields)
	if err != nil {
		return form.Edit{}, err
	}
	if len(ids) == 1 {
		ids = d.sameQuestion(ids[0])
	}
	return d.Draft.GroupRadio(ids)
}

// sameQuestion adds to a single box those that stand in one line or column with it.
func (d *Desk) sameQuestion(id string) []string {
	f, _ := d.Draft.Field(id)
	out := []string{f.ID}
	chain := []form.Field{f}
	for grown := true; grown; {
		grown = false
		for _, o := range d.Draft.OnPage(f.Page) {
			if o.Kind == f.Kind && !slices.Contains(out, o.ID) &&
				slices.ContainsFunc(chain, func(x form.Field) bool { return form.Row(x.Rect, o.Rect) }) {
				out, chain, grown = append(out, o.ID), append(chain, o), true
			}
		}
	}
	return out
}

// Ungroup takes radio buttons out of their group.
type Ungroup struct {
	Fields []string `json:"fields"`
}

func (c Ungroup) plan(d *Desk) (form.Edit, error) {
	ids, err := d.ids(c.Fields)
	if err != nil {
		return form.Edit{}, err
	}
	return d.Draft.Ungroup(ids)
}

// Link makes a field a further place of another: one answer for both.
type Link struct {
	Field string `json:"field"`
	To    string `json:"to"`
}

func (c Link) plan(d *Desk) (form.Edit, error) {
	f, err := d.one(c.Field)
	if err != nil {
		return form.Edit{}, err
	}
	to := slices.IndexFunc(d.Draft.Fields, func(g form.Field) bool { return g.Name == c.To || g.ID == c.To })
	if to < 0 {
		return form.Edit{}, fmt.Errorf("there is no field called %q", c.To)
	}
	return d.Draft.Link(f.ID, d.Draft.Fields[to].ID)
}

// Unlink gives a place of a field an answer of its own.
type Unlink struct {
	Field string `json:"field"`
}

func (c Unlink) plan(d *Desk) (form.Edit, error) {
	f, err := d.one(c.Field)
	if err != nil {
		return form.Edit{}, err
	}
	return d.Draft.Unlink(f.ID)
}

// Keep accepts finds.
type Keep struct {
	Fields []string `json:"fields"`
}

func (c Keep) plan(d *Desk) (form.Edit, error) {
	ids, err := d.ids(c.Fields)
	if err != nil {
		return form.Edit{}, err
	}
	return d.Draft.Keep(ids)
}

// Drop rejects finds that nobody has kept.
type Drop struct {
	Fields []string `json:"fields"`
}

func (c Drop) plan(d *Desk) (form.Edit, error) {
	ids, err := d.ids(c.Fields)
	if err != nil {
		return form.Edit{}, err
	}
	return d.Draft.Drop(ids)
}

// KeepAll accepts every find on a page; 0 is all pages.
type KeepAll struct {
	Page int `json:"page,omitempty"`
}

func (c KeepAll) plan(d *Desk) (form.Edit, error) { return d.Draft.KeepAll(c.Page) }

// PlainFinds takes back the formats that finding gave to the fields of a page; 0 is all pages.
type PlainFinds struct {
	Page int `json:"page,omitempty"`
}

func (c PlainFinds) plan(d *Desk) (form.Edit, error) { return d.Draft.TakeFormatsBack(c.Page) }

// DropBelow rejects open finds below a confidence, from 0 to 1, on a page; 0 is all pages.
type DropBelow struct {
	Page       int     `json:"page,omitempty"`
	Confidence float64 `json:"confidence"`
}

func (c DropBelow) plan(d *Desk) (form.Edit, error) {
	if !(c.Confidence >= 0 && c.Confidence <= 1) {
		return form.Edit{}, errors.New("choose a confidence below which finds are dropped, from 0 to 1")
	}
	return d.Draft.DropBelow(c.Page, c.Confidence)
}
