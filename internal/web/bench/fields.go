package bench

import (
	"net/http"

	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/command"
	"zealousmargin.example/internal/form"
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
}

type fieldRow struct {
	form.Field
	N     int // place in the tab order of its page
	Kind  string
	Wrong string
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
		for _, k := range form.KindWords {
			if k.Value == f.KindWord() {
				r.Kind = k.Words
			}
		}
		if r.Wrong != "" {
			v.Problems++
		}
		v.Rows = append(v.Rows, r)
	}
	return s.Render(c, http.StatusOK, "fields", "page", v)
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
	case f.Tooltip == "":
		return "no tooltip"
	case f.Kind == form.Choice && len(f.Options) == 0:
		return "no options"
	case f.Kind == form.Button && f.Action.Do == "":
		return "does nothing"
	}
	return ""
}
