package web

import (
	"errors"
	"fmt"
	"mime"
	"net/http"
	"net/url"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/intake"
	"zealousmargin.example/internal/store"
	"zealousmargin.example/internal/web/bringin"
	"zealousmargin.example/internal/web/frame"
	"zealousmargin.example/internal/web/house"
	"zealousmargin.example/internal/web/links"
	"zealousmargin.example/internal/web/release"
	"zealousmargin.example/internal/web/returned"
	"zealousmargin.example/internal/web/signed"
	"zealousmargin.example/internal/web/signing"
)

// door is what a route lets in.
type door struct {
	most  int64         // bytes of a body
	parts bool          // bodies in parts, which carry files
	time  time.Duration // in which a body has come
}

// usual is the door of a route that takes words: no more than a form of a page has.
var usual = door{most: 2 << 20, time: 30 * time.Second}

// doors are those of the routes that take more, or less.
var doors = map[string]door{
	"/intakes":                       {most: bringin.MaxUpload + 1<<20, parts: true, time: 15 * time.Minute},
	"/documents/:id/button-pictures": {most: house.MaxPicture + 1<<16, parts: true, time: 2 * time.Minute},
	"/house-words.csv":               {most: house.MaxCSV + 1<<16, parts: true, time: time.Minute},
	"/roster":                        {most: intake.MaxTable + 1<<16, parts: true, time: 2 * time.Minute},
	"/signed-files":                  {most: signed.MaxFile + 1<<16, parts: true, time: 5 * time.Minute},
	"/documents/:id/people":          {most: intake.MaxTable + 1<<20, parts: true, time: 2 * time.Minute},
	"/documents/:id/returns":         {most: returned.MaxBrought + 1<<20, parts: true, time: 15 * time.Minute},
	"/documents/:id/prefill":         {most: release.MaxReturn + 1<<16, parts: true, time: 2 * time.Minute},
	"/sign-in":                       {most: 16 << 10, time: 10 * time.Second},
	"/sign-out":                      {most: 16 << 10, time: 10 * time.Second},
	"/set-password/:token":           {most: 16 << 10, time: 10 * time.Second},
	"/first-run":                     {most: 16 << 10, time: 10 * time.Second},
	"/signings/:id":                  {most: signing.MaxSent + 5<<20, parts: true, time: 5 * time.Minute},
	"/sign-file":                     {most: signing.MaxSent + 8<<20, parts: true, time: 5 * time.Minute},
	"/certificates":                  {most: signing.MaxCertificate + 1<<16, parts: true, time: time.Minute},
	frame.LinkPath + ":token":        {most: release.MaxReturn + 1<<16, parts: true, time: 5 * time.Minute},
	frame.LinkPath + ":token/fill":   {most: links.MaxFilled, parts: true, time: 5 * time.Minute},
	frame.InboxPath + ":inbox":       {most: release.MaxReturn, parts: true, time: 5 * time.Minute},
}

var errUnreadable = errors.New("this has signs that cannot be read or kept: type it anew")

var errParts = errors.New("this takes no files: send it as a form")

// guarded lets a body in only where its route takes one so large, and only from people who are signed in, before
// anything of it is read. What is left in the temporary folder is taken away when the request is answered (OWASP ASVS
// 5.0, 5.2.1 and 15.1.3, from memory).
func guarded(s *frame.Frame) echo.MiddlewareFunc {
	return func(next echo.HandlerFunc) echo.HandlerFunc {
		return func(c *echo.Context) error {
			r := c.Request()
			if r.Method == http.MethodGet || r.Method == http.MethodHead || r.ContentLength == 0 {
				return next(c)
			}
			d, ok := doors[c.Path()]
			if !ok {
				d = usual
			}
			turnAway := func(err error) error { // what comes after is not read, so the connection ends
				c.Response().Header().Set("Connection", "close")
				return err
			}
			open := rights[r.Method+" "+c.Path()] == anybody
			if !open && s.Sessions.GetInt64(r.Context(), "visit") == 0 {
				return turnAway(s.SignedIn(next)(c))
			}
			kind, _, err := mime.ParseMediaType(r.Header.Get("Content-Type"))
			if parts := strings.HasPrefix(kind, "multipart/"); err == nil && parts && !d.parts {
				return turnAway(frame.RefuseAs(http.StatusUnsupportedMediaType, errParts))
			}
			if r.ContentLength > d.most {
				return turnAway(frame.RefuseAs(http.StatusRequestEntityTooLarge,
					fmt.Errorf("this is larger than the %s that can be taken here", size(d.most))))
			}
			r.Body = http.MaxBytesReader(c.Response(), r.Body, d.most)
			_ = http.NewResponseController(c.Response()).SetReadDeadline(time.Now().Add(d.time)) // where the server has deadlines
			defer func() {
				if f := c.Request().MultipartForm; f != nil {
					_ = f.RemoveAll()
				}
			}()
			return next(c)
		}
	}
}

func size(n int64) string {
	if n >= 1<<20 {
		return fmt.Sprintf("%d MB", n>>20)
	}
	return fmt.Sprintf("%d KB", n>>10)
}

// readable refuses words that no table keeps, before anything asks the database: bytes that are no UTF-8, and the
// sign U+0000 (OWASP ASVS 5.0, 1.1 and 2.2, from memory).
func readable(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		r := c.Request()
		all := []url.Values{r.URL.Query()}
		if kind, _, err := mime.ParseMediaType(r.Header.Get("Content-Type")); err == nil && kind == "application/x-www-form-urlencoded" &&
			!strings.HasPrefix(r.URL.Path, frame.InboxPath) {
			if err := r.ParseForm(); err != nil {
				return frame.RefuseAs(http.StatusBadRequest, errors.New("this cannot be read as what a form sends: load the page again"))
			}
			all = append(all, r.PostForm)
		}
		for _, values := range all {
			for key, list := range values {
				for _, v := range append(list, key) {
					if !utf8.ValidString(v) || strings.ContainsRune(v, 0) {
						return frame.RefuseAs(http.StatusUnprocessableEntity, errUnreadable)
					}
				}
			}
		}
		if !utf8.ValidString(r.URL.Path) || strings.ContainsRune(r.URL.Path, 0) {
			return store.ErrMissing
		}
		return next(c)
	}
}
