package web

import (
	"errors"
	"fmt"
	"html/template"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"github.com/labstack/echo/v5"

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

var eventNames = [][2]string{
	{"opened", "the document is opened"},
	{"page-opened", "a page is opened"},
	{"page-closed", "a page is left"},
	{"before-print", "it is about to be printed"},
	{"after-print", "it was printed"},
	{"before-save", "it is about to be saved"},
	{"after-save", "it was saved"},
	{"before-close", "it is about to be closed"},
}

// stepSayings are the sentences of one step of a field; n counts from 0.
func stepSayings(f form.Field, n int) []saying { return sayStep(f.ID, f.Steps[n], n, triggerNames) }

// sayStep says one step of a field or of the document.
func sayStep(owner string, s form.Step, n int, triggers [][2]string) []saying {
	var out []saying
	add := func(part, before, after, value, empty, stop string, choices [][2]string) {
		out = append(out, saying{property: property{Key: fmt.Sprintf("step:%d:%s", n, part), Before: before, After: after, Choices: choices}, ID: "b-" + owner + "-step-" + strconv.Itoa(n) + "-" + part, Value: value, Empty: empty, Stop: stop})
	}
	if s.When == form.PageOpened || s.When == form.PageClosed {
		add("when", "When", "", string(s.When), "", "", triggers)
		add("onpage", "number", "", strconv.Itoa(s.OnPage), "", ":", nil)
	} else {
		add("when", "When", "", string(s.When), "", ":", triggers)
	}
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
		put(w, `<span class="rule">`)
		for _, s := range stepSayings(f, n) {
			s.put(w)
			w.WriteByte(' ')
		}
		i := strconv.Itoa(n)
		if s := f.Steps[n]; s.Do == form.SubmitForm {
			put(w, `<button class="link" data-set="step:`, i, `:url-here" data-value="">to this application</button> `)
		}
		if n > 0 || f.Action.Do != "" && f.Action.Do != form.TakePicture {
			put(w, `<button class="link" data-set="step:`, i, `:up" data-value="" title="Do it before what stands above">earlier</button> `)
		}
		put(w, `<button class="link" data-set="step:`, i, `:drop" data-value="">take away</button></span> `)
	}
	before := "When something happens:"
	if len(f.Steps) > 0 || f.Action.Do != "" {
		before = "Also, when something happens:"
	}
	add := saying{property: property{Key: "step:new", Before: before, Choices: append([][2]string{{"", "nothing more"}}, stepNames...)}, ID: "b-" + f.ID + "-step-new", Stop: "."}
	add.put(w)
	put(w, "<br>")
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
		all := f.Sequence()
		all, err := changeStep(t, *f, all, len(all)-len(f.Steps), key, value)
		if err == nil {
			f.SetSequence(all)
		}
		return err
	})
}

// changeStep changes one thing of steps, of which the first ones are not shown as such.
func changeStep(t *form.Template, f form.Field, all []form.Step, first int, key, value string) ([]form.Step, error) {
	parts := strings.Split(key, ":")
	if len(parts) == 2 { // step:new
		do := form.Deed(value)
		if !slices.Contains(form.StepDeeds, do) {
			return nil, form.ErrNothing
		}
		return append(all, newStep(do, f, t)), nil
	}
	n, err := strconv.Atoi(parts[1])
	at := n + first
	if err != nil || n < 0 || at >= len(all) {
		return nil, form.ErrClash
	}
	s := &all[at]
	switch parts[2] {
	case "up":
		if at > 0 {
			all[at-1], all[at] = all[at], all[at-1]
		}
	case "drop":
		all = slices.Delete(all, at, at+1)
	case "when":
		s.When, s.OnPage = form.Trigger(value), 0
		if s.When == form.PageOpened || s.When == form.PageClosed {
			s.OnPage = 1
		}
	case "do":
		when, on := s.When, s.OnPage
		*s = newStep(form.Deed(value), f, t)
		s.When, s.OnPage = when, on
	case "fields":
		s.Fields = value
		if value == "" {
			s.Except = false
		}
		return all, lost(t, *s)
	case "except":
		s.Except = value == "yes"
	case "url":
		s.URL = value
	case "as":
		s.As = value
	case "page", "onpage":
		p, err := strconv.Atoi(value)
		if err != nil || p < 1 || p > len(t.Pages) {
			return nil, fmt.Errorf("there is no page %q: write a number from 1 to %d", value, len(t.Pages))
		}
		if parts[2] == "page" {
			s.Page = p
		} else {
			s.OnPage = p
		}
	case "value":
		s.Value = value
	case "script":
		if err := rules.CheckScript(value); err != nil {
			return nil, err
		}
		s.Script = value
	}
	return all, nil
}

// lost refuses names of fields that are not there.
func lost(t *form.Template, s form.Step) error {
	for _, n := range s.Named() {
		if !slices.ContainsFunc(t.Fields, func(o form.Field) bool { return o.Name == n }) {
			return fmt.Errorf("there is no field called %q: write names of fields with commas between", n)
		}
	}
	return nil
}

// eventsSaid is what a document does, as sentences.
func eventsSaid(d form.Details) template.HTML {
	var w strings.Builder
	for n, s := range d.Events {
		put(&w, `<span class="rule">`)
		for _, one := range sayStep("doc", s, n, eventNames) {
			one.put(&w)
			w.WriteByte(' ')
		}
		i := strconv.Itoa(n)
		if n > 0 {
			put(&w, `<button class="link" data-set="step:`, i, `:up" data-value="">earlier</button> `)
		}
		put(&w, `<button class="link" data-set="step:`, i, `:drop" data-value="">take away</button></span> `)
	}
	add := saying{property: property{Key: "step:new", Before: "When something happens to the document or to a page:", Choices: append([][2]string{{"", "nothing more"}}, stepNames...)}, ID: "b-doc-step-new", Stop: "."}
	add.put(&w)
	return template.HTML(w.String())
}

// setEvent changes what a document does.
func (s *Server) setEvent(c *echo.Context) error {
	id, err := idOf(c)
	if err != nil {
		return err
	}
	_, err = s.store.Change(c.Request().Context(), id, -1, account(c).ID, "", func(t *form.Template) (form.Edit, error) {
		d := t.Details
		all, err := changeStep(t, form.Field{Kind: form.Button, Name: "the document"}, slices.Clone(d.Events), 0, c.FormValue("key"), c.FormValue("value"))
		if err != nil {
			return form.Edit{}, err
		}
		for i := range all {
			if all[i].When == form.WhenPressed {
				all[i].When = form.DocumentOpened
			}
		}
		d.Events = all
		e, err := t.Describe(d)
		e.Title = "changed what the document does"
		return e, err
	})
	if err != nil && !errors.Is(err, form.ErrNothing) {
		return refuse(err)
	}
	doc, err := s.store.Document(c.Request().Context(), id)
	if err != nil {
		return err
	}
	return s.render(c, http.StatusOK, "arrival", "events", map[string]any{"Doc": doc, "Said": eventsSaid(doc.Details())})
}
