package write

import (
	"fmt"
	"slices"

	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/pdf/look"
	"zealousmargin.example/internal/pdf/object"
	"zealousmargin.example/internal/pdf/read"
)

// steps writes what a field does: a press as /A, the rest as additional actions of its widget.
// Each step names the next (ISO 32000-2, table 196, /Next). Had is what it did before.
func (b *Builder) steps(x form.Field, d types.Dict, had []form.Step) error {
	byTrigger := map[form.Trigger][]types.Dict{}
	if x.Action.Do == form.TakePicture {
		byTrigger[form.WhenPressed] = append(byTrigger[form.WhenPressed], script(look.TakePicture))
	}
	for _, s := range x.Sequence() {
		a, err := b.stepAction(s)
		if err != nil {
			return err
		}
		byTrigger[s.When] = append(byTrigger[s.When], a...)
	}
	aa := types.Dict{}
	for k, v := range b.Dict(object.Entry(d, "AA")) {
		aa[k] = v
	}
	d.Delete("A")
	if list := byTrigger[form.WhenPressed]; len(list) > 0 && !read.PressedAsUp(x.Kind) {
		d["A"] = chain(list)
	}
	for when, key := range read.KeysOf(x.Kind) {
		if list := byTrigger[when]; len(list) > 0 {
			aa[key] = chain(list)
		} else if x.Origin == nil || slices.ContainsFunc(had, func(s form.Step) bool { return s.When == when }) {
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

// documentEvents writes what is done when something happens to the document or to a page. What
// an earlier release of ours wrote there is taken away first; what others wrote stays.
func (b *Builder) documentEvents() error {
	had := read.Events(b.File)
	if len(b.events) == 0 && len(had) == 0 {
		return nil
	}
	cat, err := b.Catalog()
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
		for k, v := range b.Dict(object.Entry(d, "AA")) {
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
	if err := additional(cat, read.DocumentTriggers, func(form.Step) bool { return true }); err != nil {
		return err
	}
	for i, p := range b.Pages {
		n := i + 1
		mine := func(s form.Step) bool { return s.OnPage == n }
		if !slices.ContainsFunc(append(slices.Clone(b.events), had...), mine) {
			continue
		}
		if err := additional(p.Dict, read.PageTriggers, mine); err != nil {
			return err
		}
		b.Touch(p.Ref)
	}
	return b.TouchCatalog()
}

// chain joins actions one after the other.
func chain(list []types.Dict) types.Dict {
	for i := len(list) - 1; i > 0; i-- {
		list[i-1]["Next"] = list[i]
	}
	return list[0]
}

func script(js string) types.Dict {
	return types.Dict{"Type": types.Name("Action"), "S": types.Name("JavaScript"), "JS": object.Str(js)}
}

func names(list []string) types.Array {
	out := types.Array{}
	for _, n := range list {
		out = append(out, object.Str(n))
	}
	return out
}

// reset is an action that clears fields, which are named and, once they are all there, pointed at too: some readers go by the one only,
// some by the other.
type reset struct {
	action types.Dict
	fields []string
}

func (b *Builder) finishResets() error {
	if len(b.resets) == 0 {
		return nil
	}
	at, err := b.fieldRefs()
	if err != nil {
		return err
	}
	for _, r := range b.resets {
		list := names(r.fields)
		for _, n := range r.fields {
			if ref, ok := at[n]; ok {
				list = append(list, ref)
			}
		}
		r.action["Fields"] = list
	}
	return nil
}

// submitFlags are the flags of sending (ISO 32000-2, table 240).
func submitFlags(s form.Step) int {
	n := read.SubmitKinds[s.As]
	if s.Except && len(s.Named()) > 0 {
		n |= read.SubmitExcept
	}
	return n
}

// stepAction is the action dictionaries of a step (ISO 32000-2, 12.6.4 and 12.7.6).
func (b *Builder) stepAction(s form.Step) ([]types.Dict, error) {
	a := types.Dict{"Type": types.Name("Action")}
	switch s.Do {
	case form.ClearForm:
		a["S"] = types.Name("ResetForm")
		if list := s.Named(); len(list) > 0 {
			b.resets = append(b.resets, reset{a, list})
			if s.Except { // table 242: the fields are those that are not reset
				a["Flags"] = types.Integer(1)
			}
		}
	case form.SubmitForm:
		a["S"] = types.Name("SubmitForm")
		a["F"] = types.Dict{"Type": types.Name("Filespec"), "FS": types.Name("URL"), "F": object.Str(s.URL)}
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
		if s.Page < 1 || s.Page > len(b.Pages) {
			return nil, fmt.Errorf("there is no page %d to go to", s.Page)
		}
		a["S"], a["D"] = types.Name("GoTo"), types.Array{b.Pages[s.Page-1].Ref, types.Name("Fit")}
	case form.OpenLink:
		a["S"], a["URI"] = types.Name("URI"), types.StringLiteral(object.Escape(s.URL))
	case form.OpenPDF:
		a["S"], a["F"], a["D"], a["NewWindow"] = types.Name("GoToR"), object.Str(s.URL),
			types.Array{types.Integer(0), types.Name("Fit")}, types.Boolean(true)
	case form.ShowFields, form.HideFields:
		a["S"], a["T"] = types.Name("Hide"), names(s.Named())
		if s.Do == form.ShowFields { // table 214: hidden unless it says not
			a["H"] = types.Boolean(false)
		}
		return []types.Dict{script(look.DisplayScript(s, b.shows)), a}, nil // some readers know the one, some the other
	case form.BringIn:
		a["S"], a["F"] = types.Name("ImportData"), object.Str(s.URL)
	case form.LockFields, form.FreeFields, form.SetValue, form.RunScript:
		return []types.Dict{script(look.StepScript(s))}, nil
	default:
		return nil, fmt.Errorf("%q is nothing that can be done", s.Do)
	}
	return []types.Dict{a}, nil
}
