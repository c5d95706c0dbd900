package e2e_test

import (
	"testing"

	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"

	"zealousmargin.example/e2e/browser"
	"zealousmargin.example/internal/store"
)

// nameless lists the controls that show and have no accessible name (WCAG 2.2, 4.1.2).
const nameless = `[...document.querySelectorAll('button, a[href], input, select, textarea, [role=button], [tabindex="0"], summary')].filter((e) => {
	if (!e.getClientRects().length || e.type === 'hidden' || e.closest('[aria-hidden=true]')) return false;
	const words = (e.getAttribute('aria-label') || e.innerText || e.textContent || e.title || e.querySelector('img')?.alt || '').trim();
	return !words && !(e.labels && e.labels.length) && !e.closest('label');
}).map((e) => e.outerHTML.slice(0, 120))`

// At 200 % a window of 1280 by 800 has 640 by 400 CSS pixels (WCAG 2.2, 1.4.4 and 1.4.10).
func TestTheBenchWorksAtTwiceTheSize(t *testing.T) {
	o := openOffice(t)
	o.comeIn()
	_, err := chromedp.Call(o.Context(), emulation.SetDeviceMetricsOverride,
		emulation.SetDeviceMetricsOverrideParams{Width: 640, Height: 400, DeviceScaleFactor: 2})
	o.must(err)
	wide := func(where string) {
		t.Helper()
		var over int
		o.must(o.Eval("document.documentElement.scrollWidth - innerWidth", &over))
		assert.LessOrEqual(t, over, 0, "%s scrolls sideways", where)
	}
	o.bench("/documents/1/fit?zoom=50")
	wide("fit")
	o.look("twice-empty")
	for range 3 { // every kind can be reached
		o.must(o.Click("#kit .kind:last-of-type"))
		o.must(o.Wait("document.querySelector('#kit .kind:last-of-type').getAttribute('aria-pressed') === 'true'"))
		o.must(o.Key(browser.Escape))
	}
	o.must(o.Click("#kit [data-kind=text]"))
	o.pressPage(250, 180)
	o.eventually(func(d store.Draft) bool { return len(d.Template.Fields) == 1 }, "placed")
	id := o.draft().Template.Fields[0].ID
	o.must(o.Wait("document.getElementById('b-" + id + "-tooltip')"))
	o.look("twice")
	var seen bool // the note can be brought into sight and pressed, not below the kit or off the screen
	o.must(o.Eval("(() => { const e = document.getElementById('b-"+id+
		"-tooltip'); e.scrollIntoView({block: 'center', inline: 'nearest'}); const r = e.getBoundingClientRect(); return "+
		"document.elementFromPoint(r.x + 3, r.y + r.height / 2) === e })()", &seen))
	assert.True(t, seen, "the note is in reach")
	o.must(o.Fill("#b-"+id+"-tooltip", "At twice the size"))
	o.eventually(func(d store.Draft) bool { return d.Template.Fields[0].Tooltip == "At twice the size" }, "set")
	wide("fit with a note")
	for _, path := range []string{
		"/", "/documents/1/pages", "/documents/1/fields", "/documents/1/release", "/documents/1/find",
		"/documents/1/order", "/house-style", "/house-words",
	} {
		o.must(o.Open(o.url + path))
		o.must(o.Wait("document.documentElement.dataset.ready"))
		wide(path)
	}
}
