package store

import (
	"context"

	"github.com/jmoiron/sqlx"
)

// Intake is a file on its way in.
type Intake struct {
	ID         int64  `db:"id"`
	AccountID  int64  `db:"account_id"`
	FileName   string `db:"file_name"`
	File       string `db:"file"`
	State      string `db:"state"` // waiting, reading, done, refused
	Step       string `db:"step"`
	Done       int    `db:"done"`
	Total      int    `db:"total"`
	Problem    string `db:"problem"`
	DocumentID *int64 `db:"document_id"`
}

// Percent is how far the reading is.
func (i Intake) Percent() int {
	if i.Total == 0 {
		return 5
	}
	return 5 + 95*i.Done/i.Total
}

// AddIntake keeps an uploaded file and queues it for reading.
func (s *Store) AddIntake(ctx context.Context, account int64, name string, b []byte) (int64, error) {
	var id int64
	err := s.tx(ctx, func(tx *sqlx.Tx) error {
		sha, err := keepFile(ctx, tx, b)
		if err != nil {
			return err
		}
		return tx.GetContext(ctx, &id, `insert into intakes (account_id, file_name, file) values ($1, $2, $3) returning id`, account, name, sha)
	})
	return id, err
}

// Intake reads an intake.
func (s *Store) Intake(ctx context.Context, id int64) (Intake, error) {
	var i Intake
	err := s.db.GetContext(ctx, &i, `select id, account_id, file_name, file, state, step, done, total, problem, document_id from intakes where id = $1`, id)
	return i, gone(err)
}

// WaitingIntakes lists intakes that have been neither finished nor refused.
func (s *Store) WaitingIntakes(ctx context.Context) ([]int64, error) {
	var out []int64
	err := s.db.SelectContext(ctx, &out, `select id from intakes where state in ('waiting', 'reading') order by id`)
	return out, err
}

// IntakeStep says how far the reading is.
func (s *Store) IntakeStep(ctx context.Context, id int64, step string, done, total int) error {
	return s.one(ctx, `update intakes set state = 'reading', step = $2, done = $3, total = $4 where id = $1 and state in ('waiting', 'reading')`, id, step, done, total)
}

// RefuseIntake ends an intake with the reason.
func (s *Store) RefuseIntake(ctx context.Context, id int64, problem string) error {
	return s.one(ctx, `update intakes set state = 'refused', problem = $2 where id = $1`, id, problem)
}

// FinishIntake makes the document of an intake, once: a repeated job finds it done.
func (s *Store) FinishIntake(ctx context.Context, id int64, n NewDocument) error {
	return s.tx(ctx, func(tx *sqlx.Tx) error {
		var state string
		if err := tx.GetContext(ctx, &state, `select state from intakes where id = $1 for update`, id); err != nil {
			return gone(err)
		}
		if state == "done" {
			return nil
		}
		doc, err := addDocument(ctx, tx, n)
		if err != nil {
			return err
		}
		_, err = tx.ExecContext(ctx, `update intakes set state = 'done', step = 'read', document_id = $2 where id = $1`, id, doc)
		return err
	})
}
