package readers

import (
	"fmt"
	"image"
	"slices"
	"strings"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/pdf/fill"
)

// Property is one thing that the application writes into a form, and how it is tried.
type Property struct {
	Title  string
	Fields []form.Field
	// Try lets a recipient do something and tells what came of it, in a few words; Want is what should.
	Try  func(*Trial) (string, error)
	Want string
	// Scripted properties rest on scripts: in a reader without them Bare is what should come of it.
	Scripted bool
	Bare     string
}

// typed tells whether a property is tried by typing only, so that it can be tried again.
func (p Property) typed() bool {
	return len(p.Fields) > 0 && !slices.ContainsFunc(p.Fields, func(f form.Field) bool {
		pressed := f.List == form.ListBox || f.List == form.ManyList // anew, whatever was chosen
		return f.Kind != form.Text && f.Kind != "" && !pressed
	})
}

// Trial is a form open in a reader.
type Trial struct {
	Reader
	Draft *form.Template
	Sent  func(path string) string // what a button has sent to an address, as it came; nil where no button can send
}

func text(name string, more ...func(*form.Field)) form.Field {
	f := form.Field{Name: name, Kind: form.Text}
	for _, m := range more {
		m(&f)
	}
	return f
}

// scripted says what comes of a property in a reader without scripts.
func (p Property) scripted(bare string) Property {
	p.Scripted, p.Bare = true, bare
	return p
}

func formatted(name string, format form.Format) form.Field {
	return form.Field{Name: name, Format: format}
}

// kept writes a text and gives what is kept of it.
func kept(name, text string) func(*Trial) (string, error) {
	return func(r *Trial) (string, error) {
		if err := r.Write(name, text); err != nil {
			return "", err
		}
		return r.value(name)
	}
}

// shows writes texts into fields, name after name, and gives what stands in the last one named.
func shows(answers ...string) func(*Trial) (string, error) {
	return func(r *Trial) (string, error) {
		for i := 0; i+1 < len(answers); i += 2 {
			if err := r.Write(answers[i], answers[i+1]); err != nil {
				return "", err
			}
		}
		if len(answers)%2 == 1 {
			return r.Shown(answers[len(answers)-1])
		}
		return r.Shown(answers[len(answers)-2])
	}
}

// told compares what a reader says of each field with the draft.
func told(aspect func(f form.Field, t Told) (same, knows bool)) func(*Trial) (string, error) {
	return func(r *Trial) (string, error) {
		all, err := r.Told()
		if err != nil {
			return "", err
		}
		knows := 0
		for _, f := range r.Draft.Fields {
			t, ok := all[f.Tooltip]
			if f.Kind == form.Radio && !ok {
				continue
			}
			if !ok {
				return f.Name + " is missing", nil
			}
			same, k := aspect(f, t)
			if k {
				knows++
			}
			if k && !same {
				return f.Name + " differs", nil
			}
		}
		if knows == 0 {
			return "", ErrCannot
		}
		return "every field", nil
	}
}

func flag(draft func(form.Field) bool, says func(Told) *bool, kinds ...form.Kind) func(*Trial) (string, error) {
	return told(func(f form.Field, t Told) (bool, bool) {
		got := says(t)
		return got != nil && *got == draft(f), got != nil && (len(kinds) == 0 || slices.Contains(kinds, f.Kind))
	})
}

func word(draft func(form.Field) string, says func(Told) *string, kinds ...form.Kind) func(*Trial) (string, error) {
	return told(func(f form.Field, t Told) (bool, bool) {
		got := says(t)
		return got != nil && *got == draft(f), got != nil && (len(kinds) == 0 || slices.Contains(kinds, f.Kind))
	})
}

// pressed presses a button and gives what then stands in a field.
func pressed(button, field string) func(*Trial) (string, error) {
	return func(r *Trial) (string, error) {
		if err := r.Press(button, 0); err != nil {
			return "", err
		}
		return r.Shown(field)
	}
}

// sees does something and tells whether a field shows then.
func sees(do func(*Trial) error, field string) func(*Trial) (string, error) {
	return func(r *Trial) (string, error) {
		before, err := r.Seen(field)
		if err != nil {
			return "", err
		}
		if err := do(r); err != nil {
			return "", err
		}
		after, err := r.Seen(field)
		return words[before] + ", then " + words[after], err
	}
}

var words = map[bool]string{true: "seen", false: "hidden"}

func onScreen(name string) func(*Trial) (string, error) {
	return func(r *Trial) (string, error) {
		seen, err := r.Seen(name)
		return words[seen], err
	}
}

func onPaper(name string) func(*Trial) (string, error) {
	return func(r *Trial) (string, error) {
		seen, err := r.Printed(name)
		return words[seen], err
	}
}

func press(name string) func(*Trial) error { return func(r *Trial) error { return r.Press(name, 0) } }

// sent presses a button and tells in what form the answers came.
func sent(button, path string) func(*Trial) (string, error) {
	return func(r *Trial) (string, error) {
		if r.Sent == nil {
			return "", ErrCannot
		}
		if err := r.Press(button, 0); err != nil {
			return "", err
		}
		switch b := r.Sent(path); {
		case b == "":
			return "nothing", nil
		case strings.Contains(b, "%FDF-"):
			return "FDF", nil
		case strings.Contains(b, "<xfdf"):
			return "XFDF", nil
		case strings.Contains(b, "%PDF-"):
			return "PDF", nil
		case strings.Contains(b, "plain="):
			return "form data", nil
		default:
			return fmt.Sprintf("%.20q", b), nil
		}
	}
}

// happens lets something happen to a field and gives what stands in another then.
func happens(name string, what form.Trigger, field string) func(*Trial) (string, error) {
	return func(r *Trial) (string, error) {
		if err := r.Do(name, what); err != nil {
			return "", err
		}
		return r.Shown(field)
	}
}

// abroad is an answer in letters that the standard fonts of readers do not have.
const abroad = "Łódź Ωμ Жук"

// drawn writes an answer and tells whether the saved form can be read in two other readers: the letters are there, and
// stand beside each other.
func drawn(name, answer string) func(*Trial) (string, error) {
	return func(r *Trial) (string, error) {
		if err := r.Write(name, answer); err != nil {
			return "", err
		}
		b, err := r.Save()
		if err != nil {
			return "", err
		}
		f, err := nth(r.Draft, name, 0)
		if err != nil {
			return "", err
		}
		said, err := textAt(b, f.Rect)
		if err != nil {
			return "", err
		}
		if said != answer {
			return fmt.Sprintf("letters are lost: %q", said), nil
		}
		ours, err := fill.Fill(b, map[string]any{name: answer})
		if err != nil {
			return "", err
		}
		for _, draw := range []func([]byte) (image.Image, error){byPoppler, byMutool} {
			theirs, err := inkAt(draw, b, f.Rect)
			if err != nil {
				return "", err
			}
			want, err := inkAt(draw, ours, f.Rect)
			if err != nil {
				return "", err
			}
			if theirs < 0.8*want {
				return "letters overlap", nil
			}
		}
		return "readable", nil
	}
}

// states presses the first of several buttons and tells which of them are on.
func states(name string) func(*Trial) (string, error) {
	return func(r *Trial) (string, error) {
		if err := r.Press(name, 0); err != nil {
			return "", err
		}
		b, err := r.Save()
		if err != nil {
			return "", err
		}
		all, err := qpdfFields(b)
		if err != nil {
			return "", err
		}
		var out []string
		for _, s := range all[name].states {
			out = append(out, map[bool]string{true: "on", false: "off"}[s != "" && s != "Off"])
		}
		return strings.Join(out, ", "), nil
	}
}

// value is what is kept of a field, as qpdf reads the saved form.
func (r *Trial) value(name string) (string, error) {
	b, err := r.Save()
	if err != nil {
		return "", err
	}
	all, err := qpdfFields(b)
	return all[name].value, err
}

// isRequired tells whether a field must be filled in now.
func (r *Trial) isRequired(name string) (string, error) {
	said := map[bool]string{true: "required", false: "not required"}
	if here, ok := r.Reader.(interface{ Required(string) (bool, error) }); ok {
		on, err := here.Required(name)
		return said[on], err
	}
	b, err := r.Save()
	if err != nil {
		return "", err
	}
	all, err := qpdfFields(b)
	return said[all[name].flags&2 != 0], err
}

// atOnce tells whether the reader is given answers as a whole, not key by key.
func (r *Trial) atOnce() bool {
	t, ok := r.Reader.(interface{ tell(question) error })
	return ok && t != nil
}

func sets(to, value string) form.Step { return form.Step{Do: form.SetValue, Fields: to, Value: value} }

// does is a text field that writes its name into the field name_here when something happens to it.
func does(name string, when form.Trigger) form.Field {
	return text(name, func(f *form.Field) {
		f.Steps = []form.Step{{When: when, Do: form.SetValue, Fields: name + "_here", Value: name}}
	})
}
