package bench

import (
	"net/http"
	"strconv"

	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/store"
	"zealousmargin.example/internal/web/frame"
)

// steps is how far back the list of steps goes.
const steps = 60

type historyView struct {
	Doc   int64
	Steps []store.Step
	Now   int64 // the last step that is done
}

// History is the list of what was done, to go back to or forward to.
func History(s *frame.Frame, c *echo.Context) error {
	id, err := frame.IdOf(c)
	if err != nil {
		return err
	}
	all, err := s.Store.History(c.Request().Context(), id, steps)
	if err != nil {
		return err
	}
	v := historyView{Doc: id, Steps: all}
	for _, e := range all {
		if e.State == "done" {
			v.Now = e.ID
			break
		}
	}
	return s.Render(c, http.StatusOK, "bench", "history", v)
}

// Jump goes back or forward to a step.
func Jump(s *frame.Frame, c *echo.Context) error {
	id, err := frame.IdOf(c)
	if err != nil {
		return err
	}
	step, err := strconv.ParseInt(c.FormValue("step"), 10, 64)
	if err != nil {
		return store.ErrMissing
	}
	if err := s.Store.JumpTo(c.Request().Context(), id, frame.Account(c).ID, step); err != nil {
		return frame.Refuse(err)
	}
	return Again(s, c, id, nil)
}

// Latest tells an open bench whether somebody else has changed the draft.
func Latest(s *frame.Frame, c *echo.Context) error {
	id, err := frame.IdOf(c)
	if err != nil {
		return err
	}
	l, err := s.Store.Latest(c.Request().Context(), id)
	if err != nil {
		return err
	}
	out := map[string]any{
		"rev": l.Revision, "own": l.AccountID != nil && *l.AccountID == frame.Account(c).ID, "by": frame.Value(l.By),
		"title": frame.Value(l.Title),
	}
	return c.JSON(http.StatusOK, out)
}
