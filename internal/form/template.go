package form

import (
	"cmp"
	"errors"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"github.com/google/uuid"

	"zealousmargin.example/internal/geom"
)

// Template is the draft of a form. Fields are kept in tab order, page by page.
type Template struct {
	Title   string  `json:"title,omitempty"`
	Pages   []Page  `json:"pages"`
	Fields  []Field `json:"fields"`
	Details Details `json:"details,omitzero"`
	// Pictures are those of buttons, by the SHA-256 of their bytes in hexadecimal: PNG, JPEG,
	// GIF or WebP.
	Pictures map[string][]byte `json:"pictures,omitempty"`
}

// Edit is one change: rows only in Before are removed, rows only in After are
// added, rows in both are changed. Title says in words what was done. An edit of
// the pages or of the document's details has both sides of those too.
type Edit struct {
	Title   string       `json:"title"`
	Before  []Field      `json:"before"`
	After   []Field      `json:"after"`
	Pages   *PagesEdit   `json:"pages,omitempty"`
	Details *DetailsEdit `json:"details,omitempty"`
	// Said is what whoever asked for the edit is told beside its title; it is not kept.
	Said string `json:"-"`
}

// ErrNothing is returned by the verbs when there is nothing to change.
var ErrNothing = errors.New("nothing to change")

// ErrClash is returned by [Template.Apply] when a row is no longer as the edit found it.
var ErrClash = errors.New("somebody else has changed the same field; look at it and try again")

// Inverse is the edit that undoes e.
func (e Edit) Inverse() Edit {
	inv := Edit{Title: e.Title, Before: e.After, After: e.Before}
	if e.Pages != nil {
		inv.Pages = &PagesEdit{Before: e.Pages.After, After: e.Pages.Before}
	}
	if e.Details != nil {
		inv.Details = &DetailsEdit{Before: e.Details.After, After: e.Details.Before}
	}
	return inv
}

// Touches lists the ids of the fields that e adds, changes or removes.
func (e Edit) Touches() []string {
	var ids []string
	for _, f := range slices.Concat(e.Before, e.After) {
		if !slices.Contains(ids, f.ID) {
			ids = append(ids, f.ID)
		}
	}
	return ids
}

// NewID makes the id of a new field.
func NewID() string { return strings.ReplaceAll(uuid.NewString(), "-", "")[:16] }

// Field finds a row by id.
func (t *Template) Field(id string) (Field, bool) {
	i := slices.IndexFunc(t.Fields, func(f Field) bool { return f.ID == id })
	if i < 0 {
		return Field{}, false
	}
	return t.Fields[i], true
}

// OnPage lists the fields of a page (from 1) in tab order.
func (t *Template) OnPage(page int) []Field {
	out := make([]Field, 0, t.CountOn(page))
	for i := range t.Fields {
		if t.Fields[i].Page == page {
			out = append(out, t.Fields[i])
		}
	}
	return out
}

// CountOn tells how many fields a page (from 1) has.
func (t *Template) CountOn(page int) int {
	n := 0
	for i := range t.Fields {
		if t.Fields[i].Page == page {
			n++
		}
	}
	return n
}

// Placed lists the fields that are part of the form, in tab order.
func (t *Template) Placed() []Field {
	var out []Field
	for _, f := range t.Fields {
		if f.Placed() {
			out = append(out, f)
		}
	}
	return out
}

// Sort puts the fields in tab order.
func (t *Template) Sort() {
	slices.SortStableFunc(t.Fields, func(a, b Field) int {
		return cmp.Or(cmp.Compare(a.Page, b.Page), cmp.Compare(a.Order, b.Order), cmp.Compare(a.ID, b.ID))
	})
}

// Apply carries an edit out. It changes nothing and returns [ErrClash] when a
// row of Before is missing or different, and another error when a row of After
// is not a valid field or its name is taken by a field of another kind.
func (t *Template) Apply(e Edit) error {
	pages, details, err := t.sides(e)
	if err != nil {
		return err
	}
	rows := make(map[string]*Field, len(t.Fields)+len(e.After)) // rows are large: none is copied more than once
	for i := range t.Fields {
		rows[t.Fields[i].ID] = &t.Fields[i]
	}
	for _, f := range e.Before {
		was, ok := rows[f.ID]
		if !ok || !was.Equal(f) {
			return ErrClash
		}
		delete(rows, f.ID)
	}
	for i := range e.After {
		f := &e.After[i]
		if f.Page < 1 || f.Page > len(pages) {
			return fmt.Errorf("%s is on page %d, but the document has pages 1 to %d", f.Name, f.Page, len(pages))
		}
		if err := f.Check(pages[f.Page-1]); err != nil {
			return err
		}
		if _, taken := rows[f.ID]; taken {
			return ErrClash
		}
		rows[f.ID] = f
	}
	names := make(map[string]*Field, len(rows))
	fields := make([]Field, 0, len(rows))
	for _, f := range rows {
		if f.Page > len(pages) {
			return ErrClash
		}
		if other, taken := names[f.Name]; taken && !mayShare(f, other) {
			return fmt.Errorf("another field is already called %s: choose another name, or %s", f.Name, t.FreeName(f.Name))
		}
		names[f.Name] = f
		fields = append(fields, *f)
	}
	t.Fields, t.Pages, t.Details = fields, pages, details
	t.Sort()
	return nil
}

// mayShare tells whether two rows may have one name: radio buttons of a group, the
// places of one field, and those of a field that came with the document.
func mayShare(a, b *Field) bool {
	if a.Kind != b.Kind {
		return false
	}
	return a.Kind == Radio || a.Linked && b.Linked || a.Origin != nil && b.Origin != nil && a.Origin.Shared && b.Origin.Shared
}

// FreeName is name itself, or the first of name_2, name_3 ... that no field has.
func (t *Template) FreeName(name string) string {
	taken := make(map[string]bool, len(t.Fields))
	for _, f := range t.Fields {
		taken[f.Name] = true
	}
	return FreeName(name, taken)
}

// FreeName is name, or the first of name_2, name_3 ... that is not taken. A
// number at the end of name is counted on from.
func FreeName(name string, taken map[string]bool) string {
	if !taken[name] {
		return name
	}
	stem, n := name, 2
	if i := strings.LastIndexByte(name, '_'); i > 0 {
		if v, err := strconv.Atoi(name[i+1:]); err == nil && v > 0 {
			stem, n = name[:i], v+1
		}
	}
	for ; ; n++ {
		if s := stem + "_" + strconv.Itoa(n); !taken[s] {
			return s
		}
	}
}

// change makes an edit that alters the rows with the given ids. The function
// gets a copy of each row; rows that stay the same are left out.
func (t *Template) change(title string, ids []string, alter func(*Field) error) (Edit, error) {
	e := Edit{Title: title}
	for _, id := range ids {
		f, ok := t.Field(id)
		if !ok {
			return Edit{}, fmt.Errorf("a field that this changes is gone: %w", ErrClash)
		}
		g := f.clone()
		if err := alter(&g); err != nil {
			return Edit{}, err
		}
		g.Rect = g.Rect.Rounded()
		if !f.Equal(g) {
			e.Before, e.After = append(e.Before, f), append(e.After, g)
		}
	}
	if len(e.Before) == 0 {
		return Edit{}, ErrNothing
	}
	return e, nil
}

// count writes "1 field" or "3 fields".
func count(n int) string {
	if n == 1 {
		return "1 field"
	}
	return strconv.Itoa(n) + " fields"
}

// Place adds a field. A missing id is made, a taken name is counted on (radio
// buttons may share one), and the place in the tab order is after the field that
// comes before it in reading order.
func (t *Template) Place(f Field) (Edit, error) {
	if f.Page < 1 || f.Page > len(t.Pages) {
		return Edit{}, fmt.Errorf("there is no page %d", f.Page)
	}
	if f.ID == "" {
		f.ID = NewID()
	}
	if f.Name == "" {
		f.Name = string(f.Kind)
	}
	if f.Kind != Radio {
		f.Name = t.FreeName(f.Name)
	}
	f.Rect = f.Rect.Clamp(t.Pages[f.Page-1].Rect()).Rounded()
	f.Order = t.orderFor(f)
	return Edit{Title: "placed " + f.Name, After: []Field{f}}, nil
}

// orderFor finds a place in the tab order for a new field: just after the last
// field of its page that stands before it, read by rows.
func (t *Template) orderFor(f Field) float64 {
	on := t.OnPage(f.Page)
	at := 0
	for i, g := range on {
		if Before(g.Rect, f.Rect) {
			at = i + 1
		}
	}
	return between(on, at)
}

// Before tells whether a is read before b: on a higher row, or further left on
// the same one. Two rectangles share a row when they overlap by half the height
// of the lower one.
func Before(a, b geom.Rect) bool {
	if a.OverlapY(b) >= math.Min(a.H(), b.H())/2 {
		return a.X0 < b.X0
	}
	return a.Mid().Y > b.Mid().Y
}

// between gives an order that puts a field at place i among on.
func between(on []Field, i int) float64 {
	switch {
	case len(on) == 0:
		return 1
	case i <= 0:
		return on[0].Order - 1
	case i >= len(on):
		return on[len(on)-1].Order + 1
	}
	return (on[i-1].Order + on[i].Order) / 2
}

// Add places many fields in one edit, such as a run of detection.
func (t *Template) Add(title string, fields []Field) (Edit, error) {
	if len(fields) == 0 {
		return Edit{}, ErrNothing
	}
	taken := map[string]bool{}
	for _, f := range t.Fields {
		taken[f.Name] = true
	}
	last := map[int]float64{}
	for _, f := range t.Fields {
		last[f.Page] = math.Max(last[f.Page], f.Order)
	}
	e := Edit{Title: title}
	groups := map[string]string{}
	for _, f := range fields {
		if f.ID == "" {
			f.ID = NewID()
		}
		if name, ok := groups[f.Name]; ok && f.Kind == Radio {
			f.Name = name
		} else {
			free := FreeName(f.Name, taken)
			if f.Kind == Radio {
				groups[f.Name] = free
			}
			f.Name = free
		}
		taken[f.Name] = true
		last[f.Page]++
		f.Order = last[f.Page]
		f.Rect = f.Rect.Rounded()
		e.After = append(e.After, f)
	}
	return e, nil
}

// Remove takes fields away.
func (t *Template) Remove(ids []string) (Edit, error) { return t.remove("removed", ids) }

func (t *Template) remove(verb string, ids []string) (Edit, error) {
	var e Edit
	for _, id := range ids {
		if f, ok := t.Field(id); ok {
			e.Before = append(e.Before, f)
		}
	}
	if len(e.Before) == 0 {
		return Edit{}, ErrNothing
	}
	e.Title = verb + " " + t.called(e.Before)
	return t.leaveAlone(e), nil
}

// called is the name of the one field, or how many there are.
func (t *Template) called(fields []Field) string {
	if len(fields) == 1 {
		return fields[0].Name
	}
	return count(len(fields))
}

// Move shifts fields by dx, dy points, as far as the page lets them.
func (t *Template) Move(ids []string, dx, dy float64) (Edit, error) {
	e, err := t.change("moved "+count(len(ids)), ids, func(f *Field) error {
		f.Rect = f.Rect.Shift(dx, dy).Clamp(t.Pages[f.Page-1].Rect())
		return nil
	})
	if err == nil {
		e.Title = "moved " + t.called(e.After)
	}
	return e, err
}

// Resize gives one field a new shape, kept on the page and at least [MinSide] wide and high.
func (t *Template) Resize(id string, r geom.Rect) (Edit, error) {
	e, err := t.change("", []string{id}, func(f *Field) error {
		r.X1, r.Y1 = math.Max(r.X1, r.X0+MinSide), math.Max(r.Y1, r.Y0+MinSide)
		f.Rect = r.Clamp(t.Pages[f.Page-1].Rect())
		return nil
	})
	if err == nil {
		e.Title = "resized " + e.After[0].Name
	}
	return e, err
}

// Duplicate copies fields, dx, dy points away. Every copy gets a name of its own,
// so that two check boxes never toggle together by accident; copies of radio
// buttons stay in their group and get an export value of their own.
func (t *Template) Duplicate(ids []string, dx, dy float64) (Edit, error) {
	var e Edit
	draft := *t
	draft.Fields = slices.Clone(t.Fields)
	for _, id := range ids {
		f, ok := t.Field(id)
		if !ok {
			return Edit{}, ErrClash
		}
		f = f.loosened()
		f.ID, f.Find = NewID(), nil
		f.Rect = f.Rect.Shift(dx, dy)
		if f.Kind == Radio { // a further button of its group, which has its one that is on
			f.start(false)
			f.Export = draft.FreeExport(f)
		} else {
			f.Tooltip = draft.freeTooltip(f)
		}
		one, err := draft.Place(f)
		if err != nil {
			return Edit{}, err
		}
		if err := draft.Apply(one); err != nil {
			return Edit{}, err
		}
		e.After = append(e.After, one.After...)
	}
	if len(e.After) == 0 {
		return Edit{}, ErrNothing
	}
	e.Title = "duplicated " + t.called(e.After)
	return e, nil
}

// freeTooltip is the tooltip of f with a number behind it where another field of its page has it: who
// hears them can tell them apart.
func (t *Template) freeTooltip(f Field) string {
	taken := map[string]bool{"": true}
	for _, g := range t.OnPage(f.Page) {
		taken[g.Tooltip] = true
	}
	if f.Tooltip == "" || !taken[f.Tooltip] {
		return f.Tooltip
	}
	for n := 2; ; n++ {
		if s := fmt.Sprintf("%s (%d)", f.Tooltip, n); !taken[s] {
			return s
		}
	}
}

// loosened is a copy of f that is tied to no field of the file: it is written anew.
func (f Field) loosened() Field {
	f = f.clone()
	f.Linked = false
	if f.Origin != nil {
		f.Origin = nil
		f.Name = strings.ReplaceAll(f.Name, ".", "_")
	}
	return f
}

// FreeExport is an export value that no other button of the group has.
func (t *Template) FreeExport(f Field) string {
	taken := map[string]bool{"": true, "Off": true}
	for _, g := range t.Fields {
		if g.Kind == Radio && g.Name == f.Name {
			taken[g.Export] = true
		}
	}
	return FreeName(cmp.Or(f.Export, "1"), taken)
}

// TakenError tells that a name belongs to another field already. Free is the next one
// that does not.
type TakenError struct{ ID, Name, Free string }

func (e *TakenError) Error() string {
	return fmt.Sprintf("another field is already called %s: choose another name, or %s", e.Name, e.Free)
}

// Rename gives a field a new name, which no other field may have.
func (t *Template) Rename(id, name string) (Edit, error) {
	name = strings.TrimSpace(name)
	f, ok := t.Field(id)
	if !ok {
		return Edit{}, ErrClash
	}
	if f.Name == name {
		return Edit{}, ErrNothing
	}
	// A field that came with the document may keep the leading parts of its full name.
	parent := f.Name[:strings.LastIndexByte(f.Name, '.')+1]
	partial := name
	if f.Origin != nil {
		partial = strings.TrimPrefix(name, parent)
	}
	if err := CheckName(partial); err != nil {
		return Edit{}, err
	}
	ids := t.places([]string{id})
	if f.Kind == Radio { // a group has one name: it is never split by renaming
		ids = t.group(f.Name)
	}
	for _, f := range t.Fields {
		if f.Name == name && !slices.Contains(ids, f.ID) {
			return Edit{}, &TakenError{ID: id, Name: name, Free: t.FreeName(name)}
		}
	}
	return t.change("renamed "+name, ids, func(f *Field) error {
		f.Name = name
		f.keep()
		return nil
	})
}

// places adds to ids the other places of the same fields: what is said of a field
// that the document brought is said of all its widgets.
func (t *Template) places(ids []string) []string {
	out := slices.Clone(ids)
	for _, id := range ids {
		f, ok := t.Field(id)
		if !ok || !f.Linked && (f.Origin == nil || !f.Origin.Shared) {
			continue
		}
		for _, g := range t.Fields {
			if g.Name == f.Name && (g.Linked || g.Origin != nil) && !slices.Contains(out, g.ID) {
				out = append(out, g.ID)
			}
		}
	}
	return out
}

// Set changes what can be set on fields; title says what, as "made 2 fields required".
func (t *Template) Set(title string, ids []string, alter func(*Field) error) (Edit, error) {
	return t.change(title, t.places(ids), func(f *Field) error {
		if err := alter(f); err != nil {
			return err
		}
		f.keep()
		return nil
	})
}

// Reorder gives the fields of a page the tab order of ids, which must name each
// of them once.
func (t *Template) Reorder(page int, title string, ids []string) (Edit, error) {
	on := t.OnPage(page)
	if len(ids) != len(on) {
		return Edit{}, fmt.Errorf("the order names %d fields, but page %d has %d: %w", len(ids), page, len(on), ErrClash)
	}
	place := map[string]float64{}
	for i, id := range ids {
		place[id] = float64(i + 1)
	}
	if len(place) != len(on) {
		return Edit{}, fmt.Errorf("the order names a field twice")
	}
	return t.change(title, ids, func(f *Field) error {
		f.Order = place[f.ID]
		return nil
	})
}

// MoveInOrder puts a field at place i (from 0) in the tab order of its page.
func (t *Template) MoveInOrder(id string, i int) (Edit, error) {
	f, ok := t.Field(id)
	if !ok {
		return Edit{}, ErrClash
	}
	rest := slices.DeleteFunc(t.OnPage(f.Page), func(g Field) bool { return g.ID == id })
	i = max(0, min(i, len(rest)))
	if was := slices.IndexFunc(t.OnPage(f.Page), func(g Field) bool { return g.ID == id }); was == i {
		return Edit{}, ErrNothing
	}
	order := between(rest, i)
	if i > 0 && i < len(rest) && (order == rest[i-1].Order || order == rest[i].Order || rest[i].Order-rest[i-1].Order < 1e-6) {
		ids := make([]string, 0, len(rest)+1)
		for _, g := range slices.Insert(rest, i, f) {
			ids = append(ids, g.ID)
		}
		return t.Reorder(f.Page, fmt.Sprintf("made %s number %d", f.Name, i+1), ids)
	}
	return t.change(fmt.Sprintf("made %s number %d", f.Name, i+1), []string{id}, func(f *Field) error {
		f.Order = order
		return nil
	})
}
