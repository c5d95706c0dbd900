package demo

import (
	"context"

	"zealousmargin.example/internal/store"
	"zealousmargin.example/internal/web/signing"
)

// certified keeps a certificate of the test authority for the office, with which finished forms are sealed.
func certified(ctx context.Context, s *store.Store, by int64) error {
	if len(s.Key) == 0 {
		return nil
	}
	who, err := signing.Issue(ctx, s, Office, by)
	if err != nil {
		return err
	}
	if err := signing.Keep(ctx, s, by, who); err != nil {
		return err
	}
	all, err := s.Certificates(ctx)
	if err != nil {
		return err
	}
	return s.SealWith(ctx, all[0].ID, by)
}
