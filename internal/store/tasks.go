package store

import (
	"context"
	"encoding/json"
	"errors"

	"github.com/jmoiron/sqlx"

	"zealousmargin.example/internal/form"
)

// The kinds of task.
const (
	TaskRecognise = "recognise"
	TaskFind      = "find"
)

// Task is work on a document that takes its time: recognising the text of pages, or
// finding fields on many of them.
type Task struct {
	ID         int64  `db:"id"`
	Kind       string `db:"kind"`
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

const taskColumns = `select id, kind, document_id, account_id, job_id, pages, language, state, step, done, total, words,
		problem from tasks `

// AddTask keeps the wish to work on pages and puts it on the queue.
func (s *Store) AddTask(ctx context.Context, kind string, document, account int64, pages []string, language string) (id int64, err error) {
	err = s.tx(ctx, func(tx *sqlx.Tx) error {
		id, err = s.addTask(ctx, tx, kind, document, account, pages, language)
		return err
	})
	return id, err
}

func (s *Store) addTask(ctx context.Context, tx *sqlx.Tx, kind string, document, account int64, pages []string, language string) (int64,
	error,
) {
	b, err := json.Marshal(pages)
	if err != nil {
		return 0, err
	}
	var id int64
	err = tx.GetContext(ctx, &id, `insert into tasks (kind, document_id, account_id, pages, language, total)
		values ($1, $2, $3, $4, $5, $6) returning id`,
		kind, document, account, b, language, len(pages))
	if err != nil {
		return 0, err
	}
	return id, s.enqueue(ctx, tx, Work{Kind: kind, ID: id, Pages: len(pages)})
}

// Task reads a task.
func (s *Store) Task(ctx context.Context, id int64) (Task, error) {
	var t Task
	err := s.db.GetContext(ctx, &t, taskColumns+`where id = $1`, id)
	return t, gone(err)
}

// LastTask reads the last task of a kind of a document; ErrMissing when there is none.
func (s *Store) LastTask(ctx context.Context, kind string, document int64) (Task, error) {
	var t Task
	err := s.db.GetContext(ctx, &t, taskColumns+`where kind = $1 and document_id = $2 order by id desc limit 1`, kind, document)
	return t, gone(err)
}

// TaskStep says how far a task is; ErrMissing when it has ended.
func (s *Store) TaskStep(ctx context.Context, id int64, step string, done int) error {
	return s.one(ctx, `update tasks set state = 'working', step = $2, done = $3 where id = $1 and state in ('waiting', 'working')`, id,
		step, done)
}

// Recognised is the text of a page of a task that goes on.
type Recognised struct {
	File  string `json:"file"` // SHA-256 of the words
	Words int    `json:"words"`
}

// TaskPart keeps what is recognised of a page, so that a task that is stopped goes on from there; ErrMissing when it has ended.
func (s *Store) TaskPart(ctx context.Context, id int64, page string, r Recognised) error {
	b, err := json.Marshal(map[string]Recognised{page: r})
	if err != nil {
		return err
	}
	return s.one(ctx, `update tasks set partial = partial || $2::jsonb where id = $1 and state in ('waiting', 'working')`, id, b)
}

// TaskParts are the pages that are recognised already, by their ids.
func (s *Store) TaskParts(ctx context.Context, id int64) (map[string]Recognised, error) {
	var b []byte
	if err := s.db.GetContext(ctx, &b, `select partial from tasks where id = $1`, id); err != nil {
		return nil, gone(err)
	}
	out := map[string]Recognised{}
	return out, json.Unmarshal(b, &out)
}

// EndTask ends a task without its outcome: failed, with the reason, or cancelled.
func (s *Store) EndTask(ctx context.Context, id int64, state, problem string) error {
	_, err := s.db.ExecContext(ctx, `update tasks set state = $2, problem = $3 where id = $1 and state in ('waiting', 'working')`, id,
		state, problem)
	return err
}

// FinishRecognise writes the recognised text of pages as one edit, once. Texts are
// SHA-256 of kept files by page id; pages that are gone are passed over.
func (s *Store) FinishRecognise(ctx context.Context, id int64, texts map[string]string, words int, title string) error {
	return s.finishTask(ctx, id, words, "", func(d *form.Template) (form.Edit, error) {
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
}

// FinishFind adds what was found on pages, by page id, as one edit, once. Places that
// have a field are left alone.
func (s *Store) FinishFind(ctx context.Context, id int64, found map[string][]form.Field) error {
	return s.finishTask(ctx, id, 0, "find", func(d *form.Template) (form.Edit, error) {
		var all []form.Field
		for i, p := range d.Pages {
			for _, f := range found[p.ID] {
				f.Page = i + 1
				all = append(all, f)
			}
		}
		return d.AddNew(all)
	})
}

func (s *Store) finishTask(ctx context.Context, id int64, words int, stage string, work func(*form.Template) (form.Edit, error)) error {
	return s.tx(ctx, func(tx *sqlx.Tx) error {
		var t Task
		if err := tx.GetContext(ctx, &t, taskColumns+`where id = $1 for update`, id); err != nil {
			return gone(err)
		}
		if !t.Running() {
			return nil
		}
		if _, err := s.change(ctx, tx, t.DocumentID, -1, t.AccountID, stage, work); err != nil && !errors.Is(err, form.ErrNothing) {
			return err
		}
		_, err := tx.ExecContext(ctx, `update tasks set state = 'done', step = 'done', done = total, words = $2, partial = '{}' where id = $1`, id, words)
		return err
	})
}

// AddFind queues finding on all pages of a document.
func (s *Store) AddFind(ctx context.Context, document, account int64) error {
	d, err := s.Document(ctx, document)
	if err != nil {
		return err
	}
	var ids []string
	for _, p := range d.Pages() {
		ids = append(ids, p.ID)
	}
	_, err = s.AddTask(ctx, TaskFind, document, account, ids, "")
	return err
}
