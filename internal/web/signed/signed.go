package signed

import (
	"context"
	"crypto/sha256"
	"crypto/x509"
	"encoding/hex"
	"errors"
	"fmt"
	"net/http"
	"time"

	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/pdf/read"
	"zealousmargin.example/internal/pdf/sign"
	"zealousmargin.example/internal/standin"
	"zealousmargin.example/internal/store"
	"zealousmargin.example/internal/web/frame"
)

// MaxFile is how large a file that is checked may be, in bytes.
const MaxFile = 40 << 20

type view struct {
	frame.Shell
	File    string
	Found   []sign.Finding
	Checked bool
	Asked   string         // who was asked whether a certificate was taken back
	Trusts  bool           // the office has said whom it believes
	Bad     bool           // a signature does not hold
	Signing *store.Signing // whose finished form it is
	Problem string
}

// Show asks for a file.
func Show(s *frame.Frame, c *echo.Context) error {
	return s.Render(c, http.StatusOK, "signed", "page", view{Shell: s.Shell(c, "Check a signed file", "signed")})
}

// Check says what became of the signatures of a file. Nothing of it is kept.
func Check(s *frame.Frame, c *echo.Context) error {
	v := view{Shell: s.Shell(c, "Check a signed file", "signed")}
	err := v.check(s, c)
	if err != nil {
		if store.Said(err) {
			return err
		}
		v.Problem = frame.Sentence(err.Error())
		return s.Render(c, http.StatusUnprocessableEntity, "signed", "page", v)
	}
	return s.Render(c, http.StatusOK, "signed", "page", v)
}

func (v *view) check(s *frame.Frame, c *echo.Context) error {
	name, b, err := frame.Upload(c, MaxFile, "choose a PDF file first")
	if err != nil {
		return err
	}
	v.File = name
	if len(b) > MaxFile {
		return fmt.Errorf("this file is larger than %d MB: check it on the command line", MaxFile>>20)
	}
	if _, err := read.Check(c.Request().Context(), b); err != nil { // in a process of its own, with limits
		return err
	}
	hash := sha256.Sum256(b)
	switch g, err := s.Store.SigningByFile(c.Request().Context(), hex.EncodeToString(hash[:])); {
	case err == nil:
		v.Signing = &g
	case !errors.Is(err, store.ErrMissing):
		return err
	}
	trust, err := trusted(c.Request().Context(), s)
	if err != nil {
		return err
	}
	v.Trusts, v.Asked = trust.Roots != nil, standin.AuthorityName
	if v.Found, err = sign.Check(b, trust); err != nil {
		return err
	}
	v.Checked = true
	for _, x := range v.Found {
		v.Bad = v.Bad || !x.Holds
	}
	return nil
}

// trusted are those whom the office believes: whoever issued the certificates that it keeps.
func trusted(ctx context.Context, s *frame.Frame) (sign.Trust, error) {
	all, err := s.Store.Certificates(ctx)
	if err != nil || len(all) == 0 {
		return sign.Trust{}, err
	}
	roots := x509.NewCertPool()
	for _, c := range all {
		if root, err := x509.ParseCertificate(c.Root); err == nil {
			roots.AddCert(root)
		}
	}
	trust := sign.Trust{Roots: roots}
	issued, err := s.Store.Issued(ctx)
	if err != nil {
		return trust, err
	}
	back := map[string]time.Time{} // what the test authority has taken back
	for _, i := range issued {
		if i.RevokedAt != nil {
			back[i.Serial] = *i.RevokedAt
		}
	}
	trust.Revoked = func(c *x509.Certificate) (time.Time, bool) {
		at, yes := back[c.SerialNumber.String()]
		return at, yes
	}
	return trust, nil
}
