package store

import (
	"context"
	"errors"
	"fmt"
	"strconv"
	"strings"
	"time"

	"github.com/jmoiron/sqlx"

	"zealousmargin.example/internal/form"
)

// FormerColleague is what an erased account is called.
const FormerColleague = "a former colleague"

// What must be before something is deleted.
var (
	ErrNotArchived = errors.New("archive this document first: only what is archived can be deleted for good")
	ErrNoReason    = errors.New("say why it is deleted: the reason is kept")
)

// Delete takes an archived document away for good, with its editions, answers, journal and the files that nothing else uses. The reason
// is kept in the log, with its title. By is 0 for the application itself.
func (s *Store) Delete(ctx context.Context, id, by int64, reason string) error {
	if reason = strings.TrimSpace(reason); reason == "" {
		return ErrNoReason
	}
	if err := form.CheckText("the reason", reason, 500); err != nil {
		return err
	}
	err := s.tx(ctx, func(tx *sqlx.Tx) error { return remove(ctx, tx, id, by, reason) })
	if err == nil {
		s.drafts.Remove(id)
	}
	return err
}

func remove(ctx context.Context, tx *sqlx.Tx, id, by int64, reason string) error {
	var d struct {
		Title    string `db:"title"`
		Archived bool   `db:"archived"`
		Editions int    `db:"editions"`
	}
	err := tx.GetContext(ctx, &d, `select title, archived_at is not null as archived, (select count(*) from editions where document_id = d.id)
		as editions from documents d where id = $1 for update`, id)
	switch {
	case err != nil:
		return gone(err)
	case !d.Archived:
		return ErrNotArchived
	}
	files, err := filesOf(ctx, tx, id)
	if err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, `select set_config('zm.deleting', $1, true)`, strconv.FormatInt(id, 10)); err != nil {
		return err
	}
	for _, q := range []string{
		`delete from tasks where document_id = $1`,
		`delete from editions where document_id = $1`,
		`delete from intakes where document_id = $1 or into_document = $1`,
		`delete from documents where id = $1`,
	} {
		if _, err := tx.ExecContext(ctx, q, id); err != nil {
			return err
		}
	}
	if err := dropFiles(ctx, tx, files); err != nil {
		return err
	}
	about := fmt.Sprintf("%s (document %d, %d editions)", d.Title, id, d.Editions)
	return note(ctx, tx, by, DeedDelete, about, reason)
}

// uses are the columns that name files by their SHA-256, and the ones whose JSON does so somewhere; $1 is a document.
var (
	uses = []string{
		`select file from originals where document_id = $1`, `select file from editions where document_id = $1`,
		`select f.result from fillings f join tasks t on t.id = f.task_id where t.document_id = $1 and f.result is not null`,
		`select s.file from signings s join editions e on e.id = s.edition_id where e.document_id = $1`,
		`select s.finished from signings s join editions e on e.id = s.edition_id where e.document_id = $1 and s.finished is not null`,
		`select w.file from signers w join signings s on s.id = w.signing_id join editions e on e.id = s.edition_id
			where e.document_id = $1 and w.file is not null`,
		`select file from returns where document_id = $1`, `select original from documents where id = $1`,
		`select copy from returns where document_id = $1 and copy is not null`,
		`select f.file from return_files f join returns r on r.id = f.return_id where r.document_id = $1`,
		`select f.file from intake_files f join intakes i on i.id = f.intake_id where i.document_id = $1 or i.into_document = $1`,
		`select f.opened from intake_files f join intakes i on i.id = f.intake_id
			where f.opened is not null and (i.document_id = $1 or i.into_document = $1)`,
	}
	inside = []string{
		`select pages::text from documents where id = $1`, `select row::text from fields where document_id = $1`,
		`select coalesce(pages::text, '') || before::text || after::text from edits where document_id = $1`,
		`select partial::text from tasks where document_id = $1`,
		`select template::text from editions where document_id = $1 and template is not null`,
	}
)

// filesOf lists every file that a document uses, its past included.
func filesOf(ctx context.Context, tx *sqlx.Tx, id int64) ([]string, error) {
	var out []string
	q := `with t (words) as (` + strings.Join(inside, " union all ") + `)
		select distinct m[1] from t, regexp_matches(t.words, '"([0-9a-f]{64})"', 'g') m union ` + strings.Join(uses, " union ")
	return out, tx.SelectContext(ctx, &out, q, id)
}

// dropFiles takes those of the files away that nothing uses any more.
func dropFiles(ctx context.Context, tx *sqlx.Tx, files []string) error {
	_, err := tx.ExecContext(ctx, `delete from files f where sha256 = any($1)
		and not exists (select from originals where file = f.sha256) and not exists (select from editions where file = f.sha256)
		and not exists (select from returns where file = f.sha256 or copy = f.sha256)
		and not exists (select from return_files where file = f.sha256) and not exists (select from documents where original = f.sha256)
		and not exists (select from intake_files where file = f.sha256 or opened = f.sha256)
		and not exists (select from documents where position(f.sha256 in pages::text) > 0)
		and not exists (select from fields where position(f.sha256 in row::text) > 0)
		and not exists (select from edits where position(f.sha256 in coalesce(pages::text, '') || before::text || after::text) > 0)
		and not exists (select from tasks where position(f.sha256 in partial::text) > 0)
		and not exists (select from editions where position(f.sha256 in template::text) > 0)
		and not exists (select from fillings where result = f.sha256)
		and not exists (select from signings where file = f.sha256 or finished = f.sha256)
		and not exists (select from signers where file = f.sha256)
		and not exists (select from house_style where position(f.sha256 in style::text) > 0)
		and not exists (select from favourites where position(f.sha256 in style::text) > 0)`, files)
	return err
}

// Retain deletes the documents that have been archived for longer than the office keeps them, and tells how many they were. Nothing is
// deleted where no number of days is set.
func (s *Store) Retain(ctx context.Context) (int, error) {
	v, err := s.Setting(ctx, Retention)
	if err != nil || v == "" {
		return 0, err
	}
	days, err := strconv.Atoi(v)
	if err != nil {
		return 0, err
	}
	var old []int64
	if err := s.db.SelectContext(ctx, &old, `select id from documents where archived_at < $1 order by id`,
		time.Now().AddDate(0, 0, -days)); err != nil {
		return 0, err
	}
	n := 0
	for _, id := range old {
		err := s.Delete(ctx, id, 0, fmt.Sprintf("archived for more than %d days", days))
		switch {
		case errors.Is(err, ErrMissing), errors.Is(err, ErrNotArchived): // somebody was faster
		case err != nil:
			return n, err
		default:
			n++
		}
	}
	return n, nil
}

// Erase takes a person's name, address and password away for good and shuts the account; what was done with it stays, by a former
// colleague.
func (s *Store) Erase(ctx context.Context, id, by int64) error {
	return s.tx(ctx, func(tx *sqlx.Tx) error {
		if _, err := lockPerson(ctx, tx, id); err != nil {
			return err
		}
		for _, q := range []string{
			`update accounts set email = 'erased-' || id, name = '` + FormerColleague + `', password_hash = '', role = 'preparer', handy = null,
				disabled_at = coalesce(disabled_at, now()), erased_at = now() where id = $1`,
			`delete from links where account_id = $1`,
			`delete from visits where account_id = $1`,
		} {
			if _, err := tx.ExecContext(ctx, q, id); err != nil {
				return err
			}
		}
		if err := chiefs(ctx, tx); err != nil {
			return err
		}
		return note(ctx, tx, by, DeedErase, fmt.Sprintf("account %d", id), "")
	})
}
