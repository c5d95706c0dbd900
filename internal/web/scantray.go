package web

import (
	"errors"
	"fmt"
	"net/http"
	"time"

	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/standin"
	"zealousmargin.example/internal/store"
)

type scanView struct {
	shell
	Devices []standin.Device
	Into    *store.Document
	Where   string
	Chosen  string
	Problem string
}

// scanTray shows the scanners that answer. With a document named, the pages go into
// that one.
func (s *Frame) scanTray(c *echo.Context) error {
	v, err := s.scanView(c)
	if err != nil {
		return err
	}
	return s.render(c, http.StatusOK, "scantray", "page", v)
}

func (s *Frame) scanView(c *echo.Context) (scanView, error) {
	v := scanView{shell: s.shell(c, "Scan tray", "workroom"), Where: c.FormValue("where"), Chosen: c.FormValue("ids")}
	if s.scanner == nil {
		return v, store.ErrMissing
	}
	var err error
	if v.Devices, err = s.scanner.Devices(c.Request().Context()); err != nil {
		return v, err
	}
	if into := number(c.FormValue("into"), 0); into > 0 {
		d, err := s.store.Document(c.Request().Context(), int64(into))
		if err != nil {
			return v, err
		}
		v.Into = &d
	}
	return v, nil
}

// scan scans what lies in the tray and brings it in.
func (s *Frame) scan(c *echo.Context) error {
	ctx := c.Request().Context()
	v, err := s.scanView(c)
	if err != nil {
		return err
	}
	r := standin.Request{Device: c.FormValue("device"), DPI: number(c.FormValue("dpi"), 200), Colour: standin.Colour(c.FormValue("colour")), Source: standin.Source(c.FormValue("source"))}
	n := store.NewIntake{Account: account(c).ID}
	err = s.scanner.Scan(ctx, r, func(page []byte) error {
		n.Files = append(n.Files, store.NamedFile{Name: fmt.Sprintf("Scanned %s, sheet %d.png", time.Now().Format("2 January 15.04"), len(n.Files)+1), Bytes: page})
		return nil
	})
	if err == nil && len(n.Files) == 0 {
		err = errors.New("no page came out of the scanner: lay paper in and try again")
	}
	if err != nil {
		v.Problem = sentence(err.Error())
		return s.render(c, http.StatusUnprocessableEntity, "scantray", "page", v)
	}
	to := "/"
	if v.Into != nil {
		t := form.Template{Pages: v.Into.Pages()}
		n.Into, n.At = v.Into.ID, s.place(c, &t)
		to = fmt.Sprintf("/documents/%d/pages", v.Into.ID)
	}
	id, err := s.store.AddIntake(ctx, n)
	if err != nil {
		return err
	}
	if err := s.queue.Read(ctx, id, ""); err != nil {
		return err
	}
	return c.Redirect(http.StatusSeeOther, to)
}
