package store

import (
	"context"
	"crypto/rand"
	"time"

	"github.com/jmoiron/sqlx"
)

// Return is one set of answers that came back, as it was sent.
type Return struct {
	ID         int64     `db:"id"`
	DocumentID int64     `db:"document_id"`
	File       string    `db:"file"`
	Kind       string    `db:"kind"` // "fdf", "xfdf", "pdf" or "data"
	Size       int       `db:"size"`
	ReceivedAt time.Time `db:"received_at"`
}

// Inbox is the part of the address to which the answers of a document are sent. It is made when
// it is first asked for, and cannot be guessed.
func (s *Store) Inbox(ctx context.Context, document int64) (string, error) {
	var inbox string
	err := s.db.GetContext(ctx, &inbox, `update documents set inbox = coalesce(inbox, $2) where id = $1 returning inbox`, document,
		rand.Text())
	return inbox, gone(err)
}

// HasInbox tells whether answers can be sent to an inbox: it returns [ErrMissing] when there is none.
func (s *Store) HasInbox(ctx context.Context, inbox string) error {
	var there bool
	err := s.db.GetContext(ctx, &there, `select exists(select from documents where inbox = $1)`, inbox)
	if err == nil && !there {
		err = ErrMissing
	}
	return err
}

// Receive keeps answers that were sent to an inbox.
func (s *Store) Receive(ctx context.Context, inbox, kind string, b []byte) error {
	return s.tx(ctx, func(tx *sqlx.Tx) error {
		var document int64
		if err := tx.GetContext(ctx, &document, `select id from documents where inbox = $1`, inbox); err != nil {
			return gone(err)
		}
		sha, err := keepFile(ctx, tx, b)
		if err != nil {
			return err
		}
		_, err = tx.ExecContext(ctx, `insert into returns (document_id, file, kind) values ($1, $2, $3)`, document, sha, kind)
		return err
	})
}

const returnColumns = `select r.id, r.document_id, r.file, r.kind, r.received_at, length(f.bytes) as size from returns r
		join files f on f.sha256 = r.file `

// Returns lists what came back for a document, newest first.
func (s *Store) Returns(ctx context.Context, document int64) ([]Return, error) {
	var out []Return
	err := s.db.SelectContext(ctx, &out, returnColumns+`where r.document_id = $1 order by r.id desc`, document)
	return out, err
}

// Return reads one.
func (s *Store) Return(ctx context.Context, id int64) (Return, error) {
	var r Return
	err := s.db.GetContext(ctx, &r, returnColumns+`where r.id = $1`, id)
	return r, gone(err)
}
