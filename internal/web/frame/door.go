package frame

import (
	"errors"
	"net/http"

	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/store"
)

// SignedIn lets only people with an account through.
func (s *Frame) SignedIn(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		ctx := c.Request().Context()
		if id := s.Sessions.GetInt64(ctx, "visit"); id != 0 {
			a, err := s.Store.Visiting(ctx, id)
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
