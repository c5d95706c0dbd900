package signin

import (
	"errors"
	"net/http"
	"time"

	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/store"
	"zealousmargin.example/internal/web/frame"
)

type signInView struct {
	frame.Shell
	Hint, Email, Problem string
}

func Show(s *frame.Frame, c *echo.Context) error {
	if s.Sessions.GetInt64(c.Request().Context(), "account") != 0 {
		return c.Redirect(http.StatusSeeOther, "/")
	}
	return s.Render(c, http.StatusOK, "signin", "page", signInView{Shell: s.Shell(c, "Sign in", ""), Hint: s.Hint})
}

func SignIn(s *frame.Frame, c *echo.Context) error {
	ctx := c.Request().Context()
	email := c.FormValue("email")
	if err := s.Tries.Turn(email, frame.Sender(c.Request()), time.Now()); err != nil {
		v := signInView{Shell: s.Shell(c, "Sign in", ""), Hint: s.Hint, Email: email, Problem: frame.Sentence(err.Error())}
		return s.Render(c, http.StatusTooManyRequests, "signin", "page", v)
	}
	a, err := s.Store.SignIn(ctx, email, c.FormValue("password"))
	if errors.Is(err, store.ErrSignIn) {
		v := signInView{Shell: s.Shell(c, "Sign in", ""), Hint: s.Hint, Email: email, Problem: frame.Sentence(err.Error())}
		return s.Render(c, http.StatusUnprocessableEntity, "signin", "page", v)
	}
	if err != nil {
		return err
	}
	if err := s.Sessions.RenewToken(ctx); err != nil { // against a token that was known before
		return err
	}
	s.Tries.Good(email)
	s.Sessions.Put(ctx, "account", a.ID)
	return c.Redirect(http.StatusSeeOther, "/")
}

func SignOut(s *frame.Frame, c *echo.Context) error {
	if err := s.Sessions.Destroy(c.Request().Context()); err != nil {
		return err
	}
	return c.Redirect(http.StatusSeeOther, "/sign-in")
}
