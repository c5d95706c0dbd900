package form

import (
	"fmt"
	"slices"

	"zealousmargin.example/internal/geom"
)

// linkable are the kinds of field that can stand at several places.
var linkable = []Kind{Text, CheckBox, Choice}

// MayLink tells whether fields of a kind can stand at several places.
func MayLink(k Kind) bool { return slices.Contains(linkable, k) }

// Places lists the rows of the field that a row belongs to, in tab order: itself alone when
// it stands at one place.
func (t *Template) Places(id string) []Field {
	f, ok := t.Field(id)
	if !ok {
		return nil
	}
	if !f.Linked {
		return []Field{f}
	}
	var out []Field
	for _, g := range t.Fields {
		if g.Linked && g.Name == f.Name {
			out = append(out, g)
		}
	}
	return out
}

// as is a row that says what f says, at the place of another.
func (f Field) as(place Field) Field {
	g := f.clone()
	g.ID, g.Page, g.Rect, g.Order, g.Look, g.Label = place.ID, place.Page, place.Rect, place.Order, place.Look, place.Label
	g.Origin, g.Linked = nil, true
	g.Find = place.Find
	return g
}

// Link makes a field a further place of another: it takes over all but its place and its
// look, and what is typed at one shows at both.
func (t *Template) Link(id, to string) (Edit, error) {
	f, ok := t.Field(id)
	target, there := t.Field(to)
	switch {
	case !ok || !there:
		return Edit{}, ErrClash
	case id == to || f.Linked && target.Linked && f.Name == target.Name:
		return Edit{}, ErrNothing
	case f.Kind != target.Kind:
		return Edit{}, fmt.Errorf("%s is a %s and %s a %s: only fields of one kind can have the same answer", f.Name, f.Kind,
			target.Name, target.Kind)
	case !slices.Contains(linkable, f.Kind):
		return Edit{}, fmt.Errorf("a %s has no answer that could show at two places", f.Kind)
	case f.Origin != nil || target.Origin != nil:
		return Edit{}, fmt.Errorf("fields that came with the document keep the places that they have: place a new one to link")
	}
	e, err := t.change("made "+f.Name+" the same as "+target.Name, []string{id, to}, func(x *Field) error {
		if x.ID == to {
			x.Linked = true
			x.keep()
			return nil
		}
		*x = target.as(*x)
		x.keep()
		return nil
	})
	if err != nil {
		return e, err
	}
	return t.unlinkLast(e, f), nil
}

// PlaceAgain adds a further place of a field.
func (t *Template) PlaceAgain(id string, page int, r geom.Rect) (Edit, error) {
	f, ok := t.Field(id)
	switch {
	case !ok:
		return Edit{}, ErrClash
	case page < 1 || page > len(t.Pages):
		return Edit{}, fmt.Errorf("there is no page %d", page)
	case !slices.Contains(linkable, f.Kind):
		return Edit{}, fmt.Errorf("a %s has no answer that could show at two places", f.Kind)
	case f.Origin != nil:
		return Edit{}, fmt.Errorf("fields that came with the document keep the places that they have: place a new one to link")
	}
	g := f.as(Field{ID: NewID(), Page: page, Rect: r.Clamp(t.Pages[page-1].Rect()).Rounded(), Look: f.Look, Label: f.Label})
	g.Order = t.orderFor(g)
	e := Edit{Title: "placed " + f.Name + " once more", After: []Field{g}}
	if !f.Linked {
		first := f.clone()
		first.Linked = true
		first.keep()
		e.Before, e.After = append(e.Before, f), append(e.After, first)
	}
	return e, nil
}

// Unlink makes a place of a field a field of its own.
func (t *Template) Unlink(id string) (Edit, error) {
	f, ok := t.Field(id)
	if !ok {
		return Edit{}, ErrClash
	}
	if !f.Linked {
		return Edit{}, ErrNothing
	}
	free := t.FreeName(f.Name)
	e, err := t.change("unlinked "+free, []string{id}, func(x *Field) error {
		x.Name, x.Linked = free, false
		return nil
	})
	if err != nil {
		return e, err
	}
	return t.unlinkLast(e, f), nil
}

// unlinkLast adds to an edit that takes a place away from a field: the last one that is
// left is no longer linked.
func (t *Template) unlinkLast(e Edit, was Field) Edit {
	if !was.Linked {
		return e
	}
	left := slices.DeleteFunc(t.Places(was.ID), func(f Field) bool { return f.ID == was.ID })
	if len(left) != 1 || slices.ContainsFunc(e.Before, func(f Field) bool { return f.ID == left[0].ID }) {
		return e
	}
	alone := left[0].clone()
	alone.Linked = false
	e.Before, e.After = append(e.Before, left[0]), append(e.After, alone)
	return e
}

// leaveAlone adds to an edit that removes rows: a place that is the last one left is no
// longer linked.
func (t *Template) leaveAlone(e Edit) Edit {
	gone := map[string]bool{}
	for _, f := range e.Before {
		gone[f.ID] = true
	}
	seen := map[string]bool{}
	for _, f := range slices.Clone(e.Before) {
		if !f.Linked || seen[f.Name] {
			continue
		}
		seen[f.Name] = true
		left := slices.DeleteFunc(t.Places(f.ID), func(g Field) bool { return gone[g.ID] })
		if len(left) == 1 {
			alone := left[0].clone()
			alone.Linked = false
			e.Before, e.After = append(e.Before, left[0]), append(e.After, alone)
		}
	}
	return e
}
