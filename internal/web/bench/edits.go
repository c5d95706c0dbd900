package bench

import (
	"context"
	"encoding/json"
	"errors"
	"net/http"
	"net/url"
	"slices"
	"strconv"

	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/web/ask"
	"zealousmargin.example/internal/web/frame"
)

// Edit carries out what the bench asks of a draft and answers with the bench as it is then.
func Edit(s *frame.Frame, c *echo.Context) error {
	id, err := frame.IdOf(c)
	if err != nil {
		return err
	}
	ctx := c.Request().Context()
	base, err := strconv.ParseInt(c.FormValue("base"), 10, 64)
	if err != nil {
		return frame.Refuse(errors.New("this page is out of date: load it again"))
	}
	r, err := s.Asking(c, id)
	if err != nil {
		return err
	}
	e, err := s.CarryOut(ctx, id, base, frame.Account(c).ID, frame.StageOf(c), ask.Reads(c.FormValue("do")), r.Edit)
	if errors.Is(err, form.ErrNothing) {
		return Again(s, c, id, nil)
	}
	var taken *form.TakenError
	if errors.As(err, &taken) { // the bench asks: link, or the free name
		b, err := json.Marshal(map[string]any{"zm:taken": map[string]string{"id": taken.ID, "name": taken.Name, "free": taken.Free}})
		if err != nil {
			return err
		}
		c.Response().Header().Set("HX-Trigger", string(b))
	}
	if errors.Is(err, form.ErrClash) {
		if err := sayTheirs(s, c, id); err != nil {
			return err
		}
	}
	if err != nil {
		markWrong(c, err)
		return frame.Refuse(err)
	}
	if err := s.Store.Propose(ctx, id, e, frame.Account(c).ID); err != nil {
		return err
	}
	if e.Said != "" {
		b, err := json.Marshal(map[string]any{"zm:say": map[string]string{"text": e.Said}})
		if err != nil {
			return err
		}
		c.Response().Header().Set("HX-Trigger", string(b))
	}
	var added []string
	for _, f := range e.After {
		if !slices.ContainsFunc(e.Before, func(b form.Field) bool { return b.ID == f.ID }) {
			added = append(added, f.ID)
		}
	}
	return Again(s, c, id, added)
}

// sayTheirs tells the bench what a property says that somebody else has set first.
func sayTheirs(s *frame.Frame, c *echo.Context, id int64) error {
	p, ok := form.PropertyOf(form.FieldProperties, c.FormValue("key"))
	if !ok || c.FormValue("do") != "set" {
		return nil
	}
	d, err := s.Store.Draft(c.Request().Context(), id)
	if err != nil {
		return err
	}
	if ids := frame.Chosen(c); len(ids) > 0 {
		if f, ok := d.Template.Field(ids[0]); ok {
			c.Response().Header().Set("X-ZM-Theirs", url.PathEscape(p.Get(&f)))
		}
	}
	return nil
}

// LearnWord makes a word of the office of what a find was corrected to.
func LearnWord(s *frame.Frame, c *echo.Context) error {
	return word(s, c, func(ctx context.Context, id int64) error {
		_, err := s.Store.AcceptProposal(ctx, id, frame.Account(c).ID)
		return err
	})
}

// LeaveWord leaves a correction to its document.
func LeaveWord(s *frame.Frame, c *echo.Context) error {
	return word(s, c, func(ctx context.Context, id int64) error { return s.Store.DropProposal(ctx, id) })
}

func word(s *frame.Frame, c *echo.Context, do func(ctx context.Context, proposal int64) error) error {
	id, err := frame.IdOf(c)
	if err != nil {
		return err
	}
	proposal, err := strconv.ParseInt(c.Param("word"), 10, 64)
	if err != nil {
		return echo.ErrNotFound
	}
	if err := do(c.Request().Context(), proposal); err != nil {
		return err
	}
	return Again(s, c, id, nil)
}

// benchAgain answers with the bench; fields that were added become the chosen ones.
func Again(s *frame.Frame, c *echo.Context, id int64, added []string) error {
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
	v, err := gather(s, c, id, frame.StageOf(c))
	if err != nil {
		return err
	}
	return s.Render(c, http.StatusOK, "bench", "bench", v)
}
