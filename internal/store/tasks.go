package store

import (
	"context"
	"encoding/json"

	"github.com/jmoiron/sqlx"

	"zealousmargin.example/internal/form"
)

// Task is work on a document that takes its time: recognising the text of pages.
type Task struct {
	ID         int64  `db:"id"`
	DocumentID int64  `db:"document_id"`
	AccountID  int64  `db:"account_id"`
	JobID      *int64 `db:"job_id"`
	PagesJSON  []byte `db:"pages"`
	Language   string `db:"language"`
	State      string `db:"state"` // waiting, working, done, failed, cancelled
	Step       string `db:"step"`
	Done       int    `db:"done"`
	Total      int    `db:"total"`
	Words      int    `db:"words"`
	Problem    string `db:"problem"`
}

// Running tells whether the task is still under way.
func (t Task) Running() bool { return t.State == "waiting" || t.State == "working" }

// Percent is how far the task is.
func (t Task) Percent() int { return percent(t.Done, t.Total) }

// Pages are the ids of the pages to work on.
func (t Task) Pages() []string {
	var out []string
	_ = json.Unmarshal(t.PagesJSON, &out) // written by AddTask
	return out
}

const taskColumns = `select id, document_id, account_id, job_id, pages, language, state, step, done, total, words, problem from tasks `

// AddTask keeps the wish to recognise pages.
func (s *Store) AddTask(ctx context.Context, document, account int64, pages []string, language string) (int64, error) {
	b, err := json.Marshal(pages)
	if err != nil {
		return 0, err
	}
	var id int64
	err = s.db.GetContext(ctx, &id, `insert into tasks (document_id, account_id, pages, language, total) values ($1, $2, $3, $4, $5) returning id`,
		document, account, b, language, len(pages))
	return id, err
}

// Task reads a task.
func (s *Store) Task(ctx context.Context, id int64) (Task, error) {
	var t Task
	err := s.db.GetContext(ctx, &t, taskColumns+`where id = $1`, id)
	return t, gone(err)
}

// LastTask reads the last task of a document; ErrMissing when there is none.
func (s *Store) LastTask(ctx context.Context, document int64) (Task, error) {
	var t Task
	err := s.db.GetContext(ctx, &t, taskColumns+`where document_id = $1 order by id desc limit 1`, document)
	return t, gone(err)
}

// WaitingTasks lists tasks that have not ended.
func (s *Store) WaitingTasks(ctx context.Context) ([]int64, error) {
	var out []int64
	err := s.db.SelectContext(ctx, &out, `select id from tasks where state in ('waiting', 'working') order by id`)
	return out, err
}

// TaskJob keeps the number of the job that does a task.
func (s *Store) TaskJob(ctx context.Context, id, job int64) error {
	return s.one(ctx, `update tasks set job_id = $2 where id = $1`, id, job)
}

// TaskStep says how far a task is; ErrMissing when it has ended.
func (s *Store) TaskStep(ctx context.Context, id int64, step string, done int) error {
	return s.one(ctx, `update tasks set state = 'working', step = $2, done = $3 where id = $1 and state in ('waiting', 'working')`, id, step, done)
}

// EndTask ends a task without its outcome: failed, with the reason, or cancelled.
func (s *Store) EndTask(ctx context.Context, id int64, state, problem string) error {
	_, err := s.db.ExecContext(ctx, `update tasks set state = $2, problem = $3 where id = $1 and state in ('waiting', 'working')`, id, state, problem)
	return err
}

// FinishTask writes the recognised text of pages as one edit, once. Texts are
// SHA-256 of kept files by page id; pages that are gone are passed over.
func (s *Store) FinishTask(ctx context.Context, id int64, texts map[string]string, words int, title string) error {
	return s.tx(ctx, func(tx *sqlx.Tx) error {
		var t Task
		if err := tx.GetContext(ctx, &t, taskColumns+`where id = $1 for update`, id); err != nil {
			return gone(err)
		}
		if !t.Running() {
			return nil
		}
		_, err := change(ctx, tx, t.DocumentID, -1, t.AccountID, "", func(d *form.Template) (form.Edit, error) {
			var ids []string
			for _, p := range d.Pages {
				if texts[p.ID] != "" {
					ids = append(ids, p.ID)
				}
			}
			if len(ids) == 0 {
				return form.Edit{}, form.ErrNothing
			}
			return d.ChangePages(title, ids, func(p *form.Page) { p.Text = texts[p.ID] })
		})
		if err != nil && err != form.ErrNothing {
			return err
		}
		_, err = tx.ExecContext(ctx, `update tasks set state = 'done', step = 'done', done = total, words = $2 where id = $1`, id, words)
		return err
	})
}
