package bringin

import (
	"errors"
	"fmt"
	"net/http"
	"time"

	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/standin"
	"zealousmargin.example/internal/store"
	"zealousmargin.example/internal/web/frame"
	"zealousmargin.example/internal/web/pages"
)

type scanView struct {
	frame.Shell
	Devices []standin.Device
	Into    *store.Document
	Where   string
	Chosen  string
	Problem string
}

// ScanTray shows the scanners that answer. With a document named, the pages go into
// that one.
func ScanTray(s *frame.Frame, c *echo.Context) error {
	v, err := scanning(s, c)
	if err != nil {
		return err
	}
	return s.Render(c, http.StatusOK, "scantray", "page", v)
}

func scanning(s *frame.Frame, c *echo.Context) (scanView, error) {
	v := scanView{Shell: s.Shell(c, "Scan tray", "workroom"), Where: c.FormValue("where"), Chosen: c.FormValue("ids")}
	if s.Scanner == nil {
		return v, store.ErrMissing
	}
	var err error
	if v.Devices, err = s.Scanner.Devices(c.Request().Context()); err != nil {
		return v, err
	}
	if into := frame.Number(c.FormValue("into"), 0); into > 0 {
		d, err := s.Store.Document(c.Request().Context(), int64(into))
		if err != nil {
			return v, err
		}
		v.Into = &d
	}
	return v, nil
}

// Scan scans what lies in the tray and brings it in.
func Scan(s *frame.Frame, c *echo.Context) error {
	ctx := c.Request().Context()
	v, err := scanning(s, c)
	if err != nil {
		return err
	}
	r := standin.Request{
		Device: c.FormValue("device"), DPI: frame.Number(c.FormValue("dpi"), 200),
		Colour: standin.Colour(c.FormValue("colour")), Source: standin.Source(c.FormValue("source")),
	}
	n := store.NewIntake{Account: frame.Account(c).ID}
	err = s.Scanner.Scan(ctx, r, func(page []byte) error {
		n.Files = append(n.Files, store.NamedFile{Name: fmt.Sprintf("Scanned %s, sheet %d.png", time.Now().Format("2 January 15.04"),
			len(n.Files)+1), Bytes: page})
		return nil
	})
	if err == nil && len(n.Files) == 0 {
		err = errors.New("no page came out of the scanner: lay paper in and try again")
	}
	if err != nil {
		v.Problem = frame.Sentence(err.Error())
		return s.Render(c, http.StatusUnprocessableEntity, "scantray", "page", v)
	}
	to := "/"
	if v.Into != nil {
		t := form.Template{Pages: v.Into.Pages()}
		n.Into, n.At = v.Into.ID, pages.Place(s, c, &t)
		to = fmt.Sprintf("/documents/%d/pages", v.Into.ID)
	}
	if _, err := s.Store.AddIntake(ctx, n); err != nil {
		return err
	}
	return c.Redirect(http.StatusSeeOther, to)
}
