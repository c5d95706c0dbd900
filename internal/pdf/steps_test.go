package pdf_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/pdf/proof"
	"zealousmargin.example/internal/pdf/read"
	"zealousmargin.example/internal/pdf/write"
)

// everyStep is a form whose buttons do all that can be done, and whose text field does something
// whenever something happens to it.
func everyStep() *form.Template {
	t := &form.Template{Pages: []form.Page{{ID: "p", N: 1, Width: 400, Height: 600}}}
	add := func(f form.Field) {
		f.ID, f.Page, f.Order, f.Tooltip = form.NewID(), 1, float64(len(t.Fields)), f.Name
		y := 570 - 25*float64(len(t.Fields))
		f.Rect = geom.R(40, y, 140, y+18)
		t.Fields = append(t.Fields, f)
	}
	add(form.Field{Name: "a", Kind: form.Text})
	add(form.Field{Name: "b", Kind: form.Text})
	for name, s := range map[string]form.Step{
		"clear_some": {Do: form.ClearForm, Fields: "a, b"}, "clear_rest": {Do: form.ClearForm, Fields: "a", Except: true},
		"send_pdf":  {Do: form.SubmitForm, URL: "https://gannet-quay.example/in", As: "pdf"},
		"send_xfdf": {Do: form.SubmitForm, URL: "mailto:in@gannet-quay.example", As: "xfdf", Fields: "b", Except: true},
		"send_data": {Do: form.SubmitForm, URL: "https://gannet-quay.example/in", As: "html", Fields: "a"},
		"go":        {Do: form.GoToPage, Page: 1}, "link": {Do: form.OpenLink, URL: "https://gannet-quay.example/tides"},
		"open": {Do: form.OpenPDF, URL: "tides.pdf"}, "show": {Do: form.ShowFields, Fields: "a"},
		"hide": {Do: form.HideFields, Fields: "a, b"}, "lock": {Do: form.LockFields, Fields: "a"},
		"free": {Do: form.FreeFields, Fields: "a"}, "set": {Do: form.SetValue, Fields: "b", Value: `so "it" is`},
		"bring": {Do: form.BringIn, URL: "answers.fdf"}, "own": {Do: form.RunScript, Script: "this.dirty = false;"},
	} {
		add(form.Field{Name: name, Kind: form.Button, Caption: name, Steps: []form.Step{s}})
	}
	add(form.Field{
		Name: "many", Kind: form.Button, Caption: "Many", Action: form.Action{Do: form.ClearForm},
		Steps: []form.Step{{Do: form.HideFields, Fields: "a"}, {Do: form.PrintForm}},
	})
	var all []form.Step
	for _, w := range form.FieldTriggers[1:] {
		all = append(all, form.Step{When: w, Do: form.ShowFields, Fields: string(rune('a' + len(all)%2))})
	}
	t.Fields[0].Steps = all
	return t
}

func TestEverythingThatFieldsDoIsWrittenAndComesBack(t *testing.T) {
	draft := everyStep()
	out, err := write.Build(plain(""), draft)
	require.NoError(t, err)
	sound(t, out)
	require.NoError(t, proof.Prove(t.Context(), plain(""), out, draft))
	qdf := tool(t, out, "qpdf", "--qdf", "--object-streams=disable", "IN", "-")
	for _, part := range []string{
		// ISO 32000-2, tables 201, 239 to 242
		"/S /ResetForm", "/S /SubmitForm", "/S /GoTo\n", "/S /URI", "/S /GoToR", "/S /Hide", "/S /ImportData", "/N /Print",
		"/Flags 256", "/Flags 33", "/Flags 4\n", "/H false", // table 240: bits 9; 6 and 1; 3; table 214
		"/D <<", "/E <<", "/X <<", "/Fo <<", "/Bl <<", "/Next <<", // tables 197 and 196
	} {
		assert.True(t, strings.Contains(qdf, part), "%q is in the file", part)
	}
	again := draftOf(t, out)
	for i, f := range again.Fields {
		assert.Equal(t, draft.Fields[i].Sequence(), f.Sequence(), f.Name)
		assert.Empty(t, f.Origin.Keeps, f.Name)
	}
	for i := range again.Fields { // steps are taken away from a form that came with them
		again.Fields[i].Steps, again.Fields[i].Action = nil, form.Action{}
	}
	bare := releaseOf(t, out, again)
	ws, err := read.Widgets(bare)
	require.NoError(t, err)
	for _, w := range ws {
		assert.Empty(t, w.Presses, w.Name)
	}
}

func TestStepsThatCannotBeDoneAreRefused(t *testing.T) {
	for say, s := range map[string]form.Step{
		"page to go to": {Do: form.GoToPage}, "no page 7": {Do: form.GoToPage, Page: 7},
		"no address": {Do: form.OpenLink, URL: "tides"}, "sending needs an address": {Do: form.SubmitForm},
		"name the fields": {Do: form.HideFields}, "write the script": {Do: form.RunScript},
		"nothing that happens":    {When: "high-tide", Do: form.PrintForm},
		"how answers can be sent": {Do: form.SubmitForm, URL: "https://a.example", As: "telex"},
	} {
		draft := everyStep()
		draft.Fields = draft.Fields[:3]
		draft.Fields[2].Steps = []form.Step{s}
		_, err := write.Build(plain(""), draft)
		assert.ErrorContains(t, err, say)
	}
}

func TestWhatTheDocumentAndItsPagesDo(t *testing.T) {
	draft := everyStep()
	draft.Fields = draft.Fields[:2]
	for _, w := range form.DocumentTriggers {
		draft.Details.Events = append(draft.Details.Events,
			form.Step{When: w, OnPage: map[form.Trigger]int{form.PageOpened: 1, form.PageClosed: 1}[w], Do: form.ShowFields, Fields: "a"})
	}
	out, err := write.Build(plain(""), draft)
	require.NoError(t, err)
	sound(t, out)
	qdf := tool(t, out, "qpdf", "--qdf", "--object-streams=disable", "IN", "-")
	for _, part := range []string{"/OpenAction", "/WC <<", "/WS <<", "/DS <<", "/WP <<", "/DP <<", "/O <<", "/C <<"} {
		// tables 29, 200 and 198
		assert.True(t, strings.Contains(qdf, part), part)
	}
	a, err := read.Arrive(out)
	require.NoError(t, err)
	assert.Equal(t, draft.Details.Events, a.Details.Events)
	again := draftOf(t, out)
	again.Details.Events = nil
	bare := tool(t, releaseOf(t, out, again), "qpdf", "--qdf", "--object-streams=disable", "IN", "-")
	for _, part := range []string{"/OpenAction", "/WC <<", "/O <<"} {
		assert.False(t, strings.Contains(bare, part), "%s is taken away again", part)
	}
}

// The buttons of a group can do different things, and each comes back with its own.
func TestButtonsOfAGroupDoDifferentThings(t *testing.T) {
	draft := &form.Template{Pages: []form.Page{{ID: "p", N: 1, Width: 400, Height: 600}}}
	for i, does := range []string{"north", "south", "roads"} {
		draft.Fields = append(draft.Fields, form.Field{
			ID: form.NewID(), Page: 1, Order: float64(i), Kind: form.Radio, Name: "quay", Tooltip: does, Export: does,
			Rect:  geom.R(40, 500-40*float64(i), 56, 516-40*float64(i)),
			Steps: []form.Step{{Do: form.SetValue, Fields: "berth", Value: does}},
		})
	}
	draft.Fields = append(draft.Fields, form.Field{
		ID: form.NewID(), Page: 1, Order: 9, Kind: form.Text, Name: "berth", Tooltip: "Berth", Rect: geom.R(40, 300, 200, 320),
	})
	out := releaseOf(t, plain(""), draft)
	again := draftOf(t, out)
	for i := range 3 {
		assert.Equal(t, draft.Fields[i].Steps, again.Fields[i].Steps)
	}
	again.Fields[1].Steps = []form.Step{{Do: form.HideFields, Fields: "berth"}}
	mended := draftOf(t, releaseOf(t, out, again))
	for i := range 3 {
		assert.Equal(t, again.Fields[i].Steps, mended.Fields[i].Steps)
	}
}
