package store

import (
	"context"
	"crypto/rand"
	"errors"
	"net/url"
	"time"

	"github.com/jmoiron/sqlx"

	"zealousmargin.example/internal/form"
)

// Hook is an address that is told of the returns of a document.
type Hook struct {
	ID         int64     `db:"id"`
	DocumentID int64     `db:"document_id"`
	URL        string    `db:"url"`
	Secret     []byte    `db:"secret"` // that calls are signed with
	MadeAt     time.Time `db:"made_at"`

	Sent    int     `db:"sent"`
	Waiting int     `db:"waiting"`
	Failed  int     `db:"failed"`
	Problem *string `db:"problem"` // of the last call that was not taken
}

// Call tells an address of a return.
type Call struct {
	ID       int64  `db:"id"`
	HookID   int64  `db:"hook_id"`
	ReturnID int64  `db:"return_id"`
	URL      string `db:"url"`
	Secret   []byte `db:"secret"`
	State    string `db:"state"`
}

// mostHooks is how many addresses are told of one document.
const mostHooks = 10

// ErrAddress is returned for what is no address that could be called.
var ErrAddress = errors.New("write the whole address that is to be told, such as https://office.example/returns")

// AddHook has an address told of the returns of a document from now on.
func (s *Store) AddHook(ctx context.Context, document, by int64, address string) (Hook, error) {
	u, err := url.Parse(address)
	if err != nil || u.Scheme != "https" && u.Scheme != "http" || u.Host == "" || u.User != nil {
		return Hook{}, ErrAddress
	}
	if err := form.CheckLine("the address", address, 1000); err != nil {
		return Hook{}, err
	}
	secret := make([]byte, 32)
	if _, err := rand.Read(secret); err != nil {
		return Hook{}, err
	}
	var h Hook
	err = s.tx(ctx, func(tx *sqlx.Tx) error {
		if _, err := tx.ExecContext(ctx, `select from documents where id = $1 for update`, document); err != nil {
			return err
		}
		var n int
		if err := tx.GetContext(ctx, &n, `select count(*) from hooks where document_id = $1`, document); err != nil {
			return err
		}
		if n >= mostHooks {
			return errors.New("ten addresses are told of this form already: take one of them out first")
		}
		err := tx.GetContext(ctx, &h, `insert into hooks (document_id, url, secret, made_by) values ($1, $2, $3, nullif($4, 0))
			returning id, document_id, url, secret, made_at`, document, address, secret, by)
		if err != nil {
			return err
		}
		return note(ctx, tx, by, DeedSetting, "an address that is told of returns", "")
	})
	return h, err
}

// DropHook has an address told no more.
func (s *Store) DropHook(ctx context.Context, id int64) error {
	return s.one(ctx, `delete from hooks where id = $1`, id)
}

// Hooks lists the addresses that are told of the returns of a document.
func (s *Store) Hooks(ctx context.Context, document int64) ([]Hook, error) {
	var out []Hook
	err := s.db.SelectContext(ctx, &out, `select h.id, h.document_id, h.url, h.secret, h.made_at,
		count(*) filter (where c.state = 'sent') as sent, count(*) filter (where c.state = 'waiting') as waiting,
		count(*) filter (where c.state = 'failed') as failed,
		(select problem from hook_calls where hook_id = h.id and problem <> '' order by id desc limit 1) as problem
		from hooks h left join hook_calls c on c.hook_id = h.id where h.document_id = $1 group by h.id order by h.id`, document)
	return out, err
}

// Call reads one.
func (s *Store) Call(ctx context.Context, id int64) (Call, error) {
	var c Call
	err := s.db.GetContext(ctx, &c, `select c.id, c.hook_id, c.return_id, c.state, h.url, h.secret from hook_calls c
		join hooks h on h.id = c.hook_id where c.id = $1`, id)
	return c, gone(err)
}

// EndCall says that a call was taken ("sent"), or given up ("failed"), and why.
func (s *Store) EndCall(ctx context.Context, id int64, state, why string) error {
	return s.one(ctx, `update hook_calls set state = $2, problem = $3, at = now(), tries = tries + 1 where id = $1`, id, state, why)
}

// PutOffCall keeps why a call was not taken; it is tried again.
func (s *Store) PutOffCall(ctx context.Context, id int64, why string) error {
	return s.one(ctx, `update hook_calls set problem = $2, at = now(), tries = tries + 1 where id = $1`, id, why)
}
