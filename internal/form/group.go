package form

import (
	"fmt"
	"slices"
)

// What holds of the buttons of a radio group together (ISO 32000-2, 12.7.5.2.4).

// group lists the buttons of a radio group, in tab order.
func (t *Template) group(name string) []string {
	var ids []string
	for i := range t.Fields {
		if f := &t.Fields[i]; f.Kind == Radio && f.Name == name {
			ids = append(ids, f.ID)
		}
	}
	return ids
}

// Excess lists the radio buttons that are on at the start though another one of their group is,
// and the two do not go in unison: all but the first of each group. It is empty in a form that
// says what it can mean.
func Excess(fields []Field) []Field {
	var out []Field
	first := map[string]*Field{}
	for i := range fields {
		f := &fields[i]
		if f.Kind != Radio || !f.On() {
			continue
		}
		switch g := first[f.Name]; {
		case g == nil:
			first[f.Name] = f
		case !(f.Unison && g.Unison && f.OnState() == g.OnState()):
			out = append(out, *f)
		}
	}
	return out
}

// Settled adds to an edit what follows from it: where it turns a button of a group on, the others
// of the group are off. An edit that touches no button of a group stays as it is.
func (t *Template) Settled(e Edit) Edit {
	was := map[string]bool{}
	for i := range e.Before {
		was[e.Before[i].ID] = e.Before[i].On()
	}
	names := map[string]bool{}
	fresh := map[string]bool{} // buttons that the edit turns on
	for i := range e.After {
		if f := &e.After[i]; f.Kind == Radio && f.On() {
			names[f.Name] = true
			fresh[f.ID] = !was[f.ID]
		}
	}
	if len(names) == 0 {
		return e
	}
	after := t.with(e)
	var group []Field
	for _, f := range after {
		if f.Kind == Radio && names[f.Name] {
			group = append(group, f)
		}
	}
	slices.SortStableFunc(group, func(a, b Field) int { // those that were just turned on come first
		switch {
		case fresh[a.ID] && !fresh[b.ID]:
			return -1
		case fresh[b.ID] && !fresh[a.ID]:
			return 1
		}
		return 0
	})
	for _, f := range Excess(group) {
		off := f.clone()
		off.start(false)
		if i := slices.IndexFunc(e.After, func(g Field) bool { return g.ID == f.ID }); i >= 0 {
			e.After = slices.Clone(e.After)
			e.After[i] = off
			continue
		}
		e.Before, e.After = append(slices.Clone(e.Before), f), append(slices.Clone(e.After), off)
	}
	return e
}

// with lists the fields as they are after an edit, in tab order.
func (t *Template) with(e Edit) []Field {
	changed := map[string]bool{}
	for _, f := range slices.Concat(e.Before, e.After) {
		changed[f.ID] = true
	}
	draft := Template{Fields: slices.DeleteFunc(slices.Clone(t.Fields), func(f Field) bool { return changed[f.ID] })}
	draft.Fields = append(draft.Fields, e.After...)
	draft.Sort()
	return draft.Fields
}

// Ungroup takes radio buttons out of their group: together they are a group of their own.
func (t *Template) Ungroup(ids []string) (Edit, error) {
	name := ""
	e, err := t.change("", ids, func(f *Field) error {
		if f.Kind != Radio {
			return fmt.Errorf("only a radio button belongs to a group; %s is a %s", f.Name, f.Kind)
		}
		if name == "" {
			name = t.FreeName(f.Name)
		}
		f.Name = name
		f.keep()
		return nil
	})
	if err == nil {
		e.Title = "made a group of its own, " + name
	}
	return e, err
}
