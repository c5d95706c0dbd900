package write

import (
	"cmp"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/pdf/look"
	"zealousmargin.example/internal/pdf/object"
	"zealousmargin.example/internal/pdf/read"
	"zealousmargin.example/internal/rules"
)

// Build writes the placed fields of a template into a PDF as an incremental
// update and returns the whole file: src unchanged, then the update. Every
// field brings its appearance. It fails when the template names pages that the
// file does not have, or names that its own fields have already.
func Build(src []byte, t *form.Template) ([]byte, error) { return build(src, t, false) }

// Release writes a draft as [Build] does. The file's own fields belong to the
// draft: they are mended to what it says, and taken out when it has dropped them.
// The document's details are written too.
func Release(src []byte, t *form.Template) ([]byte, error) { return build(src, t, true) }

func build(src []byte, t *form.Template, whole bool) (_ []byte, err error) {
	defer object.Recovered(&err)
	f, err := object.Parse(src)
	if err != nil {
		return nil, err
	}
	b := NewBuilder(f)
	b.pictures, b.events, b.Language = t.Pictures, t.Details.Events, t.Details.Language
	b.starts, b.shows = startsOf(t.Placed()), map[string]form.Show{}
	for _, x := range t.Placed() {
		b.shows[x.Name] = x.Shows()
	}
	fields := slices.Clone(t.Placed())
	slices.SortStableFunc(fields, func(a, b form.Field) int { return cmp.Or(cmp.Compare(a.Page, b.Page), cmp.Compare(a.Order, b.Order)) })
	for _, x := range fields {
		if x.Page < 1 || x.Page > len(f.Pages) {
			return nil, fmt.Errorf("%s is on page %d, but the file has %d pages", x.Name, x.Page, len(f.Pages))
		}
		if err := x.Check(pageOf(f, x)); err != nil {
			return nil, err
		}
	}
	b.nameStates(fields)
	if b.compiled, err = rules.CompileForm(fields); err != nil {
		return nil, err
	}
	fresh := fields
	if whole {
		if err := b.details(t.Details); err != nil {
			return nil, err
		}
	} else if err := b.clash(fields); err != nil {
		return nil, err
	}
	if len(fields) > 0 || b.hasForm() {
		if err := b.AcroForm(); err != nil {
			return nil, err
		}
		if whole {
			if fresh, err = b.mend(fields); err != nil {
				return nil, err
			}
		}
		for _, x := range fresh {
			if err := b.field(x); err != nil {
				return nil, fmt.Errorf("field %s: %w", x.Name, err)
			}
		}
		if err := b.documentScripts(fields); err != nil {
			return nil, err
		}
		if err := b.finishResets(); err != nil {
			return nil, err
		}
		if err := b.Finish(); err != nil {
			return nil, err
		}
		if whole {
			b.order(fields)
		}
	}
	return f.Increment()
}

// nameStates calls the states of new boxes and buttons by their places where their export values are more than ASCII: those are options
// then (ISO 32000-2, 12.7.5.2.3).
func (b *Builder) nameStates(fields []form.Field) {
	wide := map[string]bool{}
	for _, x := range fields {
		wide[x.Name] = wide[x.Name] || (x.Kind == form.CheckBox || x.Kind == form.Radio) && !object.ASCII(x.OnState())
	}
	for _, x := range fields {
		if !wide[x.Name] || x.Origin != nil {
			continue
		}
		if b.states[x.Name] == nil {
			b.states[x.Name] = map[string]string{}
		}
		if _, had := b.states[x.Name][x.OnState()]; !had { // those of one value go together
			b.states[x.Name][x.OnState()] = strconv.Itoa(len(b.exports[x.Name]))
		}
		b.exports[x.Name] = append(b.exports[x.Name], object.Str(x.OnState()))
	}
}

// state is the name of a state of a field.
func (b *Builder) state(field, export string) string {
	if n, ok := b.states[field][export]; ok {
		return n
	}
	return export
}

// startsOf is what is on at the start of each field, by its name: of a group, the state of the one
// button that is on.
func startsOf(fields []form.Field) map[string]string {
	out := map[string]string{}
	for _, x := range fields {
		if x.On() && out[x.Name] == "" {
			out[x.Name] = x.OnState()
		}
	}
	return out
}

// clash refuses rows with the name of a field that the file has.
func (b *Builder) clash(fields []form.Field) error {
	own, err := read.WidgetsOf(b.Kit.File)
	if err != nil {
		return err
	}
	for _, w := range own {
		if slices.ContainsFunc(fields, func(x form.Field) bool { return x.Name == w.Name }) {
			return fmt.Errorf("the file already has a field called %s: rename ours", w.Name)
		}
	}
	return nil
}

func (b *Builder) hasForm() bool {
	cat, err := b.Catalog()
	return err == nil && cat.HasEntry("AcroForm")
}

// pageOf gives a page that holds the field's rectangle wherever the file's boxes
// are: the bench has checked it against the real page already.
func pageOf(f *object.File, x form.Field) form.Page {
	if p := f.Pages[x.Page-1]; p.Box.W() > 0 {
		return form.Page{Width: p.Box.W(), Height: p.Box.H()}
	}
	return form.Page{Width: x.Rect.X1, Height: x.Rect.Y1}
}

type Builder struct {
	*look.Kit
	form     types.Dict
	fields   types.Array
	annots   map[int]types.Array // new widgets by page index
	groups   map[string]*group
	pictures map[string][]byte // of buttons, by address
	icons    map[string]look.Icon
	signed   bool
	compiled rules.Compiled
	events   []form.Step
	shows    map[string]form.Show         // where fields show, by name
	resets   []reset                      // actions that clear fields
	states   map[string]map[string]string // the names of states that are not what they stand for, by field and export value
	exports  map[string]types.Array       // what those states stand for, by field
	starts   map[string]string            // the state that is on at the start, by the name of the field
	owns     map[string]types.IndirectRef // the dictionary of a field that is written new, by name
	placed   map[string]types.IndirectRef // widgets by the id of their row
	anew     bool                         // the file asks for all appearances to be made anew
}

func NewBuilder(f *object.File) *Builder {
	return &Builder{
		Kit: &look.Kit{File: f}, annots: map[int]types.Array{}, groups: map[string]*group{}, icons: map[string]look.Icon{},
		placed: map[string]types.IndirectRef{}, owns: map[string]types.IndirectRef{}, states: map[string]map[string]string{},
		exports: map[string]types.Array{},
	}
}

// group is a radio button field with its kids.
type group struct {
	ref  types.IndirectRef
	dict types.Dict
	kids types.Array
}

// AcroForm finds or begins the interactive form dictionary (ISO 32000-2, 12.7.3).
func (b *Builder) AcroForm() error {
	cat, err := b.Catalog()
	if err != nil {
		return err
	}
	o, has := cat.Find("AcroForm")
	if d := b.Dict(o); has && d != nil {
		b.form = d
		if ref, ok := o.(types.IndirectRef); ok {
			b.Touch(ref)
		} else if err := b.TouchCatalog(); err != nil {
			return err
		}
	} else {
		b.form = types.Dict{}
		ref, err := b.Add(b.form)
		if err != nil {
			return err
		}
		cat.Update("AcroForm", ref)
		if err := b.TouchCatalog(); err != nil {
			return err
		}
	}
	if anew, ok := object.Entry(b.form, "NeedAppearances").(types.Boolean); ok {
		b.anew = bool(anew)
	}
	b.form.Delete("NeedAppearances") // every field brings its own
	b.form.Delete("XFA")             // would show other fields than these
	b.fields = slices.Clone(b.Array(object.Entry(b.form, "Fields")))
	if err := b.Begin(); err != nil {
		return err
	}
	if !b.form.HasEntry("DA") {
		b.form.Update("DA", types.StringLiteral("/Helv 0 Tf 0 g"))
	}
	return nil
}

// Finish hangs what was made into the form dictionary and the pages.
func (b *Builder) Finish() error {
	for _, g := range b.groups {
		g.dict.Update("Kids", g.kids)
	}
	b.form.Update("Fields", b.fields)
	res := types.Dict{}
	for k, v := range b.Dict(object.Entry(b.form, "DR")) {
		res[k] = v
	}
	fonts := types.Dict{}
	for k, v := range b.Dict(object.Entry(res, "Font")) {
		fonts[k] = v
	}
	if err := b.Kit.Finish(fonts); err != nil {
		return err
	}
	res.Update("Font", fonts)
	b.form.Update("DR", res)
	if b.signed {
		b.form.Update("SigFlags", types.Integer(b.Integer(object.Entry(b.form, "SigFlags"))|object.SigFlagSignaturesExist))
	}
	for i, refs := range b.annots {
		p := b.Pages[i]
		all := slices.Clone(b.Array(object.Entry(p.Dict, "Annots")))
		p.Dict.Update("Annots", append(all, refs...))
		// The order of the annotations is the tab order. W says so to PDF 2.0
		// readers (ISO 32000-2, table 31); older ones take array order for what they
		// do not know.
		p.Dict.Update("Tabs", types.Name("W"))
		b.Touch(p.Ref)
	}
	return nil
}

func fieldType(k form.Kind) string {
	switch k {
	case form.CheckBox, form.Radio, form.Button:
		return "Btn"
	case form.Choice:
		return "Ch"
	case form.Signature:
		return "Sig"
	}
	return "Tx"
}

// field writes one field with its widget, merged into one dictionary (ISO
// 32000-2, 12.5.6.19); a radio button becomes a kid of its group.
func (b *Builder) field(x form.Field) error {
	p := b.Pages[x.Page-1]
	r := x.Rect.Shift(p.Origin.X, p.Origin.Y)
	l := look.LooksOfField(x, p.Rotate)
	d := types.Dict{
		"Type": types.Name("Annot"), "Subtype": types.Name("Widget"), "Rect": object.RectArray(r),
		"F": types.Integer(look.AnnotFlags(x)), "P": p.Ref,
	}
	mk := types.Dict{}
	if turn := l.Rotate % 360; turn != 0 {
		mk["R"] = types.Integer(turn)
	}
	look.Frame(x.Look, d, mk)
	own := d // where the entries of the field itself go
	var g *group
	if x.Kind == form.Radio || x.Linked { // several widgets of one field (ISO 32000-2, 12.7.4.1)
		g = b.groups[x.Name]
		if g == nil {
			var err error
			if g, err = b.groupFor(x.Name, x.Kind == form.Radio); err != nil {
				return err
			}
			b.groups[x.Name] = g
		}
		d["Parent"] = g.ref
		own = g.dict
	}
	own.Update("FT", types.Name(fieldType(x.Kind)))
	own.Update("T", object.Str(x.Name))
	if ff := look.Flags(x); ff != 0 {
		own.Update("Ff", types.Integer(ff))
	}
	if x.Tooltip != "" {
		if !own.HasEntry("TU") {
			own.Update("TU", object.Str(x.Tooltip))
		}
		d["TU"] = object.Str(x.Tooltip) // at each button of a group too: several readers look no further
	}
	if err := b.kind(x, d, own, mk, r, l); err != nil {
		return err
	}
	if aa := actionsOf(b.compiled.Fields[x.Name]); aa != nil {
		own.Update("AA", aa)
	}
	if err := b.steps(x, d, nil); err != nil {
		return err
	}
	if len(mk) > 0 {
		d["MK"] = mk
	}
	ref, err := b.Add(d)
	if err != nil {
		return err
	}
	b.owns[x.Name] = ref
	if g != nil {
		g.kids = append(g.kids, ref)
		b.owns[x.Name] = g.ref
	} else {
		b.fields = append(b.fields, ref)
	}
	b.annots[x.Page-1] = append(b.annots[x.Page-1], ref)
	if b.placed != nil {
		b.placed[x.ID] = ref
	}
	return nil
}

// groupFor finds the radio button field of a name in the file, or begins a field with
// several widgets.
func (b *Builder) groupFor(name string, radio bool) (*group, error) {
	for _, o := range b.fields {
		if !radio {
			break
		}
		ref, ok := o.(types.IndirectRef)
		d := b.Dict(o)
		if ok && b.Text(object.Entry(d, "T")) == name && b.Name(object.Entry(d, "FT")) == "Btn" &&
			b.Integer(object.Entry(d, "Ff"))&object.FlagRadio != 0 && d.HasEntry("Kids") {
			b.Touch(ref)
			return &group{ref: ref, dict: d, kids: slices.Clone(b.Array(object.Entry(d, "Kids")))}, nil
		}
	}
	g := &group{dict: types.Dict{}}
	ref, err := b.Add(g.dict)
	if err != nil {
		return nil, err
	}
	g.ref = ref
	b.fields = append(b.fields, ref)
	return g, nil
}

// kind adds what is particular to a kind of field, and its appearance.
func (b *Builder) kind(x form.Field, d, own, mk types.Dict, r geom.Rect, l look.Setting) error {
	w, h := l.Inner(r)
	switch x.Kind {
	case form.CheckBox, form.Radio:
		on := b.state(x.Name, x.OnState())
		if opt := b.exports[x.Name]; len(opt) > 0 {
			own.Update("Opt", opt)
		}
		ground := look.FrameContent(x.Look, w, h, x.Kind == form.Radio)
		yes, err := look.Appearance(b.Kit.File, ground+look.MarkContent(x, w, h), r, l, nil)
		if err != nil {
			return err
		}
		off, err := look.Appearance(b.Kit.File, ground, r, l, nil)
		if err != nil {
			return err
		}
		d["AP"] = types.Dict{"N": types.Dict{on: yes, "Off": off}}
		d["AS"] = types.Name("Off")
		mk["CA"] = types.StringLiteral(look.MarkSign(x))
		if !own.HasEntry("V") {
			own.Update("V", types.Name("Off"))
		}
		if x.On() {
			d["AS"] = object.NameOf(on)
		}
		if state := b.starts[x.Name]; state != "" { // the one that is on; the value is that of the field
			own.Update("V", object.NameOf(b.state(x.Name, state)))
			own.Update("DV", object.NameOf(b.state(x.Name, state)))
		}
		own.Update("DA", types.StringLiteral("/ZaDb 0 Tf "+look.TypeColour(x.Look)))
		return nil
	case form.Signature:
		b.signed = true
		ap, err := look.Appearance(b.Kit.File, look.FrameContent(x.Look, w, h, false), r, l, nil)
		d["AP"] = types.Dict{"N": ap}
		return err
	case form.Button:
		return b.button(x, d, mk, r, l)
	}
	shown, hint := x.Shown(), false
	if shown == "" && x.Hint != "" {
		shown, hint = x.Hint, true
	}
	if x.Password && !hint {
		shown = strings.Repeat("*", len([]rune(shown)))
	}
	words := shown
	if x.Kind == form.Choice && (x.List == form.ListBox || x.List == form.ManyList) {
		for _, o := range x.Options {
			words += o.Label
		}
	}
	pick := func() (types.Dict, look.Typeface, error) { return b.FontsFor(words, b.FaceOf(x)) }
	if hint {
		l.Colour = hintColour
		if words == shown {
			pick = func() (types.Dict, look.Typeface, error) { return b.HintFont(shown) }
		}
	}
	fonts, face, err := pick()
	if err != nil {
		return err
	}
	content := look.TextContent(shown, w, h, l, face)
	if x.Kind == form.Choice && (x.List == form.ListBox || x.List == form.ManyList) {
		content = look.ListContent(look.Listed(x), []string{x.Shown()}, w, h, l, face)
	}
	ap, err := look.Appearance(b.Kit.File, look.FrameContent(x.Look, w, h, false)+content, r, l, fonts)
	if err != nil {
		return err
	}
	d["AP"] = types.Dict{"N": ap}
	da, err := b.AppearanceString(x)
	if err != nil {
		return err
	}
	d["DA"] = da
	if l.Align != 0 {
		d["Q"] = types.Integer(l.Align)
	}
	if x.Default != "" {
		own["V"], own["DV"] = object.Str(x.Default), object.Str(x.Default)
	}
	if x.Kind == form.Choice {
		own["Opt"] = optionArray(look.Listed(x))
		return nil
	}
	if n := cmp.Or(x.Comb, x.MaxLen); n > 0 { // a comb needs MaxLen (ISO 32000-2, table 231, bit 25)
		own["MaxLen"] = types.Integer(n)
	}
	return nil
}

// hintColour is the grey that hints are written in.
const hintColour = "0.55 g"

// optionArray is the list of a choice field (ISO 32000-2, table 234, /Opt).
func optionArray(options []form.Option) types.Array {
	opt := types.Array{}
	for _, o := range options {
		if o.Export != "" && o.Export != o.Label {
			opt = append(opt, types.Array{object.Str(o.Export), object.Str(o.Label)})
		} else {
			opt = append(opt, object.Str(o.Label))
		}
	}
	return opt
}
