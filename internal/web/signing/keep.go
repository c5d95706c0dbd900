package signing

import (
	"context"

	"zealousmargin.example/internal/pdf/sign"
	"zealousmargin.example/internal/store"
)

// Keep keeps an identity among the certificates of an office.
func Keep(ctx context.Context, s *store.Store, by int64, who sign.Identity) error {
	b, err := who.Marshal()
	if err != nil {
		return err
	}
	own := who.Chain[0]
	_, err = s.KeepCertificate(ctx, by, store.Certificate{
		Holder: own.Subject.CommonName, Issuer: own.Issuer.CommonName, NotBefore: own.NotBefore, NotAfter: own.NotAfter,
		Root: who.Chain[len(who.Chain)-1].Raw,
	}, b)
	return err
}
