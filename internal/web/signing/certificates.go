package signing

import (
	"errors"
	"fmt"
	"net/http"
	"time"

	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/pdf/sign"
	"zealousmargin.example/internal/store"
	"zealousmargin.example/internal/web/frame"
)

type certificatesView struct {
	frame.Shell
	List    []store.Certificate
	Now     time.Time
	CanKeep bool
	Problem string
}

// MaxCertificate is how large a PKCS#12 file may be, in bytes.
const MaxCertificate = 1 << 20

// Certificates lists the certificates that the office keeps.
func Certificates(s *frame.Frame, c *echo.Context) error {
	return certificates(s, c, http.StatusOK, "")
}

func certificates(s *frame.Frame, c *echo.Context, code int, problem string) error {
	v := certificatesView{Shell: s.Shell(c, "Certificates", "signed"), Now: time.Now(), Problem: problem, CanKeep: len(s.Store.Key) > 0}
	var err error
	if v.List, err = s.Store.Certificates(c.Request().Context()); err != nil {
		return err
	}
	return s.Render(c, code, "certificates", "page", v)
}

// KeepCertificate takes a certificate with its key in, out of a PKCS#12 file; its password is not kept.
func KeepCertificate(s *frame.Frame, c *echo.Context) error {
	err := keep(s, c)
	switch {
	case store.Said(err):
		return err
	case err != nil:
		return certificates(s, c, http.StatusUnprocessableEntity, frame.Sentence(err.Error()))
	}
	return c.Redirect(http.StatusSeeOther, "/certificates")
}

func keep(s *frame.Frame, c *echo.Context) error {
	_, b, err := frame.Upload(c, MaxCertificate, "choose a PKCS#12 file first, such as office.p12")
	if err != nil {
		return err
	}
	if len(b) > MaxCertificate {
		return fmt.Errorf("this file is larger than %d MB, so it is no certificate: choose another", MaxCertificate>>20)
	}
	who, err := sign.FromPKCS12(b, c.FormValue("password"))
	if err != nil {
		return err
	}
	if err := who.Valid(time.Now()); err != nil {
		return err
	}
	return Keep(c.Request().Context(), s.Store, frame.Account(c).ID, who)
}

// ChangeCertificate chooses the certificate that finished forms are sealed with, or takes one out.
func ChangeCertificate(s *frame.Frame, c *echo.Context) error {
	id, err := frame.IdOf(c)
	if err != nil {
		return err
	}
	ctx, by := c.Request().Context(), frame.Account(c).ID
	switch c.FormValue("do") {
	case "seal":
		err = s.Store.SealWith(ctx, id, by)
	case "unseal":
		err = s.Store.SealWith(ctx, 0, by)
	case "drop":
		err = s.Store.DropCertificate(ctx, id, by)
	default:
		err = frame.Refuse(errors.New("a certificate can be chosen for sealing or taken out"))
	}
	if err != nil {
		return err
	}
	return c.Redirect(http.StatusSeeOther, "/certificates")
}
