package people

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"path"
	"slices"
	"strconv"
	"strings"

	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/intake"
	"zealousmargin.example/internal/roster"
	"zealousmargin.example/internal/store"
	"zealousmargin.example/internal/web/frame"
)

type fillView struct {
	frame.Shell
	Doc       store.Document
	Tabs      []frame.Tab
	Sourced   []form.Field // of the draft
	Proposals []roster.Proposal
	Titles    map[string]string // of columns
	Editions  []store.Edition   // that can be filled in
	Edition   int64
	Words     string
	People    []roster.Person
	All       int
	Fillings  []store.Filling
	Running   bool
	Problem   string
}

// mostShown is how many people are shown to choose among.
const mostShown = 12

// Fill shows what the office fills a form in with, and for whom.
func Fill(s *frame.Frame, c *echo.Context) error {
	return fillPage(s, c, http.StatusOK, "")
}

func fillPage(s *frame.Frame, c *echo.Context, code int, problem string) error {
	d, err := s.DraftOf(c)
	if err != nil {
		return err
	}
	ctx := c.Request().Context()
	v := fillView{
		Shell: s.Shell(c, "For people: "+d.Document.Title, "bench"), Doc: d.Document, Tabs: frame.Tabs("release", d.Document.Doubtful),
		Problem: problem, Titles: map[string]string{}, Words: strings.TrimSpace(c.QueryParam("search")),
		Edition: int64(frame.Number(c.FormValue("edition"), 0)),
	}
	columns, err := s.Store.RosterColumns(ctx)
	if err != nil {
		return err
	}
	for _, col := range columns {
		v.Titles[col.Key] = col.Title
	}
	seen := map[string]bool{}
	for _, f := range d.Template.Placed() {
		if f.Source != form.NoSource && !seen[f.Name] {
			seen[f.Name] = true
			v.Sourced = append(v.Sourced, f)
		}
	}
	v.Proposals = roster.Propose(&d.Template, columns)
	all, err := s.Store.Editions(ctx, d.Document.ID)
	if err != nil {
		return err
	}
	v.Editions = slices.DeleteFunc(all, func(e store.Edition) bool {
		return !e.Kept || e.Locked != "" || e.Profile == string(form.Flat) || e.WithdrawnAt != nil
	})
	if v.People, v.All, err = s.Store.RosterPeople(ctx, v.Words, 0, mostShown); err != nil {
		return err
	}
	if v.Fillings, err = s.Store.Fillings(ctx, d.Document.ID); err != nil {
		return err
	}
	v.Running = slices.ContainsFunc(v.Fillings, func(f store.Filling) bool { return f.Running() })
	return s.Render(c, code, "fill", "page", v)
}

// TakeSources takes proposed sources over: those that are named, or all of them.
func TakeSources(s *frame.Frame, c *echo.Context) error {
	id, err := frame.IdOf(c)
	if err != nil {
		return err
	}
	ctx := c.Request().Context()
	columns, err := s.Store.RosterColumns(ctx)
	if err != nil {
		return err
	}
	only := c.FormValue("field")
	_, err = s.Store.Change(ctx, id, -1, frame.Account(c).ID, "", func(t *form.Template) (form.Edit, error) {
		proposals := roster.Propose(t, columns)
		if only != "" {
			proposals = slices.DeleteFunc(proposals, func(p roster.Proposal) bool { return p.Field != only })
		}
		return roster.Accept(t, proposals)
	})
	if err != nil && !errors.Is(err, form.ErrNothing) {
		return frame.Refuse(err)
	}
	return c.Redirect(http.StatusSeeOther, fmt.Sprintf("/documents/%d/people", id))
}

// Begin asks for copies to be filled in: for those who are chosen, for all whom a search finds, or for those of a table.
func Begin(s *frame.Frame, c *echo.Context) error {
	id, err := frame.IdOf(c)
	if err != nil {
		return err
	}
	ctx := c.Request().Context()
	edition, err := s.Store.Edition(ctx, int64(frame.Number(c.FormValue("edition"), 0)))
	if err != nil || edition.DocumentID != id {
		return fillPage(s, c, http.StatusUnprocessableEntity, "Choose an edition first.")
	}
	people, err := chosen(s, c)
	if err == nil {
		err = takesAnything(ctx, s, edition)
	}
	if err == nil {
		as := c.FormValue("as")
		_, err = s.Store.AddFilling(ctx, edition.ID, frame.Account(c).ID, people, as == "flat" || as == "one", as == "one")
	}
	if store.Said(err) {
		return err
	}
	if err != nil {
		return fillPage(s, c, http.StatusUnprocessableEntity, frame.Sentence(err.Error()))
	}
	return c.Redirect(http.StatusSeeOther, fmt.Sprintf("/documents/%d/people#copies", id))
}

var errNothing = errors.New("no field of this edition takes anything from the office: say above what is filled in, or release it anew")

// takesAnything refuses an edition that nothing would be filled into.
func takesAnything(ctx context.Context, s *frame.Frame, e store.Edition) error {
	t, err := s.Store.EditionForm(ctx, e.ID)
	if err != nil {
		return err
	}
	d, err := s.Store.Draft(ctx, e.DocumentID)
	if err != nil {
		return err
	}
	if _, any := roster.Overlaid(&t, &d.Template); !any {
		return errNothing
	}
	return nil
}

// chosen are the people that a request names.
func chosen(s *frame.Frame, c *echo.Context) ([]roster.Person, error) {
	ctx := c.Request().Context()
	switch c.FormValue("whom") {
	case "table":
		b, err := tableOf(c)
		if err != nil {
			return nil, err
		}
		rows, err := intake.Table(b)
		if err != nil {
			return nil, err
		}
		_, people, refused, err := roster.Read(rows)
		if err == nil && len(refused) > 0 {
			err = fmt.Errorf("nothing was filled in: %w", errors.Join(refused...))
		}
		return people, err
	case "found":
		people, all, err := s.Store.RosterPeople(ctx, c.FormValue("search"), 0, store.MostCopies+1)
		if err == nil && all > store.MostCopies {
			err = store.ErrMany
		}
		return people, err
	}
	return s.Ticked(c)
}

// Copies shows how far the copies of a document are.
func Copies(s *frame.Frame, c *echo.Context) error {
	id, err := frame.IdOf(c)
	if err != nil {
		return err
	}
	v := fillView{Doc: store.Document{ID: id}}
	v.Shell = s.Shell(c, "", "bench")
	if v.Fillings, err = s.Store.Fillings(c.Request().Context(), id); err != nil {
		return err
	}
	v.Running = slices.ContainsFunc(v.Fillings, func(f store.Filling) bool { return f.Running() })
	return s.Render(c, http.StatusOK, "fill", "copies", v)
}

// Cancel ends copies that are being filled in.
func Cancel(s *frame.Frame, c *echo.Context) error {
	f, err := fillingOf(s, c)
	if err != nil {
		return err
	}
	if err := s.Queue.CancelTask(c.Request().Context(), f.Task); err != nil {
		return err
	}
	return c.Redirect(http.StatusSeeOther, fmt.Sprintf("/documents/%d/people#copies", f.DocumentID))
}

func fillingOf(s *frame.Frame, c *echo.Context) (store.Filling, error) {
	id, err := frame.IdOf(c)
	if err != nil {
		return store.Filling{}, err
	}
	return s.Store.Filling(c.Request().Context(), id)
}

// Result gives the copies.
func Result(s *frame.Frame, c *echo.Context) error {
	f, err := fillingOf(s, c)
	if err != nil {
		return err
	}
	if f.Result == nil {
		return store.ErrMissing
	}
	ctx := c.Request().Context()
	b, err := s.Store.File(ctx, *f.Result)
	if err != nil {
		return err
	}
	name, kind := strings.TrimSuffix(f.FileName, path.Ext(f.FileName))+"-filled-"+strconv.FormatInt(f.ID, 10), "application/zip"
	if f.Merged {
		name, kind = name+".pdf", "application/pdf"
	} else {
		name += ".zip"
	}
	s.Noted(ctx, frame.Account(c).ID, store.DeedDownload, name)
	return frame.Download(c, name, kind, b)
}
