package proof

import (
	"bytes"
	"cmp"
	"errors"
	"fmt"
	"image"
	"slices"
	"strings"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/pdf/engine"
	"zealousmargin.example/internal/pdf/look"
	"zealousmargin.example/internal/pdf/object"
	"zealousmargin.example/internal/pdf/read"
	"zealousmargin.example/internal/rules"
)

// Prove opens a written form again with a reader other than the writer and
// compares what it finds with the draft: every field, its place, kind, name,
// tooltip, flags, length, order, scripts and button action. It also compares
// what must not have changed: the bytes of src, and how each page looks. The
// error lists every difference.
func Prove(src, out []byte, t *form.Template) error { return prove(src, out, t, false) }

// ProveRelease is [Prove] for what [Release] wrote: the file's own fields belong to
// the draft. Of those, it compares what a row can say.
func ProveRelease(src, out []byte, t *form.Template) error { return prove(src, out, t, true) }

func prove(src, out []byte, t *form.Template, whole bool) error {
	if len(out) < len(src) || !bytes.Equal(out[:len(src)], src) {
		return errors.New("the original bytes were changed")
	}
	was, err := engine.Open(src)
	if err != nil {
		return err
	}
	before, err := was.ReadBack()
	if err == nil {
		err = was.Prints(func(n int, img *image.RGBA) { before.Pages = append(before.Pages, img) })
	}
	was.Close()
	if err != nil {
		return err
	}
	is, err := engine.Open(out)
	if err != nil {
		return fmt.Errorf("the written file does not open: %w", err)
	}
	defer is.Close()
	after, err := is.ReadBack()
	if err != nil {
		return err
	}
	var wrong []string
	err = is.Prints(func(n int, img *image.RGBA) {
		if n > len(before.Pages) || !bytes.Equal(before.Pages[n-1].Pix, img.Pix) {
			wrong = append(wrong, fmt.Sprintf("page %d does not look as before", n))
		}
	})
	if err != nil {
		return err
	}
	ours := slices.DeleteFunc(after.Widgets, func(w engine.Seen) bool {
		return whole && w.Rect.Empty() || !whole && slices.ContainsFunc(before.Widgets, func(o engine.Seen) bool { return o.Name == w.Name })
	})
	compiled, err := rules.CompileForm(t.Placed())
	if err != nil {
		return err
	}
	wrong = append(wrong, compare(t.Placed(), ours, compiled.Fields)...)
	parsed, err := read.Widgets(out)
	if err != nil {
		return fmt.Errorf("the written file cannot be parsed: %w", err)
	}
	wrong = append(wrong, compareActions(t.Placed(), parsed)...)
	wrong = append(wrong, compareShown(t.Placed(), parsed)...)
	wrong = append(wrong, compareOrder(out, compiled)...)
	if len(wrong) > 0 {
		return errors.New("the written form differs from the draft: " + strings.Join(wrong, "; "))
	}
	return nil
}

// compare holds the widgets of the file, in annotation order, to the draft's
// fields, in tab order.
func compare(want []form.Field, got []engine.Seen, compiled map[string]rules.Scripts) []string {
	want = slices.Clone(want)
	slices.SortStableFunc(want, func(a, b form.Field) int { return cmp.Or(cmp.Compare(a.Page, b.Page), cmp.Compare(a.Order, b.Order)) })
	var wrong []string
	say := func(format string, args ...any) { wrong = append(wrong, fmt.Sprintf(format, args...)) }
	if len(want) != len(got) {
		say("%d fields were written, %d are wanted", len(got), len(want))
		return wrong
	}
	tooltips := map[string]string{}
	for i, x := range want {
		g := got[i]
		if x.Name != g.Name || x.Page != g.Page {
			say("field %d on page %d is %s, not %s", i+1, g.Page, g.Name, x.Name)
			continue
		}
		if x.Kind != g.Kind {
			say("%s is a %s, not a %s", x.Name, g.Kind, x.Kind)
		}
		if !object.Near(x.Rect, g.Rect) {
			say("%s lies at %v, not %v", x.Name, g.Rect, x.Rect)
		}
		if tooltips[x.Name] == "" { // a radio group has the tooltip of its first button
			tooltips[x.Name] = x.Tooltip
		}
		if tooltips[x.Name] != g.Tooltip {
			say("%s has the tooltip %q, not %q", x.Name, g.Tooltip, x.Tooltip)
		}
		if x.Origin != nil { // of the rest, what a row can say
			const said = object.FlagReadOnly | object.FlagRequired
			if look.Flags(x)&said != g.Flags&said && x.Kind != form.Button {
				say("%s has the flags %b, not %b", x.Name, g.Flags, look.Flags(x))
			}
			for trigger, js := range compiled[x.Name] {
				if g.Scripts[trigger] == "" && trigger != "V" {
					say("%s has no %s script, it should be %s", x.Name, trigger, js)
				}
			}
			continue
		}
		if look.Flags(x) != g.Flags {
			say("%s has the flags %b, not %b", x.Name, g.Flags, look.Flags(x))
		}
		if n := cmp.Or(x.Comb, x.MaxLen); x.Kind == form.Text && n != g.Maxlen && !x.Linked { // of several widgets PDFium does not tell
			say("%s takes %d signs, not %d", x.Name, g.Maxlen, n)
		}
		for trigger, js := range compiled[x.Name] {
			if g.Scripts[trigger] != js {
				say("%s has another %s script", x.Name, trigger)
			}
		}
		if len(compiled[x.Name]) == 0 && len(g.Scripts) > 0 {
			say("%s has a script that nobody asked for", x.Name)
		}
	}
	return wrong
}

// compareActions holds the press actions of buttons to the draft. PDFium does not
// tell them, so the written file is parsed afresh.
func compareActions(want []form.Field, got []read.Widget) []string {
	var wrong []string
	for _, x := range want {
		if x.Kind != form.Button && len(x.Steps) == 0 || x.Origin != nil && x.Action.Do == "" && len(x.Steps) == 0 {
			continue
		}
		i := slices.IndexFunc(got, func(w read.Widget) bool { return w.Name == x.Name && object.Near(w.Rect, x.Rect) })
		if i < 0 {
			wrong = append(wrong, x.Name+" is missing")
			continue
		}
		asked := pressWords(x)
		if has := strings.Join(got[i].Presses, ", "); has != asked {
			wrong = append(wrong, fmt.Sprintf("%s does %q when pressed, not %q", x.Name, has, asked))
		}
	}
	return wrong
}

// compareShown holds where the widgets of new fields show, and the options that they
// offer, to the draft: of the written file parsed afresh.
func compareShown(want []form.Field, got []read.Widget) []string {
	var wrong []string
	for _, x := range want {
		if x.Origin != nil {
			continue
		}
		i := slices.IndexFunc(got, func(w read.Widget) bool { return w.Name == x.Name && w.Page == x.Page && object.Near(w.Rect, x.Rect) })
		if i < 0 {
			wrong = append(wrong, x.Name+" is missing from the file")
			continue
		}
		if annot := look.AnnotFlags(x); got[i].Annot != annot {
			wrong = append(wrong, fmt.Sprintf("%s has the annotation flags %b, not %b", x.Name, got[i].Annot, annot))
		}
		if face := x.Face; x.Kind == form.Button {
			if face.Picture = ""; got[i].Face != face || got[i].HasIcon != (x.Face.Picture != "") {
				wrong = append(wrong, x.Name+" has another picture, layout or pressed look")
			}
		}
		if x.Kind == form.Choice && len(got[i].Options) != len(look.Listed(x)) {
			wrong = append(wrong, fmt.Sprintf("%s offers %d options, not %d", x.Name, len(got[i].Options), len(look.Listed(x))))
		}
	}
	return wrong
}
