package web

import (
	"errors"
	"fmt"
	"slices"

	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/detect"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/store"
)

// manyPages is from how many pages on finding goes to the queue.
const manyPages = 12

// find runs detection over a page or the whole document and adds what is new. It
// leaves alone what is there: a find that overlaps a field is not proposed again.
func (s *Server) find(c *echo.Context) error {
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
	house, err := s.store.Dictionary(ctx)
	if err != nil {
		return err
	}
	style, err := s.store.House(ctx)
	if err != nil {
		return err
	}
	var found []form.Field
	for n := first; n <= last; n++ {
		ev, err := s.pageEvidence(ctx, pages[n-1])
		if err != nil {
			return err
		}
		for _, f := range detect.PageWith(ev, house) {
			row := f.Field(n)
			style.Dress(&row)
			found = append(found, row)
		}
	}
	had := doc.Fields+doc.Open > 0
	done, err := s.store.Change(ctx, id, doc.Revision, account(c).ID, "find", func(t *form.Template) (form.Edit, error) {
		return t.AddNew(within(c, t, found))
	})
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

// within keeps the finds in the frame that was drawn, if one was.
func within(c *echo.Context, t *form.Template, found []form.Field) []form.Field {
	if c.FormValue("scope") != "area" {
		return found
	}
	n := number(c.FormValue("page"), 1)
	if n < 1 || n > len(t.Pages) {
		return nil
	}
	p := t.Pages[n-1]
	frame := geom.R(real(c, "x0"), real(c, "y0"), real(c, "x1"), real(c, "y1")).Apply(geom.FromView(p.Width, p.Height, p.Rotate))
	return slices.DeleteFunc(found, func(f form.Field) bool { return f.Page != n || !frame.Contains(f.Rect.Mid()) })
}
