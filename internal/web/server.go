// Package web is the interface: Echo routes, handlers, templates and the bench.
// Pages are rendered here; htmx swaps the parts that change, and a small script
// does what needs a pointer. Everything that a page loads is embedded.
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
	"github.com/labstack/echo/v5/middleware"

	"zealousmargin.example/internal/command"
	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/jobs"
	"zealousmargin.example/internal/standin"
	"zealousmargin.example/internal/store"
	"zealousmargin.example/internal/web/notes"
)

//go:embed static
var static embed.FS

//go:embed templates/*.html
var pages embed.FS

// Server answers requests.
type Server struct {
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
	echo     *echo.Echo
}

// Options are what differs between installations.
type Options struct {
	Office string // the name of the office that works here
	Hint   string // shown on the sign-in page
	Secure bool   // cookies over https only
	// Scanner is where pages can be scanned from; nil when there is none.
	Scanner standin.Scanner
}

// New makes the server. Stop ends the clean-up of old sessions.
func New(s *store.Store, q *jobs.Queue, o Options) (srv *Server, stop func(), err error) {
	srv = &Server{store: s, queue: q, office: o.Office, hint: o.Hint, scanner: o.Scanner, sessions: scs.New()}
	sessions := postgresstore.New(s.DB())
	srv.sessions.Store = sessions
	srv.sessions.Lifetime = 12 * time.Hour
	srv.sessions.Cookie.Name = "zm_session"
	srv.sessions.Cookie.HttpOnly = true
	srv.sessions.Cookie.SameSite = http.SameSiteLaxMode
	srv.sessions.Cookie.Secure = o.Secure
	if srv.pictures, err = lru.New[string, []byte](256); err != nil {
		return nil, nil, err
	}
	if srv.files, err = lru.New[string, []byte](6); err != nil {
		return nil, nil, err
	}
	if srv.evidence, err = lru.New[string, *evidence.Page](256); err != nil {
		return nil, nil, err
	}
	if srv.views, err = parseViews(); err != nil {
		return nil, nil, err
	}
	srv.routes(o)
	return srv, sessions.StopCleanup, nil
}

// parseViews makes one template set per page: the layout, the shared parts and the page.
func parseViews() (map[string]*template.Template, error) {
	names, err := fs.Glob(pages, "templates/*.html")
	if err != nil {
		return nil, err
	}
	out := map[string]*template.Template{}
	for _, n := range names {
		name := strings.TrimSuffix(strings.TrimPrefix(n, "templates/"), ".html")
		if strings.HasPrefix(name, "_") {
			continue
		}
		t, err := template.New(name).Funcs(functions).ParseFS(pages, "templates/_*.html", n)
		if err != nil {
			return nil, fmt.Errorf("template %s: %w", name, err)
		}
		out[name] = t
	}
	return out, nil
}

func (s *Server) routes(o Options) {
	e := echo.New()
	e.Logger = slog.New(slog.DiscardHandler)
	e.HTTPErrorHandler = s.fail
	e.Use(middleware.Recover())
	e.Use(middleware.GzipWithConfig(middleware.GzipConfig{Level: 1, MinLength: 1024, Skipper: func(c *echo.Context) bool {
		return strings.HasPrefix(c.Request().URL.Path, "/pictures/") || strings.Contains(c.Request().URL.Path, ".woff2")
	}}))
	e.Use(secure)
	e.Use(echo.WrapMiddleware(s.sessions.LoadAndSave))
	e.Use(middleware.CSRFWithConfig(middleware.CSRFConfig{
		Skipper:     func(c *echo.Context) bool { return strings.HasPrefix(c.Request().URL.Path, inboxPath) },
		TokenLookup: "header:X-CSRF-Token,form:csrf", CookieName: "zm_csrf", CookiePath: "/", CookieHTTPOnly: true,
		CookieSecure: o.Secure, CookieSameSite: http.SameSiteLaxMode,
	}))
	files, err := fs.Sub(static, "static")
	if err != nil {
		panic(err) // the files are part of the program
	}
	e.GET("/static/*", echo.WrapHandler(http.StripPrefix("/static/", cached(http.FileServerFS(files)))))
	e.GET("/sign-in", s.signInPage)
	e.POST("/sign-in", s.signIn)
	e.POST("/sign-out", s.signOut)
	e.POST(inboxPath+":inbox", s.receive)

	in := e.Group("", s.signedIn)
	in.GET("/", s.workroom)
	in.GET("/documents", s.documentList)
	in.POST("/documents/:id/describe", s.describe)
	in.POST("/documents/:id/archive", s.archive)
	in.POST("/intakes", s.bringIn)
	in.GET("/intakes/:id", s.intakeProgress)
	in.POST("/intakes/:id/cancel", s.cancelIntake)
	in.POST("/intakes/:id/unlock", s.unlockIntake)
	in.GET("/folders/:id", s.folder)
	in.POST("/folders/:id/find", s.findInFolder)
	in.GET("/house-words", s.houseWords)
	in.POST("/house-words", s.putHouseWord)
	in.POST("/house-words/:id/drop", s.dropHouseWord)
	in.GET("/house-words.csv", s.houseCSV)
	in.POST("/house-words.csv", s.takeHouseCSV)
	in.GET("/scan-tray", s.scanTray)
	in.POST("/scan-tray", s.scan)
	in.GET("/documents/:id/originals/:n", s.original)
	in.POST("/documents/:id/details", s.details)
	in.POST("/documents/:id/events", s.setEvent)
	in.GET("/documents/:id/pages", s.pagesRoom)
	in.POST("/documents/:id/pages", s.editPages)
	in.POST("/documents/:id/recognise", s.recognise)
	in.GET("/documents/:id/task", s.task)
	in.POST("/documents/:id/task/cancel", s.cancelTask)
	in.GET("/documents/:id/words", s.words)
	in.POST("/documents/:id/words", s.correctWord)
	in.GET("/documents/:id/text", s.exportText)
	in.GET("/documents/:id", s.document)
	in.GET("/documents/:id/bring-in", s.arrival)
	in.GET("/documents/:id/release", s.releasePage)
	in.POST("/documents/:id/editions", s.release)
	in.GET("/editions/:id/:name", s.edition)
	in.GET("/returns/:id", s.aReturn)
	in.GET("/documents/:id/rehearse", s.rehearseRoom)
	in.POST("/documents/:id/rehearse", s.rehearseAlone)
	in.POST("/documents/:id/answers", s.answer)
	in.POST("/documents/:id/snags", s.mendSnag)
	in.GET("/documents/:id/:stage", s.bench)
	in.GET("/documents/:id/notes/:field", s.note)
	in.GET("/documents/:id/same-as/:field", s.sameAs)
	in.GET("/documents/:id/formula-help", s.formulaHelp)
	in.GET("/documents/:id/chosen", s.manyNote)
	in.GET("/documents/:id/copied", s.copied)
	in.GET("/documents/:id/areas", s.areas)
	in.GET("/documents/:id/history", s.history)
	in.POST("/documents/:id/jump", s.jump)
	in.GET("/documents/:id/now", s.latest)
	in.GET("/documents/:id/fields", s.fields)
	in.POST("/documents/:id/fields/:field", s.rename)
	in.POST("/documents/:id/edits", s.edit)
	in.POST("/documents/:id/button-pictures", s.takePicture)
	in.GET("/documents/:id/button-pictures/:sha", s.buttonPicture)
	in.POST("/documents/:id/styles", s.keepStyle)
	in.GET("/house-style", s.houseStyle)
	in.POST("/house-style/:kind", s.setHouseStyle)
	in.POST("/favourites/:id/drop", s.dropFavourite)
	in.POST("/handy", s.setHandy)
	in.POST("/documents/:id/find", s.find)
	in.POST("/documents/:id/undo", s.undo)
	in.POST("/documents/:id/redo", s.redo)
	in.GET("/pictures/:sha/:page/:width", s.picture)
	s.echo = e
}

// ServeHTTP answers one request.
func (s *Server) ServeHTTP(w http.ResponseWriter, r *http.Request) { s.echo.ServeHTTP(w, r) }

// secure sets the headers that keep foreign code out: nothing but our own files
// is loaded, and no script or style stands in a page.
func secure(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		h := c.Response().Header()
		h.Set("Content-Security-Policy", "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self'; font-src 'self'; connect-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'")
		h.Set("X-Content-Type-Options", "nosniff")
		h.Set("X-Frame-Options", "DENY")
		h.Set("Referrer-Policy", "same-origin")
		h.Set("Cross-Origin-Opener-Policy", "same-origin")
		return next(c)
	}
}

// cached lets browsers keep the application's own files, asking whether they changed.
func cached(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if strings.HasSuffix(r.URL.Path, ".woff2") {
			w.Header().Set("Cache-Control", "public, max-age=31536000, immutable")
		} else {
			w.Header().Set("Cache-Control", "no-cache")
		}
		next.ServeHTTP(w, r)
	})
}

// shell is what every page shows around its content.
type shell struct {
	Title   string
	Office  string
	Account store.Account
	CSRF    string
	Here    string // the room: "workroom", "bench"
}

func (s *Server) shell(c *echo.Context, title, here string) shell {
	csrf, _ := c.Get("csrf").(string)
	a, _ := c.Get("account").(store.Account)
	return shell{Title: title, Office: s.office, Account: a, CSRF: csrf, Here: here}
}

func account(c *echo.Context) store.Account {
	a, _ := c.Get("account").(store.Account)
	return a
}

// render writes the named block of a page's template.
func (s *Server) render(c *echo.Context, code int, view, block string, data any) error {
	var b bytes.Buffer
	if err := s.views[view].ExecuteTemplate(&b, block, data); err != nil {
		return fmt.Errorf("template %s: %w", view, err)
	}
	c.Response().Header().Set("Cache-Control", "no-store")
	return c.HTMLBlob(code, b.Bytes())
}

// fail answers an error: a sentence for a part of a page, a page otherwise.
func (s *Server) fail(c *echo.Context, err error) {
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
