package write

import (
	"cmp"
	"errors"
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

// mend brings the fields of the file itself to what the draft says of them. Fields
// that are as they were are not touched; what a row cannot say is left as it is.
// Fields that the draft has dropped, or turned into another kind, are taken out.
// It returns the rows that must be written anew.
func (b *Builder) mend(rows []form.Field) ([]form.Field, error) {
	ws, err := read.WidgetsOf(b.Kit.File)
	if err != nil {
		return nil, err
	}
	byObject := map[int]form.Field{}
	var fresh []form.Field
	for _, x := range rows {
		if x.Origin != nil {
			byObject[x.Origin.Object] = x
		} else {
			fresh = append(fresh, x)
		}
	}
	for _, w := range ws {
		if x, kept := byObject[objectOf(w)]; kept && w.On != w.Export {
			if b.states[x.Name] == nil {
				b.states[x.Name] = map[string]string{}
			}
			b.states[x.Name][x.OnState()] = w.On
		}
	}
	gone := map[int]bool{}
	renamed := map[string]string{}
	for _, w := range ws {
		if len(w.Refs) == 0 || w.Page == 0 {
			continue
		}
		n := w.Refs[0].ObjectNumber.Value()
		x, kept := byObject[n]
		switch {
		case !kept && read.Rowless(b.Kit.File, w): // nobody could take it out
		case !kept:
			gone[n] = true
		case x.Kind != w.Kind:
			gone[n] = true
			x.Origin = nil
			x.Name = strings.ReplaceAll(x.Name, ".", "_")
			fresh = append(fresh, x)
		default:
			if err := b.mendOne(w, x, renamed); err != nil {
				return nil, fmt.Errorf("field %s: %w", x.Name, err)
			}
			b.placed[x.ID] = w.Refs[0]
		}
		delete(byObject, n)
	}
	for _, x := range byObject { // its object is not there any more: write it anew
		x.Origin = nil
		x.Name = strings.ReplaceAll(x.Name, ".", "_")
		fresh = append(fresh, x)
	}
	b.takeOut(gone)
	slices.SortStableFunc(fresh, func(a, b form.Field) int { return cmp.Or(cmp.Compare(a.Page, b.Page), cmp.Compare(a.Order, b.Order)) })
	return fresh, nil
}

// objectOf is the number of the object of a widget; 0 when it is none of its own.
func objectOf(w read.Widget) int {
	if len(w.Refs) == 0 {
		return 0
	}
	return w.Refs[0].ObjectNumber.Value()
}

// mendOne changes what differs between a widget and its row.
func (b *Builder) mendOne(w read.Widget, x form.Field, renamed map[string]string) error {
	was := read.Row(b.Kit.File, w)
	d := w.Dict
	own := func() types.Dict { return b.FieldDict(w) }
	touched := false
	// A field that reaches off its page came as the part of it that is on it.
	came := was.Rect.Clamp(geom.Rect{X1: b.Pages[w.Page-1].Box.W(), Y1: b.Pages[w.Page-1].Box.H()})
	if object.Near(came, x.Rect) {
		x.Rect = was.Rect
	}
	if !object.Near(was.Rect, x.Rect) {
		p := b.Pages[w.Page-1].Origin
		d.Update("Rect", object.RectArray(x.Rect.Shift(p.X, p.Y)))
		touched = true
	}
	if was.Name != x.Name && renamed[was.Name] != x.Name {
		if err := b.rename(w, x.Name); err != nil {
			return err
		}
		renamed[was.Name] = x.Name
	}
	if was.Tooltip != x.Tooltip {
		at := []types.Dict{own()}
		if d.HasEntry("TU") { // a button of a group that has its own
			at = append(at, d)
			touched = true
		}
		for _, d := range at {
			if x.Tooltip == "" {
				d.Delete("TU")
			} else {
				d.Update("TU", object.Str(x.Tooltip))
			}
		}
	}
	flags := w.Flags ^ (look.Flags(was) ^ look.Flags(x)) // those that differ change sides
	if flags != w.Flags {
		own().Update("Ff", types.Integer(flags))
	}
	if was.Shows() != x.Shows() || was.Locked != x.Locked {
		const ours = object.AnnotHidden | object.AnnotPrint | object.AnnotNoView | object.AnnotLocked
		d.Update("F", types.Integer(w.Annot&^ours|look.AnnotFlags(x)))
		touched = true
	}
	relook := was.Look != x.Look
	if relook {
		if err := b.mendLook(w, x); err != nil {
			return err
		}
		touched = true
	}
	if n := cmp.Or(x.Comb, x.MaxLen); x.Kind == form.Text && n != was.MaxLen {
		if n == 0 {
			own().Delete("MaxLen")
		} else {
			own().Update("MaxLen", types.Integer(n))
		}
	}
	if !slices.Equal(was.Options, x.Options) || was.BlankFirst != x.BlankFirst {
		own().Update("Opt", optionArray(look.Listed(x)))
	}
	if compiled := b.compiled.Fields[x.Name]; was.Format != x.Format || compiled["C"] != "" || len(x.Checks) > 0 || w.Ours {
		b.reformat(own(), compiled, was.Format != x.Format || len(x.Checks) > 0 || w.Ours)
	}
	if was.Action != x.Action || !slices.Equal(was.Steps, x.Steps) {
		if err := b.steps(x, d, was.Steps); err != nil {
			return err
		}
		touched = true
	}
	changed := was.Rect.W() != x.Rect.W() || was.Rect.H() != x.Rect.H() || was.Default != x.Default ||
		was.Multiline != x.Multiline || was.Comb != x.Comb || relook || was.Hint != x.Hint || was.Password != x.Password ||
		was.List != x.List ||
		x.List != form.Dropdown && x.List != form.ComboBox && !slices.Equal(was.Options, x.Options)
	switch {
	case x.Kind == form.Button:
		if was.Caption != x.Caption || was.Face != x.Face || relook {
			if err := b.mendButton(w, x, was); err != nil {
				return err
			}
			touched = true
		}
	case (x.Kind == form.Text || x.Kind == form.Choice) && (changed || !w.HasLooks || b.anew):
		if was.Default != x.Default {
			own().Update("V", object.Str(x.Default))
			own().Update("DV", object.Str(x.Default))
		}
		v := w
		v.Options = look.Listed(x)
		v.Rect = x.Rect
		if v.Flags = flags; x.Comb > 0 {
			v.MaxLen = x.Comb
		}
		shown, hint := x.Shown(), false
		if shown == "" && x.Hint != "" {
			shown, hint = x.Hint, true
		}
		err := b.setText([]read.Widget{v}, shown, hint)
		if err != nil && (changed || !errors.Is(err, look.ErrNoTypeface)) { // else it shows as it did when it came
			return err
		}
	case (x.Kind == form.CheckBox || x.Kind == form.Radio) && (relook || was.Mark != x.Mark):
		if err := b.mendMark(w, x); err != nil {
			return err
		}
		touched = true
	}
	if x.Kind == form.CheckBox || x.Kind == form.Radio {
		if was.Export != x.Export {
			b.mendExport(w, x)
			touched = true
		}
		touched = b.mendStart(w, x, was) || touched
	}
	if touched {
		b.TouchWidget(w)
	}
	return nil
}

// mendExport gives the state of a box that is on another name; its drawings stay.
func (b *Builder) mendExport(w read.Widget, x form.Field) {
	if w.On != w.Export { // an option, whose place stays
		d := b.FieldDict(w)
		opt := slices.Clone(b.Array(object.Entry(d, "Opt")))
		n, _ := strconv.Atoi(w.On)
		opt[n] = object.Str(x.OnState())
		d.Update("Opt", opt)
		return
	}
	ap := types.Dict{}
	for which, o := range b.Dict(object.Entry(w.Dict, "AP")) {
		states := types.Dict{}
		for k, v := range b.Dict(o) {
			if k == w.On {
				k = b.state(x.Name, x.OnState())
			}
			states[k] = v
		}
		ap[which] = states
	}
	w.Dict.Update("AP", ap)
}

// mendStart writes what is on at the start, where it differs from what the widget shows or from the
// value that its field has: the state, the value and what a reset gives agree.
func (b *Builder) mendStart(w read.Widget, x, was form.Field) bool {
	state, value := "Off", cmp.Or(b.starts[x.Name], "Off")
	if x.On() {
		state = x.OnState()
	}
	shows := cmp.Or(w.State, "Off")
	if was.On() == x.On() && shows == state && cmp.Or(w.Value, "Off") == value && was.Origin.Odd == x.Origin.Odd {
		return false
	}
	d := b.FieldDict(w)
	value = b.state(x.Name, value)
	d.Update("V", object.NameOf(value))
	if d.HasEntry("DV") || value != "Off" {
		d.Update("DV", object.NameOf(value))
	}
	w.Dict.Update("AS", object.NameOf(b.state(x.Name, state)))
	return true
}

// mendLook writes what a row says of type, border and fill over what the widget has.
func (b *Builder) mendLook(w read.Widget, x form.Field) error {
	d := w.Dict
	mk := types.Dict{}
	for k, v := range b.Dict(object.Entry(d, "MK")) {
		if k != "BG" && k != "BC" {
			mk[k] = v
		}
	}
	d.Delete("BS")
	d.Delete("Border")
	look.Frame(x.Look, d, mk)
	mk["R"] = types.Integer((b.Pages[w.Page-1].Rotate + x.Look.Turn) % 360)
	d.Update("MK", mk)
	if x.Kind != form.CheckBox && x.Kind != form.Radio && x.Kind != form.Signature {
		da, err := b.AppearanceString(x)
		if err != nil {
			return err
		}
		d.Update("DA", da)
		d.Update("Q", types.Integer(look.LooksOfField(x, 0).Align))
	}
	return nil
}

// mendMark draws the mark of a check box or radio button anew.
func (b *Builder) mendMark(w read.Widget, x form.Field) error {
	l := b.looksOf(w)
	width, height := l.Inner(x.Rect)
	ground := look.FrameContent(x.Look, width, height, x.Kind == form.Radio)
	yes, err := look.Appearance(b.Kit.File, ground+look.MarkContent(x, width, height), x.Rect, l, nil)
	if err != nil {
		return err
	}
	off, err := look.Appearance(b.Kit.File, ground, x.Rect, l, nil)
	if err != nil {
		return err
	}
	w.Dict.Update("AP", types.Dict{"N": types.Dict{b.state(x.Name, x.OnState()): yes, "Off": off}})
	mk := types.Dict{}
	for k, v := range b.Dict(object.Entry(w.Dict, "MK")) {
		mk[k] = v
	}
	mk["CA"] = types.StringLiteral(look.MarkSign(x))
	w.Dict.Update("MK", mk)
	return nil
}

// reformat replaces the calculation of a field where the draft has one, and if all its format
// and validation scripts too; other scripts stay.
func (b *Builder) reformat(own types.Dict, compiled rules.Scripts, all bool) {
	aa := types.Dict{}
	for k, v := range b.Dict(object.Entry(own, "AA")) {
		if !all || k != "K" && k != "F" && k != "V" {
			aa[k] = v
		}
	}
	if js := read.Script(b.Kit.File, object.Entry(aa, "C")); strings.Contains(js, "zm_") {
		delete(aa, "C")
	}
	for trigger, action := range actionsOf(compiled) {
		aa[trigger] = action
	}
	if len(aa) == 0 {
		own.Delete("AA")
	} else {
		own.Update("AA", aa)
	}
}

// rename gives the field of a widget another full name. When only the last part
// differs the field stays where it is in the tree; otherwise it becomes a root of
// its own, with what it had inherited.
func (b *Builder) rename(w read.Widget, name string) error {
	at := slices.IndexFunc(w.Refs, func(r types.IndirectRef) bool { return b.Dict(r).HasEntry("T") })
	if at < 0 {
		return fmt.Errorf("it has no name of its own")
	}
	ref := w.Refs[at]
	d := b.Dict(ref)
	parent := w.Name[:strings.LastIndexByte(w.Name, '.')+1]
	b.Touch(ref)
	if strings.HasPrefix(name, parent) {
		d.Update("T", object.Str(strings.TrimPrefix(name, parent)))
		return nil
	}
	for _, up := range w.Refs[at+1:] { // inheritable entries (ISO 32000-2, table 226)
		for _, k := range []string{"FT", "Ff", "V", "DV", "DA", "Q", "MaxLen", "Opt", "AA"} {
			if o, ok := b.Dict(up).Find(k); ok && !d.HasEntry(k) {
				d.Update(k, o)
			}
		}
	}
	if at+1 < len(w.Refs) {
		up := b.Dict(w.Refs[at+1])
		up.Update("Kids", without(b.Array(object.Entry(up, "Kids")), map[int]bool{ref.ObjectNumber.Value(): true}))
		b.Touch(w.Refs[at+1])
		d.Delete("Parent")
		b.fields = append(b.fields, ref)
	}
	d.Update("T", object.Str(strings.ReplaceAll(name, ".", "_")))
	return nil
}

func without(refs types.Array, gone map[int]bool) types.Array {
	return slices.DeleteFunc(slices.Clone(refs), func(o types.Object) bool {
		r, ok := o.(types.IndirectRef)
		return ok && gone[r.ObjectNumber.Value()]
	})
}

// TakeOut removes widgets, by the numbers of their objects, from their pages, from the tree of fields and from the order of calculations.
func (b *Builder) TakeOut(gone map[int]bool) {
	b.takeOut(gone)
	if co := b.Array(object.Entry(b.form, "CO")); len(co) > 0 { // fields that are gone with all their widgets
		left := map[int]bool{}
		b.each(b.fields, 0, func(n int) { left[n] = true })
		kept := slices.DeleteFunc(slices.Clone(co), func(o types.Object) bool {
			r, ok := o.(types.IndirectRef)
			return ok && !left[r.ObjectNumber.Value()]
		})
		b.form.Update("CO", kept)
	}
}

// each tells the number of every field and widget of a tree.
func (b *Builder) each(refs types.Array, depth int, tell func(int)) {
	for _, o := range refs {
		if r, ok := o.(types.IndirectRef); ok {
			tell(r.ObjectNumber.Value())
		}
		if depth < 32 {
			b.each(b.Array(object.Entry(b.Dict(o), "Kids")), depth+1, tell)
		}
	}
}

// takeOut removes widgets from their pages and from the tree of fields.
func (b *Builder) takeOut(gone map[int]bool) {
	if len(gone) == 0 {
		return
	}
	for _, p := range b.Pages {
		annots := b.Array(object.Entry(p.Dict, "Annots"))
		if kept := without(annots, gone); len(kept) != len(annots) {
			p.Dict.Update("Annots", kept)
			b.Touch(p.Ref)
		}
	}
	b.fields = b.prune(b.fields, gone, 0)
}

// prune drops what is gone from a list of fields, and fields whose kids are all gone.
func (b *Builder) prune(refs types.Array, gone map[int]bool, depth int) types.Array {
	if depth > 32 {
		return refs
	}
	out := types.Array{}
	for _, o := range refs {
		r, ok := o.(types.IndirectRef)
		if ok && gone[r.ObjectNumber.Value()] {
			continue
		}
		d := b.Dict(o)
		if kids := b.Array(object.Entry(d, "Kids")); len(kids) > 0 {
			left := b.prune(kids, gone, depth+1)
			if len(left) == 0 {
				continue
			}
			if len(left) != len(kids) {
				d.Update("Kids", left)
				if ok {
					b.Touch(r)
				}
			}
		}
		out = append(out, o)
	}
	return out
}

// order puts the widgets of every page into the order of the draft: other
// annotations first, as they are. Pages in that order already are not touched.
func (b *Builder) order(rows []form.Field) {
	rank := map[int]int{}
	for i, x := range rows {
		if r, ok := b.placed[x.ID]; ok {
			rank[r.ObjectNumber.Value()] = i + 1
		}
	}
	at := func(o types.Object) int {
		r, _ := o.(types.IndirectRef)
		return rank[r.ObjectNumber.Value()]
	}
	for _, p := range b.Pages {
		annots := slices.Clone(b.Array(object.Entry(p.Dict, "Annots")))
		ours, places := types.Array{}, []int{} // what is no row stays where it is
		for i, o := range annots {
			if at(o) > 0 {
				ours, places = append(ours, o), append(places, i)
			}
		}
		byRank := func(a, c types.Object) int { return cmp.Compare(at(a), at(c)) }
		if slices.IsSortedFunc(ours, byRank) {
			continue
		}
		slices.SortStableFunc(ours, byRank)
		for i, o := range ours {
			annots[places[i]] = o
		}
		p.Dict.Update("Annots", annots)
		p.Dict.Update("Tabs", types.Name("W"))
		b.Touch(p.Ref)
	}
}

// WithoutLinks takes out the links to web addresses that begin with prefix.
func WithoutLinks(b []byte, prefix string) (_ []byte, err error) {
	defer object.Recovered(&err)
	f, err := object.Parse(b)
	if err != nil {
		return nil, err
	}
	for _, p := range f.Pages {
		annots := f.Array(object.Entry(p.Dict, "Annots"))
		kept := slices.DeleteFunc(slices.Clone(annots), func(o types.Object) bool {
			_, _, ours := read.LinkTo(f, o, prefix)
			return ours
		})
		if len(kept) == len(annots) {
			continue
		}
		if len(kept) == 0 {
			p.Dict.Delete("Annots")
		} else {
			p.Dict.Update("Annots", kept)
		}
		f.Touch(p.Ref)
	}
	return f.Increment()
}
