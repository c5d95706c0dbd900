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
	assert.Equal(t, []string{"form", "pdf", "xfdf", "fdf"}, kinds)
	_, body = o.get("/documents/1/release")
	assert.Contains(t, body, "Answers that came back")
	code, body = o.get("/returns/4")
	assert.Equal(t, http.StatusOK, code)
	assert.Equal(t, "vessel=Petrel", body, "as it came")
}

// Where answers come to is closed, opened and changed; it is closed with its document, bounded in rate, and never at an
// address that a request names.
func TestTheAddressForAnswersIsTheOffices(t *testing.T) {
	o := open(t)
	o.signIn()
	_, body := o.edit("place", url.Values{"kind": {"submit"}, "x0": {"300"}, "y0": {"740"}})
	require.Contains(t, body, "submit")
	inbox := func() string {
		i, err := o.store.InboxOf(t.Context(), 1)
		require.NoError(t, err)
		return o.url + "/in/" + i.Path
	}
	// a forged Host header does not get into a form
	req, err := http.NewRequest(http.MethodPost, o.url+"/documents/1/edits", strings.NewReader(url.Values{
		"do": {"set"}, "ids": {o.field("submit").ID}, "key": {"url-here"}, "base": {"999"}, "page": {"1"}, "stage": {"fit"},
	}.Encode()))
	require.NoError(t, err)
	req.Host = "evil.example"
	req.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	req.Header.Set("X-CSRF-Token", o.token)
	req.Header.Set("HX-Request", "true")
	req.Header.Set("X-Forwarded-Host", "evil.example")
	at, err := url.Parse(o.url)
	require.NoError(t, err)
	for _, cookie := range o.http.Jar.Cookies(at) { // the jar goes by the forged name
		req.AddCookie(cookie)
	}
	code, said, _ := o.do(req)
	require.Equal(t, http.StatusOK, code, said)
	assert.Equal(t, inbox(), o.field("submit").Action.URL)
	code, _ = o.post("/settings", url.Values{"public": {"https://forms.example/"}})
	assert.Equal(t, http.StatusOK, code)
	o.set("submit", "url-here", "")
	assert.True(t, strings.HasPrefix(o.field("submit").Action.URL, "https://forms.example/in/"))
	for _, bad := range []string{"forms.example", "javascript:alert(1)", "https://a@b.example", "https://forms.example/path", "ftp://x"} {
		code, body := o.post("/settings", url.Values{"public": {bad}})
		assert.Equal(t, http.StatusUnprocessableEntity, code, bad)
		assert.Contains(t, body, "address of a server", bad)
	}
	send := func(to string) int {
		res, err := http.Post(to, "", strings.NewReader("vessel=Petrel"))
		require.NoError(t, err)
		require.NoError(t, res.Body.Close())
		return res.StatusCode
	}
	first := inbox()
	assert.Equal(t, http.StatusOK, send(first))
	do := func(what string) {
		t.Helper()
		code, body := o.post("/documents/1/inbox", url.Values{"do": {what}})
		require.Equal(t, http.StatusOK, code, body)
	}
	do("close")
	assert.Equal(t, http.StatusGone, send(first))
	do("open")
	assert.Equal(t, http.StatusOK, send(first))
	do("new")
	assert.Equal(t, http.StatusNotFound, send(first))
	assert.Equal(t, http.StatusOK, send(inbox()))
	_, _ = o.post("/documents/1/archive", url.Values{"away": {"1"}})
	assert.Equal(t, http.StatusGone, send(inbox()), "archived")
	_, _ = o.post("/documents/1/archive", url.Values{"away": {"0"}})
	for range 60 { // from one address so many at once
		if send(inbox()) == http.StatusTooManyRequests {
			return
		}
	}
	assert.Fail(t, "any number of answers is taken")
}
