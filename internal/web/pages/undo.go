package pages

import (
	"errors"
	"net/http"
	"strconv"

	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/store"
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
	base, err := strconv.ParseInt(c.FormValue("base"), 10, 64)
	if err != nil {
		base = -1
	}
	var unseen *store.UnseenError
	if _, err := s.Store.Undo(c.Request().Context(), id, frame.Account(c).ID, base, redo); errors.As(err, &unseen) {
		return frame.RefuseAs(http.StatusConflict, err)
	} else if err != nil {
		return frame.Refuse(err)
	}
	if c.FormValue("stage") == "pages" {
		return again(s, c, id)
	}
	return bench.Again(s, c, id, nil)
}
