package e2e_test

import (
	"encoding/json"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/demo"
	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/store"
)

// Pages that come from a file or from the scan tray appear by themselves, and go by themselves from "being read" to "in".
func TestPagesThatComeInAppearByThemselves(t *testing.T) {
	o := openOffice(t)
	o.signIn()
	o.must(o.Open(o.url + "/documents/1/pages"))
	o.must(o.Wait("document.documentElement.dataset.ready === 'yes'"))
	sheets := func(n int) { o.must(o.Wait("document.querySelectorAll('.sheetcard').length === " + itoa(int64(n)))) }
	sheets(2)
	d, err := demo.BlankPage()
	require.NoError(t, err)
	name := filepath.Join(t.TempDir(), "more.pdf")
	require.NoError(t, os.WriteFile(name, d.Bytes, 0o600))
	o.must(o.Upload("#insert-file", name))
	sheets(3)
	o.must(o.Wait("document.getElementById('intakes').textContent.includes('The pages are in') || !document.querySelector('#intakes .intake')"))
	o.must(o.Click("#insert-scan"))
	o.must(o.Wait("document.getElementById('scan')"))
	o.must(o.Click("#scan"))
	o.must(o.Wait("location.pathname === '/documents/1/pages' && document.documentElement.dataset.ready === 'yes'"))
	o.must(o.Wait("document.querySelectorAll('.sheetcard').length > 3")) // nobody has loaded the page again
}

func TestDoubtfulWordsAreSaidToBeLookedAtOnlyWhenTheyAre(t *testing.T) {
	o := openOffice(t)
	o.signIn()
	o.must(o.Open(o.url + "/documents/1/pages"))
	o.must(o.Wait("document.documentElement.dataset.ready === 'yes'"))
	o.must(o.Fill("#range", "1"))
	o.must(o.Click("#recognise"))
	o.eventuallyStored(func(d store.Draft) bool { return d.Template.Pages[0].Text != "" }, "recognised")
	few(t, o, o.draft().Template.Pages[0])
	words := "/documents/1/words"
	o.must(o.Open(o.url + words))
	o.must(o.Wait("document.documentElement.dataset.ready === 'yes'"))
	for n := 0; n < 20; n++ { // all are passed over
		o.must(o.Wait("document.getElementById('word-skip') || document.querySelector('#word .nextstep')"))
		var done bool
		o.must(o.Eval("!document.getElementById('word-skip')", &done))
		if done {
			break
		}
		o.must(o.Eval("document.getElementById('word').dataset.seen = 'yes'", nil))
		o.must(o.Click("#word-skip"))
		o.must(o.Wait("!document.getElementById('word').dataset.seen"))
	}
	said := o.text("#word")
	assert.NotContains(t, said, "looked at.")
	assert.Contains(t, said, "left")
	o.must(o.Click("#words-again"))
	o.must(o.Wait("document.getElementById('word-text') && document.documentElement.dataset.ready === 'yes'"))
	for n := 0; n < 20; n++ { // all are kept
		var done bool
		o.must(o.Eval("!document.getElementById('word-keep')", &done))
		if done {
			break
		}
		o.must(o.Eval("document.getElementById('word').dataset.seen = 'yes'", nil))
		o.must(o.Click("#word-keep"))
		if err := o.Wait("!document.getElementById('word').dataset.seen"); err != nil {
			t.Fatal(o.text("#word"), o.text("#say"), n)
		}
	}
	assert.Contains(t, o.text("#word"), "None is left to look at.")
}

// few leaves a page six of its recognised words, of which two are doubtful.
func few(t *testing.T, o *office, p form.Page) {
	t.Helper()
	b, err := o.store.File(t.Context(), p.Text)
	require.NoError(t, err)
	var text evidence.Text
	require.NoError(t, json.Unmarshal(b, &text))
	require.Greater(t, len(text.Words), 6)
	text.Words = text.Words[:6]
	for i := range text.Words {
		text.Words[i].Text, text.Words[i].Doubt = "word", map[bool]float64{true: 0.5}[i == 1 || i == 4]
	}
	b, err = json.Marshal(text)
	require.NoError(t, err)
	o.rewriteText(p.ID, b)
}
