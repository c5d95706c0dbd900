package signing

import (
	"context"
	"crypto/ecdsa"
	"crypto/elliptic"
	"crypto/rand"
	"crypto/x509"
	"errors"
	"net/http"
	"strings"
	"time"

	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/pdf/sign"
	"zealousmargin.example/internal/standin"
	"zealousmargin.example/internal/store"
	"zealousmargin.example/internal/web/frame"
)

// Authority is the test authority of an office, with what it has taken back.
func Authority(ctx context.Context, s *store.Store) (*standin.Authority, error) {
	b, err := s.Authority(ctx, func() ([]byte, error) {
		a, err := standin.NewAuthority(standin.AuthorityName, time.Now().AddDate(0, 0, -1))
		if err != nil {
			return nil, err
		}
		return a.Marshal()
	})
	if err != nil {
		return nil, err
	}
	all, err := s.Issued(ctx)
	if err != nil {
		return nil, err
	}
	revoked := map[string]time.Time{}
	for _, i := range all {
		if i.RevokedAt != nil {
			revoked[i.Serial] = *i.RevokedAt
		}
	}
	return standin.OpenAuthority(b, revoked)
}

// Issue has the test authority give somebody a certificate, for a year.
func Issue(ctx context.Context, s *store.Store, name string, by int64) (sign.Identity, error) {
	a, err := Authority(ctx, s)
	if err != nil {
		return sign.Identity{}, err
	}
	key, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	if err != nil {
		return sign.Identity{}, err
	}
	now := time.Now()
	c, err := a.Issue(name, key.Public(), now.Add(-time.Hour), now.AddDate(1, 0, 0))
	if err != nil {
		return sign.Identity{}, err
	}
	who := sign.Identity{Key: key, Chain: []*x509.Certificate{c, a.Certificate()}}
	return who, s.AddIssued(ctx, c.SerialNumber.String(), name, c.NotAfter, by)
}

type authorityView struct {
	frame.Shell
	List    []store.Issued
	CanKeep bool
	Problem string
}

// TestAuthority lists what the test authority has issued.
func TestAuthority(s *frame.Frame, c *echo.Context) error { return authority(s, c, http.StatusOK, "") }

func authority(s *frame.Frame, c *echo.Context, code int, problem string) error {
	v := authorityView{Shell: s.Shell(c, "Test authority", "signed"), CanKeep: len(s.Store.Key) > 0, Problem: problem}
	var err error
	if v.List, err = s.Store.Issued(c.Request().Context()); err != nil {
		return err
	}
	return s.Render(c, code, "authority", "page", v)
}

// AskAuthority has a certificate issued, which is given as a PKCS#12 file, or taken back.
func AskAuthority(s *frame.Frame, c *echo.Context) error {
	ctx, by := c.Request().Context(), frame.Account(c).ID
	if c.FormValue("do") == "revoke" {
		if err := s.Store.Revoke(ctx, c.FormValue("serial"), by); err != nil {
			return err
		}
		return c.Redirect(http.StatusSeeOther, "/test-authority")
	}
	name := strings.Join(strings.Fields(c.FormValue("name")), " ")
	err := form.CheckLine("the name", name, 120)
	switch {
	case err != nil:
	case name == "":
		err = errors.New("say for whom the certificate is")
	case c.FormValue("password") == "":
		err = errors.New("choose a password for the file")
	}
	var who sign.Identity
	if err == nil {
		who, err = Issue(ctx, s.Store, name, by)
	}
	switch {
	case store.Said(err):
		return err
	case err != nil:
		return authority(s, c, http.StatusUnprocessableEntity, frame.Sentence(err.Error()))
	}
	b, err := who.PKCS12(c.FormValue("password"))
	if err != nil {
		return err
	}
	return frame.Download(c, frame.Slug(name)+".p12", "application/x-pkcs12", b)
}

// CRL is the list of the certificates that the test authority has taken back (RFC 5280, 5).
func CRL(s *frame.Frame, c *echo.Context) error {
	a, err := Authority(c.Request().Context(), s.Store)
	if errors.Is(err, store.ErrNoKey) {
		return store.ErrMissing
	}
	if err != nil {
		return err
	}
	b, err := a.CRL(time.Now())
	if err != nil {
		return err
	}
	return frame.Download(c, "test-authority.crl", "application/pkix-crl", b)
}
