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
	ctx := c.Request().Context()
	if id := s.Sessions.GetInt64(ctx, "visit"); id != 0 {
		if _, err := s.Store.Visiting(ctx, id); err == nil {
			return c.Redirect(http.StatusSeeOther, "/")
		}
	}
	if empty, err := s.Store.Empty(ctx); err != nil {
		return err
	} else if empty {
		return c.Redirect(http.StatusSeeOther, "/first-run")
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
		s.Noted(ctx, 0, store.DeedRefused, "")
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
	return enter(s, c, a)
}

// enter lets a person in.
func enter(s *frame.Frame, c *echo.Context, a store.Account) error {
	ctx := c.Request().Context()
	visit, err := s.Store.BeginVisit(ctx, a.ID, frame.Sender(c.Request()), c.Request().UserAgent())
	if err != nil {
		return err
	}
	s.Sessions.Put(ctx, "visit", visit)
	s.Noted(ctx, a.ID, store.DeedSignedIn, "")
	return c.Redirect(http.StatusSeeOther, "/")
}

func SignOut(s *frame.Frame, c *echo.Context) error {
	ctx := c.Request().Context()
	if id := s.Sessions.GetInt64(ctx, "visit"); id != 0 {
		a, err := s.Store.Visiting(ctx, id)
		if err == nil {
			s.Noted(ctx, a.ID, store.DeedSignedOut, "")
			err = s.Store.EndVisit(ctx, a.ID, id)
		}
		if err != nil && !errors.Is(err, store.ErrMissing) {
			return err
		}
	}
	if err := s.Sessions.Destroy(ctx); err != nil {
		return err
	}
	return c.Redirect(http.StatusSeeOther, "/sign-in")
}
