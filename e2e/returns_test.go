package e2e_test

import (
	"encoding/csv"
	"net/http"
	"net/url"
	"os"
	"regexp"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/e2e/browser"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/store"
)

// settled waits until the form has heard what follows from its answers.
func settled(o *office, b *browser.Browser) {
	o.t.Helper()
	o.must(b.Wait("document.documentElement.dataset.live && document.getElementById('fill').ariaBusy === 'false'"))
}

// answered types into a question of the step that is shown, and leaves it.
func answered(o *office, b *browser.Browser, name, value string) {
	o.t.Helper()
	o.must(
		b.Eval(
			"(() => { const e = document.querySelector('[data-q="+name+"]'); const s = [...document.querySelectorAll('.qstep')].indexOf(e.closest('.qstep')); "+
				"for (let i = 0; i < 40 && e.closest('.qstep').hidden; i++) { const now = [...document.querySelectorAll('.qstep')].findIndex((x) => !x.hidden); "+
				"document.getElementById(now < s ? 'next' : 'back').click(); } return true })()",
			nil,
		),
	)
	o.must(b.Fill("[data-q="+name+"]", value))
	o.must(b.Eval("document.activeElement.blur()", nil))
}

// linked releases the form, and makes a link to it for everybody.
func (o *office) linked() store.FormLink {
	o.t.Helper()
	o.must(o.Open(o.url + "/documents/1/release"))
	o.must(o.Eval("document.getElementById('anyway')?.click()", nil))
	o.must(o.Click("#release"))
	o.must(o.Wait("document.getElementById('fresh')"))
	ids, err := o.store.MakeFormLinks(o.t.Context(), 1, 1, store.Terms{Note: "on the quay"}, []store.For{{}})
	require.NoError(o.t, err)
	link, err := o.store.FormLink(o.t.Context(), ids[0])
	require.NoError(o.t, err)
	return link
}

// came lets answers come back by the address for them.
func (o *office) came(l store.FormLink, body string) {
	o.t.Helper()
	res, err := http.Post(o.url+"/in/"+l.Inbox, "", strings.NewReader(body))
	require.NoError(o.t, err)
	require.NoError(o.t, res.Body.Close())
	require.Equal(o.t, http.StatusOK, res.StatusCode)
}

// The whole way back: somebody fills a form in by a link on a telephone, breaks two rules and is told, loses the connection and comes back,
// completes it, signs, and sends it; the administrator sees it arrive, the chart move, and takes it out.
func TestAFormIsFilledInOnATelephoneAndArrives(t *testing.T) {
	o, g := openBehind(t)
	o.bench("/documents/1/find")
	o.must(o.Click("#find-all"))
	o.eventually(func(d store.Draft) bool {
		return slices.ContainsFunc(d.Template.Placed(), func(f form.Field) bool { return f.Kind == form.Signature })
	}, "both pages are found")
	_, err := o.store.Change(t.Context(), 1, -1, 1, "", func(f *form.Template) (form.Edit, error) {
		e := form.Edit{Title: "rules"}
		for _, q := range f.Placed() {
			was := q
			switch q.Name {
			case "name_vessel":
				q.Required = true
			case "length_overall":
				q.Checks = []form.Check{{Test: form.Between, A: "1", B: "24", Message: "Our longest berth is 24 m."}}
			default:
				continue
			}
			e.Before, e.After = append(e.Before, was), append(e.After, q)
		}
		return e, nil
	})
	require.NoError(t, err)
	link := o.linked()

	b, err := browser.Start(browser.Options{Width: 360, Height: 740})
	require.NoError(t, err)
	t.Cleanup(b.Close)
	o.must(b.Open(o.url + "/f/" + link.Token))
	o.must(b.Click("#here"))
	settled(o, b)
	var wide bool
	o.must(b.Eval("document.documentElement.scrollWidth > innerWidth", &wide))
	assert.False(t, wide, "it does not scroll sideways at 360 pixels")
	answered(o, b, "length_overall", "94")
	answered(o, b, "date_birth", "31.02.1971")
	settled(o, b)
	told := func(name string) (s string) {
		o.must(b.Eval("document.querySelector('.question[data-name="+name+"] .told').textContent", &s))
		return s
	}
	assert.Equal(t, "Our longest berth is 24 m.", told("length_overall"))
	assert.Contains(t, told("date_birth"), "date")
	answered(o, b, "length_overall", "9.4")
	answered(o, b, "date_birth", "")
	settled(o, b)
	assert.Empty(t, told("length_overall"))

	g.shut.Store(true) // on the quay there is no connection
	answered(o, b, "name_applicant", "Ilse Brandt")
	o.must(b.Wait("document.getElementById('kept').textContent.includes('No connection')"))
	g.shut.Store(false)
	o.must(b.Open(o.url + "/f/" + link.Token + "/fill")) // as after the telephone was switched off
	settled(o, b)
	var is string
	o.must(
		b.Eval("document.querySelector('[data-q=name_applicant]').value + document.querySelector('[data-q=length_overall]').value", &is),
	)
	assert.Equal(t, "Ilse Brandt9.4", strings.Replace(is, "9.40", "9.4", 1), "no letter is lost")
	assert.Contains(t, wordsOf(o, b, "#missing"), "1 answer missing")
	o.must(b.Click("#next-missing"))
	o.must(b.Eval("document.activeElement.dataset.q", &is))
	assert.Equal(t, "name_vessel", is)
	o.must(b.Fill("[data-q=name_vessel]", "Petrel"))
	o.must(b.Eval("document.activeElement.blur()", nil))
	settled(o, b)
	assert.Equal(t, "Nothing is missing", wordsOf(o, b, "#missing"))
	o.must(
		b.Eval(
			"(() => { for (let i = 0; i < 40 && !document.getElementById('next').hidden; i++) document.getElementById('next').click(); return true })()",
			nil,
		),
	)
	o.must(
		b.Eval(
			"(() => { document.getElementById('by').value = 'drawn'; document.getElementById('by').dispatchEvent(new Event('change')); return true })()",
			nil,
		),
	)
	o.must(b.Fill("#name", "Ilse Brandt"))
	o.must(b.Eval("document.getElementById('pad').scrollIntoView({ block: 'center' })", nil))
	x, y, w, h, err := b.Rect("#pad")
	require.NoError(t, err)
	o.must(b.Drag(x+w*0.2, y+h*0.5, x+w*0.7, y+h*0.6))
	o.must(b.Eval("document.getElementById('agree').click()", nil))
	o.must(b.Click("#send"))
	o.must(b.Wait("document.getElementById('sent')"))
	assert.Contains(t, wordsOf(o, b, "#done"), "Petrel")

	o.must(o.Open(o.url + "/documents/1/returns"))
	o.must(o.Wait("document.querySelector('#charts figure')"))
	assert.Contains(t, o.text("#sums"), "1 came back, 1 today")
	var bar string
	o.must(o.Eval("document.querySelector('#charts rect.last title').textContent", &bar))
	assert.Contains(t, bar, ": 1", "the chart has moved")
	o.must(o.Click("#next-one"))
	o.must(o.Wait("document.querySelector('.retnote') && document.documentElement.dataset.live"))
	assert.Contains(t, o.text(".retnote"), "by link")
	o.must(o.Eval("document.activeElement.blur()", nil))
	o.must(o.Key("c"))
	o.must(o.Wait("document.querySelector('.rets .state').textContent === 'checked'"))
	var to string
	o.must(o.Eval("document.getElementById('as-csv').href", &to))
	res, err := url.Parse(to)
	require.NoError(t, err)
	assert.Equal(t, "csv", res.Query().Get("as"))
	var said string
	o.must(o.Eval("fetch(document.getElementById('as-csv').href).then((r) => r.text())", &said))
	rows, err := csv.NewReader(strings.NewReader(strings.TrimPrefix(said, "\ufeff"))).ReadAll()
	require.NoError(t, err)
	require.Len(t, rows, 2)
	assert.Contains(t, rows[1], "Petrel")
	assert.Contains(t, rows[1], "Ilse Brandt")
	signed, err := o.store.Returns(t.Context(), 1)
	require.NoError(t, err)
	pdf, err := o.store.File(t.Context(), *signed[0].Copy)
	require.NoError(t, err)
	file := t.TempDir() + "/copy.pdf"
	require.NoError(t, os.WriteFile(file, pdf, 0o600))
	assert.Regexp(t, regexp.MustCompile(`Ilse Brandt, \d+ \w+ \d{4}`), run(t, "pdftotext", file, "-"))
}

// wordsOf is the text of a part of a page in a window.
func wordsOf(o *office, b *browser.Browser, css string) (s string) {
	o.t.Helper()
	o.must(b.Eval("document.querySelector('"+css+"').textContent", &s))
	return s
}

// On a wide screen the form is filled in on its pages: fields stand where they are printed, the rules answer, and it is sent from there.
func TestAFormIsFilledInOnItsPages(t *testing.T) {
	o, _ := openBehind(t)
	link := o.linked()
	b, err := browser.Start(browser.Options{})
	require.NoError(t, err)
	t.Cleanup(b.Close)
	o.must(b.Open(o.url + "/f/" + link.Token))
	o.must(b.Click("#here-wide"))
	settled(o, b)
	typed := func(name, value string) {
		o.must(b.Eval("document.querySelector('.live[data-name="+name+"]').scrollIntoView({ block: 'center' })", nil))
		o.must(b.Fill(".live[data-name="+name+"]", value))
		o.must(b.Eval("document.activeElement.blur()", nil))
		settled(o, b)
	}
	var at [3]float64 // left, top and width, in parts of the page
	o.must(b.Eval("(() => { const e = document.querySelector('.live[data-name=name_vessel]').getBoundingClientRect(), "+
		"p = document.querySelector('.websheet').getBoundingClientRect(); "+
		"return [(e.left - p.left) / p.width, (e.top - p.top) / p.height, e.width / p.width] })()", &at))
	q, d := o.field("name_vessel"), o.draft()
	page := d.Template.Pages[0]
	assert.InDelta(t, q.Rect.X0/page.Width, at[0], 0.005, "it stands where it is printed")
	assert.InDelta(t, 1-q.Rect.Y1/page.Height, at[1], 0.005)
	assert.InDelta(t, q.Rect.W()/page.Width, at[2], 0.005)
	typed("date_birth", "31.02.1971")
	o.must(b.Wait("!document.getElementById('told').hidden"))
	assert.Contains(t, wordsOf(o, b, "#told"), "date")
	typed("date_birth", "")
	typed("name_vessel", "Petrel")
	o.must(b.Click("#send"))
	o.must(b.Wait("document.getElementById('done')"))
	assert.Contains(t, wordsOf(o, b, "#done"), "Petrel")
	all, err := o.store.Returns(t.Context(), 1)
	require.NoError(t, err)
	require.Len(t, all, 1)
	assert.Contains(t, string(all[0].AnswersJSON), "Petrel")
}
