package web_test

import (
	"bytes"
	"io"
	"mime/multipart"
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"path/filepath"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/demo"
)

// endless is a body as large as said, that counts what is read of it.
type endless struct{ left, read atomic.Int64 }

func (e *endless) Read(b []byte) (int, error) {
	n := min(int64(len(b)), e.left.Load())
	if n == 0 {
		return 0, io.EOF
	}
	e.left.Add(-n)
	e.read.Add(n)
	return int(n), nil
}

// flood sends a large body and tells how it was answered, and how much of it was taken.
func flood(t *testing.T, c *http.Client, address, kind string, size int64) (status int, body string, taken int64) {
	t.Helper()
	e := &endless{}
	e.left.Store(size)
	req, err := http.NewRequest(http.MethodPost, address, io.NopCloser(e))
	require.NoError(t, err)
	req.ContentLength = size
	req.Header.Set("Content-Type", kind)
	req.Header.Set("HX-Request", "true")
	req.Header.Set("Expect", "100-continue") // a client that wants to know first
	res, err := c.Do(req)
	require.NoError(t, err)
	defer res.Body.Close() //nolint:errcheck // read below
	b, err := io.ReadAll(res.Body)
	require.NoError(t, err)
	return res.StatusCode, string(b), e.read.Load()
}

func patient(jar http.CookieJar) *http.Client {
	return &http.Client{Jar: jar, Transport: &http.Transport{ExpectContinueTimeout: 5 * time.Second}}
}

// left lists what requests have left in the temporary folder.
func left(t *testing.T, folder string) []string {
	t.Helper()
	all, err := filepath.Glob(filepath.Join(folder, "multipart-*"))
	require.NoError(t, err)
	return all
}

// Before sign-in nothing of a body is read, and an address for answers that is not there takes nothing.
func TestNothingIsReadFromStrangers(t *testing.T) {
	tmp := t.TempDir()
	t.Setenv("TMPDIR", tmp)
	o := open(t)
	c := patient(nil)
	for path, want := range map[string]int{
		"/intakes": http.StatusUnauthorized, "/documents/1/edits": http.StatusUnauthorized, "/house-words.csv": http.StatusUnauthorized,
		"/in/NOBODYHASTHIS": http.StatusNotFound, "/sign-in": http.StatusUnsupportedMediaType, "/nowhere": http.StatusUnauthorized,
	} {
		status, _, taken := flood(t, c, o.url+path, "multipart/form-data; boundary=x", 31<<20)
		assert.Equal(t, want, status, path)
		assert.Zero(t, taken, path)
	}
	status, body, taken := flood(t, c, o.url+"/sign-in", "application/x-www-form-urlencoded", 31<<20)
	assert.Equal(t, http.StatusRequestEntityTooLarge, status)
	assert.Contains(t, body, "16 KB")
	assert.Zero(t, taken)
	assert.Empty(t, left(t, tmp))
}

// People who are signed in send what a route takes; what was put into the temporary folder goes when it is answered.
func TestBodiesAreBoundedByRoute(t *testing.T) {
	tmp := t.TempDir()
	t.Setenv("TMPDIR", tmp)
	o := open(t)
	o.signIn()
	c := patient(o.http.Jar)
	for path, size := range map[string]int64{"/documents/1/edits": 3 << 20, "/intakes": 300 << 20, "/house-words.csv": 9 << 20} {
		kind := "application/x-www-form-urlencoded"
		if path != "/documents/1/edits" {
			kind = "multipart/form-data; boundary=x"
		}
		status, body, taken := flood(t, c, o.url+path, kind, size)
		assert.Equal(t, http.StatusRequestEntityTooLarge, status, path)
		assert.Contains(t, body, "larger than the", path)
		assert.Zero(t, taken, path)
	}
	status, _, taken := flood(t, c, o.url+"/documents/1/edits", "multipart/form-data; boundary=x", 1<<20)
	assert.Equal(t, http.StatusUnsupportedMediaType, status)
	assert.Zero(t, taken)
	// a large file is taken, and nothing of it stays behind
	var form bytes.Buffer
	w := multipart.NewWriter(&form)
	part, err := w.CreateFormFile("file", "large.txt")
	require.NoError(t, err)
	_, err = part.Write(bytes.Repeat([]byte{0}, 48<<20))
	require.NoError(t, err)
	require.NoError(t, w.Close())
	req, err := http.NewRequest(http.MethodPost, o.url+"/intakes", &form)
	require.NoError(t, err)
	req.Header.Set("Content-Type", w.FormDataContentType())
	req.Header.Set("X-CSRF-Token", o.token)
	code, _, _ := o.do(req)
	assert.Equal(t, http.StatusOK, code)
	assert.Empty(t, left(t, tmp))
}

func TestTriesToSignInAreFew(t *testing.T) {
	o := open(t)
	jar, err := cookiejar.New(nil)
	require.NoError(t, err)
	o.http.Jar = jar
	try := func(email, password string) int {
		_, page := o.get("/sign-in")
		o.token = page[strings.Index(page, `csrf-token" content="`)+21:]
		o.token = o.token[:strings.Index(o.token, `"`)]
		code, _ := o.post("/sign-in", url.Values{"email": {email}, "password": {password}, "csrf": {o.token}})
		return code
	}
	me := demo.People[0]
	for range 8 {
		assert.Equal(t, http.StatusUnprocessableEntity, try(me.Email, "guess"))
	}
	assert.Equal(t, http.StatusTooManyRequests, try(me.Email, "guess"))
	assert.Equal(t, http.StatusTooManyRequests, try(strings.ToUpper(me.Email)+" ", me.Password), "whatever the password is")
	assert.Equal(t, http.StatusOK, try(demo.People[1].Email, demo.People[1].Password), "others get in")
	for range 40 { // unknown names count for the address
		if try("nobody@example.org", "x") == http.StatusTooManyRequests {
			return
		}
	}
	assert.Fail(t, "any number of names can be guessed")
}

// What no table keeps is refused in words, wherever it comes from; nothing that the database says is shown.
func TestWhatCannotBeKeptIsRefusedInWords(t *testing.T) {
	o := open(t)
	o.signIn()
	for _, path := range []string{
		"/?search=%00", "/?label=%ff%fe", "/documents/1/fit?open=%00", "/documents/1/chosen-by?by=name&pattern=%c0",
	} {
		code, body := o.get(path)
		assert.Equal(t, http.StatusUnprocessableEntity, code, path)
		assert.Contains(t, body, "type it anew", path)
	}
	_, _ = o.edit("place", url.Values{"kind": {"text"}, "x0": {"200"}, "y0": {"790"}})
	draft, err := o.store.Draft(t.Context(), 1)
	require.NoError(t, err)
	f := draft.Template.Fields[0]
	set := func(key, value, why string) {
		t.Helper()
		code, body := o.edit("set", url.Values{"ids": {f.ID}, "key": {key}, "value": {value}})
		assert.Equal(t, http.StatusUnprocessableEntity, code, key)
		assert.Contains(t, body, why, key)
		assert.NotContains(t, body, "SQLSTATE")
	}
	set("tooltip", "a\x00b", "type it anew")
	set("tooltip", "a\x07b", "control sign (U+0007)")
	set("tooltip", strings.Repeat("x", 20_000), "shorten it")
	set("name", "a\nb", "one line")
	_, _ = o.edit("set", url.Values{"ids": {f.ID}, "key": {"format"}, "value": {"mask"}})
	for _, sign := range []string{"\n", "\r", "\u2028", "\u2029"} {
		set("pattern", "##"+sign+"##", "one line")
	}
	code, body := o.post("/documents/1/describe", url.Values{"title": {strings.Repeat("long ", 1_000)}})
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	assert.Contains(t, body, "shorten it")
	code, body = o.post("/documents/1/describe", url.Values{"title": {"fine"}, "labels": {strings.Repeat("x", 500)}})
	assert.Equal(t, http.StatusUnprocessableEntity, code, body)
	// a file whose name has a control sign
	said := o.upload("a\tb.pdf", []byte("%PDF-1.4"))
	assert.Contains(t, said, "another name")
}

func TestNoFolderOfOurFilesIsListed(t *testing.T) {
	o := open(t)
	for _, path := range []string{"/static/", "/static/bench/", "/static/fonts/"} {
		code, body := o.get(path)
		assert.NotEqual(t, http.StatusOK, code, path)
		assert.NotContains(t, body, ".js", path)
	}
	code, _ := o.get("/static/bench/ask.js")
	assert.Equal(t, http.StatusOK, code)
}

// A word that a spreadsheet would take for a formula goes out harmless, and comes back as it was (OWASP, CSV injection).
func TestWordsGoOutHarmless(t *testing.T) {
	o := open(t)
	o.signIn()
	wording := `=HYPERLINK("https://evil.example")`
	_, body := o.post("/house-words", url.Values{"wording": {wording}, "name": {"a_name"}, "kind": {"text"}})
	require.Contains(t, body, "a_name")
	_, list := o.get("/house-words.csv")
	assert.Contains(t, list, `'=HYPERLINK`)
	for _, line := range strings.Split(list, "\n") {
		assert.NotRegexp(t, `^"?[=+@-]`, line)
	}
}
