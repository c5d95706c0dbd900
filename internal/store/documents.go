package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"strings"
	"time"

	"github.com/jmoiron/sqlx"

	"zealousmargin.example/internal/form"
)

// Document is one document of the workroom, without its fields.
type Document struct {
	ID          int64      `db:"id"`
	Title       string     `db:"title"`
	Description string     `db:"description"`
	Stage       string     `db:"stage"`
	Original    string     `db:"original"` // the first file as it came
	FileName    string     `db:"file_name"`
	Notice      string     `db:"notice"` // what was found when it was brought in
	PagesJSON   []byte     `db:"pages"`
	DetailsJSON []byte     `db:"details"`
	Language    string     `db:"language"` // in which its text is recognised; empty when not chosen
	Revision    int64      `db:"revision"`
	CreatedAt   time.Time  `db:"created_at"`
	ChangedAt   time.Time  `db:"changed_at"`
	ChangedBy   *string    `db:"changed_by_name"`
	ArchivedAt  *time.Time `db:"archived_at"`

	Fields   int  `db:"fields"`   // placed
	Open     int  `db:"open"`     // finds that nobody has kept
	Doubtful int  `db:"doubtful"` // of those, doubtful ones
	Edition  *int `db:"edition"`  // number of the last one
	Settled  bool `db:"settled"`  // nothing has changed since the last edition

	Came      int `db:"came"` // back, of its editions
	CameToday int `db:"came_today"`

	LabelLines string `db:"labels"` // one a line
}

// Labels are what the office has put the document under.
func (d Document) Labels() []string {
	return strings.FieldsFunc(d.LabelLines, func(r rune) bool { return r == '\n' })
}

// Pages are the pages of the document.
func (d Document) Pages() []form.Page {
	var out []form.Page
	_ = json.Unmarshal(d.PagesJSON, &out) // written by addDocument and Change
	return out
}

// Details are what readers show about the document.
func (d Document) Details() form.Details {
	var out form.Details
	_ = json.Unmarshal(d.DetailsJSON, &out)
	return out
}

// counts are how many fields of a document are placed, how many finds nobody has kept, and how many of those are
// doubtful.
func counts(fields []form.Field) (placed, open, doubtful int) {
	for i := range fields {
		f := &fields[i]
		if f.Placed() {
			placed++
		}
		if f.OpenFind() {
			open++
			if f.Level() == form.Doubtful {
				doubtful++
			}
		}
	}
	return placed, open, doubtful
}

// documentColumns is what a document is read with.
const documentColumns = `
	d.id, d.title, d.description, d.stage, d.original, d.file_name, d.notice, d.pages, d.details, d.language, d.revision,
	d.created_at, d.changed_at, d.archived_at, d.fields, d.open, d.doubtful, d.edition, array_to_string(d.labels, E'\n') as labels,
	coalesce(d.edition_revision = d.revision, false) as settled, a.name as changed_by_name,
	coalesce((select sum(number) from return_counts where document_id = d.id), 0) as came,
	(select count(*) from returns where document_id = d.id and received_at >= date_trunc('day', now())) as came_today
	from documents d
	left join accounts a on a.id = d.changed_by`

// Documents lists the documents in work, or the archived ones, last changed first.
func (s *Store) Documents(ctx context.Context, archived bool) ([]Document, error) {
	var out []Document
	err := s.db.SelectContext(ctx, &out, `select`+documentColumns+`
		where (d.archived_at is not null) = $1 order by d.changed_at desc, d.id desc`, archived)
	return out, err
}

// Document reads one document.
func (s *Store) Document(ctx context.Context, id int64) (Document, error) {
	var d Document
	err := s.db.GetContext(ctx, &d, `select`+documentColumns+` where d.id = $1`, id)
	return d, gone(err)
}

// Original is a file as it came.
type Original struct {
	Position int    `db:"position"`
	File     string `db:"file"`
	FileName string `db:"file_name"`
	Size     int    `db:"size"`
}

// Originals lists the files that a document was made from.
func (s *Store) Originals(ctx context.Context, document int64) ([]Original, error) {
	var out []Original
	err := s.db.SelectContext(ctx, &out, `select o.position, o.file, o.file_name, length(f.bytes) as size
		from originals o join files f on f.sha256 = o.file where document_id = $1 order by position`, document)
	return out, err
}

// NamedFile is a file with the name that it came under.
type NamedFile struct {
	Name   string `db:"file_name"`
	Bytes  []byte `db:"bytes"`
	Opened []byte `db:"opened"` // the copy that needs no password; empty when it needs none anyway
}

// NewDocument is what bringing files in has made of them.
type NewDocument struct {
	Title, Description, Notice string
	Originals                  []NamedFile
	Files                      [][]byte // that the pages are shown from
	Pages                      []form.Page
	Fields                     []form.Field
	Details                    form.Details
	// Ready is the pages made upright, straight and clean; nil when they need nothing.
	// It becomes the first edit, so that it can be taken back.
	Ready []form.Page
	By    int64
}

// AddDocument keeps a document and its files, all or nothing.
func (s *Store) AddDocument(ctx context.Context, n NewDocument) (int64, error) {
	var id int64
	err := s.tx(ctx, func(tx *sqlx.Tx) error {
		var err error
		id, err = s.addDocument(ctx, tx, n)
		return err
	})
	return id, err
}

func (s *Store) addDocument(ctx context.Context, tx *sqlx.Tx, n NewDocument) (int64, error) {
	if len(n.Originals) == 0 {
		return 0, errors.New("a document needs a file")
	}
	for _, b := range n.Files {
		if _, err := keepFile(ctx, tx, b); err != nil {
			return 0, err
		}
	}
	pages, err := json.Marshal(n.Pages)
	if err != nil {
		return 0, err
	}
	details, err := json.Marshal(n.Details)
	if err != nil {
		return 0, err
	}
	first, err := keepFile(ctx, tx, n.Originals[0].Bytes)
	if err != nil {
		return 0, err
	}
	var id int64
	placed, open, doubtful := counts(n.Fields)
	err = tx.GetContext(ctx, &id, `
		insert into documents (title, description, original, file_name, notice, pages, details, changed_by, stage, fields, open, doubtful)
		values ($1, $2, $3, $4, $5, $6, $7, $8, 'find', $9, $10, $11) returning id`,
		n.Title, n.Description, first, n.Originals[0].Name, n.Notice, pages, details, n.By, placed, open, doubtful)
	if err != nil {
		return 0, err
	}
	if err := addOriginals(ctx, tx, id, n.Originals); err != nil {
		return 0, err
	}
	if err := writeEdit(ctx, tx, id, form.Edit{After: n.Fields}); err != nil {
		return 0, err
	}
	if n.Ready == nil {
		return id, nil
	}
	_, err = s.change(ctx, tx, id, 0, n.By, "", func(t *form.Template) (form.Edit, error) {
		return form.Edit{Title: readyTitle(n.Pages, n.Ready), Pages: &form.PagesEdit{Before: t.Pages, After: n.Ready}}, nil
	})
	return id, err
}

// readyTitle says how many pages were made ready.
func readyTitle(before, after []form.Page) string {
	n := 0
	for i := range after {
		if i < len(before) && before[i] != after[i] {
			n++
		}
	}
	if n == 1 {
		return "made 1 scanned page ready"
	}
	return "made " + itoa(n) + " scanned pages ready"
}

func addOriginals(ctx context.Context, tx *sqlx.Tx, id int64, files []NamedFile) error {
	for _, o := range files {
		sha, err := keepFile(ctx, tx, o.Bytes)
		if err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `insert into originals (document_id, position, file, file_name)
			select $1, coalesce(max(position), 0) + 1, $2, $3 from originals where document_id = $1`, id, sha, o.Name); err != nil {
			return err
		}
	}
	return nil
}

// Describe changes the title and the description of a document.
func (s *Store) Describe(ctx context.Context, id int64, title, description string, by int64) error {
	title = strings.Join(strings.Fields(title), " ")
	if title == "" {
		return errors.New("a document needs a name: type one")
	}
	const longestTitle, longestDescription = 300, 2000
	if err := errors.Join(form.CheckText("the name", title, longestTitle),
		form.CheckText("the description", description, longestDescription)); err != nil {
		return err
	}
	return s.one(ctx, `update documents set title = $2, description = $3, changed_at = now(), changed_by = $4 where id = $1`, id, title,
		strings.TrimSpace(description), by)
}

// SetLanguage keeps the language in which a document's text is recognised.
func (s *Store) SetLanguage(ctx context.Context, id int64, language string) error {
	return s.one(ctx, `update documents set language = $2 where id = $1`, id, language)
}

// Archive takes a document out of the workroom, or brings it back.
func (s *Store) Archive(ctx context.Context, id int64, away bool) error {
	return s.one(ctx, `update documents set archived_at = case when $2 then now() end where id = $1`, id, away)
}

func (s *Store) one(ctx context.Context, query string, args ...any) error {
	return oneOf(s.db.ExecContext(ctx, query, args...))
}

// oneOf is [ErrMissing] where nothing was changed.
func oneOf(res sql.Result, err error) error {
	if err != nil {
		return err
	}
	if n, err := res.RowsAffected(); err != nil || n == 0 {
		return errors.Join(err, ErrMissing)
	}
	return nil
}
