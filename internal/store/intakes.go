package store

import (
	"context"
	"strconv"

	"github.com/jmoiron/sqlx"

	"zealousmargin.example/internal/form"
)

func itoa(n int) string { return strconv.Itoa(n) }

// Intake is files on their way in: to a document of their own, or, when
// IntoDocument is set, as pages of that one before its page number IntoAt.
type Intake struct {
	ID           int64  `db:"id"`
	AccountID    int64  `db:"account_id"`
	FileName     string `db:"file_name"`
	State        string `db:"state"` // waiting, reading, done, refused, locked, cancelled
	Step         string `db:"step"`
	Done         int    `db:"done"`
	Total        int    `db:"total"`
	Problem      string `db:"problem"`
	DocumentID   *int64 `db:"document_id"`
	JobID        *int64 `db:"job_id"`
	BatchID      *int64 `db:"batch_id"`
	IntoDocument *int64 `db:"into_document"`
	IntoAt       int    `db:"into_at"`
	Scans        int    `db:"scans"`
	First        string `db:"first"`   // SHA-256 of the first file
	Brought      int    `db:"brought"` // fields of the document that it made
}

// Running tells whether the intake is still under way.
func (i Intake) Running() bool { return i.State == "waiting" || i.State == "reading" }

// Percent is how far the reading is.
func (i Intake) Percent() int { return percent(i.Done, i.Total) }

func percent(done, total int) int {
	if total == 0 {
		return 5
	}
	return 5 + 95*done/total
}

const intakeColumns = `select i.id, i.account_id, i.file_name, i.state, i.step, i.done, i.total, i.problem, i.document_id, i.job_id,
	i.batch_id, i.into_document, i.into_at, i.scans, f.file as first,
	(select count(*) from fields where document_id = i.document_id) as brought
	from intakes i join intake_files f on f.intake_id = i.id and f.position = 1 `

// NewIntake is files to bring in together.
type NewIntake struct {
	Account int64
	Files   []NamedFile
	Batch   int64 // 0 for none
	Into    int64 // 0 for a document of their own
	At      int
}

// AddIntake keeps uploaded files and puts the reading of them on the queue.
func (s *Store) AddIntake(ctx context.Context, n NewIntake) (id int64, err error) {
	err = s.tx(ctx, func(tx *sqlx.Tx) error {
		id, err = s.addIntake(ctx, tx, n)
		return err
	})
	return id, err
}

func (s *Store) addIntake(ctx context.Context, tx *sqlx.Tx, n NewIntake) (int64, error) {
	var id int64
	err := func() error {
		name := n.Files[0].Name
		if len(n.Files) > 1 {
			name += " and " + itoa(len(n.Files)-1) + " more"
		}
		err := tx.GetContext(ctx, &id, `insert into intakes (account_id, file_name, batch_id, into_document, into_at)
			values ($1, $2, nullif($3, 0), nullif($4, 0), $5) returning id`, n.Account, name, n.Batch, n.Into, n.At)
		if err != nil {
			return err
		}
		for i, f := range n.Files {
			sha, err := keepFile(ctx, tx, f.Bytes)
			if err != nil {
				return err
			}
			if _, err := tx.ExecContext(ctx, `insert into intake_files (intake_id, position, file, file_name) values ($1, $2, $3, $4)`,
				id, i+1, sha, f.Name); err != nil {
				return err
			}
		}
		return s.enqueue(ctx, tx, Work{Kind: WorkRead, ID: id})
	}()
	return id, err
}

// Intake reads an intake.
func (s *Store) Intake(ctx context.Context, id int64) (Intake, error) {
	var i Intake
	err := s.db.GetContext(ctx, &i, intakeColumns+`where i.id = $1`, id)
	return i, gone(err)
}

// IntakeFiles reads the files of an intake.
func (s *Store) IntakeFiles(ctx context.Context, id int64) ([]NamedFile, error) {
	var out []NamedFile
	err := s.db.SelectContext(ctx, &out, `select i.file_name, f.bytes, coalesce(o.bytes, ''::bytea) as opened
		from intake_files i join files f on f.sha256 = i.file left join files o on o.sha256 = i.opened
		where intake_id = $1 order by position`, id)
	return out, err
}

// UnlockIntake has a locked intake read again, with copies of its files, in their order, that need no password; nil for a file that needs
// none anyway.
func (s *Store) UnlockIntake(ctx context.Context, id int64, opened [][]byte) error {
	return s.tx(ctx, func(tx *sqlx.Tx) error {
		for i, b := range opened {
			if b == nil {
				continue
			}
			sha, err := keepFile(ctx, tx, b)
			if err != nil {
				return err
			}
			if _, err := tx.ExecContext(ctx, `update intake_files set opened = $3 where intake_id = $1 and position = $2`, id, i+1,
				sha); err != nil {
				return err
			}
		}
		return s.readAgain(ctx, tx, id, "locked")
	})
}

// readAgain puts the reading of an intake that has stopped in a state on the queue.
func (s *Store) readAgain(ctx context.Context, tx *sqlx.Tx, id int64, state string) error {
	res, err := tx.ExecContext(ctx, `update intakes set state = 'waiting', problem = '', step = 'waiting for its turn', done = 0
		where id = $1 and state = $2`, id, state)
	if err != nil {
		return err
	}
	if n, err := res.RowsAffected(); err != nil || n == 0 {
		return err
	}
	return s.enqueue(ctx, tx, Work{Kind: WorkRead, ID: id, Again: true})
}

// RunningIntakes lists a person's intakes that are under way, oldest first, but for
// those of folders.
func (s *Store) RunningIntakes(ctx context.Context, account int64) ([]Intake, error) {
	var out []Intake
	err := s.db.SelectContext(ctx, &out, intakeColumns+`where i.account_id = $1 and i.state in ('waiting', 'reading', 'locked')
		and i.batch_id is null and i.created_at > now() - interval '1 day' order by i.id`, account)
	return out, err
}

// IntakesInto lists the intakes under way whose pages go into a document, oldest first.
func (s *Store) IntakesInto(ctx context.Context, account, document int64) ([]Intake, error) {
	var out []Intake
	err := s.db.SelectContext(ctx, &out, intakeColumns+`where i.account_id = $1 and i.into_document = $2 and
		i.state in ('waiting', 'reading', 'locked') order by i.id`, account, document)
	return out, err
}

// IntakeStep says how far the reading is. It returns ErrMissing when the intake has
// ended, such as by being cancelled.
func (s *Store) IntakeStep(ctx context.Context, id int64, step string, done, total int) error {
	return s.one(ctx, `update intakes set state = 'reading', step = $2, done = $3, total = $4 where id = $1
		and state in ('waiting', 'reading')`, id, step, done, total)
}

// EndIntake ends an intake that makes no document: refused, locked or failed, with the
// reason, or cancelled. One that is done stays done.
func (s *Store) EndIntake(ctx context.Context, id int64, state, problem string) error {
	_, err := s.db.ExecContext(ctx, `update intakes set state = $2, problem = $3 where id = $1
		and state in ('waiting', 'reading', 'locked')`, id, state, problem)
	return err
}

// FinishIntake makes the document of an intake, or adds its pages to the document
// that it is for; once: a repeated job finds it done, a cancelled one makes nothing.
// With the document of a folder comes the task to recognise its scans: at no moment does the folder look worked through
// while they still wait, and nothing that stops in between loses them.
func (s *Store) FinishIntake(ctx context.Context, id int64, n NewDocument, scans int) error {
	return s.tx(ctx, func(tx *sqlx.Tx) error {
		var i struct {
			State    string `db:"state"`
			Into     *int64 `db:"into_document"`
			At       int    `db:"into_at"`
			Language string `db:"language"`
		}
		if err := tx.GetContext(ctx, &i, `select state, into_document, into_at, coalesce((select language from batches b
		where b.id = batch_id), '') as language
			from intakes where id = $1 for update`, id); err != nil {
			return gone(err)
		}
		if i.State == "done" || i.State == "cancelled" {
			return nil
		}
		var doc int64
		var err error
		if i.Into == nil {
			doc, err = s.addDocument(ctx, tx, n)
		} else {
			doc, err = *i.Into, s.insertPages(ctx, tx, *i.Into, i.At, n)
		}
		if err != nil {
			return err
		}
		if _, err = tx.ExecContext(ctx, `update intakes set state = 'done', step = 'read', document_id = $2, scans = $3 where id = $1`,
			id, doc, scans); err != nil {
			return err
		}
		if ids := n.scanned(); i.Language != "" && len(ids) > 0 {
			_, err = s.addTask(ctx, tx, TaskRecognise, doc, n.By, ids, i.Language)
		}
		return err
	})
}

// scanned are the ids of the pages without usable text.
func (n NewDocument) scanned() []string {
	pages := n.Pages
	if n.Ready != nil {
		pages = n.Ready
	}
	var ids []string
	for _, p := range pages {
		if p.Scan {
			ids = append(ids, p.ID)
		}
	}
	return ids
}

// insertPages adds what was brought in to a document that is there.
func (s *Store) insertPages(ctx context.Context, tx *sqlx.Tx, doc int64, at int, n NewDocument) error {
	for _, b := range n.Files {
		if _, err := keepFile(ctx, tx, b); err != nil {
			return err
		}
	}
	if err := addOriginals(ctx, tx, doc, n.Originals); err != nil {
		return err
	}
	pages := n.Pages
	if n.Ready != nil {
		pages = n.Ready
	}
	_, err := s.change(ctx, tx, doc, -1, n.By, "", func(t *form.Template) (form.Edit, error) {
		title := "inserted 1 page"
		if len(pages) > 1 {
			title = "inserted " + itoa(len(pages)) + " pages"
		}
		e, err := t.InsertPages(title, at, pages, n.Fields)
		if all := form.JoinLeave(t.Details.Leave, n.Details.Leave); err == nil && all != t.Details.Leave {
			after := t.Details
			after.Leave = all
			e.Details = &form.DetailsEdit{Before: t.Details, After: after}
		}
		return e, err
	})
	return err
}

// Batch is a folder that is worked through in the background.
type Batch struct {
	ID        int64  `db:"id"`
	AccountID int64  `db:"account_id"`
	Name      string `db:"name"`
	Language  string `db:"language"`
	Skipped   string `db:"skipped"`
	Documents int    `db:"documents"`
	Open      int    `db:"open"` // not ended yet
}

const batchColumns = `select b.id, b.account_id, b.name, b.language, b.skipped, count(i.id) as documents,
	count(*) filter (where i.state in ('waiting', 'reading') or t.state in ('waiting', 'working')) as open
	from batches b left join intakes i on i.batch_id = b.id
	left join lateral (select state from tasks where document_id = i.document_id order by id desc limit 1) t on true `

// AddBatch begins a folder: each of its files becomes a document of its own.
func (s *Store) AddBatch(ctx context.Context, account int64, name, language, skipped string, files []NamedFile) (id int64, err error) {
	err = s.tx(ctx, func(tx *sqlx.Tx) error {
		err := tx.GetContext(ctx, &id, `insert into batches (account_id, name, language, skipped) values ($1, $2, $3, $4) returning id`,
			account, name, language, skipped)
		for _, f := range files {
			if err != nil {
				break
			}
			_, err = s.addIntake(ctx, tx, NewIntake{Account: account, Batch: id, Files: []NamedFile{f}})
		}
		return err
	})
	return id, err
}

// Batch reads a folder.
func (s *Store) Batch(ctx context.Context, id int64) (Batch, error) {
	var b Batch
	err := s.db.GetContext(ctx, &b, batchColumns+`where b.id = $1 group by b.id`, id)
	return b, gone(err)
}

// Batches lists the folders of the last month, newest first.
func (s *Store) Batches(ctx context.Context) ([]Batch, error) {
	var out []Batch
	err := s.db.SelectContext(ctx, &out, batchColumns+`where b.created_at > now() - interval '30 days' group by b.id order by b.id desc`)
	return out, err
}

// BatchRow is a document of a folder: how its intake went, and its recognition.
type BatchRow struct {
	Intake
	Pages     int    `db:"pages"`
	Title     string `db:"title"`
	TaskState string `db:"task_state"`
	TaskStep  string `db:"task_step"`
	Words     int    `db:"words"`
	TaskWrong string `db:"task_problem"`
	Notice    string `db:"notice"`
	Fields    int    `db:"fields"`
}

// BatchRows lists the documents of a folder.
func (s *Store) BatchRows(ctx context.Context, batch int64) ([]BatchRow, error) {
	var out []BatchRow
	err := s.db.SelectContext(ctx, &out, `select i.id, i.account_id, i.file_name, i.state, i.step, i.done, i.total, i.problem,
		i.document_id, i.scans,
		coalesce(jsonb_array_length(d.pages), 0) as pages, coalesce(d.title, '') as title, coalesce(d.notice, '') as notice,
		coalesce(t.state, '') as task_state, coalesce(t.step, '') as task_step, coalesce(t.words, 0) as words, coalesce(t.problem,
		'') as task_problem,
		(select count(*) from fields f where f.document_id = d.id) as fields
		from intakes i left join documents d on d.id = i.document_id
		left join lateral (select state, step, (select coalesce(max(words), 0) from tasks
		where document_id = d.id) as words, problem from tasks where document_id = d.id order by id desc limit 1) t on true
		where i.batch_id = $1 order by i.id`, batch)
	return out, err
}
