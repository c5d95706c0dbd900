package command

import (
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"zealousmargin.example/internal/arrange"
	"zealousmargin.example/internal/detect"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
)

// Move shifts fields by DX, DY points.
type Move struct {
	Fields []string `json:"fields"`
	DX     float64  `json:"dx,omitempty"`
	DY     float64  `json:"dy,omitempty"`
}

func (c Move) plan(d *Desk) (form.Edit, error) {
	ids, err := d.ids(c.Fields)
	if err != nil {
		return form.Edit{}, err
	}
	return d.Draft.Move(ids, c.DX, c.DY)
}

// Resize gives one field a new rectangle.
type Resize struct {
	Field string `json:"field"`
	Rect  Rect   `json:"rect"`
}

func (c Resize) plan(d *Desk) (form.Edit, error) {
	f, err := d.one(c.Field)
	if err != nil {
		return form.Edit{}, err
	}
	return d.Draft.Resize(f.ID, c.Rect.rect())
}

func (c Put) plan(d *Desk) (form.Edit, error) {
	ids, err := d.ids(c.Fields)
	if err != nil {
		return form.Edit{}, err
	}
	rects := map[string]geom.Rect{}
	for _, id := range ids {
		f, _ := d.Draft.Field(id)
		p := d.Draft.Pages[f.Page-1]
		r := f.Rect.Apply(geom.ToView(p.Width, p.Height, p.Rotate))
		if c.Left != nil {
			r = r.Shift(*c.Left-r.X0, 0)
		}
		if c.Top != nil {
			r = r.Shift(0, *c.Top-r.Y0)
		}
		if c.Width != nil {
			r.X1 = r.X0 + *c.Width
		}
		if c.Height != nil {
			r.Y1 = r.Y0 + *c.Height
		}
		if r.W() < form.MinSide || r.H() < form.MinSide {
			return form.Edit{}, fmt.Errorf("a field is at least %g points wide and high", form.MinSide)
		}
		rects[id] = r.Apply(geom.FromView(p.Width, p.Height, p.Rotate))
	}
	what := "resized "
	if c.Width == nil && c.Height == nil {
		what = "moved "
	}
	return d.Draft.Lay(what+d.who(ids), rects)
}

// LineUp lines fields up, spreads them, or makes them alike: one of the ways of [arrange.LineUp].
type LineUp struct {
	Fields []string `json:"fields"`
	How    string   `json:"how"`
}

func (c LineUp) plan(d *Desk) (form.Edit, error) {
	if len(c.Fields) == 0 {
		return form.Edit{}, errors.New("choose the fields to line up first")
	}
	ids, err := d.ids(c.Fields)
	if err != nil {
		return form.Edit{}, err
	}
	var fields []form.Field
	for _, id := range ids {
		f, _ := d.Draft.Field(id)
		fields = append(fields, f)
	}
	rects, err := arrange.LineUp(fields, c.How, d.Draft.Pages[fields[0].Page-1])
	if err != nil {
		return form.Edit{}, err
	}
	return d.Draft.Lay(fmt.Sprintf("lined up %d fields", len(fields)), rects)
}

// Order puts a field at place To, from 1, in the tab order of its page.
type Order struct {
	Field string `json:"field"`
	To    int    `json:"to"`
}

func (c Order) plan(d *Desk) (form.Edit, error) {
	f, err := d.one(c.Field)
	if err != nil {
		return form.Edit{}, err
	}
	return d.Draft.MoveInOrder(f.ID, c.To-1)
}

// OrderBy orders the fields of a page by rows, by columns, or by structure: block after block.
type OrderBy struct {
	Page int    `json:"page"`
	By   string `json:"by"`
}

func (c OrderBy) plan(d *Desk) (form.Edit, error) {
	p, err := d.page(c.Page)
	if err != nil {
		return form.Edit{}, err
	}
	title, ok := map[string]string{
		"rows": "ordered by rows", "columns": "ordered by columns",
		"structure": "ordered as the page is built",
	}[c.By]
	if !ok {
		return form.Edit{}, fmt.Errorf("fields are not ordered by %q: use rows, columns or structure", c.By)
	}
	on := d.Draft.OnPage(c.Page)
	if ev := d.Pages[c.Page]; ev != nil && c.By == "structure" {
		return d.Draft.Reorder(c.Page, title, detect.Order(ev, on))
	}
	return d.Draft.Reorder(c.Page, title, arrange.Order(on, c.By, geom.ToView(p.Width, p.Height, p.Rotate)))
}

// Reads says that the order as the page is built goes by what is printed on it.
func (c OrderBy) Reads(*form.Template) []int {
	if c.By == "structure" {
		return []int{c.Page}
	}
	return nil
}

// Sequence puts fields of a page first, in their order, and then the others.
type Sequence struct {
	Page   int      `json:"page"`
	Fields []string `json:"fields"`
}

func (c Sequence) plan(d *Desk) (form.Edit, error) {
	if _, err := d.page(c.Page); err != nil {
		return form.Edit{}, err
	}
	ids, err := d.ids(c.Fields)
	if err != nil {
		return form.Edit{}, err
	}
	on := d.Draft.OnPage(c.Page)
	ids = slices.DeleteFunc(ids, func(id string) bool {
		return !slices.ContainsFunc(on, func(f form.Field) bool { return f.ID == id })
	})
	for _, f := range on {
		if !slices.Contains(ids, f.ID) {
			ids = append(ids, f.ID)
		}
	}
	return d.Draft.Reorder(c.Page, "ordered by hand", ids)
}

// Numbers reads page numbers and ranges: "2, 4-6", or "all".
func Numbers(s string, last int) ([]int, error) {
	var out []int
	if strings.EqualFold(strings.TrimSpace(s), "all") {
		s = fmt.Sprintf("1-%d", last)
	}
	for part := range strings.SplitSeq(s, ",") {
		from, to, ranged := strings.Cut(strings.TrimSpace(part), "-")
		a, err := strconv.Atoi(strings.TrimSpace(from))
		b := a
		if ranged && err == nil {
			b, err = strconv.Atoi(strings.TrimSpace(to))
		}
		if err != nil || a < 1 || b > last || a > b {
			return nil, fmt.Errorf("%q is not a page of this document: write numbers from 1 to %d, such as 2, 4-6, or all",
				strings.TrimSpace(part), last)
		}
		for n := a; n <= b; n++ {
			if !slices.Contains(out, n) {
				out = append(out, n)
			}
		}
	}
	return out, nil
}
