package read

import (
	"encoding/json"
	"fmt"
	"maps"
	"regexp"
	"slices"
	"strings"

	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/pdf/object"
	"zealousmargin.example/internal/rules"
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

// remember gives the fields what the script of the document says that their scripts were written
// from. It counts only where the scripts are those that it comes to: where somebody has changed one,
// the scripts stay, as those of any other form.
func remember(f *object.File, fields []form.Field, ws []Widget, said map[string]RuleSaid) {
	if len(said) == 0 || !ownScript(f) {
		return
	}
	raw := form.CloneFields(fields)
	for i := range fields {
		x := &fields[i]
		if r, ok := said[x.Name]; ok {
			r.give(x)
		}
	}
	order := calculated(f)
	for again := true; again; { // what one field no longer says changes the scripts of others
		again = false
		compiled, err := rules.CompileForm(fields)
		if err != nil {
			copy(fields, raw)
			return
		}
		for i := range fields {
			x := &fields[i]
			want := compiled.Fields[x.Name]
			listed := want["C"] == "" || slices.Contains(order, x.Name)
			if listed && (maps.Equal(want, ws[i].Scripts) || x.Equal(raw[i]) && !carries(want, ws[i].Scripts)) {
				continue
			}
			again = true
			if x.Equal(raw[i]) { // it carries what shows and hides others
				for k := range fields {
					fields[k].ShowIf, fields[k].RequireIf = "", ""
				}
				continue
			}
			hint, role := x.Hint, x.Role
			*x = raw[i]
			x.Hint, x.Role = hint, role
		}
	}
	for i := range fields {
		x := &fields[i]
		if fmt.Sprint(x.Format, x.Checks, x.Formula, x.ShowIf, x.RequireIf) == fmt.Sprint(raw[i].Format, raw[i].Checks, raw[i].Formula,
			raw[i].ShowIf, raw[i].RequireIf) {
			continue
		}
		x.Origin.Keeps = slices.DeleteFunc(slices.Clone(x.Origin.Keeps), func(k string) bool { return strings.HasSuffix(k, " script") })
	}
}

// ownScript tells whether the script of the document is what ours is, beside its comment.
func ownScript(f *object.File) bool {
	scripts, err := DocumentScripts(f)
	if err != nil {
		return false
	}
	js := strings.TrimSpace(comment.ReplaceAllString(Script(f, scripts[ScriptName]), ""))
	return js == "" || js == strings.TrimSpace(rules.Prelude())+"\n"+AtOnce || js == strings.TrimSpace(rules.Prelude()+AtOnce)
}

// AtOnce lets a form be worked out when it is opened (ISO 21757-1, Doc.calculateNow).
const AtOnce = "try { this.calculateNow(); } catch (e) { }"

// carries tells whether a field that says nothing of rules is to have a calculation and has not, or
// has another one: the one that shows and hides the others.
func carries(want, has map[string]string) bool { return want["C"] != has["C"] && want["C"] != "" }

// calculated lists the names of the fields in the order of calculation (ISO 32000-2, table 224, /CO).
func calculated(f *object.File) []string {
	cat, err := f.Catalog()
	if err != nil {
		return nil
	}
	var out []string
	for _, o := range f.Array(object.Entry(f.Dict(object.Entry(cat, "AcroForm")), "CO")) {
		out = append(out, fullName(f, f.Dict(o)))
	}
	return out
}
