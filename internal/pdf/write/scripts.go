package write

import (
	"encoding/json"
	"slices"
	"strings"

	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/pdf/object"
	"zealousmargin.example/internal/pdf/read"
	"zealousmargin.example/internal/rules"
)

// actionsOf makes the additional actions of a field of its scripts (ISO 32000-2, table 199).
func actionsOf(compiled rules.Scripts) types.Dict {
	if len(compiled) == 0 {
		return nil
	}
	aa := types.Dict{}
	for trigger, js := range compiled {
		aa[trigger] = types.Dict{"Type": types.Name("Action"), "S": types.Name("JavaScript"), "JS": object.Str(js)}
	}
	return aa
}

// documentScripts writes the script that the fields' scripts need, what it is written from, and
// the order of calculation (ISO 32000-2, table 224, /CO).
func (b *Builder) documentScripts(fields []form.Field) error {
	said := map[string]read.RuleSaid{}
	for _, x := range fields {
		r := read.RuleSaid{Checks: x.Checks, Formula: x.Formula, ShowIf: x.ShowIf, RequireIf: x.RequireIf, Role: x.Role, Hint: x.Hint}
		if k := x.Format.Kind; k != form.Date && k != form.Number || len(x.Checks) > 0 { // those that their scripts alone do not tell
			r.Format = x.Format
		}
		if len(r.Checks) > 0 || r.Formula+r.ShowIf+r.RequireIf+r.Role+r.Hint != "" || r.Format.Kind != form.NoFormat {
			said[x.Name] = r
		}
	}
	if err := b.documentEvents(); err != nil {
		return err
	}
	scripts, err := read.DocumentScripts(b.File)
	if err != nil {
		return err
	}
	_, had := scripts[read.ScriptName]
	if len(said) == 0 && !b.compiled.Needs && !had {
		return nil
	}
	delete(scripts, read.ScriptName)
	if len(said) > 0 || b.compiled.Needs {
		js := ""
		if b.compiled.Needs {
			js = rules.Prelude() + read.AtOnce + "\n"
		}
		data, err := json.Marshal(said)
		if err != nil {
			return err
		}
		js += "/*zm " + strings.ReplaceAll(string(data), "*/", `*\/`) + "*/\n"
		scripts[read.ScriptName] = types.Dict{"S": types.Name("JavaScript"), "JS": object.Str(js)}
	}
	if err := b.writeDocumentScripts(scripts); err != nil {
		return err
	}
	return b.calculationOrder()
}

// fieldRefs are the field dictionaries of the form by their full names.
func (b *Builder) fieldRefs() (map[string]types.IndirectRef, error) {
	ws, err := read.WidgetsOf(b.Kit.File)
	if err != nil {
		return nil, err
	}
	at := map[string]types.IndirectRef{}
	for _, w := range ws {
		if i := slices.IndexFunc(w.Refs, func(r types.IndirectRef) bool { return b.Dict(r).HasEntry("T") }); i >= 0 {
			at[w.Name] = w.Refs[i]
		}
	}
	for name, ref := range b.owns {
		at[name] = ref
	}
	return at, nil
}

// calculationOrder writes /CO: what the file had, then ours.
func (b *Builder) calculationOrder() error {
	at, err := b.fieldRefs()
	if err != nil {
		return err
	}
	var ours types.Array
	mine := map[int]bool{}
	for _, name := range b.compiled.Order {
		if ref, ok := at[name]; ok {
			ours = append(ours, ref)
			mine[ref.ObjectNumber.Value()] = true
		}
	}
	theirs := slices.DeleteFunc(without(b.Array(object.Entry(b.form, "CO")), mine), func(o types.Object) bool {
		return !b.Dict(object.Entry(b.Dict(o), "AA")).HasEntry("C") // it is not calculated any more
	})
	order := append(theirs, ours...)
	if len(order) == 0 {
		b.form.Delete("CO")
	} else {
		b.form.Update("CO", order)
	}
	return nil
}

func (b *Builder) writeDocumentScripts(scripts map[string]types.Object) error {
	cat, err := b.Catalog()
	if err != nil {
		return err
	}
	names := types.Dict{}
	for k, v := range b.Dict(object.Entry(cat, "Names")) {
		names[k] = v
	}
	var keys []string
	for k := range scripts {
		keys = append(keys, k)
	}
	slices.Sort(keys)
	list := types.Array{}
	for _, k := range keys {
		list = append(list, object.Str(k), scripts[k])
	}
	delete(names, "JavaScript")
	if len(list) > 0 {
		ref, err := b.Add(types.Dict{"Names": list})
		if err != nil {
			return err
		}
		names["JavaScript"] = ref
	}
	cat.Update("Names", names)
	return b.TouchCatalog()
}
