package store

import (
	"context"
	"crypto/rand"
	"database/sql"
	"encoding/json"
	"errors"
	mathrand "math/rand/v2"
	"slices"
	"time"

	"github.com/jmoiron/sqlx"
)

// Return is one set of answers that came back, as it was sent and as it was read.
type Return struct {
	ID         int64     `db:"id"`
	DocumentID int64     `db:"document_id"`
	File       string    `db:"file"`
	Kind       string    `db:"kind"` // one of package returns
	Name       string    `db:"name"` // of the file that it came as
	Size       int       `db:"size"`
	ReceivedAt time.Time `db:"received_at"`
	By         *string   `db:"by"` // whose link they came by, or what the link is for; nil is by none
	LinkID     *int64    `db:"link_id"`

	Road      string  `db:"road"`
	State     string  `db:"state"`
	EditionID *int64  `db:"edition_id"`
	Edition   *int    `db:"edition"` // its number
	Problem   string  `db:"problem"`
	DoubleOf  *int64  `db:"double_of"`
	Assigned  *int64  `db:"assigned_to"`
	Whose     *string `db:"whose"` // the name of whom it is assigned to
	Copy      *string `db:"copy"`  // the filled form, where it did not come as one

	AnswersJSON []byte `db:"answers"`
	BrokenJSON  []byte `db:"broken"`
	UnsureJSON  []byte `db:"unsure"`
}

// Answers are by the keys of the questions of the form.
func (r *Return) Answers() map[string]string { return byKey[string](r.AnswersJSON) }

// Broken is what the rules say against answers, by their keys.
func (r *Return) Broken() map[string]string { return byKey[string](r.BrokenJSON) }

// Unsure is how sure answers are that were read from a picture, by their keys: from 0 to 1.
func (r *Return) Unsure() map[string]float64 { return byKey[float64](r.UnsureJSON) }

func byKey[T any](b []byte) map[string]T {
	out := map[string]T{}
	_ = json.Unmarshal(b, &out) // we have written it
	return out
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
	MostReturns     = 500_000
	MostReturnBytes = 16 << 30
)

// Target is where answers go.
type Target struct {
	Document int64
	Edition  *int64 // of the link that they come by
	Link     *int64
	Most     *int // answers that the link takes
}

// OpenInbox finds where the answers go that are sent to an inbox: it returns [ErrMissing] when there is none, [ErrClosed] when it
// was closed or its document archived, [ErrFull] when it has all that it takes, and an [EndedError] when its link leads nowhere any more.
func (s *Store) OpenInbox(ctx context.Context, inbox string) (Target, error) {
	var l FormLink
	err := gone(
		s.db.GetContext(ctx, &l, `select l.id, l.edition_id, e.document_id, l.expires_at, l.most, l.revoked_at, w.reason as withdrawn,
		case when l.most is null then 0 else (select count(*) from returns where link_id = l.id) end as answers
		from form_links l join editions e on e.id = l.edition_id left join withdrawals w on w.edition_id = e.id where l.inbox = $1`, inbox),
	)
	t := Target{}
	switch {
	case err == nil:
		if err := l.Good(time.Now()); err != nil {
			return t, err
		}
		t = Target{Document: l.DocumentID, Edition: &l.EditionID, Link: &l.ID, Most: l.Most}
	case !errors.Is(err, ErrMissing):
		return t, err
	}
	var d struct {
		ID     int64 `db:"id"`
		Closed bool  `db:"closed"`
	}
	if err := s.db.GetContext(ctx, &d, `select id, inbox_closed_at is not null or archived_at is not null as closed
		from documents where inbox = $1 or id = $2`, inbox, t.Document); err != nil {
		return t, gone(err)
	}
	t.Document = d.ID
	if d.Closed {
		return t, ErrClosed
	}
	return t, s.room(ctx, d.ID)
}

// room tells whether a document takes another return.
func (s *Store) room(ctx context.Context, document int64) error {
	var n struct {
		Number int   `db:"number"`
		Bytes  int64 `db:"bytes"`
	}
	if err := s.db.GetContext(ctx, &n, `select coalesce(sum(number), 0) as number, coalesce(sum(bytes), 0) as bytes from return_counts
		where document_id = $1`, document); err != nil {
		return err
	}
	if n.Number >= MostReturns || n.Bytes >= MostReturnBytes {
		return ErrFull
	}
	return nil
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

// Understood is what was read of a return.
type Understood struct {
	Edition *int64
	Values  map[string]string // by key
	Broken  map[string]string
	Unsure  map[string]float64
	Problem string // why a person has to look at it
	Waits   bool   // nothing could be read
	Digest  []byte
	Files   []Enclosed
	Copy    []byte // the filled form, where it did not come as one
}

// Enclosed is a file that came with a return.
type Enclosed struct {
	Key   string // of the question that it answers; empty for none, "@2" is paper laid over page 2
	Name  string
	Bytes []byte
}

// Arrived is a return that has come.
type Arrived struct {
	Target
	Road, Kind, Name string
	Bytes            []byte
	At               time.Time   // when; the zero time is now
	Read             *Understood // nil when it is to be read by the queue
}

// shards are the rows over which a count is spread.
const shards = 16

// WorkReturn is the work of reading a return, WorkHook that of telling an address of one.
const (
	WorkReturn = "return"
	WorkHook   = "hook"
)

// Receive keeps a return: what it gives is committed. Nothing is refused for what it says.
func (s *Store) Receive(ctx context.Context, a Arrived) (id int64, err error) {
	err = s.tx(ctx, func(tx *sqlx.Tx) error {
		if a.Most != nil { // one after the other, so that none comes beyond the limit
			if _, err := tx.ExecContext(ctx, `select from form_links where id = $1 for update`, *a.Link); err != nil {
				return err
			}
			var n int
			if err := tx.GetContext(ctx, &n, `select count(*) from returns where link_id = $1`, *a.Link); err != nil {
				return err
			}
			if n >= *a.Most {
				return ErrUsedUp
			}
		}
		id, err = s.arrived(ctx, tx, a)
		return err
	})
	return id, err
}

// arrived keeps a return in a transaction.
func (s *Store) arrived(ctx context.Context, tx *sqlx.Tx, a Arrived) (id int64, err error) {
	sha, err := keepFile(ctx, tx, a.Bytes)
	if err != nil {
		return 0, err
	}
	if err := tx.GetContext(ctx, &id, `insert into returns (document_id, file, kind, link_id, edition_id, road, name,
		received_at) values ($1, $2, $3, $4, $5, $6, $7, coalesce($8, now())) returning id`, a.Document, sha, a.Kind, a.Link, a.Edition, a.Road,
		a.Name, sql.NullTime{Time: a.At, Valid: !a.At.IsZero()}); err != nil {
		return 0, err
	}
	if _, err := tx.ExecContext(ctx, `insert into return_counts (document_id, shard, number, bytes) values ($1, $2, 1, $3)
		on conflict (document_id, shard) do update set number = return_counts.number + 1, bytes = return_counts.bytes + $3`,
		a.Document, mathrand.IntN(shards), len(a.Bytes)); err != nil {
		return 0, err
	}
	if a.Link != nil && a.Road != "round" { // those who sign have answered before
		if _, err := tx.ExecContext(ctx, `insert into link_events (link_id, what) values ($1, 'answered')`, *a.Link); err != nil {
			return 0, err
		}
	}
	if a.Read == nil {
		return id, s.enqueue(ctx, tx, Work{Kind: WorkReturn, ID: id})
	}
	return id, s.understood(ctx, tx, id, *a.Read)
}

// Understand keeps what was read of a return that was not read yet; one that was is left as it is.
func (s *Store) Understand(ctx context.Context, id int64, u Understood) error {
	return s.tx(ctx, func(tx *sqlx.Tx) error {
		var state string
		if err := tx.GetContext(ctx, &state, `select state from returns where id = $1 for update`, id); err != nil {
			return gone(err)
		}
		if state != "unread" {
			return nil
		}
		return s.understood(ctx, tx, id, u)
	})
}

func (s *Store) understood(ctx context.Context, tx *sqlx.Tx, id int64, u Understood) error {
	state := "new"
	if u.Waits {
		state = "waiting"
	}
	var parts [3][]byte
	for i, m := range []any{given(u.Values), given(u.Broken), given(u.Unsure)} {
		var err error
		if parts[i], err = json.Marshal(m); err != nil {
			return err
		}
	}
	var sha *string
	if u.Copy != nil {
		kept, err := keepFile(ctx, tx, u.Copy)
		if err != nil {
			return err
		}
		sha = &kept
	}
	if _, err := tx.ExecContext(ctx, `update returns r set edition_id = coalesce($2, edition_id), answers = $3, broken = $4, unsure = $5,
		problem = $6, state = $7, digest = $8, copy = coalesce($9, copy), double_of = (select min(o.id) from returns o
			where o.document_id = r.document_id and o.digest = $8 and o.id < r.id) where id = $1`, id, u.Edition, parts[0], parts[1], parts[2],
		u.Problem, state, u.Digest, sha); err != nil {
		return err
	}
	var late int64 // the document, where one that came later was read before it
	if err := tx.GetContext(ctx, &late, `select coalesce(max(o.document_id), 0) from returns r join returns o on o.document_id = r.document_id
		and o.digest = r.digest and o.id > r.id where r.id = $1`, id); err != nil {
		return err
	}
	if late != 0 {
		if err := redouble(ctx, tx, late, u.Digest); err != nil {
			return err
		}
	}
	for _, f := range u.Files {
		kept, err := keepFile(ctx, tx, f.Bytes)
		if err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `insert into return_files (return_id, field, name, file) values ($1, $2, $3, $4)`, id, f.Key, f.Name,
			kept); err != nil {
			return err
		}
	}
	if u.Waits {
		return nil
	}
	return s.call(ctx, tx, id)
}

// redouble says anew of the returns of a document that say the same, by their digests, that the later ones are doubles of the first.
func redouble(ctx context.Context, tx *sqlx.Tx, document int64, digests ...[]byte) error {
	digests = slices.DeleteFunc(digests, func(d []byte) bool { return len(d) == 0 })
	if len(digests) == 0 {
		return nil
	}
	_, err := tx.ExecContext(ctx, `with alike as (select id, nullif(min(id) over (partition by digest), id) as first from returns
			where document_id = $1 and digest = any($2)),
		wrong as (select r.id, a.first from returns r join alike a on a.id = r.id where r.double_of is distinct from a.first
			order by r.id for update of r)
		update returns r set double_of = wrong.first from wrong where r.id = wrong.id`, document, digests)
	return err
}

func given[T any](m map[string]T) map[string]T {
	if m == nil {
		return map[string]T{}
	}
	return m
}

// call puts a call to each address that is told of returns on the queue.
func (s *Store) call(ctx context.Context, tx *sqlx.Tx, id int64) error {
	var calls []int64
	if err := tx.SelectContext(ctx, &calls, `insert into hook_calls (hook_id, return_id) select h.id, r.id from returns r
		join hooks h on h.document_id = r.document_id where r.id = $1 returning id`, id); err != nil {
		return err
	}
	for _, c := range calls {
		if err := s.enqueue(ctx, tx, Work{Kind: WorkHook, ID: c}); err != nil {
			return err
		}
	}
	return nil
}

const returnColumns = `select r.id, r.document_id, r.file, r.kind, r.name, r.received_at, length(f.bytes) as size, r.link_id,
		r.road, r.state, r.edition_id, e.number as edition, r.problem, r.double_of, r.assigned_to, a.name as whose, r.copy,
		r.answers, r.broken, r.unsure,
		case when l.id is not null then coalesce(nullif(l.name, ''), nullif(l.note, ''), 'a link') end as by
		from returns r join files f on f.sha256 = r.file left join form_links l on l.id = r.link_id
		left join editions e on e.id = r.edition_id left join accounts a on a.id = r.assigned_to `

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

// FailReturn says that a return could not be read, and why; a person has to look at it.
func (s *Store) FailReturn(ctx context.Context, id int64, _, why string) error {
	return s.one(ctx, `update returns set state = case state when 'unread' then 'waiting' else state end,
		problem = case state when 'unread' then $2 else problem end where id = $1`, id, why)
}
