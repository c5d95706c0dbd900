package pdf

import (
	"fmt"
	"slices"
	"strings"

	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"

	"zealousmargin.example/internal/form"
)

// triggers are the keys of additional actions (ISO 32000-2, table 197).
var triggers = map[form.Trigger]string{form.WhenDown: "D", form.PointerIn: "E", form.PointerOut: "X", form.FieldEntered: "Fo", form.FieldLeft: "Bl"}

// steps writes what a field does: a press as /A, the rest as additional actions of its widget.
// Each step names the next (ISO 32000-2, table 196, /Next).
func (b *builder) steps(x form.Field, d types.Dict) error {
	byTrigger := map[form.Trigger][]types.Dict{}
	if x.Action.Do == form.TakePicture {
		byTrigger[form.WhenPressed] = append(byTrigger[form.WhenPressed], script(takePicture))
	}
	for _, s := range x.Sequence() {
		a, err := b.stepAction(s)
		if err != nil {
			return err
		}
		byTrigger[s.When] = append(byTrigger[s.When], a...)
	}
	if list := byTrigger[form.WhenPressed]; len(list) > 0 {
		d["A"] = chain(list)
	} else {
		d.Delete("A")
	}
	aa := types.Dict{}
	for k, v := range b.dict(entry(d, "AA")) {
		aa[k] = v
	}
	for when, key := range triggers {
		if list := byTrigger[when]; len(list) > 0 {
			aa[key] = chain(list)
		} else if x.Origin == nil || len(x.Steps) > 0 {
			delete(aa, key)
		}
	}
	if len(aa) > 0 {
		d["AA"] = aa
	} else {
		d.Delete("AA")
	}
	return nil
}

// Keys of what happens to the document and to its pages (ISO 32000-2, tables 200 and 198).
var (
	documentTriggers = map[form.Trigger]string{form.BeforeClose: "WC", form.BeforeSave: "WS", form.AfterSave: "DS", form.BeforePrint: "WP", form.AfterPrint: "DP"}
	pageTriggers     = map[form.Trigger]string{form.PageOpened: "O", form.PageClosed: "C"}
)

// documentEvents writes what is done when something happens to the document or to a page. What
// an earlier release of ours wrote there is taken away first; what others wrote stays.
func (b *builder) documentEvents() error {
	had := b.said[""].Steps
	if len(b.events) == 0 && len(had) == 0 {
		return nil
	}
	cat, err := b.catalog()
	if err != nil {
		return err
	}
	place := func(holder types.Dict, key string, on func(form.Step) bool) error {
		var list []types.Dict
		for _, s := range b.events {
			if !on(s) {
				continue
			}
			a, err := b.stepAction(s)
			if err != nil {
				return err
			}
			list = append(list, a...)
		}
		if len(list) > 0 {
			holder[key] = chain(list)
		} else if slices.ContainsFunc(had, on) {
			delete(holder, key)
		}
		return nil
	}
	additional := func(d types.Dict, keys map[form.Trigger]string, on func(form.Step) bool) error {
		aa := types.Dict{}
		for k, v := range b.dict(entry(d, "AA")) {
			aa[k] = v
		}
		for when, key := range keys {
			if err := place(aa, key, func(s form.Step) bool { return s.When == when && on(s) }); err != nil {
				return err
			}
		}
		if len(aa) > 0 {
			d.Update("AA", aa)
		} else {
			d.Delete("AA")
		}
		return nil
	}
	if err := place(cat, "OpenAction", func(s form.Step) bool { return s.When == form.DocumentOpened }); err != nil {
		return err
	}
	if err := additional(cat, documentTriggers, func(form.Step) bool { return true }); err != nil {
		return err
	}
	for i, p := range b.pages {
		n := i + 1
		mine := func(s form.Step) bool { return s.OnPage == n }
		if !slices.ContainsFunc(append(slices.Clone(b.events), had...), mine) {
			continue
		}
		if err := additional(p.dict, pageTriggers, mine); err != nil {
			return err
		}
		b.touch(p.ref)
	}
	return b.touchCatalog()
}

// chain joins actions one after the other.
func chain(list []types.Dict) types.Dict {
	for i := len(list) - 1; i > 0; i-- {
		list[i-1]["Next"] = list[i]
	}
	return list[0]
}

func script(js string) types.Dict {
	return types.Dict{"Type": types.Name("Action"), "S": types.Name("JavaScript"), "JS": str(js)}
}

func names(list []string) types.Array {
	out := types.Array{}
	for _, n := range list {
		out = append(out, str(n))
	}
	return out
}

// submitFlags are the flags of sending (ISO 32000-2, table 240).
func submitFlags(s form.Step) int {
	const (
		except  = 1 << 0 // the fields are those to leave out
		html    = 1 << 2
		xfdf    = 1 << 5
		wholePD = 1 << 8
	)
	n := map[string]int{"html": html, "xfdf": xfdf, "pdf": wholePD}[s.As]
	if s.Except && len(s.Named()) > 0 {
		n |= except
	}
	return n
}

// stepAction is the action dictionaries of a step (ISO 32000-2, 12.6.4 and 12.7.6).
func (b *builder) stepAction(s form.Step) ([]types.Dict, error) {
	a := types.Dict{"Type": types.Name("Action")}
	switch s.Do {
	case form.ClearForm:
		a["S"] = types.Name("ResetForm")
		if list := s.Named(); len(list) > 0 {
			a["Fields"] = names(list)
			if s.Except { // table 242: the fields are those that are not reset
				a["Flags"] = types.Integer(1)
			}
		}
	case form.SubmitForm:
		a["S"] = types.Name("SubmitForm")
		a["F"] = types.Dict{"Type": types.Name("Filespec"), "FS": types.Name("URL"), "F": str(s.URL)}
		a["Flags"] = types.Integer(submitFlags(s))
		if list := s.Named(); len(list) > 0 {
			a["Fields"] = names(list)
		}
	case form.PrintForm:
		// Print is not among the four names of ISO 32000-2, table 215, but readers
		// support it widely (common practice, no source), scripts or no scripts.
		a["S"], a["N"] = types.Name("Named"), types.Name("Print")
	case form.SaveForm: // as with Print (common practice, no source)
		a["S"], a["N"] = types.Name("Named"), types.Name("SaveAs")
	case form.GoToPage:
		if s.Page < 1 || s.Page > len(b.pages) {
			return nil, fmt.Errorf("there is no page %d to go to", s.Page)
		}
		a["S"], a["D"] = types.Name("GoTo"), types.Array{b.pages[s.Page-1].ref, types.Name("Fit")}
	case form.OpenLink:
		a["S"], a["URI"] = types.Name("URI"), types.StringLiteral(escape(s.URL))
	case form.OpenPDF:
		a["S"], a["F"], a["D"], a["NewWindow"] = types.Name("GoToR"), str(s.URL), types.Array{types.Integer(0), types.Name("Fit")}, types.Boolean(true)
	case form.ShowFields, form.HideFields:
		a["S"], a["T"] = types.Name("Hide"), names(s.Named())
		if s.Do == form.ShowFields { // table 214: hidden unless it says not
			a["H"] = types.Boolean(false)
		}
	case form.BringIn:
		a["S"], a["F"] = types.Name("ImportData"), str(s.URL)
	case form.LockFields, form.FreeFields, form.SetValue, form.RunScript:
		return []types.Dict{script(stepScript(s))}, nil
	default:
		return nil, fmt.Errorf("%q is nothing that can be done", s.Do)
	}
	return []types.Dict{a}, nil
}

// stepScript is the script of a step that the standard has no action for (ISO 21757-1, Field.readonly
// and Field.value).
func stepScript(s form.Step) string {
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

// pressWords is what [Widget] says of what a press of a written field does.
func pressWords(x form.Field) string {
	var out []string
	if x.Action.Do == form.TakePicture {
		out = append(out, "JavaScript "+takePicture)
	}
	for _, s := range x.Sequence() {
		if s.When != form.WhenPressed {
			continue
		}
		switch s.Do {
		case form.ClearForm:
			out = append(out, "ResetForm")
		case form.PrintForm:
			out = append(out, "Named Print")
		case form.SaveForm:
			out = append(out, "Named SaveAs")
		case form.SubmitForm:
			out = append(out, "SubmitForm "+s.URL)
		case form.OpenLink:
			out = append(out, "URI "+s.URL)
		case form.LockFields, form.FreeFields, form.SetValue, form.RunScript:
			out = append(out, "JavaScript "+stepScript(s))
		default:
			out = append(out, map[form.Deed]string{form.GoToPage: "GoTo", form.OpenPDF: "GoToR", form.ShowFields: "Hide", form.HideFields: "Hide", form.BringIn: "ImportData"}[s.Do])
		}
	}
	return strings.Join(out, ", ")
}
