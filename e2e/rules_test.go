package e2e_test

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/demo"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/pdf/object"
	"zealousmargin.example/internal/pdf/write"
	"zealousmargin.example/internal/store"
)

// openNote opens the note of a field.
func (o *office) openNote(name string) string {
	o.t.Helper()
	id := o.fieldID(name)
	// once more when an answer on its way has laid the notes anew
	o.must(o.Wait("(() => { if (document.querySelector('#n-" + id + ".open .s')) return true; document.querySelector('#n-" + id +
		" .line')?.click(); return false })()"))
	return id
}

// said waits for what the bench says.
func (o *office) said(words string) {
	o.t.Helper()
	o.must(o.Wait("!document.getElementById('say').hidden && document.getElementById('say').textContent.includes(`" + words + "`)"))
}

// charges brings the slipway charges sheet in, lets its fields be found, and gives it its rules
// through the notes: every amount is quantity times rate, and the total their sum.
func (o *office) charges() int64 {
	o.t.Helper()
	sheet, err := demo.Charges()
	require.NoError(o.t, err)
	id := o.bringIn(sheet.File, sheet.Bytes)
	o.bench("/documents/" + itoa(id) + "/find?zoom=50")
	o.must(o.Click("#find-page"))
	o.eventually(func(d store.Draft) bool { return len(d.Template.Fields) > 20 }, "found")
	o.must(o.Click("#keep-all"))
	o.eventually(func(d store.Draft) bool { return d.Document.Open == 0 }, "kept")
	o.bench("/documents/" + itoa(id) + "/rules?zoom=50")
	return id
}

func TestASheetLearnsToCalculate(t *testing.T) {
	o := openOffice(t)
	o.comeIn()
	id := o.charges()

	amount := o.openNote("hauling_out_amount")
	o.set(amount, "format", "number")
	// a slip is shown at its place, with a proposal, and nothing typed is lost
	o.must(o.Fill("#b-"+amount+"-formula", "hauling_out_quantity * hauling_out_rte"))
	o.said("here is no field called hauling_out_rte: did you mean hauling_out_rate?")
	var marked string
	o.must(o.Eval("(() => { const e = document.activeElement; return e.value.slice(e.selectionStart, e.selectionEnd) })()", &marked))
	assert.Equal(t, "hauling_out_rte", marked)
	o.look("formula-slip")
	o.set(amount, "formula", "hauling_out_quantity * hauling_out_rate")
	o.look("formula")
	o.must(o.Click(".note.open [data-do=copy-formula]"))
	o.eventually(func(d store.Draft) bool {
		f, _ := d.Template.Field(o.fieldID("storage_ashore_week_amount"))
		return f.Formula == "storage_ashore_week_quantity * storage_ashore_week_rate"
	}, "copied down the table")
	assert.Equal(t, "copied the formula of hauling_out_amount to 5 rows", o.draft().Undo)
	o.said("Copied to launching, pressure washing")
	o.said("Left as it is: total has no quantity")
	total := o.openNote("total_amount")
	o.set(total, "format", "number")
	o.set(total, "currency", "€")
	o.set(total, "formula", "sum(*_amount)")
	assert.True(t, o.field("total_amount").ReadOnly, "what is calculated cannot be typed over")

	// circles are refused by name
	o.must(o.Fill("#b-"+total+"-formula", "hauling_out_amount + 1"))
	o.eventuallyStored(func(d store.Draft) bool {
		f, _ := d.Template.Field(total)
		return f.Formula == "hauling_out_amount + 1"
	}, "no circle yet")
	rate := o.openNote("hauling_out_rate")
	o.must(o.Fill("#b-"+rate+"-formula", "total_amount / 2"))
	o.said("round in a circle")
	total = o.openNote("total_amount")
	o.set(total, "formula", "sum(*_amount)")

	// a check with its own words, and a name that formulas follow
	quantity := o.openNote("hauling_out_quantity")
	o.set(quantity, "format", "number")
	o.set(quantity, "check-new", "between")
	o.set(quantity, "check-0-a", "0")
	o.set(quantity, "check-0-b", "40")
	o.set(quantity, "check-0-message", "Nobody hauls out more than forty times.")
	o.must(o.Fill("#b-"+quantity+"-name", "hauls"))
	o.eventually(func(d store.Draft) bool {
		f, _ := d.Template.Field(amount)
		return f.Formula == "hauls * hauling_out_rate"
	}, "the formula follows the name")
	o.look("check")

	o.must(o.Open(o.url + "/documents/" + itoa(id) + "/release"))
	o.must(o.Click("#release"))
	o.must(o.Wait("document.getElementById('fresh')"))
	eds, err := o.store.Editions(t.Context(), id)
	require.NoError(t, err)
	file, err := o.store.File(t.Context(), eds[0].File)
	require.NoError(t, err)
	o.fillCharges(file)
}

// fillCharges fills the released sheet in in Chromium's own viewer, and reads what it shows.
func (o *office) fillCharges(file []byte) {
	t := o.t.(*testing.T)
	draft := o.draft().Template
	v := openViewer(t, draft.Pages[0], served(t, file))
	at := func(name string) geom.Rect { return o.field(name).Rect }
	for _, a := range [][2]string{
		{"hauls", "2"},
		{"hauling_out_rate", "145.50"},
		{"launching_quantity", "3"},
		{"launching_rate", "0.1"},
	} {
		v.until(at(a[0]), a[1], func() bool { return v.values()[a[0]] == a[1] })
	}
	v.until(at("hauls"), "41", func() bool {
		return strings.Contains(strings.Join(v.messages(), "\n"), "Nobody hauls out more than forty times.")
	})
	if v.values()["hauls"] != "2" { // a key that was lost has left another good answer
		v.until(at("hauls"), "2", func() bool { return v.values()["hauls"] == "2" })
	}
	values := v.values()
	want := map[string]string{"hauls": "2", "hauling_out_amount": "291.00", "launching_amount": "0.30", "total_amount": "291.30"}
	for name, s := range want {
		assert.Equal(t, s, values[name], name)
	}
}

// What shows only if shows and hides in Chromium's viewer, after an answer that is typed and after a box.
func TestFieldsShowAndHideInAnotherReader(t *testing.T) {
	fields := []form.Field{
		{Name: "count", Format: form.Format{Kind: form.Number}},
		{Name: "member", Kind: form.CheckBox, Export: "Yes"},
		{Name: "club", ShowIf: "member", Required: true},
		{Name: "reason", ShowIf: "count > 3"},
	}
	for i := range fields {
		f := &fields[i]
		f.ID, f.Page, f.Order, f.Tooltip = form.NewID(), 1, float64(i), f.Name
		if f.Kind == "" {
			f.Kind = form.Text
		}
		f.Rect = geom.R(40, 540-40*float64(i), 240, 562-40*float64(i))
	}
	src, err := write.Blank(400, 600)
	require.NoError(t, err)
	page := form.Page{ID: "p", N: 1, Width: 400, Height: 600}
	b, err := write.Build(src, &form.Template{Pages: []form.Page{page}, Fields: fields})
	require.NoError(t, err)
	v := openViewer(t, page, served(t, b))
	hidden := func() map[string]bool {
		out := map[string]bool{}
		for _, w := range v.widgets() {
			if w.Name == "club" || w.Name == "reason" {
				out[w.Name] = w.Annot&object.AnnotHidden != 0
			}
		}
		return out
	}
	assert.Eventually(t, func() bool { h := hidden(); return h["club"] && h["reason"] }, 15*time.Second, 200*time.Millisecond,
		"neither shows at first")
	v.until(fields[0].Rect, "5", func() bool { return !hidden()["reason"] })
	assert.True(t, hidden()["club"])
	v.press(fields[1].Rect)
	assert.Eventually(t, func() bool { return !hidden()["club"] }, 15*time.Second, 200*time.Millisecond, "a box is enough")
}
