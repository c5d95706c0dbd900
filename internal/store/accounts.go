package store

import (
	"context"
	"errors"
	"strings"
	"sync"

	"github.com/alexedwards/argon2id"
)

// The roles: a preparer does everything to documents; an administrator also releases, and sets what holds for the office.
const (
	Administrator = "administrator"
	Preparer      = "preparer"
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

// Hashing is how passwords are hashed: Argon2id as RFC 9106, section 4, recommends where memory is dear (its second
// option: 3 passes over 64 MiB, 4 lanes). Only tests, which hash hundreds, have less.
var Hashing = argon2id.Params{Memory: 64 << 10, Iterations: 3, Parallelism: 4, SaltLength: 16, KeyLength: 32}

// hashers is how many passwords are hashed at once: each takes the memory that [Hashing] says.
var hashers = make(chan struct{}, 2)

// hasher waits for its turn, or until nobody waits for it any more; done gives the turn on.
func hasher(ctx context.Context) (done func(), err error) {
	select {
	case hashers <- struct{}{}:
		return func() { <-hashers }, nil
	case <-ctx.Done():
		return nil, ctx.Err()
	}
}

// AddAccount makes an account, or gives an existing one this name, role and password.
func (s *Store) AddAccount(ctx context.Context, email, name, role, password string) (int64, error) {
	hash, err := hashed(ctx, password)
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

func hashed(ctx context.Context, password string) (string, error) {
	done, err := hasher(ctx)
	if err != nil {
		return "", err
	}
	defer done()
	return argon2id.CreateHash(password, &Hashing)
}

// decoy is compared for unknown addresses, so that they take as long as known ones. It is hashed as passwords are.
var decoy = sync.OnceValues(func() (string, error) { return argon2id.CreateHash("nobody knows this one", &Hashing) })

// LongestPassword is how long a password may be, in bytes: a longer one is only work.
const LongestPassword = 1000

// SignIn checks an address and a password. What was hashed with other parameters than today's is hashed anew.
func (s *Store) SignIn(ctx context.Context, email, password string) (Account, error) {
	var a Account
	err := s.db.GetContext(ctx, &a, `select id, email, name, role, password_hash from accounts
		where email = lower($1) and disabled_at is null`, strings.TrimSpace(email))
	err = gone(err)
	unknown := errors.Is(err, ErrMissing) || len(password) > LongestPassword || a.PasswordHash == ""
	if err != nil && !errors.Is(err, ErrMissing) {
		return Account{}, err
	}
	hash := a.PasswordHash
	if unknown {
		if hash, err = decoy(); err != nil {
			return Account{}, err
		}
		password = password[:min(len(password), LongestPassword)]
	}
	done, err := hasher(ctx)
	if err != nil {
		return Account{}, err
	}
	ok, params, err := argon2id.CheckHash(password, hash)
	done()
	if err != nil {
		return Account{}, err
	}
	if !ok || unknown {
		return Account{}, ErrSignIn
	}
	if *params != Hashing {
		if hash, err = hashed(ctx, password); err != nil {
			return Account{}, err
		}
		if _, err := s.db.ExecContext(ctx, `update accounts set password_hash = $2 where id = $1 and password_hash = $3`, a.ID, hash,
			a.PasswordHash); err != nil {
			return Account{}, err
		}
	}
	return a, nil
}
