package e2e_test

import (
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/e2e/browser"
	"zealousmargin.example/internal/store"
)

// foundOffice is an office whose bench shows the found fields of the berth application in a stage.
func foundOffice(t *testing.T, stage string) *office {
	t.Helper()
	o := openOffice(t)
	o.signIn()
	o.bench("/documents/1/find")
	o.must(o.Click("#find-page"))
	o.eventually(func(d store.Draft) bool { return len(d.Template.Fields) > 20 }, "found")
	if stage != "find" {
		o.bench("/documents/1/" + stage)
	}
	return o
}

// open presses a field and waits for its note.
func (o *office) open(id string) {
	o.t.Helper()
	o.must(o.Click("#f-" + id))
	o.must(o.Wait("document.querySelector('#n-" + id + ".open')"))
}

// focused is the id of what has the focus.
func (o *office) focused() string {
	o.t.Helper()
	var id string
	o.must(o.Eval("document.activeElement?.id ?? ''", &id))
	return id
}

// still waits until nothing is asked of the server any more.
func (o *office) still() {
	o.t.Helper()
	o.must(o.Wait("!document.querySelector('.htmx-request, .htmx-swapping, .htmx-settling')"))
}

func TestAfterDuplicatingTheWorkGoesOnWithTheCopy(t *testing.T) {
	o := foundOffice(t, "fit")
	f := o.field("name_vessel")
	n := len(o.draft().Template.Fields)
	o.open(f.ID)
	o.must(o.Eval("document.getElementById('f-"+f.ID+"').focus()", nil))
	o.must(o.Key("d", browser.Ctrl))
	o.eventually(func(d store.Draft) bool { return len(d.Template.Fields) == n+1 }, "duplicated")
	copied := o.field("name_vessel_2")
	o.must(o.Wait("document.activeElement?.id === 'f-" + copied.ID + "'"))
	o.must(o.Key(browser.Enter))
	o.must(o.Wait("document.activeElement?.id === 'b-" + copied.ID + "-name'"))
	o.must(o.Key(browser.Escape))
	assert.Equal(t, "f-"+copied.ID, o.focused())
	o.must(o.Key(browser.Delete))
	o.eventually(func(d store.Draft) bool { return len(d.Template.Fields) == n }, "the copy is removed")
	assert.Equal(t, f.ID, o.field("name_vessel").ID, "the first one stays")
}

func TestUndoInANote(t *testing.T) {
	o := foundOffice(t, "fit")
	f := o.field("name_vessel")
	o.open(f.ID)
	// a choice: Ctrl Z takes it back at once
	o.must(o.Eval("document.getElementById('b-"+f.ID+"-required').focus()", nil))
	o.set(f.ID, "required", "yes")
	o.must(o.Key("z", browser.Ctrl))
	o.eventually(func(store.Draft) bool { return !o.field("name_vessel").Required }, "taken back")
	// text: what is not entered yet is the browser's to take back
	blank := "b-" + f.ID + "-tooltip"
	rev := o.draft().Document.Revision
	o.must(o.Eval("(e => { e.focus(); e.setSelectionRange(e.value.length, e.value.length) })(document.getElementById('"+blank+"'))", nil))
	o.must(o.Type(" today", 0))
	o.must(o.Key("z", browser.Ctrl))
	o.must(o.Wait("!document.getElementById('" + blank + "').value.endsWith(' today')"))
	assert.Equal(t, rev, o.draft().Document.Revision, "nothing of the draft was taken back")
	// once it is entered, it is a step like any other
	o.must(o.Eval("document.getElementById('"+blank+"').select()", nil))
	o.must(o.Type("Her name", 0))
	o.must(o.Key(browser.Enter))
	o.eventually(func(store.Draft) bool { return o.field("name_vessel").Tooltip == "Her name" }, "entered")
	assert.Equal(t, blank, o.focused())
	o.must(o.Key("z", browser.Ctrl))
	o.eventually(func(store.Draft) bool { return o.field("name_vessel").Tooltip == f.Tooltip }, "taken back")
}

func TestEscapeWhileTypingPutsTheOldTextBack(t *testing.T) {
	o := foundOffice(t, "fit")
	f := o.field("name_vessel")
	o.open(f.ID)
	blank := "b-" + f.ID + "-name"
	o.must(o.Eval("document.getElementById('"+blank+"').select()", nil))
	o.must(o.Type("something", 0))
	rev := o.draft().Document.Revision
	o.must(o.Key(browser.Escape))
	assert.Equal(t, "name_vessel", o.value(blank))
	time.Sleep(300 * time.Millisecond) // a change would be on its way
	assert.Equal(t, rev, o.draft().Document.Revision)
	assert.Equal(t, "f-"+f.ID, o.focused(), "the field has the focus, so that keys go on with it")
}

func TestFastTabbingLeavesOneNoteOpen(t *testing.T) {
	o := foundOffice(t, "fit")
	o.must(o.Eval("document.querySelector('#overlay .f').focus()", nil))
	for range 9 {
		o.must(o.Key(browser.Tab))
	}
	var here string
	o.must(o.Eval("document.activeElement.dataset.id", &here))
	o.must(o.Wait("document.querySelector('#n-" + here + ".open') && document.querySelectorAll('.note.open').length === 1"))
	o.still()
	var open []string
	o.must(o.Eval("[...document.querySelectorAll('.note.open')].map(n => n.dataset.id)", &open))
	assert.Equal(t, []string{here}, open)
}

func TestPressingOneOfSeveralChosenFields(t *testing.T) {
	o := foundOffice(t, "fit")
	a, b, c := o.field("name_vessel"), o.field("length_overall"), o.field("beam_m")
	chosen := func() string {
		var s []string
		o.must(o.Eval("[...document.querySelectorAll('#overlay .f.sel')].map(g => g.dataset.name).sort()", &s))
		return strings.Join(s, " ")
	}
	o.open(a.ID)
	x, y, w, h, err := o.Rect("#f-" + b.ID)
	require.NoError(t, err)
	o.must(o.ClickWith(x+w/2, y+h/2, browser.Ctrl))
	x, y, w, h, err = o.Rect("#f-" + c.ID)
	require.NoError(t, err)
	o.must(o.ClickWith(x+w/2, y+h/2, browser.Shift))
	assert.Equal(t, "beam_m length_overall name_vessel", chosen())
	o.must(o.ClickWith(x+w/2, y+h/2, browser.Ctrl)) // takes away
	assert.Equal(t, "length_overall name_vessel", chosen())
	o.must(o.Wait("document.getElementById('n-many')"))
	o.must(o.Click("#f-" + b.ID)) // without: that one
	assert.Equal(t, "length_overall", chosen())
	o.must(o.Wait("document.querySelector('#n-" + b.ID + ".open') && !document.getElementById('n-many')"))
	assert.InDelta(t, a.Rect.X0, o.field("name_vessel").Rect.X0, 0.01, "nothing moved")
}

// covered lists what lies under the strips at the foot: page, notes and parts of notes.
const covered = `(() => {
	const out = [], foot = document.getElementById('foot').getBoundingClientRect(), desk = document.getElementById('desk').getBoundingClientRect();
	if (desk.bottom > foot.top + .5) out.push('the desk ends at ' + desk.bottom + ', the foot begins at ' + foot.top);
	if (foot.bottom > innerHeight + .5) out.push('the foot ends below the window');
	for (const e of document.querySelectorAll('#kit, #kit button, #handy, #handy button, #kit select')) {
		const r = e.getBoundingClientRect();
		if (r.left < -.5 || r.right > innerWidth + .5 || r.bottom > innerHeight + .5) out.push((e.id || e.textContent) + ' is cut off');
	}
	const kit = document.getElementById('kit').getBoundingClientRect(), handy = document.getElementById('handy').getBoundingClientRect();
	if (kit.right > handy.left + .5 && kit.bottom > handy.top + .5 && handy.bottom > kit.top + .5) out.push('kit and handy strip cover each other');
	// scrolled to the end, the last of the page and of the notes is seen
	const d = document.getElementById('desk');
	d.scrollTop = d.scrollHeight;
	for (const e of [document.getElementById('picture'), ...document.querySelectorAll('.note')]) if (e.getBoundingClientRect().bottom > foot.top + .5) out.push(e.id + ' ends under the foot');
	d.scrollTop = 0;
	if (document.documentElement.scrollWidth > innerWidth) out.push('it scrolls sideways');
	return out;
})()`

func TestNothingCoversAnythingOnTheBench(t *testing.T) {
	o := foundOffice(t, "find")
	f := o.field("name_vessel")
	for _, size := range [][2]int64{{1280, 800}, {1024, 700}, {1440, 900}, {1920, 1080}} {
		o.must(o.Size(size[0], size[1]))
		for _, stage := range []string{"find", "fit", "rules", "order"} {
			o.bench("/documents/1/" + stage + "?open=" + f.ID)
			o.must(o.Wait("document.querySelector('.note.open')"))
			var out []string
			o.must(o.Eval(covered, &out))
			assert.Empty(t, out, "%s at %d", stage, size[0])
		}
	}
	o.must(o.Size(1280, 800))
	// keep, drop, kind, duplicate and remove stay in view while the note is scrolled
	o.bench("/documents/1/rules?open=" + f.ID)
	o.must(o.Eval("(() => { for (const d of document.querySelectorAll('.note.open details')) d.open = true })()", nil))
	o.must(o.Wait("document.querySelector('.note.open').offsetHeight > document.getElementById('desk').clientHeight"))
	o.must(o.Eval("(d => { d.scrollTop = document.querySelector('.note.open').offsetTop + 260 })(document.getElementById('desk'))", nil))
	var seen []string
	o.must(o.Eval(`[...document.querySelectorAll('.note.open .notehead button, .note.open .notehead select')].filter(e => {
		const r = e.getBoundingClientRect();
		return r.width && e.contains(document.elementFromPoint(r.x + r.width / 2, r.y + r.height / 2));
	}).map(e => e.dataset.do || e.dataset.key)`, &seen))
	assert.Equal(t, []string{"keep", "drop", "kind", "boxes", "duplicate", "remove"}, seen)
	// the list of keys opens at its top
	o.must(o.Size(1024, 700))
	o.must(o.Click("#help"))
	var top []float64
	o.must(o.Eval("(d => [d.scrollTop, d.querySelector('h2').getBoundingClientRect().top])(document.getElementById('keys'))", &top))
	assert.Zero(t, top[0])
	assert.Positive(t, top[1])
}

// A note opens at what its stage is about, and stays as a person unfolded it.
func TestANoteOpensAtWhatItsStageIsAbout(t *testing.T) {
	o := foundOffice(t, "find")
	sections := func() (all, open []string) {
		var r [][]string
		o.must(o.Eval("(l => [l.map(d => d.dataset.more), l.filter(d => d.open).map(d => d.dataset.more)])([...document."+
			"querySelectorAll('.note.open > details')])", &r))
		return r[0], r[1]
	}
	f, other := o.field("name_vessel"), o.field("date_birth")
	for stage, want := range map[string][]string{"find": {"takes"}, "fit": {"place"}, "rules": {"rules", "takes"}, "order": nil} {
		o.bench("/documents/1/" + stage)
		o.open(f.ID)
		all, open := sections()
		assert.ElementsMatch(t, want, open, stage)
		assert.Equal(t, want, append([]string(nil), all[:len(want)]...), "%s: they come first", stage)
	}
	// what is special of its look stands in Fit at once
	o.bench("/documents/1/fit")
	o.open(f.ID)
	o.set(f.ID, "fill", "#ffeecc")
	_, open := sections()
	assert.ElementsMatch(t, []string{"place", "look"}, open)
	// what a person opens and folds stays so for the next field, and on the next page load
	o.must(o.Click(".note.open details[data-more=place] > summary"))
	o.must(o.Wait("!document.querySelector('.note.open details[data-more=place]').open"))
	o.must(o.Click(".note.open details[data-more=answer] > summary"))
	o.must(o.Wait("document.querySelector('.note.open details[data-more=answer]').open"))
	for range 2 {
		o.open(other.ID)
		_, open = sections()
		assert.Contains(t, open, "answer")
		assert.NotContains(t, open, "place")
		o.bench("/documents/1/fit")
	}
	// no zero stands for something else
	var zeros []string
	o.open(f.ID)
	o.must(o.Eval("[...document.querySelectorAll('.note.open input[data-key]')].filter(e => e.value === '0').map(e => e.ariaLabel)", &zeros))
	assert.Empty(t, zeros)
	assert.NotContains(t, o.text(".note.open"), "(0 ")
}

func TestANoteKeepsItsPlaceInTheListWhenItOpens(t *testing.T) {
	o := foundOffice(t, "fit")
	order := func() (ids []string) {
		o.must(o.Eval("[...document.querySelectorAll('.note')].sort((a, b) => a.getBoundingClientRect().top - "+
			"b.getBoundingClientRect().top).map(n => n.dataset.id)", &ids))
		return ids
	}
	before := order()
	for i := range before {
		if i%3 != 0 {
			continue
		}
		o.open(before[i])
		o.still()
		assert.Equal(t, before, order(), "note %s", strconv.Itoa(i))
	}
}

func TestTheStripAtTheLowerLeftSaysWhatItDoes(t *testing.T) {
	o := foundOffice(t, "fit")
	var struck int
	o.must(o.Eval("[...document.querySelectorAll('.ladder *')].filter(e => "+
		"getComputedStyle(e).textDecorationLine.includes('line-through')).length", &struck))
	assert.Zero(t, struck, "a word struck through is no switch")
	var groups []string
	o.must(o.Eval("[...document.querySelectorAll('.ladder [role=group]')].map(g => g.ariaLabel + ': ' + "+
		"[...g.querySelectorAll('button, input')].map(e => e.id).join(' '))", &groups))
	assert.Equal(t, []string{
		"Zoom: zoom-out zoom-in zoom-page zoom-width zoom-chosen", "What is shown: view-tint view-names",
	}, groups)
	o.must(o.Click("#view-names"))
	o.must(o.Wait("document.body.classList.contains('named') && document.getElementById('view-names').checked"))
	o.must(o.Click("#view-tint"))
	o.must(o.Wait("document.body.classList.contains('bare') && !document.getElementById('view-tint').checked"))
	o.must(o.Eval("document.getElementById('paper').focus()", nil))
	o.must(o.Key("h")) // the key does the same
	o.must(o.Wait("document.getElementById('view-tint').checked"))
}
