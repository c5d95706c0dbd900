package store

import (
	"context"
	"encoding/json"
	"strings"

	"zealousmargin.example/internal/form"
)

// House reads the house style.
func (s *Store) House(ctx context.Context) (form.House, error) {
	var rows []struct {
		Kind  form.Kind `db:"kind"`
		Style []byte    `db:"style"`
	}
	if err := s.db.SelectContext(ctx, &rows, `select kind, style from house_style`); err != nil {
		return nil, err
	}
	out := form.House{}
	for _, r := range rows {
		var h form.HouseStyle
		if err := json.Unmarshal(r.Style, &h); err != nil {
			return nil, err
		}
		out[r.Kind] = h
	}
	return out, nil
}

// SetHouse makes h the house style of a kind of field.
func (s *Store) SetHouse(ctx context.Context, k form.Kind, h form.HouseStyle, by int64) error {
	b, err := json.Marshal(h)
	if err != nil {
		return err
	}
	_, err = s.db.ExecContext(ctx, `insert into house_style (kind, style, account_id) values ($1, $2, $3)
		on conflict (kind) do update set style = excluded.style, account_id = excluded.account_id, changed_at = now()`, k, b, by)
	return err
}

// Favourite is a style that was kept under a name.
type Favourite struct {
	ID    int64  `db:"id"`
	Name  string `db:"name"`
	Bytes []byte `db:"style"`
}

// Style is what was kept.
func (f Favourite) Style() (form.Style, error) {
	var s form.Style
	err := json.Unmarshal(f.Bytes, &s)
	return s, err
}

// Favourites lists the kept styles by name.
func (s *Store) Favourites(ctx context.Context) ([]Favourite, error) {
	var out []Favourite
	err := s.db.SelectContext(ctx, &out, `select id, name, style from favourites order by lower(name)`)
	return out, err
}

// Favourite reads one.
func (s *Store) Favourite(ctx context.Context, id int64) (Favourite, error) {
	var f Favourite
	err := s.db.GetContext(ctx, &f, `select id, name, style from favourites where id = $1`, id)
	return f, gone(err)
}

// KeepFavourite keeps a style under a name; one of that name is replaced.
func (s *Store) KeepFavourite(ctx context.Context, name string, style form.Style, by int64) error {
	b, err := json.Marshal(style)
	if err != nil {
		return err
	}
	_, err = s.db.ExecContext(ctx, `insert into favourites (name, style, account_id) values ($1, $2, $3)
		on conflict (name) do update set style = excluded.style, account_id = excluded.account_id, changed_at = now()`, name, b, by)
	return err
}

// DropFavourite takes one away.
func (s *Store) DropFavourite(ctx context.Context, id int64) error {
	return s.one(ctx, `delete from favourites where id = $1`, id)
}

// Handy is what a person wants at hand on the bench; nil when they never chose.
func (s *Store) Handy(ctx context.Context, account int64) ([]string, error) {
	var joined *string
	if err := s.db.GetContext(ctx, &joined, `select array_to_string(handy, ',') from accounts where id = $1`, account); err != nil {
		return nil, gone(err)
	}
	if joined == nil {
		return nil, nil
	}
	return append([]string{}, strings.FieldsFunc(*joined, func(r rune) bool { return r == ',' })...), nil
}

// SetHandy keeps what a person wants at hand.
func (s *Store) SetHandy(ctx context.Context, account int64, actions []string) error {
	return s.one(ctx, `update accounts set handy = $2 where id = $1`, account, actions)
}
