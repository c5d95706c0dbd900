package e2e_test

import (
	"bytes"
	"fmt"
	"math/rand/v2"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/demo"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/store"
)

// downloaded waits for a file that the browser takes, and gives its path; files of the same name before it are gone.
func (o *office) downloaded(click, name string) string {
	o.t.Helper()
	path := filepath.Join(o.downloads, name)
	_ = os.Remove(path)
	o.must(o.Click(click))
	require.Eventually(o.t, func() bool { _, err := os.Stat(path); return err == nil }, 10*time.Second, 50*time.Millisecond, name)
	return path
}

// byMutool fills text fields, named by their tooltips, in with an engine of another make, and saves as readers do, behind what was there.
func byMutool(t *testing.T, in string, values map[string]string) string {
	t.Helper()
	var said strings.Builder
	for name, v := range values {
		fmt.Fprintf(&said, "%q: %q,", name, v)
	}
	dir := t.TempDir()
	script, out := filepath.Join(dir, "fill.js"), filepath.Join(dir, "filled.pdf")
	require.NoError(t, os.WriteFile(script, []byte(`var values = {`+said.String()+`};
var d = new PDFDocument(scriptArgs[0]);
for (var p = 0; p < d.countPages(); p++) {
  var ws = d.loadPage(p).getWidgets();
  for (var i = 0; i < ws.length; i++) if (values[ws[i].getLabel()] !== undefined) { ws[i].setTextValue(values[ws[i].getLabel()]); ws[i].update(); }
}
d.save(scriptArgs[1], "incremental");`), 0o600))
	run(t, "mutool", "run", script, in, out)
	return out
}

// given gives the fields of the two pages to two parts, and has another place to sign in for the first.
func (o *office) given() {
	o.t.Helper()
	_, err := o.store.Change(o.t.Context(), 1, -1, 1, "", func(t *form.Template) (form.Edit, error) {
		e := form.Edit{Title: "gave the parts"}
		signs := 0
		for _, f := range t.Placed() {
			if f.Kind == form.Button {
				continue
			}
			was := f
			if f.Role = "applicant"; f.Kind == form.Signature {
				signs++
			}
			if strings.Contains(f.Label, "Berth no") || strings.Contains(f.Label, "Fee due") || strings.Contains(f.Label, "Received") {
				f.Role = "harbour master"
			}
			f.Required = f.Name == "name_vessel"
			e.Before, e.After = append(e.Before, was), append(e.After, f)
		}
		require.Equal(o.t, 1, signs)
		return e, nil
	})
	require.NoError(o.t, err)
}

// The whole way out: forty people of the roster get a letter each, one opens it and gets the form with what is known of them; then a form
// goes round, an applicant fills it in with another engine and draws a signature by a link, the harbour master signs with a password; the
// check says so, and sees one changed byte.
func TestAFormGoesOutAndComesBackSigned(t *testing.T) {
	o := openOffice(t)
	o.sourced()
	o.given()
	d := o.draft()
	vessel, ok := d.Template.Field(o.fieldID("name_vessel"))
	require.True(t, ok)
	tooltip := vessel.Tooltip
	o.must(o.Open(o.url + "/documents/1/bring-in"))
	o.must(o.Fill("input[name=roles]", "applicant, harbour master"))
	o.must(o.Eval("document.body.dataset.before = 'yes'", nil))
	o.must(o.Click("#save-details"))
	o.must(o.Wait("document.body && !document.body.dataset.before && document.getElementById('save-details')"))
	o.must(o.Open(o.url + "/documents/1/release"))
	o.must(o.Eval("document.getElementById('anyway')?.click()", nil))
	o.must(o.Click("#release"))
	o.must(o.Wait("document.getElementById('fresh')"))

	o.must(o.Click("#to-links"))
	o.must(o.Wait("document.getElementById('letter')"))
	o.must(o.Eval("document.getElementById('whom').value = 'found'", nil))
	o.must(o.Click("#send"))
	o.must(o.Wait("document.querySelector('.fine, .wrong')"))
	var said string
	o.must(o.Eval("document.querySelector('main').innerText", &said))
	if strings.Contains(said, "Nothing was sent yet") { // what does not fit is looked at, and sent all the same
		o.must(o.Eval("document.getElementById('whom').value = 'found'", nil))
		o.must(o.Click("input[name=anyway]"))
		o.must(o.Click("#send"))
		o.must(o.Wait("document.querySelector('.fine')"))
		o.must(o.Eval("document.querySelector('main').innerText", &said))
	}
	assert.Contains(t, said, "40 letters are on their way")
	require.Eventually(t, func() bool {
		all, err := o.store.PostTray(t.Context(), 0, 50)
		return err == nil && len(all) == 40
	}, 30*time.Second, 50*time.Millisecond)
	o.must(o.Open(o.url + "/post-tray"))
	o.must(o.Wait("document.querySelectorAll('#tray tbody tr').length === 40"))
	o.must(o.Eval("[...document.querySelectorAll('#tray tr')].find(r => r.innerText.includes('odalys.quill')).querySelector('a').click()", nil))
	o.must(o.Wait("document.querySelector('#text a')"))
	o.must(o.Click("#text a"))
	o.must(o.Wait("document.getElementById('get')"))
	copied := o.downloaded("#get", "berth-application.pdf")
	assert.Contains(t, run(t, "pdftotext", "-layout", copied, "-"), "Two Sisters")
	o.must(o.Upload("input[name=file]", byMutool(t, copied, map[string]string{tooltip: "Two Sisters II"})))
	o.must(o.Click("#send"))
	o.must(o.Wait("document.getElementById('sent')"))
	o.must(o.Open(o.url + "/documents/1/links"))
	o.must(o.Eval("document.getElementById('counts').innerText", &said))
	assert.Contains(t, said, "40 people have a link of their own. 1 opened it, 1 got the form, 1 answered.")

	o.must(o.Open(o.url + "/documents/1/signings"))
	o.must(o.Eval(`(() => { const s = document.getElementById('who-0'); s.value = [...s.options].find(x => x.text === 'Odalys Quill').value;
		const w = document.getElementById('who-1'); w.value = 'account 1'; })()`, nil))
	o.must(o.Fill("#passcode-0", "slack water"))
	o.must(o.Click("#begin-signing"))
	o.must(o.Wait("document.querySelector('[id^=round-]')"))
	require.Eventually(t, func() bool {
		all, err := o.store.PostTray(t.Context(), 0, 50)
		return err == nil && len(all) == 41
	}, 30*time.Second, 50*time.Millisecond)
	o.must(o.Open(o.url + "/post-tray"))
	o.must(o.Click("#tray a")) // the latest
	o.must(o.Wait("document.querySelector('#text a')"))
	o.must(o.Click("#text a"))
	o.must(o.Wait("document.getElementById('enter')"))
	o.must(o.Size(390, 800)) // a telephone
	o.must(o.Fill("input[name=passcode]", "slack water"))
	o.must(o.Click("#enter"))
	o.must(o.Wait("document.getElementById('signhere')")) // the office knows the vessel
	copied = o.downloaded("#get", "berth-application.pdf")
	o.must(o.Upload("input[name=file]", byMutool(t, copied, map[string]string{tooltip: "Guillemot"})))
	o.must(o.Click("#send"))
	o.must(o.Wait("document.getElementById('answered')"))
	o.must(o.Eval("document.getElementById('by').value = 'drawn'", nil))
	o.must(o.Eval("document.getElementById('by').dispatchEvent(new Event('change'))", nil))
	o.must(o.Eval("document.getElementById('pad').scrollIntoView({block: 'center'})", nil))
	x, y, w, h, err := o.Rect("#pad")
	o.must(err)
	o.must(o.Drag(x+w*0.2, y+h*0.7, x+w*0.5, y+h*0.2))
	o.must(o.Drag(x+w*0.5, y+h*0.2, x+w*0.8, y+h*0.7))
	var wide bool
	o.must(o.Eval("document.documentElement.scrollWidth > innerWidth", &wide))
	assert.False(t, wide, "nothing scrolls sideways on a telephone")
	o.must(o.Click("#agree"))
	o.must(o.Fill("#secret", "slack water"))
	o.must(o.Click("#sign"))
	o.must(o.Wait("document.getElementById('signed')"))

	o.must(o.Size(1280, 800))
	o.must(o.Open(o.url + "/"))
	o.must(o.Wait("document.querySelector('.tosign a')"))
	o.must(o.Click(".tosign a"))
	o.must(o.Wait("document.getElementById('sign')"))
	o.must(o.Click("#agree"))
	o.must(o.Fill("#secret", demo.People[0].Password))
	o.must(o.Click("#sign"))
	o.must(o.Wait("document.getElementById('signed') || document.querySelector('.wrong')"))
	finished := o.downloaded("#get", "berth-application.pdf")
	pages := run(t, "pdftotext", "-layout", finished, "-")
	for _, s := range []string{"Guillemot", "How this form was signed", "1. Odalys Quill, applicant", "by drawing the name", "harbour master"} {
		assert.Contains(t, pages, s)
	}
	assert.Contains(t, run(t, "pdfsig", "-nocert", finished), "Signature is Valid")

	check := func(file string) (said string) {
		o.must(o.Open(o.url + "/signed-files"))
		o.must(o.Upload("input[name=file]", file))
		o.must(o.Click("#check"))
		o.must(o.Wait("document.getElementById('found') || document.querySelector('.wrong')"))
		o.must(o.Eval("document.querySelector('main').innerText", &said))
		return said
	}
	said = check(finished)
	assert.Contains(t, said, "It is the finished form of Berth application")
	assert.Contains(t, said, "1 signature holds")
	b, err := os.ReadFile(finished)
	require.NoError(t, err)
	b[bytes.Index(b, []byte("stream\n"))+10+rand.IntN(300)] ^= 1
	changed := filepath.Join(t.TempDir(), "changed.pdf")
	require.NoError(t, os.WriteFile(changed, b, 0o600))
	said = check(changed)
	assert.NotContains(t, said, "finished form")
	assert.NotContains(t, said, "1 signature holds")
}

// A browser shows the form in a page of the site that its link names, and refuses it to any other page.
func TestABrowserShowsALinkInThePagesThatItNames(t *testing.T) {
	o := openOffice(t)
	o.comeIn()
	var shown string
	site := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) {
		w.Header().Set("Content-Type", "text/html")
		fmt.Fprintf(w, `<h1>A page of another site</h1><iframe src="%s" width="700" height="700"></iframe>`, shown)
	}))
	t.Cleanup(site.Close)
	pdf, err := os.ReadFile(filepath.Join("..", "demo", "berth-application.pdf"))
	if err != nil {
		pdf = []byte("%PDF-1.7")
	}
	e, err := o.store.Release(t.Context(), store.NewEdition{
		Document: 1, Revision: o.draft().Document.Revision, By: 1, PDF: pdf, Name: func(int) string { return "form.pdf" },
	})
	require.NoError(t, err)
	for frames, want := range map[string]bool{site.URL: true, "https://www.office.example": false, "": false} {
		ids, err := o.store.MakeFormLinks(t.Context(), e.ID, 1, store.Terms{Frames: frames}, []store.For{{}})
		require.NoError(t, err)
		l, err := o.store.FormLink(t.Context(), ids[0])
		require.NoError(t, err)
		shown = o.url + "/f/" + l.Token
		o.must(o.Open(site.URL))
		time.Sleep(time.Second) // the frame is loaded, or refused
		printed, err := o.PDF()
		o.must(err)
		file := filepath.Join(t.TempDir(), "page.pdf")
		require.NoError(t, os.WriteFile(file, printed, 0o600))
		said := run(t, "pdftotext", file, "-")
		assert.Contains(t, said, "A page of another site")
		assert.Equal(t, want, strings.Contains(said, "fill it in here"), "shown in a page of %s when %q may: %s", site.URL, frames, said)
	}
}
