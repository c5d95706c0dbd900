package web

import (
	"bytes"
	"context"
	"embed"
	"errors"
	"fmt"
	"html/template"
	"io"
	"io/fs"
	"log/slog"
	"net/http"
	"strings"
	"time"

	"github.com/alexedwards/scs/postgresstore"
	"github.com/alexedwards/scs/v2"
	lru "github.com/hashicorp/golang-lru/v2"
	"github.com/labstack/echo/v5"
	"zealousmargin.example/internal/command"
	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/jobs"
	"zealousmargin.example/internal/standin"
	"zealousmargin.example/internal/store"
	"zealousmargin.example/internal/web/notes"
)

//go:embed shared/*.html
var sharedViews embed.FS

// Frame is what all rooms stand in: the store and the queue, who is signed in, the templates, and
// what is kept at hand of files.
type Frame struct {
	store    *store.Store
	queue    *jobs.Queue
	sessions *scs.SessionManager
	views    map[string]*template.Template
	pictures *lru.Cache[string, []byte]
	evidence *lru.Cache[string, *evidence.Page]
	files    *lru.Cache[string, []byte]
	scanner  standin.Scanner
	office   string
	hint     string // how to sign in to the demo office; empty elsewhere
}

// Options are what differs between installations.
type Options struct {
	Office string // the name of the office that works here
	Hint   string // shown on the sign-in page
	Secure bool   // cookies over https only
	// Scanner is where pages can be scanned from; nil when there is none.
	Scanner standin.Scanner
}

// newFrame makes the frame. Stop ends the clean-up of old sessions.
func newFrame(s *store.Store, q *jobs.Queue, o Options) (f *Frame, stop func(), err error) {
	f = &Frame{store: s, queue: q, office: o.Office, hint: o.Hint, scanner: o.Scanner, sessions: scs.New(), views: map[string]*template.Template{}}
	sessions := postgresstore.New(s.DB())
	f.sessions.Store = sessions
	f.sessions.Lifetime = 12 * time.Hour
	f.sessions.Cookie.Name = "zm_session"
	f.sessions.Cookie.HttpOnly = true
	f.sessions.Cookie.SameSite = http.SameSiteLaxMode
	f.sessions.Cookie.Secure = o.Secure
	if f.pictures, err = lru.New[string, []byte](256); err != nil {
		return nil, nil, err
	}
	if f.files, err = lru.New[string, []byte](6); err != nil {
		return nil, nil, err
	}
	if f.evidence, err = lru.New[string, *evidence.Page](256); err != nil {
		return nil, nil, err
	}
	own, err := fs.Sub(sharedViews, "shared")
	if err != nil {
		return nil, nil, err
	}
	return f, sessions.StopCleanup, f.addViews(own)
}

// addViews reads the templates of a room: one view for each, with the shared parts.
func (s *Frame) addViews(room fs.FS) error {
	names, err := fs.Glob(room, "*.html")
	if err != nil {
		return err
	}
	for _, n := range names {
		name := strings.TrimSuffix(n, ".html")
		if strings.HasPrefix(name, "_") {
			continue
		}
		t, err := template.New(name).Funcs(functions).ParseFS(sharedViews, "shared/_*.html")
		if err == nil {
			t, err = t.ParseFS(room, n)
		}
		if err != nil {
			return fmt.Errorf("template %s: %w", name, err)
		}
		s.views[name] = t
	}
	return nil
}

// With makes a handler of a room's function.
func (s *Frame) With(work func(*Frame, *echo.Context) error) echo.HandlerFunc {
	return func(c *echo.Context) error { return work(s, c) }
}

// shell is what every page shows around its content.
type shell struct {
	Title   string
	Office  string
	Account store.Account
	CSRF    string
	Here    string // the room: "workroom", "bench"
}

func (s *Frame) shell(c *echo.Context, title, here string) shell {
	csrf, _ := c.Get("csrf").(string)
	a, _ := c.Get("account").(store.Account)
	return shell{Title: title, Office: s.office, Account: a, CSRF: csrf, Here: here}
}

func account(c *echo.Context) store.Account {
	a, _ := c.Get("account").(store.Account)
	return a
}

// render writes the named block of a page's template.
func (s *Frame) render(c *echo.Context, code int, view, block string, data any) error {
	var b bytes.Buffer
	if err := s.views[view].ExecuteTemplate(&b, block, data); err != nil {
		return fmt.Errorf("template %s: %w", view, err)
	}
	c.Response().Header().Set("Cache-Control", "no-store")
	return c.HTMLBlob(code, b.Bytes())
}

// fail answers an error: a sentence for a part of a page, a page otherwise.
func (s *Frame) fail(c *echo.Context, err error) {
	code, say := http.StatusInternalServerError, "Something went wrong on our side. Nothing was lost; try again in a moment."
	var he *echo.HTTPError
	var refused problem
	switch {
	case errors.As(err, &refused):
		code, say = refused.code, refused.Error()
	case errors.Is(err, store.ErrMissing):
		code, say = http.StatusNotFound, store.ErrMissing.Error()
	case errors.Is(err, form.ErrClash):
		code, say = http.StatusConflict, form.ErrClash.Error()
	case errors.As(err, &he):
		code = he.Code
		if say = he.Message; code == http.StatusForbidden {
			say = "This page has been open for too long: load it again, then repeat the step."
		}
	default:
		var coder echo.HTTPStatusCoder
		if errors.As(err, &coder) {
			code, say = coder.StatusCode(), http.StatusText(coder.StatusCode())
		} else if !errors.Is(err, context.Canceled) && c.Request().Context().Err() == nil {
			slog.Error("request failed", "path", c.Request().URL.Path, "error", err)
		}
	}
	say = sentence(say)
	if c.Request().Header.Get("HX-Request") != "" || strings.Contains(c.Request().Header.Get("Accept"), "application/json") {
		_ = c.String(code, say)
		return
	}
	data := struct {
		shell
		Say string
	}{s.shell(c, "Sorry", ""), say}
	if err := s.render(c, code, "sorry", "page", data); err != nil {
		_ = c.String(code, say)
	}
}

// problem is an error that the person can do something about.
type problem struct {
	code int
	error
}

// refuse wraps what a person did wrong.
func refuse(err error) error {
	if err == nil || errors.Is(err, form.ErrClash) || errors.Is(err, store.ErrMissing) {
		return err
	}
	return problem{http.StatusUnprocessableEntity, err}
}

func sentence(s string) string {
	if s == "" {
		return s
	}
	s = strings.ToUpper(s[:1]) + s[1:]
	if !strings.HasSuffix(s, ".") && !strings.HasSuffix(s, "!") && !strings.HasSuffix(s, "?") {
		s += "."
	}
	return s
}

var functions = template.FuncMap{
	"ago":      ago,
	"sentence": sentence,
	"add":      func(a, b int) int { return a + b },
	"count": func(n int, one, many string) string {
		if n == 1 {
			return "1 " + one
		}
		return fmt.Sprintf("%d %s", n, many)
	},
	"short": func(s string) string { return s[:min(12, len(s))] },
	"kb":    func(n int) string { return fmt.Sprintf("%d KB", (n+1023)/1024) },
	"date":  func(t time.Time) string { return t.Local().Format("2 January 2006, 15:04") },
	"value": func(p *string) string {
		if p == nil {
			return ""
		}
		return *p
	},
	"picture":    pictureURL,
	"running":    func(i store.Intake) intakeView { return intakeView{Intake: i} },
	"first":      func(name string) string { return strings.SplitN(name, " ", 2)[0] },
	"join":       strings.Join,
	"unit":       form.WriteLength,
	"ruled":      notes.Ruled,
	"rulesaid":   notes.Rules,
	"formatsaid": notes.Format,
	"fill":       notes.Fill,
	"pick":       notes.Pick,
	"events":     notes.Events,
	"masks":      func() []form.Offer { return form.Masks },
	"rest":       func(why, name string) string { return strings.TrimPrefix(why, name+" ") },
	"units":      func() []string { return []string{"pt", "mm", "in"} },
	"readylists": func() []form.Offer { return command.ReadyLists },
	"options":    form.WriteOptions,
	"selected": func(m map[string]any) bool {
		if b, ok := m["B"].(bool); ok { // the second of two choices stands for true
			return b == (m["V"] == "yes" || m["V"] == "comma")
		}
		return fmt.Sprint(m["S"]) == fmt.Sprint(m["V"])
	},
	"dict": func(kv ...any) map[string]any {
		m := map[string]any{}
		for i := 0; i+1 < len(kv); i += 2 {
			m[fmt.Sprint(kv[i])] = kv[i+1]
		}
		return m
	},
}

// ago says how long a moment is past.
func ago(t time.Time) string {
	d := time.Since(t)
	switch {
	case d < 10*time.Second:
		return "just now"
	case d < time.Minute:
		return fmt.Sprintf("%d s ago", int(d.Seconds()))
	case d < time.Hour:
		return fmt.Sprintf("%d min ago", int(d.Minutes()))
	case d < 24*time.Hour:
		return fmt.Sprintf("%d h ago", int(d.Hours()))
	case d < 7*24*time.Hour:
		return "on " + t.Local().Weekday().String()
	}
	return "on " + t.Local().Format("2 January 2006")
}

// drain reads what is left of a body, so that a refused upload gets its answer.
func drain(r io.Reader) { _, _ = io.Copy(io.Discard, io.LimitReader(r, 256<<20)) }
