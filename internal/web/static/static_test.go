package static_test

import (
	"io/fs"
	"net/http"
	"net/http/httptest"
	"os"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/web/static"
)

func get(path string, header ...string) *http.Response {
	r := httptest.NewRequest(http.MethodGet, path, nil)
	for i := 0; i+1 < len(header); i += 2 {
		r.Header.Set(header[i], header[i+1])
	}
	w := httptest.NewRecorder()
	static.Serve().ServeHTTP(w, r)
	return w.Result()
}

func TestBrowsersAskForEachFileOnce(t *testing.T) {
	res := get(static.Path("app.js"))
	assert.Equal(t, http.StatusOK, res.StatusCode)
	assert.Contains(t, res.Header.Get("Cache-Control"), "immutable") // RFC 8246
	assert.Contains(t, res.Header.Get("Content-Type"), "javascript")
	res = get("/static/app.js")
	assert.Equal(t, http.StatusOK, res.StatusCode)
	assert.Equal(t, "no-cache", res.Header.Get("Cache-Control"), "an address without a version may mean another file tomorrow")
	again := get("/static/app.js", "If-None-Match", res.Header.Get("ETag")) // RFC 9110, 13.1.2
	assert.Equal(t, http.StatusNotModified, again.StatusCode)
	for _, path := range []string{
		"/static/", "/static/bench/", static.Path(""), static.Path("bench/"), "/static/static.go", "/static/../go.mod",
		static.Path("nothing.js"), "/static/000000000000/app.js",
	} {
		assert.Equal(t, http.StatusNotFound, get(path).StatusCode, path)
	}
}

// A script that imported another by an address without a version would have it twice: once of each address.
func TestScriptsImportWithinTheirVersion(t *testing.T) {
	imports := regexp.MustCompile(`(?m)^import .* from "([^"]+)"|^import "([^"]+)"`)
	n := 0
	require.NoError(t, fs.WalkDir(os.DirFS("."), ".", func(path string, d fs.DirEntry, err error) error {
		if err != nil || !strings.HasSuffix(path, ".js") || strings.HasPrefix(path, "vendor/") {
			return err
		}
		b, err := os.ReadFile(path)
		require.NoError(t, err)
		for _, m := range imports.FindAllStringSubmatch(string(b), -1) {
			n++
			assert.Regexp(t, `^\.\.?/`, m[1]+m[2], path)
		}
		return nil
	}))
	assert.Greater(t, n, 30)
}
