package static

import (
	"crypto/sha256"
	"embed"
	"encoding/hex"
	"io/fs"
	"net/http"
	"strings"
	"sync"
)

//go:embed *.css *.js *.svg bench fonts vendor
var files embed.FS

// version is the same as long as no file changes: it is part of the addresses, so that browsers ask for each file once.
var version = sync.OnceValue(func() string {
	h := sha256.New()
	err := fs.WalkDir(files, ".", func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() {
			return err
		}
		b, err := files.ReadFile(path)
		h.Write([]byte(path))
		h.Write(b)
		return err
	})
	if err != nil {
		panic(err) // the files are part of the program
	}
	return hex.EncodeToString(h.Sum(nil))[:12]
})

// Path is the address of a file, such as "app.js". Scripts import each other by relative addresses, and so within the same version.
func Path(name string) string { return "/static/" + version() + "/" + name }

// Serve gives the files below /static/. Those asked for by [Path], and typefaces, are kept by browsers for a year; others are asked for
// again, and sent only when they have changed. No folder is listed.
func Serve() http.Handler {
	own := http.FileServerFS(files)
	return http.StripPrefix("/static/", http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		path, now := strings.CutPrefix(r.URL.Path, version()+"/")
		if path == "" || strings.HasSuffix(path, "/") || strings.HasSuffix(path, ".go") {
			http.NotFound(w, r)
			return
		}
		if now || strings.HasSuffix(path, ".woff2") {
			w.Header().Set("Cache-Control", "public, max-age=31536000, immutable")
		} else {
			w.Header().Set("Cache-Control", "no-cache")
			w.Header().Set("ETag", `"`+version()+`"`)
		}
		r.URL.Path = path
		own.ServeHTTP(w, r)
	}))
}
