package web

import (
	"context"
	"log/slog"
	"net/http"
	"strings"
	"time"

	"github.com/labstack/echo/v5"
	"github.com/labstack/echo/v5/middleware"

	"zealousmargin.example/internal/jobs"
	"zealousmargin.example/internal/pdf/engine"
	"zealousmargin.example/internal/store"
	"zealousmargin.example/internal/web/bench"
	"zealousmargin.example/internal/web/bringin"
	"zealousmargin.example/internal/web/frame"
	"zealousmargin.example/internal/web/house"
	"zealousmargin.example/internal/web/links"
	"zealousmargin.example/internal/web/pages"
	"zealousmargin.example/internal/web/people"
	"zealousmargin.example/internal/web/rehearse"
	"zealousmargin.example/internal/web/release"
	"zealousmargin.example/internal/web/returned"
	"zealousmargin.example/internal/web/signed"
	"zealousmargin.example/internal/web/signin"
	"zealousmargin.example/internal/web/signing"
	"zealousmargin.example/internal/web/static"
	"zealousmargin.example/internal/web/workroom"
)

// Server answers requests.
type Server struct {
	frame *frame.Frame
	echo  *echo.Echo
	watch *watch
	all   http.Handler
}

// New makes the server. Stop ends the clean-up of old sessions.
func New(s *store.Store, q *jobs.Queue, o frame.Options) (srv *Server, stop func(), err error) {
	v, err := views()
	if err != nil {
		return nil, nil, err
	}
	f, stop, err := frame.New(s, q, v, o)
	if err != nil {
		return nil, nil, err
	}
	srv = &Server{frame: f, watch: newWatch(s)}
	srv.routes(o)
	srv.all = f.Outward(srv.echo)
	return srv, stop, nil
}

func (srv *Server) routes(o frame.Options) {
	s := srv.frame
	e := echo.New()
	e.Logger = slog.New(slog.DiscardHandler)
	e.HTTPErrorHandler = s.Fail
	e.Use(srv.watched)
	e.Use(middleware.Recover())
	e.Use(middleware.GzipWithConfig(middleware.GzipConfig{Level: 1, MinLength: 1024, Skipper: func(c *echo.Context) bool {
		return strings.HasPrefix(c.Request().URL.Path, "/pictures/") || strings.Contains(c.Request().URL.Path, ".woff2")
	}}))
	e.Use(secure)
	e.Use(sessions(s))
	e.Use(guarded(s))
	e.Use(middleware.CSRFWithConfig(middleware.CSRFConfig{
		Skipper:     func(c *echo.Context) bool { return stranger(c.Request().URL.Path) },
		TokenLookup: "header:X-CSRF-Token,form:csrf", CookieName: "zm_csrf", CookiePath: "/", CookieHTTPOnly: true,
		CookieSecure: o.Secure, CookieSameSite: http.SameSiteLaxMode,
	}))
	e.Use(readable)
	e.GET("/static/*", echo.WrapHandler(static.Serve()))
	e.GET("/sign-in", s.With(signin.Show))
	e.POST("/sign-in", s.With(signin.SignIn))
	e.POST("/sign-out", s.With(signin.SignOut))
	e.GET("/healthz", func(c *echo.Context) error { return c.String(http.StatusOK, "alive") })
	e.GET("/readyz", s.With(ready))
	e.GET("/set-password/:token", s.With(signin.Link))
	e.POST("/set-password/:token", s.With(signin.SetPassword))
	e.GET("/first-run", s.With(signin.FirstRun))
	e.POST("/first-run", s.With(signin.BeginOffice))
	e.POST(frame.InboxPath+":inbox", s.With(release.Receive))
	e.GET("/test-authority.crl", s.With(signing.CRL))
	e.GET(frame.LinkPath+":token", s.With(links.Open))
	e.POST(frame.LinkPath+":token", s.With(links.Send))
	e.GET(frame.LinkPath+":token/form.pdf", s.With(links.File))
	e.GET(frame.LinkPath+":token/fill", s.With(links.FillIn))
	e.POST(frame.LinkPath+":token/fill", s.With(links.SendFilled))
	e.POST(frame.LinkPath+":token/answers", s.With(links.Answers))
	e.GET(frame.LinkPath+":token/pages/:n", s.With(links.PagePicture))
	e.GET(frame.LinkPath+":token/sent/:id", s.With(links.SentCopy))

	in := e.Group("", s.SignedIn, permitted(s), sentOnce)
	in.GET("/", s.With(workroom.Show))
	in.GET("/documents", s.With(workroom.DocumentList))
	in.POST("/documents/:id/describe", s.With(workroom.Describe))
	in.POST("/documents/:id/archive", s.With(workroom.Archive))
	in.POST("/intakes", s.With(bringin.BringIn))
	in.GET("/intakes/:id", s.With(bringin.IntakeProgress))
	in.POST("/intakes/:id/cancel", s.With(bringin.CancelIntake))
	in.POST("/intakes/:id/unlock", s.With(bringin.UnlockIntake))
	in.GET("/folders/:id", s.With(bringin.Folder))
	in.POST("/folders/:id/find", s.With(bringin.FindInFolder))
	in.GET("/house-words", s.With(house.HouseWords))
	in.POST("/house-words", s.With(house.PutHouseWord))
	in.POST("/house-words/:id/drop", s.With(house.DropHouseWord))
	in.POST("/house-words/:id/learn", s.With(house.LearnProposal))
	in.POST("/house-words/:id/leave", s.With(house.LeaveProposal))
	in.GET("/house-words.csv", s.With(house.HouseCSV))
	in.POST("/house-words.csv", s.With(house.TakeHouseCSV))
	in.GET("/scan-tray", s.With(bringin.ScanTray))
	in.POST("/scan-tray", s.With(bringin.Scan))
	in.GET("/documents/:id/originals/:n", s.With(bringin.Original))
	in.POST("/documents/:id/details", s.With(bringin.Details))
	in.POST("/documents/:id/events", s.With(bringin.SetEvent))
	in.GET("/documents/:id/pages", s.With(pages.Show))
	in.POST("/documents/:id/pages", s.With(pages.EditPages))
	in.POST("/documents/:id/recognise", s.With(pages.Recognise))
	in.GET("/documents/:id/task", s.With(pages.Task))
	in.POST("/documents/:id/task/cancel", s.With(pages.CancelTask))
	in.GET("/documents/:id/words", s.With(pages.Words))
	in.POST("/documents/:id/words", s.With(pages.CorrectWord))
	in.GET("/documents/:id/text", s.With(pages.ExportText))
	in.GET("/documents/:id", s.With(bench.Document))
	in.GET("/documents/:id/bring-in", s.With(bringin.Arrival))
	in.GET("/documents/:id/release", s.With(release.Show))
	in.POST("/documents/:id/editions", s.With(release.Release))
	in.POST("/documents/:id/inbox", s.With(release.SetInbox))
	in.GET("/documents/:id/compare", s.With(release.Compare))
	in.GET("/editions/:id/:name", s.With(release.Edition))
	in.GET("/documents/:id/people", s.With(people.Fill))
	in.POST("/documents/:id/people", s.With(people.Begin))
	in.GET("/documents/:id/people/copies", s.With(people.Copies))
	in.POST("/documents/:id/sources", s.With(people.TakeSources))
	in.GET("/fillings/:id/file", s.With(people.Result))
	in.POST("/fillings/:id/cancel", s.With(people.Cancel))
	in.GET("/documents/:id/links", s.With(links.Show))
	in.POST("/documents/:id/links", s.With(links.Make))
	in.POST("/documents/:id/links/send", s.With(links.SendOut))
	in.POST("/documents/:id/links/remind", s.With(links.Remind))
	in.GET("/documents/:id/links.csv", s.With(links.CSV))
	in.POST("/links/:id", s.With(links.Change))
	in.GET("/links/:id/printed", s.With(links.Printed))
	in.GET("/post-tray", s.With(links.Tray))
	in.GET("/post-tray/:id", s.With(links.Message))
	in.GET("/documents/:id/signings", s.With(signing.Rounds))
	in.POST("/documents/:id/signings", s.With(signing.Begin))
	in.GET("/signings/:id", s.With(signing.Show))
	in.POST("/signings/:id", s.With(signing.Put))
	in.GET("/signings/:id/form.pdf", s.With(signing.Give))
	in.GET("/signings/:id/signed/:n", s.With(signing.Signed))
	in.POST("/signings/:id/end", s.With(signing.End))
	in.GET("/sign-file", s.With(signing.SignFile))
	in.POST("/sign-file", s.With(signing.PutCertificate))
	in.GET("/test-authority", s.With(signing.TestAuthority))
	in.POST("/test-authority", s.With(signing.AskAuthority))
	in.GET("/certificates", s.With(signing.Certificates))
	in.POST("/certificates", s.With(signing.KeepCertificate))
	in.POST("/certificates/:id", s.With(signing.ChangeCertificate))
	in.GET("/signed-files", s.With(signed.Show))
	in.POST("/signed-files", s.With(signed.Check))
	in.GET("/roster", s.With(people.Roster))
	in.POST("/roster", s.With(people.BringRoster))
	in.GET("/roster.csv", s.With(people.RosterCSV))
	in.POST("/roster/:id/drop", s.With(people.DropPerson))
	in.POST("/editions/:id/withdraw", s.With(release.Withdraw))
	in.POST("/editions/:id/draft", s.With(release.BringBack))
	in.GET("/returns/:id", s.With(release.AReturn))
	in.GET("/returns/:id/pdf", s.With(returned.AsPDF))
	in.GET("/returns/:id/xfdf", s.With(returned.AsXFDF))
	in.GET("/returns/:id/fdf", s.With(returned.AsFDF))
	in.GET("/returns/:id/files/:n", s.With(returned.AFile))
	in.POST("/returns/:id/correct", s.With(returned.Correct))
	in.POST("/returns/:id/deed", s.With(returned.Deed))
	in.GET("/documents/:id/returns", s.With(returned.Show))
	in.POST("/documents/:id/returns", s.With(returned.Bring))
	in.GET("/documents/:id/returns/export", s.With(returned.Export))
	in.POST("/documents/:id/returns/delete", s.With(returned.Delete))
	in.POST("/documents/:id/prefill", s.With(returned.Prefill))
	in.GET("/documents/:id/onward", s.With(returned.Onward))
	in.POST("/documents/:id/onward", s.With(returned.SetOnward))
	in.GET("/documents/:id/rehearse", s.With(rehearse.Show))
	in.POST("/documents/:id/rehearse", s.With(rehearse.RehearseAlone))
	in.POST("/documents/:id/answers", s.With(rehearse.Answer))
	in.POST("/documents/:id/snags", s.With(rehearse.MendSnag))
	in.GET("/documents/:id/:stage", s.With(bench.Show))
	in.GET("/documents/:id/notes/:field", s.With(bench.Note))
	in.GET("/documents/:id/same-as/:field", s.With(bench.SameAs))
	in.GET("/documents/:id/formula-help", s.With(bench.FormulaHelp))
	in.GET("/documents/:id/chosen", s.With(bench.ManyNote))
	in.GET("/documents/:id/alike", s.With(bench.AlikeFields))
	in.GET("/documents/:id/chosen-by", s.With(bench.ChosenBy))
	in.GET("/documents/:id/copied", s.With(bench.Copied))
	in.GET("/documents/:id/areas", s.With(bench.Areas))
	in.GET("/documents/:id/history", s.With(bench.History))
	in.POST("/documents/:id/jump", s.With(bench.Jump))
	in.GET("/documents/:id/now", s.With(bench.Latest))
	in.GET("/documents/:id/fields", s.With(bench.Fields))
	in.POST("/documents/:id/fields/:field", s.With(bench.Rename))
	in.POST("/documents/:id/edits", s.With(bench.Edit))
	in.POST("/documents/:id/words/:word/learn", s.With(bench.LearnWord))
	in.POST("/documents/:id/words/:word/leave", s.With(bench.LeaveWord))
	in.POST("/documents/:id/button-pictures", s.With(house.TakePicture))
	in.GET("/documents/:id/button-pictures/:sha", s.With(house.ButtonPicture))
	in.POST("/documents/:id/styles", s.With(house.KeepStyle))
	in.GET("/people", s.With(house.People))
	in.POST("/people", s.With(house.SetPeople))
	in.GET("/me", s.With(house.Me))
	in.POST("/me", s.With(house.SetMe))
	in.GET("/settings", s.With(house.Settings))
	in.POST("/settings", s.With(house.SetSettings))
	in.GET("/upkeep", s.With(house.Upkeep))
	in.POST("/upkeep/again", s.With(house.TryAgain))
	in.GET("/documents/:id/delete", s.With(house.DeleteForm))
	in.POST("/documents/:id/delete", s.With(house.Delete))
	in.GET("/house-style", s.With(house.HouseStyle))
	in.POST("/house-style/:kind", s.With(house.SetHouseStyle))
	in.POST("/favourites/:id/drop", s.With(house.DropFavourite))
	in.POST("/handy", s.With(bench.SetHandy))
	in.POST("/documents/:id/find", s.With(bench.Find))
	in.POST("/documents/:id/undo", s.With(pages.Undo))
	in.POST("/documents/:id/redo", s.With(pages.Redo))
	in.GET("/pictures/:sha/:page/:width", s.Picture)
	srv.echo = e
}

// Routes lists what the server answers to, as "GET /documents/:id".
func (srv *Server) Routes() []string {
	var out []string
	for _, r := range srv.echo.Router().Routes() {
		if r.Method != echo.RouteNotFound {
			out = append(out, r.Method+" "+r.Path)
		}
	}
	return out
}

// ServeHTTP answers one request.
func (srv *Server) ServeHTTP(w http.ResponseWriter, r *http.Request) { srv.all.ServeHTTP(w, r) }

// stranger tells whether an address is one for people who have no account: no cookie of theirs says who they are, so there is nothing that
// another site could have them do.
func stranger(path string) bool {
	return strings.HasPrefix(path, frame.InboxPath) || strings.HasPrefix(path, frame.LinkPath)
}

// sentOnce takes the key of an edit from the header "X-ZM-Edit", so that what is sent twice is
// done once.
func sentOnce(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		if key := c.Request().Header.Get("X-ZM-Edit"); key != "" {
			c.SetRequest(c.Request().WithContext(store.WithSent(c.Request().Context(), key)))
		}
		return next(c)
	}
}

// secure sets the headers that keep foreign code out: nothing but our own files
// is loaded, and no script or style stands in a page.
func secure(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		h := c.Response().Header()
		h.Set("Content-Security-Policy", "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self'; font-src 'self'; "+
			"connect-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'")
		h.Set("X-Content-Type-Options", "nosniff")
		h.Set("X-Frame-Options", "DENY")
		h.Set("Referrer-Policy", "same-origin")
		h.Set("Cross-Origin-Opener-Policy", "same-origin")
		return next(c)
	}
}

// ready tells whether the application can work: whether the database and the engine answer.
func ready(s *frame.Frame, c *echo.Context) error {
	ctx, cancel := context.WithTimeout(c.Request().Context(), 5*time.Second)
	defer cancel()
	if err := s.Store.Ready(ctx); err != nil {
		slog.Error("not ready: the database does not answer", "error", err)
		return c.String(http.StatusServiceUnavailable, "the database does not answer, or belongs to another release")
	}
	if err := engine.Ready(ctx); err != nil {
		slog.Error("not ready: the PDF engine does not start", "error", err)
		return c.String(http.StatusServiceUnavailable, "the PDF engine does not start")
	}
	return c.String(http.StatusOK, "ready")
}

// sessions reads who is signed in, but for what has to answer while the database is away.
func sessions(s *frame.Frame) echo.MiddlewareFunc {
	wrap := echo.WrapMiddleware(s.Sessions.LoadAndSave)
	return func(next echo.HandlerFunc) echo.HandlerFunc {
		with := wrap(next)
		return func(c *echo.Context) error {
			switch path := c.Path(); path {
			case "/healthz", "/readyz", "/static/*":
				return next(c)
			}
			return with(c)
		}
	}
}
