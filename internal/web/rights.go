package web

import (
	"errors"
	"net/http"

	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/web/frame"
)

// right says who may call a route.
type right string

// The rights: people who are not signed in, too; everybody who is; an administrator; an administrator, and preparers where the
// settings say so.
const (
	anybody       right = "anybody"
	staff         right = "staff"
	administrator right = "administrator"
	releases      right = "releases"
)

// rights is who may call each route. A route without a row is closed to everybody, and a test fails.
var rights = map[string]right{
	"GET /static/*": anybody, "GET /sign-in": anybody, "POST /sign-in": anybody, "POST /sign-out": anybody,
	"POST " + frame.InboxPath + ":inbox": anybody, "GET /set-password/:token": anybody, "POST /set-password/:token": anybody,
	"GET " + frame.LinkPath + ":token": anybody, "POST " + frame.LinkPath + ":token": anybody,
	"GET " + frame.LinkPath + ":token/form.pdf": anybody,
	"GET " + frame.LinkPath + ":token/fill":     anybody, "POST " + frame.LinkPath + ":token/fill": anybody,
	"POST " + frame.LinkPath + ":token/answers": anybody, "GET " + frame.LinkPath + ":token/pages/:n": anybody,
	"GET " + frame.LinkPath + ":token/sent/:id": anybody,
	"GET /test-authority.crl":                   anybody,
	"GET /healthz":                              anybody, "GET /readyz": anybody, "GET /first-run": anybody, "POST /first-run": anybody,

	"GET /": staff, "GET /documents": staff, "POST /documents/:id/describe": staff, "POST /documents/:id/archive": staff,
	"POST /intakes": staff, "GET /intakes/:id": staff, "POST /intakes/:id/cancel": staff, "POST /intakes/:id/unlock": staff,
	"GET /folders/:id": staff, "POST /folders/:id/find": staff, "GET /scan-tray": staff, "POST /scan-tray": staff,
	"GET /documents/:id/originals/:n": staff, "POST /documents/:id/details": staff, "POST /documents/:id/events": staff,
	"GET /documents/:id/pages": staff, "POST /documents/:id/pages": staff, "POST /documents/:id/recognise": staff,
	"GET /documents/:id/task": staff, "POST /documents/:id/task/cancel": staff, "GET /documents/:id/words": staff,
	"POST /documents/:id/words": staff, "GET /documents/:id/text": staff, "GET /documents/:id": staff,
	"GET /documents/:id/bring-in": staff, "GET /documents/:id/release": staff, "GET /documents/:id/compare": staff,
	"GET /editions/:id/:name": staff, "POST /editions/:id/draft": staff, "GET /returns/:id": staff,
	"GET /documents/:id/rehearse": staff, "POST /documents/:id/rehearse": staff, "POST /documents/:id/answers": staff,
	"POST /documents/:id/snags": staff, "GET /documents/:id/:stage": staff, "GET /documents/:id/notes/:field": staff,
	"GET /documents/:id/same-as/:field": staff, "GET /documents/:id/formula-help": staff, "GET /documents/:id/chosen": staff,
	"GET /documents/:id/alike": staff, "GET /documents/:id/chosen-by": staff, "GET /documents/:id/copied": staff,
	"GET /documents/:id/areas": staff, "GET /documents/:id/history": staff, "POST /documents/:id/jump": staff,
	"GET /documents/:id/now": staff, "GET /documents/:id/fields": staff, "POST /documents/:id/fields/:field": staff,
	"POST /documents/:id/edits": staff, "POST /documents/:id/words/:word/leave": staff, "POST /documents/:id/button-pictures": staff,
	"GET /documents/:id/button-pictures/:sha": staff, "POST /documents/:id/styles": staff, "POST /handy": staff,
	"POST /documents/:id/find": staff, "POST /documents/:id/undo": staff, "POST /documents/:id/redo": staff,
	"GET /pictures/:sha/:page/:width": staff, "GET /house-words": staff, "GET /house-words.csv": staff, "GET /house-style": staff,
	"GET /documents/:id/people": staff, "POST /documents/:id/people": staff, "GET /documents/:id/people/copies": staff,
	"POST /documents/:id/sources": staff, "GET /fillings/:id/file": staff, "POST /fillings/:id/cancel": staff, "GET /roster": staff,
	"POST /roster": staff, "GET /roster.csv": staff, "GET /signed-files": staff, "POST /signed-files": staff,
	"GET /documents/:id/links": staff, "GET /documents/:id/links.csv": staff, "GET /links/:id/printed": staff,
	"GET /documents/:id/signings": staff, "GET /signings/:id": staff, "POST /signings/:id": staff, "GET /signings/:id/form.pdf": staff,
	"GET /signings/:id/signed/:n": staff, "GET /sign-file": staff, "POST /sign-file": staff,
	"GET /documents/:id/returns": staff, "POST /documents/:id/returns": staff, "GET /documents/:id/returns/export": staff,
	"POST /documents/:id/prefill": staff, "GET /returns/:id/pdf": staff, "GET /returns/:id/xfdf": staff,
	"GET /returns/:id/fdf": staff, "GET /returns/:id/files/:n": staff,
	"POST /returns/:id/correct": staff, "POST /returns/:id/deed": staff,
	"GET /me": staff, "POST /me": staff,

	"POST /documents/:id/editions": releases, "POST /documents/:id/inbox": releases, "POST /editions/:id/withdraw": releases,
	"POST /documents/:id/links": releases, "POST /documents/:id/links/send": releases, "POST /documents/:id/links/remind": releases,
	"POST /links/:id": releases, "POST /documents/:id/signings": releases, "POST /signings/:id/end": releases,

	"POST /house-words": administrator, "POST /house-words/:id/drop": administrator, "POST /house-words/:id/learn": administrator,
	"POST /house-words/:id/leave": administrator, "POST /house-words.csv": administrator,
	"POST /documents/:id/words/:word/learn": administrator, "POST /house-style/:kind": administrator,
	"POST /favourites/:id/drop": administrator, "GET /settings": administrator, "POST /settings": administrator,
	"GET /people": administrator, "POST /people": administrator, "GET /upkeep": administrator, "POST /upkeep/again": administrator,
	"GET /test-authority": administrator, "POST /test-authority": administrator,
	"GET /certificates": administrator, "POST /certificates": administrator, "POST /certificates/:id": administrator,
	"GET /post-tray": administrator, "GET /post-tray/:id": administrator, // links to set a password lie there
	"POST /documents/:id/returns/delete": administrator, "GET /documents/:id/onward": administrator,
	"POST /documents/:id/onward": administrator,
	"POST /roster/:id/drop":      administrator, "GET /documents/:id/delete": administrator, "POST /documents/:id/delete": administrator,
}

var (
	errAdministrator = errors.New("only an administrator can do this: ask one")
	errReleases      = errors.New("only an administrator can release a form here: ask one")
)

// permitted lets a person do what their role may, by [rights].
func permitted(s *frame.Frame) echo.MiddlewareFunc {
	return func(next echo.HandlerFunc) echo.HandlerFunc {
		return func(c *echo.Context) error {
			may, err := s.May(c)
			if err != nil {
				return err
			}
			switch rights[c.Request().Method+" "+c.Path()] {
			case anybody, staff:
			case administrator:
				if !may.Administer {
					return frame.RefuseAs(http.StatusForbidden, errAdministrator)
				}
			case releases:
				if !may.Release {
					return frame.RefuseAs(http.StatusForbidden, errReleases)
				}
			default:
				if c.RouteInfo().Method == echo.RouteNotFound {
					return next(c)
				}
				return frame.RefuseAs(http.StatusForbidden, errAdministrator)
			}
			return next(c)
		}
	}
}
