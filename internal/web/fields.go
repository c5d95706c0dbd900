package web

import (
	"net/http"

	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/command"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/store"
)

// fieldsView is the list of all fields of a document.
type fieldsView struct {
	shell
	Doc      store.Document
	Stage    string
	Tabs     []tab
	Rows     []fieldRow
	Problems int
}

type fieldRow struct {
	form.Field
	N     int // place in the tab order of its page
	Kind  string
	Wrong string
}

// fields is the list of all fields: to look through, search, sort and rename in.
func (s *Frame) fields(c *echo.Context) error {
	d, err := s.draftOf(c)
	if err != nil {
		return err
	}
	v := fieldsView{shell: s.shell(c, d.Document.Title+": all fields", "bench"), Doc: d.Document, Stage: "fit", Tabs: tabs("fit", d.Document.Doubtful)}
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
	return s.render(c, http.StatusOK, "fields", "page", v)
}

// rename gives one field of the list another name.
func (s *Frame) rename(c *echo.Context) error {
	id, err := idOf(c)
	if err != nil {
		return err
	}
	e, err := s.carryOut(c.Request().Context(), id, -1, account(c).ID, "", false, func(*form.Template) ([]command.Command, error) {
		return []command.Command{command.Set{Fields: []string{c.Param("field")}, Key: c.FormValue("key"), Value: command.Words(c.FormValue("value"))}}, nil
	})
	if err != nil {
		return refuse(err)
	}
	if err := s.store.Learn(c.Request().Context(), e, account(c).ID); err != nil {
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
