package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"

	"github.com/jmoiron/sqlx"

	"zealousmargin.example/internal/form"
)

// Draft is a document with its fields, at a revision.
type Draft struct {
	Document Document
	Template form.Template
	Undo     string // title of the edit that undo would take back; empty when there is none
	Redo     string
}

// Draft reads a document with its fields.
func (s *Store) Draft(ctx context.Context, id int64) (Draft, error) {
	var doc Document
	if err := s.db.GetContext(ctx, &doc, `select`+documentColumns+` where d.id = $1`, id); err != nil {
		return Draft{}, gone(err)
	}
	t, err := s.template(ctx, s.db, id, doc.Revision, doc.Pages())
	if err != nil {
		return Draft{}, err
	}
	t.Title, t.Details = doc.Title, doc.Details()
	d := Draft{Document: doc, Template: *t}
	var next []struct {
		Title string `db:"title"`
		State string `db:"state"`
	}
	err = s.db.SelectContext(ctx, &next, `
		(select title, state from edits where document_id = $1 and state = 'done' order by id desc limit 1)
		union all
		(select title, state from edits where document_id = $1 and state = 'undone' order by id asc limit 1)`, id)
	for _, n := range next {
		if n.State == "done" {
			d.Undo = n.Title
		} else {
			d.Redo = n.Title
		}
	}
	return d, err
}

// rows are the fields of a document at a revision, in tab order. Reading three hundred
// from the database costs more than all the rest of an edit; a revision never changes, so
// those that were read last are kept.
type rows struct {
	revision int64
	fields   []form.Field
}

// template reads the fields of a document that is at a revision.
func (s *Store) template(ctx context.Context, q sqlx.QueryerContext, id, revision int64, pages []form.Page) (*form.Template, error) {
	if had, ok := s.drafts.Get(id); ok && had.revision == revision {
		return &form.Template{Pages: pages, Fields: form.CloneFields(had.fields)}, nil
	}
	var read []struct {
		Row      []byte `db:"row"`
		Revision int64  `db:"revision"`
	}
	if err := sqlx.SelectContext(ctx, q, &read, `select f.row, d.revision from fields f
		join documents d on d.id = f.document_id where f.document_id = $1`, id); err != nil {
		return nil, err
	}
	t := &form.Template{Pages: pages, Fields: make([]form.Field, len(read))}
	for i, r := range read {
		if err := json.Unmarshal(r.Row, &t.Fields[i]); err != nil {
			return nil, fmt.Errorf("field of document %d: %w", id, err)
		}
	}
	t.Sort()
	if q == sqlx.QueryerContext(s.db) && len(read) > 0 && read[0].Revision == revision { // not what a transaction may yet take back
		s.remember(id, revision, t.Fields)
	}
	return t, nil
}

func (s *Store) remember(id, revision int64, fields []form.Field) {
	s.drafts.Add(id, rows{revision: revision, fields: form.CloneFields(fields)})
}

// Change works out an edit on the current draft and carries it out, in one
// transaction with the document's revision and the journal.
//
// Base is the revision that the person saw. When others have changed the draft
// since, the edit is refused with [form.ErrClash] if it touches a field that they
// touched, or if they changed the pages; otherwise it goes through. A negative base
// stands for the current one. A stage, when given, becomes the document's.
func (s *Store) Change(ctx context.Context, id, base, by int64, stage string, work func(*form.Template) (form.Edit, error)) (form.Edit,
	error,
) {
	var e form.Edit
	var after rows
	err := s.tx(ctx, func(tx *sqlx.Tx) error {
		var err error
		e, after, err = s.changed(ctx, tx, id, base, by, stage, work)
		return err
	})
	if err == nil { // the transaction is through: nobody can be at this revision with other fields
		s.remember(id, after.revision, after.fields)
	}
	return e, err
}

func (s *Store) change(ctx context.Context, tx *sqlx.Tx, id, base, by int64, stage string,
	work func(*form.Template) (form.Edit, error),
) (form.Edit, error) {
	e, _, err := s.changed(ctx, tx, id, base, by, stage, work)
	return e, err
}

// changed is a change within a transaction; it gives the fields as they are then.
func (s *Store) changed(ctx context.Context, tx *sqlx.Tx, id, base, by int64, stage string,
	work func(*form.Template) (form.Edit, error),
) (form.Edit, rows, error) {
	t, rev, err := s.lockDraft(ctx, tx, id)
	if err != nil {
		return form.Edit{}, rows{}, err
	}
	if err := repeated(ctx, tx, id); err != nil {
		return form.Edit{}, rows{}, err
	}
	e, err := work(t)
	if err != nil {
		return e, rows{}, err
	}
	if base >= 0 {
		if err := clash(ctx, tx, id, base, e); err != nil {
			return e, rows{}, err
		}
	}
	if err := carryOut(ctx, tx, id, t, e); err != nil {
		return e, rows{}, err
	}
	if _, err := tx.ExecContext(ctx, `update edits set state = 'abandoned' where document_id = $1 and state = 'undone'`, id); err != nil {
		return e, rows{}, err
	}
	kept, err := stepOf(e)
	if err != nil {
		return e, rows{}, err
	}
	sent, _ := sentOf(ctx)
	if _, err := tx.ExecContext(ctx, `insert into edits (document_id, revision, title, before, after, pages, details,
		account_id, sent, partial) values ($1, $2, $3, $4, $5, $6, $7, $8, $9, true)`,
		id, rev+1, e.Title, kept.Before, kept.After, kept.Pages, kept.Details, by, sent); err != nil {
		return e, rows{}, err
	}
	if (rev+1)%foldEvery == 0 {
		if err := fold(ctx, tx, id); err != nil {
			return e, rows{}, err
		}
	}
	return e, rows{revision: rev + 1, fields: t.Fields}, bump(ctx, tx, id, by, stage, t.Fields)
}

// carryOut applies an edit to the draft and writes what it changes.
func carryOut(ctx context.Context, tx *sqlx.Tx, id int64, t *form.Template, e form.Edit) error {
	if err := t.Apply(e); err != nil {
		return err
	}
	if err := writeEdit(ctx, tx, id, e); err != nil {
		return err
	}
	for _, part := range []struct {
		changed bool
		column  string
		value   any
	}{{e.Pages != nil, "pages", t.Pages}, {e.Details != nil, "details", t.Details}} {
		if !part.changed {
			continue
		}
		b, err := json.Marshal(part.value)
		if err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `update documents set `+part.column+` = $2 where id = $1`, id, b); err != nil {
			return err
		}
	}
	return nil
}

func orNull(there bool, v any) ([]byte, error) {
	if !there {
		return nil, nil
	}
	return json.Marshal(v)
}

// lockDraft reads a draft and holds it until the transaction ends.
func (s *Store) lockDraft(ctx context.Context, tx *sqlx.Tx, id int64) (*form.Template, int64, error) {
	var d Document
	if err := tx.GetContext(ctx, &d, `select pages, details, revision from documents where id = $1 for update`, id); err != nil {
		return nil, 0, gone(err)
	}
	t, err := s.template(ctx, tx, id, d.Revision, d.Pages())
	if err != nil {
		return nil, 0, err
	}
	t.Details = d.Details()
	return t, d.Revision, nil
}

// bump counts a document's revision on and keeps what the workroom lists of it; fields are those that it has now.
func bump(ctx context.Context, tx *sqlx.Tx, id, by int64, stage string, fields []form.Field) error {
	placed, open, doubtful := counts(fields)
	_, err := tx.ExecContext(ctx, `update documents set revision = revision + 1, changed_at = now(), changed_by = $2,
		stage = case when $3 = '' then stage else $3 end, fields = $4, open = $5, doubtful = $6 where id = $1`, id, by, stage,
		placed, open, doubtful)
	return err
}

// clash refuses an edit of fields that were changed after base, and any edit after
// pages were added, removed or moved: it may be meant for another page. What the window
// that sends the edit did itself is no clash: it knows it.
func clash(ctx context.Context, tx *sqlx.Tx, id, base int64, e form.Edit) error {
	var n int
	_, window := sentOf(ctx)
	err := tx.GetContext(ctx, &n, `
		select (select count(*) from edits, jsonb_array_elements(before || after) as row
			where document_id = $1 and revision > $2 and row->>'id' = any($3) and
				not (edits.state = 'done' and $4 <> '' and coalesce(split_part(edits.sent, ':', 1), '') = $4))
		+ (select count(*) from edits where document_id = $1 and revision > $2 and pages is not null and
			not (state = 'done' and $4 <> '' and coalesce(split_part(sent, ':', 1), '') = $4) and
			jsonb_path_query_array(pages, '$.before[*].id') <> jsonb_path_query_array(pages, '$.after[*].id'))`,
		id, base, ids(e.Before), window)
	if err != nil {
		return err
	}
	if n > 0 {
		return form.ErrClash
	}
	return nil
}

func ids(fields []form.Field) []string {
	out := make([]string, len(fields))
	for i, f := range fields {
		out[i] = f.ID
	}
	return out
}

func sides(e form.Edit) (before, after []byte, err error) {
	if e.Before == nil {
		e.Before = []form.Field{}
	}
	if e.After == nil {
		e.After = []form.Field{}
	}
	if before, err = json.Marshal(e.Before); err != nil {
		return nil, nil, err
	}
	after, err = json.Marshal(e.After)
	return before, after, err
}

// writeEdit brings the field rows to the edit's after side.
func writeEdit(ctx context.Context, tx *sqlx.Tx, id int64, e form.Edit) error {
	kept := map[string]bool{}
	for _, f := range e.After {
		kept[f.ID] = true
	}
	var lost []string
	for _, f := range e.Before {
		if !kept[f.ID] {
			lost = append(lost, f.ID)
		}
	}
	if len(lost) > 0 {
		if _, err := tx.ExecContext(ctx, `delete from fields where document_id = $1 and id = any($2)`, id, lost); err != nil {
			return err
		}
	}
	if len(e.After) == 0 {
		return nil
	}
	_, after, err := sides(e)
	if err != nil {
		return err
	}
	_, err = tx.ExecContext(ctx, `
		insert into fields (document_id, id, row) select $1, row->>'id', row from jsonb_array_elements($2::jsonb) as row
		on conflict (document_id, id) do update set row = excluded.row`, id, after)
	return err
}

// ErrNoUndo is returned when there is nothing to undo or redo.
var ErrNoUndo = errors.New("there is nothing more to take back")

// UnseenError tells that somebody else has done something that the person who wants to undo has not seen.
type UnseenError struct{ By, Title string }

func (e *UnseenError) Error() string {
	return fmt.Sprintf("%s has done something in the meantime that you had not seen: “%s”. It is shown now; undo once more to take it back",
		e.By, e.Title)
}

// unseen refuses to take back what others have done since a revision.
func unseen(ctx context.Context, tx *sqlx.Tx, id, by, base int64) error {
	var e UnseenError
	err := tx.QueryRowxContext(ctx, `select coalesce(a.name, 'Somebody'), e.title from edits e left join accounts a on a.id = e.account_id
		where e.document_id = $1 and e.revision > $2 and e.account_id is distinct from $3 order by e.revision desc limit 1`, id, base, by).
		Scan(&e.By, &e.Title)
	switch {
	case errors.Is(gone(err), ErrMissing):
		return nil
	case err != nil:
		return err
	}
	return &e
}

// Undo takes the last edit back; with redo, it does the last undone one again. Base is the revision that the person saw: what
// others have done since is not taken back unseen, which is an [UnseenError]. A negative base stands for the current one.
func (s *Store) Undo(ctx context.Context, id, by, base int64, redo bool) (form.Edit, error) {
	var e form.Edit
	err := s.tx(ctx, func(tx *sqlx.Tx) error {
		var err error
		e, err = s.takeBack(ctx, tx, id, by, base, redo)
		return err
	})
	return e, err
}

// takeBack is [Store.Undo] within a transaction.
func (s *Store) takeBack(ctx context.Context, tx *sqlx.Tx, id, by, base int64, redo bool) (form.Edit, error) {
	var e form.Edit
	t, _, err := s.lockDraft(ctx, tx, id)
	if err != nil {
		return e, err
	}
	if base >= 0 {
		if err := unseen(ctx, tx, id, by, base); err != nil {
			return e, err
		}
	}

	query, state := `select id, title, before, after, pages, details, partial from edits where document_id = $1
		and state = 'done' order by id desc limit 1`, "undone"
	if redo {
		query, state = `select id, title, before, after, pages, details, partial from edits where document_id = $1
		and state = 'undone' order by id asc limit 1`, "done"
	}
	var row step
	if err := gone(tx.GetContext(ctx, &row, query, id)); err != nil {
		if errors.Is(err, ErrMissing) {
			return e, ErrNoUndo
		}
		return e, err
	}
	if e, err = row.edit(t); err != nil {
		return e, err
	}
	if !redo {
		e = e.Inverse()
	}
	if err := carryOut(ctx, tx, id, t, e); err != nil {
		return e, err
	}
	// The journal row takes the new revision, so that others notice the change.
	if _, err := tx.ExecContext(ctx, `update edits set state = $2, revision = (select revision + 1 from documents
		where id = $3) where id = $1`, row.ID, state, id); err != nil {
		return e, err
	}
	return e, bump(ctx, tx, id, by, "", t.Fields)
}
