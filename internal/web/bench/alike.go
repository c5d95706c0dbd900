package bench

import (
	"net/http"
	"strings"

	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/arrange"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/store"
	"zealousmargin.example/internal/web/frame"
)

// alikeView is what fields of a page can be chosen by in one press.
type alikeView struct {
	Kinds, Asks []choice
	Column, Row *choice // of the one field that is chosen
}

type choice struct {
	Words, IDs string
	N          int
}

func choiceOf(words string, ids []string) choice {
	return choice{Words: words, IDs: strings.Join(ids, ","), N: len(ids)}
}

// onPage are the fields of the page that a request is about, and how the page is shown.
func onPage(s *frame.Frame, c *echo.Context) (fields []form.Field, view geom.Matrix, err error) {
	d, err := s.DraftOf(c)
	if err != nil {
		return nil, view, err
	}
	n := frame.Number(c.FormValue("page"), 1)
	if n < 1 || n > len(d.Template.Pages) {
		return nil, view, store.ErrMissing
	}
	p := d.Template.Pages[n-1]
	return d.Template.OnPage(n), geom.ToView(p.Width, p.Height, p.Rotate), nil
}

// AlikeFields offers to choose fields of a page by what they have in common.
func AlikeFields(s *frame.Frame, c *echo.Context) error {
	fields, view, err := onPage(s, c)
	if err != nil {
		return err
	}
	var v alikeView
	for _, a := range arrange.Kinds(fields) {
		v.Kinds = append(v.Kinds, choiceOf(a.Words, a.IDs))
	}
	for _, a := range arrange.Asks(fields) {
		v.Asks = append(v.Asks, choiceOf(a.Words, a.IDs))
	}
	if ids := frame.Chosen(c); len(ids) == 1 {
		column, row := choiceOf("its column", arrange.Column(fields, ids[0], view)), choiceOf("its row", arrange.Row(fields, ids[0], view))
		v.Column, v.Row = &column, &row
	}
	return s.Render(c, http.StatusOK, "bench", "alike", v)
}

// ChosenBy answers with the ids of the fields of a page that a pattern names, or that stand in the column or the row of one.
func ChosenBy(s *frame.Frame, c *echo.Context) error {
	fields, view, err := onPage(s, c)
	if err != nil {
		return err
	}
	out := []string{}
	one := c.FormValue("ids")
	switch c.FormValue("by") {
	case "column":
		out = arrange.Column(fields, one, view)
	case "row":
		out = arrange.Row(fields, one, view)
	default:
		out = append(out, arrange.Named(fields, c.FormValue("pattern"))...)
	}
	return c.JSON(http.StatusOK, out)
}
