package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"github.com/jmoiron/sqlx"

	"zealousmargin.example/internal/roster"
)

// TaskFill is filling in copies of an edition for people.
const TaskFill = "fill"

// MostCopies is how many copies are filled in at once.
const MostCopies = 5000

// Filling is copies of an edition that are filled in, one for each person.
type Filling struct {
	Task
	EditionID   int64     `db:"edition_id"`
	Number      int       `db:"number"` // of the edition
	FileName    string    `db:"file_name"`
	PeopleJSON  []byte    `db:"people"`
	Flat        bool      `db:"flat"`
	Merged      bool      `db:"merged"`
	First       int       `db:"first"`
	Result      *string   `db:"result"` // SHA-256 of the archive, or of the one file
	TroubleJSON []byte    `db:"trouble"`
	At          time.Time `db:"created_at"`
}

// People are those for whom it is filled in.
func (f Filling) People() []roster.Person {
	var out []roster.Person
	_ = json.Unmarshal(f.PeopleJSON, &out) // written by AddFilling
	return out
}

// Trouble is what did not go into the copy of a person.
type Trouble struct {
	Person string `json:"person"`
	Field  string `json:"field,omitempty"` // empty when there is no copy at all
	Why    string `json:"why"`
}

// Troubles lists what did not go in, by person.
func (f Filling) Troubles() []Trouble {
	var out []Trouble
	_ = json.Unmarshal(f.TroubleJSON, &out) // written by FinishFilling
	return out
}

// Why copies cannot be filled in.
var (
	ErrNobody = errors.New("choose somebody first: nobody is found by these words")
	ErrMany   = fmt.Errorf("at most %d copies can be filled in at once: choose fewer people", MostCopies)
	ErrFlat   = errors.New("this edition has no fields, since it is for the archive: choose another")
	ErrLocked = errors.New("this edition is locked, so nothing can be filled into it: choose one that is not")
)

// AddFilling asks for copies of an edition to be filled in for people. Serial numbers go on from those of the document's earlier copies.
func (s *Store) AddFilling(ctx context.Context, edition, account int64, people []roster.Person, flat, merged bool) (id int64, err error) {
	switch {
	case len(people) == 0:
		return 0, ErrNobody
	case len(people) > MostCopies:
		return 0, ErrMany
	}
	b, err := json.Marshal(people)
	if err != nil {
		return 0, err
	}
	err = s.tx(ctx, func(tx *sqlx.Tx) error {
		var e struct {
			Document int64  `db:"document_id"`
			Locked   string `db:"locked"`
			Kept     bool   `db:"kept"`
			Flat     bool   `db:"flat"`
		}
		if err := tx.GetContext(ctx, &e, `select e.document_id, e.locked, e.template is not null as kept,
			e.profile = 'flat' as flat from editions e join documents d on d.id = e.document_id where e.id = $1 for update of d`, edition); err != nil {
			return gone(err)
		}
		switch {
		case e.Locked != "":
			return ErrLocked
		case e.Flat:
			return ErrFlat
		case !e.Kept:
			return ErrNotKept
		}
		if id, err = s.addTask(ctx, tx, TaskFill, e.Document, account, []string{}, ""); err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `update tasks set total = $2 where id = $1`, id, len(people)); err != nil {
			return err
		}
		_, err := tx.ExecContext(ctx, `insert into fillings (task_id, edition_id, people, flat, merged, first)
			values ($1, $2, $3, $4, $5, `+nextSerial("$6")+`)`, id, edition, b, flat, merged, e.Document)
		return err
	})
	return id, err
}

const fillingColumns = `select t.id, t.kind, t.document_id, t.account_id, t.job_id, t.pages, t.language, t.state, t.step, t.done, t.total,
	t.words, t.problem, t.created_at, f.edition_id, e.number, e.file_name, f.people, f.flat, f.merged, f.first, f.result, f.trouble
	from fillings f join tasks t on t.id = f.task_id join editions e on e.id = f.edition_id `

// Filling reads one.
func (s *Store) Filling(ctx context.Context, id int64) (Filling, error) {
	var f Filling
	err := s.db.GetContext(ctx, &f, fillingColumns+`where t.id = $1`, id)
	return f, gone(err)
}

// Fillings lists the last ones of a document, latest first.
func (s *Store) Fillings(ctx context.Context, document int64) ([]Filling, error) {
	var out []Filling
	err := s.db.SelectContext(ctx, &out, fillingColumns+`where t.document_id = $1 order by t.id desc limit 20`, document)
	return out, err
}

// FinishFilling keeps what was made, once.
func (s *Store) FinishFilling(ctx context.Context, id int64, result []byte, trouble []Trouble) error {
	if trouble == nil {
		trouble = []Trouble{}
	}
	b, err := json.Marshal(trouble)
	if err != nil {
		return err
	}
	return s.tx(ctx, func(tx *sqlx.Tx) error {
		var t Task
		if err := tx.GetContext(ctx, &t, taskColumns+`where id = $1 for update`, id); err != nil {
			return gone(err)
		}
		if !t.Running() {
			return nil
		}
		var sha *string
		if len(result) > 0 {
			kept, err := keepFile(ctx, tx, result)
			if err != nil {
				return err
			}
			sha = &kept
		}
		if _, err := tx.ExecContext(ctx, `update fillings set result = $2, trouble = $3 where task_id = $1`, id, sha, b); err != nil {
			return err
		}
		_, err := tx.ExecContext(ctx, `update tasks set state = 'done', step = 'done', done = total where id = $1`, id)
		return err
	})
}
