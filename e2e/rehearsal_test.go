package e2e_test

import (
	"cmp"
	"os"
	"path/filepath"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/e2e/readers"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/store"
)

// Every step and property is rehearsed, and comes to what it comes to in Chromium's viewer.
func TestTheRehearsalIsTheRelease(t *testing.T) {
	const address = "https://gannet-quay.example/in"
	released, draft, err := readers.Specimen(address)
	require.NoError(t, err)
	blank, err := readers.Sheets()
	require.NoError(t, err)
	o := openOffice(t)
	o.comeIn()
	name := filepath.Join(t.TempDir(), "specimen.pdf")
	require.NoError(t, os.WriteFile(name, blank, 0o600))
	o.must(o.Upload("#drop input[type=file]", name))
	o.must(o.Wait("document.querySelector('#intakes a')"))
	id := o.documentID()
	slices.SortStableFunc(draft.Fields, func(a, b form.Field) int { return cmp.Compare(a.Order, b.Order) })
	for _, work := range []func(*form.Template) (form.Edit, error){
		func(tpl *form.Template) (form.Edit, error) { return tpl.Add("everything", draft.Fields) },
		func(tpl *form.Template) (form.Edit, error) { return tpl.Describe(draft.Details) },
	} {
		_, err = o.store.Change(t.Context(), id, -1, 1, "rehearse", work)
		require.NoError(t, err)
	}
	require.Len(t, o.draft().Template.Fields, len(draft.Fields))
	o.must(o.Size(1400, 1250))
	o.must(o.Open(o.url + "/documents/" + itoa(id) + "/rehearse?zoom=75"))
	o.must(o.Wait("document.documentElement.dataset.live === 'yes'"))
	sample := readers.NewSample()
	t.Logf("ZM_SEED=%d", sample.Seed)
	chosen := sample.Properties(7)
	rows, err := readers.Try(pdfjsDist, chosen, "Chromium")
	require.NoError(t, err)
	cells, err := readers.Rehearse(o.Browser, itoa(id), address, draft, released, chosen)
	o.must(err)
	assert.Empty(t, readers.Apart(rows, cells))
}

func TestTheRehearsalZoomsAndHasNoHandles(t *testing.T) {
	o := openOffice(t)
	o.signIn()
	o.bench("/documents/1/fit?zoom=50")
	o.kitPlaces("lines", 300, 700)
	o.must(o.Open(o.url + "/documents/1/rehearse"))
	live := func() { o.must(o.Wait("document.documentElement.dataset.live === 'yes'")) }
	live()
	var resize string
	o.must(o.Eval("getComputedStyle(document.querySelector('#sheet textarea')).resize", &resize))
	assert.Equal(t, "none", resize)
	width := func() (w float64) {
		o.must(o.Eval("document.querySelector('#sheet img').width", &w))
		return w
	}
	at75 := width()
	o.must(o.Click("#zoom-in"))
	o.must(o.Wait("location.search.includes('zoom=100')"))
	live()
	assert.InDelta(t, at75*4/3, width(), 1)
	o.must(o.Key("-"))
	o.must(o.Wait("location.search.includes('zoom=75')"))
	live()
	o.must(o.Click("#zoom-page"))
	o.must(o.Wait("!location.search.includes('zoom=75')"))
	live()
	var fits bool
	o.must(o.Eval("document.querySelector('#sheet img').height <= document.getElementById('desk').clientHeight", &fits))
	assert.True(t, fits, "the whole page")
}

func TestWhatAButtonDoesIsSaidRight(t *testing.T) {
	o := openOffice(t)
	o.signIn()
	o.bench("/documents/1/fit?zoom=50")
	first := o.kitPlaces("text", 300, 700)
	second := o.kitPlaces("text", 300, 740)
	third := o.kitPlaces("text", 300, 780)
	b := o.kitPlaces("button", 300, 820)
	o.bench("/documents/1/rules?zoom=50")
	o.openNote(b.Name)
	o.set(b.ID, "deed", "clear")
	assert.Contains(t, o.text("#n-"+b.ID), "When pressed")
	// fields are pointed at
	o.must(o.Click("#b-" + b.ID + "-step-action-fields ~ [data-point]"))
	o.must(o.Wait("document.getElementById('say').textContent.startsWith('Press the fields')"))
	for _, f := range []form.Field{first, third, second, third} { // pressed again, one is taken out
		o.must(o.Click("#f-" + f.ID))
	}
	o.must(o.Key("\r"))
	want := first.Name + ", " + second.Name
	o.eventually(func(d store.Draft) bool {
		f, _ := d.Template.Field(b.ID)
		return len(f.Steps) == 1 && f.Steps[0].Fields == want
	}, "pointed at")
	assert.Contains(t, o.text("#n-"+b.ID), "When pressed: clears "+want)
	assert.NotContains(t, o.text("#n-"+b.ID), "does nothing")
	o.set(b.ID, "tooltip", "Once more")
	// or chosen from a list
	o.must(o.Eval("document.getElementById('b-"+b.ID+"-step-0-fields-more').focus()", nil))
	o.must(o.Wait("document.getElementById('b-" + b.ID + "-step-0-fields-more').options.length > 3"))
	o.must(o.Fill("#b-"+b.ID+"-step-0-fields-more", third.Name))
	want += ", " + third.Name
	o.eventually(func(d store.Draft) bool {
		f, _ := d.Template.Field(b.ID)
		return len(f.Steps) == 1 && f.Steps[0].Fields == want
	}, "chosen")
	// one wrong name does not throw the entry away
	o.must(o.Fill("#b-"+b.ID+"-step-0-fields", first.Name+", nowhere, "+third.Name))
	o.said("here is no field called")
	assert.Equal(t, first.Name+", nowhere, "+third.Name, o.value("b-"+b.ID+"-step-0-fields"))
	var chosen string
	o.must(o.Eval("(e => e.value.slice(e.selectionStart, e.selectionEnd))(document.activeElement)", &chosen))
	assert.Equal(t, "nowhere", chosen, "the wrong name is chosen")
	o.must(o.Key("\x1b"))
	o.openNote(first.Name)
	assert.Contains(t, o.text("#n-"+b.ID+" .b"), "clears "+want)
	// the closed note and the rehearsal say it too
	o.must(o.Open(o.url + "/documents/1/rehearse"))
	o.must(o.Wait("document.documentElement.dataset.live === 'yes'"))
	o.must(o.Click("#sheet [data-name=" + b.Name + "]"))
	o.must(o.Wait("document.getElementById('sent').textContent === 'Cleared: " + want + ".'"))

	// what is sent is said and chosen at the button, for mail too
	o.bench("/documents/1/rules?zoom=50")
	send := o.kitPlaces("submit", 450, 820)
	o.openNote(send.Name)
	for _, url := range []string{"https://gannet-quay.example/in", "mailto:harbour@gannet-quay.example"} {
		o.set(send.ID, "url", url)
		o.set(send.ID, "sendas", "pdf")
		o.set(send.ID, "sendas", "xfdf")
		f := o.field(send.Name)
		assert.Equal(t, form.Action{Do: form.SubmitForm, URL: url, As: "xfdf"}, f.Action)
	}
	o.must(o.Open(o.url + "/documents/1/rehearse"))
	o.must(o.Wait("document.documentElement.dataset.live === 'yes'"))
	o.must(o.Click("#sheet [data-name=" + send.Name + "]"))
	o.must(o.Wait("document.getElementById('sent').textContent.startsWith('This would be sent to " +
		"mailto:harbour@gannet-quay.example as XFDF')"))
}
