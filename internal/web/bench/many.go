package bench

import (
	"errors"
	"html/template"
	"net/http"
	"strings"

	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/store"
	"zealousmargin.example/internal/web/frame"
	"zealousmargin.example/internal/web/markup"
	"zealousmargin.example/internal/web/notes"
)

// many is the note of several chosen fields.
type many struct {
	N        int
	Doc      int64
	IDs      string
	Y, H     float64
	Required markup.Saying
	ReadOnly markup.Saying
	ShowIf   markup.Saying
	Format   template.HTML // what they accept; empty when some cannot have a format
	Groups   []notes.Group
	Line     bool // they stand on one page and can be lined up
	// Favourites are the styles that they can be given.
	Favourites []store.Favourite
}

// manyOf describes several fields; nil when there are fewer than two.
func manyOf(doc int64, t form.Template, ids []string) *many {
	var fields []form.Field
	for _, id := range ids {
		if f, ok := t.Field(id); ok {
			fields = append(fields, f)
		}
	}
	if len(fields) < 2 {
		return nil
	}
	m := &many{N: len(fields), Doc: doc, Groups: notes.Groups("many", fields), Line: true}
	var kept []string
	for _, f := range fields {
		kept = append(kept, f.ID)
		m.Line = m.Line && f.Page == fields[0].Page
	}
	m.IDs = strings.Join(kept, ",")
	p := t.Pages[fields[0].Page-1]
	r := fields[0].Rect.Apply(geom.ToView(p.Width, p.Height, p.Rotate))
	m.Y, m.H = geom.Round(r.Y0), geom.Round(r.H())
	m.Format = notes.FormatOf("many", fields)
	m.Required = notes.Property("many", "required", "They", ",", fields)
	m.ReadOnly = notes.Property("many", "readonly", "and", ".", fields)
	m.ShowIf = notes.Property("many", "showif", "They show only if", ".", fields)
	return m
}

// ManyNote answers with the note of several chosen fields.
func ManyNote(s *frame.Frame, c *echo.Context) error {
	d, err := s.DraftOf(c)
	if err != nil {
		return err
	}
	id := d.Document.ID
	m := manyOf(id, d.Template, frame.Chosen(c))
	if m == nil {
		return frame.Refuse(errors.New("choose two fields or more"))
	}
	if m.Favourites, err = s.Store.Favourites(c.Request().Context()); err != nil {
		return err
	}
	return s.Render(c, http.StatusOK, "bench", "many", m)
}

// Copied answers with chosen fields as data, for pasting here or in another document.
func Copied(s *frame.Frame, c *echo.Context) error {
	d, err := s.DraftOf(c)
	if err != nil {
		return err
	}
	fields := []form.Field{}
	for _, id := range frame.Chosen(c) {
		if f, ok := d.Template.Field(id); ok {
			fields = append(fields, f)
		}
	}
	return c.JSON(http.StatusOK, fields)
}
