package store

import (
	"context"
	"crypto/rand"
	"encoding/json"
	"errors"
	"time"
)

// Begun is a form that somebody has begun to fill in on the web, and has not sent.
type Begun struct {
	Code      string    `db:"code"` // by which it is come back to; empty on a personal link
	JSON      []byte    `db:"answers"`
	ChangedAt time.Time `db:"changed_at"`
}

// Answers are by the names of fields.
func (b Begun) Answers() map[string]string { return byKey[string](b.JSON) }

// mostBegun is how many forms may lie begun at one link; begunFor is for how long one lies that nobody goes on with.
const (
	mostBegun = 5000
	begunFor  = "90 days"
)

// ErrManyBegun is returned when no more is kept of what is begun at a link; what is sent is taken all the same.
var ErrManyBegun = errors.New("so many have begun this form that no more can be kept with the office: go on now, or get the form as a file")

// NewCode is one by which a form that was begun is come back to.
func NewCode() string { return rand.Text()[:10] }

// BegunAt reads what was begun by a link, under a code; [ErrMissing] when nothing was.
func (s *Store) BegunAt(ctx context.Context, link int64, code string) (Begun, error) {
	var b Begun
	err := s.db.GetContext(ctx, &b, `select code, answers, changed_at from begun where link_id = $1 and code = $2`, link, code)
	return b, gone(err)
}

// KeepBegun keeps answers that are not sent yet. Under a code that is not there nothing is kept unless it is new.
func (s *Store) KeepBegun(ctx context.Context, link int64, code string, fresh bool, answers map[string]string) error {
	b, err := json.Marshal(given(answers))
	if err != nil {
		return err
	}
	if fresh {
		var n int
		if err := s.db.GetContext(ctx, &n, `select count(*) from begun where link_id = $1`, link); err != nil {
			return err
		}
		if n >= mostBegun {
			return ErrManyBegun
		}
		_, err := s.db.ExecContext(ctx, `insert into begun (link_id, code, answers) values ($1, $2, $3)
			on conflict (link_id, code) do update set answers = $3, changed_at = now()`, link, code, b)
		return err
	}
	return s.one(ctx, `update begun set answers = $3, changed_at = now() where link_id = $1 and code = $2`, link, code, b)
}

// DropBegun forgets what was begun, since it was sent.
func (s *Store) DropBegun(ctx context.Context, link int64, code string) error {
	_, err := s.db.ExecContext(ctx, `delete from begun where link_id = $1 and code = $2`, link, code)
	return err
}
