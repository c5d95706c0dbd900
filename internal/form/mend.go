package form

import (
	"fmt"
	"math"
	"slices"
	"strconv"

	"zealousmargin.example/internal/geom"
)

// overlapShare is how much of the smaller of two rectangles is common from which both
// stand for one place.
const overlapShare = 0.3

// AddNew adds the finds of places where no field is yet. What is there is left alone.
func (t *Template) AddNew(found []Field) (Edit, error) {
	fresh := slices.DeleteFunc(slices.Clone(found), func(f Field) bool {
		return slices.ContainsFunc(t.OnPage(f.Page), func(o Field) bool {
			return o.Rect.Intersect(f.Rect).Area() > overlapShare*math.Min(o.Rect.Area(), f.Rect.Area())
		})
	})
	return t.Add("found "+count(len(fresh)), fresh)
}

// Split cuts a field into n fields of one width, side by side along its longer side.
// The first keeps the name, the others get names of their own.
func (t *Template) Split(id string, n int) (Edit, error) {
	f, ok := t.Field(id)
	if !ok {
		return Edit{}, ErrClash
	}
	if n < 2 || n > 20 {
		return Edit{}, fmt.Errorf("a field is split into 2 to 20, not %d", n)
	}
	upright := f.Rect.H() > f.Rect.W()
	if long := math.Max(f.Rect.W(), f.Rect.H()); long/float64(n) < 2*MinSide {
		return Edit{}, fmt.Errorf("%s is too small to be split into %d", f.Name, n)
	}
	e := Edit{Title: fmt.Sprintf("split %s into %d", f.Name, n), Before: []Field{f}}
	taken := map[string]bool{}
	for _, o := range t.Fields {
		taken[o.Name] = true
	}
	on := t.OnPage(f.Page)
	next := f.Order + 1
	if i := slices.IndexFunc(on, func(o Field) bool { return o.ID == id }); i+1 < len(on) {
		next = on[i+1].Order
	}
	for i := range n {
		g := f.clone()
		g.keep()
		a, b := float64(i)/float64(n), float64(i+1)/float64(n)
		if upright { // from the top down
			g.Rect.Y1, g.Rect.Y0 = f.Rect.Y1-a*f.Rect.H(), f.Rect.Y1-b*f.Rect.H()
		} else {
			g.Rect.X0, g.Rect.X1 = f.Rect.X0+a*f.Rect.W(), f.Rect.X0+b*f.Rect.W()
		}
		g.Rect = g.Rect.Rounded()
		g.Comb = 0
		if f.Comb > 0 && f.MaxLen == f.Comb {
			g.MaxLen = 0
		}
		if i > 0 {
			g.ID, g.Origin, g.Linked = NewID(), nil, false
			g.Name = FreeName(f.Name+"_"+strconv.Itoa(i+1), taken)
			taken[g.Name] = true
			g.Order = f.Order + (next-f.Order)*float64(i)/float64(n)
		}
		e.After = append(e.After, g)
	}
	return e, nil
}

// Join makes one field of several on a page, around all of them. It keeps what the
// first in tab order has; text that stands below each other becomes one of several lines.
func (t *Template) Join(ids []string) (Edit, error) {
	var fields []Field
	for _, f := range t.Fields {
		if slices.Contains(ids, f.ID) {
			fields = append(fields, f)
		}
	}
	if len(fields) < 2 {
		return Edit{}, fmt.Errorf("choose the fields to join: two or more on one page")
	}
	g := fields[0].clone()
	for _, f := range fields[1:] {
		if f.Page != g.Page {
			return Edit{}, fmt.Errorf("only fields on one page can be joined")
		}
		if g.Kind == Text && f.Rect.OverlapY(fields[0].Rect) < 0.5*math.Min(f.Rect.H(), fields[0].Rect.H()) {
			g.Multiline, g.Comb = true, 0
		}
		g.Rect = g.Rect.Union(f.Rect)
	}
	g.keep()
	return Edit{Title: "joined " + count(len(fields)) + " into " + g.Name, Before: fields, After: []Field{g}}, nil
}

// GroupRadio makes one radio group of fields: they share a name, and each sends the
// name that it had.
func (t *Template) GroupRadio(ids []string) (Edit, error) {
	if len(ids) < 2 {
		return Edit{}, fmt.Errorf("choose the boxes of one question: two or more")
	}
	name := ""
	exports := map[string]bool{}
	e, err := t.change("made a radio group", ids, func(f *Field) error {
		if f.Kind != CheckBox && f.Kind != Radio {
			return fmt.Errorf("only check boxes become radio buttons; %s is a %s", f.Name, f.Kind)
		}
		if name == "" {
			name = t.FreeName(f.Name + "_choice")
		}
		on := f.On()
		f.Export = FreeName(f.Name, exports)
		exports[f.Export] = true
		f.Kind, f.Name = Radio, name
		f.start(on)
		f.keep()
		return nil
	})
	if err == nil {
		e.Title = "made a radio group of " + count(len(e.After))
	}
	return e, err
}

// Row tells whether two boxes of one size stand near each other on a line, or close
// below each other, as those of one question do.
func Row(a, b geom.Rect) bool {
	side := math.Abs(a.Mid().Y-b.Mid().Y) < 3 && a.OverlapX(b) > -160
	below := math.Abs(a.Mid().X-b.Mid().X) < 3 && math.Abs(a.Mid().Y-b.Mid().Y) < 4*math.Max(a.H(), b.H())
	return (side || below) && math.Abs(a.W()-b.W()) < 2
}

// Lay gives fields new rectangles, kept on their pages; title says what was done.
func (t *Template) Lay(title string, rects map[string]geom.Rect) (Edit, error) {
	ids := make([]string, 0, len(rects))
	for _, f := range t.Fields {
		if _, ok := rects[f.ID]; ok {
			ids = append(ids, f.ID)
		}
	}
	return t.change(title, ids, func(f *Field) error {
		r := rects[f.ID]
		r.X1, r.Y1 = math.Max(r.X1, r.X0+MinSide), math.Max(r.Y1, r.Y0+MinSide)
		f.Rect = r.Clamp(t.Pages[f.Page-1].Rect())
		return nil
	})
}

// MaxCopies bounds how many copies one edit makes.
const MaxCopies = 500

// Repeat duplicates fields n times, each time dx, dy points further.
func (t *Template) Repeat(ids []string, n int, dx, dy float64) (Edit, error) {
	if n < 1 || n*len(ids) > MaxCopies {
		return Edit{}, fmt.Errorf("make from 1 to %d copies at once", MaxCopies)
	}
	return t.copies(ids, n, func(f Field, k int) (Field, bool) {
		f.Rect = f.Rect.Shift(dx*float64(k), dy*float64(k))
		return f, t.Pages[f.Page-1].Rect().Covers(f.Rect, 0.5)
	})
}

// CopyToPages places copies of fields at the same place of other pages.
func (t *Template) CopyToPages(ids []string, pages []int) (Edit, error) {
	if len(pages)*len(ids) > MaxCopies {
		return Edit{}, fmt.Errorf("make up to %d copies at once", MaxCopies)
	}
	for _, n := range pages {
		if n < 1 || n > len(t.Pages) {
			return Edit{}, fmt.Errorf("there is no page %d: the document has pages 1 to %d", n, len(t.Pages))
		}
	}
	return t.copies(ids, len(pages), func(f Field, k int) (Field, bool) {
		if f.Page == pages[k-1] {
			return f, false
		}
		f.Page = pages[k-1]
		f.Rect = f.Rect.Clamp(t.Pages[f.Page-1].Rect())
		return f, true
	})
}

// copies makes n copies of fields, each altered; those that are not wanted are left out.
// Copies of radio buttons on their own page stay in their group; elsewhere they begin one.
func (t *Template) copies(ids []string, n int, alter func(f Field, k int) (Field, bool)) (Edit, error) {
	var e Edit
	draft := *t
	draft.Fields = slices.Clone(t.Fields)
	for k := 1; k <= n; k++ {
		groups := map[string]string{}
		for _, id := range ids {
			f, ok := t.Field(id)
			if !ok {
				return Edit{}, ErrClash
			}
			c, wanted := alter(f.loosened(), k)
			if !wanted {
				continue
			}
			c.ID, c.Find = NewID(), nil
			if c.Kind == Radio {
				if c.Page == f.Page {
					c.start(false)
					c.Export = draft.FreeExport(c)
				} else {
					if groups[f.Name] == "" {
						groups[f.Name] = draft.FreeName(f.Name)
					}
					c.Name = groups[f.Name]
				}
			}
			if c.Kind != Radio {
				c.Tooltip = draft.freeTooltip(c)
			}
			one, err := draft.Place(c)
			if err != nil {
				return Edit{}, err
			}
			if err := draft.Apply(one); err != nil {
				return Edit{}, err
			}
			e.After = append(e.After, one.After...)
		}
	}
	if len(e.After) == 0 {
		return Edit{}, ErrNothing
	}
	e.Title = fmt.Sprintf("made %d copies", len(e.After))
	if len(e.After) == 1 {
		e.Title = "made a copy, " + e.After[0].Name
	}
	return e, nil
}

// Paste places fields of this or another document on a page, where they were. Names that
// are taken are counted on; the radio buttons of a group stay together.
func (t *Template) Paste(fields []Field, page int) (Edit, error) {
	if page < 1 || page > len(t.Pages) {
		return Edit{}, fmt.Errorf("there is no page %d", page)
	}
	if len(fields) > MaxCopies {
		return Edit{}, fmt.Errorf("paste up to %d fields at once", MaxCopies)
	}
	var fresh []Field
	for _, f := range fields {
		f = f.loosened()
		f.ID, f.Find, f.Page = NewID(), nil, page
		f.Rect = f.Rect.Clamp(t.Pages[page-1].Rect())
		for slices.ContainsFunc(t.OnPage(page), func(o Field) bool { return o.Rect.IoU(f.Rect) > 0.9 }) {
			// not right over what it was copied from
			was := f.Rect
			if f.Rect = f.Rect.Shift(12, -12).Clamp(t.Pages[page-1].Rect()); f.Rect == was {
				break
			}
		}
		fresh = append(fresh, f)
	}
	e, err := t.Add("", fresh)
	if err == nil {
		e.Title = "pasted " + t.called(e.After)
	}
	return e, err
}
