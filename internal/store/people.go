package store

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"crypto/subtle"
	"encoding/hex"
	"errors"
	"fmt"
	"net/mail"
	"strings"
	"time"

	"github.com/alexedwards/argon2id"
	"github.com/jmoiron/sqlx"

	"zealousmargin.example/internal/form"
)

// LinkLife is how long a link to set a password is good.
const LinkLife = 48 * time.Hour

// shortestPassword is that of a password, in signs (OWASP ASVS 5.0, 6.2.1, asks for 8 at least and 15 where it can be, from memory).
const shortestPassword = 12

// Why people cannot be changed.
var (
	ErrLastAdministrator = errors.New("this is the last administrator: make somebody else one first")
	ErrLink              = errors.New("this link is not good any more: ask an administrator for another one")
)

// Person is an account as those who manage people see it.
type Person struct {
	Account
	Disabled bool       `db:"disabled"`
	Ready    bool       `db:"ready"` // has set a password
	Seen     *time.Time `db:"seen"`
}

// People lists the accounts by their names.
func (s *Store) People(ctx context.Context) ([]Person, error) {
	var out []Person
	err := s.db.SelectContext(ctx, &out, `select id, email, name, role, '' as password_hash, disabled_at is not null as disabled,
		password_hash <> '' as ready, (select max(seen_at) from visits v where v.account_id = a.id) as seen
		from accounts a where erased_at is null order by lower(name), id`)
	return out, err
}

// checkPerson refuses what no person is called, and no role.
func checkPerson(name, email, role string) (string, string, error) {
	name, email = strings.Join(strings.Fields(name), " "), strings.ToLower(strings.TrimSpace(email))
	switch a, err := mail.ParseAddress(email); {
	case name == "":
		return "", "", errors.New("a person needs a name: type one")
	case err != nil || a.Address != email || len(email) > 254:
		return "", "", fmt.Errorf("%q is not an e-mail address: write one such as imke@office.example", email)
	case role != Administrator && role != Preparer:
		return "", "", fmt.Errorf("%q is not a role: choose administrator or preparer", role)
	}
	return name, email, form.CheckText("the name", name, 120)
}

// AddPerson makes an account that has no password yet: [Store.Link] lets its person set one.
func (s *Store) AddPerson(ctx context.Context, name, email, role string) (int64, error) {
	name, email, err := checkPerson(name, email, role)
	if err != nil {
		return 0, err
	}
	var id int64
	err = s.db.GetContext(ctx, &id, `insert into accounts (email, name, role, password_hash) values ($1, $2, $3, '')
		on conflict (email) do nothing returning id`, email, name, role)
	if errors.Is(gone(err), ErrMissing) {
		return 0, fmt.Errorf("somebody with the address %s is there already", email)
	}
	return id, err
}

// ChangePerson gives an account another name and role.
func (s *Store) ChangePerson(ctx context.Context, id int64, name, role string) error {
	return s.tx(ctx, func(tx *sqlx.Tx) error {
		a, err := lockPerson(ctx, tx, id)
		if err != nil {
			return err
		}
		if name, _, err = checkPerson(name, a.Email, role); err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `update accounts set name = $2, role = $3 where id = $1`, id, name, role); err != nil {
			return err
		}
		return chiefs(ctx, tx)
	})
}

// Disable shuts an account, or opens it again; where its person is signed in ends at once.
func (s *Store) Disable(ctx context.Context, id int64, shut bool) error {
	return s.tx(ctx, func(tx *sqlx.Tx) error {
		if _, err := lockPerson(ctx, tx, id); err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `update accounts set disabled_at = case when $2 then now() end where id = $1`, id, shut); err != nil {
			return err
		}
		if shut {
			if err := endVisits(ctx, tx, id, 0); err != nil {
				return err
			}
		}
		return chiefs(ctx, tx)
	})
}

func lockPerson(ctx context.Context, tx *sqlx.Tx, id int64) (Account, error) {
	// all administrators, so that two who leave at once do not both
	if _, err := tx.ExecContext(ctx, `select 1 from accounts where role = 'administrator' order by id for update`); err != nil {
		return Account{}, err
	}
	var a Account
	err := tx.GetContext(ctx, &a, `select id, email, name, role, password_hash from accounts where id = $1 for update`, id)
	return a, gone(err)
}

// chiefs refuses an office without an administrator.
func chiefs(ctx context.Context, tx *sqlx.Tx) error {
	var n int
	err := tx.GetContext(ctx, &n, `select count(*) from accounts where role = 'administrator' and disabled_at is null`)
	if err == nil && n == 0 {
		err = ErrLastAdministrator
	}
	return err
}

func digest(token string) string {
	sum := sha256.Sum256([]byte(token))
	return hex.EncodeToString(sum[:])
}

// Link makes what stands in a link with which a person sets a password: good once, for [LinkLife]. Earlier ones are good no
// more. Only its digest is kept.
func (s *Store) Link(ctx context.Context, account int64) (token string, err error) {
	token = rand.Text() + rand.Text()
	err = s.tx(ctx, func(tx *sqlx.Tx) error {
		if _, err := tx.ExecContext(ctx, `delete from links where account_id = $1`, account); err != nil {
			return err
		}
		_, err := tx.ExecContext(ctx, `insert into links (hash, account_id, expires_at) values ($1, $2, $3)`, digest(token), account,
			time.Now().Add(LinkLife))
		return err
	})
	return token, err
}

// LinkOf is the person of a link that is good.
func (s *Store) LinkOf(ctx context.Context, token string) (Account, error) {
	var a Account
	err := s.db.GetContext(ctx, &a, `select a.id, a.email, a.name, a.role, a.password_hash from links l join accounts a on a.id = l.account_id
		where l.hash = $1 and l.used_at is null and l.expires_at > now() and a.disabled_at is null`, digest(token))
	if errors.Is(gone(err), ErrMissing) {
		err = ErrLink
	}
	return a, err
}

// checkPassword refuses a password that is too short or too long.
func checkPassword(p string) error {
	switch n := len([]rune(p)); {
	case n < shortestPassword:
		return fmt.Errorf("a password has at least %d signs: several words are good", shortestPassword)
	case len(p) > LongestPassword:
		return fmt.Errorf("a password has at most %d signs", LongestPassword)
	}
	return nil
}

// SetPassword sets a password by a link, which is used up; where the person is signed in ends.
func (s *Store) SetPassword(ctx context.Context, token, password string) (Account, error) {
	a, err := s.LinkOf(ctx, token)
	if err != nil {
		return a, err
	}
	if err := checkPassword(password); err != nil {
		return a, err
	}
	hash, err := hashed(ctx, password)
	if err != nil {
		return a, err
	}
	return a, s.tx(ctx, func(tx *sqlx.Tx) error {
		res, err := tx.ExecContext(ctx, `update links set used_at = now() where hash = $1 and used_at is null`, digest(token))
		if err != nil {
			return err
		}
		if n, err := res.RowsAffected(); err != nil || n == 0 {
			return errors.Join(err, ErrLink)
		}
		if _, err := tx.ExecContext(ctx, `update accounts set password_hash = $2 where id = $1`, a.ID, hash); err != nil {
			return err
		}
		return endVisits(ctx, tx, a.ID, 0)
	})
}

// ChangePassword sets another password for a person who knows the present one; they stay signed in where they are, by visit.
func (s *Store) ChangePassword(ctx context.Context, account, visit int64, present, next string) error {
	a, err := s.Account(ctx, account)
	if err != nil {
		return err
	}
	done, err := hasher(ctx)
	if err != nil {
		return err
	}
	ok, err := argon2id.ComparePasswordAndHash(present[:min(len(present), LongestPassword)], a.PasswordHash)
	done()
	if err != nil {
		return err
	}
	if !ok {
		return errors.New("that is not your present password: type it again")
	}
	if err := checkPassword(next); err != nil {
		return err
	}
	hash, err := hashed(ctx, next)
	if err != nil {
		return err
	}
	return s.tx(ctx, func(tx *sqlx.Tx) error {
		if _, err := tx.ExecContext(ctx, `update accounts set password_hash = $2 where id = $1`, account, hash); err != nil {
			return err
		}
		return endVisits(ctx, tx, account, visit)
	})
}

// Visit is a time that a person is signed in.
type Visit struct {
	ID      int64     `db:"id"`
	BeganAt time.Time `db:"began_at"`
	SeenAt  time.Time `db:"seen_at"`
	Sender  string    `db:"sender"`
	Browser string    `db:"browser"`
}

// BeginVisit notes that a person has signed in.
func (s *Store) BeginVisit(ctx context.Context, account int64, sender, browser string) (int64, error) {
	var id int64
	browser = strings.ToValidUTF8(browser[:min(len(browser), 200)], "")
	err := s.db.GetContext(ctx, &id, `insert into visits (account_id, sender, browser) values ($1, $2, $3) returning id`, account, sender, browser)
	return id, err
}

// Visiting is the person of a visit that has not ended; it notes once a minute that they were seen.
func (s *Store) Visiting(ctx context.Context, visit int64) (Account, error) {
	var a Account
	var stale bool
	err := s.db.QueryRowxContext(ctx, `select a.id, a.email, a.name, a.role, a.password_hash, v.seen_at < now() - interval '1 minute'
		from visits v join accounts a on a.id = v.account_id where v.id = $1 and v.ended_at is null and a.disabled_at is null`, visit).
		Scan(&a.ID, &a.Email, &a.Name, &a.Role, &a.PasswordHash, &stale)
	if err == nil && stale {
		_, err = s.db.ExecContext(ctx, `update visits set seen_at = now() where id = $1`, visit)
	}
	return a, gone(err)
}

// Visits lists where a person is signed in, the last first.
func (s *Store) Visits(ctx context.Context, account int64) ([]Visit, error) {
	var out []Visit
	err := s.db.SelectContext(ctx, &out, `select id, began_at, seen_at, sender, browser from visits
		where account_id = $1 and ended_at is null and seen_at > now() - interval '12 hours' order by id desc`, account)
	return out, err
}

// EndVisit signs a person out somewhere.
func (s *Store) EndVisit(ctx context.Context, account, visit int64) error {
	return s.one(ctx, `update visits set ended_at = now() where id = $2 and account_id = $1 and ended_at is null`, account, visit)
}

func endVisits(ctx context.Context, tx *sqlx.Tx, account, but int64) error {
	_, err := tx.ExecContext(ctx, `update visits set ended_at = now() where account_id = $1 and id <> $2 and ended_at is null`, account, but)
	return err
}

// Empty tells whether nobody has an account yet.
func (s *Store) Empty(ctx context.Context) (bool, error) {
	var there bool
	err := s.db.GetContext(ctx, &there, `select exists(select from accounts)`)
	return !there, err
}

// BeginOffice makes the first account of an office, that of an administrator who knows the word. It is refused when there is
// an account already.
func (s *Store) BeginOffice(ctx context.Context, word, said, name, email, password string) (Account, error) {
	if word == "" || subtle.ConstantTimeCompare([]byte(word), []byte(strings.TrimSpace(said))) != 1 {
		return Account{}, errors.New("that is not the word: read it where the application was started")
	}
	name, email, err := checkPerson(name, email, Administrator)
	if err != nil {
		return Account{}, err
	}
	if err := checkPassword(password); err != nil {
		return Account{}, err
	}
	hash, err := hashed(ctx, password)
	if err != nil {
		return Account{}, err
	}
	a := Account{Email: email, Name: name, Role: Administrator, PasswordHash: hash}
	err = s.tx(ctx, func(tx *sqlx.Tx) error {
		if _, err := tx.ExecContext(ctx, `lock table accounts in share row exclusive mode`); err != nil {
			return err
		}
		var there bool
		if err := tx.GetContext(ctx, &there, `select exists(select from accounts)`); err != nil {
			return err
		}
		if there {
			return errors.New("the office has its first person already: sign in")
		}
		return tx.GetContext(ctx, &a.ID, `insert into accounts (email, name, role, password_hash) values ($1, $2, $3, $4) returning id`, email,
			name, Administrator, hash)
	})
	return a, err
}
