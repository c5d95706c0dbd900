package pdf

import (
	"encoding/json"
	"fmt"
	"regexp"
	"slices"
	"strings"

	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/rules"
)

// actionsOf makes the additional actions of a field of its scripts (ISO 32000-2, table 199).
func actionsOf(compiled rules.Scripts) types.Dict {
	if len(compiled) == 0 {
		return nil
	}
	aa := types.Dict{}
	for trigger, js := range compiled {
		aa[trigger] = types.Dict{"Type": types.Name("Action"), "S": types.Name("JavaScript"), "JS": str(js)}
	}
	return aa
}

// scriptName is the name of our script among those of the document.
const scriptName = "zm_rules"

// ruleSaid is what a row says of its rules. It stands with the script of the document, in a
// comment, so that a form which comes back is read as it was written.
type ruleSaid struct {
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

func (r ruleSaid) give(x *form.Field) {
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

// documentScripts writes the script that the fields' scripts need, what it is written from, and
// the order of calculation (ISO 32000-2, table 224, /CO).
func (b *builder) documentScripts(fields []form.Field) error {
	said := map[string]ruleSaid{}
	for _, x := range fields {
		r := ruleSaid{Checks: x.Checks, Formula: x.Formula, ShowIf: x.ShowIf, RequireIf: x.RequireIf, Role: x.Role, Hint: x.Hint}
		switch x.Format.Kind {
		case form.NoFormat, form.Date, form.Number:
		default:
			r.Format = x.Format
		}
		if len(x.Steps) > 0 {
			r.Steps, r.Action = x.Steps, x.Action
		}
		if len(r.Steps) > 0 || len(r.Checks) > 0 || r.Formula+r.ShowIf+r.RequireIf+r.Role+r.Hint != "" || r.Format.Kind != form.NoFormat {
			said[x.Name] = r
		}
	}
	if len(b.events) > 0 {
		said[""] = ruleSaid{Steps: b.events}
	}
	if err := b.documentEvents(); err != nil {
		return err
	}
	scripts, err := b.file.documentScripts()
	if err != nil {
		return err
	}
	_, had := scripts[scriptName]
	if len(said) == 0 && !b.compiled.Needs && !had {
		return nil
	}
	delete(scripts, scriptName)
	if len(said) > 0 || b.compiled.Needs {
		js := ""
		if b.compiled.Needs {
			js = rules.Prelude() + "try { this.calculateNow(); } catch (e) { }\n"
		}
		data, err := json.Marshal(said)
		if err != nil {
			return err
		}
		js += "/*zm " + strings.ReplaceAll(string(data), "*/", `*\/`) + "*/\n"
		scripts[scriptName] = types.Dict{"S": types.Name("JavaScript"), "JS": str(js)}
	}
	if err := b.writeDocumentScripts(scripts); err != nil {
		return err
	}
	return b.calculationOrder()
}

// calculationOrder writes /CO: what the file had, then ours.
func (b *builder) calculationOrder() error {
	ws, err := b.widgets()
	if err != nil {
		return err
	}
	at := map[string]types.IndirectRef{}
	for _, w := range ws {
		if i := slices.IndexFunc(w.refs, func(r types.IndirectRef) bool { return b.dict(r).HasEntry("T") }); i >= 0 {
			at[w.Name] = w.refs[i]
		}
	}
	for name, ref := range b.owns {
		at[name] = ref
	}
	var ours types.Array
	mine := map[int]bool{}
	for _, name := range b.compiled.Order {
		if ref, ok := at[name]; ok {
			ours = append(ours, ref)
			mine[ref.ObjectNumber.Value()] = true
		}
	}
	theirs := slices.DeleteFunc(without(b.array(entry(b.form, "CO")), mine), func(o types.Object) bool {
		return !b.dict(entry(b.dict(o), "AA")).HasEntry("C") // it is not calculated any more
	})
	order := append(theirs, ours...)
	if len(order) == 0 {
		b.form.Delete("CO")
	} else {
		b.form.Update("CO", order)
	}
	return nil
}

// documentScripts reads the scripts of the document by name (ISO 32000-2, table 32).
func (f *file) documentScripts() (map[string]types.Object, error) {
	cat, err := f.catalog()
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
		d := f.dict(o)
		list := f.array(entry(d, "Names"))
		for i := 0; i+1 < len(list); i += 2 {
			out[f.text(list[i])] = list[i+1]
		}
		for _, kid := range f.array(entry(d, "Kids")) {
			walk(kid)
		}
	}
	walk(entry(f.dict(entry(cat, "Names")), "JavaScript"))
	return out, nil
}

func (b *builder) writeDocumentScripts(scripts map[string]types.Object) error {
	cat, err := b.catalog()
	if err != nil {
		return err
	}
	names := types.Dict{}
	for k, v := range b.dict(entry(cat, "Names")) {
		names[k] = v
	}
	var keys []string
	for k := range scripts {
		keys = append(keys, k)
	}
	slices.Sort(keys)
	list := types.Array{}
	for _, k := range keys {
		list = append(list, str(k), scripts[k])
	}
	delete(names, "JavaScript")
	if len(list) > 0 {
		ref, err := b.add(types.Dict{"Names": list})
		if err != nil {
			return err
		}
		names["JavaScript"] = ref
	}
	cat.Update("Names", names)
	return b.touchCatalog()
}

var comment = regexp.MustCompile(`(?s)/\*zm (\{.*\})\*/`)

// rulesSaid reads the rules of fields that a form of ours brings with it, by name.
func (f *file) rulesSaid() (map[string]ruleSaid, error) {
	scripts, err := f.documentScripts()
	if err != nil {
		return nil, err
	}
	m := comment.FindStringSubmatch(f.script(scripts[scriptName]))
	if m == nil {
		return nil, nil
	}
	var out map[string]ruleSaid
	if json.Unmarshal([]byte(m[1]), &out) != nil {
		return nil, nil // somebody has changed it: the scripts stay as they are
	}
	return out, nil
}

// compareOrder holds the order of calculation in a written file to the draft's.
func compareOrder(out []byte, compiled rules.Compiled) []string {
	f, err := parse(out)
	if err != nil {
		return []string{err.Error()}
	}
	cat, err := f.catalog()
	if err != nil {
		return []string{err.Error()}
	}
	var names []string
	for _, o := range f.array(entry(f.dict(entry(cat, "AcroForm")), "CO")) {
		names = append(names, f.text(entry(f.dict(o), "T")))
	}
	if len(names) < len(compiled.Order) || !slices.Equal(names[len(names)-len(compiled.Order):], compiled.Order) {
		return []string{fmt.Sprintf("fields are calculated in the order %v, not %v", names, compiled.Order)}
	}
	return nil
}
