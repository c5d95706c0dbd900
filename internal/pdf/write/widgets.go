package write

import (
	"strings"

	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/pdf/look"
	"zealousmargin.example/internal/pdf/object"
	"zealousmargin.example/internal/pdf/read"
)

// FieldDict is the dictionary of the field that a widget belongs to: the nearest
// one with a partial name. It is marked as changed.
func (b *Builder) FieldDict(w read.Widget) types.Dict {
	for _, ref := range w.Refs {
		if d := b.Dict(ref); d != nil && d.HasEntry("T") {
			b.Touch(ref)
			return d
		}
	}
	return w.Dict
}

// SetText draws the answer of a text or choice field into its widgets, on the fill and
// inside the border that they have.
func (b *Builder) SetText(ws []read.Widget, v string) error { return b.setText(ws, v, false) }

// setText draws text as [Builder.SetText] does, or a hint in grey.
func (b *Builder) setText(ws []read.Widget, v string, hint bool) error {
	for _, w := range ws {
		has := read.LookOf(b.Kit.File, w)
		l := b.looksOf(w)
		if hint {
			l.Colour = hintColour
		}
		r := w.Rect
		width, height := l.Inner(r)
		words := v
		if w.Flags&object.FlagPassword != 0 && w.Kind == form.Text && !hint {
			v = strings.Repeat("*", len([]rune(v)))
		}
		list := w.Kind == form.Choice && w.Flags&object.FlagCombo == 0
		if list {
			for _, o := range w.Options {
				words += o.Label
			}
		}
		pick := func() (types.Dict, look.Typeface, error) { return b.FontsFor(words, has.Font) }
		if hint && !list {
			pick = func() (types.Dict, look.Typeface, error) { return b.HintFont(v) }
		}
		fonts, face, err := pick()
		if err != nil {
			return err
		}
		content := look.TextContent(v, width, height, l, face)
		if list {
			content = look.ListContent(w.Options, strings.Split(v, "\n"), width, height, l, face)
		}
		ap, err := look.Appearance(b.Kit.File, look.FrameContent(has, width, height, false)+content, r, l, fonts)
		if err != nil {
			return err
		}
		w.Dict.Update("AP", types.Dict{"N": ap})
		b.TouchWidget(w)
	}
	return nil
}

// TouchWidget marks a widget as changed.
func (b *Builder) TouchWidget(w read.Widget) {
	if len(w.Refs) > 0 {
		b.Touch(w.Refs[0])
	}
}

// looksOf reads how the text of a widget is set (ISO 32000-2, 12.7.4.3).
func (b *Builder) looksOf(w read.Widget) look.Setting {
	has := read.LookOf(b.Kit.File, w)
	l := look.Setting{
		Multiline: (w.Kind == form.Text || w.Kind == form.Signature) && w.Flags&object.FlagMultiline != 0, Comb: w.Comb(), Size: has.Size,
		Colour: look.TypeColour(has), Font: has.Font,
		Align: map[form.Align]int{form.AlignCentre: 1, form.AlignRight: 2}[has.Align],
	}
	if mk := b.Dict(object.Entry(w.Dict, "MK")); mk != nil {
		l.Rotate = b.Integer(object.Entry(mk, "R"))
	}
	return l
}
