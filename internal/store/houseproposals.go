package store

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"github.com/jmoiron/sqlx"

	"zealousmargin.example/internal/detect"
	"zealousmargin.example/internal/form"
)

// HouseProposal is a correction of a find that could become a word of the office.
type HouseProposal struct {
	HouseWord
	DocumentID int64  `db:"document_id"`
	Title      string `db:"title"` // of the document
}

// HouseProposals lists what was corrected and is no word yet, by wording.
func (s *Store) HouseProposals(ctx context.Context) ([]HouseProposal, error) {
	var out []HouseProposal
	err := s.db.SelectContext(ctx, &out, `select p.id, p.wording, p.name, p.kind, p.lines, p.format, p.options, a.name as by,
		p.changed_at, p.document_id, d.title
		from house_proposals p join documents d on d.id = p.document_id left join accounts a on a.id = p.account_id order by p.key, p.id`)
	return out, err
}

// HouseProposal is what a document proposes about a label; the bool is false when it proposes nothing.
func (s *Store) HouseProposal(ctx context.Context, document int64, label string) (HouseProposal, bool, error) {
	var out []HouseProposal
	err := s.db.SelectContext(ctx, &out, `select id, wording, name, kind, lines, format, options, changed_at, document_id
		from house_proposals where document_id = $1 and key = $2`, document, detect.Wording(label))
	if err != nil || len(out) == 0 {
		return HouseProposal{}, false, err
	}
	return out[0], true, nil
}

// Propose keeps what an edit of finds says about their wordings: a new name, a new kind, a new format. It becomes a word of
// the office when a person says so, or when another document has the same correction. A name that another field of the
// document has as well was given to link the two, and says nothing of the wording; nor does a list without options.
func (s *Store) Propose(ctx context.Context, document int64, e form.Edit, by int64) error {
	for _, after := range e.After {
		i := slices.IndexFunc(e.Before, func(b form.Field) bool { return b.ID == after.ID })
		if after.Find == nil || after.Label == "" || i < 0 {
			continue
		}
		w := correction(e.Before[i], after)
		if w.Name != "" {
			shared, err := s.shared(ctx, document, after)
			if err != nil {
				return err
			}
			if shared {
				w.Name = ""
			}
		}
		if CheckHouseWord(w) != nil {
			continue // it proposes nothing
		}
		if err := s.tx(ctx, func(tx *sqlx.Tx) error { return propose(ctx, tx, document, w, by) }); err != nil {
			return err
		}
	}
	return nil
}

// correction is what a change of a find says about its wording.
func correction(before, after form.Field) detect.HouseWord {
	w := detect.HouseWord{Wording: after.Label}
	if before.Name != after.Name && after.Kind != form.Radio {
		w.Name = after.Name
	}
	listed := after.Kind == form.Choice && len(after.Options) > 0 && !slices.Equal(before.Options, after.Options)
	if before.Kind != after.Kind || before.Multiline != after.Multiline && after.Kind == form.Text || listed {
		w.Kind, w.Lines = after.Kind, after.Multiline
		if w.Kind == form.Choice {
			w.Options = after.Options
			if len(w.Options) == 0 {
				w.Kind = ""
			}
		}
	}
	if before.Format.Kind != after.Format.Kind {
		w.Format = string(after.Format.Kind)
	}
	return w
}

// shared tells whether another field of a document has the name of one.
func (s *Store) shared(ctx context.Context, document int64, f form.Field) (bool, error) {
	d, err := s.Draft(ctx, document)
	if err != nil {
		return false, err
	}
	return slices.ContainsFunc(d.Template.Fields, func(o form.Field) bool { return o.ID != f.ID && o.Name == f.Name }), nil
}

// propose keeps one correction, beside what the document said of the wording before, and learns it when another document
// says the same.
func propose(ctx context.Context, tx *sqlx.Tx, document int64, w detect.HouseWord, by int64) error {
	key := detect.Wording(w.Wording)
	_, err := tx.ExecContext(ctx, `insert into house_proposals (key, wording, name, kind, lines, format, options, document_id, account_id)
		values ($1, $2, $3, $4, $5, $6, $7, $8, $9)
		on conflict (key, document_id) do update
		set wording = excluded.wording, account_id = excluded.account_id, changed_at = now(),
		name = case when excluded.name = '' then house_proposals.name else excluded.name end,
		kind = case when excluded.kind = '' then house_proposals.kind else excluded.kind end,
		lines = case when excluded.kind = '' then house_proposals.lines else excluded.lines end,
		options = case when excluded.kind = '' then house_proposals.options else excluded.options end,
		format = case when excluded.format = '' then house_proposals.format else excluded.format end`,
		key, w.Wording, w.Name, string(w.Kind), w.Lines, w.Format, options(w.Options), document, by)
	if err != nil {
		return err
	}
	var others []HouseWord
	err = tx.SelectContext(ctx, &others, `select wording, name, kind, lines, format, options from house_proposals
		where key = $1 and document_id <> $2`, key, document)
	if err != nil {
		return err
	}
	learnt := detect.HouseWord{Wording: w.Wording}
	for _, o := range others {
		if w.Name != "" && o.Name == w.Name {
			learnt.Name = w.Name
		}
		if w.Kind != "" && o.Kind == string(w.Kind) && o.Lines == w.Lines && slices.Equal(o.Offers, w.Options) {
			learnt.Kind, learnt.Lines, learnt.Options = w.Kind, w.Lines, w.Options
		}
		if w.Format != "" && o.Format == w.Format {
			learnt.Format = w.Format
		}
	}
	if CheckHouseWord(learnt) != nil {
		return nil
	}
	return learn(ctx, tx, key, learnt, by)
}

// learn makes a word of a correction; it is proposed no longer.
func learn(ctx context.Context, tx *sqlx.Tx, key string, w detect.HouseWord, by int64) error {
	if err := putHouseWord(ctx, tx, w, by, true); err != nil {
		return err
	}
	_, err := tx.ExecContext(ctx, `delete from house_proposals where key = $1`, key)
	return err
}

// AcceptProposal makes a word of the office of a proposal, and gives it.
func (s *Store) AcceptProposal(ctx context.Context, id, by int64) (w detect.HouseWord, err error) {
	err = s.tx(ctx, func(tx *sqlx.Tx) error {
		var p HouseWord
		err := tx.GetContext(ctx, &p, `select id, wording, name, kind, lines, format, options from house_proposals
			where id = $1`, id)
		if err != nil {
			return gone(err)
		}
		w = p.word()
		return learn(ctx, tx, detect.Wording(p.Wording), w, by)
	})
	return w, err
}

// DropProposal leaves a proposal.
func (s *Store) DropProposal(ctx context.Context, id int64) error {
	return s.one(ctx, `delete from house_proposals where id = $1`, id)
}

// Said is what a word makes of its wording, as a sentence goes on after it.
func (w HouseWord) Said() string {
	var said []string
	if w.Name != "" {
		said = append(said, "is called "+w.Name)
	}
	switch {
	case w.Lines:
		said = append(said, "takes several lines")
	case w.Kind == string(form.Choice):
		said = append(said, fmt.Sprintf("is a list of %d", len(w.Offers)))
	case w.Kind != "":
		said = append(said, "is a "+w.Kind)
	}
	if w.Format != "" {
		said = append(said, "asks for a "+w.Format)
	}
	return strings.Join(said, " and ")
}
