package look

import (
	"fmt"
	"strings"

	"zealousmargin.example/internal/form"
)

// StepScript is the script of a step that the standard has no action for (ISO 21757-1, Field.readonly
// and Field.value).
func StepScript(s form.Step) string {
	if s.Do == form.RunScript {
		return s.Script
	}
	var out []string
	for _, n := range s.Named() {
		set := fmt.Sprintf("f.readonly = %t;", s.Do == form.LockFields)
		if s.Do == form.SetValue {
			set = fmt.Sprintf("f.value = %q;", s.Value)
		}
		out = append(out, fmt.Sprintf("var f = this.getField(%q); if (f) { %s }", n, set))
	}
	return strings.Join(out, "\n")
}

// DisplayScript is the script of a step that shows or hides fields, for readers that run scripts and know no action for it (ISO 21757-1,
// Field.display). Shows is where fields show, by their names.
func DisplayScript(s form.Step, shows map[string]form.Show) string {
	var out []string
	for _, n := range s.Named() {
		to := 1
		if s.Do == form.ShowFields {
			to = shows[n].Display()
		}
		out = append(out, fmt.Sprintf("var f = this.getField(%q); if (f) { f.display = %d; }", n, to))
	}
	return strings.Join(out, "\n")
}
