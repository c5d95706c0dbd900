package read

import (
	"encoding/json"
	"regexp"

	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/pdf/object"
)

// ScriptName is the name of our script among those of the document.
const ScriptName = "zm_rules"

// RuleSaid is what a row says of its rules. It stands with the script of the document, in a
// comment, so that a form which comes back is read as it was written.
type RuleSaid struct {
	Format    form.Format  `json:"format,omitzero"`
	Checks    []form.Check `json:"checks,omitempty"`
	Formula   string       `json:"formula,omitempty"`
	ShowIf    string       `json:"showif,omitempty"`
	RequireIf string       `json:"requireif,omitempty"`
	Steps     []form.Step  `json:"steps,omitempty"`
	Action    form.Action  `json:"action,omitzero"`
	Role      string       `json:"role,omitempty"`
	Hint      string       `json:"hint,omitempty"`
}

func (r RuleSaid) give(x *form.Field) {
	x.Checks, x.Formula, x.ShowIf, x.RequireIf, x.Role = r.Checks, r.Formula, r.ShowIf, r.RequireIf, r.Role
	if x.Kind == form.Text || x.Kind == form.Choice {
		x.Hint = r.Hint
	}
	if r.Format.Kind != form.NoFormat {
		x.Format = r.Format
	}
	if len(r.Steps) > 0 && x.Kind != form.Signature {
		x.Steps = r.Steps
		if x.Kind == form.Button {
			x.Action = r.Action
		}
	}
}

// DocumentScripts reads the scripts of the document by name (ISO 32000-2, table 32).
func DocumentScripts(f *object.File) (map[string]types.Object, error) {
	cat, err := f.Catalog()
	if err != nil {
		return nil, err
	}
	out := map[string]types.Object{}
	seen := 0
	var walk func(o types.Object)
	walk = func(o types.Object) {
		if seen++; seen > 1000 {
			return
		}
		d := f.Dict(o)
		list := f.Array(object.Entry(d, "Names"))
		for i := 0; i+1 < len(list); i += 2 {
			out[f.Text(list[i])] = list[i+1]
		}
		for _, kid := range f.Array(object.Entry(d, "Kids")) {
			walk(kid)
		}
	}
	walk(object.Entry(f.Dict(object.Entry(cat, "Names")), "JavaScript"))
	return out, nil
}

var comment = regexp.MustCompile(`(?s)/\*zm (\{.*\})\*/`)

// RulesSaid reads the rules of fields that a form of ours brings with it, by name.
func RulesSaid(f *object.File) (map[string]RuleSaid, error) {
	scripts, err := DocumentScripts(f)
	if err != nil {
		return nil, err
	}
	m := comment.FindStringSubmatch(Script(f, scripts[ScriptName]))
	if m == nil {
		return nil, nil
	}
	var out map[string]RuleSaid
	if json.Unmarshal([]byte(m[1]), &out) != nil {
		return nil, nil // somebody has changed it: the scripts stay as they are
	}
	return out, nil
}
