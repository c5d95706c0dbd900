// Package e2e drives the real interface in headless Chromium, and has the
// released PDFs read by readers that nobody here wrote.
package e2e_test

import (
	"context"
	"fmt"
	"io"
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"zealousmargin.example/demo"
	"zealousmargin.example/e2e/browser"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/store"
	"zealousmargin.example/internal/web/webtest"
)

// office is a running demo office with a browser at its door.
type office struct {
	*browser.Browser
	t         testing.TB
	store     *store.Store
	url       string
	downloads string
}

// openOffice opens an office of its own for a test, which runs beside others then.
func openOffice(t testing.TB) *office {
	t.Helper()
	if alone, ok := t.(*testing.T); ok {
		alone.Parallel()
	}
	s, url := webtest.Open(t)
	o := &office{t: t, store: s, url: url, downloads: t.TempDir()}
	b, err := browser.Start(browser.Options{Downloads: o.downloads})
	require.NoError(t, err)
	t.Cleanup(b.Close)
	o.Browser = b
	return o
}

// chooseAll chooses all fields of the page by the key for it, and waits for what shows that: a note that opens late takes the key for its
// own text.
func (o *office) chooseAll(shows string) {
	o.t.Helper()
	for range 8 {
		o.must(o.Eval("document.activeElement.blur()", nil))
		o.must(o.Key("a", browser.Ctrl))
		for range 30 {
			var there bool
			o.must(o.Eval("!!document.querySelector('"+shows+"')", &there))
			if there {
				return
			}
			time.Sleep(50 * time.Millisecond)
		}
	}
	o.t.Fatal("the fields of the page were not chosen")
}

// another is a second browser in the same office.
func (o *office) another() *office {
	o.t.Helper()
	b, err := browser.Start(browser.Options{})
	require.NoError(o.t, err)
	o.t.Cleanup(b.Close)
	return &office{t: o.t, store: o.store, url: o.url, Browser: b}
}

func (o *office) must(err error) {
	o.t.Helper()
	if err != nil {
		_ = o.Shot(filepath.Join(os.TempDir(), "zm-failed.png"))
	}
	require.NoError(o.t, err)
}

// comeIn signs the first of the people of the demo office in, and shows the workroom.
func (o *office) comeIn() {
	o.t.Helper()
	o.signIn()
	o.must(o.Open(o.url + "/"))
	o.must(o.Wait("document.querySelector('#documents') && document.documentElement.dataset.ready"))
}

func (o *office) signIn() {
	o.t.Helper()
	o.signInAs(0)
}

// signInAs signs one of the people of the demo office in; the page that shows stays.
func (o *office) signInAs(n int) {
	o.t.Helper()
	p := demo.People[n]
	jar, err := cookiejar.New(nil)
	require.NoError(o.t, err)
	c := http.Client{Jar: jar}
	page, err := c.Get(o.url + "/sign-in")
	require.NoError(o.t, err)
	words, err := io.ReadAll(page.Body)
	require.NoError(o.t, err)
	require.NoError(o.t, page.Body.Close())
	csrf := regexp.MustCompile(`name="csrf" value="([^"]+)"`).FindSubmatch(words)
	require.NotNil(o.t, csrf)
	in, err := c.PostForm(o.url+"/sign-in", url.Values{"csrf": {string(csrf[1])}, "email": {p.Email}, "password": {p.Password}})
	require.NoError(o.t, err)
	require.NoError(o.t, in.Body.Close())
	require.Equal(o.t, http.StatusOK, in.StatusCode)
	at, err := url.Parse(o.url)
	require.NoError(o.t, err)
	for _, k := range jar.Cookies(at) {
		o.must(o.Cookie(o.url, k.Name, k.Value))
	}
}

// signInByHand does so at the door.
func (o *office) signInByHand() {
	o.t.Helper()
	p := demo.People[0]
	o.must(o.Open(o.url + "/sign-in"))
	o.must(o.Fill("input[name=email]", p.Email))
	o.must(o.Fill("input[name=password]", p.Password))
	o.must(o.Click("button.do"))
	o.must(o.Wait("document.querySelector('#documents') && document.documentElement.dataset.ready"))
}

// bench opens a stage of a document and waits until it listens.
func (o *office) bench(path string) {
	o.t.Helper()
	o.must(o.Open(o.url + path))
	o.ready()
}

func (o *office) ready() {
	o.t.Helper()
	o.must(o.Wait("document.documentElement.dataset.ready === 'yes' && document.getElementById('picture').complete"))
}

// onPage gives the viewport point of a place on the page as shown, in points.
func (o *office) onPage(x, y float64) (float64, float64) {
	o.t.Helper()
	var r []float64
	o.must(o.Eval("(() => { const r = document.getElementById('overlay').getBoundingClientRect(), b = "+
		"document.getElementById('bench').dataset; return [r.x, r.y, r.width / b.vw] })()", &r))
	return r[0] + x*r[2], r[1] + y*r[2]
}

func (o *office) fieldID(name string) string {
	o.t.Helper()
	for _, f := range o.draft().Template.Fields {
		if f.Name == name {
			return f.ID
		}
	}
	o.t.Fatalf("there is no field %s", name)
	return ""
}

func (o *office) documentID() int64 {
	docs, err := o.store.Documents(context.Background(), false)
	require.NoError(o.t, err)
	return docs[0].ID
}

func (o *office) draft() store.Draft {
	o.t.Helper()
	d, err := o.store.Draft(context.Background(), o.documentID())
	require.NoError(o.t, err)
	return d
}

// eventually waits until the draft is as wanted, and until the bench or the pages room,
// if one is open, shows it.
func (o *office) eventually(want func(store.Draft) bool, what string) {
	o.t.Helper()
	o.eventuallyStored(want, what)
	o.must(o.Wait(fmt.Sprintf("!document.querySelector('#bench, #pagesroom') || document.querySelector('#bench, "+
		"#pagesroom').dataset.rev === '%d' && !document.querySelector('.htmx-request, .htmx-swapping, .htmx-settling')",
		o.draft().Document.Revision)))
}

// eventuallyStored waits until the draft is as wanted, whether this bench shows it or not.
func (o *office) eventuallyStored(want func(store.Draft) bool, what string) {
	o.t.Helper()
	require.Eventually(o.t, func() bool { return want(o.draft()) }, time.Minute, 50*time.Millisecond, what)
}

func mustAbs(t testing.TB, name string) string {
	t.Helper()
	abs, err := filepath.Abs(name)
	require.NoError(t, err)
	return abs
}

// run runs a program and returns what it prints.
func run(t testing.TB, name string, args ...string) string {
	t.Helper()
	out, err := exec.Command(name, args...).CombinedOutput()
	require.NoError(t, err, "%s %v: %s", name, args, out)
	return string(out)
}

// rewriteText gives a page other recognised words.
func (o *office) rewriteText(page string, b []byte) {
	o.t.Helper()
	ctx := context.Background()
	sha, err := o.store.KeepFile(ctx, b)
	require.NoError(o.t, err)
	_, err = o.store.Change(ctx, o.documentID(), -1, 1, "", func(t *form.Template) (form.Edit, error) {
		return t.ChangePages("recognised again", []string{page}, func(p *form.Page) { p.Text = sha })
	})
	require.NoError(o.t, err)
}
