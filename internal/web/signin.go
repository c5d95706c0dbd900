package web

import (
	"errors"
	"net/http"

	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/store"
)

// signedIn lets only people with an account through.
func (s *Frame) signedIn(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		ctx := c.Request().Context()
		id := s.sessions.GetInt64(ctx, "account")
		if id != 0 {
			a, err := s.store.Account(ctx, id)
			if err == nil {
				c.Set("account", a)
				return next(c)
			}
			if !errors.Is(err, store.ErrMissing) {
				return err
			}
		}
		if c.Request().Header.Get("HX-Request") != "" {
			c.Response().Header().Set("HX-Redirect", "/sign-in")
			return c.NoContent(http.StatusUnauthorized)
		}
		return c.Redirect(http.StatusSeeOther, "/sign-in")
	}
}

type signInView struct {
	shell
	Hint, Email, Problem string
}

func (s *Frame) signInPage(c *echo.Context) error {
	if s.sessions.GetInt64(c.Request().Context(), "account") != 0 {
		return c.Redirect(http.StatusSeeOther, "/")
	}
	return s.render(c, http.StatusOK, "signin", "page", signInView{shell: s.shell(c, "Sign in", ""), Hint: s.hint})
}

func (s *Frame) signIn(c *echo.Context) error {
	ctx := c.Request().Context()
	email := c.FormValue("email")
	a, err := s.store.SignIn(ctx, email, c.FormValue("password"))
	if errors.Is(err, store.ErrSignIn) {
		v := signInView{shell: s.shell(c, "Sign in", ""), Hint: s.hint, Email: email, Problem: sentence(err.Error())}
		return s.render(c, http.StatusUnprocessableEntity, "signin", "page", v)
	}
	if err != nil {
		return err
	}
	if err := s.sessions.RenewToken(ctx); err != nil { // against a token that was known before
		return err
	}
	s.sessions.Put(ctx, "account", a.ID)
	return c.Redirect(http.StatusSeeOther, "/")
}

func (s *Frame) signOut(c *echo.Context) error {
	if err := s.sessions.Destroy(c.Request().Context()); err != nil {
		return err
	}
	return c.Redirect(http.StatusSeeOther, "/sign-in")
}
