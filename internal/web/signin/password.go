package signin

import (
	"errors"
	"net/http"
	"time"

	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/store"
	"zealousmargin.example/internal/web/frame"
)

// passwordView is the page on which a person sets a password, by a link or before anybody has an account.
type passwordView struct {
	frame.Shell
	First          bool // the first person of the office
	Name, Email    string
	Token, Problem string
}

// Link shows the page that a link to set a password leads to.
func Link(s *frame.Frame, c *echo.Context) error {
	v := passwordView{Shell: s.Shell(c, "Set your password", ""), Token: c.Param("token")}
	a, err := s.Store.LinkOf(c.Request().Context(), v.Token)
	code := http.StatusOK
	switch {
	case errors.Is(err, store.ErrLink):
		code, v.Problem, v.Token = http.StatusGone, frame.Sentence(err.Error()), ""
	case err != nil:
		return err
	}
	v.Name, v.Email = a.Name, a.Email
	c.Response().Header().Set("Referrer-Policy", "no-referrer") // the address is a secret
	return s.Render(c, code, "password", "page", v)
}

// SetPassword sets a password by a link, and lets its person in.
func SetPassword(s *frame.Frame, c *echo.Context) error {
	ctx := c.Request().Context()
	a, err := s.Store.SetPassword(ctx, c.Param("token"), c.FormValue("password"))
	if err != nil {
		v := passwordView{
			Shell: s.Shell(c, "Set your password", ""), Token: c.Param("token"), Name: a.Name, Email: a.Email,
			Problem: frame.Sentence(err.Error()),
		}
		if errors.Is(err, store.ErrLink) {
			v.Token = ""
		}
		return s.Render(c, http.StatusUnprocessableEntity, "password", "page", v)
	}
	if err := s.Sessions.RenewToken(ctx); err != nil {
		return err
	}
	return enter(s, c, a)
}

// FirstRun shows the page on which the first person of an office makes their account.
func FirstRun(s *frame.Frame, c *echo.Context) error {
	switch empty, err := s.Store.Empty(c.Request().Context()); {
	case err != nil:
		return err
	case !empty:
		return c.Redirect(http.StatusSeeOther, "/sign-in")
	}
	return s.Render(c, http.StatusOK, "password", "page", passwordView{Shell: s.Shell(c, "The first person", ""), First: true})
}

// BeginOffice makes the account of the first person, who knows the word that the console has shown.
func BeginOffice(s *frame.Frame, c *echo.Context) error {
	ctx := c.Request().Context()
	v := passwordView{Shell: s.Shell(c, "The first person", ""), First: true, Name: c.FormValue("name"), Email: c.FormValue("email")}
	if err := s.Tries.Turn("first run", frame.Sender(c.Request()), time.Now()); err != nil {
		return err
	}
	a, err := s.Store.BeginOffice(ctx, s.FirstWord, c.FormValue("word"), v.Name, v.Email, c.FormValue("password"))
	if err != nil {
		v.Problem = frame.Sentence(err.Error())
		return s.Render(c, http.StatusUnprocessableEntity, "password", "page", v)
	}
	if err := s.Sessions.RenewToken(ctx); err != nil {
		return err
	}
	return enter(s, c, a)
}
