package store

import (
	"context"
	"crypto/rand"
	"errors"
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
	By         *string   `db:"by"` // whose link they came by, or what the link is for; nil is by none
}

// Inbox is the part of the address to which the answers of a document are sent. It is made when
// it is first asked for, and cannot be guessed.
func (s *Store) Inbox(ctx context.Context, document int64) (string, error) {
	var inbox string
	err := s.db.GetContext(ctx, &inbox, `update documents set inbox = coalesce(inbox, $2) where id = $1 returning inbox`, document,
		rand.Text())
	return inbox, gone(err)
}

// Why answers are not taken.
var (
	ErrClosed = errors.New("this form takes no more answers: ask the office that you have it from")
	ErrFull   = errors.New("so many answers have come for this form that no more are taken: ask the office that you have it from")
)

// How many answers one document takes, and how many bytes of them.
const (
	MostReturns     = 20_000
	MostReturnBytes = 4 << 30
)

// OpenInbox tells whether answers can be sent to an inbox: it returns [ErrMissing] when there is none, [ErrClosed] when it
// was closed or its document archived, [ErrFull] when it has all that it takes.
func (s *Store) OpenInbox(ctx context.Context, inbox string) error {
	_, _, err := openInbox(ctx, s.db, inbox)
	return err
}

// openInbox finds the document of an inbox, and the link when it is that of one.
func openInbox(ctx context.Context, q sqlx.QueryerContext, inbox string) (document int64, link *int64, err error) {
	var d struct {
		ID     int64 `db:"id"`
		Closed bool  `db:"closed"`
		Number int   `db:"number"`
		Bytes  int64 `db:"bytes"`
	}
	var l FormLink
	err = gone(sqlx.GetContext(ctx, q, &l, formLinkColumns+`where l.inbox = $1`, inbox))
	switch {
	case err == nil:
		if err := l.Good(time.Now()); err != nil {
			return 0, nil, err
		}
		link = &l.ID
	case !errors.Is(err, ErrMissing):
		return 0, nil, err
	}
	err = sqlx.GetContext(ctx, q, &d, `select d.id, d.inbox_closed_at is not null or d.archived_at is not null as closed,
		(select count(*) from returns r where r.document_id = d.id) as number,
		(select coalesce(sum(length(f.bytes)), 0) from returns r join files f on f.sha256 = r.file where r.document_id = d.id) as bytes
		from documents d where d.inbox = $1 or d.id = $2`, inbox, l.DocumentID)
	switch {
	case err != nil:
		return 0, nil, gone(err)
	case d.Closed:
		return 0, nil, ErrClosed
	case d.Number >= MostReturns || d.Bytes >= MostReturnBytes:
		return 0, nil, ErrFull
	}
	return d.ID, link, nil
}

// InboxState is where the answers of a document come to; Path is empty before somebody asked for it.
type InboxState struct {
	Path   string `db:"path"`
	Closed bool   `db:"closed"`
}

// InboxOf tells where the answers of a document come to.
func (s *Store) InboxOf(ctx context.Context, document int64) (InboxState, error) {
	var i InboxState
	err := s.db.GetContext(ctx, &i, `select coalesce(inbox, '') as path, inbox_closed_at is not null or archived_at is not null as closed
		from documents where id = $1`, document)
	return i, gone(err)
}

// CloseInbox closes or opens where the answers of a document come to.
func (s *Store) CloseInbox(ctx context.Context, document int64, closed bool) error {
	return s.one(ctx, `update documents set inbox_closed_at = case when $2 then now() end where id = $1`, document, closed)
}

// NewInbox gives the answers of a document another address. Forms with the old one can send nothing any more.
func (s *Store) NewInbox(ctx context.Context, document int64) error {
	return s.one(ctx, `update documents set inbox = $2, inbox_closed_at = null where id = $1`, document, rand.Text())
}

// Receive keeps answers that were sent to an inbox.
func (s *Store) Receive(ctx context.Context, inbox, kind string, b []byte) error {
	return s.tx(ctx, func(tx *sqlx.Tx) error {
		if _, err := tx.ExecContext(ctx, `select from documents d where inbox = $1 or exists(select from form_links l
			join editions e on e.id = l.edition_id where l.inbox = $1 and e.document_id = d.id) for update`, inbox); err != nil {
			return err // one after the other, so that none comes beyond the limits
		}
		document, link, err := openInbox(ctx, tx, inbox)
		if err != nil {
			return err
		}
		sha, err := keepFile(ctx, tx, b)
		if err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `insert into returns (document_id, file, kind, link_id) values ($1, $2, $3, $4)`, document, sha, kind,
			link); err != nil || link == nil {
			return err
		}
		_, err = tx.ExecContext(ctx, `insert into link_events (link_id, what) values ($1, 'answered')`, *link)
		return err
	})
}

const returnColumns = `select r.id, r.document_id, r.file, r.kind, r.received_at, length(f.bytes) as size,
		case when l.id is not null then coalesce(nullif(l.name, ''), nullif(l.note, ''), 'a link') end as by
		from returns r join files f on f.sha256 = r.file left join form_links l on l.id = r.link_id `

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
