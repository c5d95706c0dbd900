package fill

import (
	"cmp"
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/pdf/object"
	"zealousmargin.example/internal/pdf/read"
	"zealousmargin.example/internal/pdf/write"
	"zealousmargin.example/internal/rules"
)

// RefusedError has the answers that the rules of a form refuse, by name.
type RefusedError struct{ Fields map[string]error }

// Error has a line for each field.
func (e *RefusedError) Error() string {
	var lines []string
	for _, name := range slices.Sorted(maps.Keys(e.Fields)) {
		lines = append(lines, fmt.Sprintf("field %s: %s", name, e.Fields[name]))
	}
	return strings.Join(lines, "\n")
}

// byRules holds answers to the rules of a form, and writes those that are text, and what the form works out, as their formats show them.
func byRules(b *write.Builder, fields []form.Field, byName map[string][]read.Widget, answers map[string]any, o Options) error {
	if o.Now.IsZero() {
		o.Now = time.Now()
	}
	s, err := rules.NewSession(fields, o.Now)
	if err != nil {
		return fmt.Errorf("the rules of this form cannot be worked out: %w", err)
	}
	given := map[string]string{}
	for name, a := range answers {
		if words, ok := said(byName[name][0], a); ok {
			given[name] = words
		}
	}
	before := map[string]string{}
	for _, name := range s.Names() {
		before[name] = s.Value(name)
	}
	refused := s.SetAll(given)
	if len(refused) > 0 && !o.Force {
		return &RefusedError{refused}
	}
	type answer struct{ kept, shown string }
	written := map[string]answer{}
	for name, words := range given {
		written[name] = answer{words, words} // what no rule knows, or was forced
	}
	for _, name := range s.Names() {
		_, asked := given[name]
		worked := s.Calculated(name) && s.Value(name) != before[name]
		if refused[name] == nil && (asked || worked) {
			written[name] = answer{s.Value(name), s.Shown(name)}
		}
	}
	for _, name := range slices.Sorted(maps.Keys(written)) {
		ws := byName[name]
		if len(ws) == 0 || ws[0].Kind != form.Text {
			continue
		}
		field := b.FieldDict(ws[0])
		field.Update("V", object.Str(written[name].kept))
		field.Delete("RV") // the same in rich text: it says something else now
		if err := b.SetText(ws, written[name].shown); err != nil {
			return fmt.Errorf("field %s: %w", name, err)
		}
	}
	return nil
}

// said is an answer as a recipient would give it; ok is false for what no rule reads, such as several choices.
func said(w read.Widget, answer any) (words string, ok bool) {
	switch v := answer.(type) {
	case bool:
		return map[bool]string{true: w.Export, false: "Off"}[v], w.Kind != form.Radio || !v
	case nil:
		return "", true
	}
	list, err := texts(answer)
	if err != nil || len(list) != 1 {
		return "", false
	}
	if w.Kind == form.Choice { // rules read what is exported
		for _, o := range w.Options {
			if o.Label == list[0] || o.Export == list[0] {
				return cmp.Or(o.Export, o.Label), true
			}
		}
	}
	return list[0], true
}
