package web

import (
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/arrange"
	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/store"
)

// edit carries out one change to the draft and answers with the bench as it is
// then. Everything that the bench does to fields comes through here.
func (s *Server) edit(c *echo.Context) error {
	id, err := idOf(c)
	if err != nil {
		return err
	}
	ctx := c.Request().Context()
	var with means
	if do := c.FormValue("do"); do == "place" || do == "extend" || do == "again" || do == "boxes" {
		doc, err := s.store.Document(ctx, id)
		if err != nil {
			return err
		}
		n := number(c.FormValue("page"), 1)
		pages := doc.Pages()
		if n < 1 || n > len(pages) {
			return store.ErrMissing
		}
		if with.ev, err = s.pageEvidence(ctx, pages[n-1]); err != nil {
			return err
		}
	}
	switch c.FormValue("do") {
	case "place":
		if with.house, err = s.store.House(ctx); err != nil {
			return err
		}
	case "dress":
		if with.favourite, err = s.store.Favourite(ctx, int64(number(c.FormValue("favourite"), 0))); err != nil {
			return err
		}
	}
	if key := c.FormValue("key"); strings.HasSuffix(key, "url-here") { // answers are to come to this application
		here, err := s.inboxURL(ctx, c, id)
		if err != nil {
			return err
		}
		c.Request().Form.Set("key", strings.TrimSuffix(key, "-here"))
		c.Request().Form.Set("value", here)
	}
	base, err := strconv.ParseInt(c.FormValue("base"), 10, 64)
	if err != nil {
		return refuse(errors.New("this page is out of date: load it again"))
	}
	e, err := s.store.Change(ctx, id, base, account(c).ID, stageOf(c), func(t *form.Template) (form.Edit, error) {
		return plan(c, t, with)
	})
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
func (s *Server) benchAgain(c *echo.Context, id int64, added []string) error {
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

// means are what an edit needs beside the draft: what is printed on its page, the house
// style, a favourite style.
type means struct {
	ev        *evidence.Page
	house     form.House
	favourite store.Favourite
}

// plan works out the edit that a request asks for.
func plan(c *echo.Context, t *form.Template, with means) (form.Edit, error) {
	ev := with.ev
	ids := chosen(c)
	page := number(c.FormValue("page"), 1)
	if page < 1 || page > len(t.Pages) {
		return form.Edit{}, fmt.Errorf("there is no page %d", page)
	}
	p := t.Pages[page-1]
	scope := page
	if c.FormValue("scope") == "all" {
		scope = 0
	}
	toPage := geom.FromView(p.Width, p.Height, p.Rotate)
	switch c.FormValue("do") {
	case "place":
		return place(c, t, with, toPage)
	case "move":
		a, b := toPage.Apply(geom.Point{}), toPage.Apply(geom.Point{X: real(c, "dx"), Y: real(c, "dy")})
		return t.Move(ids, b.X-a.X, b.Y-a.Y)
	case "resize":
		r := geom.R(real(c, "x0"), real(c, "y0"), real(c, "x1"), real(c, "y1")).Apply(toPage)
		return t.Resize(c.FormValue("ids"), r)
	case "remove":
		return t.Remove(ids)
	case "duplicate":
		a, b := toPage.Apply(geom.Point{}), toPage.Apply(geom.Point{X: 12, Y: 12})
		return t.Duplicate(ids, b.X-a.X, b.Y-a.Y)
	case "split":
		return t.Split(c.FormValue("ids"), number(c.FormValue("n"), 2))
	case "join":
		return t.Join(withNext(t, ids))
	case "radio-group":
		return t.GroupRadio(sameQuestion(t, ids))
	case "extend":
		f, ok := t.Field(c.FormValue("ids"))
		if !ok {
			return form.Edit{}, form.ErrClash
		}
		return extend(t, f, ev)
	case "keep":
		return t.Keep(ids)
	case "drop":
		return t.Drop(ids)
	case "keep-all":
		return t.KeepAll(scope)
	case "drop-below":
		level, err := strconv.ParseFloat(c.FormValue("confidence"), 64)
		if err != nil || level < 0 || level > 1 {
			return form.Edit{}, errors.New("choose a confidence below which finds are dropped")
		}
		return t.DropBelow(scope, level)
	case "order":
		return t.MoveInOrder(c.FormValue("ids"), number(c.FormValue("to"), 0))
	case "rows", "columns", "structure":
		how := c.FormValue("do")
		title := map[string]string{"rows": "ordered by rows", "columns": "ordered by columns", "structure": "ordered as the page is built"}[how]
		return t.Reorder(page, title, arrange.Order(t.OnPage(page), how, geom.ToView(p.Width, p.Height, p.Rotate)))
	case "sequence":
		return t.Reorder(page, "ordered by hand", inSequence(t.OnPage(page), ids))
	case "again":
		f, ok := t.Field(c.FormValue("ids"))
		if !ok {
			return form.Edit{}, form.ErrClash
		}
		return again(c, t, f, ev, toPage)
	case "link":
		to := c.FormValue("to")
		for _, f := range t.Fields {
			if f.Name == to {
				return t.Link(c.FormValue("ids"), f.ID)
			}
		}
		return form.Edit{}, fmt.Errorf("there is no field called %q", to)
	case "boxes":
		f, ok := t.Field(c.FormValue("ids"))
		if !ok {
			return form.Edit{}, form.ErrClash
		}
		return boxesIn(t, f, ev)
	case "copy-formula":
		return copyFormula(t, c.FormValue("ids"))
	case "dress":
		style, err := with.favourite.Style()
		if err != nil {
			return form.Edit{}, err
		}
		return t.Dress(with.favourite.Name, ids, style)
	case "unlink":
		return t.Unlink(c.FormValue("ids"))
	case "line-up":
		return lineUp(t, ids, c.FormValue("how"))
	case "repeat":
		a, b := toPage.Apply(geom.Point{}), toPage.Apply(geom.Point{X: real(c, "dx"), Y: real(c, "dy")})
		return t.Repeat(ids, number(c.FormValue("n"), 1), b.X-a.X, b.Y-a.Y)
	case "copy-to":
		pages, err := pagesOf(c.FormValue("pages"), len(t.Pages))
		if err != nil {
			return form.Edit{}, err
		}
		return t.CopyToPages(ids, pages)
	case "paste":
		var fields []form.Field
		if err := json.Unmarshal([]byte(c.FormValue("fields")), &fields); err != nil || len(fields) == 0 {
			return form.Edit{}, errors.New("there are no copied fields: choose some and press Ctrl C first")
		}
		return t.Paste(fields, page)
	case "set":
		return set(t, ids, c.FormValue("key"), c.FormValue("value"), unitOf(c))
	}
	return form.Edit{}, fmt.Errorf("%q is not something that the bench can do", c.FormValue("do"))
}

// inSequence puts the fields that were pressed first, in that order, and then the others.
func inSequence(on []form.Field, pressed []string) []string {
	out := slices.DeleteFunc(slices.Clone(pressed), func(id string) bool {
		return !slices.ContainsFunc(on, func(f form.Field) bool { return f.ID == id })
	})
	for _, f := range on {
		if !slices.Contains(out, f.ID) {
			out = append(out, f.ID)
		}
	}
	return out
}

func lineUp(t *form.Template, ids []string, how string) (form.Edit, error) {
	var fields []form.Field
	for _, id := range ids {
		f, ok := t.Field(id)
		if !ok {
			return form.Edit{}, form.ErrClash
		}
		fields = append(fields, f)
	}
	if len(fields) == 0 {
		return form.Edit{}, errors.New("choose the fields to line up first")
	}
	rects, err := arrange.LineUp(fields, how, t.Pages[fields[0].Page-1])
	if err != nil {
		return form.Edit{}, err
	}
	return t.Lay(fmt.Sprintf("lined up %d fields", len(fields)), rects)
}

// pagesOf reads page numbers and ranges: "2, 4-6", or "all".
func pagesOf(s string, last int) ([]int, error) {
	var out []int
	if strings.EqualFold(strings.TrimSpace(s), "all") {
		s = fmt.Sprintf("1-%d", last)
	}
	for part := range strings.SplitSeq(s, ",") {
		from, to, ranged := strings.Cut(strings.TrimSpace(part), "-")
		a, err := strconv.Atoi(strings.TrimSpace(from))
		b := a
		if ranged && err == nil {
			b, err = strconv.Atoi(strings.TrimSpace(to))
		}
		if err != nil || a < 1 || b > last || a > b {
			return nil, fmt.Errorf("%q is not a page of this document: write numbers from 1 to %d, such as 2, 4-6, or all", strings.TrimSpace(part), last)
		}
		for n := a; n <= b; n++ {
			if !slices.Contains(out, n) {
				out = append(out, n)
			}
		}
	}
	return out, nil
}

// withNext adds the next field in tab order to a single one.
func withNext(t *form.Template, ids []string) []string {
	if len(ids) != 1 {
		return ids
	}
	f, ok := t.Field(ids[0])
	if !ok {
		return ids
	}
	on := t.OnPage(f.Page)
	if i := slices.IndexFunc(on, func(o form.Field) bool { return o.ID == f.ID }); i+1 < len(on) {
		return []string{f.ID, on[i+1].ID}
	}
	return ids
}

// sameQuestion adds to a single box those that stand in one line or column with it.
func sameQuestion(t *form.Template, ids []string) []string {
	if len(ids) != 1 {
		return ids
	}
	f, ok := t.Field(ids[0])
	if !ok {
		return ids
	}
	out := []string{f.ID}
	chain := []form.Field{f}
	for grown := true; grown; {
		grown = false
		for _, o := range t.OnPage(f.Page) {
			if o.Kind == f.Kind && !slices.Contains(out, o.ID) && slices.ContainsFunc(chain, func(x form.Field) bool { return form.Row(x.Rect, o.Rect) }) {
				out, chain, grown = append(out, o.ID), append(chain, o), true
			}
		}
	}
	return out
}

func (s *Server) undo(c *echo.Context) error { return s.takeBack(c, false) }
func (s *Server) redo(c *echo.Context) error { return s.takeBack(c, true) }

func (s *Server) takeBack(c *echo.Context, redo bool) error {
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
