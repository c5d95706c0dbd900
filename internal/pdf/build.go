package pdf

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
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

func build(src []byte, t *form.Template, whole bool) ([]byte, error) {
	f, err := parse(src)
	if err != nil {
		return nil, err
	}
	b := newBuilder(f)
	b.pictures, b.events = t.Pictures, t.Details.Events
	fields := slices.Clone(t.Placed())
	slices.SortStableFunc(fields, func(a, b form.Field) int { return cmp.Or(cmp.Compare(a.Page, b.Page), cmp.Compare(a.Order, b.Order)) })
	for _, x := range fields {
		if x.Page < 1 || x.Page > len(f.pages) {
			return nil, fmt.Errorf("%s is on page %d, but the file has %d pages", x.Name, x.Page, len(f.pages))
		}
		if err := x.Check(pageOf(f, x)); err != nil {
			return nil, err
		}
	}
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
	if b.said, err = b.rulesSaid(); err != nil {
		return nil, err
	}
	if len(fields) > 0 || b.hasForm() {
		if err := b.acroForm(); err != nil {
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
		if err := b.finish(); err != nil {
			return nil, err
		}
		if whole {
			b.ordered = true
			b.order(fields)
		}
	}
	return f.increment()
}

// clash refuses rows with the name of a field that the file has.
func (b *builder) clash(fields []form.Field) error {
	own, err := b.widgets()
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

func (b *builder) hasForm() bool {
	cat, err := b.catalog()
	return err == nil && cat.HasEntry("AcroForm")
}

// pageOf gives a page that holds the field's rectangle wherever the file's boxes
// are: the bench has checked it against the real page already.
func pageOf(f *file, x form.Field) form.Page {
	if p := f.pages[x.Page-1]; p.box.W() > 0 {
		return form.Page{Width: p.box.W(), Height: p.box.H()}
	}
	return form.Page{Width: x.Rect.X1, Height: x.Rect.Y1}
}

type builder struct {
	*fontKit
	form     types.Dict
	fields   types.Array
	annots   map[int]types.Array // new widgets by page index
	groups   map[string]*group
	pictures map[string][]byte // of buttons, by address
	icons    map[string]icon
	signed   bool
	compiled rules.Compiled
	events   []form.Step
	said     map[string]ruleSaid          // what the file said of rules before
	owns     map[string]types.IndirectRef // the dictionary of a field that is written new, by name
	placed   map[string]types.IndirectRef // widgets by the id of their row
	ordered  bool
}

func newBuilder(f *file) *builder {
	return &builder{
		fontKit: &fontKit{file: f}, annots: map[int]types.Array{}, groups: map[string]*group{}, icons: map[string]icon{},
		placed: map[string]types.IndirectRef{}, owns: map[string]types.IndirectRef{},
	}
}

// group is a radio button field with its kids.
type group struct {
	ref  types.IndirectRef
	dict types.Dict
	kids types.Array
}

// acroForm finds or begins the interactive form dictionary (ISO 32000-2, 12.7.3).
func (b *builder) acroForm() error {
	cat, err := b.catalog()
	if err != nil {
		return err
	}
	o, has := cat.Find("AcroForm")
	if d := b.dict(o); has && d != nil {
		b.form = d
		if ref, ok := o.(types.IndirectRef); ok {
			b.touch(ref)
		} else if err := b.touchCatalog(); err != nil {
			return err
		}
	} else {
		b.form = types.Dict{}
		ref, err := b.add(b.form)
		if err != nil {
			return err
		}
		cat.Update("AcroForm", ref)
		if err := b.touchCatalog(); err != nil {
			return err
		}
	}
	b.form.Delete("NeedAppearances") // every field brings its own
	b.form.Delete("XFA")             // would show other fields than these
	b.fields = slices.Clone(b.array(entry(b.form, "Fields")))
	if err := b.begin(); err != nil {
		return err
	}
	if !b.form.HasEntry("DA") {
		b.form.Update("DA", types.StringLiteral("/Helv 0 Tf 0 g"))
	}
	return nil
}

// finish hangs what was made into the form dictionary and the pages.
func (b *builder) finish() error {
	for _, g := range b.groups {
		g.dict.Update("Kids", g.kids)
	}
	b.form.Update("Fields", b.fields)
	res := types.Dict{}
	for k, v := range b.dict(entry(b.form, "DR")) {
		res[k] = v
	}
	fonts := types.Dict{}
	for k, v := range b.dict(entry(res, "Font")) {
		fonts[k] = v
	}
	if err := b.fontKit.finish(fonts); err != nil {
		return err
	}
	res.Update("Font", fonts)
	b.form.Update("DR", res)
	if b.signed {
		b.form.Update("SigFlags", types.Integer(b.integer(entry(b.form, "SigFlags"))|SigFlagSignaturesExist))
	}
	for i, refs := range b.annots {
		p := b.pages[i]
		all := slices.Clone(b.array(entry(p.dict, "Annots")))
		p.dict.Update("Annots", append(all, refs...))
		// The order of the annotations is the tab order. W says so to PDF 2.0
		// readers (ISO 32000-2, table 31); older ones take array order for what they
		// do not know.
		p.dict.Update("Tabs", types.Name("W"))
		b.touch(p.ref)
	}
	return nil
}

// Flags is the field flags /Ff that a field is written with.
func Flags(x form.Field) int {
	n := 0
	set := func(on bool, flag int) {
		if on {
			n |= flag
		}
	}
	set(x.ReadOnly, FlagReadOnly)
	set(x.Required && x.Kind != form.Button, FlagRequired)
	set(x.NoExport, FlagNoExport)
	switch x.Kind {
	case form.Text:
		set(x.Multiline, FlagMultiline)
		set(x.Comb > 0, FlagComb)
		set(x.Comb > 0 || x.NoScroll, FlagDoNotScroll)
		set(x.NoSpell, FlagDoNotSpellCheck)
		set(x.Password, FlagPassword)
		set(x.FilePath, FlagFileSelect)
	case form.Radio:
		n |= FlagRadio | FlagNoToggleToOff
		set(x.Unison, FlagRadiosInUnison)
	case form.Button:
		n |= FlagPushbutton
	case form.Choice:
		set(x.List == form.Dropdown || x.List == form.ComboBox, FlagCombo)
		set(x.List == form.ComboBox, FlagEdit)
		set(x.List == form.ManyList, FlagMultiSelect)
		set(x.Sort, FlagSort)
		set(x.NoSpell, FlagDoNotSpellCheck)
	}
	return n
}

// OnState is the export value of a check box or radio button.
func OnState(x form.Field) string {
	if x.Export == "" || x.Export == "Off" {
		return "Yes"
	}
	return x.Export
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
func (b *builder) field(x form.Field) error {
	p := b.pages[x.Page-1]
	r := x.Rect.Shift(p.origin.X, p.origin.Y)
	l := looksOfField(x, p.rotate)
	d := types.Dict{
		"Type": types.Name("Annot"), "Subtype": types.Name("Widget"), "Rect": rectArray(r),
		"F": types.Integer(annotFlags(x)), "P": p.ref,
	}
	mk := types.Dict{}
	if turn := l.rotate % 360; turn != 0 {
		mk["R"] = types.Integer(turn)
	}
	frame(x.Look, d, mk)
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
	own.Update("T", str(x.Name))
	if ff := Flags(x); ff != 0 {
		own.Update("Ff", types.Integer(ff))
	}
	if x.Tooltip != "" {
		if !own.HasEntry("TU") {
			own.Update("TU", str(x.Tooltip))
		}
		d["TU"] = str(x.Tooltip) // at each button of a group too: several readers look no further
	}
	if err := b.kind(x, d, own, mk, r, l); err != nil {
		return err
	}
	if aa := actionsOf(b.compiled.Fields[x.Name]); aa != nil {
		own.Update("AA", aa)
	}
	if err := b.steps(x, d); err != nil {
		return err
	}
	if len(mk) > 0 {
		d["MK"] = mk
	}
	ref, err := b.add(d)
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
func (b *builder) groupFor(name string, radio bool) (*group, error) {
	for _, o := range b.fields {
		if !radio {
			break
		}
		ref, ok := o.(types.IndirectRef)
		d := b.dict(o)
		if ok && b.text(entry(d, "T")) == name && b.name(entry(d, "FT")) == "Btn" && b.integer(entry(d, "Ff"))&FlagRadio != 0 && d.HasEntry("Kids") {
			b.touch(ref)
			return &group{ref: ref, dict: d, kids: slices.Clone(b.array(entry(d, "Kids")))}, nil
		}
	}
	g := &group{dict: types.Dict{}}
	ref, err := b.add(g.dict)
	if err != nil {
		return nil, err
	}
	g.ref = ref
	b.fields = append(b.fields, ref)
	return g, nil
}

// kind adds what is particular to a kind of field, and its appearance.
func (b *builder) kind(x form.Field, d, own, mk types.Dict, r geom.Rect, l looks) error {
	w, h := l.inner(r)
	switch x.Kind {
	case form.CheckBox, form.Radio:
		on := OnState(x)
		ground := frameContent(x.Look, w, h, x.Kind == form.Radio)
		yes, err := b.appearance(ground+markContent(x, w, h), r, l, nil)
		if err != nil {
			return err
		}
		off, err := b.appearance(ground, r, l, nil)
		if err != nil {
			return err
		}
		d["AP"] = types.Dict{"N": types.Dict{types.EncodeName(on): yes, "Off": off}}
		d["AS"] = types.Name("Off")
		mk["CA"] = types.StringLiteral(markSign(x))
		if !own.HasEntry("V") {
			own.Update("V", types.Name("Off"))
		}
		if x.Default == on {
			d["AS"] = nameOf(on)
			own.Update("V", nameOf(on))
			own.Update("DV", nameOf(on))
		}
		own.Update("DA", types.StringLiteral("/ZaDb 0 Tf "+typeColour(x.Look)))
		return nil
	case form.Signature:
		b.signed = true
		ap, err := b.appearance(frameContent(x.Look, w, h, false), r, l, nil)
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
	fonts, face, err := b.fontsFor(words, x.Look.Font)
	if err != nil {
		return err
	}
	if hint {
		l.colour = "0.55 g"
	}
	content := textContent(shown, w, h, l, face)
	if x.Kind == form.Choice && (x.List == form.ListBox || x.List == form.ManyList) {
		content = listContent(listed(x), []string{x.Shown()}, w, h, l, face)
	}
	ap, err := b.appearance(frameContent(x.Look, w, h, false)+content, r, l, fonts)
	if err != nil {
		return err
	}
	d["AP"] = types.Dict{"N": ap}
	da, err := b.appearanceString(x.Look)
	if err != nil {
		return err
	}
	d["DA"] = da
	if l.align != 0 {
		d["Q"] = types.Integer(l.align)
	}
	if x.Default != "" {
		own["V"], own["DV"] = str(x.Default), str(x.Default)
	}
	if x.Kind == form.Choice {
		own["Opt"] = optionArray(listed(x))
		return nil
	}
	if n := cmp.Or(x.Comb, x.MaxLen); n > 0 { // a comb needs MaxLen (ISO 32000-2, table 231, bit 25)
		own["MaxLen"] = types.Integer(n)
	}
	return nil
}

// optionArray is the list of a choice field (ISO 32000-2, table 234, /Opt).
func optionArray(options []form.Option) types.Array {
	opt := types.Array{}
	for _, o := range options {
		if o.Export != "" && o.Export != o.Label {
			opt = append(opt, types.Array{str(o.Export), str(o.Label)})
		} else {
			opt = append(opt, str(o.Label))
		}
	}
	return opt
}

// Strip takes every field out of a PDF: the form dictionary and all widgets. The
// pages stay as they are.
func Strip(src []byte) ([]byte, error) {
	f, err := parse(src)
	if err != nil {
		return nil, err
	}
	if err := f.dropFields(func(Widget) (string, error) { return "", nil }); err != nil {
		return nil, err
	}
	return f.increment()
}

// dropFields removes the form and its widgets. The function gives the content
// that takes the place of a widget on its page; empty for none.
func (f *file) dropFields(instead func(Widget) (string, error)) error {
	ws, err := f.widgets()
	if err != nil {
		return err
	}
	content := map[int]string{}
	for _, w := range ws {
		if w.Page == 0 {
			continue
		}
		s, err := instead(w)
		if err != nil {
			return err
		}
		content[w.Page-1] += s
	}
	for i, p := range f.pages {
		annots := f.array(entry(p.dict, "Annots"))
		kept := slices.DeleteFunc(slices.Clone(annots), func(o types.Object) bool {
			return f.name(entry(f.dict(o), "Subtype")) == "Widget"
		})
		if len(kept) == len(annots) && content[i] == "" {
			continue
		}
		if len(kept) == 0 {
			p.dict.Delete("Annots")
		} else {
			p.dict.Update("Annots", kept)
		}
		if content[i] != "" {
			if err := f.appendContent(p, content[i]); err != nil {
				return err
			}
		}
		f.touch(p.ref)
	}
	cat, err := f.catalog()
	if err != nil {
		return err
	}
	if cat.HasEntry("AcroForm") {
		cat.Delete("AcroForm")
		return f.touchCatalog()
	}
	return nil
}

// appendContent draws more on a page, after what is there, in a graphics state
// of its own.
func (f *file) appendContent(p pageObject, content string) error {
	before, err := f.stream([]byte("q\n"), nil)
	if err != nil {
		return err
	}
	after, err := f.stream([]byte("\nQ\n"+content), nil)
	if err != nil {
		return err
	}
	o := entry(p.dict, "Contents")
	list := f.array(o)
	if list == nil && o != nil {
		list = types.Array{o}
	}
	p.dict.Update("Contents", append(append(types.Array{before}, list...), after))
	return nil
}

// contentName puts a name into content syntax.
func contentName(s string) string { return "/" + types.EncodeName(strings.ReplaceAll(s, " ", "_")) }
