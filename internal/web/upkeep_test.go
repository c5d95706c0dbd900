package web_test

import (
	"io"
	"net/http"
	"net/http/httptest"
	"net/url"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/jobs"
	"zealousmargin.example/internal/store"
	"zealousmargin.example/internal/web"
	"zealousmargin.example/internal/web/frame"
	"zealousmargin.example/internal/web/webtest"
)

// An administrator sees what failed, has it tried again, and deletes for good what is archived, with a reason.
func TestAnAdministratorLooksAfterTheOffice(t *testing.T) {
	o := open(t)
	o.signIn()
	ctx := t.Context()
	_, err := o.store.Pool.Exec(ctx, `insert into tasks (kind, document_id, account_id, pages, language, state, problem)
		values ('find', 1, 1, '["none"]', '', 'failed', 'something <b>broke</b>')`)
	require.NoError(t, err)
	code, body := o.get("/upkeep")
	require.Equal(t, http.StatusOK, code)
	assert.Contains(t, body, "Something &lt;b&gt;broke&lt;/b&gt;")
	assert.Contains(t, body, "finding the fields of")
	assert.Regexp(t, `The database takes \d+ MB`, body)
	assert.Contains(t, body, "signed in")
	code, body = o.post("/upkeep/again", url.Values{"kind": {"find"}, "id": {"1"}})
	assert.Equal(t, http.StatusOK, code, body)
	assert.Contains(t, body, "on the queue again")
	code, _ = o.post("/upkeep/again", url.Values{"kind": {"find"}, "id": {"1"}})
	assert.NotEqual(t, http.StatusInternalServerError, code, "twice does no harm")

	code, body = o.post("/documents/1/delete", url.Values{"reason": {"no longer offered"}})
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	assert.Contains(t, body, "rchive this document first")
	o.post("/documents/1/archive", url.Values{"away": {"1"}})
	_, body = o.get("/?archived=1")
	assert.Contains(t, body, `href="/documents/1/delete"`)
	code, body = o.post("/documents/1/delete", url.Values{"reason": {" "}})
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	assert.Contains(t, body, "Say why")
	o.post("/documents/1/delete", url.Values{"reason": {"no longer offered"}})
	code, _ = o.get("/documents/1/fit")
	assert.Equal(t, http.StatusNotFound, code)
	_, body = o.get("/upkeep")
	assert.Contains(t, body, "“no longer offered”")
}

// Where a request comes from is believed only from the proxy that an administrator has named; over https, cookies are for https only
// (RFC 6797, 6.1; RFC 6265bis, 4.1.2.5).
func TestOnlyTheNamedProxyIsBelieved(t *testing.T) {
	s, address := webtest.Open(t)
	ask := func(header ...string) http.Header {
		req, err := http.NewRequest(http.MethodGet, address+"/sign-in", nil)
		require.NoError(t, err)
		for i := 0; i < len(header); i += 2 {
			req.Header.Set(header[i], header[i+1])
		}
		res, err := http.DefaultClient.Do(req)
		require.NoError(t, err)
		defer res.Body.Close()
		return res.Header
	}
	secure := []string{"X-Forwarded-Proto", "https", "X-Forwarded-For", "203.0.113.9"}
	h := ask(secure...)
	assert.Empty(t, h.Get("Strict-Transport-Security"), "anybody can say so")
	assert.NotContains(t, h.Get("Set-Cookie"), "Secure")
	for _, bad := range []string{"proxy.example", "10.0.0.0/99", "1"} {
		assert.ErrorContains(t, s.SetSetting(t.Context(), store.Proxy, bad, 1), "address on the network", bad)
	}
	require.NoError(t, s.SetSetting(t.Context(), store.Proxy, "127.0.0.1", 1))
	require.NoError(t, s.SetSetting(t.Context(), store.OfficeName, "Outer  Harbour", 1))
	q, err := jobs.New(t.Context(), s, jobs.Options{})
	require.NoError(t, err)
	var seen string
	srv, stop, err := web.New(s, q, frame.Options{})
	require.NoError(t, err)
	defer stop()
	outer := httptest.NewServer(srv)
	defer outer.Close()
	address = outer.URL
	h = ask(secure...)
	assert.Equal(t, "max-age=31536000", h.Get("Strict-Transport-Security"))
	assert.Contains(t, h.Get("Set-Cookie"), "; Secure")
	h = ask("X-Forwarded-Proto", "http")
	assert.Empty(t, h.Get("Strict-Transport-Security"))

	// tries to sign in count for whom the proxy names, and not for what stands before that
	f, stopFrame, err := frame.New(s, q, nil, frame.Options{})
	require.NoError(t, err)
	defer stopFrame()
	h2 := f.Outward(http.HandlerFunc(func(_ http.ResponseWriter, r *http.Request) { seen = frame.Sender(r) }))
	for list, want := range map[string]string{
		"203.0.113.9": "203.0.113.9", "198.51.100.1, 203.0.113.9": "203.0.113.9", "": "127.0.0.1", "nonsense": "127.0.0.1",
		"203.0.113.9, 127.0.0.1": "203.0.113.9",
	} {
		r := httptest.NewRequest(http.MethodGet, "/", nil)
		r.RemoteAddr = "127.0.0.1:4711"
		r.Header.Set("X-Forwarded-For", list)
		h2.ServeHTTP(httptest.NewRecorder(), r)
		assert.Equal(t, want, seen, list)
		r.RemoteAddr = "192.0.2.7:4711"
		h2.ServeHTTP(httptest.NewRecorder(), r)
		assert.Equal(t, "192.0.2.7", seen, "nobody else is believed")
	}
}

// Requests have numbers, what is counted can be read, and the office is ready when all that it needs is there.
func TestSignsOfLife(t *testing.T) {
	s, address := webtest.Open(t)
	q, err := jobs.New(t.Context(), s, jobs.Options{})
	require.NoError(t, err)
	srv, stop, err := web.New(s, q, frame.Options{})
	require.NoError(t, err)
	defer stop()
	get := func(path string) *httptest.ResponseRecorder {
		w := httptest.NewRecorder()
		srv.ServeHTTP(w, httptest.NewRequest(http.MethodGet, path, nil))
		return w
	}
	w := get("/readyz")
	assert.Equal(t, http.StatusOK, w.Code, w.Body.String())
	one, two := get("/sign-in").Header().Get("X-Request-Id"), get("/sign-in").Header().Get("X-Request-Id")
	assert.NotEmpty(t, one)
	assert.NotEqual(t, one, two)
	get("/documents/4711/fit")
	m := httptest.NewRecorder()
	srv.Metrics().ServeHTTP(m, httptest.NewRequest(http.MethodGet, "/metrics", nil))
	text := m.Body.String()
	assert.Contains(t, text, `zealous_margin_request_seconds_count{code="200",method="GET",route="/sign-in"} 2`)
	assert.Contains(t, text, "zealous_margin_engines")
	assert.NotContains(t, text, "4711", "no document is named")
	res, err := http.Get(address + "/metrics")
	require.NoError(t, err)
	defer res.Body.Close()
	b, err := io.ReadAll(res.Body)
	require.NoError(t, err)
	assert.NotContains(t, string(b), "zealous_margin_", "they have an address of their own")
	_, err = s.Pool.Exec(t.Context(), `insert into goose_db_version (version_id, is_applied) values (9999, true)`)
	require.NoError(t, err)
	w = get("/readyz")
	assert.Equal(t, http.StatusServiceUnavailable, w.Code)
	assert.True(t, strings.Contains(w.Body.String(), "another release"), w.Body.String())
}

// A disk that is full is said in words that say who must do what; nothing that was saved is lost, and it goes on when there is room.
func TestAFullDiskIsSaidInWords(t *testing.T) {
	o := open(t)
	o.signIn()
	ctx := t.Context()
	_, err := o.store.Pool.Exec(ctx, `create function no_room() returns trigger language plpgsql as $$
		begin raise exception 'could not extend file: No space left on device' using errcode = '53100'; end $$`)
	require.NoError(t, err)
	_, err = o.store.Pool.Exec(ctx, `create trigger no_room before update on documents for each row execute function no_room()`)
	require.NoError(t, err)
	code, body := o.post("/documents/1/describe", url.Values{"title": {"Berths"}, "description": {"x"}})
	assert.Equal(t, http.StatusInsufficientStorage, code)
	assert.Contains(t, body, "no room left on the disk")
	assert.Contains(t, body, "administrator must make room")
	d, err := o.store.Document(ctx, 1)
	require.NoError(t, err)
	assert.NotEqual(t, "Berths", d.Title)
	_, err = o.store.Pool.Exec(ctx, `drop trigger no_room on documents`)
	require.NoError(t, err)
	code, body = o.post("/documents/1/describe", url.Values{"title": {"Berths"}, "description": {"x"}})
	assert.Equal(t, http.StatusOK, code, body)
}
