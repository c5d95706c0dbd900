package store

import (
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"time"

	"github.com/jmoiron/sqlx"
)

// WorkPost is the work on a letter.
const WorkPost = "post"

// The kinds of letter.
const (
	LetterLink     = "link"
	LetterReminder = "reminder"
)

// Letter is a message that carries a link to somebody.
type Letter struct {
	ID        int64      `db:"id"`
	LinkID    int64      `db:"link_id"`
	Number    string     `db:"number"` // which no other letter has, here or elsewhere
	Kind      string     `db:"kind"`
	Recipient string     `db:"recipient"`
	Subject   string     `db:"subject"`
	Body      string     `db:"body"`
	State     string     `db:"state"` // waiting, sent, returned, failed
	Problem   string     `db:"problem"`
	SentAt    *time.Time `db:"sent_at"`
}

// post keeps a letter and puts it on the queue.
func (s *Store) post(ctx context.Context, tx *sqlx.Tx, by, link int64, kind, recipient, subject, body string) error {
	var id int64
	if err := tx.GetContext(ctx, &id, `insert into letters (link_id, kind, recipient, subject, body, made_by, number)
		values ($1, $2, $3, $4, $5, nullif($6, 0), $7) returning id`, link, kind, recipient, subject, body, by, rand.Text()); err != nil {
		return err
	}
	return s.enqueue(ctx, tx, Work{Kind: WorkPost, ID: id})
}

// Letter reads one.
func (s *Store) Letter(ctx context.Context, id int64) (Letter, error) {
	var l Letter
	err := s.db.GetContext(
		ctx,
		&l,
		`select id, link_id, number, kind, recipient, subject, body, state, problem, sent_at from letters where id = $1`,
		id,
	)
	return l, gone(err)
}

// Why a letter is not sent.
var (
	ErrWaiting = errors.New("a letter to this person waits to be sent already")
	ErrOpen    = errors.New("this link is nobody's own, so there is nobody to send it to: give it to those whom it is for")
)

// PostAgain sends a link once more: to those for whom it is good and to whom no letter waits. It passes over the others, and tells how
// many letters there are.
func (s *Store) PostAgain(ctx context.Context, edition, by int64, kind string, to map[int64]string,
	write func(FormLink) (subject, body string),
) (int, error) {
	n := 0
	err := s.tx(ctx, func(tx *sqlx.Tx) error {
		e, err := linkable(ctx, tx, edition)
		if err != nil {
			return err
		}
		var all []FormLink
		if err := tx.SelectContext(ctx, &all, formLinkColumns+`where l.edition_id = $1 and l.person is not null order by l.id`,
			edition); err != nil {
			return err
		}
		for _, l := range all {
			recipient, asked := to[l.ID]
			if !asked || recipient == "" || l.Good(time.Now()) != nil || l.State != nil && *l.State == "waiting" {
				continue
			}
			subject, body := write(l)
			if err := s.post(ctx, tx, by, l.ID, kind, recipient, subject, body); err != nil {
				return err
			}
			n++
		}
		return note(ctx, tx, by, DeedLink, fmt.Sprintf("%s, %d letters", e.Name, n), "")
	})
	return n, err
}

// EndLetter says what came of a letter that waits: sent, returned or failed, with the reason.
func (s *Store) EndLetter(ctx context.Context, id int64, state, problem string) error {
	_, err := s.db.ExecContext(ctx, `update letters set state = $2, problem = $3, sent_at = case when $2 = 'sent' then now() end
		where id = $1 and state = 'waiting'`, id, state, problem)
	return err
}

// Caught is a message in the post tray.
type Caught struct {
	ID        int64     `db:"id"`
	Sender    string    `db:"sender"`
	Recipient string    `db:"recipient"`
	Message   []byte    `db:"message"` // as RFC 5322 has it
	At        time.Time `db:"at"`
}

// mostCaught is how many messages the post tray keeps; the oldest go.
const mostCaught = 10_000

// Catch keeps a message in the post tray, once for each id of a message.
func (s *Store) Catch(ctx context.Context, messageID, sender, recipient string, message []byte) error {
	_, err := s.db.ExecContext(ctx, `insert into post_tray (message_id, sender, recipient, message) values (nullif($1, ''), $2, $3, $4)
		on conflict (message_id) do nothing`, messageID, sender, recipient, message)
	if err != nil {
		return err
	}
	_, err = s.db.ExecContext(ctx, `delete from post_tray where id <= (select max(id) from post_tray) - $1`, mostCaught)
	return err
}

// PostTray lists the messages in it, latest first: those before one, or the last of all when before is 0; at most n.
func (s *Store) PostTray(ctx context.Context, before int64, n int) ([]Caught, error) {
	var out []Caught
	err := s.db.SelectContext(ctx, &out, `select id, sender, recipient, message, at from post_tray where $1 = 0 or id < $1
		order by id desc limit $2`, before, n)
	return out, err
}

// CaughtMessage reads one.
func (s *Store) CaughtMessage(ctx context.Context, id int64) (Caught, error) {
	var c Caught
	err := s.db.GetContext(ctx, &c, `select id, sender, recipient, message, at from post_tray where id = $1`, id)
	return c, gone(err)
}
