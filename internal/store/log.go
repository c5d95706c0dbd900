package store

import (
	"context"
	"time"

	"github.com/jmoiron/sqlx"
)

// Deeds that the log keeps.
const (
	DeedSignedIn  = "signed in"
	DeedRefused   = "was refused at sign-in"
	DeedSignedOut = "signed out"
	DeedDownload  = "downloaded"
	DeedRelease   = "released"
	DeedWithdraw  = "withdrew"
	DeedLink      = "gave out by links"
	DeedSigning   = "sent round to be signed"
	DeedSigned    = "was signed by all"
	DeedCertified = "signed with a certificate"
	DeedKey       = "changed the kept certificates"
	DeedRoster    = "changed the roster"
	DeedDelete    = "deleted for good"
	DeedErase     = "erased an account"
	DeedPerson    = "changed an account"
	DeedSetting   = "changed a setting"
)

// Entry is a row of the log.
type Entry struct {
	ID     int64     `db:"id"`
	At     time.Time `db:"at"`
	Who    string    `db:"who"` // empty for the application, and for strangers
	Deed   string    `db:"deed"`
	About  string    `db:"about"`
	Reason string    `db:"reason"`
}

// Note adds a row to the log. By is 0 for the application and for strangers; about and reason must name nobody.
func (s *Store) Note(ctx context.Context, by int64, deed, about string) error {
	return note(ctx, s.db, by, deed, about, "")
}

func note(ctx context.Context, db sqlx.ExecerContext, by int64, deed, about, reason string) error {
	_, err := db.ExecContext(ctx, `insert into log (account_id, deed, about, reason) values (nullif($1, 0), $2, $3, $4)`, by, deed, about,
		reason)
	return err
}

// Log lists what was done, latest first: those rows before one, or the last of all when before is 0; at most n.
func (s *Store) Log(ctx context.Context, before int64, n int) ([]Entry, error) {
	var out []Entry
	err := s.db.SelectContext(ctx, &out, `select l.id, l.at, coalesce(a.name, '') as who, l.deed, l.about, l.reason
		from log l left join accounts a on a.id = l.account_id where $1 = 0 or l.id < $1 order by l.id desc limit $2`, before, n)
	return out, err
}
