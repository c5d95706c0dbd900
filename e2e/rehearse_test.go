package e2e_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/e2e/browser"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/store"
)

// give makes rules of the charges sheet in the store: through the notes another test does it.
func (o *office) giveRules(id int64) {
	o.t.Helper()
	d, err := o.store.Draft(o.t.Context(), id)
	require.NoError(o.t, err)
	_, err = o.store.Change(o.t.Context(), id, d.Document.Revision, 1, "rules", func(t *form.Template) (form.Edit, error) {
		var ids []string
		for _, f := range t.Fields {
			ids = append(ids, f.ID)
		}
		number := form.Format{Kind: form.Number, Decimals: 2}
		return t.Set("gave the rules", ids, func(f *form.Field) error {
			switch f.Name {
			case "hauling_out_quantity":
				f.Format, f.Required = form.Format{Kind: form.Number}, true
				f.Checks = []form.Check{{Test: form.Between, A: "0", B: "40", Message: "Nobody hauls out more than forty times."}}
			case "hauling_out_rate", "launching_rate", "launching_quantity":
				f.Format = number
			case "hauling_out_amount":
				f.Format, f.Formula, f.ReadOnly = number, "hauling_out_quantity * hauling_out_rate", true
			case "launching_amount":
				f.Format, f.Formula, f.ReadOnly = number, "launching_quantity * launching_rate", true
			case "total_amount":
				f.Format, f.Formula, f.ReadOnly = number, "sum(*_amount)", true
			case "pressure_washing_quantity":
				f.ShowIf = "account"
			}
			return nil
		})
	})
	require.NoError(o.t, err)
}

// type types an answer into a live field and leaves it.
func (o *office) answers(name, value string) {
	o.t.Helper()
	o.must(o.Eval("(() => { const e = document.querySelector('#sheet [data-name="+name+"]'); e.focus(); e.value = '"+value+
		"'; e.dispatchEvent(new Event('change', {bubbles: true})); e.blur(); })()", nil))
}

func TestARehearsalIsWhatARecipientWillHave(t *testing.T) {
	o := openOffice(t)
	o.comeIn()
	id := o.charges()
	o.giveRules(id)
	before := o.draft()
	o.must(o.Open(o.url + "/documents/" + itoa(id) + "/rehearse"))
	o.must(o.Wait("document.documentElement.dataset.live === 'yes'"))
	o.must(o.Wait("document.getElementById('missing').textContent.includes('1 to go: hauling_out_quantity')"))
	o.answers("hauling_out_quantity", "2")
	o.answers("hauling_out_rate", "145.50")
	o.answers("launching_quantity", "3")
	o.answers("launching_rate", "0.1")
	shows := func(name, want string) {
		t.Helper()
		o.must(o.Wait("document.querySelector('#sheet [data-name=" + name + "]').value === '" + want + "'"))
	}
	shows("total_amount", "291.30") // as Chromium's viewer came to
	o.must(o.Wait("document.getElementById('missing').textContent === 'Nothing is missing.'"))
	o.answers("hauling_out_quantity", "41")
	o.must(o.Wait("document.getElementById('told').textContent === 'Nobody hauls out more than forty times.'"))
	shows("hauling_out_quantity", "2") // the last good answer stays
	o.must(o.Wait("document.querySelector('#sheet [data-name=pressure_washing_quantity]').hidden"))
	o.must(o.Click("#sheet [data-name=account]"))
	o.must(o.Wait("!document.querySelector('#sheet [data-name=pressure_washing_quantity]').hidden"))
	o.look("rehearse")

	// Tab walks the tab order
	o.must(o.Eval("document.querySelector('#sheet [data-name=hauling_out_quantity]').focus()", nil))
	o.must(o.Key(browser.Tab))
	var at string
	o.must(o.Eval("document.activeElement.dataset.name", &at))
	assert.Equal(t, "hauling_out_rate", at)

	// the answers are there after a reload, and the draft has none of them
	o.must(o.Open(o.url + "/documents/" + itoa(id) + "/rehearse"))
	o.must(o.Wait("document.documentElement.dataset.live === 'yes'"))
	shows("total_amount", "291.30")
	assert.Equal(t, before.Document.Revision, o.draft().Document.Revision)
	o.must(o.Click("#afresh"))
	shows("total_amount", "")

	o.must(o.Click("#alone"))
	o.must(o.Wait("document.querySelector('#report li')"))
	o.look("rehearse-alone")
	o.must(o.Eval("document.querySelector('#report a').click()", nil)) // each line leads to its field
	o.must(o.Wait("document.querySelector('.note.open .s') && document.documentElement.dataset.ready"))
}

func TestSnagsAreMendedAndOnlySeriousOnesHoldAReleaseUp(t *testing.T) {
	o := openOffice(t)
	o.signIn()
	o.bench("/documents/1/fit?zoom=50")
	first := o.kitPlaces("radio", 300, 700) // by itself: serious
	o.must(o.Open(o.url + "/documents/1/release"))
	o.must(o.Wait("document.querySelector('#snags .serious')"))
	o.look("release-snags")
	o.must(o.Click("#release"))
	o.must(o.Wait("document.querySelector('.wrong')?.textContent.includes('Nothing was released')"))
	eds, err := o.store.Editions(t.Context(), 1)
	require.NoError(t, err)
	assert.Empty(t, eds)
	o.must(o.Open(o.url + "/documents/1/rehearse"))
	o.must(o.Wait("document.querySelector('#snags .serious form button')"))
	o.must(o.Wait("document.documentElement.dataset.live === 'yes'"))
	o.must(o.Click("#snags .serious form button"))
	o.eventually(func(d store.Draft) bool { f, _ := d.Template.Field(first.ID); return f.Kind == form.CheckBox }, "mended in one press")
	o.must(o.Open(o.url + "/documents/1/release"))
	o.must(o.Wait("!document.querySelector('#snags .serious')"))
	o.must(o.Click("#release"))
	o.must(o.Wait("document.getElementById('fresh')"))
}
