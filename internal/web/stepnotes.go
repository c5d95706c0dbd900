package web

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/rules"
)

// What a note says of the things that its field does, each a sentence: When pressed: clear
// these fields.

var triggerNames = [][2]string{
	{"", "pressed"}, {"down", "the button of the pointer goes down"}, {"pointer-in", "the pointer comes over it"}, {"pointer-out", "the pointer leaves it"}, {"entered", "it is entered"}, {"left", "it is left"},
}

var stepNames = [][2]string{
	{"clear", "clear fields"},
	{"submit", "send the answers"},
	{"print", "print the form"},
	{"save", "save the form"},
	{"page", "go to a page"},
	{"link", "open a link"},
	{"pdf", "open another PDF"},
	{"show", "show fields"},
	{"hide", "hide fields"},
	{"lock", "lock fields"},
	{"free", "unlock fields"},
	{"set", "set a value"},
	{"bring", "bring in data"},
	{"script", "run a script"},
}

var sendingNames = [][2]string{{"", "as FDF"}, {"xfdf", "as XFDF"}, {"html", "as form data"}, {"pdf", "as the whole PDF"}}

// stepSayings are the sentences of one step; n counts from 0.
func stepSayings(f form.Field, n int) []saying {
	s := f.Steps[n]
	var out []saying
	add := func(part, before, after, value, empty, stop string, choices [][2]string) {
		out = append(out, saying{property: property{Key: fmt.Sprintf("step:%d:%s", n, part), Before: before, After: after, Choices: choices}, ID: "b-" + f.ID + "-step-" + strconv.Itoa(n) + "-" + part, Value: value, Empty: empty, Stop: stop})
	}
	add("when", "When", "", string(s.When), "", ":", triggerNames)
	add("do", "", "", string(s.Do), "", "", stepNames)
	which := func(all string) {
		if len(s.Named()) > 0 {
			add("except", "", "", map[bool]string{true: "yes", false: "no"}[s.Except], "", "", yesNo("all but", "only"))
		}
		add("fields", "", "", s.Fields, all, ".", nil)
	}
	switch s.Do {
	case form.ClearForm:
		which("all of them")
	case form.SubmitForm:
		add("url", "to", "", s.URL, "an address", "", nil)
		add("as", "", "", s.As, "", ",", sendingNames)
		which("all of them")
	case form.GoToPage:
		add("page", "number", "", strconv.Itoa(s.Page), "", ".", nil)
	case form.OpenLink:
		add("url", "to", "", s.URL, "an address", ".", nil)
	case form.OpenPDF, form.BringIn:
		add("url", "from the file", "", s.URL, "its name", ".", nil)
	case form.ShowFields, form.HideFields, form.LockFields, form.FreeFields:
		add("fields", "", "", s.Fields, "names, with commas", ".", nil)
	case form.SetValue:
		add("fields", "of", "", s.Fields, "names, with commas", "", nil)
		add("value", "to", "", s.Value, "nothing", ".", nil)
	case form.RunScript:
		add("script", "", "", s.Script, "ECMAScript", ".", nil)
	default:
		out[len(out)-1].Stop = "."
	}
	return out
}

// writeSteps writes what a field does beside its plain action.
func writeSteps(w *strings.Builder, f form.Field) {
	if f.Kind == form.Signature {
		return
	}
	for n := range f.Steps {
		write(w, `<span class="rule">`)
		for _, s := range stepSayings(f, n) {
			s.write(w)
			w.WriteByte(' ')
		}
		i := strconv.Itoa(n)
		if n > 0 || f.Action.Do != "" && f.Action.Do != form.TakePicture {
			write(w, `<button class="link" data-set="step:`, i, `:up" data-value="" title="Do it before what stands above">earlier</button> `)
		}
		write(w, `<button class="link" data-set="step:`, i, `:drop" data-value="">take away</button></span> `)
	}
	before := "When something happens:"
	if len(f.Steps) > 0 || f.Action.Do != "" {
		before = "Also, when something happens:"
	}
	add := saying{property: property{Key: "step:new", Before: before, Choices: append([][2]string{{"", "nothing more"}}, stepNames...)}, ID: "b-" + f.ID + "-step-new", Stop: "."}
	add.write(w)
	write(w, "<br>")
}

// newStep is a step to begin with, one that can be done.
func newStep(do form.Deed, f form.Field, t *form.Template) form.Step {
	s := form.Step{Do: do}
	if f.Kind != form.Button {
		s.When = form.FieldLeft
	}
	switch do {
	case form.SubmitForm, form.OpenLink:
		s.URL = "https://"
	case form.GoToPage:
		s.Page = 1
	case form.OpenPDF:
		s.URL = "other.pdf"
	case form.BringIn:
		s.URL = "answers.fdf"
	case form.ShowFields, form.HideFields, form.LockFields, form.FreeFields, form.SetValue:
		for _, o := range t.Fields {
			if o.ID != f.ID && o.Placed() {
				s.Fields = o.Name
				break
			}
		}
		if s.Fields == "" {
			s.Fields = f.Name
		}
	case form.RunScript:
		s.Script = "// event.target is this field"
	}
	return s
}

// setStep changes one thing of what fields do.
func setStep(t *form.Template, ids []string, who, key, value string) (form.Edit, error) {
	return t.Set("changed what "+who+" does", ids, func(f *form.Field) error {
		parts := strings.Split(key, ":")
		if len(parts) == 2 { // step:new
			do := form.Deed(value)
			if !slices.Contains(form.StepDeeds, do) {
				return form.ErrNothing
			}
			f.SetSequence(append(f.Sequence(), newStep(do, *f, t)))
			return nil
		}
		n, err := strconv.Atoi(parts[1])
		if err != nil || n < 0 || n >= len(f.Steps) {
			return form.ErrClash
		}
		all := f.Sequence()
		at := n + len(all) - len(f.Steps)
		s := &all[at]
		switch parts[2] {
		case "up":
			if at > 0 {
				all[at-1], all[at] = all[at], all[at-1]
			}
		case "drop":
			all = slices.Delete(all, at, at+1)
		case "when":
			s.When = form.Trigger(value)
		case "do":
			when := s.When
			*s = newStep(form.Deed(value), *f, t)
			s.When = when
		case "fields":
			s.Fields = value
			if value == "" {
				s.Except = false
			}
			return lost(t, *s, f, all)
		case "except":
			s.Except = value == "yes"
		case "url":
			s.URL = value
		case "as":
			s.As = value
		case "page":
			if s.Page, err = strconv.Atoi(value); err != nil || s.Page < 1 || s.Page > len(t.Pages) {
				return fmt.Errorf("there is no page %q: write a number from 1 to %d", value, len(t.Pages))
			}
		case "value":
			s.Value = value
		case "script":
			if err := rules.CheckScript(value); err != nil {
				return err
			}
			s.Script = value
		}
		f.SetSequence(all)
		return nil
	})
}

// lost refuses names of fields that are not there, and keeps the steps otherwise.
func lost(t *form.Template, s form.Step, f *form.Field, all []form.Step) error {
	for _, n := range s.Named() {
		if !slices.ContainsFunc(t.Fields, func(o form.Field) bool { return o.Name == n }) {
			return fmt.Errorf("there is no field called %q: write names of fields with commas between", n)
		}
	}
	f.SetSequence(all)
	return nil
}
