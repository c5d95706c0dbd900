package web_test

import (
	"bytes"
	"mime/multipart"
	"net/http"
	"net/url"
	"regexp"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/demo"
	"zealousmargin.example/internal/form"
)

// house is an office with the berth application found, and what is done in it.
type house struct {
	*office
	t  *testing.T
	id int64
}

func (h house) named(name string) form.Field {
	h.t.Helper()
	for _, f := range h.draft(h.id).Template.Fields {
		if f.Name == name {
			return f
		}
	}
	h.t.Fatalf("there is no field %s", name)
	return form.Field{}
}

func (h house) do(values url.Values) string {
	h.t.Helper()
	values.Set("base", itoa(h.draft(h.id).Document.Revision))
	values.Set("page", "1")
	values.Set("stage", "find")
	code, body := h.post("/documents/"+itoa(h.id)+"/edits", values)
	require.Equal(h.t, http.StatusOK, code, body)
	return body
}

func (h house) set(field, key, value string) string {
	h.t.Helper()
	return h.do(url.Values{"do": {"set"}, "ids": {field}, "key": {key}, "value": {value}, "open": {field}})
}

// again brings the same form in once more, with its fields found.
func (h house) again(n int) house {
	h.t.Helper()
	berth, err := demo.Berth()
	require.NoError(h.t, err)
	h.upload("again.pdf", append(bytes.Clone(berth.Bytes), bytes.Repeat([]byte("\n"), n)...))
	next := house{h.office, h.t, h.newest().Document.ID}
	require.NotEqual(h.t, h.id, next.id)
	h.post("/documents/"+itoa(next.id)+"/find", url.Values{"scope": {"all"}, "stage": {"find"}})
	return next
}

func firstHouse(t *testing.T) house {
	o := open(t)
	o.signIn()
	h := house{o, t, o.newest().Document.ID}
	o.post("/documents/"+itoa(h.id)+"/find", url.Values{"scope": {"all"}, "stage": {"find"}})
	return h
}

// A correction is proposed, in the note and in a list; one press makes it a word of the office, and the next document with
// that wording gets it right and says why.
func TestACorrectionIsProposedAndLearntInOnePress(t *testing.T) {
	h := firstHouse(t)
	note := h.set(h.named("port_registry").ID, "name", "home_port")
	assert.Contains(t, note, "is called home_port", "the note proposes it")
	learn := regexp.MustCompile(`/documents/\d+/words/\d+/learn`).FindString(note)
	require.NotEmpty(t, learn)
	_, list := h.get("/house-words")
	assert.Contains(t, list, "is called home_port", "and the list")
	assert.Contains(t, list, "None yet", "but it is no word yet")

	second := h.again(1)
	second.named("port_registry")
	code, _ := h.post(learn, url.Values{"page": {"1"}, "stage": {"find"}})
	require.Equal(t, http.StatusOK, code)
	_, list = h.get("/house-words")
	assert.Contains(t, list, "learnt")
	assert.NotContains(t, list, "Proposed")
	assert.Contains(t, second.again(2).named("home_port").Find.Evidence, "house word")
}

// The same correction in two documents needs no press; another one does.
func TestTheSameCorrectionInTwoDocumentsIsLearntByItself(t *testing.T) {
	h := firstHouse(t)
	h.set(h.named("postal_address").ID, "kind", "lines")
	h.set(h.named("port_registry").ID, "name", "home_port")
	second := h.again(1)
	assert.False(t, second.named("postal_address").Multiline, "once is not enough")
	second.set(second.named("postal_address").ID, "kind", "lines")
	second.set(second.named("port_registry").ID, "name", "registered_at")
	third := second.again(2)
	assert.True(t, third.named("postal_address").Multiline)
	third.named("port_registry") // two corrections that differ teach nothing
}

// Two fields that are linked get one name; that says nothing of the wording of either. A list is a word with its options only.
func TestLinkingTeachesNothingAndAListBringsItsOptions(t *testing.T) {
	h := firstHouse(t)
	h.do(url.Values{"do": {"link"}, "ids": {h.named("port_registry").ID}, "to": {"postal_address"}})
	_, list := h.get("/house-words")
	assert.NotContains(t, list, "Proposed")

	second := h.again(1)
	f := second.named("port_registry")
	second.set(f.ID, "kind", "choice")
	_, list = h.get("/house-words")
	assert.NotContains(t, list, "is a list", "an empty list is no word")
	note := second.set(f.ID, "options", "Gannet Quay\nLong Sound")
	assert.Contains(t, note, "is a list of 2")
	code, _ := h.post(regexp.MustCompile(`/documents/\d+/words/\d+/learn`).FindString(note), url.Values{"page": {"1"}, "stage": {"find"}})
	require.Equal(t, http.StatusOK, code)
	learnt := second.again(2).named("port_registry")
	assert.Equal(t, form.Choice, learnt.Kind)
	require.Len(t, learnt.Options, 2)
	assert.Equal(t, "Long Sound", learnt.Options[1].Label)
}

func TestHouseWordsAreEditedAndExchangedAsCSV(t *testing.T) {
	o := open(t)
	o.signIn()
	o.get("/")
	code, body := o.post("/house-words", url.Values{"wording": {"Berth no."}, "name": {"berth_number"}, "format": {"number"}})
	require.Equal(t, http.StatusOK, code)
	assert.Contains(t, body, "berth_number")
	for want, v := range map[string]url.Values{
		"needs a wording": {"name": {"x"}}, "needs a name, a kind or a format": {"wording": {"Flag"}},
		"is not a kind": {"wording": {"Flag"}, "kind": {"slider"}}, "is not a format": {"wording": {"Flag"}, "format": {"tide"}},
		"full stop": {"wording": {"Flag"}, "name": {"a.b"}},
	} {
		code, body = o.post("/house-words", v)
		assert.Equal(t, http.StatusUnprocessableEntity, code)
		assert.Contains(t, body, want)
	}
	_, csv := o.get("/house-words.csv")
	assert.Equal(t, "wording,name,kind,format\nBerth no.,berth_number,,number\n", csv)
	send := func(content string) (int, string) {
		var b bytes.Buffer
		w := multipart.NewWriter(&b)
		part, err := w.CreateFormFile("file", "words.csv")
		require.NoError(t, err)
		_, err = part.Write([]byte(content))
		require.NoError(t, err)
		require.NoError(t, w.Close())
		req, err := http.NewRequest(http.MethodPost, o.url+"/house-words.csv", &b)
		require.NoError(t, err)
		req.Header.Set("Content-Type", w.FormDataContentType())
		req.Header.Set("X-CSRF-Token", o.token)
		code, body, _ := o.do(req)
		return code, body
	}
	code, body = send("wording,name,kind,format\nFlag,flag_state,text,\nWishes,,lines,\n")
	assert.Equal(t, http.StatusOK, code)
	assert.Contains(t, body, "flag_state")
	code, body = send("Skipper,skipper\nMaster,bad.name\n")
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	assert.Contains(t, body, "Line 2")
	assert.NotContains(t, body, "Skipper", "all of a file, or nothing")
}
