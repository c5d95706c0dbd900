package web

import (
	"errors"
	"fmt"

	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/store"
)

// manyPages is from how many pages on finding goes to the queue.
const manyPages = 12

// find runs detection over a page or the whole document and adds what is new. It
// leaves alone what is there: a find that overlaps a field is not proposed again.
func (s *Frame) find(c *echo.Context) error {
	id, err := idOf(c)
	if err != nil {
		return err
	}
	ctx := c.Request().Context()
	doc, err := s.store.Document(ctx, id)
	if err != nil {
		return err
	}
	pages := doc.Pages()
	first, last := 1, len(pages)
	if c.FormValue("scope") != "all" {
		first = min(max(1, number(c.FormValue("page"), 1)), last)
		last = first
	}
	if last-first >= manyPages { // so many take their time: on the queue, with progress
		if t, err := s.store.LastTask(ctx, store.TaskFind, id); err == nil && t.Running() {
			return refuse(errors.New("fields are being found already: wait for it, or cancel it"))
		}
		if err := s.queue.Find(ctx, id, account(c).ID); err != nil {
			return err
		}
		return s.benchAgain(c, id, nil)
	}
	had := doc.Fields+doc.Open > 0
	r, err := s.asking(c, id)
	if err != nil {
		return err
	}
	done, err := s.carryOut(ctx, id, doc.Revision, account(c).ID, "find", true, r.Find)
	if errors.Is(err, form.ErrNothing) {
		c.Response().Header().Set("HX-Trigger", `{"zm:say":{"text":"Nothing new was found: the writing areas on this page have their fields."}}`)
		return s.benchAgain(c, id, nil)
	}
	if err != nil {
		return refuse(err)
	}
	if had {
		c.Response().Header().Set("HX-Trigger", fmt.Sprintf(`{"zm:say":{"text":"New: %s. What was there is as it was."}}`, done.Title))
	}
	return s.benchAgain(c, id, nil)
}
