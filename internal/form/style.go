package form

import (
	"errors"
)

// Style is a set of properties that can be given to other fields: how a field looks and
// behaves, not what it asks for.
type Style struct {
	Look     Look    `json:"look,omitzero"`
	Show     Show    `json:"show,omitempty"`
	Locked   bool    `json:"locked,omitempty"`
	NoExport bool    `json:"noexport,omitempty"`
	NoScroll bool    `json:"noscroll,omitempty"`
	NoSpell  bool    `json:"nospell,omitempty"`
	Mark     string  `json:"mark,omitempty"`
	Pressed  Pressed `json:"pressed,omitempty"`
}

// StyleOf is the style that a field has.
func StyleOf(f Field) Style {
	return Style{
		Look: f.Look, Show: f.Show, Locked: f.Locked, NoExport: f.NoExport, NoScroll: f.NoScroll, NoSpell: f.NoSpell,
		Mark: f.Mark, Pressed: f.Face.Pressed,
	}
}

// Dress gives the style to a field, but for what its kind cannot have.
func (s Style) Dress(f *Field) {
	from := Field{
		Kind: f.Kind, Look: s.Look, Show: s.Show, Locked: s.Locked, NoExport: s.NoExport, NoScroll: s.NoScroll,
		NoSpell: s.NoSpell, Mark: s.Mark,
	}
	from.Face.Pressed = s.Pressed
	for i := range FieldProperties {
		if p := &FieldProperties[i]; p.Style && p.Has(f.Kind) {
			p.Carry(f, &from)
		}
	}
	if f.Face.Pressed != PushedIn {
		f.Face.PressedCaption = ""
	}
}

// Dress gives a style to fields; name is what the style is called.
func (t *Template) Dress(name string, ids []string, s Style) (Edit, error) {
	if len(ids) == 0 {
		return Edit{}, errors.New("choose a field first")
	}
	e, err := t.change("", ids, func(f *Field) error { s.Dress(f); return nil })
	if err == nil {
		e.Title = "gave " + t.called(e.After) + " the style " + name
	}
	return e, err
}

// House is the house style: for each kind of field the style and the size that a new one
// gets. A kind that it does not name gets what [Plain] says.
type House map[Kind]HouseStyle

// HouseStyle is the house style of one kind.
type HouseStyle struct {
	Style
	Width  float64 `json:"width,omitempty"`  // points; 0 is the usual width
	Height float64 `json:"height,omitempty"` // points; 0 is the usual height
}

// plain are the usual sizes in points of a field that is placed where nothing is printed
// (common practice, no source).
var plain = map[Kind][2]float64{
	Text: {150, 16}, CheckBox: {10, 10}, Radio: {10, 10}, Choice: {150, 16}, Signature: {180, 24}, Button: {90, 22},
}

// Size is how large a new field of the kind is where nothing is printed, in points.
func (h House) Size(k Kind) (width, height float64) {
	width, height = plain[k][0], plain[k][1]
	if s := h[k]; s.Width > 0 {
		width = s.Width
	}
	if s := h[k]; s.Height > 0 {
		height = s.Height
	}
	return width, height
}

// Dress gives a new field the style of the house. What the field brings stays: a place
// where it shows, and a lock.
func (h House) Dress(f *Field) {
	s, ok := h[f.Kind]
	if !ok {
		return
	}
	show, locked := f.Show, f.Locked
	s.Style.Dress(f)
	if show != ShowBoth {
		f.Show = show
	}
	f.Locked = f.Locked || locked
}

// Check refuses a style that no field of the kind could have, and says what to do.
func (s HouseStyle) Check(k Kind) error {
	f := Field{ID: "style", Name: "the house style", Kind: k, Page: 1}
	s.Dress(&f)
	if s.Width != 0 && s.Width < MinSide || s.Height != 0 && s.Height < MinSide || s.Width > 2000 || s.Height > 2000 {
		return errors.New("a field is from 4 to 2000 points wide and high")
	}
	f.Rect.X1, f.Rect.Y1 = 10, 10
	return f.Check(Page{Width: 10, Height: 10})
}
