package store

import (
	"context"
	"crypto/aes"
	"crypto/cipher"
	"crypto/rand"
	"encoding/hex"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"time"

	"github.com/jmoiron/sqlx"
)

// Certificate is one that the office signs with. Its key is kept encrypted.
type Certificate struct {
	ID        int64     `db:"id"`
	Holder    string    `db:"holder"`
	Issuer    string    `db:"issuer"`
	NotBefore time.Time `db:"not_before"`
	NotAfter  time.Time `db:"not_after"`
	Seals     bool      `db:"seals"` // finished forms
	Root      []byte    `db:"root"`  // the certificate at the end of its chain (RFC 5280, DER)
}

// Good tells whether it is valid at a time.
func (c Certificate) Good(at time.Time) bool { return !at.Before(c.NotBefore) && !at.After(c.NotAfter) }

// Why a kept certificate cannot be used.
var (
	ErrNoKey    = errors.New("certificates cannot be kept: the application was started without the key that encrypts them")
	ErrOtherKey = errors.New("this certificate was kept under another key than the application was started with: bring it in once more")
)

const keySize = 32 // AES-256

// KeyFile reads the key that kept certificates are encrypted with; where there is none yet, it makes one that only its owner can read.
func KeyFile(path string) ([]byte, error) {
	b, err := os.ReadFile(path)
	if errors.Is(err, fs.ErrNotExist) {
		key := make([]byte, keySize)
		if _, err := rand.Read(key); err != nil {
			return nil, err
		}
		if err := os.MkdirAll(filepath.Dir(path), 0o700); err != nil {
			return nil, err
		}
		f, err := os.CreateTemp(filepath.Dir(path), ".key-*") // whole before it is there: another process may look for it
		if err != nil {
			return nil, err
		}
		defer func() { _ = os.Remove(f.Name()) }()
		_, err = f.WriteString(hex.EncodeToString(key) + "\n")
		if err = errors.Join(err, f.Sync(), f.Close()); err != nil {
			return nil, err
		}
		if err := os.Link(f.Name(), path); errors.Is(err, fs.ErrExist) { // that process was faster
			return KeyFile(path)
		} else if err != nil {
			return nil, err
		}
		return key, nil
	}
	if err != nil {
		return nil, err
	}
	key, err := hex.DecodeString(strings.TrimSpace(string(b)))
	if err != nil || len(key) != keySize {
		return nil, fmt.Errorf("%s has no key in it: it holds 64 hexadecimal digits, or does not exist, and is then made", path)
	}
	return key, nil
}

func (s *Store) box() (cipher.AEAD, error) {
	if len(s.Key) != keySize {
		return nil, ErrNoKey
	}
	c, err := aes.NewCipher(s.Key)
	if err != nil {
		return nil, err
	}
	return cipher.NewGCM(c)
}

// KeepCertificate keeps an identity: what is known of its certificate, and the bytes of its key and chain, encrypted.
func (s *Store) KeepCertificate(ctx context.Context, by int64, c Certificate, secret []byte) (int64, error) {
	sealed, err := s.seal(secret)
	if err != nil {
		return 0, err
	}
	var id int64
	err = s.tx(ctx, func(tx *sqlx.Tx) error {
		if err := tx.GetContext(ctx, &id, `insert into certificates (holder, issuer, not_before, not_after, root, sealed, added_by)
			values ($1, $2, $3, $4, $5, $6, nullif($7, 0)) returning id`, c.Holder, c.Issuer, c.NotBefore, c.NotAfter, c.Root,
			sealed, by); err != nil {
			return err
		}
		return note(ctx, tx, by, DeedKey, c.Holder+" was added", "")
	})
	return id, err
}

// Certificates lists those that are kept.
func (s *Store) Certificates(ctx context.Context) ([]Certificate, error) {
	var out []Certificate
	err := s.db.SelectContext(ctx, &out, `select id, holder, issuer, not_before, not_after, seals, root from certificates order by id`)
	return out, err
}

// OpenCertificate gives what was kept of an identity.
func (s *Store) OpenCertificate(ctx context.Context, id int64) ([]byte, error) {
	var sealed []byte
	if err := s.db.GetContext(ctx, &sealed, `select sealed from certificates where id = $1`, id); err != nil {
		return nil, gone(err)
	}
	return s.unseal(sealed)
}

// seal encrypts what is to be kept: a nonce, and AES-256-GCM (NIST SP 800-38D).
func (s *Store) seal(secret []byte) ([]byte, error) {
	box, err := s.box()
	if err != nil {
		return nil, err
	}
	nonce := make([]byte, box.NonceSize())
	if _, err := rand.Read(nonce); err != nil {
		return nil, err
	}
	return box.Seal(nonce, nonce, secret, nil), nil
}

func (s *Store) unseal(sealed []byte) ([]byte, error) {
	box, err := s.box()
	if err != nil {
		return nil, err
	}
	n := box.NonceSize()
	if len(sealed) < n {
		return nil, ErrOtherKey
	}
	b, err := box.Open(nil, sealed[:n], sealed[n:], nil)
	if err != nil {
		return nil, ErrOtherKey
	}
	return b, nil
}

// SealWith has finished forms be sealed with a certificate; 0 is with none.
func (s *Store) SealWith(ctx context.Context, id, by int64) error {
	return s.tx(ctx, func(tx *sqlx.Tx) error {
		if _, err := tx.ExecContext(ctx, `update certificates set seals = false where seals`); err != nil {
			return err
		}
		if id == 0 {
			return note(ctx, tx, by, DeedKey, "finished forms are not sealed", "")
		}
		var holder string
		if err := tx.GetContext(ctx, &holder, `update certificates set seals = true where id = $1 returning holder`, id); err != nil {
			return gone(err)
		}
		return note(ctx, tx, by, DeedKey, "finished forms are sealed by "+holder, "")
	})
}

// DropCertificate takes one away for good.
func (s *Store) DropCertificate(ctx context.Context, id, by int64) error {
	return s.tx(ctx, func(tx *sqlx.Tx) error {
		var holder string
		if err := tx.GetContext(ctx, &holder, `delete from certificates where id = $1 returning holder`, id); err != nil {
			return gone(err)
		}
		return note(ctx, tx, by, DeedKey, holder+" was taken out", "")
	})
}
