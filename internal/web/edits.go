package web

import (
	"encoding/json"
	"errors"
	"net/http"
	"slices"
	"strconv"

	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/web/ask"
)

// edit carries out what the bench asks of a draft and answers with the bench as it is then.
func (s *Frame) edit(c *echo.Context) error {
	id, err := idOf(c)
	if err != nil {
		return err
	}
	ctx := c.Request().Context()
	base, err := strconv.ParseInt(c.FormValue("base"), 10, 64)
	if err != nil {
		return refuse(errors.New("this page is out of date: load it again"))
	}
	r, err := s.asking(c, id)
	if err != nil {
		return err
	}
	e, err := s.carryOut(ctx, id, base, account(c).ID, stageOf(c), ask.Reads(c.FormValue("do")), r.Edit)
	if errors.Is(err, form.ErrNothing) {
		return s.benchAgain(c, id, nil)
	}
	var taken *form.TakenError
	if errors.As(err, &taken) { // the bench asks: link, or the free name
		b, err := json.Marshal(map[string]any{"zm:taken": map[string]string{"id": taken.ID, "name": taken.Name, "free": taken.Free}})
		if err != nil {
			return err
		}
		c.Response().Header().Set("HX-Trigger", string(b))
	}
	if err != nil {
		markFormula(c, err)
		return refuse(err)
	}
	if err := s.store.Learn(ctx, e, account(c).ID); err != nil {
		return err
	}
	var added []string
	for _, f := range e.After {
		if !slices.ContainsFunc(e.Before, func(b form.Field) bool { return b.ID == f.ID }) {
			added = append(added, f.ID)
		}
	}
	return s.benchAgain(c, id, added)
}

// benchAgain answers with the bench; fields that were added become the chosen ones.
func (s *Frame) benchAgain(c *echo.Context, id int64, added []string) error {
	if len(added) > 0 {
		b, err := json.Marshal(map[string]any{"zm:added": map[string]any{"ids": added}})
		if err != nil {
			return err
		}
		c.Response().Header().Set("HX-Trigger-After-Swap", string(b))
		if len(added) == 1 {
			q := c.Request()
			if err := q.ParseForm(); err == nil {
				q.Form.Set("open", added[0])
			}
		}
	}
	v, err := s.benchView(c, id, stageOf(c))
	if err != nil {
		return err
	}
	return s.render(c, http.StatusOK, "bench", "bench", v)
}

func (s *Frame) undo(c *echo.Context) error { return s.takeBack(c, false) }
func (s *Frame) redo(c *echo.Context) error { return s.takeBack(c, true) }

func (s *Frame) takeBack(c *echo.Context, redo bool) error {
	id, err := idOf(c)
	if err != nil {
		return err
	}
	if _, err := s.store.Undo(c.Request().Context(), id, account(c).ID, redo); err != nil {
		return refuse(err)
	}
	if c.FormValue("stage") == "pages" {
		return s.pagesAgain(c, id)
	}
	return s.benchAgain(c, id, nil)
}
