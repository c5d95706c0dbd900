package e2e_test

import (
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/e2e/browser"
	"zealousmargin.example/e2e/readers"
)

// axed runs axe-core over what is shown, by the rules for WCAG 2.2 A and AA and by its own, and lists serious faults.
const axed = `axe.run(document, {resultTypes: ['violations']}).then(r => r.violations.filter(v => ['serious', 'critical'].includes(v.impact)).map(v =>
	v.id + ': ' + v.help + ' (' + v.nodes.length + '): ' + v.nodes.slice(0, 3).map(n => n.target.join(' ') + ' ' + n.html.slice(0, 110)).join(' | ')))`

// Every control of every screen has a name, and a checker that nobody here wrote finds no serious fault on any. The checker takes its time,
// and looks at a fresh third of them; with ZM_ALL=yes at all.
func TestNoScreenHasASeriousFault(t *testing.T) {
	axe, err := os.ReadFile("../node_modules/axe-core/axe.min.js")
	require.NoError(t, err, "axe-core is missing: run make test")
	o := openOffice(t)
	sample := readers.NewSample()
	t.Logf("ZM_SEED=%d", sample.Seed)
	checked := func(where string) {
		t.Helper()
		var bad []string
		o.must(o.Eval(nameless, &bad))
		assert.Empty(t, bad, where)
		if !sample.OneIn(3) {
			return
		}
		o.must(o.Eval("(() => { "+string(axe)+"\nreturn true })()", nil))
		o.must(o.Eval(axed, &bad))
		for _, b := range bad {
			assert.Fail(t, b, where)
		}
	}
	o.must(o.Open(o.url + "/sign-in"))
	checked("sign-in")
	o.comeIn()
	checked("workroom")
	o.bench("/documents/1/find")
	checked("find, empty")
	o.must(o.Click("#find-all"))
	o.must(o.Wait("document.querySelectorAll('#overlay .f').length > 15"))
	checked("find")
	f := o.field("name_vessel")
	for _, stage := range []string{"find", "fit", "rules", "order"} {
		o.bench("/documents/1/" + stage + "?open=" + f.ID)
		o.must(o.Wait("document.querySelector('.note.open')"))
		o.must(o.Eval("document.querySelectorAll('.note.open details').forEach((d) => { d.open = true })", nil))
		checked(stage + " with a note")
	}
	o.bench("/documents/1/order")
	checked("order")
	o.bench("/documents/1/fit")
	checked("fit")
	for _, kind := range []string{"checkbox", "radio"} {
		o.must(o.Eval("document.querySelector('#overlay .f.k-"+kind+
			"').dispatchEvent(new KeyboardEvent('keydown', {key: 'Enter', bubbles: true}))", nil))
		o.must(o.Wait("document.querySelector('.note.open .s')"))
		o.must(o.Eval("document.querySelectorAll('.note.open details').forEach((d) => { d.open = true })", nil))
		checked("note of a " + kind)
	}
	o.chooseAll("#n-many h3")
	o.must(o.Eval("document.querySelectorAll('#n-many details').forEach((d) => { d.open = true })", nil))
	checked("note of many")
	o.must(o.Key("c"))
	o.must(o.Wait("!document.getElementById('alike').hidden"))
	checked("choose by")
	o.must(o.Key(browser.Escape))
	o.must(o.Key("j"))
	o.must(o.Wait("!document.getElementById('history').hidden"))
	checked("steps")
	o.must(o.Key("?"))
	o.must(o.Wait("document.getElementById('keys').open"))
	checked("keys")
	for _, path := range []string{
		"/documents/1/bring-in", "/documents/1/pages", "/documents/1/rehearse", "/documents/1/release", "/documents/1/fields", "/documents/1/words",
		"/house-words", "/house-style", "/scan-tray", "/?archived=1", "/nowhere", "/people", "/me", "/settings", "/upkeep",
		"/documents/1/delete",
	} {
		o.must(o.Open(o.url + path))
		o.must(o.Wait("document.readyState === 'complete'"))
		checked(path)
	}
	link := o.linked()
	o.came(link, "name_vessel=Petrel&date_birth=31.02.1971")
	back := []string{
		"/documents/1/returns", "/documents/1/returns?open=1", "/documents/1/onward", "/f/" + link.Token, "/f/" + link.Token + "/fill",
		"/f/" + link.Token + "/fill?as=pages",
	}
	for _, path := range back {
		o.must(o.Open(o.url + path))
		o.must(o.Wait("document.readyState === 'complete'"))
		checked(path)
	}
	for _, size := range [][2]int64{{768, 1024}, {360, 740}} {
		o.must(o.Size(size[0], size[1]))
		for _, path := range back {
			o.must(o.Open(o.url + path))
			o.must(o.Wait("document.readyState === 'complete'"))
			checked(path + " in a narrow window")
			var wide bool
			o.must(o.Eval("document.documentElement.scrollWidth > innerWidth", &wide))
			assert.False(t, wide, "%s scrolls sideways", path)
		}
		for _, path := range []string{"/", "/documents/1/fit?open=" + f.ID, "/documents/1/fields", "/documents/1/release"} {
			o.must(o.Open(o.url + path))
			o.must(o.Wait("document.documentElement.dataset.ready"))
			checked(path + " in a narrow window")
		}
	}
}
