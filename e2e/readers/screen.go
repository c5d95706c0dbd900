package readers

import (
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"net/http/httptest"
	"path/filepath"
	"sync"
	"time"

	"zealousmargin.example/e2e/browser"
	"zealousmargin.example/internal/form"
)

// Desk is a server on loopback that has one form and takes answers.
type Desk struct {
	*httptest.Server
	mu   sync.Mutex
	file []byte
	sent map[string]string
}

// NewDesk starts a desk. Scripts is the folder of pdfjs-dist's legacy build, offered below /js/; start, where it is not empty, is the
// page that the desk opens with.
func NewDesk(scripts, start string) *Desk {
	d := &Desk{sent: map[string]string{}}
	mux := http.NewServeMux()
	if scripts != "" {
		files := http.StripPrefix("/js/", http.FileServer(http.Dir(scripts)))
		mux.HandleFunc("/js/", func(w http.ResponseWriter, r *http.Request) {
			if filepath.Ext(r.URL.Path) == ".mjs" {
				w.Header().Set("Content-Type", "text/javascript")
			}
			files.ServeHTTP(w, r)
		})
	}
	mux.HandleFunc("/form.pdf", func(w http.ResponseWriter, _ *http.Request) {
		d.mu.Lock()
		defer d.mu.Unlock()
		w.Header().Set("Content-Type", "application/pdf")
		_, _ = w.Write(d.file)
	})
	mux.HandleFunc("/", func(w http.ResponseWriter, r *http.Request) {
		if r.Method == http.MethodGet && r.URL.Path == "/" {
			w.Header().Set("Content-Type", "text/html")
			_, _ = io.WriteString(w, start)
			return
		}
		b, _ := io.ReadAll(r.Body)
		d.mu.Lock()
		d.sent[r.URL.Path] = string(b)
		d.mu.Unlock()
		w.WriteHeader(http.StatusNoContent)
	})
	d.Server = httptest.NewServer(mux)
	return d
}

// Offer lays a form on the desk.
func (d *Desk) Offer(b []byte) {
	d.mu.Lock()
	defer d.mu.Unlock()
	d.file = b
}

// Sent is what came to a path, within two seconds.
func (d *Desk) Sent(path string) string {
	for end := time.Now().Add(2 * time.Second); ; time.Sleep(50 * time.Millisecond) {
		d.mu.Lock()
		s := d.sent[path]
		d.mu.Unlock()
		if s != "" || time.Now().After(end) {
			return s
		}
	}
}

// typed writes a text key after key; a line break is Enter.
func typed(b *browser.Browser, text string, pause time.Duration) error {
	if err := b.Key("a", browser.Ctrl); err != nil {
		return err
	}
	time.Sleep(pause)
	for _, r := range text {
		key := string(r)
		if r == '\n' {
			key = browser.Enter
		}
		if err := b.Key(key); err != nil {
			return err
		}
		time.Sleep(pause)
	}
	return nil
}

func quoted(s string) string {
	b, _ := json.Marshal(s)
	return string(b)
}

// nth is the place of the nth field of a name.
func nth(draft *form.Template, name string, n int) (form.Field, error) {
	for _, f := range draft.Fields {
		if f.Name == name {
			if n == 0 {
				return f, nil
			}
			n--
		}
	}
	return form.Field{}, fmt.Errorf("the form has no field %s, nor so many of it", name)
}
