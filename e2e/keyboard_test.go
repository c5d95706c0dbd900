package e2e_test

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/demo"
	"zealousmargin.example/e2e/browser"
	"zealousmargin.example/internal/store"
)

// keyed is an office that is worked by keys alone, which are counted.
type keyed struct {
	*office
	n int
}

func (k *keyed) press(key string, mods ...chromedp.Modifier) {
	k.t.Helper()
	k.n++
	k.must(k.Key(key, mods...))
}

// until presses a key until something is so; it must be soon.
func (k *keyed) until(key, so string, most int, mods ...chromedp.Modifier) {
	k.t.Helper()
	for range most {
		var ok bool
		k.must(k.Eval("!!("+so+")", &ok))
		if ok {
			return
		}
		k.press(key, mods...)
	}
	k.must(k.Wait(so))
}

// From the workroom to the released form by keys alone: bring in, find, keep all, a field placed by hand, the order, the release.
func TestAFormIsMadeByKeysAlone(t *testing.T) {
	o := openOffice(t)
	o.comeIn()
	k := &keyed{office: o}
	d, err := demo.Berth()
	require.NoError(t, err)
	name := filepath.Join(t.TempDir(), "berth.pdf")
	require.NoError(t, os.WriteFile(name, d.Bytes, 0o600))
	ready := "document.documentElement.dataset.ready === 'yes' && "
	// bring in
	k.press("b")
	o.must(o.Wait("document.activeElement?.matches('#drop input[type=file]')"))
	k.n += 2 // the file is typed or chosen in the dialog of the system, and entered
	o.must(o.Upload("#drop input[type=file]", name))
	o.must(o.Wait("document.querySelector('#intakes .done a')"))
	k.until(browser.Tab, "document.activeElement?.closest('#intakes a')", 6)
	k.press(browser.Enter)
	o.must(o.Wait("location.pathname.endsWith('/find') && " + ready + "document.getElementById('picture').complete"))
	// find, and keep all
	k.press("F", browser.Shift)
	o.eventually(func(d store.Draft) bool { return len(d.Template.Fields) > 40 }, "found")
	k.press("K", browser.Shift)
	o.eventually(func(d store.Draft) bool { return d.Document.Open == 0 }, "kept")
	// one field by hand: one is removed, and its place walked to
	k.press("]")
	o.must(o.Wait("location.pathname.endsWith('/fit') && " + ready + "document.getElementById('picture').complete"))
	k.until(browser.Tab, "document.activeElement?.closest('.skip')", 2)
	k.press(browser.Enter) // to the page
	k.until(browser.Tab, "document.activeElement?.closest('#overlay .f')", 3)
	for range 3 {
		k.press(browser.Tab)
	}
	var gone string
	o.must(o.Eval("document.activeElement.dataset.name", &gone))
	n := len(o.draft().Template.Fields)
	k.press(browser.Delete)
	o.eventually(func(d store.Draft) bool { return len(d.Template.Fields) == n-1 }, "removed")
	k.press("1")
	o.must(o.Wait("!document.getElementById('ghost').hidden && document.getElementById('say').textContent.startsWith('Place 1 of')"))
	k.until(browser.ArrowDown, "document.getElementById('say').textContent.includes(': "+gone+".')", 8)
	k.press(browser.Enter)
	o.eventually(func(d store.Draft) bool { return len(d.Template.Fields) == n }, "placed by keys")
	placed := o.field(gone)
	o.must(o.Wait("document.activeElement?.id === 'f-" + placed.ID + "'"))
	k.press(browser.ArrowRight) // arrows nudge it
	o.eventually(func(store.Draft) bool { return o.field(gone).Rect.X0 > placed.Rect.X0+.5 }, "nudged")
	// the order: a bead is reached and moved
	k.press("]")
	o.must(o.Wait("location.pathname.endsWith('/rules') && " + ready + "document.getElementById('picture').complete"))
	k.press("]")
	o.must(o.Wait("location.pathname.endsWith('/order') && " + ready + "document.getElementById('picture').complete"))
	for range 3 { // the third way past what is passed over: to the beads
		k.press(browser.Tab)
	}
	k.press(browser.Enter)
	k.until(browser.Tab, "document.activeElement?.matches('.bead')", 2)
	k.press(browser.ArrowDown) // along the strip
	var second string
	o.must(o.Eval("document.activeElement.dataset.id", &second))
	k.press(browser.ArrowDown, browser.Shift) // and the bead itself
	o.eventually(func(d store.Draft) bool { return d.Template.OnPage(1)[2].ID == second }, "moved")
	k.press("O", browser.Shift, browser.Alt)
	o.eventually(func(d store.Draft) bool { return d.Undo == "ordered as the page is built" }, "as the page is built")
	// release
	k.press("]")
	o.must(o.Wait("location.pathname.endsWith('/rehearse') && document.documentElement.dataset.live === 'yes'"))
	k.press("]")
	o.must(o.Wait("location.pathname.endsWith('/release') && " + ready + "document.activeElement?.id === 'release'"))
	k.press(browser.Enter)
	o.must(o.Wait("document.getElementById('fresh')"))
	t.Logf("%d keys", k.n)
	assert.LessOrEqual(t, k.n, 60)
	eds, err := o.store.Editions(t.Context(), o.documentID())
	require.NoError(t, err)
	assert.Len(t, eds, 1)
}

// Each strip is one stop of the Tab key, and arrows go along it.
func TestStripsAreOneStopEach(t *testing.T) {
	o := foundOffice(t, "fit")
	var stops map[string]int
	o.must(o.Eval(`Object.fromEntries([...document.querySelectorAll('[data-strip], [role=toolbar]')].map((s, i) => [(s.ariaLabel || s.id || s.className) + i,
		[...s.querySelectorAll('a, button, input, select, .bead')].filter(e => e.tabIndex >= 0 && !e.disabled).length]))`, &stops))
	assert.GreaterOrEqual(t, len(stops), 7)
	for strip, n := range stops {
		assert.Equal(t, 1, n, strip)
	}
	o.must(o.Eval("document.querySelector('#kit .kind').focus()", nil))
	for range 2 {
		o.must(o.Key(browser.ArrowRight))
	}
	var kind string
	o.must(o.Eval("document.activeElement.dataset.kind", &kind))
	assert.Equal(t, "checkbox", kind)
	o.must(o.Key(browser.Enter))
	o.must(o.Wait("document.querySelector('#kit [data-kind=checkbox]').getAttribute('aria-pressed') === 'true'"))
	o.must(o.Key(browser.Tab)) // on to the next strip
	var in string
	o.must(o.Eval("document.activeElement.closest('[role=toolbar]')?.id", &in))
	assert.Equal(t, "handy", in)
	// back where one was
	o.must(o.Key(browser.Tab, browser.Shift))
	o.must(o.Eval("document.activeElement.dataset.kind", &kind))
	assert.Equal(t, "checkbox", kind)
}

// A page that offers nothing is placed on by keys too.
func TestAFieldIsPlacedByKeysOnABlankPage(t *testing.T) {
	o := openOffice(t)
	o.comeIn()
	d, err := demo.BlankPage()
	require.NoError(t, err)
	name := filepath.Join(t.TempDir(), "blank.pdf")
	require.NoError(t, os.WriteFile(name, d.Bytes, 0o600))
	o.must(o.Upload("#drop input[type=file]", name))
	o.must(o.Wait("document.querySelector('#intakes .done a')"))
	o.bench("/documents/" + itoa(o.documentID()) + "/fit")
	o.must(o.Key("1"))
	o.must(o.Wait("document.getElementById('say').textContent.startsWith('The page offers no place')"))
	for range 3 {
		o.must(o.Key(browser.ArrowDown))
	}
	o.must(o.Key(browser.Enter))
	o.eventually(func(d store.Draft) bool { return len(d.Template.Fields) == 1 }, "placed")
	assert.InDelta(t, 841.89/2-30, o.draft().Template.Fields[0].Rect.Mid().Y, 6)
}
