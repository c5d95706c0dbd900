package pdf

import (
	"encoding/json"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"

	"zealousmargin.example/internal/form"
)

// Fill writes answers into the fields of a PDF, as an incremental update, with
// fresh appearances. Answers are keyed by full field name: a string or a number
// for text, true or false or an export value for a check box, an export value for
// a radio group, an option (or several, for a list box) for a choice.
//
// It refuses, by name, what the form has no field or no room for, so that no
// answer is lost unseen.
func Fill(src []byte, answers map[string]any) ([]byte, error) {
	f, err := parse(src)
	if err != nil {
		return nil, err
	}
	ws, err := f.widgets()
	if err != nil {
		return nil, err
	}
	if len(ws) == 0 {
		return nil, fmt.Errorf("this PDF has no fields to fill: build a form first")
	}
	byName := map[string][]Widget{}
	var names []string
	for _, w := range ws {
		if len(byName[w.Name]) == 0 {
			names = append(names, w.Name)
		}
		byName[w.Name] = append(byName[w.Name], w)
	}
	b := newBuilder(f)
	if err := b.acroForm(); err != nil {
		return nil, err
	}
	keys := make([]string, 0, len(answers))
	for k := range answers {
		keys = append(keys, k)
	}
	slices.Sort(keys)
	for _, k := range keys {
		if len(byName[k]) == 0 {
			return nil, fmt.Errorf("there is no field called %q: the form has %s", k, shortList(names, 12))
		}
		if err := b.fill(byName[k], answers[k]); err != nil {
			return nil, fmt.Errorf("field %s: %w", k, err)
		}
	}
	if err := b.finish(); err != nil {
		return nil, err
	}
	return f.increment()
}

func shortList(names []string, n int) string {
	if len(names) > n {
		return strings.Join(names[:n], ", ") + fmt.Sprintf(" and %d more", len(names)-n)
	}
	return strings.Join(names, ", ")
}

func (b *builder) fill(ws []Widget, answer any) error {
	field := b.fieldDict(ws[0])
	switch ws[0].Kind {
	case form.CheckBox, form.Radio:
		return b.fillTick(ws, field, answer)
	case form.Signature:
		return fmt.Errorf("a signature cannot be filled in with data")
	case form.Button:
		return fmt.Errorf("a button takes no answer")
	}
	values, err := texts(answer)
	if err != nil {
		return err
	}
	if ws[0].Kind == form.Choice {
		return b.fillChoice(ws, field, values)
	}
	if len(values) != 1 {
		return fmt.Errorf("a text field takes one answer, not a list")
	}
	v := values[0]
	if n := ws[0].MaxLen; n > 0 && len([]rune(v)) > n {
		return fmt.Errorf("%q has %d signs, but the field takes at most %d", v, len([]rune(v)), n)
	}
	field.Update("V", str(v))
	return b.setText(ws, v)
}

// fieldDict is the dictionary of the field that a widget belongs to: the nearest
// one with a partial name. It is marked as changed.
func (b *builder) fieldDict(w Widget) types.Dict {
	for _, ref := range w.refs {
		if d := b.dict(ref); d != nil && d.HasEntry("T") {
			b.touch(ref)
			return d
		}
	}
	return w.widget
}

// setText draws the answer of a text or choice field into its widgets, on the fill and
// inside the border that they have.
func (b *builder) setText(ws []Widget, v string) error {
	for _, w := range ws {
		has := b.lookOf(w)
		l := b.looksOf(w)
		r := w.Rect
		width, height := l.inner(r)
		words := v
		if w.Flags&FlagPassword != 0 && w.Kind == form.Text {
			v = strings.Repeat("*", len([]rune(v)))
		}
		list := w.Kind == form.Choice && w.Flags&FlagCombo == 0
		if list {
			for _, o := range w.Options {
				words += o.Label
			}
		}
		fonts, face, err := b.fontsFor(words, has.Font)
		if err != nil {
			return err
		}
		content := textContent(v, width, height, l, face)
		if list {
			content = listContent(w.Options, strings.Split(v, "\n"), width, height, l, face)
		}
		ap, err := b.appearance(frameContent(has, width, height, false)+content, r, l, fonts)
		if err != nil {
			return err
		}
		w.widget.Update("AP", types.Dict{"N": ap})
		b.touchWidget(w)
	}
	return nil
}

func (b *builder) touchWidget(w Widget) {
	if len(w.refs) > 0 {
		b.touch(w.refs[0])
	}
}

// looksOf reads how the text of a widget is set (ISO 32000-2, 12.7.4.3).
func (b *builder) looksOf(w Widget) looks {
	has := b.lookOf(w)
	l := looks{
		multiline: w.Kind == form.Text && w.Flags&FlagMultiline != 0, comb: w.Comb(), size: has.Size, colour: typeColour(has), font: has.Font,
		align: map[form.Align]int{form.AlignCentre: 1, form.AlignRight: 2}[has.Align],
	}
	if mk := b.dict(entry(w.widget, "MK")); mk != nil {
		l.rotate = b.integer(entry(mk, "R"))
	}
	return l
}

func (b *builder) fillTick(ws []Widget, field types.Dict, answer any) error {
	state := "Off"
	switch v := answer.(type) {
	case bool:
		if v {
			if ws[0].Kind == form.Radio && len(ws) > 1 {
				return fmt.Errorf("say which button: one of %s", strings.Join(exports(ws), ", "))
			}
			state = ws[0].Export
		}
	case string:
		if v != "" {
			state = v
		}
	case nil:
	default:
		return fmt.Errorf("a check box takes true, false or one of %s", strings.Join(exports(ws), ", "))
	}
	if state != "Off" && !slices.Contains(exports(ws), state) {
		return fmt.Errorf("%q is not a choice: use one of %s", state, strings.Join(exports(ws), ", "))
	}
	field.Update("V", nameOf(state))
	for _, w := range ws {
		as := "Off"
		if w.Export == state {
			as = state
		}
		w.widget.Update("AS", nameOf(as))
		b.touchWidget(w)
	}
	return nil
}

func exports(ws []Widget) []string {
	var out []string
	for _, w := range ws {
		if !slices.Contains(out, w.Export) {
			out = append(out, w.Export)
		}
	}
	return out
}

func (b *builder) fillChoice(ws []Widget, field types.Dict, values []string) error {
	w := ws[0]
	if len(values) > 1 && w.Flags&FlagMultiSelect == 0 {
		return fmt.Errorf("it takes one choice, not %d", len(values))
	}
	var exported types.Array
	var shown []string
	for _, v := range values {
		i := slices.IndexFunc(w.Options, func(o form.Option) bool { return o.Label == v || o.Export == v && v != "" })
		switch {
		case i >= 0 && w.Options[i].Export != "":
			exported, shown = append(exported, str(w.Options[i].Export)), append(shown, w.Options[i].Label)
		case i >= 0 || v == "" || w.Flags&FlagCombo != 0 && w.Flags&FlagEdit != 0:
			exported, shown = append(exported, str(v)), append(shown, v)
		default:
			var labels []string
			for _, o := range w.Options {
				labels = append(labels, o.Label)
			}
			return fmt.Errorf("%q is not on the list: use one of %s", v, shortList(labels, 12))
		}
	}
	if len(exported) == 1 {
		field.Update("V", exported[0])
	} else {
		field.Update("V", exported)
	}
	field.Delete("I")
	return b.setText(ws, strings.Join(shown, "\n"))
}

// texts puts an answer into words.
func texts(answer any) ([]string, error) {
	switch v := answer.(type) {
	case nil:
		return []string{""}, nil
	case string:
		return []string{v}, nil
	case json.Number:
		return []string{v.String()}, nil
	case float64:
		return []string{strconv.FormatFloat(v, 'f', -1, 64)}, nil
	case int:
		return []string{strconv.Itoa(v)}, nil
	case bool:
		return nil, fmt.Errorf("true and false are answers for a check box; write text in quotes")
	case []any:
		var out []string
		for _, x := range v {
			s, err := texts(x)
			if err != nil {
				return nil, err
			}
			out = append(out, s...)
		}
		return out, nil
	}
	return nil, fmt.Errorf("an answer is text, a number, true, false, or a list of texts")
}

// Flatten turns every field into page content: what it shows stays, nothing can
// be filled in any more. Hidden fields disappear, and so do buttons that are not
// meant for paper.
func Flatten(src []byte) ([]byte, error) {
	f, err := parse(src)
	if err != nil {
		return nil, err
	}
	n := 0
	err = f.dropFields(func(w Widget) (string, error) {
		if w.Annot&(AnnotHidden|AnnotNoView) != 0 || w.Kind == form.Button && w.Annot&AnnotPrint == 0 {
			return "", nil
		}
		ap := f.currentAppearance(w)
		if ap == nil {
			return "", nil
		}
		n++
		name := fmt.Sprintf("ZmFlat%d", n)
		return f.paste(w, *ap, name)
	})
	if err != nil {
		return nil, err
	}
	return f.increment()
}

// currentAppearance is the appearance stream that a widget shows now.
func (f *file) currentAppearance(w Widget) *types.IndirectRef {
	ap := f.dict(entry(w.widget, "AP"))
	if ap == nil {
		return nil
	}
	o := entry(ap, "N")
	ref, ok := o.(types.IndirectRef)
	resolved, err := f.ctx.Dereference(o)
	if err != nil {
		return nil
	}
	if states, isDict := resolved.(types.Dict); isDict {
		ref, ok = entry(states, types.EncodeName(f.name(entry(w.widget, "AS")))).(types.IndirectRef)
	}
	if !ok {
		return nil
	}
	return &ref
}

// paste makes the content that draws an appearance in the place of its widget, by
// the algorithm of ISO 32000-2, 12.5.5, and adds it to the resources of the page.
func (f *file) paste(w Widget, ap types.IndirectRef, name string) (string, error) {
	d := f.dict(ap)
	box, ok := f.rect(entry(d, "BBox"))
	if !ok || box.Empty() {
		return "", nil
	}
	m := f.matrix(entry(d, "Matrix"))
	box = box.Apply(m)
	p := f.pages[w.Page-1]
	r := w.Rect.Shift(p.origin.X, p.origin.Y)
	if box.Empty() || r.Empty() {
		return "", nil
	}
	sx, sy := r.W()/box.W(), r.H()/box.H()
	if err := f.pageXObject(w.Page-1, name, ap); err != nil {
		return "", err
	}
	return fmt.Sprintf("q\n%s 0 0 %s %s %s cm\n%s Do\nQ\n", dec(sx), dec(sy), dec(r.X0-box.X0*sx), dec(r.Y0-box.Y0*sy), contentName(name)), nil
}
