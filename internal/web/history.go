package web

import (
	"net/http"
	"strconv"

	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/store"
)

// steps is how far back the list of steps goes.
const steps = 60

type historyView struct {
	Doc   int64
	Steps []store.Step
	Now   int64 // the last step that is done
}

// history is the list of what was done, to go back to or forward to.
func (s *Frame) history(c *echo.Context) error {
	id, err := idOf(c)
	if err != nil {
		return err
	}
	all, err := s.store.History(c.Request().Context(), id, steps)
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
	return s.render(c, http.StatusOK, "bench", "history", v)
}

// jump goes back or forward to a step.
func (s *Frame) jump(c *echo.Context) error {
	id, err := idOf(c)
	if err != nil {
		return err
	}
	step, err := strconv.ParseInt(c.FormValue("step"), 10, 64)
	if err != nil {
		return store.ErrMissing
	}
	if err := s.store.JumpTo(c.Request().Context(), id, account(c).ID, step); err != nil {
		return refuse(err)
	}
	return s.benchAgain(c, id, nil)
}

// latest tells an open bench whether somebody else has changed the draft.
func (s *Frame) latest(c *echo.Context) error {
	id, err := idOf(c)
	if err != nil {
		return err
	}
	l, err := s.store.Latest(c.Request().Context(), id)
	if err != nil {
		return err
	}
	out := map[string]any{"rev": l.Revision, "own": l.AccountID != nil && *l.AccountID == account(c).ID, "by": value(l.By), "title": value(l.Title)}
	return c.JSON(http.StatusOK, out)
}

func value(p *string) string {
	if p == nil {
		return ""
	}
	return *p
}
