package store

import (
	"context"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"github.com/jmoiron/sqlx"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/roster"
)

// RosterColumns lists what is known of the people of the roster, in the order of their table.
func (s *Store) RosterColumns(ctx context.Context) ([]roster.Column, error) {
	return rosterColumns(ctx, s.db)
}

func rosterColumns(ctx context.Context, q sqlx.QueryerContext) ([]roster.Column, error) {
	var out []struct{ Key, Title, Kind string }
	if err := sqlx.SelectContext(ctx, q, &out, `select key, title, kind from roster_columns order by position`); err != nil {
		return nil, err
	}
	columns := make([]roster.Column, len(out))
	for i, c := range out {
		columns[i] = roster.Column{Key: c.Key, Title: c.Title, Kind: form.FormatKind(c.Kind)}
	}
	return columns, nil
}

type personRow struct {
	ID    int64  `db:"id"`
	Key   string `db:"key"`
	Data  []byte `db:"data"`
	Total int    `db:"total"`
}

func (r personRow) person() (roster.Person, error) {
	p := roster.Person{ID: r.ID, Key: r.Key}
	return p, json.Unmarshal(r.Data, &p.Data)
}

// RosterPeople lists the people of the roster in whose data all the words stand, by name: at most so many from a place on, and how many
// they are in all.
func (s *Store) RosterPeople(ctx context.Context, words string, from, most int) (people []roster.Person, all int, err error) {
	q := `select id, key, data, count(*) over () as total from roster_people where true`
	var args []any
	for _, w := range strings.Fields(strings.ToLower(words)) {
		args = append(args, "%"+escapedLike(w)+"%")
		q += fmt.Sprintf(" and words like $%d", len(args))
	}
	q += fmt.Sprintf(" order by lower(name), id offset $%d limit $%d", len(args)+1, len(args)+2)
	var rows []personRow
	if err := s.db.SelectContext(ctx, &rows, q, append(args, from, most)...); err != nil {
		return nil, 0, err
	}
	for _, r := range rows {
		p, err := r.person()
		if err != nil {
			return nil, 0, err
		}
		people, all = append(people, p), r.Total
	}
	return people, all, nil
}

func escapedLike(s string) string {
	return strings.NewReplacer(`\`, `\\`, `%`, `\%`, `_`, `\_`).Replace(s)
}

// RosterPerson reads one.
func (s *Store) RosterPerson(ctx context.Context, id int64) (roster.Person, error) {
	var r personRow
	if err := s.db.GetContext(ctx, &r, `select id, key, data from roster_people where id = $1`, id); err != nil {
		return roster.Person{}, gone(err)
	}
	return r.person()
}

// Brought is what came of a table that was brought into the roster.
type Brought struct{ New, Changed, Same, Gone int }

// BringRoster takes people over: those who are there by their keys are changed where the table says something else, others are new. What a
// table does not say of somebody stays; with whole, those who do not stand in it are taken out.
func (s *Store) BringRoster(ctx context.Context, by int64, columns []roster.Column, people []roster.Person, whole bool) (Brought, error) {
	var b Brought
	err := s.tx(ctx, func(tx *sqlx.Tx) error {
		if _, err := tx.ExecContext(ctx, `lock table roster_people in share row exclusive mode`); err != nil { // two tables at once
			return err
		}
		if err := bringColumns(ctx, tx, columns); err != nil {
			return err
		}
		var rows []personRow
		if err := tx.SelectContext(ctx, &rows, `select id, key, data from roster_people`); err != nil {
			return err
		}
		had := map[string]roster.Person{}
		for _, r := range rows {
			p, err := r.person()
			if err != nil {
				return err
			}
			had[p.Key] = p
		}
		for _, p := range people {
			was, there := had[p.Key]
			delete(had, p.Key)
			data := map[string]string{}
			maps.Copy(data, was.Data)
			for _, c := range columns { // an empty cell empties
				if v := p.Data[c.Key]; v != "" {
					data[c.Key] = v
				} else {
					delete(data, c.Key)
				}
			}
			switch {
			case !there:
				b.New++
			case maps.Equal(was.Data, data):
				b.Same++
				continue
			default:
				b.Changed++
			}
			if err := putPerson(ctx, tx, p.Key, data); err != nil {
				return err
			}
		}
		if whole {
			for key := range had {
				if _, err := tx.ExecContext(ctx, `delete from roster_people where key = $1`, key); err != nil {
					return err
				}
				b.Gone++
			}
		}
		return note(ctx, tx, by, DeedRoster, fmt.Sprintf("%d new, %d changed, %d taken out", b.New, b.Changed, b.Gone), "")
	})
	return b, err
}

func bringColumns(ctx context.Context, tx *sqlx.Tx, columns []roster.Column) error {
	had, err := rosterColumns(ctx, tx)
	if err != nil {
		return err
	}
	for _, c := range columns {
		i := slices.IndexFunc(had, func(h roster.Column) bool { return h.Key == c.Key })
		if i < 0 {
			had = append(had, c)
			i = len(had) - 1
		}
		if _, err := tx.ExecContext(ctx, `insert into roster_columns (key, title, kind, position) values ($1, $2, $3, $4)
			on conflict (key) do update set title = excluded.title, kind = excluded.kind`, c.Key, c.Title, string(c.Kind), i); err != nil {
			return err
		}
	}
	return nil
}

func putPerson(ctx context.Context, tx *sqlx.Tx, key string, data map[string]string) error {
	b, err := json.Marshal(data)
	if err != nil {
		return err
	}
	var words []string
	for _, v := range data {
		words = append(words, strings.ToLower(v))
	}
	slices.Sort(words)
	name := roster.Person{Key: key, Data: data}.Name()
	_, err = tx.ExecContext(ctx, `insert into roster_people (key, name, data, words) values ($1, $2, $3, $4)
		on conflict (key) do update set name = excluded.name, data = excluded.data, words = excluded.words, changed_at = now()`,
		key, name, b, strings.Join(words, "\n"))
	return err
}

// DropPerson takes one person out of the roster.
func (s *Store) DropPerson(ctx context.Context, id, by int64) error {
	return s.tx(ctx, func(tx *sqlx.Tx) error {
		res, err := tx.ExecContext(ctx, `delete from roster_people where id = $1`, id)
		if err != nil {
			return err
		}
		if n, err := res.RowsAffected(); err != nil || n == 0 {
			return ErrMissing
		}
		return note(ctx, tx, by, DeedRoster, "1 taken out", "")
	})
}

// RosterSigns tells how many signs most of what is known of people has, by the keys of the columns, as far as the first of them show.
func (s *Store) RosterSigns(ctx context.Context) (map[string]int, error) {
	var rows []struct {
		Key   string `db:"key"`
		Signs int    `db:"signs"`
	}
	err := s.db.SelectContext(ctx, &rows, `select key, percentile_disc(0.9) within group (order by length(value)) as signs
		from (select data from roster_people order by id limit 200) p, jsonb_each_text(p.data) group by key`)
	out := map[string]int{}
	for _, r := range rows {
		out[r.Key] = r.Signs
	}
	return out, err
}

// RosterChanged tells when the roster was last changed; the zero time is never.
func (s *Store) RosterChanged(ctx context.Context) (time.Time, error) {
	var at *time.Time
	if err := s.db.GetContext(ctx, &at, `select max(changed_at) from roster_people`); err != nil || at == nil {
		return time.Time{}, err
	}
	return *at, nil
}
