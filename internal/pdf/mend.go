package pdf

import (
	"bytes"
	"cmp"
	"encoding/xml"
	"fmt"
	"slices"
	"strings"

	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/rules"
)

// mend brings the fields of the file itself to what the draft says of them. Fields
// that are as they were are not touched; what a row cannot say is left as it is.
// Fields that the draft has dropped, or turned into another kind, are taken out.
// It returns the rows that must be written anew.
func (b *builder) mend(rows []form.Field) ([]form.Field, error) {
	ws, err := b.widgets()
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
	gone := map[int]bool{}
	renamed := map[string]string{}
	for _, w := range ws {
		if len(w.refs) == 0 || w.Page == 0 {
			continue
		}
		n := w.refs[0].ObjectNumber.Value()
		x, kept := byObject[n]
		switch {
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
			b.placed[x.ID] = w.refs[0]
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

// mendOne changes what differs between a widget and its row.
func (b *builder) mendOne(w Widget, x form.Field, renamed map[string]string) error {
	was := b.row(w)
	d := w.widget
	own := func() types.Dict { return b.fieldDict(w) }
	touched := false
	if !near(was.Rect, x.Rect) {
		p := b.pages[w.Page-1].origin
		d.Update("Rect", rectArray(x.Rect.Shift(p.X, p.Y)))
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
				d.Update("TU", str(x.Tooltip))
			}
		}
	}
	flags := w.Flags ^ (Flags(was) ^ Flags(x)) // those that differ change sides
	if flags != w.Flags {
		own().Update("Ff", types.Integer(flags))
	}
	if was.Shows() != x.Shows() || was.Locked != x.Locked {
		const ours = AnnotHidden | AnnotPrint | AnnotNoView | AnnotLocked
		d.Update("F", types.Integer(w.Annot&^ours|annotFlags(x)))
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
		own().Update("Opt", optionArray(listed(x)))
	}
	if compiled := b.compiled.Fields[x.Name]; was.Format != x.Format || compiled["C"] != "" || len(x.Checks) > 0 || w.ours {
		b.reformat(own(), compiled, was.Format != x.Format || len(x.Checks) > 0 || w.ours)
	}
	if was.Action != x.Action || len(x.Steps) > 0 || len(b.said[w.Name].Steps) > 0 {
		if err := b.steps(x, d); err != nil {
			return err
		}
		touched = true
	}
	redraw := !w.HasLooks || was.Rect.W() != x.Rect.W() || was.Rect.H() != x.Rect.H() || was.Default != x.Default || was.Multiline != x.Multiline || was.Comb != x.Comb || relook || was.Hint != x.Hint || was.Password != x.Password || was.List != x.List
	switch {
	case x.Kind == form.Button:
		if was.Caption != x.Caption || was.Face != x.Face || relook {
			if err := b.mendButton(w, x, was); err != nil {
				return err
			}
			touched = true
		}
	case (x.Kind == form.Text || x.Kind == form.Choice) && redraw:
		if was.Default != x.Default {
			own().Update("V", str(x.Default))
			own().Update("DV", str(x.Default))
		}
		v := w
		v.Options = listed(x)
		v.Rect = x.Rect
		if v.Flags = flags; x.Comb > 0 {
			v.MaxLen = x.Comb
		}
		if err := b.setText([]Widget{v}, x.Shown()); err != nil {
			return err
		}
	case (x.Kind == form.CheckBox || x.Kind == form.Radio) && (relook || x.Mark != ""):
		if err := b.mendMark(w, x); err != nil {
			return err
		}
		touched = true
	}
	if (x.Kind == form.CheckBox || x.Kind == form.Radio) && was.Default != x.Default {
		state := cmp.Or(x.Default, "Off")
		own().Update("V", nameOf(state))
		d.Update("AS", nameOf(state))
		touched = true
	}
	if touched {
		b.touchWidget(w)
	}
	return nil
}

// mendLook writes what a row says of type, border and fill over what the widget has.
func (b *builder) mendLook(w Widget, x form.Field) error {
	d := w.widget
	mk := types.Dict{}
	for k, v := range b.dict(entry(d, "MK")) {
		if k != "BG" && k != "BC" {
			mk[k] = v
		}
	}
	d.Delete("BS")
	d.Delete("Border")
	frame(x.Look, d, mk)
	mk["R"] = types.Integer((b.pages[w.Page-1].rotate + x.Look.Turn) % 360)
	d.Update("MK", mk)
	if x.Kind != form.CheckBox && x.Kind != form.Radio && x.Kind != form.Signature {
		da, err := b.appearanceString(x.Look)
		if err != nil {
			return err
		}
		d.Update("DA", da)
		d.Update("Q", types.Integer(looksOfField(x, 0).align))
	}
	return nil
}

// mendMark draws the mark of a check box or radio button anew.
func (b *builder) mendMark(w Widget, x form.Field) error {
	l := b.looksOf(w)
	width, height := l.inner(x.Rect)
	ground := frameContent(x.Look, width, height, x.Kind == form.Radio)
	yes, err := b.appearance(ground+markContent(x, width, height), x.Rect, l, nil)
	if err != nil {
		return err
	}
	off, err := b.appearance(ground, x.Rect, l, nil)
	if err != nil {
		return err
	}
	w.widget.Update("AP", types.Dict{"N": types.Dict{types.EncodeName(w.Export): yes, "Off": off}})
	mk := types.Dict{}
	for k, v := range b.dict(entry(w.widget, "MK")) {
		mk[k] = v
	}
	mk["CA"] = types.StringLiteral(markSign(x))
	w.widget.Update("MK", mk)
	return nil
}

// reformat replaces the calculation of a field where the draft has one, and if all its format
// and validation scripts too; other scripts stay.
func (b *builder) reformat(own types.Dict, compiled rules.Scripts, all bool) {
	aa := types.Dict{}
	for k, v := range b.dict(entry(own, "AA")) {
		if !all || k != "K" && k != "F" && k != "V" {
			aa[k] = v
		}
	}
	if js := b.script(entry(aa, "C")); strings.Contains(js, "zm_") {
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
func (b *builder) rename(w Widget, name string) error {
	at := slices.IndexFunc(w.refs, func(r types.IndirectRef) bool { return b.dict(r).HasEntry("T") })
	if at < 0 {
		return fmt.Errorf("it has no name of its own")
	}
	ref := w.refs[at]
	d := b.dict(ref)
	parent := w.Name[:strings.LastIndexByte(w.Name, '.')+1]
	b.touch(ref)
	if strings.HasPrefix(name, parent) {
		d.Update("T", str(strings.TrimPrefix(name, parent)))
		return nil
	}
	for _, up := range w.refs[at+1:] { // inheritable entries (ISO 32000-2, table 226)
		for _, k := range []string{"FT", "Ff", "V", "DV", "DA", "Q", "MaxLen", "Opt", "AA"} {
			if o, ok := b.dict(up).Find(k); ok && !d.HasEntry(k) {
				d.Update(k, o)
			}
		}
	}
	if at+1 < len(w.refs) {
		up := b.dict(w.refs[at+1])
		up.Update("Kids", without(b.array(entry(up, "Kids")), map[int]bool{ref.ObjectNumber.Value(): true}))
		b.touch(w.refs[at+1])
		d.Delete("Parent")
		b.fields = append(b.fields, ref)
	}
	d.Update("T", str(strings.ReplaceAll(name, ".", "_")))
	return nil
}

func without(refs types.Array, gone map[int]bool) types.Array {
	return slices.DeleteFunc(slices.Clone(refs), func(o types.Object) bool {
		r, ok := o.(types.IndirectRef)
		return ok && gone[r.ObjectNumber.Value()]
	})
}

// takeOut removes widgets from their pages and from the tree of fields.
func (b *builder) takeOut(gone map[int]bool) {
	if len(gone) == 0 {
		return
	}
	for _, p := range b.pages {
		annots := b.array(entry(p.dict, "Annots"))
		if kept := without(annots, gone); len(kept) != len(annots) {
			p.dict.Update("Annots", kept)
			b.touch(p.ref)
		}
	}
	b.fields = b.prune(b.fields, gone, 0)
}

// prune drops what is gone from a list of fields, and fields whose kids are all gone.
func (b *builder) prune(refs types.Array, gone map[int]bool, depth int) types.Array {
	if depth > 32 {
		return refs
	}
	out := types.Array{}
	for _, o := range refs {
		r, ok := o.(types.IndirectRef)
		if ok && gone[r.ObjectNumber.Value()] {
			continue
		}
		d := b.dict(o)
		if kids := b.array(entry(d, "Kids")); len(kids) > 0 {
			left := b.prune(kids, gone, depth+1)
			if len(left) == 0 {
				continue
			}
			if len(left) != len(kids) {
				d.Update("Kids", left)
				if ok {
					b.touch(r)
				}
			}
		}
		out = append(out, o)
	}
	return out
}

// order puts the widgets of every page into the order of the draft: other
// annotations first, as they are. Pages in that order already are not touched.
func (b *builder) order(rows []form.Field) {
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
	for _, p := range b.pages {
		annots := b.array(entry(p.dict, "Annots"))
		sorted := slices.Clone(annots)
		slices.SortStableFunc(sorted, func(a, c types.Object) int { return cmp.Compare(at(a), at(c)) })
		if !slices.EqualFunc(annots, sorted, func(a, c types.Object) bool { return a.PDFString() == c.PDFString() }) {
			p.dict.Update("Annots", sorted)
			b.touch(p.ref)
		}
		if slices.ContainsFunc(annots, func(o types.Object) bool { return at(o) > 0 }) && b.name(entry(p.dict, "Tabs")) != "W" && b.ordered {
			p.dict.Update("Tabs", types.Name("W"))
			b.touch(p.ref)
		}
	}
}

// info is the information dictionary, made when there is none.
func (b *builder) info() types.Dict {
	if b.ctx.Info != nil {
		if d := b.dict(*b.ctx.Info); d != nil {
			return d
		}
	}
	d := types.Dict{}
	if ref, err := b.add(d); err == nil {
		b.ctx.Info = &ref
	}
	return d
}

func (b *builder) writeDetails(info, cat types.Dict, d form.Details) error {
	if b.ctx.Info != nil {
		b.touch(*b.ctx.Info)
	}
	info.Delete("ModDate")
	if d.Title != "" {
		prefs := types.Dict{}
		for k, v := range b.dict(entry(cat, "ViewerPreferences")) {
			prefs[k] = v
		}
		prefs["DisplayDocTitle"] = types.Boolean(true)
		cat.Update("ViewerPreferences", prefs)
	}
	sd, err := b.ctx.NewStreamDictForBuf(xmpPacket(d))
	if err != nil {
		return err
	}
	sd.Update("Type", types.Name("Metadata"))
	sd.Update("Subtype", types.Name("XML"))
	if err := sd.Encode(); err != nil {
		return err
	}
	ref, err := b.add(*sd)
	if err != nil {
		return err
	}
	cat.Update("Metadata", ref)
	return b.touchCatalog()
}

func xmlText(s string) string {
	var b bytes.Buffer
	_ = xml.EscapeText(&b, []byte(s))
	return b.String()
}

// linkTo reads a link annotation to a web address that begins with prefix.
func (f *file) linkTo(o types.Object, prefix string) (uri string, r geom.Rect, ok bool) {
	d := f.dict(o)
	if d == nil || f.name(entry(d, "Subtype")) != "Link" {
		return "", r, false
	}
	uri = f.text(entry(f.dict(entry(d, "A")), "URI"))
	r, ok = f.rect(entry(d, "Rect"))
	return uri, r, ok && prefix != "" && strings.HasPrefix(uri, prefix)
}

// WithoutLinks takes out the links to web addresses that begin with prefix.
func WithoutLinks(b []byte, prefix string) ([]byte, error) {
	f, err := parse(b)
	if err != nil {
		return nil, err
	}
	for _, p := range f.pages {
		annots := f.array(entry(p.dict, "Annots"))
		kept := slices.DeleteFunc(slices.Clone(annots), func(o types.Object) bool {
			_, _, ours := f.linkTo(o, prefix)
			return ours
		})
		if len(kept) == len(annots) {
			continue
		}
		if len(kept) == 0 {
			p.dict.Delete("Annots")
		} else {
			p.dict.Update("Annots", kept)
		}
		f.touch(p.ref)
	}
	return f.increment()
}
