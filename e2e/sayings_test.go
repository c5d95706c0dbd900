package e2e_test

import (
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/store"
)

// placed puts fields on the first page of the berth application, one below the other.
func (o *office) placed(fields ...form.Field) {
	o.t.Helper()
	_, err := o.store.Change(o.t.Context(), 1, -1, 1, "", func(tpl *form.Template) (form.Edit, error) {
		for i := range fields {
			f := &fields[i]
			f.ID, f.Page, f.Tooltip = form.NewID(), 1, "Asks for "+f.Name
			f.Rect = geom.R(300, 40+24*float64(i), 420, 56+24*float64(i))
		}
		return tpl.Add("placed", fields)
	})
	require.NoError(o.t, err)
}

func (o *office) rehearse() {
	o.t.Helper()
	o.must(o.Open(o.url + "/documents/1/rehearse"))
	o.must(o.Wait("document.documentElement.dataset.live === 'yes'"))
}

// told waits for what a recipient is told.
func (o *office) told(words string) {
	o.t.Helper()
	o.must(o.Wait("document.getElementById('told').textContent.includes(`" + words + "`)"))
}

func TestRecipientsAreToldInTheirWords(t *testing.T) {
	o := openOffice(t)
	o.comeIn()
	o.placed(form.Field{Kind: form.Text, Name: "code", Format: form.Format{Kind: form.Mask, Pattern: "#####"}},
		form.Field{
			Kind: form.Choice, Name: "length", List: form.ComboBox, Options: []form.Option{{Label: "6.50"}, {Label: "8.00"}},
			Format: form.Format{Kind: form.Number, Decimals: 2}, Checks: []form.Check{{Test: form.Between, A: "3", B: "20"}},
		})
	o.rehearse()
	o.answers("code", "12x")
	o.told("Please write five digits")
	assert.NotContains(t, o.text("#told"), "#")
	// an entry of one's own is held to its format and to its checks
	o.answers("length", "40")
	o.told("3")
	o.answers("length", "long")
	o.told("number")
	o.answers("length", "7.5")
	o.must(o.Wait("document.querySelector('#sheet [data-name=length]').value === '7.50'"))
	// and is given them in its note like a text field
	o.bench("/documents/1/rules?open=" + o.fieldID("length"))
	o.must(o.Wait("document.querySelector('.note.open details[data-more=takes]')"))
	id := o.fieldID("length")
	o.set(id, "decimals", "1")
	o.set(id, "check-new", "length")
	assert.Len(t, o.field("length").Checks, 2)
	assert.Equal(t, 1, o.field("length").Format.Decimals)
}

func TestSnagsAreMendedAlikeAndWhereOneIs(t *testing.T) {
	o := openOffice(t)
	o.signIn()
	var fields []form.Field
	for i, looks := range []string{"date", "date", "email", "phone", "number", "time", "postcode"} {
		fields = append(fields, form.Field{
			Kind: form.Text, Name: looks + "_" + string(rune('a'+i)), Find: &form.Find{Kept: true, Confidence: 1, Looks: looks},
		})
	}
	o.placed(fields...)
	_, err := o.store.Change(t.Context(), 1, -1, 1, "", func(tpl *form.Template) (form.Edit, error) {
		x := tpl.Details
		x.Language = ""
		return tpl.Describe(x)
	})
	require.NoError(t, err)
	o.must(o.Open(o.url + "/documents/1/release"))
	o.must(o.Wait("document.querySelector('#snags .together button')"))
	assert.Equal(t, "make all seven what their labels ask", o.text("#snags .together button"))
	o.look("snags-together")
	o.must(o.Click("#snags .together button"))
	o.eventuallyStored(func(store.Draft) bool { return o.field("postcode_g").Format.Kind == form.Postcode }, "all")
	o.must(o.Wait("location.pathname.endsWith('/release') && !document.body.textContent.includes('what their labels ask')"))
	for _, f := range o.draft().Template.Fields {
		assert.NotEqual(t, form.NoFormat, f.Format.Kind, f.Name)
	}
	// a document that does not say its language is proposed the one that it is in
	o.must(o.Wait("document.querySelector('#snags').textContent.includes('say that it is in English')"))
	// each has a mend, or says why not
	var bare []string
	o.must(o.Eval("[...document.querySelectorAll('#snags li')].filter(l => !l.querySelector('form') && !l.textContent.includes('No mend in one "+
		"press')).map(l => l.textContent)", &bare))
	assert.Empty(t, bare)
}

func TestSeveralFieldsAreGivenAFormatInTheirNote(t *testing.T) {
	o := openOffice(t)
	o.signIn()
	o.placed(form.Field{Kind: form.Text, Name: "four", MaxLen: 4}, form.Field{Kind: form.Text, Name: "six", MaxLen: 6},
		form.Field{Kind: form.Text, Name: "cells", MaxLen: 8, Comb: 8})
	o.bench("/documents/1/rules")
	o.chooseAll("#b-many-format")
	assert.Contains(t, o.text("#n-many"), "They accept")
	o.must(o.Fill("#b-many-format", "mask"))
	o.eventually(func(store.Draft) bool { return o.field("six").Format.Kind == form.Mask }, "a pattern")
	o.must(o.Wait("document.getElementById('b-many-pattern')"))
	o.must(o.Fill("#b-many-pattern", "#…"))
	o.eventually(func(store.Draft) bool { return o.field("six").Format.Pattern == "######" }, "as many as each takes")
	assert.Equal(t, "####", o.field("four").Format.Pattern)
	assert.Equal(t, "########", o.field("cells").Format.Pattern)
}

// A blank first is one when the form is brought in again, and a file that brought fields leads to them.
func TestABlankFirstComesBack(t *testing.T) {
	o := openOffice(t)
	o.signIn()
	o.placed(form.Field{Kind: form.Choice, Name: "keel", BlankFirst: true, Options: []form.Option{{Label: "fin"}, {Label: "long"}}})
	o.must(o.Open(o.url + "/documents/1/release"))
	o.must(o.Wait("document.getElementById('release')"))
	o.must(o.Click("#release"))
	o.must(o.Wait("document.getElementById('fresh')"))
	var href string
	o.must(o.Eval("document.getElementById('fresh').href", &href))
	var b []byte
	o.must(o.Eval("fetch("+strconv.Quote(href)+").then(r => r.arrayBuffer()).then(b => btoa(String.fromCharCode(...new Uint8Array(b))))", &b))
	name := filepath.Join(t.TempDir(), "again.pdf")
	require.NoError(t, os.WriteFile(name, b, 0o600))
	o.must(o.Open(o.url + "/"))
	o.must(o.Wait("document.documentElement.dataset.ready"))
	o.must(o.Upload("#drop input[type=file]", name))
	o.must(o.Wait("document.querySelector('#intakes .done a')"))
	assert.Contains(t, o.text("#intakes"), "1 field came with it")
	o.must(o.Click("#intakes .done a"))
	o.must(o.Wait("location.pathname.endsWith('/fit')"))
	f := o.field("keel")
	assert.True(t, f.BlankFirst)
	assert.Len(t, f.Options, 2)
}

func TestExportedTextKeepsLines(t *testing.T) {
	o := openOffice(t)
	o.comeIn()
	var text string
	o.must(o.Eval(`fetch("/documents/1/text").then(r => r.text())`, &text))
	at := -1
	for _, words := range []string{
		"Gannet Quay Harbour Office", "The applicant", "Name of applicant", "Telephone", "The vessel", "Name of vessel\tPort of registry",
		"Length overall (m)\tBeam (m)\tDraught (m)", "Keel (tick one)",
	} {
		i := strings.Index(text, words)
		assert.Greater(t, i, at, "%s in its line, behind what stands above it", words)
		at = i
	}
}

func TestTheHouseStyleSaysWhatDiffersFirst(t *testing.T) {
	o := openOffice(t)
	o.signIn()
	o.must(o.Open(o.url + "/house-style"))
	o.must(o.Wait("document.documentElement.dataset.ready"))
	first := "(k => [...k.querySelectorAll(':scope > .s [data-key]')].map(e => e.dataset.key).join(' '))(document.getElementById('style-text'))"
	var keys string
	o.must(o.Eval(first, &keys))
	assert.Equal(t, "width height", keys, "all the rest is as usual, and folded")
	var open bool
	o.must(o.Eval("document.querySelector('#style-text details').open", &open))
	assert.False(t, open)
	o.must(o.Click("#style-text summary"))
	o.must(o.Fill("#b-style-text-border", "#204060"))
	o.must(o.Wait(first + " === 'width height border'"))
	assert.NotContains(t, o.text("#style-text"), "0 is")
	var zeros int
	o.must(o.Eval("[...document.querySelectorAll('.kindstyle input')].filter(e => e.value === '0').length", &zeros))
	assert.Zero(t, zeros, "no zero stands for something else")
	o.must(o.Eval("document.querySelector('#style-text details').open", &open))
	assert.True(t, open, "what was unfolded stays so")
}
