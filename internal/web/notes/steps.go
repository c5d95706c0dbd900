package notes

import (
	"fmt"
	"html/template"
	"strconv"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/web/markup"
)

// What a note says of the things that its field does, each a sentence: When pressed: clear these
// fields.

// stepSayings says one step of a field or of the document; n counts from 0.
func stepSayings(owner string, s form.Step, n int, triggers []form.Offer) []markup.Saying {
	var out []markup.Saying
	add := func(part, before, after, empty, stop string) {
		p, _ := form.PropertyOf(form.StepProperties, part)
		one := markup.Saying{
			Key: fmt.Sprintf("step:%d:%s", n, part), Before: before, After: after, Choices: p.Choices, Value: p.Get(&s), Empty: empty,
			Stop: stop,
			ID:   "b-" + owner + "-step-" + strconv.Itoa(n) + "-" + part,
		}
		if part == "when" {
			one.Choices = triggers
		}
		one.Fields = part == "fields"
		out = append(out, one)
	}
	if s.When == form.PageOpened || s.When == form.PageClosed {
		add("when", "When", "", "", "")
		add("onpage", "number", "", "", ":")
	} else {
		add("when", "When", "", "", ":")
	}
	add("do", "", "", "", "")
	which := func(all string) {
		if len(s.Named()) > 0 {
			add("except", "", "", "", "")
		}
		add("fields", "", "", all, ".")
	}
	switch s.Do {
	case form.ClearForm:
		which("all of them")
	case form.SubmitForm:
		add("url", "to", "", "an address", "")
		add("as", "", "", "", ",")
		which("all of them")
	case form.GoToPage:
		add("page", "number", "", "", ".")
	case form.OpenLink:
		add("url", "to", "", "an address", ".")
	case form.OpenPDF, form.BringIn:
		add("url", "from the file", "", "its name", ".")
	case form.ShowFields, form.HideFields, form.LockFields, form.FreeFields:
		add("fields", "", "", "names, with commas", ".")
	case form.SetValue:
		add("fields", "of", "", "names, with commas", "")
		add("value", "to", "", "nothing", ".")
	case form.RunScript:
		add("script", "", "", "ECMAScript", ".")
	default:
		out[len(out)-1].Stop = "."
	}
	return out
}

// steps writes what a field does beside its plain action.
func steps(b *markup.Builder, f form.Field) {
	if f.Kind == form.Signature {
		return
	}
	triggers := choicesOf(form.StepProperties, "when", "")
	for n, s := range f.Steps {
		b.Open("span", "class", "rule")
		b.Sentences(stepSayings(f.ID, s, n, triggers))
		key := fmt.Sprintf("step:%d:", n)
		if s.Do == form.SubmitForm {
			b.Link("to this application", key+"url-here", "")
		}
		if n > 0 || f.Action.Do != "" && f.Action.Do != form.TakePicture {
			b.Link("earlier", key+"up", "", "title", "Do it before what stands above")
		}
		b.Link("take away", key+"drop", "")
		b.Close("span").Text(" ")
	}
	before := "When something happens:"
	if len(f.Steps) > 0 || f.Action.Do != "" {
		before = "Also, when something happens:"
	}
	b.Say(&markup.Saying{
		Key: "step:new", Before: before, Choices: choicesOf(form.StepProperties, "do", "nothing more"),
		ID: "b-" + f.ID + "-step-new", Stop: ".",
	})
	b.Open("br")
}

// ActionFields is the blank for the fields that the plain action of a button clears or sends.
func ActionFields(f form.Field) template.HTML {
	return markup.Saying{
		Key: "step:action:fields", ID: "b-" + f.ID + "-step-action-fields", Before: ", of it", Empty: "all fields", Fields: true,
	}.HTML()
}

// Events is what a document does, as sentences.
func Events(d form.Details) template.HTML {
	var b markup.Builder
	for n, s := range d.Events {
		b.Open("span", "class", "rule")
		b.Sentences(stepSayings("doc", s, n, form.EventWords))
		key := fmt.Sprintf("step:%d:", n)
		if n > 0 {
			b.Link("earlier", key+"up", "")
		}
		b.Link("take away", key+"drop", "")
		b.Close("span").Text(" ")
	}
	b.Say(&markup.Saying{
		Key: "step:new", Before: "When something happens to the document or to a page:",
		Choices: choicesOf(form.StepProperties, "do", "nothing more"),
		ID:      "b-doc-step-new", Stop: ".",
	})
	return b.HTML()
}
