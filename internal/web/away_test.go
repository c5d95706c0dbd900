package web_test

import (
	"io"
	"net"
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/web/webtest"
)

// wire leads connections to the database; cut, none gets through.
type wire struct {
	mu    sync.Mutex
	cut   bool
	conns []net.Conn
}

// through listens on loopback and leads to the database of an address.
func (w *wire) through(t *testing.T) func(string) string {
	return func(address string) string {
		u, err := url.Parse(address)
		require.NoError(t, err)
		to := u.Host
		l, err := (&net.ListenConfig{}).Listen(t.Context(), "tcp", "127.0.0.1:0")
		require.NoError(t, err)
		t.Cleanup(func() { _ = l.Close() })
		go func() {
			for {
				in, err := l.Accept()
				if err != nil {
					return
				}
				w.lead(in, to)
			}
		}()
		u.Host = l.Addr().String()
		return u.String()
	}
}

func (w *wire) lead(in net.Conn, to string) {
	w.mu.Lock()
	defer w.mu.Unlock()
	if w.cut {
		_ = in.Close()
		return
	}
	out, err := net.Dial("tcp", to)
	if err != nil {
		_ = in.Close()
		return
	}
	w.conns = append(w.conns, in, out)
	go func() { _, _ = io.Copy(out, in); _ = out.Close() }()
	go func() { _, _ = io.Copy(in, out); _ = in.Close() }()
}

func (w *wire) sever(cut bool) {
	w.mu.Lock()
	defer w.mu.Unlock()
	if w.cut = cut; cut {
		for _, c := range w.conns {
			_ = c.Close()
		}
		w.conns = nil
	}
}

// While the database is away the application lives, says calmly what is the matter, and carries on when it is back.
func TestWhileTheDatabaseIsAway(t *testing.T) {
	w := &wire{}
	s, address := webtest.OpenBehind(t, func(h http.Handler) http.Handler { return h }, w.through(t))
	jar, err := cookiejar.New(nil)
	require.NoError(t, err)
	o := &office{t: t, store: s, url: address, http: &http.Client{Jar: jar}}
	o.signIn()
	code, body := o.get("/readyz")
	assert.Equal(t, http.StatusOK, code, body)
	w.sever(true)
	code, _ = o.get("/healthz")
	assert.Equal(t, http.StatusOK, code, "it lives")
	code, body = o.get("/readyz")
	assert.Equal(t, http.StatusServiceUnavailable, code)
	assert.Contains(t, body, "database")
	for _, path := range []string{"/", "/documents/1/fit", "/house-words"} {
		code, body = o.get(path)
		assert.Equal(t, http.StatusServiceUnavailable, code, path)
		assert.Contains(t, body, "does not answer just now", path)
		assert.NotContains(t, body, "SQLSTATE")
		assert.NotContains(t, body, "127.0.0.1")
	}
	code, _ = o.atFirst("place", url.Values{"kind": {"text"}, "x0": {"200"}, "y0": {"790"}})
	assert.Equal(t, http.StatusServiceUnavailable, code, "which lets the bench keep the edit")
	w.sever(false)
	require.Eventually(t, func() bool { code, _ := o.get("/documents/1/fit"); return code == http.StatusOK }, 20e9, 1e8)
}

// atFirst is an edit of the bench at the first revision.
func (o *office) atFirst(do string, v url.Values) (int, string) {
	v.Set("do", do)
	v.Set("base", "0")
	v.Set("page", "1")
	v.Set("stage", "fit")
	return o.post("/documents/1/edits", v)
}
