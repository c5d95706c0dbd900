package web_test

import (
	"bytes"
	"context"
	"fmt"
	"io"
	"mime/multipart"
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/demo"
	"zealousmargin.example/internal/intake"
	"zealousmargin.example/internal/store"
	"zealousmargin.example/internal/web/webtest"
)

// office is a running demo office and one person's browser, without a screen.
type office struct {
	t     *testing.T
	store *store.Store
	url   string
	http  *http.Client
	token string
}

func open(t *testing.T) *office {
	t.Helper()
	s, address := webtest.Open(t)
	jar, err := cookiejar.New(nil)
	require.NoError(t, err)
	return &office{t: t, store: s, url: address, http: &http.Client{Jar: jar}}
}

func (o *office) do(req *http.Request) (int, string, http.Header) {
	o.t.Helper()
	res, err := o.http.Do(req)
	require.NoError(o.t, err)
	defer res.Body.Close()
	b, err := io.ReadAll(res.Body)
	require.NoError(o.t, err)
	if m := regexp.MustCompile(`name="csrf-token" content="([^"]+)"`).FindSubmatch(b); m != nil {
		o.token = string(m[1])
	}
	return res.StatusCode, string(b), res.Header
}

func (o *office) get(path string) (int, string) {
	req, err := http.NewRequest(http.MethodGet, o.url+path, nil)
	require.NoError(o.t, err)
	code, body, _ := o.do(req)
	return code, body
}

func (o *office) post(path string, v url.Values) (int, string) {
	req, err := http.NewRequest(http.MethodPost, o.url+path, strings.NewReader(v.Encode()))
	require.NoError(o.t, err)
	req.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	req.Header.Set("X-CSRF-Token", o.token)
	req.Header.Set("HX-Request", "true")
	code, body, _ := o.do(req)
	return code, body
}

func (o *office) signIn() {
	o.t.Helper()
	o.signInAs(0)
}

// signInAs signs one of the people of the demo office in: 0 is an administrator, 1 a preparer.
func (o *office) signInAs(n int) {
	o.t.Helper()
	o.get("/sign-in")
	p := demo.People[n]
	code, body := o.post("/sign-in", url.Values{"email": {p.Email}, "password": {p.Password}})
	require.Equal(o.t, http.StatusOK, code, body)
	require.Contains(o.t, body, "Berth application")
}

func (o *office) upload(name string, b []byte) string {
	o.t.Helper()
	var form bytes.Buffer
	w := multipart.NewWriter(&form)
	part, err := w.CreateFormFile("file", name)
	require.NoError(o.t, err)
	_, err = part.Write(b)
	require.NoError(o.t, err)
	require.NoError(o.t, w.Close())
	req, err := http.NewRequest(http.MethodPost, o.url+"/intakes", &form)
	require.NoError(o.t, err)
	req.Header.Set("Content-Type", w.FormDataContentType())
	req.Header.Set("X-CSRF-Token", o.token)
	_, body, _ := o.do(req)
	progress := regexp.MustCompile(`hx-get="(/intakes/\d+)"`)
	for end := time.Now().Add(20 * time.Second); time.Now().Before(end); time.Sleep(50 * time.Millisecond) {
		m := progress.FindStringSubmatch(body)
		if m == nil {
			return body
		}
		_, body = o.get(m[1])
	}
	o.t.Fatal("the file was not read in time")
	return ""
}

func TestNothingIsShownWithoutSigningIn(t *testing.T) {
	o := open(t)
	o.http.CheckRedirect = func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }
	for _, path := range []string{"/", "/documents/1/fit", "/documents/1/original", "/editions/1/x.pdf", "/pictures/abc/1/100.png"} {
		code, _ := o.get(path)
		assert.Equal(t, http.StatusSeeOther, code, path)
	}
	o.get("/sign-in")
	code, body := o.post("/sign-in", url.Values{"email": {demo.People[0].Email}, "password": {"guess"}})
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	assert.Contains(t, body, "do not belong together")
}

func TestEveryPageForbidsForeignAndInlineCode(t *testing.T) {
	o := open(t)
	o.signIn()
	for _, path := range []string{
		"/", "/?archived=1", "/documents/1/bring-in", "/documents/1/find", "/documents/1/fit",
		"/documents/1/rules", "/documents/1/order", "/documents/1/release", "/documents/77/fit",
	} {
		req, err := http.NewRequest(http.MethodGet, o.url+path, nil)
		require.NoError(t, err)
		_, body, h := o.do(req)
		csp := h.Get("Content-Security-Policy")
		assert.Contains(t, csp, "script-src 'self'", path)
		assert.NotContains(t, csp, "unsafe", path)
		assert.NotRegexp(t, `<script(>| [^>]*>[^<])`, body, "no script stands in the page %s", path)
		assert.NotRegexp(t, `\son[a-z]+="|\sstyle="|javascript:`, body, path)
		assert.NotRegexp(t, `(src|href|srcset)="(https?:)?//`, body, "nothing is loaded from elsewhere: %s", path)
	}
}

func TestAChangeWithoutTheTokenIsRefused(t *testing.T) {
	o := open(t)
	o.signIn()
	o.token = "stolen"
	code, _ := o.post("/documents/1/archive", url.Values{"away": {"1"}})
	assert.Equal(t, http.StatusForbidden, code)
	_, body := o.get("/")
	assert.Contains(t, body, "Berth application")
}

func TestSignOutEndsTheSession(t *testing.T) {
	o := open(t)
	o.signIn()
	o.post("/sign-out", nil)
	o.http.CheckRedirect = func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }
	code, _ := o.get("/")
	assert.Equal(t, http.StatusSeeOther, code)
}

func TestBringingIn(t *testing.T) {
	o := open(t)
	o.signIn()
	berth, err := demo.Berth()
	require.NoError(t, err)
	before := o.documents()
	for name, c := range map[string]struct {
		b    []byte
		want string
	}{
		"letter.pdf": {[]byte("Dear office,"), "not a PDF file"},
		"empty.pdf":  {nil, "empty"},
		"cut.pdf":    {berth.Bytes[:900], "damaged beyond repair"},
		"huge.pdf":   {make([]byte, intake.MaxBytes+10), "too large"},
	} {
		assert.Contains(t, o.upload(name, c.b), c.want, name)
	}
	assert.Equal(t, before, o.documents(), "a refused file leaves nothing behind")
	body := o.upload("guest_berths-2027.pdf", berth.Bytes)
	assert.Contains(t, body, "find its fields")
	_, body = o.get("/")
	assert.Contains(t, body, "Guest berths 2027")
	// cut off before its end, but whole enough
	body = o.upload("torn.pdf", berth.Bytes[:bytes.LastIndex(berth.Bytes, []byte("xref\n0"))])
	assert.Contains(t, body, "find its fields")
	_, body = o.get("/")
	assert.Contains(t, body, "has been repaired")
}

func (o *office) documents() int {
	docs, err := o.store.Documents(context.Background(), false)
	require.NoError(o.t, err)
	return len(docs)
}

func TestNameAndDescriptionAreEditedInPlace(t *testing.T) {
	o := open(t)
	o.signIn()
	code, body := o.post("/documents/1/describe", url.Values{"title": {"Berths"}, "description": {"<b>for all</b>"}})
	assert.Equal(t, http.StatusOK, code)
	assert.Contains(t, body, `value="Berths"`)
	assert.NotContains(t, body, "<b>for all")
	code, body = o.post("/documents/1/describe", url.Values{"title": {" "}})
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	assert.Contains(t, body, "needs a name")
	_, body = o.post("/documents/1/archive", url.Values{"away": {"1"}})
	assert.NotContains(t, body, "Berths")
	_, body = o.post("/documents/1/archive?archived=1", url.Values{"away": {"0"}})
	assert.Contains(t, body, "Nothing is archived")
}

func (o *office) edit(do string, v url.Values) (int, string) {
	o.t.Helper()
	d, err := o.store.Document(context.Background(), 1)
	require.NoError(o.t, err)
	all := url.Values{"do": {do}, "base": {fmt.Sprint(d.Revision)}, "page": {"1"}, "zoom": {"75"}, "stage": {"fit"}}
	for k, x := range v {
		all[k] = x
	}
	return o.post("/documents/1/edits", all)
}

func (o *office) names() map[string]string {
	d, err := o.store.Draft(context.Background(), 1)
	require.NoError(o.t, err)
	m := map[string]string{}
	for _, f := range d.Template.Fields {
		m[f.Name] = f.ID
	}
	return m
}

func TestEditsOnTheBench(t *testing.T) {
	o := open(t)
	o.signIn()
	// A press in the cell "Name of vessel" takes its shape and its name.
	code, body := o.edit("place", url.Values{"kind": {"text"}, "x0": {"150"}, "y0": {"290"}})
	require.Equal(t, http.StatusOK, code, body)
	id := o.names()["name_vessel"]
	require.NotEmpty(t, id)
	assert.Contains(t, body, "b-"+id+"-name", "its note is open")
	code, _ = o.edit("duplicate", url.Values{"ids": {id}})
	require.Equal(t, http.StatusOK, code)
	assert.Contains(t, o.names(), "name_vessel_2")
	code, body = o.edit("set", url.Values{"ids": {id}, "key": {"name"}, "value": {"name_vessel_2"}})
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	assert.Contains(t, body, "already called")
	for key, value := range map[string]string{
		"tooltip": "The vessel's name", "required": "yes", "readonly": "no", "maxlen": "30",
		"multiline": "yes",
	} {
		code, body = o.edit("set", url.Values{"ids": {id}, "key": {key}, "value": {value}})
		assert.Equal(t, http.StatusOK, code, "%s: %s", key, body)
	}
	code, body = o.edit("set", url.Values{"ids": {id}, "key": {"maxlen"}, "value": {"many"}})
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	assert.Contains(t, body, "whole number")
	code, body = o.post("/documents/1/edits", url.Values{"do": {"move"}, "ids": {id}, "dx": {"5"}, "base": {"1"}, "page": {"1"}})
	assert.Equal(t, http.StatusConflict, code, "the page is older than somebody's change")
	assert.Contains(t, body, "Somebody else")
	d, err := o.store.Draft(context.Background(), 1)
	require.NoError(t, err)
	f, _ := d.Template.Field(id)
	assert.Equal(t, "The vessel's name", f.Tooltip)
	assert.True(t, f.Required && f.Multiline)
	assert.Equal(t, 30, f.MaxLen)
}

func TestFindingAgainOnlyAdds(t *testing.T) {
	o := open(t)
	o.signIn()
	code, _ := o.post("/documents/1/find", url.Values{"scope": {"all"}})
	require.Equal(t, http.StatusOK, code)
	n := len(o.names())
	require.Greater(t, n, 30)
	o.edit("set", url.Values{"ids": {o.names()["telephone"]}, "key": {"name"}, "value": {"phone"}})
	o.edit("remove", url.Values{"ids": {o.names()["e_mail"]}})
	o.post("/documents/1/find", url.Values{"scope": {"all"}})
	names := o.names()
	assert.Len(t, names, n)
	assert.Contains(t, names, "phone")
	assert.NotContains(t, names, "telephone")
	code, body := o.edit("drop-below", url.Values{"confidence": {"0.5"}, "scope": {"all"}})
	require.Equal(t, http.StatusOK, code, body)
	left := len(o.names())
	assert.Less(t, left, n)
	o.edit("keep-all", url.Values{"scope": {"all"}})
	for range 2 { // each was one step
		code, _ = o.post("/documents/1/undo", url.Values{"page": {"1"}})
		require.Equal(t, http.StatusOK, code)
	}
	assert.Len(t, o.names(), n)
}

func TestReleaseAsksForFieldsAndNamesItsFile(t *testing.T) {
	o := open(t)
	o.signIn()
	code, body := o.post("/documents/1/editions", nil)
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	assert.Contains(t, body, "no fields yet")
	o.post("/documents/1/find", url.Values{"scope": {"all"}})
	code, body = o.post("/documents/1/editions", nil)
	require.Equal(t, http.StatusOK, code, body)
	m := regexp.MustCompile(`id="fresh" href="([^"]+)"`).FindStringSubmatch(body)
	require.NotNil(t, m)
	assert.Contains(t, m[1], "berth-application-edition-1.pdf")
	req, err := http.NewRequest(http.MethodGet, o.url+m[1], nil)
	require.NoError(t, err)
	code, file, h := o.do(req)
	assert.Equal(t, http.StatusOK, code)
	assert.True(t, strings.HasPrefix(file, "%PDF-"))
	assert.Equal(t, "attachment; filename=berth-application-edition-1.pdf", h.Get("Content-Disposition"))
}
