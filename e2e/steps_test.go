package e2e_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/store"
)

func TestAButtonDoesSeveralThingsInARow(t *testing.T) {
	o := openOffice(t)
	o.signIn()
	o.bench("/documents/1/rules?zoom=50")
	o.bench("/documents/1/fit?zoom=50")
	text := o.kitPlaces("text", 300, 700)
	b := o.kitPlaces("button", 300, 740)
	o.bench("/documents/1/rules?zoom=50")
	o.openNote(b.Name)
	o.set(b.ID, "step-new", "set")
	o.set(b.ID, "step-0-value", "Petrel")
	o.set(b.ID, "step-new", "hide")
	o.set(b.ID, "step-new", "clear")
	f := o.field(b.Name)
	assert.Equal(t, []form.Deed{form.SetValue, form.HideFields, form.ClearForm}, []form.Deed{f.Steps[0].Do, f.Steps[1].Do, f.Steps[2].Do})
	assert.Equal(t, text.Name, f.Steps[0].Fields)
	o.look("steps")
	o.must(o.Fill("#b-"+b.ID+"-step-1-fields", "nowhere"))
	o.said("here is no field called")
	o.must(o.Click(".note.open [data-set='step:2:up']"))
	o.eventually(func(d store.Draft) bool { f, _ := d.Template.Field(b.ID); return f.Steps[1].Do == form.ClearForm }, "one earlier")
	o.must(o.Click(".note.open [data-set='step:1:up']"))
	o.eventually(func(d store.Draft) bool {
		f, _ := d.Template.Field(b.ID)
		return f.Action.Do == form.ClearForm && len(f.Steps) == 2
	}, "a plain deed that comes first is the button's action")
	o.must(o.Click(".note.open [data-set='step:1:drop']"))
	o.eventually(func(d store.Draft) bool { f, _ := d.Template.Field(b.ID); return len(f.Steps) == 1 }, "taken away")

	// in the rehearsal the button does what it will do
	o.must(o.Open(o.url + "/documents/1/rehearse"))
	o.must(o.Wait("document.documentElement.dataset.live === 'yes'"))
	o.must(o.Click("#sheet [data-name=" + b.Name + "]"))
	o.must(o.Wait("document.querySelector('#sheet [data-name=" + text.Name + "]').value === 'Petrel'"))

	// a rename is followed
	o.bench("/documents/1/rules?zoom=50")
	o.openNote(text.Name)
	o.must(o.Fill("#b-"+text.ID+"-name", "vessel"))
	o.eventually(func(d store.Draft) bool {
		f, _ := d.Template.Field(b.ID)
		return len(f.Steps) == 1 && f.Steps[0].Fields == "vessel"
	}, "followed")
}

func TestADocumentDoesThings(t *testing.T) {
	o := openOffice(t)
	o.signIn()
	o.bench("/documents/1/fit?zoom=50")
	text := o.kitPlaces("text", 300, 700)
	o.must(o.Open(o.url + "/documents/1/bring-in"))
	o.must(o.Wait("document.documentElement.dataset.ready"))
	pick := func(key, value string) {
		t.Helper()
		o.must(o.Eval("(() => { const e = document.querySelector('#events [data-key=\""+key+"\"]'); e.value = '"+value+
			"'; e.dispatchEvent(new Event('change', {bubbles: true})) })()", nil))
	}
	pick("step:new", "hide")
	o.must(o.Wait("document.querySelector('#events [data-key=\"step:0:when\"]')"))
	pick("step:0:when", "page-opened")
	o.must(o.Wait("document.querySelector('#events [data-key=\"step:0:onpage\"]')"))
	pick("step:0:onpage", "2")
	o.eventuallyStored(func(d store.Draft) bool { e := d.Template.Details.Events; return len(e) == 1 && e[0].OnPage == 2 }, "kept")
	assert.Equal(t, form.Step{When: form.PageOpened, OnPage: 2, Do: form.HideFields, Fields: text.Name},
		o.draft().Template.Details.Events[0])
	o.look("events")
	o.must(o.Click("#save-details")) // the other details leave it alone
	o.must(o.Wait("document.documentElement.dataset.ready"))
	assert.Len(t, o.draft().Template.Details.Events, 1)
}
