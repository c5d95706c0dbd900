package store

import (
	"context"
	"errors"
	"strings"

	"github.com/alexedwards/argon2id"
)

// Account is a person who works here.
type Account struct {
	ID           int64  `db:"id"`
	Email        string `db:"email"`
	Name         string `db:"name"`
	Role         string `db:"role"` // "administrator" or "preparer"
	PasswordHash string `db:"password_hash"`
}

// Initials are the first letters of the first and the last name.
func (a Account) Initials() string {
	out := ""
	parts := strings.Fields(a.Name)
	for i, p := range parts {
		if i == 0 || i == len(parts)-1 {
			out += strings.ToUpper(string([]rune(p)[:1]))
		}
	}
	return out
}

// ErrSignIn is returned for an unknown address and for a wrong password alike.
var ErrSignIn = errors.New("that address and password do not belong together: try again")

// AddAccount makes an account, or gives an existing one this name, role and password.
func (s *Store) AddAccount(ctx context.Context, email, name, role, password string) (int64, error) {
	hash, err := argon2id.CreateHash(password, argon2id.DefaultParams)
	if err != nil {
		return 0, err
	}
	var id int64
	err = s.db.GetContext(ctx, &id, `
		insert into accounts (email, name, role, password_hash) values (lower($1), $2, $3, $4)
		on conflict (email) do update set name = excluded.name, role = excluded.role, password_hash = excluded.password_hash
		returning id`, email, name, role, hash)
	return id, err
}

// Account reads an account.
func (s *Store) Account(ctx context.Context, id int64) (Account, error) {
	var a Account
	err := s.db.GetContext(ctx, &a, `select id, email, name, role, password_hash from accounts where id = $1`, id)
	return a, gone(err)
}

// decoy is compared for unknown addresses, so that they take as long as known ones.
const decoy = "$argon2id$v=19$m=65536,t=1,p=2$c29tZXNhbHRzb21lc2FsdA$8hGMhuxzpHMTDJIsJxNb4VzMUgdCCKVnYyiE6dWc0J0"

// SignIn checks an address and a password.
func (s *Store) SignIn(ctx context.Context, email, password string) (Account, error) {
	var a Account
	err := s.db.GetContext(ctx, &a, `select id, email, name, role, password_hash from accounts where email = lower($1)`,
		strings.TrimSpace(email))
	if err = gone(err); errors.Is(err, ErrMissing) {
		_, _ = argon2id.ComparePasswordAndHash(password, decoy)
		return Account{}, ErrSignIn
	}
	if err != nil {
		return Account{}, err
	}
	ok, err := argon2id.ComparePasswordAndHash(password, a.PasswordHash)
	if err != nil {
		return Account{}, err
	}
	if !ok {
		return Account{}, ErrSignIn
	}
	return a, nil
}
