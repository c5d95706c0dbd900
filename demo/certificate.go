package demo

import (
	"context"
	"crypto/ecdsa"
	"crypto/elliptic"
	"crypto/rand"
	"crypto/x509"
	"time"

	"zealousmargin.example/internal/pdf/sign"
	"zealousmargin.example/internal/standin"
	"zealousmargin.example/internal/store"
	"zealousmargin.example/internal/web/signing"
)

// certified keeps a certificate of the test authority for the office, with which finished forms are sealed.
func certified(ctx context.Context, s *store.Store, by int64) error {
	if len(s.Key) == 0 {
		return nil
	}
	now := time.Now()
	a, err := standin.NewAuthority("Test authority, for trying out", now.AddDate(0, 0, -1))
	if err != nil {
		return err
	}
	key, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	if err != nil {
		return err
	}
	c, err := a.Issue(Office, key.Public(), now.AddDate(0, 0, -1), now.AddDate(2, 0, 0))
	if err != nil {
		return err
	}
	if err := signing.Keep(ctx, s, by, sign.Identity{Key: key, Chain: []*x509.Certificate{c, a.Certificate()}}); err != nil {
		return err
	}
	all, err := s.Certificates(ctx)
	if err != nil {
		return err
	}
	return s.SealWith(ctx, all[0].ID, by)
}
