package fill

import (
	"slices"
	"strings"

	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/pdf/object"
	"zealousmargin.example/internal/pdf/read"
	"zealousmargin.example/internal/pdf/write"
)

// Turn has a form be filled in by one of several people: those fields that are theirs can be changed, by name, all others cannot (ISO
// 32000-2, table 227, ReadOnly). Buttons that send the form somewhere do not show, since it goes the way of those who fill it in. It is an
// increment.
func Turn(src []byte, theirs []string) (_ []byte, err error) {
	defer object.Recovered(&err)
	f, err := object.Parse(src)
	if err != nil {
		return nil, err
	}
	ws, err := read.WidgetsOf(f)
	if err != nil {
		return nil, err
	}
	b := write.NewBuilder(f)
	if err := b.AcroForm(); err != nil {
		return nil, err
	}
	for _, w := range ws {
		switch w.Kind {
		case form.Button:
			if slices.ContainsFunc(w.Presses, func(p string) bool { return strings.HasPrefix(p, "SubmitForm") }) {
				w.Dict.Update("F", types.Integer(w.Annot|object.AnnotHidden))
				b.TouchWidget(w)
			}
			continue
		case form.Signature:
			continue
		}
		flags := w.Flags | object.FlagReadOnly
		if slices.Contains(theirs, w.Name) {
			flags = w.Flags &^ object.FlagReadOnly
		}
		if flags == w.Flags {
			continue
		}
		b.FieldDict(w).Update("Ff", types.Integer(flags))
		for _, ref := range w.Refs[:min(2, len(w.Refs))] { // the flag stands at the field, which may be above its widget
			f.Touch(ref)
		}
	}
	if err := b.Finish(); err != nil {
		return nil, err
	}
	return f.Increment()
}

// Answers are the answers in a filled form as [With] takes them, by the names of fields. Signatures and buttons have none.
func Answers(src []byte) (map[string]any, error) {
	c, err := read.Answered(src)
	if err != nil {
		return nil, err
	}
	out := map[string]any{}
	for name, all := range c.Named {
		if len(all) == 1 {
			out[name] = all[0]
			continue
		}
		var list []any
		for _, v := range all {
			list = append(list, v)
		}
		out[name] = list
	}
	return out, nil
}

// Typed are answers as [Form.With] takes them: those to the questions of a form, several choices of one as a list. Signatures and buttons
// take none.
func Typed(t *form.Template, answers map[string]string) map[string]any {
	out := map[string]any{}
	for _, f := range t.Placed() {
		v, ok := answers[f.Name]
		if !ok || f.Kind == form.Signature || f.Kind == form.Button {
			continue
		}
		out[f.Name] = v
		if f.Kind == form.Choice && f.List == form.ManyList {
			var list []any
			for one := range strings.SplitSeq(v, "\n") {
				list = append(list, one)
			}
			out[f.Name] = list
		}
	}
	return out
}
