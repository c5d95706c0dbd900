package e2e_test

import (
	"fmt"
	"strconv"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/form"
)

// Every deed of the registry comes to something in the rehearsal, and every trigger brings its step about.
func TestEveryStepIsRehearsed(t *testing.T) {
	o := openOffice(t)
	o.signIn()
	fields := []form.Field{{Kind: form.Text, Name: "target", Default: "first"}}
	for _, do := range form.StepDeeds {
		s := form.Step{Do: do, Fields: "target", URL: "https://gannet-quay.example/", Page: 2, Value: "written", Script: "app.beep(0);"}
		fields = append(fields, form.Field{Kind: form.Button, Name: "do_" + string(do), Caption: string(do), Show: form.ShowScreen, Steps: []form.Step{s}})
	}
	for i, when := range form.FieldTriggers {
		name := "when_" + strconv.Itoa(i)
		fields = append(fields, form.Field{
			Kind: form.Text, Name: name, Steps: []form.Step{{When: when, Do: form.SetValue, Fields: name + "_here", Value: "done"}},
		}, form.Field{Kind: form.Text, Name: name + "_here"})
	}
	o.placed(fields...)
	live := func(name string) string { return "document.querySelector('#sheet [data-name=" + name + "]')" }
	says := map[form.Deed]string{
		form.ClearForm: "Cleared: target.", form.SubmitForm: "This would be sent to", form.PrintForm: "The form is printed.",
		form.SaveForm: "The reader asks where to save", form.OpenLink: "The reader opens https", form.OpenPDF: "The reader opens the file",
		form.BringIn: "The reader takes the answers from", form.RunScript: "A script of your own",
	}
	comes := map[form.Deed]string{
		form.ShowFields: "!" + live("target") + ".hidden", form.HideFields: live("target") + ".hidden",
		form.LockFields: live("target") + ".readOnly", form.FreeFields: "!" + live("target") + ".readOnly",
		form.SetValue: live("target") + ".value === 'written'", form.GoToPage: "document.getElementById('rehearse').dataset.page === '2'",
	}
	o.must(o.Open(o.url + "/documents/1/rehearse"))
	o.must(o.Eval("(() => { window.print = () => {}; return true })()", nil))
	o.must(o.Wait("document.documentElement.dataset.live === 'yes'"))
	for i, when := range form.FieldTriggers {
		name := "when_" + strconv.Itoa(i)
		x, y, w, h, err := o.Rect("#sheet [data-name=" + name + "]")
		require.NoError(t, err)
		switch when {
		case form.PointerIn, form.PointerOut:
			o.must(o.Hover(x+w/2, y+h/2))
			o.must(o.Hover(4, 400))
		default:
			o.must(o.ClickAt(x+w/2, y+h/2))
			o.must(o.Eval("document.activeElement.blur()", nil))
		}
		o.must(o.Wait(live(name+"_here") + ".value === 'done'"))
	}
	for _, do := range form.StepDeeds {
		if do == form.GoToPage {
			continue // it leads away: last
		}
		o.must(o.Click("#sheet [data-name=do_" + string(do) + "]"))
		if want := says[do]; want != "" {
			o.must(o.Wait(fmt.Sprintf("document.getElementById('sent').textContent.includes(%q)", want)))
		} else {
			require.NotEmpty(t, comes[do], "what %s comes to", do)
			o.must(o.Wait(comes[do]))
		}
		if do == form.HideFields {
			o.must(o.Click("#sheet [data-name=do_show]"))
		}
	}
	o.must(o.Click("#sheet [data-name=do_page]"))
	o.must(o.Wait(comes[form.GoToPage]))
}

// What the document does is rehearsed: when it is opened, and when its pages are opened and closed.
func TestWhatTheDocumentDoesIsRehearsed(t *testing.T) {
	o := openOffice(t)
	o.comeIn()
	var fields []form.Field
	var events []form.Step
	for _, e := range []form.Step{
		{When: form.DocumentOpened}, {When: form.PageOpened, OnPage: 1}, {When: form.PageOpened, OnPage: 2}, {When: form.PageClosed, OnPage: 2},
	} {
		name := fmt.Sprintf("event_%d", len(events))
		fields = append(fields, form.Field{Kind: form.Text, Name: name})
		e.Do, e.Fields, e.Value = form.SetValue, name, "done"
		events = append(events, e)
	}
	o.placed(fields...)
	_, err := o.store.Change(t.Context(), 1, -1, 1, "", func(tpl *form.Template) (form.Edit, error) {
		x := tpl.Details
		x.Events = events
		return tpl.Describe(x)
	})
	require.NoError(t, err)
	values := func(want string) {
		t.Helper()
		o.must(o.Wait("document.documentElement.dataset.live === 'yes' && [0, 1, 2, 3].map(i => document.querySelector(`#sheet " +
			"[data-name=event_${i}]`).value || '-').join(' ') === '" + want + "'"))
	}
	o.must(o.Open(o.url + "/documents/1/rehearse"))
	values("done done - -")
	o.must(o.Open(o.url + "/documents/1/rehearse?page=2"))
	o.must(o.Wait("document.documentElement.dataset.live === 'yes'"))
	o.must(o.Open(o.url + "/documents/1/rehearse"))
	values("done done done done")
}

// A field looks in the rehearsal as it was given its look.
func TestTheRehearsalShowsLooks(t *testing.T) {
	o := openOffice(t)
	o.comeIn()
	o.placed(form.Field{Kind: form.Text, Name: "dressed", Default: "Petrel", Look: form.Look{
		Font: "Times-BoldItalic", Size: 12, Colour: "#204060", Align: form.AlignRight, Fill: "#ffeecc", Border: "#aa0000", BorderWidth: 2,
		BorderStyle: "dashed",
	}}, form.Field{Kind: form.Text, Name: "plain"})
	o.rehearse()
	var s []string
	o.must(o.Eval("(e => [e.color, e.backgroundColor, e.borderTopColor, e.borderTopStyle, e.borderTopWidth, e.fontWeight, e.fontStyle, e.textAlign, "+
		"e.fontSize])(getComputedStyle(document.querySelector('#sheet [data-name=dressed]')))", &s))
	assert.Equal(t, []string{
		"rgb(32, 64, 96)", "rgb(255, 238, 204)", "rgb(170, 0, 0)", "dashed", "2px", "700", "italic", "right", "12px",
	}, s)
}
