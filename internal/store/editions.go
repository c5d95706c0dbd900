package store

import (
	"context"
	"encoding/json"
	"errors"
	"strings"
	"time"

	"github.com/jmoiron/sqlx"

	"zealousmargin.example/internal/form"
)

// Edition is a released PDF. It never changes; only that it was withdrawn is kept beside it.
type Edition struct {
	ID         int64     `db:"id"`
	DocumentID int64     `db:"document_id"`
	Number     int       `db:"number"`
	File       string    `db:"file"`
	FileName   string    `db:"file_name"`
	Fields     int       `db:"fields"`
	Revision   int64     `db:"revision"`
	ReleasedAt time.Time `db:"released_at"`
	ReleasedBy *string   `db:"released_by_name"`
	Size       int       `db:"size"`
	Proof      string    `db:"proof"`  // what was compared when it was written
	Notes      string    `db:"notes"`  // why it was made
	Locked     string    `db:"locked"` // how its file is locked, in words; empty when it is not
	Profile    string    `db:"profile"`
	Again      *int      `db:"again"` // the number of the edition that it was released again from
	Kept       bool      `db:"kept"`  // the form that it was written from is kept

	WithdrawnAt *time.Time `db:"withdrawn_at"`
	WithdrawnBy *string    `db:"withdrawn_by_name"`
	Reason      *string    `db:"reason"` // why it was withdrawn
}

const editionColumns = `select e.id, e.document_id, e.number, e.file, e.file_name, e.fields, e.revision, e.released_at, e.proof, e.notes,
	e.locked, e.profile, e.again, e.template is not null as kept, a.name as released_by_name, length(f.bytes) as size,
	w.at as withdrawn_at, w.reason, b.name as withdrawn_by_name
	from editions e join files f on f.sha256 = e.file left join accounts a on a.id = e.released_by
	left join withdrawals w on w.edition_id = e.id left join accounts b on b.id = w.account_id `

// Editions lists the editions of a document, newest first.
func (s *Store) Editions(ctx context.Context, document int64) ([]Edition, error) {
	var out []Edition
	err := s.db.SelectContext(ctx, &out, editionColumns+`where e.document_id = $1 order by e.number desc`, document)
	return out, err
}

// Edition reads one edition.
func (s *Store) Edition(ctx context.Context, id int64) (Edition, error) {
	var e Edition
	err := s.db.GetContext(ctx, &e, editionColumns+`where e.id = $1`, id)
	return e, gone(err)
}

// NewestEdition is the id of the newest edition of a document; 0 when it has none.
func (s *Store) NewestEdition(ctx context.Context, document int64) (int64, error) {
	var id int64
	err := s.db.GetContext(ctx, &id, `select coalesce(max(id), 0) from editions where document_id = $1`, document)
	return id, err
}

// As says what sort of file it is; empty for the everyday one.
func (e Edition) As() string { return form.Profile(e.Profile).Words() }

// ErrNotKept is returned for editions that were released before the form was kept with them.
var ErrNotKept = errors.New("this edition was released before the application kept the form with it: it can be downloaded, but neither " +
	"compared nor released again")

// EditionForm is the form that an edition was written from, without the pictures of its buttons.
func (s *Store) EditionForm(ctx context.Context, id int64) (form.Template, error) {
	var b []byte
	if err := s.db.GetContext(ctx, &b, `select coalesce(template, 'null') from editions where id = $1`, id); err != nil {
		return form.Template{}, gone(err)
	}
	if string(b) == "null" {
		return form.Template{}, ErrNotKept
	}
	var t form.Template
	return t, json.Unmarshal(b, &t)
}

// NewEdition is a written PDF that becomes an edition.
type NewEdition struct {
	Document int64
	Revision int64 // of the draft that it was written from
	By       int64
	PDF      []byte
	Form     form.Template // that it was written from
	Proof    string        // what was compared
	Notes    string
	Locked   string // how the PDF is locked, in words
	Profile  form.Profile
	Again    int                     // the number of the edition whose form it is; 0 is the draft
	Name     func(number int) string // of its file
}

const longestNotes = 2000

// Release keeps a written PDF as the next edition. The draft must still be at the
// revision that was written, else it is refused with [form.ErrClash]; the form of an earlier edition may be released at any time.
func (s *Store) Release(ctx context.Context, n NewEdition) (Edition, error) {
	n.Notes = strings.TrimSpace(n.Notes)
	if err := form.CheckText("the note", n.Notes, longestNotes); err != nil {
		return Edition{}, err
	}
	n.Form.Pictures = nil // they stand among the files
	kept, err := json.Marshal(n.Form)
	if err != nil {
		return Edition{}, err
	}
	var id int64
	err = s.tx(ctx, func(tx *sqlx.Tx) error {
		var now int64
		if err := tx.GetContext(ctx, &now, `select revision from documents where id = $1 for update`, n.Document); err != nil {
			return gone(err)
		}
		if now != n.Revision && n.Again == 0 {
			return form.ErrClash
		}
		sha, err := keepFile(ctx, tx, n.PDF)
		if err != nil {
			return err
		}
		var number int
		if err := tx.GetContext(ctx, &number, `select coalesce(max(number), 0) + 1 from editions where document_id = $1`,
			n.Document); err != nil {
			return err
		}
		if err := tx.GetContext(ctx, &id, `insert into editions (document_id, number, file, file_name, fields, revision,
			released_by, proof, notes, template, again, locked, profile)
			values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, nullif($11, 0), $12, $13) returning id`, n.Document, number, sha, n.Name(number),
			len(n.Form.Placed()), n.Revision, n.By, n.Proof, n.Notes, kept, n.Again, n.Locked, string(n.Profile)); err != nil {
			return err
		}
		if _, err = tx.ExecContext(ctx, `update documents set stage = 'release', changed_at = now(), changed_by = $2, edition = $3,
			edition_revision = $4 where id = $1`, n.Document, n.By, number, n.Revision); err != nil {
			return err
		}
		return note(ctx, tx, n.By, DeedRelease, n.Name(number), n.Notes)
	})
	if err != nil {
		return Edition{}, err
	}
	return s.Edition(ctx, id)
}

// Why an edition cannot be withdrawn.
var (
	ErrWithdrawn  = errors.New("this edition was withdrawn before")
	ErrWithoutWhy = errors.New("say why it is withdrawn: those who have it from you are told")
)

// Withdraw says of an edition that it is not to be used any more, and why; those who ask for it are told. The edition stays as it is.
func (s *Store) Withdraw(ctx context.Context, id, by int64, reason string) error {
	if reason = strings.TrimSpace(reason); reason == "" {
		return ErrWithoutWhy
	}
	if err := form.CheckText("the reason", reason, 500); err != nil {
		return err
	}
	return s.tx(ctx, func(tx *sqlx.Tx) error {
		var name string
		if err := tx.GetContext(ctx, &name, `select file_name from editions where id = $1`, id); err != nil {
			return gone(err)
		}
		res, err := tx.ExecContext(ctx, `insert into withdrawals (edition_id, account_id, reason) values ($1, $2, $3)
			on conflict do nothing`, id, by, reason)
		if err != nil {
			return err
		}
		if n, err := res.RowsAffected(); err != nil || n == 0 {
			return errors.Join(err, ErrWithdrawn)
		}
		return note(ctx, tx, by, DeedWithdraw, name, reason)
	})
}
