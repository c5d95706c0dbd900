package web_test

import (
	"net/http"
	"net/url"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestAnswersComeBackToThisApplication(t *testing.T) {
	o := found(t)
	code, body := o.edit("place", url.Values{"kind": {"submit"}, "x0": {"300"}, "y0": {"740"}, "page": {"1"}})
	require.Equal(t, http.StatusOK, code, body)
	code, body = o.set("submit", "url-here", "")
	require.Equal(t, http.StatusOK, code, body)
	address := o.field("submit").Action.URL
	require.True(t, strings.HasPrefix(address, o.url+"/in/"), address)
	o.set("submit", "url", "https://gannet-quay.example")
	o.set("submit", "url-here", "")
	assert.Equal(t, address, o.field("submit").Action.URL, "one document has one address")

	send := func(to, body string) int { // nobody is signed in
		res, err := http.Post(to, "", strings.NewReader(body))
		require.NoError(t, err)
		require.NoError(t, res.Body.Close())
		return res.StatusCode
	}
	for _, b := range []string{
		"%FDF-1.2\n...", "<?xml version=\"1.0\"?><xfdf xmlns=\"http://ns.adobe.com/xfdf/\"/>", "%PDF-1.7\n...",
		"vessel=Petrel",
	} {
		assert.Equal(t, http.StatusOK, send(address, b))
	}
	assert.Equal(t, http.StatusUnprocessableEntity, send(address, ""))
	assert.Equal(t, http.StatusNotFound, send(o.url+"/in/guessed", "vessel=Petrel"))
	all, err := o.store.Returns(t.Context(), 1)
	require.NoError(t, err)
	var kinds []string
	for _, r := range all {
		kinds = append(kinds, r.Kind)
	}
	assert.Equal(t, []string{"data", "pdf", "xfdf", "fdf"}, kinds)
	_, body = o.get("/documents/1/release")
	assert.Contains(t, body, "Answers that came back")
	code, body = o.get("/returns/4")
	assert.Equal(t, http.StatusOK, code)
	assert.Equal(t, "vessel=Petrel", body, "as it came")
}
