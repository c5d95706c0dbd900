package frame

import (
	"embed"
	"fmt"
	"html/template"
	"io/fs"
	"log/slog"
	"net/http"
	"strings"
	"time"

	"github.com/alexedwards/scs/postgresstore"
	"github.com/alexedwards/scs/v2"
	lru "github.com/hashicorp/golang-lru/v2"
	"github.com/labstack/echo/v5"
	"golang.org/x/sync/singleflight"

	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/inbox"
	"zealousmargin.example/internal/jobs"
	"zealousmargin.example/internal/post"
	"zealousmargin.example/internal/standin"
	"zealousmargin.example/internal/store"
	"zealousmargin.example/internal/web/markup"
)

//go:embed shared/*.html
var sharedViews embed.FS

// Frame is what all rooms stand in: the store and the queue, who is signed in, the templates, and
// what is kept at hand of files.
type Frame struct {
	Store    *store.Store
	Queue    *jobs.Queue
	Sessions *scs.SessionManager
	Tries    *Throttle // to sign in
	Answers  *Answers  // that come back
	Typing   *Answers  // that are given while a form is filled in
	Inbox    *inbox.Reader
	reached  func() string
	// FirstWord is what the first person of an office has to know; empty shuts the page for them.
	FirstWord string
	Tray      bool // what is sent lies in the post tray
	post      post.Post
	views     Views
	pictures  *kept
	drawing   singleflight.Group
	reading   singleflight.Group
	evidence  *lru.Cache[string, *evidence.Page]
	files     *kept
	Scanner   standin.Scanner
	office    string
	set       set    // what is set for the office
	data      data   // what the roster has
	Hint      string // how to sign in to the demo office; empty elsewhere
}

// Options are what differs between installations.
type Options struct {
	Office    string    // the name of the office that works here
	Hint      string    // shown on the sign-in page
	Secure    bool      // cookies over https only
	FirstWord string    // see [Frame]
	Tray      bool      // messages come into the post tray
	Post      post.Post // sends messages; nil prints them
	// AnswersAMinute is how many answers are taken a minute from one address on the network; thirty when nothing is said.
	AnswersAMinute int
	// Reached gives the address at which the application is reached where none is set; nil is none.
	Reached func() string
	// Scanner is where pages can be scanned from; nil when there is none.
	Scanner standin.Scanner
}

// New makes the frame. Stop ends the clean-up of old sessions.
func New(s *store.Store, q *jobs.Queue, v Views, o Options) (f *Frame, stop func(), err error) {
	f = &Frame{
		Store: s, Queue: q, office: o.Office, Hint: o.Hint, Scanner: o.Scanner, Sessions: scs.New(),
		views: v, Tries: newThrottle(), Answers: newAnswers(o.AnswersAMinute), reached: o.Reached,
		Typing: newTyping(), Inbox: inbox.NewReader(s), FirstWord: o.FirstWord, post: o.Post, Tray: o.Tray,
	}
	sessions := postgresstore.New(s.DB())
	f.Sessions.Store = sessions
	f.Sessions.Lifetime = 12 * time.Hour
	f.Sessions.Cookie.Name = "zm_session"
	f.Sessions.Cookie.HttpOnly = true
	f.Sessions.Cookie.SameSite = http.SameSiteLaxMode
	f.Sessions.Cookie.Secure = o.Secure
	f.Sessions.ErrorFunc = func(w http.ResponseWriter, _ *http.Request, err error) { // before any room is reached
		code, say := http.StatusInternalServerError, ours
		if store.Away(err) {
			code, say = http.StatusServiceUnavailable, away
			w.Header().Set("Retry-After", "5")
		}
		slog.Error("a session was not read", "error", err)
		w.Header().Set("Content-Type", "text/html; charset=utf-8")
		w.WriteHeader(code)
		_, _ = w.Write([]byte(markup.Page("Sorry", say)))
	}
	f.pictures, f.files = keep(keptPictures), keep(keptFiles)
	if f.evidence, err = lru.New[string, *evidence.Page](96); err != nil {
		return nil, nil, err
	}
	return f, sessions.StopCleanup, nil
}

// Views are the templates by their names, with the shared parts in each.
type Views map[string]*template.Template

// ReadViews reads the templates of the rooms, whose names differ from each other's.
func ReadViews(rooms ...fs.FS) (Views, error) {
	own, err := fs.Sub(sharedViews, "shared")
	if err != nil {
		return nil, err
	}
	shared, err := template.New("shared").Funcs(functions).ParseFS(own, "_*.html")
	if err != nil {
		return nil, fmt.Errorf("the shared templates: %w", err)
	}
	out := Views{}
	for _, room := range append([]fs.FS{own}, rooms...) {
		names, err := fs.Glob(room, "[^_]*.html")
		if err != nil {
			return nil, err
		}
		for _, n := range names {
			name := strings.TrimSuffix(n, ".html")
			if out[name] != nil {
				return nil, fmt.Errorf("two templates are called %s", name)
			}
			t, err := shared.Clone()
			if err == nil {
				t, err = t.ParseFS(room, n)
			}
			if err != nil {
				return nil, fmt.Errorf("template %s: %w", name, err)
			}
			out[name] = t
		}
	}
	return out, nil
}

// With makes a handler of a room's function.
func (s *Frame) With(work func(*Frame, *echo.Context) error) echo.HandlerFunc {
	return func(c *echo.Context) error { return work(s, c) }
}
