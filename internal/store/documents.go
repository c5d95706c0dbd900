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

// Document is one document of the workroom, without its fields.
type Document struct {
	ID          int64      `db:"id"`
	Title       string     `db:"title"`
	Description string     `db:"description"`
	Stage       string     `db:"stage"`
	Original    string     `db:"original"` // the file as it came
	Source      string     `db:"source"`   // the file that fields are written into
	FileName    string     `db:"file_name"`
	Notice      string     `db:"notice"` // what was found when it was brought in
	PagesJSON   []byte     `db:"pages"`
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
}

// Pages are the pages of the document.
func (d Document) Pages() []form.Page {
	var out []form.Page
	_ = json.Unmarshal(d.PagesJSON, &out) // written by AddDocument
	return out
}

const documentColumns = `
	d.id, d.title, d.description, d.stage, d.original, d.source, d.file_name, d.notice, d.pages, d.revision,
	d.created_at, d.changed_at, d.archived_at, a.name as changed_by_name,
	coalesce(n.fields, 0) as fields, coalesce(n.open, 0) as open, coalesce(n.doubtful, 0) as doubtful,
	e.number as edition, coalesce(e.revision = d.revision, false) as settled
	from documents d
	left join accounts a on a.id = d.changed_by
	left join lateral (
		select count(*) filter (where not f.find or f.kept or f.confidence >= $1) as fields,
		       count(*) filter (where f.find and not f.kept) as open,
		       count(*) filter (where f.find and not f.kept and f.confidence < $1) as doubtful
		from (select row->'find' is not null as find, coalesce((row->'find'->>'kept')::boolean, false) as kept,
		             coalesce((row->'find'->>'confidence')::float8, 1) as confidence
		      from fields where document_id = d.id) f
	) n on true
	left join lateral (
		select number, revision from editions where document_id = d.id order by number desc limit 1
	) e on true`

// Documents lists the documents in work, or the archived ones, last changed first.
func (s *Store) Documents(ctx context.Context, archived bool) ([]Document, error) {
	var out []Document
	err := s.db.SelectContext(ctx, &out, `select`+documentColumns+`
		where (d.archived_at is not null) = $2 order by d.changed_at desc, d.id desc`, form.LikelyFrom, archived)
	return out, err
}

// Document reads one document.
func (s *Store) Document(ctx context.Context, id int64) (Document, error) {
	var d Document
	err := s.db.GetContext(ctx, &d, `select`+documentColumns+` where d.id = $2`, form.LikelyFrom, id)
	return d, gone(err)
}

// NewDocument is what bringing a file in has made of it.
type NewDocument struct {
	Title, Description, FileName, Notice string
	Original, Source                     []byte
	Pages                                []form.Page
	By                                   int64
}

// AddDocument keeps a document and its files, all or nothing.
func (s *Store) AddDocument(ctx context.Context, n NewDocument) (int64, error) {
	var id int64
	err := s.tx(ctx, func(tx *sqlx.Tx) error {
		var err error
		id, err = addDocument(ctx, tx, n)
		return err
	})
	return id, err
}

func addDocument(ctx context.Context, tx *sqlx.Tx, n NewDocument) (int64, error) {
	pages, err := json.Marshal(n.Pages)
	if err != nil {
		return 0, err
	}
	original, err := keepFile(ctx, tx, n.Original)
	if err != nil {
		return 0, err
	}
	source, err := keepFile(ctx, tx, n.Source)
	if err != nil {
		return 0, err
	}
	var id int64
	err = tx.GetContext(ctx, &id, `
		insert into documents (title, description, original, source, file_name, notice, pages, changed_by)
		values ($1, $2, $3, $4, $5, $6, $7, $8) returning id`,
		n.Title, n.Description, original, source, n.FileName, n.Notice, pages, n.By)
	return id, err
}

// Describe changes the title and the description of a document.
func (s *Store) Describe(ctx context.Context, id int64, title, description string, by int64) error {
	title = strings.Join(strings.Fields(title), " ")
	if title == "" {
		return errors.New("a document needs a name: type one")
	}
	return s.one(ctx, `update documents set title = $2, description = $3, changed_at = now(), changed_by = $4 where id = $1`, id, title, strings.TrimSpace(description), by)
}

// Archive takes a document out of the workroom, or brings it back.
func (s *Store) Archive(ctx context.Context, id int64, away bool) error {
	return s.one(ctx, `update documents set archived_at = case when $2 then now() end where id = $1`, id, away)
}

func (s *Store) one(ctx context.Context, query string, args ...any) error {
	res, err := s.db.ExecContext(ctx, query, args...)
	if err != nil {
		return err
	}
	if n, err := res.RowsAffected(); err != nil || n == 0 {
		return errors.Join(err, ErrMissing)
	}
	return nil
}
