package store

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/jmoiron/sqlx"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/roster"
)

// The kinds of letter to those who sign.
const (
	LetterSign     = "sign"
	LetterFinished = "finished"
)

// Signing is an edition that goes round to be filled in and signed, role by role.
type Signing struct {
	ID         int64      `db:"id"`
	EditionID  int64      `db:"edition_id"`
	Number     int        `db:"number"` // of the edition
	DocumentID int64      `db:"document_id"`
	Title      string     `db:"title"`
	File       string     `db:"file"` // as it is now
	Consent    string     `db:"consent"`
	MadeAt     time.Time  `db:"made_at"`
	DoneAt     *time.Time `db:"done_at"`
	Finished   *string    `db:"finished"`
	EndedAt    *time.Time `db:"ended_at"`
	Signers    []Signer   `db:"-"`
}

// Signer is one of those who sign.
type Signer struct {
	ID         int64      `db:"id"`
	SigningID  int64      `db:"signing_id"`
	Position   int        `db:"position"`
	Role       string     `db:"role"`
	Name       string     `db:"name"`
	Recipient  string     `db:"recipient"`
	LinkID     *int64     `db:"link_id"`
	AccountID  *int64     `db:"account_id"`
	TurnAt     *time.Time `db:"turn_at"`
	AnsweredAt *time.Time `db:"answered_at"`
	File       *string    `db:"file"` // what they sign, or have signed
	SignedAt   *time.Time `db:"signed_at"`
	Method     string     `db:"method"`
	Sender     string     `db:"sender"`
}

// Mine tells whether it is for an account to sign.
func (w Signer) Mine(account int64) bool { return w.AccountID != nil && *w.AccountID == account }

// Turn is whose turn it is; nil when all have signed or it was called off.
func (s *Signing) Turn() *Signer {
	if s.EndedAt != nil {
		return nil
	}
	for i := range s.Signers {
		if s.Signers[i].SignedAt == nil {
			return &s.Signers[i]
		}
	}
	return nil
}

// Of is one of those who sign; nil when there is none.
func (s *Signing) Of(signer int64) *Signer {
	for i := range s.Signers {
		if s.Signers[i].ID == signer {
			return &s.Signers[i]
		}
	}
	return nil
}

// Why a form does not go round, or is not signed.
var (
	ErrNoRoles   = errors.New("nobody has a part in this form: say in the notes of its fields who fills them in")
	ErrNotYet    = errors.New("it is not your turn: somebody else signs before you")
	ErrSigned    = errors.New("this was signed before")
	ErrCalledOff = errors.New("this was called off: ask the office that you have it from")
	ErrMoved     = errors.New("the form has changed since you opened it: look at it once more before you sign")
)

// NewSigner is who is to sign for a role: a person by a link with a passcode, or somebody of the office.
type NewSigner struct {
	Role      string
	Person    *roster.Person
	Recipient string
	Passcode  string
	Account   int64
	Name      string
}

// NewSigning is a form that is to go round.
type NewSigning struct {
	Edition, By int64
	File        []byte // for the first of them
	Consent     string
	Signers     []NewSigner
	// Letter gives the words to a signer whose turn it is, when their link has its token.
	Letter func(name, token string) (subject, body string)
}

// longestConsent is how long the words of consent may be.
const longestConsent = 1000

// BeginSigning sends a form round.
func (s *Store) BeginSigning(ctx context.Context, n NewSigning) (int64, error) {
	if n.Consent = strings.TrimSpace(n.Consent); n.Consent == "" {
		return 0, errors.New("say what those who sign agree to")
	}
	if err := form.CheckText("what they agree to", n.Consent, longestConsent); err != nil {
		return 0, err
	}
	if len(n.Signers) == 0 {
		return 0, ErrNoRoles
	}
	hashes := make([]string, len(n.Signers))
	for i, w := range n.Signers {
		if w.Person == nil {
			continue
		}
		t := Terms{Passcode: w.Passcode}
		if err := t.Check(time.Now()); err != nil {
			return 0, err
		}
		if w.Passcode == "" {
			return 0, fmt.Errorf("%s signs with a passcode: choose one, and tell it to them", w.Name)
		}
		var err error
		if hashes[i], err = hashed(ctx, w.Passcode); err != nil {
			return 0, err
		}
	}
	var id int64
	err := s.tx(ctx, func(tx *sqlx.Tx) error {
		e, err := linkable(ctx, tx, n.Edition)
		if err != nil {
			return err
		}
		sha, err := keepFile(ctx, tx, n.File)
		if err != nil {
			return err
		}
		if err := tx.GetContext(ctx, &id, `insert into signings (edition_id, file, consent, made_by) values ($1, $2, $3, $4) returning id`,
			n.Edition, sha, n.Consent, n.By); err != nil {
			return err
		}
		for i, w := range n.Signers {
			var link *int64
			token := ""
			if w.Person != nil {
				made, t, err := makeFormLink(ctx, tx, n.Edition, n.By, e.Document, Terms{}, hashes[i], w.Person)
				if err != nil {
					return err
				}
				link, token = &made, t
			}
			if _, err := tx.ExecContext(ctx, `insert into signers (signing_id, position, role, name, recipient, link_id, account_id, turn_at)
				values ($1, $2, $3, $4, $5, $6, nullif($7, 0), case when $2 = 1 then now() end)`, id, i+1, w.Role, w.Name, w.Recipient, link,
				w.Account); err != nil {
				return err
			}
			if i == 0 && link != nil && w.Recipient != "" {
				subject, body := n.Letter(w.Name, token)
				if err := s.post(ctx, tx, n.By, *link, LetterSign, w.Recipient, subject, body); err != nil {
					return err
				}
			}
		}
		return note(ctx, tx, n.By, DeedSigning, e.Name, "")
	})
	return id, err
}

const signingColumns = `select s.id, s.edition_id, e.number, e.document_id, d.title, s.file, s.consent, s.made_at, s.done_at, s.finished,
	s.ended_at from signings s join editions e on e.id = s.edition_id join documents d on d.id = e.document_id `

const signerColumns = `select id, signing_id, position, role, name, recipient, link_id, account_id, turn_at, answered_at, file, signed_at,
	method, sender from signers `

// Signing reads one, with those who sign.
func (s *Store) Signing(ctx context.Context, id int64) (Signing, error) {
	return signing(ctx, s.db, id)
}

func signing(ctx context.Context, q sqlx.QueryerContext, id int64) (Signing, error) {
	var g Signing
	if err := sqlx.GetContext(ctx, q, &g, signingColumns+`where s.id = $1`, id); err != nil {
		return g, gone(err)
	}
	return g, sqlx.SelectContext(ctx, q, &g.Signers, signerColumns+`where signing_id = $1 order by position`, id)
}

// Signings lists those of a document, the last first.
func (s *Store) Signings(ctx context.Context, document int64) ([]Signing, error) {
	var out []Signing
	if err := s.db.SelectContext(ctx, &out, signingColumns+`where e.document_id = $1 order by s.id desc limit 200`, document); err != nil {
		return nil, err
	}
	for i := range out {
		if err := s.db.SelectContext(ctx, &out[i].Signers, signerColumns+`where signing_id = $1 order by position`, out[i].ID); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// SigningOf is the one that a link belongs to, and who signs by it; [ErrMissing] when it belongs to none.
func (s *Store) SigningOf(ctx context.Context, link int64) (Signing, int64, error) {
	var w Signer
	if err := s.db.GetContext(ctx, &w, signerColumns+`where link_id = $1`, link); err != nil {
		return Signing{}, 0, gone(err)
	}
	g, err := s.Signing(ctx, w.SigningID)
	return g, w.ID, err
}

// SigningByFile is the one whose finished form a file is, by its SHA-256; [ErrMissing] when it is none.
func (s *Store) SigningByFile(ctx context.Context, sha string) (Signing, error) {
	var id int64
	if err := s.db.GetContext(ctx, &id, `select id from signings where finished = $1 order by id limit 1`, sha); err != nil {
		return Signing{}, gone(err)
	}
	return s.Signing(ctx, id)
}

// ToSign lists what waits for the signature of somebody of the office.
func (s *Store) ToSign(ctx context.Context, account int64) ([]Signing, error) {
	var out []Signing
	err := s.db.SelectContext(
		ctx,
		&out,
		signingColumns+`where s.ended_at is null and exists (select from signers w where w.signing_id = s.id
		and w.account_id = $1 and w.turn_at is not null and w.signed_at is null) order by s.id`,
		account,
	)
	return out, err
}

// turnOf locks a signing and finds who is to do something with it now.
func turnOf(ctx context.Context, tx *sqlx.Tx, id, signer int64) (Signing, *Signer, error) {
	if _, err := tx.ExecContext(ctx, `select from signings where id = $1 for update`, id); err != nil {
		return Signing{}, nil, err
	}
	g, err := signing(ctx, tx, id)
	if err != nil {
		return g, nil, err
	}
	w := g.Of(signer)
	switch turn := g.Turn(); {
	case w == nil:
		return g, nil, ErrMissing
	case g.EndedAt != nil:
		return g, nil, ErrCalledOff
	case w.SignedAt != nil:
		return g, nil, ErrSigned
	case turn == nil || turn.ID != signer:
		return g, nil, ErrNotYet
	}
	return g, w, nil
}

// Answer keeps the form as somebody whose turn it is has filled it in, to be signed.
func (s *Store) Answer(ctx context.Context, id, signer int64, pdf []byte) error {
	return s.tx(ctx, func(tx *sqlx.Tx) error {
		if _, _, err := turnOf(ctx, tx, id, signer); err != nil {
			return err
		}
		sha, err := keepFile(ctx, tx, pdf)
		if err != nil {
			return err
		}
		_, err = tx.ExecContext(ctx, `update signers set file = $2, answered_at = now() where id = $1`, signer, sha)
		return err
	})
}

// Signed is a signature that was made.
type Signed struct {
	Signing, Signer int64
	What            string // SHA-256 of the file that was signed
	File            []byte // with the signature, made ready for whoever comes next; with the last one's it is the finished form
	Name            string // as it stands beside the signature
	Method, Sender  string
	At              time.Time
	Last            bool
	// Letter gives the words to whoever comes next, and to all when it is finished, by name and the token of their link.
	Letter func(kind, name, token string) (subject, body string)
}

// Sign keeps a signature and gives the turn on; with the last one the form is finished, and comes back like answers. The file that is
// signed must be the one that was shown.
func (s *Store) Sign(ctx context.Context, n Signed) error {
	return s.tx(ctx, func(tx *sqlx.Tx) error {
		g, w, err := turnOf(ctx, tx, n.Signing, n.Signer)
		if err != nil {
			return err
		}
		shown := g.File
		if w.File != nil {
			shown = *w.File
		}
		if shown != n.What || n.Last != (w.Position == len(g.Signers)) {
			return ErrMoved
		}
		sha, err := keepFile(ctx, tx, n.File)
		if err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `update signers set file = $2, signed_at = $3, method = $4, sender = $5, name = $6 where id = $1`,
			w.ID, n.What, n.At, n.Method, n.Sender, n.Name); err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `update signings set file = $2 where id = $1`, g.ID, sha); err != nil {
			return err
		}
		if w.LinkID != nil {
			if _, err := tx.ExecContext(ctx, `insert into link_events (link_id, what) values ($1, 'answered')`, *w.LinkID); err != nil {
				return err
			}
		}
		if !n.Last {
			next := g.Signers[w.Position]
			if _, err := tx.ExecContext(ctx, `update signers set turn_at = now() where id = $1`, next.ID); err != nil {
				return err
			}
			return s.tell(ctx, tx, g, next, LetterSign, n.Letter)
		}
		if _, err := tx.ExecContext(ctx, `update signings set finished = $2, done_at = $3 where id = $1`, g.ID, sha, n.At); err != nil {
			return err
		}
		if _, err := s.arrived(ctx, tx, Arrived{
			Target: Target{Document: g.DocumentID, Edition: &g.EditionID, Link: g.Signers[0].LinkID}, Road: "round",
			Kind: "pdf", Bytes: n.File,
		}); err != nil {
			return err
		}
		for _, each := range g.Signers {
			if err := s.tell(ctx, tx, g, each, LetterFinished, n.Letter); err != nil {
				return err
			}
		}
		return note(ctx, tx, 0, DeedSigned, fmt.Sprintf("signing %d of %s, edition %d", g.ID, g.Title, g.Number), "")
	})
}

// tell writes to somebody who signs by a link.
func (s *Store) tell(
	ctx context.Context,
	tx *sqlx.Tx,
	g Signing,
	w Signer,
	kind string,
	words func(kind, name, token string) (string, string),
) error {
	if w.LinkID == nil || w.Recipient == "" {
		return nil
	}
	var to struct {
		Token string `db:"token"`
		By    int64  `db:"by"`
	}
	if err := tx.GetContext(ctx, &to, `select token, coalesce(made_by, 0) as by from form_links where id = $1`, *w.LinkID); err != nil {
		return err
	}
	subject, body := words(kind, w.Name, to.Token)
	return s.post(ctx, tx, to.By, *w.LinkID, kind, w.Recipient, subject, body)
}

// CallOff ends a signing before all have signed; what was signed is kept.
func (s *Store) CallOff(ctx context.Context, id, by int64) error {
	return s.tx(ctx, func(tx *sqlx.Tx) error {
		if err := oneOf(tx.ExecContext(ctx, `update signings set ended_at = now() where id = $1 and done_at is null and ended_at is null`,
			id)); err != nil {
			return err
		}
		return note(ctx, tx, by, DeedSigning, fmt.Sprintf("signing %d called off", id), "")
	})
}
