package store

import (
	"context"
	"errors"
	"time"
)

// Issued is a certificate that the test authority has given out.
type Issued struct {
	Serial    string     `db:"serial"` // in decimal figures
	Holder    string     `db:"holder"`
	NotAfter  time.Time  `db:"not_after"`
	IssuedAt  time.Time  `db:"issued_at"`
	RevokedAt *time.Time `db:"revoked_at"`
}

// Authority is what is kept of the test authority; it is made when it is first asked for. It is encrypted as kept certificates are.
func (s *Store) Authority(ctx context.Context, begin func() ([]byte, error)) ([]byte, error) {
	var sealed []byte
	err := gone(s.db.GetContext(ctx, &sealed, `select sealed from authority`))
	if errors.Is(err, ErrMissing) {
		secret, err := begin()
		if err != nil {
			return nil, err
		}
		if sealed, err = s.seal(secret); err != nil {
			return nil, err
		}
		if _, err := s.db.ExecContext(ctx, `insert into authority (id, sealed) values (1, $1) on conflict do nothing`, sealed); err != nil {
			return nil, err
		}
		err = s.db.GetContext(ctx, &sealed, `select sealed from authority`) // another may have been faster
		if err != nil {
			return nil, err
		}
		return s.unseal(sealed)
	}
	if err != nil {
		return nil, err
	}
	return s.unseal(sealed)
}

// AddIssued notes that the test authority has given out a certificate.
func (s *Store) AddIssued(ctx context.Context, serial, holder string, notAfter time.Time, by int64) error {
	if _, err := s.db.ExecContext(ctx, `insert into issued (serial, holder, not_after) values ($1, $2, $3)`, serial, holder, notAfter); err != nil {
		return err
	}
	return s.Note(ctx, by, DeedKey, "the test authority gave one to "+holder)
}

// Issued lists what the test authority has given out, the last first.
func (s *Store) Issued(ctx context.Context) ([]Issued, error) {
	var out []Issued
	err := s.db.SelectContext(ctx, &out, `select serial, holder, not_after, issued_at, revoked_at from issued order by issued_at desc, serial`)
	return out, err
}

// Revoke has the test authority take a certificate back.
func (s *Store) Revoke(ctx context.Context, serial string, by int64) error {
	if err := s.one(ctx, `update issued set revoked_at = now() where serial = $1 and revoked_at is null`, serial); err != nil {
		return err
	}
	return s.Note(ctx, by, DeedKey, "the test authority took one back")
}
