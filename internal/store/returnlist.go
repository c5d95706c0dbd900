package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/jmoiron/sqlx"

	"zealousmargin.example/internal/form"
)

// States of a return that a person can set.
var States = []form.Offer{
	{Value: "new", Words: "new"},
	{Value: "checked", Words: "checked"},
	{Value: "refused", Words: "refused"},
	{Value: "done", Words: "done"},
}

// Sought is which returns of a document are wanted.
type Sought struct {
	Document int64
	Edition  int    // its number; 0 is any
	Road     string // empty is any
	State    string // one of the states, "broken", "unsure", "double", "mine" or "waits"; empty is any
	Account  int64  // whose "mine" are
	Words    string // that stand in an answer, or whom it is from
	Key      string // a question with a certain answer
	Answer   string // that answer; "-" is none
	Sort     string // the key of a question; empty is when they came
	Number   bool   // that question is sorted as a number
	Up       bool   // the smallest, or the oldest, first
	Offset   int
	Most     int  // 0 is all
	Some     bool // how many there are in all does not matter
}

// where is the condition of what is sought.
func (q Sought) where() (string, []any) {
	args := []any{q.Document}
	cond := []string{"r.document_id = $1"}
	add := func(c string, v ...any) {
		for _, one := range v {
			args = append(args, one)
			c = strings.Replace(c, "?", fmt.Sprintf("$%d", len(args)), 1)
		}
		cond = append(cond, c)
	}
	if q.Edition != 0 {
		add(`r.edition_id in (select id from editions where document_id = $1 and number = ?)`, q.Edition)
	}
	if q.Road != "" {
		add(`r.road = ?`, q.Road)
	}
	switch q.State {
	case "":
	case "broken":
		add(`r.state = 'new' and r.broken <> '{}'`)
	case "unsure":
		add(`r.state = 'new' and r.unsure <> '{}'`)
	case "double":
		add(`r.double_of is not null`)
	case "mine":
		add(`r.assigned_to = ?`, q.Account)
	case "waits":
		add(`r.state in ('waiting', 'unread')`)
	default:
		add(`r.state = ?`, q.State)
	}
	if q.Words != "" {
		like := "%" + strings.NewReplacer(`\`, `\\`, "%", `\%`, "_", `\_`).Replace(strings.ToLower(q.Words)) + "%"
		add(`(r.words like ? or r.link_id = any(array(select k.id from form_links k join editions x on x.id = k.edition_id
			where x.document_id = $1 and lower(k.name || k.note) like ?)))`, like, like)
	}
	if q.Key != "" {
		if q.Answer == "-" {
			add(`not jsonb_exists(r.answers, ?)`, q.Key)
		} else {
			one, _ := json.Marshal(map[string]string{q.Key: q.Answer}) // two texts
			add(`r.answers @> ?::jsonb`, string(one))
		}
	}
	return strings.Join(cond, " and "), args
}

// order is how they are sorted.
func (q Sought) order(args []any) (string, []any) {
	way := "desc"
	if q.Up {
		way = "asc"
	}
	if q.Sort == "" {
		return "r.id " + way, args
	}
	args = append(args, q.Sort)
	by := fmt.Sprintf("r.answers->>$%d", len(args))
	if q.Number {
		by = fmt.Sprintf(`case when %s ~ '^-?[0-9]+(\.[0-9]+)?$' then (%s)::numeric end`, by, by)
	}
	return by + " " + way + " nulls last, r.id " + way, args
}

// FindReturns gives the returns that are sought, and how many there are in all.
func (s *Store) FindReturns(ctx context.Context, q Sought) (out []Return, all int, err error) {
	where, args := q.where()
	if !q.Some {
		if err := s.db.GetContext(ctx, &all, `select count(*) from returns r where `+where, args...); err != nil {
			return nil, 0, err
		}
	}
	order, args := q.order(args)
	ids := `select r.id from returns r where ` + where + ` order by ` + order
	if q.Most > 0 {
		ids += fmt.Sprintf(" limit %d offset %d", q.Most, q.Offset)
	}
	var which []int64 // first, so that nothing else is read of those that are not shown
	if err := s.db.SelectContext(ctx, &which, ids, args...); err != nil || len(which) == 0 {
		return nil, all, err
	}
	if err := s.db.SelectContext(ctx, &out, returnColumns+`where r.id = any($1)`, which); err != nil {
		return nil, all, err
	}
	at := map[int64]int{}
	for i, id := range which {
		at[id] = i
	}
	slices.SortFunc(out, func(a, b Return) int { return at[a.ID] - at[b.ID] })
	return out, all, nil
}

// EachReturn gives the returns that are sought one after the other.
func (s *Store) EachReturn(ctx context.Context, q Sought, do func(Return) error) error {
	where, args := q.where()
	order, args := q.order(args)
	rows, err := s.db.QueryxContext(ctx, returnColumns+`where `+where+` order by `+order, args...)
	if err != nil {
		return err
	}
	defer rows.Close()
	for rows.Next() {
		var r Return
		if err := rows.StructScan(&r); err != nil {
			return err
		}
		if err := do(r); err != nil {
			return err
		}
	}
	return rows.Err()
}

// Beside is the return before and behind one, as they came; 0 where there is none.
func (s *Store) Beside(ctx context.Context, document, id int64) (before, behind int64, err error) {
	err = s.db.QueryRowxContext(ctx, `select coalesce((select max(id) from returns where document_id = $1 and id < $2), 0),
		coalesce((select min(id) from returns where document_id = $1 and id > $2), 0)`, document, id).Scan(&before, &behind)
	return before, behind, err
}

// Count is how often something is.
type Count struct {
	Word   string `db:"word"`
	Number int    `db:"number"`
}

// Sums are the numbers of returns of a document.
type Sums struct {
	All, Today, Waiting, Broken, Unsure, Fresh int
}

// SumReturns counts the returns of a document; today is since midnight where the office is.
func (s *Store) SumReturns(ctx context.Context, document int64, today time.Time) (Sums, error) {
	var n Sums
	err := s.db.QueryRowxContext(ctx, `select (select coalesce(sum(number), 0) from return_counts where document_id = $1),
		(select count(*) from returns where document_id = $1 and received_at >= $2),
		(select count(*) from returns where document_id = $1 and state in ('waiting', 'unread')),
		(select count(*) from returns where document_id = $1 and state = 'new' and broken <> '{}'),
		(select count(*) from returns where document_id = $1 and state = 'new' and unsure <> '{}'),
		(select count(*) from returns where document_id = $1 and state = 'new')`, document, today).Scan(&n.All, &n.Today, &n.Waiting, &n.Broken,
		&n.Unsure, &n.Fresh)
	return n, err
}

// CountByDay counts the returns of the last days, oldest first; days without any are among them.
func (s *Store) CountByDay(ctx context.Context, document int64, days int, now time.Time) ([]Count, error) {
	var out []Count
	zone := now.Location().String()
	if zone == "Local" {
		zone = "UTC"
	}
	err := s.db.SelectContext(ctx, &out, `select to_char(d.day, 'YYYY-MM-DD') as word, count(r.id) as number
		from generate_series(($3::timestamptz at time zone $4)::date - ($2::int - 1), ($3::timestamptz at time zone $4)::date, '1 day') as d (day)
		left join returns r on r.document_id = $1 and r.received_at >= $3::timestamptz - make_interval(days => $2 + 1)
			and (r.received_at at time zone $4)::date = d.day group by d.day order by d.day`, document, days, now, zone)
	return out, err
}

// CountAnswers counts the answers to a question, most frequent first; each line of an answer counts by itself.
func (s *Store) CountAnswers(ctx context.Context, document int64, key string, most int) ([]Count, error) {
	var out []Count
	err := s.db.SelectContext(
		ctx,
		&out,
		`select w as word, count(*) as number from returns r, regexp_split_to_table(r.answers->>$2, '\n') w
		where r.document_id = $1 and jsonb_exists(r.answers, $2) group by w order by 2 desc, 1 limit $3`,
		document,
		key,
		most,
	)
	return out, err
}

// Numbers are the numbers that a question was answered with, in rising order, at most so many of the newest returns.
func (s *Store) Numbers(ctx context.Context, document int64, key string, most int) ([]float64, error) {
	var out []float64
	err := s.db.SelectContext(ctx, &out, `select (answers->>$2)::float8 from (select answers from returns where document_id = $1
		and jsonb_exists(answers, $2) order by id desc limit $3) t where answers->>$2 ~ '^-?[0-9]+(\.[0-9]+)?$' order by 1`, document, key, most)
	return out, err
}

// CountFilled counts by key how many of the newest returns answer a question, and how many these are in all.
func (s *Store) CountFilled(ctx context.Context, document int64, most int) (map[string]int, int, error) {
	var list []Count
	if err := s.db.SelectContext(ctx, &list, `select k as word, count(*) as number from (select answers from returns where document_id = $1
		and state not in ('unread', 'waiting') order by id desc limit $2) t, jsonb_object_keys(t.answers) k group by k`, document, most); err != nil {
		return nil, 0, err
	}
	var n int
	err := s.db.GetContext(
		ctx,
		&n,
		`select count(*) from (select from returns where document_id = $1 and state not in ('unread', 'waiting')
		limit $2) t`,
		document,
		most,
	)
	out := map[string]int{}
	for _, c := range list {
		out[c.Word] = c.Number
	}
	return out, n, err
}

// Change is what was done with a return.
type Change struct {
	ID    int64     `db:"id"`
	At    time.Time `db:"at"`
	Who   *string   `db:"who"`
	What  string    `db:"what"` // value, state, assigned, note
	Field string    `db:"field"`
	Was   string    `db:"was"`
	Is    string    `db:"is_now"`
}

// Changes lists what was done with a return, latest first.
func (s *Store) Changes(ctx context.Context, id int64) ([]Change, error) {
	var out []Change
	err := s.db.SelectContext(ctx, &out, `select c.id, c.at, a.name as who, c.what, c.field, c.was, c.is_now from return_changes c
		left join accounts a on a.id = c.account_id where c.return_id = $1 order by c.id desc limit 200`, id)
	return out, err
}

// Attached is a file that came with a return.
type Attached struct {
	ID    int64  `db:"id"`
	Field string `db:"field"`
	Name  string `db:"name"`
	File  string `db:"file"`
	Size  int    `db:"size"`
}

// Attached lists the files that came with a return.
func (s *Store) Attached(ctx context.Context, id int64) ([]Attached, error) {
	var out []Attached
	err := s.db.SelectContext(ctx, &out, `select r.id, r.field, r.name, r.file, length(f.bytes) as size from return_files r
		join files f on f.sha256 = r.file where r.return_id = $1 order by r.id`, id)
	return out, err
}

const longestAnswer = 64 << 10

// CorrectReturn changes one answer, kept with who, when, and what it was; check works out of all answers what breaks the rules then. The
// answer must still be what it was, else it is refused with [form.ErrClash]. A question that was unsure is sure then.
func (s *Store) CorrectReturn(
	ctx context.Context,
	id, by int64,
	key, was, is string,
	check func(map[string]string) (map[string]string, []byte, error),
) error {
	if err := form.CheckText("the answer", is, longestAnswer); err != nil {
		return err
	}
	return s.tx(ctx, func(tx *sqlx.Tx) error {
		var r struct {
			Return
			Digest []byte `db:"digest"`
		}
		if err := tx.GetContext(ctx, &r, `select document_id, answers, unsure, digest from returns where id = $1 for update`, id); err != nil {
			return gone(err)
		}
		answers, unsure := r.Answers(), r.Unsure()
		if answers[key] != was {
			return form.ErrClash
		}
		_, doubtful := unsure[key]
		if was == is && !doubtful {
			return nil
		}
		delete(unsure, key)
		answers[key] = is
		if is == "" {
			delete(answers, key)
		}
		broken, digest, err := check(answers)
		if err != nil {
			return err
		}
		var parts [3][]byte
		for i, m := range []any{answers, given(broken), unsure} {
			if parts[i], err = json.Marshal(m); err != nil {
				return err
			}
		}
		if _, err := tx.ExecContext(ctx, `update returns set answers = $2, broken = $3, unsure = $4, digest = $5,
			double_of = case when $5::bytea is null then null else double_of end,
			state = case state when 'waiting' then 'new' else state end where id = $1`, id, parts[0], parts[1], parts[2], digest); err != nil {
			return err
		}
		if err := redouble(ctx, tx, r.DocumentID, r.Digest, digest); err != nil {
			return err
		}
		return changed(ctx, tx, id, by, "value", key, was, is)
	})
}

func changed(ctx context.Context, tx *sqlx.Tx, id, by int64, what, field, was, is string) error {
	_, err := tx.ExecContext(ctx, `insert into return_changes (return_id, account_id, what, field, was, is_now)
		values ($1, nullif($2, 0), $3, $4, $5, $6)`, id, by, what, field, was, is)
	return err
}

// SetReturnState sets the state of returns.
func (s *Store) SetReturnState(ctx context.Context, ids []int64, by int64, state string) error {
	if !slices.ContainsFunc(States, func(o form.Offer) bool { return o.Value == state }) {
		return errors.New("a return is new, checked, refused or done")
	}
	return s.tx(ctx, func(tx *sqlx.Tx) error {
		_, err := tx.ExecContext(
			ctx,
			`with was as (select id, state from returns where id = any($1) and state <> $2 and state <> 'unread' for update),
			noted as (insert into return_changes (return_id, account_id, what, was, is_now) select id, nullif($3, 0), 'state', state, $2 from was)
			update returns r set state = $2 from was where r.id = was.id`,
			ids,
			state,
			by,
		)
		return err
	})
}

// AssignReturn gives a return to somebody, or to nobody (0).
func (s *Store) AssignReturn(ctx context.Context, id, by, to int64) error {
	return s.tx(ctx, func(tx *sqlx.Tx) error {
		var was, is string
		if err := tx.GetContext(ctx, &was, `select coalesce(a.name, '') from returns r left join accounts a on a.id = r.assigned_to where r.id = $1
			for update of r`, id); err != nil {
			return gone(err)
		}
		if to != 0 {
			if err := tx.GetContext(ctx, &is, `select name from accounts where id = $1 and disabled_at is null`, to); err != nil {
				return gone(err)
			}
		}
		if _, err := tx.ExecContext(ctx, `update returns set assigned_to = nullif($2, 0) where id = $1`, id, to); err != nil || was == is {
			return err
		}
		return changed(ctx, tx, id, by, "assigned", "", was, is)
	})
}

// NoteReturn keeps what somebody has to say of a return.
func (s *Store) NoteReturn(ctx context.Context, id, by int64, words string) error {
	if words = strings.TrimSpace(words); words == "" {
		return errors.New("write what is to be kept")
	}
	if err := form.CheckText("the note", words, longestNotes); err != nil {
		return err
	}
	return s.tx(ctx, func(tx *sqlx.Tx) error { return changed(ctx, tx, id, by, "note", "", "", words) })
}

// Reread has returns read once more that wait for a person, as answers of the newest edition that knows them.
func (s *Store) Reread(ctx context.Context, id int64) error {
	return s.tx(ctx, func(tx *sqlx.Tx) error {
		if _, err := tx.ExecContext(ctx, `update returns set state = 'unread', problem = '' where id = $1 and state = 'waiting'`, id); err != nil {
			return err
		}
		return s.enqueue(ctx, tx, Work{Kind: WorkReturn, ID: id, Again: true})
	})
}

// DeleteReturns takes returns away for good, with their files and what was said of them, and tells how many they were.
func (s *Store) DeleteReturns(ctx context.Context, document int64, ids []int64, by int64, reason string) (int, error) {
	if reason = strings.TrimSpace(reason); reason == "" {
		return 0, ErrNoReason
	}
	if err := form.CheckText("the reason", reason, 500); err != nil {
		return 0, err
	}
	n := 0
	err := s.tx(ctx, func(tx *sqlx.Tx) (err error) {
		n, err = dropReturns(ctx, tx, document, ids)
		if err != nil || n == 0 {
			return err
		}
		return note(ctx, tx, by, DeedDelete, fmt.Sprintf("%d returns of document %d", n, document), reason)
	})
	return n, err
}

func dropReturns(ctx context.Context, tx *sqlx.Tx, document int64, ids []int64) (int, error) {
	var files []string
	if err := tx.SelectContext(ctx, &files, `select file from returns where document_id = $1 and id = any($2)
		union select copy from returns where document_id = $1 and id = any($2) and copy is not null
		union select f.file from return_files f join returns r on r.id = f.return_id where r.document_id = $1 and r.id = any($2)`,
		document, ids); err != nil {
		return 0, err
	}
	var digests [][]byte
	if err := tx.SelectContext(ctx, &digests, `select distinct digest from returns where document_id = $1 and id = any($2)
		and digest is not null`, document, ids); err != nil {
		return 0, err
	}
	var n, size int64
	if err := tx.QueryRowxContext(ctx, `with gone as (delete from returns where document_id = $1 and id = any($2) returning file)
		select count(*), coalesce(sum(length(f.bytes)), 0) from gone join files f on f.sha256 = gone.file`, document, ids).
		Scan(&n, &size); err != nil || n == 0 {
		return 0, err
	}
	if _, err := tx.ExecContext(ctx, `insert into return_counts (document_id, shard, number, bytes) values ($1, 0, -$2::int, -$3::bigint)
		on conflict (document_id, shard) do update set number = return_counts.number - $2, bytes = return_counts.bytes - $3`, document, n,
		size); err != nil {
		return 0, err
	}
	if err := redouble(ctx, tx, document, digests...); err != nil {
		return 0, err
	}
	return int(n), dropFiles(ctx, tx, files)
}

// KeepDays sets for how many days the returns of a document are kept; 0 is for ever.
func (s *Store) KeepDays(ctx context.Context, document, by int64, days int) error {
	if days < 0 || days > 36_500 {
		return errors.New("returns are kept for 1 to 36500 days, or for ever")
	}
	return s.tx(ctx, func(tx *sqlx.Tx) error {
		if _, err := tx.ExecContext(ctx, `update documents set keep_days = nullif($2, 0) where id = $1`, document, days); err != nil {
			return err
		}
		return note(ctx, tx, by, DeedSetting, fmt.Sprintf("how long returns of document %d are kept: %d days", document, days), "")
	})
}

// DaysKept is for how many days the returns of a document are kept; 0 is for ever.
func (s *Store) DaysKept(ctx context.Context, document int64) (int, error) {
	var n int
	err := s.db.GetContext(ctx, &n, `select coalesce(keep_days, 0) from documents where id = $1`, document)
	return n, gone(err)
}

// RetainReturns deletes the returns that are older than they are kept, and what was begun long ago, and tells how many they were.
func (s *Store) RetainReturns(ctx context.Context) (int, error) {
	all := 0
	if _, err := s.db.ExecContext(ctx, `delete from begun where changed_at < now() - interval '`+begunFor+`'`); err != nil {
		return 0, err
	}
	for {
		var old []struct {
			ID       int64 `db:"id"`
			Document int64 `db:"document_id"`
		}
		if err := s.db.SelectContext(ctx, &old, `select r.id, r.document_id from returns r join documents d on d.id = r.document_id
			where d.keep_days is not null and r.received_at < now() - make_interval(days => d.keep_days) order by r.id limit 500`); err != nil {
			return all, err
		}
		if len(old) == 0 {
			return all, nil
		}
		of := map[int64][]int64{}
		for _, r := range old {
			of[r.Document] = append(of[r.Document], r.ID)
		}
		for d, ids := range of {
			n, err := s.DeleteReturns(ctx, d, ids, 0, "kept as long as was said")
			if err != nil {
				return all, err
			}
			all += n
		}
	}
}
