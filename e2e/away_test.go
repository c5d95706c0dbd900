package e2e_test

import (
	"net/http"
	"net/http/httptest"
	"strconv"
	"sync/atomic"
	"testing"
	"time"

	"github.com/chromedp/cdproto/page"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/e2e/browser"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/store"
	"zealousmargin.example/internal/web/webtest"
)

// gate stands before the application: shut, nothing gets through; mute, what is asked is done and its
// answer lost on the way.
type gate struct{ shut, mute atomic.Bool }

func (g *gate) before(h http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		lost := g.mute.Load() && r.Method == http.MethodPost
		if lost {
			h.ServeHTTP(httptest.NewRecorder(), r)
		}
		if lost || g.shut.Load() {
			panic(http.ErrAbortHandler)
		}
		h.ServeHTTP(w, r)
	})
}

// officeBehind is a demo office with a handler of the test before the application.
func officeBehind(t *testing.T, before func(http.Handler) http.Handler) *office {
	t.Helper()
	s, url := webtest.OpenBehind(t, before)
	b, err := browser.Start(browser.Options{})
	require.NoError(t, err)
	t.Cleanup(b.Close)
	return &office{t: t, store: s, url: url, Browser: b}
}

// openBehind is a demo office behind a gate, with the berth application's fields found.
func openBehind(t *testing.T) (*office, *gate) {
	t.Helper()
	g := &gate{}
	o := officeBehind(t, g.before)
	o.signIn()
	o.bench("/documents/1/find")
	o.must(o.Click("#find-page"))
	o.eventually(func(d store.Draft) bool { return len(d.Template.Fields) > 20 }, "found")
	return o, g
}

func (o *office) text(css string) string {
	o.t.Helper()
	var s string
	o.must(o.Eval("document.querySelector("+strconv.Quote(css)+")?.textContent ?? ''", &s))
	return s
}

func TestEditsWaitWhileTheServerIsAway(t *testing.T) {
	o, g := openBehind(t)
	o.bench("/documents/1/fit")
	f := o.field("name_vessel")
	o.must(o.Click("#f-" + f.ID))
	o.must(o.Wait("document.querySelector('.note.open [data-key=tooltip]')"))
	g.shut.Store(true)
	o.enter(f.ID, "tooltip", "What is she called?")
	o.must(o.Wait("document.getElementById('saved').textContent === 'not saved yet: 1 edit'"))
	// a drag likewise, and once more from where it was dragged to
	for n := 2; n <= 3; n++ {
		var r []float64
		o.must(o.Eval("(b => [b.x, b.y, b.width, b.height])(document.querySelector('#f-"+f.ID+" .body').getBoundingClientRect())", &r))
		o.must(o.Drag(r[0]+40, r[1]+r[3]/2, r[0]+60, r[1]+r[3]/2-40))
		o.must(o.Wait("document.getElementById('saved').textContent === 'not saved yet: " + itoa(int64(n)) + " edits'"))
	}
	assert.NotContains(t, o.text("#say"), "was not saved")
	assert.Equal(t, f.Tooltip, o.field("name_vessel").Tooltip, "nothing arrived")
	// leaving asks
	asked := make(chan string, 1)
	require.NoError(t, chromedp.Listen(o.Context(), func(ev any) {
		e, ok := ev.(*page.EventJavascriptDialogOpening)
		if !ok {
			return
		}
		asked <- string(e.Type)
		go func() {
			_, _ = chromedp.Call(o.Context(), page.HandleJavaScriptDialog, page.HandleJavaScriptDialogParams{Accept: false})
		}()
	}))
	o.must(o.Eval("setTimeout(() => { location.href = '/' }, 10)", nil))
	select {
	case what := <-asked:
		assert.Equal(t, "beforeunload", what)
	case <-time.After(5 * time.Second):
		t.Fatal("leaving with unsent edits does not ask")
	}
	g.shut.Store(false)
	o.eventuallyStored(func(d store.Draft) bool {
		n := o.field("name_vessel")
		return n.Tooltip == "What is she called?" && n.Rect.Y0 > f.Rect.Y0+60
	}, "they are sent again")
	o.must(o.Wait("document.getElementById('saved').textContent.includes('saved just now')"))
	assert.InDelta(t, f.Rect.X0+40/o.scale(), o.field("name_vessel").Rect.X0, 8, "each drag once")
	assert.Equal(t, "What is she called?", o.value("b-"+f.ID+"-tooltip"))
}

// enter types a value into the open note and does not wait for the server.
func (o *office) enter(id, key, value string) {
	o.t.Helper()
	o.must(o.Fill("#b-"+id+"-"+key, value))
}

// scale is how many CSS pixels a point has on the bench.
func (o *office) scale() float64 {
	o.t.Helper()
	var v float64
	o.must(o.Eval("document.getElementById('bench').dataset.width / document.getElementById('bench').dataset.vw", &v))
	return v
}

func (o *office) value(id string) string {
	o.t.Helper()
	var s string
	o.must(o.Eval("document.getElementById("+strconv.Quote(id)+")?.value ?? ''", &s))
	return s
}

func TestAnEditWhoseAnswerIsLostIsDoneOnce(t *testing.T) {
	o, g := openBehind(t)
	o.bench("/documents/1/fit")
	f := o.field("name_vessel")
	o.must(o.Click("#f-" + f.ID))
	g.mute.Store(true)
	o.must(o.Eval("document.getElementById('paper').focus()", nil))
	o.must(o.Key(browser.ArrowRight))
	o.must(o.Wait("document.getElementById('saved').textContent === 'not saved yet: 1 edit'"))
	g.mute.Store(false)
	o.must(o.Wait("document.getElementById('saved').textContent.includes('saved just now')"))
	assert.InDelta(t, f.Rect.X0+1, o.field("name_vessel").Rect.X0, 0.01, "moved once")
}

func TestEditsThatWaitOutliveTheWindow(t *testing.T) {
	o, g := openBehind(t)
	o.bench("/documents/1/fit")
	f := o.field("name_vessel")
	o.must(o.Click("#f-" + f.ID))
	o.must(o.Wait("document.querySelector('.note.open [data-key=tooltip]')"))
	g.shut.Store(true)
	o.enter(f.ID, "tooltip", "Kept over the night")
	o.must(o.Wait("document.getElementById('saved').textContent.startsWith('not saved yet')"))
	o.must(o.Eval("sessionStorage.removeItem('desk')", nil)) // as a window opened on the next day has it
	g.shut.Store(false)
	b, err := o.Window(o.url + "/") // the same browser, another window
	require.NoError(t, err)
	t.Cleanup(b.Close)
	o.eventuallyStored(func(store.Draft) bool { return o.field("name_vessel").Tooltip == "Kept over the night" }, "sent from the workroom")
}

func TestAClashAfterTheServerWasAwayShowsBothValues(t *testing.T) {
	o, g := openBehind(t)
	o.bench("/documents/1/fit")
	f := o.field("name_vessel")
	o.must(o.Click("#f-" + f.ID))
	o.must(o.Wait("document.querySelector('.note.open [data-key=tooltip]')"))
	g.shut.Store(true)
	o.enter(f.ID, "tooltip", "Mine")
	o.enter(f.ID, "name", "vessel_mine")
	o.must(o.Wait("document.getElementById('saved').textContent === 'not saved yet: 2 edits'"))
	_, err := o.store.Change(t.Context(), 1, -1, 2, "", func(tpl *form.Template) (form.Edit, error) {
		return tpl.Set("changed", []string{f.ID}, func(f *form.Field) error { f.Tooltip = "Theirs"; return nil })
	})
	require.NoError(t, err)
	g.shut.Store(false)
	o.must(o.Wait("['“Theirs”', '“Mine”'].every(v => document.getElementById('say').textContent.includes(v))"))
	assert.Equal(t, "Theirs", o.field(f.Name).Tooltip)
	o.must(o.Click("#say button")) // mine in its place
	o.eventuallyStored(func(d store.Draft) bool { n, _ := d.Template.Field(f.ID); return n.Tooltip == "Mine" }, "mine")
	o.must(o.Wait("document.getElementById('say').textContent.includes('vessel_mine')")) // the second is asked about too
	o.must(o.Click("#say button"))
	o.eventuallyStored(func(d store.Draft) bool { n, _ := d.Template.Field(f.ID); return n.Name == "vessel_mine" }, "both")
}

func TestUndoWhileTheServerIsAwayTakesTheLastEditThatWaits(t *testing.T) {
	o, g := openBehind(t)
	o.bench("/documents/1/fit")
	f := o.field("name_vessel")
	o.must(o.Click("#f-" + f.ID))
	g.shut.Store(true)
	o.must(o.Eval("document.getElementById('paper').focus()", nil))
	o.must(o.Key(browser.ArrowRight))
	o.must(o.Key(browser.ArrowDown))
	o.must(o.Wait("document.getElementById('saved').textContent === 'not saved yet: 2 edits'"))
	o.must(o.Key("z", browser.Ctrl))
	o.must(o.Wait("document.getElementById('saved').textContent === 'not saved yet: 1 edit'"))
	g.shut.Store(false)
	o.eventuallyStored(func(store.Draft) bool { return o.field(f.Name).Rect.X0 > f.Rect.X0+.5 }, "the first is sent")
	assert.InDelta(t, f.Rect.Y0, o.field(f.Name).Rect.Y0, 0.01, "the second is not")
}

// The list of fields and the pages room keep what is done in them too.
func TestTheListAndThePagesRoomWaitToo(t *testing.T) {
	o, g := openBehind(t)
	f := o.field("name_vessel")
	o.must(o.Open(o.url + "/documents/1/fields"))
	o.must(o.Wait("document.documentElement.dataset.ready === 'yes'"))
	g.shut.Store(true)
	o.must(o.Fill("[data-field='"+f.ID+"'][data-key=tooltip]", "From the list"))
	o.must(o.Wait("document.getElementById('saved').textContent === 'not saved yet: 1 edit'"))
	g.shut.Store(false)
	o.eventuallyStored(func(store.Draft) bool { return o.field("name_vessel").Tooltip == "From the list" }, "sent")
	o.must(o.Wait("document.getElementById('saved').textContent === 'saved just now'"))

	o.must(o.Open(o.url + "/documents/1/pages"))
	o.must(o.Wait("document.documentElement.dataset.ready === 'yes'"))
	p := o.draft().Template.Pages[1]
	o.must(o.Click("#p-" + p.ID))
	g.shut.Store(true)
	o.must(o.Key("r"))
	o.must(o.Wait("document.getElementById('saved').textContent === 'not saved yet: 1 edit'"))
	o.must(o.Key("r"))
	o.must(o.Wait("document.getElementById('saved').textContent === 'not saved yet: 2 edits'"))
	g.shut.Store(false)
	o.eventuallyStored(func(d store.Draft) bool { return d.Template.Pages[1].Rotate == 180 }, "turned twice")
	o.must(o.Wait("!document.getElementById('saved').textContent.startsWith('not saved')"))
}
