package store

import (
	"context"
	"database/sql/driver"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"github.com/jmoiron/sqlx"

	"zealousmargin.example/internal/detect"
	"zealousmargin.example/internal/form"
)

// HouseWord is a row of the office's dictionary.
type HouseWord struct {
	ID        int64     `db:"id"`
	Wording   string    `db:"wording"`
	Name      string    `db:"name"`
	Kind      string    `db:"kind"`
	Lines     bool      `db:"lines"`
	Format    string    `db:"format"`
	Offers    options   `db:"options"` // of a list
	Learnt    bool      `db:"learnt"`
	By        *string   `db:"by"`
	ChangedAt time.Time `db:"changed_at"`
}

func (w HouseWord) word() detect.HouseWord {
	return detect.HouseWord{Wording: w.Wording, Name: w.Name, Kind: form.Kind(w.Kind), Lines: w.Lines, Format: w.Format, Options: w.Offers}
}

// options are those of a list, as JSON in the database.
type options []form.Option

func (o options) Value() (driver.Value, error) {
	b, err := json.Marshal([]form.Option(o))
	if o == nil {
		b = []byte("[]")
	}
	return string(b), err
}

func (o *options) Scan(v any) error {
	switch b := v.(type) {
	case []byte:
		return json.Unmarshal(b, (*[]form.Option)(o))
	case string:
		return json.Unmarshal([]byte(b), (*[]form.Option)(o))
	}
	return fmt.Errorf("options of a house word are not %T", v)
}

// HouseWords lists the dictionary by wording.
func (s *Store) HouseWords(ctx context.Context) ([]HouseWord, error) {
	var out []HouseWord
	err := s.db.SelectContext(ctx, &out, `select w.id, w.wording, w.name, w.kind, w.lines, w.format, w.options, w.learnt, a.name as by,
		w.changed_at
		from house_words w left join accounts a on a.id = w.account_id order by w.key`)
	return out, err
}

// Dictionary gives the dictionary to detection.
func (s *Store) Dictionary(ctx context.Context) (detect.HouseWords, error) {
	rows, err := s.HouseWords(ctx)
	words := make([]detect.HouseWord, len(rows))
	for i, r := range rows {
		words[i] = r.word()
	}
	return detect.NewHouseWords(words), err
}

// CheckHouseWord refuses a word that detection could not use, and says what to do.
func CheckHouseWord(w detect.HouseWord) error {
	switch {
	case detect.Wording(w.Wording) == "":
		return errors.New("a house word needs a wording: type the label as it is printed")
	case w.Kind == form.Choice && len(w.Options) == 0:
		return errors.New("a house word that makes a list needs its options: give the field its options first")
	case w.Name == "" && w.Kind == "" && w.Format == "":
		return errors.New("a house word needs a name, a kind or a format: give one of them")
	case w.Name != "" && form.CheckName(w.Name) != nil:
		return form.CheckName(w.Name)
	}
	return nil
}

// PutHouseWord keeps a word, in the place of one with the same wording. What is learnt
// adds to what is there: an empty part changes nothing.
func (s *Store) PutHouseWord(ctx context.Context, w detect.HouseWord, by int64, learnt bool) error {
	return s.tx(ctx, func(tx *sqlx.Tx) error { return putHouseWord(ctx, tx, w, by, learnt) })
}

func putHouseWord(ctx context.Context, tx *sqlx.Tx, w detect.HouseWord, by int64, learnt bool) error {
	if err := CheckHouseWord(w); err != nil {
		return err
	}
	_, err := tx.ExecContext(ctx, `insert into house_words (key, wording, name, kind, lines, format, options, learnt, account_id)
		values ($1, $2, $3, $4, $5, $6, $7, $8, $9)
		on conflict (key) do update
		set wording = excluded.wording, account_id = excluded.account_id, learnt = excluded.learnt, changed_at = now(),
		name = case when excluded.learnt and excluded.name = '' then house_words.name else excluded.name end,
		kind = case when excluded.learnt and excluded.kind = '' then house_words.kind else excluded.kind end,
		lines = case when excluded.learnt and excluded.kind = '' then house_words.lines else excluded.lines end,
		options = case when excluded.learnt and excluded.kind = '' then house_words.options else excluded.options end,
		format = case when excluded.learnt and excluded.format = '' then house_words.format else excluded.format end`,
		detect.Wording(w.Wording), w.Wording, w.Name, string(w.Kind), w.Lines, w.Format, options(w.Options), learnt, by)
	return err
}

// PutHouseWords keeps many words, all or none.
func (s *Store) PutHouseWords(ctx context.Context, words []detect.HouseWord, by int64) error {
	return s.tx(ctx, func(tx *sqlx.Tx) error {
		for _, w := range words {
			if err := putHouseWord(ctx, tx, w, by, false); err != nil {
				return err
			}
		}
		return nil
	})
}

// DropHouseWord takes a word out.
func (s *Store) DropHouseWord(ctx context.Context, id int64) error {
	return s.one(ctx, `delete from house_words where id = $1`, id)
}
