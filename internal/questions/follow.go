package questions

import (
	"maps"
	"slices"
	"time"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/rules"
)

// State is what a form comes to with answers, by the names of fields. Answers that are refused stay as they were typed.
type State struct {
	Refused map[string]string `json:"refused"` // what the recipient is told
	Values  map[string]string `json:"values"`  // of what is worked out, and of what keeps its answers otherwise than typed
	Shown   map[string]string `json:"shown"`   // of those that show something else than their value
	Hidden  []string          `json:"hidden"`
	Must    []string          `json:"must"`
	Missing []string          `json:"missing"`
	Trouble map[string]string `json:"trouble"` // why something that is worked out is empty
}

// Begin are the answers that a form begins with: its default values, what is worked out of them, and those that are given.
func Begin(fields []form.Field, given map[string]string, now time.Time) (map[string]string, error) {
	in, err := rules.NewSession(fields, now)
	if err != nil {
		return nil, err
	}
	out := map[string]string{}
	for _, name := range in.Names() {
		if v := in.Value(name); v != "" && v != "Off" && !in.Calculated(name) {
			out[name] = v
		}
	}
	maps.Copy(out, given)
	return out, nil
}

// Follow holds all answers to the rules of a form, and works out what follows from them. Names that it does not know are left out. It fails
// when the rules themselves cannot be understood.
func Follow(fields []form.Field, answers map[string]string, now time.Time) (State, error) {
	out := State{
		Refused: map[string]string{}, Values: map[string]string{}, Shown: map[string]string{}, Trouble: map[string]string{},
		Hidden: []string{}, Must: []string{}, Missing: []string{},
	}
	in, err := rules.NewSession(fields, now)
	if err != nil {
		return out, err
	}
	all := map[string]string{}
	for _, name := range in.Names() {
		if !in.Calculated(name) {
			all[name] = answers[name]
		}
	}
	for name, why := range in.SetAll(all) {
		if !in.Hidden(name) {
			out.Refused[name] = why.Error()
		}
	}
	for _, name := range in.Names() {
		v, shown := in.Value(name), in.Shown(name)
		if in.Calculated(name) || v != answers[name] && out.Refused[name] == "" {
			out.Values[name] = v
		}
		if shown != v && out.Refused[name] == "" {
			out.Shown[name] = shown
		}
		if in.Required(name) {
			out.Must = append(out.Must, name)
		}
		if err := in.Trouble(name); err != nil {
			out.Trouble[name] = err.Error()
		}
	}
	out.Missing = append(out.Missing, in.Missing()...)
	for i := range fields {
		if name := fields[i].Name; in.Hidden(name) && !slices.Contains(out.Hidden, name) {
			out.Hidden = append(out.Hidden, name)
		}
	}
	return out, nil
}

// Sent are the answers that a form sends: what is worked out among them, what does not show left out.
func (s *State) Sent(answers map[string]string) map[string]string {
	out := map[string]string{}
	maps.Copy(out, answers)
	maps.Copy(out, s.Values)
	for name, v := range out {
		if v == "" || v == "Off" || slices.Contains(s.Hidden, name) {
			delete(out, name)
		}
	}
	return out
}
