package store

import (
	"context"
	"encoding/base64"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"

	"zealousmargin.example/internal/form"
)

// PageOfDocuments is how many documents a page of the workroom lists.
const PageOfDocuments = 50

// The orders in which documents are listed.
const (
	ByChange = "changed" // last changed first
	ByName   = "name"
	ByStage  = "stage" // first stages first
)

// Listing asks for a page of documents.
type Listing struct {
	Archived bool
	// Search is words that each document must have, each in its name, its description, its labels, the words on its pages, its
	// stage or the name of the person who changed it last; the beginning of a word will do.
	Search string
	Stage  string // only of this stage; empty is all
	Label  string // only with this label; empty is all
	Mine   int64  // only those that this account changed last; 0 is all
	Sort   string // ByChange when empty
	// Stages are the stages in their order and what people call them, by turns: "find", "Find", "fit", "Fit".
	Stages []string
	// After and Before are cursors of a [Listed]: the page behind or before it.
	After, Before string
}

// Listed is a page of documents.
type Listed struct {
	Documents []Document
	Total     int    // on all pages
	Next      string // cursor of the page behind; empty on the last
	Previous  string // cursor of the page before; empty on the first
}

// listOrder is an order by an expression and the id.
type listOrder struct {
	key, cast string
	down      bool
}

// query collects conditions and their arguments.
type query struct {
	where []string
	args  []any
}

// arg adds an argument and gives its place.
func (q *query) arg(v any) string {
	q.args = append(q.args, v)
	return fmt.Sprintf("$%d", len(q.args))
}

func (q *query) and(condition string) { q.where = append(q.where, condition) }

// List gives a page of documents.
func (s *Store) List(ctx context.Context, l Listing) (Listed, error) {
	var out Listed
	q := l.conditions()
	count, args := `select count(*) from documents d left join accounts a on a.id = d.changed_by where `+strings.Join(q.where, " and "), q.args
	if len(q.where) == 1 { // all there are: their number is kept
		count, args = `select documents from totals where archived = $1`, []any{l.Archived}
	}
	if err := s.db.GetContext(ctx, &out.Total, count, args...); err != nil {
		return out, err
	}
	order := l.order(q)
	back := l.Before != ""
	if cursor := l.After + l.Before; cursor != "" {
		key, id, err := readCursor(cursor)
		if err != nil {
			return out, err
		}
		sign := map[bool]string{true: "<", false: ">"}[order.down != back]
		q.and(fmt.Sprintf("(%s, d.id) %s (%s::%s, %s)", order.key, sign, q.arg(key), order.cast, q.arg(id)))
	}
	way := map[bool]string{true: " desc", false: ""}[order.down != back]
	var rows []struct {
		Document
		Cursor string `db:"cursor"`
	}
	if err := s.db.SelectContext(ctx, &rows, `select (`+order.key+`)::text as cursor,`+documentColumns+` where `+
		strings.Join(q.where, " and ")+` order by `+order.key+way+`, d.id`+way+fmt.Sprintf(` limit %d`, PageOfDocuments+1), q.args...); err != nil {
		return out, err
	}
	more := len(rows) > PageOfDocuments
	rows = rows[:min(len(rows), PageOfDocuments)]
	if back {
		slices.Reverse(rows)
	}
	for i := range rows {
		out.Documents = append(out.Documents, rows[i].Document)
	}
	if len(rows) > 0 {
		if last := rows[len(rows)-1]; more || back {
			out.Next = writeCursor(last.Cursor, last.ID)
		}
		if first := rows[0]; l.After != "" || back && more {
			out.Previous = writeCursor(first.Cursor, first.ID)
		}
	}
	return out, nil
}

func (l Listing) order(q *query) listOrder {
	switch l.Sort {
	case ByName:
		return listOrder{key: "lower(d.title)", cast: "text"}
	case ByStage:
		var keys []string
		for i := 0; i+1 < len(l.Stages); i += 2 {
			keys = append(keys, l.Stages[i])
		}
		return listOrder{key: "coalesce(array_position(" + q.arg(keys) + "::text[], d.stage), 0)", cast: "integer"}
	}
	return listOrder{key: "d.changed_at", cast: "timestamptz", down: true}
}

func (l Listing) conditions() *query {
	q := &query{}
	q.and(map[bool]string{true: "d.archived_at is not null", false: "d.archived_at is null"}[l.Archived])
	if l.Stage != "" {
		q.and("d.stage = " + q.arg(l.Stage))
	}
	if l.Label != "" {
		q.and("d.labels @> array[" + q.arg(l.Label) + "]::text[]")
	}
	if l.Mine != 0 {
		q.and("d.changed_by = " + q.arg(l.Mine))
	}
	words := strings.Fields(strings.ToLower(l.Search))
	for _, w := range words[:min(len(words), 12)] {
		stages := []string{}
		for i := 0; i+1 < len(l.Stages); i += 2 {
			if strings.HasPrefix(strings.ToLower(l.Stages[i+1]), w) {
				stages = append(stages, l.Stages[i])
			}
		}
		like := q.arg("%" + likeQuoter.Replace(w) + "%")
		q.and("(d.search @@ to_tsquery('simple', " + q.arg("'"+tsQuoter.Replace(w)+"':*") + ") or d.stage = any(" + q.arg(stages) +
			"::text[]) or lower(d.title) like " + like + " or lower(a.name) like " + like +
			" or exists (select from unnest(d.labels) l where lower(l) like " + like + "))")
	}
	return q
}

var (
	likeQuoter = strings.NewReplacer(`\`, `\\`, `%`, `\%`, `_`, `\_`)
	tsQuoter   = strings.NewReplacer(`\`, `\\`, `'`, `''`)
)

var errCursor = errors.New("this page of the list is not there: begin at the first")

func writeCursor(key string, id int64) string {
	b, err := json.Marshal([]any{key, id})
	if err != nil {
		return ""
	}
	return base64.RawURLEncoding.EncodeToString(b)
}

func readCursor(s string) (key string, id int64, err error) {
	b, err := base64.RawURLEncoding.DecodeString(s)
	if err != nil {
		return "", 0, errCursor
	}
	var parts []json.RawMessage
	if json.Unmarshal(b, &parts) != nil || len(parts) != 2 {
		return "", 0, errCursor
	}
	if json.Unmarshal(parts[0], &key) != nil || json.Unmarshal(parts[1], &id) != nil {
		return "", 0, errCursor
	}
	return key, id, nil
}

// NextDoubtful is the document in work that was changed last among those with doubtful finds. It returns [ErrMissing] when
// there is none.
func (s *Store) NextDoubtful(ctx context.Context) (Document, error) {
	var d Document
	err := s.db.GetContext(ctx, &d, `select`+documentColumns+` where d.archived_at is null and d.doubtful > 0
		order by d.changed_at desc limit 1`)
	return d, gone(err)
}

// Label is a label of the office's own, and how many documents in work have it.
type Label struct {
	Name      string `db:"name"`
	Documents int    `db:"documents"`
}

// Labels lists the labels of the documents in work.
func (s *Store) Labels(ctx context.Context) ([]Label, error) {
	var out []Label
	err := s.db.SelectContext(ctx, &out, `select l as name, count(*) as documents from documents d, unnest(d.labels) l
		where d.archived_at is null and d.labels <> '{}' group by l order by lower(l), l`)
	return out, err
}

// mostLabels is how many labels a document can have, of so many signs each.
const (
	mostLabels   = 12
	longestLabel = 40
)

// SetLabels gives a document its labels; each once.
func (s *Store) SetLabels(ctx context.Context, id int64, labels []string) error {
	out := []string{}
	for _, l := range labels {
		if err := form.CheckText("a label", l, 4*longestLabel); err != nil {
			return err
		}
		l = strings.Join(strings.Fields(l), " ")
		if had := slices.ContainsFunc(out, func(o string) bool { return strings.EqualFold(o, l) }); l != "" && !had {
			out = append(out, l)
		}
		if len([]rune(l)) > longestLabel {
			return fmt.Errorf("a label has up to %d signs: shorten “%s”", longestLabel, l)
		}
	}
	if len(out) > mostLabels {
		return fmt.Errorf("a document has up to %d labels: take some away", mostLabels)
	}
	return s.one(ctx, `update documents set labels = $2::text[] where id = $1`, id, out)
}

// longestWords is how much of the words of a document can be searched, in bytes: more than a hundred full pages.
const longestWords = 400_000

// SetWords keeps the words that are printed on the pages of a document, for the search.
func (s *Store) SetWords(ctx context.Context, id int64, words string) error {
	words = strings.ToValidUTF8(strings.ReplaceAll(words[:min(len(words), longestWords)], "\x00", " "), "")
	_, err := s.db.ExecContext(ctx, `update documents set words = $2 where id = $1 and words <> $2`, id, words)
	return err
}
