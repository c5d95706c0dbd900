package fill

import (
	"errors"
	"fmt"
	"maps"
	"slices"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/pdf/look"
	"zealousmargin.example/internal/roster"
)

// Copy is a form filled in for one person.
type Copy struct {
	PDF []byte // nil when there is none
	// Trouble is what the form refused, and is not in the copy, and what does not fit its field; without a field it is why there is none.
	Trouble []FieldError
}

// For fills a copy in for a person, with what the draft of the form takes from the office; flat turns its fields into content of the pages.
func (form *Form) For(t *form.Template, p roster.Person, w roster.With, flat bool) Copy {
	values, _ := roster.Values(t, p, w)
	c := Copy{Trouble: unfit(t, values)}
	for { // each turn leaves out what was refused in the one before
		answers := make(map[string]any, len(values))
		for k, v := range values {
			answers[k] = v
		}
		pdf, err := form.With(answers, Options{Now: w.Today})
		var refused *RefusedError
		var one *FieldError
		switch {
		case errors.As(err, &refused):
			for _, name := range slices.Sorted(maps.Keys(refused.Fields)) {
				c.Trouble = append(c.Trouble, FieldError{name, refused.Fields[name]})
				delete(values, name)
			}
			continue
		case errors.As(err, &one):
			c.Trouble = append(c.Trouble, *one)
			delete(values, one.Field)
			continue
		case err == nil && flat:
			pdf, err = Flatten(pdf)
		}
		if err != nil {
			c.Trouble = append(c.Trouble, FieldError{"", err})
			return c
		}
		c.PDF = pdf
		return c
	}
}

// readable is the smallest size of letters, in points, that is not told (common practice, no source).
const readable = 6.0

// unfit lists the answers that are longer than their fields show.
func unfit(t *form.Template, values map[string]string) []FieldError {
	var out []FieldError
	for _, f := range t.Placed() {
		v := values[f.Name]
		if v == "" || f.Kind != form.Text {
			continue
		}
		switch fits, size := look.TextFits(f, v); {
		case !fits:
			out = append(out, FieldError{f.Name, fmt.Errorf("“%s” is longer than the field shows", v)})
		case size < readable:
			out = append(out, FieldError{f.Name, fmt.Errorf("“%s” fits in letters of %.1f points only: too small to read", v, size)})
		}
	}
	return out
}
