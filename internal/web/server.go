// Package web is the interface: Echo routes, handlers, templates and the bench.
// Pages are rendered here; htmx swaps the parts that change, and a small script
// does what needs a pointer. Everything that a page loads is embedded.
package web

import (
	"embed"
	"io/fs"
	"log/slog"
	"net/http"
	"strings"

	"github.com/labstack/echo/v5"
	"github.com/labstack/echo/v5/middleware"

	"zealousmargin.example/internal/jobs"
	"zealousmargin.example/internal/store"
)

//go:embed static
var static embed.FS

// Server answers requests.
type Server struct {
	frame *Frame
	echo  *echo.Echo
}

// New makes the server. Stop ends the clean-up of old sessions.
func New(s *store.Store, q *jobs.Queue, o Options) (srv *Server, stop func(), err error) {
	f, stop, err := newFrame(s, q, o)
	if err != nil {
		return nil, nil, err
	}
	for _, room := range rooms {
		if err := f.addViews(room); err != nil {
			return nil, nil, err
		}
	}
	srv = &Server{frame: f}
	srv.routes(o)
	return srv, stop, nil
}

func (srv *Server) routes(o Options) {
	s := srv.frame
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
	srv.echo = e
}

// ServeHTTP answers one request.
func (srv *Server) ServeHTTP(w http.ResponseWriter, r *http.Request) { srv.echo.ServeHTTP(w, r) }

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
