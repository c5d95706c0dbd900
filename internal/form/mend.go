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
			g.ID, g.Origin = NewID(), nil
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
		f.Export = FreeName(f.Name, exports)
		exports[f.Export] = true
		f.Kind, f.Name = Radio, name
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
