package bench

import (
	"errors"
	"maps"
	"net/http"
	"slices"

	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/command"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/pdf/read"
	"zealousmargin.example/internal/store"
	"zealousmargin.example/internal/web/frame"
)

// fieldsView is the list of all fields of a document.
type fieldsView struct {
	frame.Shell
	Doc      store.Document
	Stage    string
	Tabs     []frame.Tab
	Rows     []fieldRow
	Problems int
	Odd      []oddRow // fields of its files that stay as they came
}

type fieldRow struct {
	form.Field
	N     int // place in the tab order of its page
	Kind  string
	Wrong string
}

type oddRow struct {
	read.Odd
	Kind string
}

// kindWords is a kind of field as people say it.
func kindWords(kind string) string {
	for _, k := range form.KindWords {
		if k.Value == kind {
			return k.Words
		}
	}
	return kind
}

// Fields is the list of all fields: to look through, search, sort and rename in.
func Fields(s *frame.Frame, c *echo.Context) error {
	d, err := s.DraftOf(c)
	if err != nil {
		return err
	}
	v := fieldsView{
		Shell: s.Shell(c, d.Document.Title+": all fields", "bench"), Doc: d.Document, Stage: "fit",
		Tabs: frame.Tabs("fit", d.Document.Doubtful),
	}
	page, n := 0, 0
	for _, f := range d.Template.Fields {
		if f.Page != page {
			page, n = f.Page, 0
		}
		n++
		r := fieldRow{Field: f, N: n, Wrong: wrongOf(f)}
		r.Kind = kindWords(f.KindWord())
		if r.Wrong != "" {
			v.Problems++
		}
		v.Rows = append(v.Rows, r)
	}
	if v.Odd, err = oddOf(s, c, d.Template); err != nil {
		return err
	}
	return s.Render(c, http.StatusOK, "fields", "page", v)
}

// oddOf lists the fields that the files of a draft brought and that stay as they came: no row says them.
func oddOf(s *frame.Frame, c *echo.Context, t form.Template) ([]oddRow, error) {
	var out []oddRow
	at := map[string]map[int]int{} // where the pages of each file are now
	for i, p := range t.Pages {
		if at[p.File] == nil {
			at[p.File] = map[int]int{}
		}
		if at[p.File][p.N] == 0 {
			at[p.File][p.N] = i + 1
		}
	}
	for _, sha := range slices.Sorted(maps.Keys(at)) {
		b, err := s.File(c.Request().Context(), sha)
		if err != nil {
			return nil, err
		}
		all, err := read.Odds(b)
		if err != nil {
			return nil, err
		}
		for _, o := range all {
			if now := at[sha][o.Page]; !o.Row && (o.Page == 0 || now > 0) {
				o.Page = now
				out = append(out, oddRow{o, kindWords(string(o.Kind))})
			}
		}
	}
	return out, nil
}

// Rename gives one field of the list another name.
func Rename(s *frame.Frame, c *echo.Context) error {
	id, err := frame.IdOf(c)
	if err != nil {
		return err
	}
	e, err := s.CarryOut(c.Request().Context(), id, -1, frame.Account(c).ID, "", false, func(*form.Template) ([]command.Command, error) {
		return []command.Command{command.Set{
			Fields: []string{c.Param("field")}, Key: c.FormValue("key"),
			Value: command.Words(c.FormValue("value")),
		}}, nil
	})
	if errors.Is(err, form.ErrNothing) {
		return c.NoContent(http.StatusNoContent)
	}
	if err != nil {
		return frame.Refuse(err)
	}
	if err := s.Store.Propose(c.Request().Context(), id, e, frame.Account(c).ID); err != nil {
		return err
	}
	return c.NoContent(http.StatusNoContent)
}

// wrongOf tells what keeps a field from being ready, in a few words; empty for nothing.
func wrongOf(f form.Field) string {
	switch {
	case !f.Placed():
		return "doubtful: keep or drop it"
	case f.Origin != nil && slices.Contains(f.Origin.Keeps, form.KeepsOffPage):
		return "off the page: it shows at the edge"
	case f.Tooltip == "":
		return "no tooltip"
	case f.Kind == form.Choice && len(f.Options) == 0:
		return "no options"
	case f.Kind == form.Button && f.Action.Do == "" && len(f.Steps) == 0:
		return "does nothing"
	}
	return ""
}
