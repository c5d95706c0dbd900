package rehearsal

import (
	"slices"
	"time"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/rules"
)

// Answer is what a person does in a rehearsal: one answer to a field, beside those that were Given
// before it, or fields that are cleared. A rehearsal keeps nothing: whoever asks brings all answers.
type Answer struct {
	Given       map[string]string // by the name of the field
	Name, Value string
	Clear       string // names with commas between, "*" for all; empty is none
	Except      bool   // all but those are cleared
}

// State is what the form comes to with the answers given so far, by the names of fields.
type State struct {
	Refused string            `json:"refused,omitempty"` // what the recipient is told
	Raw     map[string]string `json:"raw"`
	Shown   map[string]string `json:"shown"`
	Hidden  []string          `json:"hidden"`
	Must    []string          `json:"must"`
	Missing []string          `json:"missing"`
	Trouble map[string]string `json:"trouble"`
	Pages   map[string]int    `json:"pages"` // of all fields
}

// Follow works out what follows from an answer. It fails when the rules of the form do.
func (a Answer) Follow(fields []form.Field, now time.Time) (State, error) {
	in, err := rules.NewSession(fields, now)
	if err != nil {
		return State{}, err
	}
	a.clear()
	for range 2 { // an answer may wait for another one that it is held to
		for _, name := range in.Names() {
			if v, ok := a.Given[name]; ok && name != a.Name && !in.Calculated(name) {
				_, _ = in.Set(name, v) // it was accepted once; if the draft refuses it now, it is left out
			}
		}
	}
	out := State{
		Raw: map[string]string{}, Shown: map[string]string{}, Trouble: map[string]string{}, Pages: map[string]int{},
		Hidden: []string{}, Must: []string{},
	}
	if a.Name != "" {
		if _, err := in.Set(a.Name, a.Value); err != nil {
			out.Refused = err.Error()
			_, _ = in.Set(a.Name, a.Given[a.Name])
		}
	}
	for _, name := range in.Names() {
		out.Raw[name], out.Shown[name] = in.Value(name), in.Shown(name)
		if in.Required(name) {
			out.Must = append(out.Must, name)
		}
		if err := in.Trouble(name); err != nil {
			out.Trouble[name] = err.Error()
		}
	}
	out.Missing = append([]string{}, in.Missing()...)
	for _, f := range fields {
		out.Pages[f.Name] = f.Page
		if in.Hidden(f.Name) && !slices.Contains(out.Hidden, f.Name) {
			out.Hidden = append(out.Hidden, f.Name)
		}
	}
	return out, nil
}

// clear forgets answers: all, these, or all but these.
func (a Answer) clear() {
	if a.Clear == "" {
		return
	}
	named := form.Step{Fields: a.Clear}.Named()
	for name := range a.Given {
		if a.Clear == "*" || slices.Contains(named, name) != a.Except {
			delete(a.Given, name)
		}
	}
}
