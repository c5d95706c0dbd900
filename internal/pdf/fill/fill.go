package fill

import (
	"encoding/json"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/pdf/object"
	"zealousmargin.example/internal/pdf/read"
	"zealousmargin.example/internal/pdf/write"
)

// FieldError is an answer that a field cannot take.
type FieldError struct {
	Field string
	Err   error
}

func (e *FieldError) Error() string { return "field " + e.Field + ": " + e.Err.Error() }
func (e *FieldError) Unwrap() error { return e.Err }

// Fill writes answers into the fields of a PDF, as an incremental update, with
// fresh appearances. Answers are keyed by full field name: a string or a number
// for text, true or false or an export value for a check box, an export value for
// a radio group, an option (or several, for a list box) for a choice.
//
// It refuses, by name, what the form has no field or no room for, so that no
// answer is lost unseen, and what the form's own rules refuse ([RefusedError]). What the form works out is worked out, and numbers, dates
// and the like show in their formats.
func Fill(src []byte, answers map[string]any) ([]byte, error) {
	return With(src, answers, Options{})
}

// Options say how a form is filled.
type Options struct {
	Force bool      // answers that the rules refuse are written as they are
	Now   time.Time // what today() gives; the zero time is now
}

// With fills as [Fill] does, with options.
func With(src []byte, answers map[string]any, o Options) ([]byte, error) {
	f, err := Prepare(src)
	if err != nil {
		return nil, err
	}
	return f.With(answers, o)
}

// Form is a PDF that copies are filled in of: it is read once. Several copies may be filled in at once.
type Form struct {
	file   *object.File // never changed
	fields []form.Field
}

// Prepare reads a form.
func Prepare(src []byte) (_ *Form, err error) {
	defer object.Recovered(&err)
	f, err := object.Parse(src)
	if err != nil {
		return nil, err
	}
	fields, err := read.RuledOf(f.Clone())
	if err != nil {
		return nil, err
	}
	return &Form{f, fields}, nil
}

// With fills a copy in.
func (form *Form) With(answers map[string]any, o Options) (_ []byte, err error) {
	defer object.Recovered(&err)
	f := form.file.Clone()
	ws, err := read.WidgetsOf(f)
	if err != nil {
		return nil, err
	}
	if len(ws) == 0 {
		return nil, fmt.Errorf("this PDF has no fields to fill: build a form first")
	}
	byName := map[string][]read.Widget{}
	var names []string
	for _, w := range ws {
		if len(byName[w.Name]) == 0 {
			names = append(names, w.Name)
		}
		byName[w.Name] = append(byName[w.Name], w)
	}
	b := write.NewBuilder(f)
	if err := b.AcroForm(); err != nil {
		return nil, err
	}
	keys := make([]string, 0, len(answers))
	for k := range answers {
		keys = append(keys, k)
	}
	slices.Sort(keys)
	for _, k := range keys {
		if len(byName[k]) == 0 {
			return nil, fmt.Errorf("there is no field called %q: the form has %s", k, read.ShortList(names, 12))
		}
		if err := fill(b, byName[k], answers[k]); err != nil {
			return nil, &FieldError{k, err}
		}
	}
	if err := byRules(b, form.fields, byName, answers, o); err != nil {
		return nil, err
	}
	if err := b.Finish(); err != nil {
		return nil, err
	}
	return f.Increment()
}

func fill(b *write.Builder, ws []read.Widget, answer any) error {
	field := b.FieldDict(ws[0])
	switch ws[0].Kind {
	case form.CheckBox, form.Radio:
		return fillTick(b, ws, field, answer)
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
		return fillChoice(b, ws, field, values)
	}
	if len(values) != 1 {
		return fmt.Errorf("a text field takes one answer, not a list")
	}
	v := values[0]
	if n := ws[0].MaxLen; n > 0 && len([]rune(v)) > n {
		return fmt.Errorf("%q has %d signs, but the field takes at most %d", v, len([]rune(v)), n)
	}
	return nil // byRules writes it, as its format has it
}

// chosen are the places of options in their list, in rising order.
func chosen(options []form.Option, labels []string) types.Array {
	var out types.Array
	for i, o := range options {
		if slices.Contains(labels, o.Label) {
			out = append(out, types.Integer(i))
		}
	}
	return out
}

func fillTick(b *write.Builder, ws []read.Widget, field types.Dict, answer any) error {
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
	field.Update("V", object.NameOf(state))
	for _, w := range ws {
		as := "Off"
		if w.Export == state {
			as = w.On
			field.Update("V", object.NameOf(w.On))
		}
		w.Dict.Update("AS", object.NameOf(as))
		b.TouchWidget(w)
	}
	return nil
}

func exports(ws []read.Widget) []string {
	var out []string
	for _, w := range ws {
		if !slices.Contains(out, w.Export) {
			out = append(out, w.Export)
		}
	}
	return out
}

func fillChoice(b *write.Builder, ws []read.Widget, field types.Dict, values []string) error {
	w := ws[0]
	if len(values) > 1 && w.Flags&object.FlagMultiSelect == 0 {
		return fmt.Errorf("it takes one choice, not %d", len(values))
	}
	var exported types.Array
	var shown []string
	for _, v := range values {
		i := slices.IndexFunc(w.Options, func(o form.Option) bool { return o.Label == v || o.Export == v && v != "" })
		switch {
		case i >= 0 && w.Options[i].Export != "":
			exported, shown = append(exported, object.Str(w.Options[i].Export)), append(shown, w.Options[i].Label)
		case i >= 0 || v == "" || w.Flags&object.FlagCombo != 0 && w.Flags&object.FlagEdit != 0:
			exported, shown = append(exported, object.Str(v)), append(shown, v)
		default:
			var labels []string
			for _, o := range w.Options {
				labels = append(labels, o.Label)
			}
			return fmt.Errorf("%q is not on the list: use one of %s", v, read.ShortList(labels, 12))
		}
	}
	if len(exported) == 1 {
		field.Update("V", exported[0])
	} else {
		field.Update("V", exported)
	}
	field.Delete("I")
	if w.Flags&object.FlagMultiSelect != 0 { // which are chosen, by place (ISO 32000-2, table 234)
		if at := chosen(w.Options, shown); len(at) > 0 {
			field.Update("I", at)
		}
	}
	return b.SetText(ws, strings.Join(shown, "\n"))
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
