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
