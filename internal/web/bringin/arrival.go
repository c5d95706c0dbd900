package bringin

import (
	"errors"
	"net/http"
	"path"
	"slices"
	"strings"

	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/command"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/pdf/read"
	"zealousmargin.example/internal/store"
	"zealousmargin.example/internal/web/frame"
	"zealousmargin.example/internal/web/notes"
)

type arrivalView struct {
	frame.Shell
	Doc       store.Document
	Tabs      []frame.Tab
	Pages     []form.Page
	Originals []store.Original
	Details   form.Details
	Leftovers []leftover
	Undo      string
	Unread    int // scans whose text is not recognised
}

// leftover is something that a release can leave behind.
type leftover struct {
	read.Leftover
	Leave bool
}

// Arrival shows how the document came in, its details, and its hidden leftovers.
func Arrival(s *frame.Frame, c *echo.Context) error {
	d, err := s.DraftOf(c)
	if err != nil {
		return err
	}
	ctx := c.Request().Context()
	id := d.Document.ID
	v := arrivalView{
		Shell: s.Shell(c, "Bring in: "+d.Document.Title, "bench"), Doc: d.Document, Tabs: frame.Tabs("bring-in", d.Document.Doubtful),
		Pages: d.Template.Pages, Details: d.Template.Details, Undo: d.Undo,
	}
	if v.Originals, err = s.Store.Originals(ctx, id); err != nil {
		return err
	}
	var seen []string
	left := map[string]int{}
	for _, p := range v.Pages {
		if p.Scan && p.Text == "" {
			v.Unread++
		}
		if slices.Contains(seen, p.File) {
			continue
		}
		seen = append(seen, p.File)
		b, err := s.File(ctx, p.File)
		if err != nil {
			return err
		}
		found, err := read.Leftovers(b)
		if err != nil {
			continue // what cannot be parsed has been refused when it was brought in
		}
		for _, l := range found {
			if at, there := left[l.Key]; there {
				v.Leftovers[at].What += "; " + l.What
				continue
			}
			left[l.Key] = len(v.Leftovers)
			v.Leftovers = append(v.Leftovers, leftover{l, slices.Contains(strings.Split(v.Details.Leave, ","), l.Key)})
		}
	}
	return s.Render(c, http.StatusOK, "arrival", "page", v)
}

// Details changes what readers show about the document, and what is left behind.
func Details(s *frame.Frame, c *echo.Context) error {
	id, err := frame.IdOf(c)
	if err != nil {
		return err
	}
	if err := c.Request().ParseForm(); err != nil {
		return err
	}
	leave := c.Request().Form["leave"]
	slices.Sort(leave)
	said := func(key string) *string { v := c.FormValue(key); return &v }
	left := strings.Join(leave, ",")
	_, err = s.CarryOut(c.Request().Context(), id, -1, frame.Account(c).ID, "", false, func(*form.Template) ([]command.Command, error) {
		return []command.Command{command.Describe{
			Title: said("title"), Author: said("author"), Subject: said("subject"),
			Language: said("language"), Leave: &left, Roles: said("roles"),
		}}, nil
	})
	if err != nil && err != form.ErrNothing {
		return frame.Refuse(err)
	}
	return c.Redirect(http.StatusSeeOther, "/documents/"+c.Param("id")+"/bring-in")
}

func Original(s *frame.Frame, c *echo.Context) error {
	id, err := frame.IdOf(c)
	if err != nil {
		return err
	}
	ctx := c.Request().Context()
	all, err := s.Store.Originals(ctx, id)
	if err != nil {
		return err
	}
	n := frame.Number(c.Param("n"), 0)
	at := slices.IndexFunc(all, func(o store.Original) bool { return o.Position == n })
	if at < 0 {
		return store.ErrMissing
	}
	b, err := s.Store.File(ctx, all[at].File)
	if err != nil {
		return err
	}
	name := all[at].FileName
	if path.Ext(name) == "" {
		name += ".pdf"
	}
	return frame.Download(c, path.Base(name), "application/octet-stream", b)
}

// SetEvent changes what a document does.
func SetEvent(s *frame.Frame, c *echo.Context) error {
	id, err := frame.IdOf(c)
	if err != nil {
		return err
	}
	r, err := s.Asking(c, id)
	if err != nil {
		return err
	}
	_, err = s.CarryOut(c.Request().Context(), id, -1, frame.Account(c).ID, "", false,
		func(*form.Template) ([]command.Command, error) { return r.Event() })
	if err != nil && !errors.Is(err, form.ErrNothing) {
		return frame.Refuse(err)
	}
	doc, err := s.Store.Document(c.Request().Context(), id)
	if err != nil {
		return err
	}
	return s.Render(c, http.StatusOK, "arrival", "events", map[string]any{"Doc": doc, "Said": notes.Events(doc.Details())})
}
