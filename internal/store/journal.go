package store

import (
	"bytes"
	"context"
	"encoding/json"
	"slices"

	"github.com/jmoiron/sqlx"

	"zealousmargin.example/internal/form"
)

// UndoSteps is how many steps of a document can be taken back: of earlier ones the journal keeps who has done what, and when.
const UndoSteps = 500

// foldEvery is after how many steps earlier ones are folded.
const foldEvery = 50

// step is an edit as the journal keeps it. Of a row that is there before and after, it has the id and those members that differ; a
// member that is not there on one side is null there.
type step struct {
	ID      int64  `db:"id"`
	Title   string `db:"title"`
	Before  []byte `db:"before"`
	After   []byte `db:"after"`
	Pages   []byte `db:"pages"`
	Details []byte `db:"details"`
	Partial bool   `db:"partial"`
}

// keptPages are the pages of an edit; those that differ only, where none was added, removed or moved.
type keptPages struct {
	Before []form.Page `json:"before"`
	After  []form.Page `json:"after"`
	Some   bool        `json:"some,omitempty"`
}

// stepOf is what the journal keeps of an edit.
func stepOf(e form.Edit) (s step, err error) {
	s.Title, s.Partial = e.Title, true
	after := map[string]members{}
	for _, f := range e.After {
		if after[f.ID], err = membersOf(f); err != nil {
			return s, err
		}
	}
	before := make([]members, len(e.Before))
	for i, f := range e.Before {
		if before[i], err = membersOf(f); err != nil {
			return s, err
		}
		if now := after[f.ID]; now != nil {
			before[i], after[f.ID] = before[i].differing(now)
		}
	}
	if s.Before, err = json.Marshal(before); err != nil {
		return s, err
	}
	list := make([]members, len(e.After))
	for i, f := range e.After {
		list[i] = after[f.ID]
	}
	if s.After, err = json.Marshal(list); err != nil {
		return s, err
	}
	if e.Pages != nil {
		k := keptPages{Before: e.Pages.Before, After: e.Pages.After}
		if slices.Equal(pageIDs(k.Before), pageIDs(k.After)) {
			k = keptPages{Some: true, Before: []form.Page{}, After: []form.Page{}}
			for i, p := range e.Pages.Before {
				if p != e.Pages.After[i] {
					k.Before, k.After = append(k.Before, p), append(k.After, e.Pages.After[i])
				}
			}
		}
		if s.Pages, err = json.Marshal(k); err != nil {
			return s, err
		}
	}
	s.Details, err = orNull(e.Details != nil, e.Details)
	return s, err
}

// edit is the edit that a step has kept; t is the draft as it is when the step is the last that was done, or the first that was undone.
func (s step) edit(t *form.Template) (e form.Edit, err error) {
	e.Title = s.Title
	if e.Before, err = s.rows(s.Before, t); err != nil {
		return e, err
	}
	if e.After, err = s.rows(s.After, t); err != nil {
		return e, err
	}
	if s.Pages != nil {
		var k keptPages
		if err := json.Unmarshal(s.Pages, &k); err != nil {
			return e, err
		}
		if k.Some {
			k.Before, k.After = laid(t.Pages, k.Before), laid(t.Pages, k.After)
		}
		e.Pages = &form.PagesEdit{Before: k.Before, After: k.After}
	}
	if s.Details != nil {
		err = json.Unmarshal(s.Details, &e.Details)
	}
	return e, err
}

// rows are the rows of one side of a step.
func (s step) rows(side []byte, t *form.Template) ([]form.Field, error) {
	if !s.Partial {
		var out []form.Field
		return out, json.Unmarshal(side, &out)
	}
	var list []members
	if err := json.Unmarshal(side, &list); err != nil {
		return nil, err
	}
	out := make([]form.Field, len(list))
	for i, m := range list {
		var id string
		if err := json.Unmarshal(m["id"], &id); err != nil {
			return nil, err
		}
		whole := m
		if m[partly] != nil {
			f, ok := t.Field(id)
			if !ok {
				return nil, form.ErrClash
			}
			now, err := membersOf(f)
			if err != nil {
				return nil, err
			}
			whole = now.with(m)
		}
		b, err := json.Marshal(whole)
		if err != nil {
			return nil, err
		}
		if err := json.Unmarshal(b, &out[i]); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// partly is the member that says that a row has not all of them.
const partly = "~"

// members are those of a row, by their names in JSON.
type members map[string]json.RawMessage

func membersOf(f form.Field) (members, error) {
	b, err := json.Marshal(f)
	if err != nil {
		return nil, err
	}
	m := members{}
	return m, json.Unmarshal(b, &m)
}

// differing gives the members of two states of a row that differ, with its id. That they are not all is said by another member.
func (m members) differing(other members) (mine, theirs members) {
	none, yes := json.RawMessage("null"), json.RawMessage("true")
	mine, theirs = members{"id": m["id"], partly: yes}, members{"id": m["id"], partly: yes}
	for k, v := range m {
		if w, there := other[k]; !there {
			mine[k], theirs[k] = v, none
		} else if !bytes.Equal(v, w) {
			mine[k], theirs[k] = v, w
		}
	}
	for k, w := range other {
		if _, there := m[k]; !there {
			mine[k], theirs[k] = none, w
		}
	}
	return mine, theirs
}

// with is a row with some members as they are said.
func (m members) with(some members) members {
	for k, v := range some {
		switch {
		case k == partly:
		case bytes.Equal(v, []byte("null")):
			delete(m, k)
		default:
			m[k] = v
		}
	}
	return m
}

func pageIDs(pages []form.Page) []string {
	out := make([]string, len(pages))
	for i, p := range pages {
		out[i] = p.ID
	}
	return out
}

// laid puts some pages in the places of those with their ids.
func laid(all, some []form.Page) []form.Page {
	out := slices.Clone(all)
	for _, p := range some {
		if i := slices.IndexFunc(out, func(q form.Page) bool { return q.ID == p.ID }); i >= 0 {
			out[i] = p
		}
	}
	return out
}

// fold takes out of the journal what steps before the last ones have changed: those can be taken back no more, and what came of them is
// the draft.
func fold(ctx context.Context, tx *sqlx.Tx, document int64) error {
	_, err := tx.ExecContext(ctx, `update edits set state = 'folded', before = '[]', after = '[]', pages = null, details = null
		where document_id = $1 and state <> 'folded' and id <= (select id from edits where document_id = $1 and state in ('done', 'undone')
			order by id desc offset $2 limit 1)`, document, UndoSteps)
	return err
}
