package frame

import (
	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/store"
)

// May is what a person may do beside working on documents.
type May struct {
	Administer bool // house words, house style, settings, people
	Release    bool
}

// May tells what the person of a request may do.
func (s *Frame) May(c *echo.Context) (May, error) {
	if a := Account(c); a.Role == store.Administrator {
		return May{Administer: true, Release: true}, nil
	}
	v, err := s.Store.Setting(c.Request().Context(), store.PreparersRelease)
	return May{Release: v == "yes"}, err
}
