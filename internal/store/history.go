package store

import (
	"context"
	"time"

	"github.com/jmoiron/sqlx"
)

// Step is one edit of a document's journal, as the list of steps shows it.
type Step struct {
	ID    int64     `db:"id"`
	Title string    `db:"title"`
	State string    `db:"state"` // done, or undone
	At    time.Time `db:"at"`
	By    *string   `db:"by_name"`
}

// History lists the steps of a document that can be gone back or forward to, newest first.
func (s *Store) History(ctx context.Context, document int64, most int) ([]Step, error) {
	var out []Step
	err := s.db.SelectContext(ctx, &out, `select e.id, e.title, e.state, e.at, a.name as by_name from edits e left
		join accounts a on a.id = e.account_id
		where e.document_id = $1 and e.state in ('done', 'undone') and e.title <> '' order by e.id desc limit $2`, document, most)
	return out, err
}

// JumpTo takes edits back, or does them again, until the given step is the last one that is done: all of it, or nothing.
func (s *Store) JumpTo(ctx context.Context, document, by, step int64) error {
	return s.tx(ctx, func(tx *sqlx.Tx) error {
		if _, _, err := s.lockDraft(ctx, tx, document); err != nil {
			return err
		}
		var state string
		if err := tx.GetContext(ctx, &state, `select state from edits where document_id = $1 and id = $2 and state in ('done', 'undone')`,
			document, step); err != nil {
			return gone(err)
		}
		redo := state == "undone"
		query := `select count(*) from edits where document_id = $1 and state = 'done' and id > $2`
		if redo {
			query = `select count(*) from edits where document_id = $1 and state = 'undone' and id <= $2`
		}
		var left int
		if err := tx.GetContext(ctx, &left, query, document, step); err != nil {
			return err
		}
		for range left {
			if _, err := s.takeBack(ctx, tx, document, by, -1, redo); err != nil {
				return err
			}
		}
		return nil
	})
}

// Latest is where a document stands, and who changed it last.
type Latest struct {
	Revision  int64   `db:"revision"`
	AccountID *int64  `db:"changed_by"`
	By        *string `db:"by_name"`
	Title     *string `db:"title"`
}

// Latest reads where a document stands: cheap enough to be asked every other second.
func (s *Store) Latest(ctx context.Context, document int64) (Latest, error) {
	var l Latest
	err := s.db.GetContext(ctx, &l, `select d.revision, d.changed_by, a.name as by_name,
		(select title from edits where document_id = d.id and state = 'done' order by id desc limit 1) as title
		from documents d left join accounts a on a.id = d.changed_by where d.id = $1`, document)
	return l, gone(err)
}
