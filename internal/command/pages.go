package command

import (
	"errors"
	"fmt"
	"strconv"
	"strings"

	"zealousmargin.example/internal/form"
)

// leastCrop is the smallest side in points that a page is cropped to: half an inch.
const leastCrop = 36

// pages finds pages by id or by number.
func (d *Desk) pages(refs []string) ([]string, error) {
	if len(refs) == 0 {
		return nil, errors.New("choose a page first")
	}
	out := make([]string, 0, len(refs))
	for _, ref := range refs {
		if _, _, ok := d.Draft.PageByID(ref); ok {
			out = append(out, ref)
			continue
		}
		n, err := strconv.Atoi(ref)
		if err != nil || len(ref) == 16 {
			return nil, fmt.Errorf("a page that this changes is gone: %w", form.ErrClash)
		}
		p, err := d.page(n)
		if err != nil {
			return nil, err
		}
		out = append(out, p.ID)
	}
	return out, nil
}

// TurnPages turns pages clockwise by quarters of a full turn; negative is to the left.
type TurnPages struct {
	Pages    []string `json:"pages"`
	Quarters int      `json:"quarters"`
}

func (c TurnPages) plan(d *Desk) (form.Edit, error) {
	ids, err := d.pages(c.Pages)
	if err != nil {
		return form.Edit{}, err
	}
	return d.Draft.TurnPages(ids, c.Quarters)
}

// ShowPages says what the pictures on pages show, for those who cannot see them; [form.Decoration] is nothing that matters.
type ShowPages struct {
	Pages []string `json:"pages"`
	Shows string   `json:"shows"`
}

func (c ShowPages) plan(d *Desk) (form.Edit, error) {
	ids, err := d.pages(c.Pages)
	if err != nil {
		return form.Edit{}, err
	}
	shows := strings.Join(strings.Fields(c.Shows), " ")
	if err := form.CheckLine("what the pictures show", shows, 500); err != nil {
		return form.Edit{}, err
	}
	return d.Draft.ChangePages("said what pictures show", ids, func(p *form.Page) { p.Shows = shows })
}

// MovePages puts pages before the page that is number To now; one more than there are is the end.
type MovePages struct {
	Pages []string `json:"pages"`
	To    int      `json:"to"`
}

func (c MovePages) plan(d *Desk) (form.Edit, error) {
	ids, err := d.pages(c.Pages)
	if err != nil {
		return form.Edit{}, err
	}
	return d.Draft.MovePages(ids, c.To)
}

// RemovePages takes pages out, with their fields.
type RemovePages struct {
	Pages []string `json:"pages"`
}

func (c RemovePages) plan(d *Desk) (form.Edit, error) {
	ids, err := d.pages(c.Pages)
	if err != nil {
		return form.Edit{}, err
	}
	return d.Draft.RemovePages(ids)
}

// DuplicatePages puts a copy of each page after it.
type DuplicatePages struct {
	Pages []string `json:"pages"`
}

func (c DuplicatePages) plan(d *Desk) (form.Edit, error) {
	ids, err := d.pages(c.Pages)
	if err != nil {
		return form.Edit{}, err
	}
	return d.Draft.DuplicatePages(ids)
}

// InsertPages puts pages before the page that is number At now, with fields whose pages count from
// 1 among them. Title is what the edit is called.
type InsertPages struct {
	Title string      `json:"title"`
	At    int         `json:"at"`
	Pages []form.Page `json:"pages"`
	// Fields are those of the inserted pages.
	Fields []form.Field `json:"fields,omitempty"`
}

func (c InsertPages) plan(d *Desk) (form.Edit, error) {
	return d.Draft.InsertPages(c.Title, c.At, c.Pages, c.Fields)
}

// Straighten turns the content of pages by small angles in degrees, clockwise positive, by page.
type Straighten struct {
	Angles map[string]float64 `json:"angles"`
}

func (c Straighten) plan(d *Desk) (form.Edit, error) {
	angles := map[string]float64{}
	for ref, a := range c.Angles {
		ids, err := d.pages([]string{ref})
		if err != nil {
			return form.Edit{}, err
		}
		angles[ids[0]] = a
	}
	return d.Draft.StraightenPages(angles)
}

// Crop cuts a page to a rectangle.
type Crop struct {
	Page string `json:"page"`
	Rect Rect   `json:"rect"`
}

func (c Crop) plan(d *Desk) (form.Edit, error) {
	ids, err := d.pages([]string{c.Page})
	if err != nil {
		return form.Edit{}, err
	}
	p, _, _ := d.Draft.PageByID(ids[0])
	r := c.Rect.rect().Intersect(p.Rect())
	if r.W() < leastCrop || r.H() < leastCrop {
		return form.Edit{}, errors.New("what is left would be smaller than half an inch: draw a larger frame")
	}
	return d.Draft.CropPage(p.ID, r)
}

// ResizePages gives pages a size in points, as they are shown. With Fit the content is scaled with
// them.
type ResizePages struct {
	Pages  []string `json:"pages"`
	Width  float64  `json:"width"`
	Height float64  `json:"height"`
	Fit    bool     `json:"fit,omitempty"`
}

func (c ResizePages) plan(d *Desk) (form.Edit, error) {
	ids, err := d.pages(c.Pages)
	if err != nil {
		return form.Edit{}, err
	}
	return d.Draft.ResizePages(ids, c.Width, c.Height, c.Fit)
}

// Reread gives a page other recognised words, by the SHA-256 of their file. Title is what the edit
// is called.
type Reread struct {
	Title string `json:"title"`
	Page  string `json:"page"`
	Text  string `json:"text"`
}

func (c Reread) plan(d *Desk) (form.Edit, error) {
	ids, err := d.pages([]string{c.Page})
	if err != nil {
		return form.Edit{}, err
	}
	return d.Draft.ChangePages(c.Title, ids, func(p *form.Page) { p.Text = c.Text })
}
