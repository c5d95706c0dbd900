package web_test

import (
	"bytes"
	"mime/multipart"
	"net/http"
	"net/url"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/demo"
	"zealousmargin.example/internal/form"
)

// A correction of a find is learnt: the next document with that wording gets it right,
// and the find says why.
func TestCorrectionsAreLearnt(t *testing.T) {
	o := open(t)
	o.signIn()
	id := o.newest().Document.ID
	room := "/documents/" + itoa(id)
	o.post(room+"/find", url.Values{"scope": {"all"}, "stage": {"find"}})
	named := func(name string) form.Field {
		t.Helper()
		for _, f := range o.newest().Template.Fields {
			if f.Name == name {
				return f
			}
		}
		t.Fatalf("there is no field %s", name)
		return form.Field{}
	}
	set := func(field, key, value string) {
		code, body := o.post(room+"/edits", url.Values{
			"do": {"set"}, "ids": {field}, "key": {key}, "value": {value},
			"base": {itoa(o.draft(id).Document.Revision)}, "page": {"1"}, "stage": {"find"},
		})
		require.Equal(t, http.StatusOK, code, body)
	}
	set(named("port_registry").ID, "name", "home_port")
	set(named("postal_address").ID, "kind", "lines")
	_, body := o.get("/house-words")
	assert.Contains(t, body, "home_port")
	assert.Contains(t, body, "learnt")

	berth, err := demo.Berth()
	require.NoError(t, err)
	o.upload("again.pdf", append(bytes.Clone(berth.Bytes), '\n'))
	second := o.newest().Document.ID
	require.NotEqual(t, id, second)
	o.post("/documents/"+itoa(second)+"/find", url.Values{"scope": {"all"}, "stage": {"find"}})
	f := named("home_port")
	assert.Contains(t, f.Find.Evidence, "house word")
	assert.True(t, named("postal_address").Multiline)
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
