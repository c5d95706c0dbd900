package e2e_test

import (
	"context"
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/e2e/browser"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/store"
)

// A page of 60 finds with 8 faults is put right by keyboard alone, with at most 40
// keys: two false finds, two of the wrong kind, one that should be two, two that should
// be one, two check boxes that are one question, and a wrong name.
func TestASweepPutsAPageRightWithFewKeys(t *testing.T) {
	o := openOffice(t)
	o.comeIn()
	ctx := context.Background()
	find := func(name string, x, y, w, h float64, kind form.Kind, confidence float64) form.Field {
		return form.Field{
			Page: 1, Kind: kind, Name: name, Tooltip: name, Label: name, Rect: geom.R(x, y, x+w, y+h),
			Find: &form.Find{Confidence: confidence, Evidence: "rule"},
		}
	}
	var fields []form.Field
	for i := range 50 { // right, and found with confidence
		fields = append(fields, find(fmt.Sprintf("right_%d", i), 60+float64(i%5)*95, 760-float64(i/5)*40, 80, 14, form.Text, 0.93))
	}
	fields = append(fields,
		find("false_one", 60, 340, 80, 14, form.Text, 0.30), find("false_two", 200, 340, 80, 14, form.Text, 0.31),
		find("a_box", 60, 300, 10, 10, form.Text, 0.41), find("a_hand", 200, 300, 120, 24, form.Text, 0.42),
		find("two_in_one", 60, 260, 160, 14, form.Text, 0.52),
		find("one", 60, 220, 80, 14, form.Text, 0.53), find("and_the_same", 140, 220, 80, 14, form.Text, 0.90),
		find("yes", 60, 180, 10, 10, form.CheckBox, 0.54), find("no", 110, 180, 10, 10, form.CheckBox, 0.90),
		find("badly_named", 60, 140, 80, 14, form.Text, 0.55),
	)
	require.Len(t, fields, 60)
	_, err := o.store.Change(ctx, o.documentID(), -1, 1, "find",
		func(t *form.Template) (form.Edit, error) { return t.Add("found 60 fields", fields) })
	require.NoError(t, err)
	o.bench("/documents/" + itoa(o.documentID()) + "/find")

	keys := 0
	press := func(k string) {
		t.Helper()
		keys++
		o.must(o.Key(k))
	}
	at := func(name string) {
		t.Helper()
		var id string
		require.Eventually(t, func() bool {
			_ = o.Eval("document.querySelector('#overlay .f.sel')?.dataset.id || ''", &id)
			d := o.draft()
			f, ok := d.Template.Field(id)
			return ok && f.Name == name
		}, 8*time.Second, 30*time.Millisecond, "the sweep stands at %s", name)
		o.must(o.Wait("!document.querySelector('.htmx-request, .htmx-swapping, .htmx-settling')"))
	}
	press("s")
	at("false_one")
	press("x")
	at("false_two")
	press("x")
	at("a_box")
	press("b")
	at("a_hand")
	press("g")
	at("two_in_one")
	press("2")
	at("one")
	press("j")
	at("yes")
	press("r")
	at("badly_named")
	press(browser.Enter)
	o.must(o.Wait("document.activeElement.dataset.key === 'name'"))
	for _, k := range "beam" {
		press(string(k))
	}
	press(browser.Enter)
	o.eventually(func(d store.Draft) bool {
		for _, f := range d.Template.Fields {
			if f.Name == "beam" {
				return true
			}
		}
		return false
	}, "named")
	press(browser.Escape)

	assert.LessOrEqual(t, keys, 40)
	t.Logf("%d keys", keys)
	d := o.draft()
	kinds := map[string]form.Kind{}
	for _, f := range d.Template.Fields {
		kinds[f.Name] = f.Kind
	}
	assert.NotContains(t, kinds, "false_one")
	assert.NotContains(t, kinds, "false_two")
	assert.Equal(t, form.CheckBox, kinds["a_box"])
	assert.Equal(t, form.Signature, kinds["a_hand"])
	assert.Contains(t, kinds, "two_in_one_2")
	assert.NotContains(t, kinds, "and_the_same")
	assert.Equal(t, form.Radio, kinds["yes_choice"])
	for i := range 50 {
		assert.Equal(t, form.Text, kinds[fmt.Sprintf("right_%d", i)])
	}
}
