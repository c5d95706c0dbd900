package e2e_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"zealousmargin.example/e2e/browser"
)

// chosen is how many fields are chosen on the bench.
func (o *office) chosen() (n int) {
	o.t.Helper()
	o.must(o.Eval("document.querySelectorAll('#overlay .f.sel').length", &n))
	return n
}

// Thirteen presses, one for each field, are two: by kind, by what is asked, by a name, by the column or the row of a table.
func TestManyFieldsAreChosenAtOnce(t *testing.T) {
	o := foundOffice(t, "rules")
	texts := 0
	draft := o.draft().Template
	for _, f := range draft.OnPage(1) {
		if f.Kind == "text" {
			texts++
		}
	}
	assert.Greater(t, texts, 12)
	choose := func() {
		o.must(o.Click("#handy [data-deed=choose]"))
		o.must(o.Wait("document.querySelector('#alike:not([hidden]) [data-choose]')"))
	}
	choose()
	o.look("choose")
	o.must(o.Click("#alike p:nth-of-type(1) [data-choose]")) // all text fields
	o.must(o.Wait("document.querySelector('#n-many h3')?.textContent === '" + itoa(int64(texts)) + " fields chosen'"))
	assert.Equal(t, texts, o.chosen())
	choose()
	var asked int
	o.must(o.Eval("Number(document.querySelector('#alike p:nth-of-type(2) [data-choose] small').textContent)", &asked))
	o.must(o.Click("#alike p:nth-of-type(2) [data-choose]")) // all that ask for the same: dates
	o.must(o.Wait("document.getElementById('alike').hidden"))
	assert.Equal(t, asked, o.chosen())
	assert.Positive(t, asked)
	choose()
	o.must(o.Fill("#choose-named", "*_vessel"))
	o.must(o.Wait("document.getElementById('alike').hidden"))
	assert.Positive(t, o.chosen())
	// a frame
	x0, y0 := o.onPage(50, 130)
	x1, y1 := o.onPage(550, 300)
	o.must(o.Drag(x0, y0, x1, y1))
	assert.GreaterOrEqual(t, o.chosen(), 6)
	// the column and the row of a table: one press and one chord
	id := o.charges()
	o.bench("/documents/" + itoa(id) + "/rules")
	o.open(o.fieldID("launching_rate"))
	o.must(o.Key("C", browser.Shift))
	o.must(o.Wait("document.querySelectorAll('#overlay .f.sel').length === 6"))
	o.open(o.fieldID("launching_rate"))
	o.must(o.Key("R", browser.Shift))
	o.must(o.Wait("document.querySelectorAll('#overlay .f.sel').length === 3"))
	// the keyboard reaches it, and Escape leaves it
	o.must(o.Key("c"))
	o.must(o.Wait("document.activeElement?.closest('#alike')"))
	o.must(o.Key(browser.Escape))
	o.must(o.Wait("document.getElementById('alike').hidden"))
}
