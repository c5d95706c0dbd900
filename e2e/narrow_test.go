package e2e_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"zealousmargin.example/e2e/readers"
	"zealousmargin.example/internal/store"
)

// outside lists what reaches out of the window to the side, but for what scrolls in a strip of its own.
const outside = `[...document.querySelectorAll('body *')].filter(e => {
	const r = e.getBoundingClientRect();
	if (!r.width || !r.height || r.right <= innerWidth + 1 && r.left >= -1) return false;
	if (e.closest('.skip, svg svg') || getComputedStyle(e).position === 'fixed' && r.bottom < 0) return false;
	for (let p = e.parentElement; p; p = p.parentElement) if (/auto|scroll|hidden/.test(getComputedStyle(p).overflowX) && p.getBoundingClientRect().right <= innerWidth + 1) return false;
	return true;
}).map(e => (e.id || e.className || e.tagName) + ' ' + Math.round(e.getBoundingClientRect().right)).slice(0, 6)`

// redrawn comes when what a new size of the window has called for is drawn.
const redrawn = `new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(() => setTimeout(done, 50))))`

func TestNarrowWindowsCutNothingOff(t *testing.T) {
	o := foundOffice(t, "find")
	f := o.field("name_vessel")
	all := []string{
		"/", "/documents/1/bring-in", "/documents/1/pages", "/documents/1/find", "/documents/1/fit?open=" + f.ID, "/documents/1/rules?open=" + f.ID,
		"/documents/1/order", "/documents/1/rehearse", "/documents/1/release", "/documents/1/fields", "/house-words", "/house-style", "/scan-tray",
		"/people", "/me", "/settings", "/upkeep",
	}
	sizes := [][2]int64{{1024, 700}, {768, 1024}, {360, 740}}
	sample := readers.NewSample()
	t.Logf("ZM_SEED=%d", sample.Seed)
	for _, path := range all { // each opens at one of the sizes, by chance, and is made narrower or wider then
		sample.Shuffle(len(sizes), func(i, k int) { sizes[i], sizes[k] = sizes[k], sizes[i] })
		for k, size := range sizes {
			o.must(o.Size(size[0], size[1]))
			if k == 0 {
				o.must(o.Open(o.url + path))
				o.must(o.Wait("document.documentElement.dataset.ready"))
			}
			var over int
			o.must(o.Eval(redrawn+".then(() => document.documentElement.scrollWidth - innerWidth)", &over))
			assert.LessOrEqual(t, over, 0, "%s at %v scrolls sideways", path, sizes[:k+1])
			var out []string
			o.must(o.Eval(outside, &out))
			assert.Empty(t, out, "%s at %v", path, sizes[:k+1])
		}
	}
	// page and notes one above the other
	o.must(o.Size(768, 1024))
	o.bench("/documents/1/fit?open=" + f.ID)
	o.must(o.Wait("document.querySelector('.note.open')"))
	var below bool
	o.must(o.Eval("document.getElementById('notes').getBoundingClientRect().top >= document.getElementById('paper').getBoundingClientRect().bottom", &below))
	assert.True(t, below)
	var n [4]int
	o.must(o.Eval(overlaps, &n))
	assert.Zero(t, n[0], "notes that cover each other")
	// on a telephone the notes are a list, and can be worked in
	o.must(o.Size(360, 740))
	o.bench("/documents/1/fit")
	assert.Contains(t, o.text(".narrow"), "wider window")
	o.must(o.Click("#n-" + f.ID + " .line"))
	o.must(o.Wait("document.getElementById('b-" + f.ID + "-tooltip')"))
	o.must(o.Fill("#b-"+f.ID+"-tooltip", "From a telephone"))
	o.eventuallyStored(func(store.Draft) bool { return o.field("name_vessel").Tooltip == "From a telephone" }, "set")
}
