package pages

import (
	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/web/bench"
	"zealousmargin.example/internal/web/frame"
)

func Undo(s *frame.Frame, c *echo.Context) error { return takeBack(s, c, false) }

func Redo(s *frame.Frame, c *echo.Context) error { return takeBack(s, c, true) }

func takeBack(s *frame.Frame, c *echo.Context, redo bool) error {
	id, err := frame.IdOf(c)
	if err != nil {
		return err
	}
	if _, err := s.Store.Undo(c.Request().Context(), id, frame.Account(c).ID, redo); err != nil {
		return frame.Refuse(err)
	}
	if c.FormValue("stage") == "pages" {
		return again(s, c, id)
	}
	return bench.Again(s, c, id, nil)
}
