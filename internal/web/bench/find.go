package bench

import (
	"errors"
	"fmt"

	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/store"
	"zealousmargin.example/internal/web/frame"
)

// manyPages is from how many pages on finding goes to the queue.
const manyPages = 12

// Find runs detection over a page or the whole document and adds what is new. It
// leaves alone what is there: a find that overlaps a field is not proposed again.
func Find(s *frame.Frame, c *echo.Context) error {
	id, err := frame.IdOf(c)
	if err != nil {
		return err
	}
	ctx := c.Request().Context()
	doc, err := s.Store.Document(ctx, id)
	if err != nil {
		return err
	}
	pages := doc.Pages()
	first, last := 1, len(pages)
	if c.FormValue("scope") != "all" {
		first = min(max(1, frame.Number(c.FormValue("page"), 1)), last)
		last = first
	}
	if last-first >= manyPages { // so many take their time: on the queue, with progress
		if t, err := s.Store.LastTask(ctx, store.TaskFind, id); err == nil && t.Running() {
			return frame.Refuse(errors.New("fields are being found already: wait for it, or cancel it"))
		}
		if err := s.Store.AddFind(ctx, id, frame.Account(c).ID); err != nil {
			return err
		}
		return Again(s, c, id, nil)
	}
	had := doc.Fields+doc.Open > 0
	r, err := s.Asking(c, id)
	if err != nil {
		return err
	}
	done, err := s.CarryOut(ctx, id, doc.Revision, frame.Account(c).ID, "find", true, r.Find)
	if errors.Is(err, form.ErrNothing) {
		c.Response().Header().Set("HX-Trigger", `{"zm:say":{"text":"Nothing new was found: the writing areas on this page have their fields."}}`)
		return Again(s, c, id, nil)
	}
	if err != nil {
		return frame.Refuse(err)
	}
	if had {
		c.Response().Header().Set("HX-Trigger", fmt.Sprintf(`{"zm:say":{"text":"New: %s. What was there is as it was."}}`, done.Title))
	}
	return Again(s, c, id, nil)
}
