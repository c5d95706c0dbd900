package store

import (
	"context"
	"crypto/rand"
	"encoding/json"
	"errors"
	"fmt"
	"net/url"
	"strings"
	"time"

	"github.com/alexedwards/argon2id"
	"github.com/jmoiron/sqlx"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/roster"
)

// FormLink leads somebody who has no account to an edition: an open one whoever has it, a personal one somebody of the roster.
type FormLink struct {
	ID         int64      `db:"id"`
	EditionID  int64      `db:"edition_id"`
	Number     int        `db:"number"` // of the edition
	DocumentID int64      `db:"document_id"`
	Title      string     `db:"title"` // of the document
	File       string     `db:"file"`  // of the edition
	FileName   string     `db:"file_name"`
	Size       int        `db:"size"`
	Locked     bool       `db:"locked"`  // the file of the edition
	Profile    string     `db:"profile"` // of the edition
	Token      string     `db:"token"`
	Inbox      string     `db:"inbox"`
	Secret     []byte     `db:"secret"`
	PersonID   *int64     `db:"person_id"`
	PersonJSON []byte     `db:"person"`
	Name       string     `db:"name"` // of the person
	Note       string     `db:"note"`
	Serial     int        `db:"serial"`
	ExpiresAt  *time.Time `db:"expires_at"`
	Most       *int       `db:"most"`
	Passcode   string     `db:"passcode"`
	Frames     string     `db:"frames"`
	FormKept   bool       `db:"form_kept"` // the form that the edition was written from is kept
	MadeAt     time.Time  `db:"made_at"`
	RevokedAt  *time.Time `db:"revoked_at"`

	Withdrawn *string `db:"withdrawn"` // why the edition was
	Closed    bool    `db:"closed"`    // the document takes no more answers

	Opened   *time.Time `db:"opened"`
	Fetched  *time.Time `db:"fetched"`
	Answered *time.Time `db:"answered"`
	Answers  int        `db:"answers"`

	Recipient *string    `db:"recipient"` // of the last letter
	State     *string    `db:"state"`
	Problem   *string    `db:"problem"`
	SentAt    *time.Time `db:"sent_at"`
	Reminded  bool       `db:"reminded"`
}

// Personal tells whether it is somebody's own.
func (l FormLink) Personal() bool { return l.PersonJSON != nil }

// Person is whose it is, as they were when it was made.
func (l FormLink) Person() roster.Person {
	var p roster.Person
	_ = json.Unmarshal(l.PersonJSON, &p) // written by MakeFormLinks
	return p
}

// EndedError is a link that leads nowhere any more, and why.
type EndedError struct{ why string }

func (e *EndedError) Error() string { return e.why }

// Why a link leads nowhere any more, beside that its edition was withdrawn, with the reason for that.
var (
	ErrRevoked = &EndedError{"this link was taken back: ask the office that you have it from for another one"}
	ErrExpired = &EndedError{"this link is not good any more: ask the office that you have it from for another one"}
	ErrUsedUp  = &EndedError{"all answers that this link takes have come: ask the office that you have it from"}
)

// Good tells why a link leads nowhere at a time; nil when it leads to its form.
func (l FormLink) Good(now time.Time) error {
	switch {
	case l.RevokedAt != nil:
		return ErrRevoked
	case l.Withdrawn != nil:
		return &EndedError{fmt.Sprintf("this form is not used any more: %s. Ask the office that you have it from for the present one",
			strings.TrimRight(*l.Withdrawn, ". "))}
	case l.ExpiresAt != nil && !now.Before(*l.ExpiresAt):
		return ErrExpired
	case l.Closed:
		return &EndedError{ErrClosed.Error()}
	case l.Most != nil && l.Answers >= *l.Most:
		return ErrUsedUp
	}
	return nil
}

const formLinkColumns = `select l.id, l.edition_id, e.number, e.document_id, d.title, e.file, e.file_name, length(f.bytes) as size,
	e.locked <> '' as locked, e.profile, l.token, l.inbox, l.secret, l.person_id, l.person, l.name, l.note, l.serial, l.expires_at, l.most,
	l.passcode, l.frames, e.template is not null as form_kept, l.made_at, l.revoked_at, w.reason as withdrawn, d.archived_at is not null or d.inbox_closed_at is not null as closed,
	(select min(at) from link_events where link_id = l.id and what = 'opened') as opened,
	(select min(at) from link_events where link_id = l.id and what = 'fetched') as fetched,
	(select min(at) from link_events where link_id = l.id and what = 'answered') as answered,
	(select count(*) from returns where link_id = l.id) as answers,
	exists(select from letters where link_id = l.id and kind = 'reminder') as reminded,
	p.recipient, p.state, p.problem, p.sent_at
	from form_links l join editions e on e.id = l.edition_id join documents d on d.id = e.document_id join files f on f.sha256 = e.file
	left join withdrawals w on w.edition_id = e.id
	left join lateral (select recipient, state, problem, sent_at from letters where link_id = l.id order by id desc limit 1) p on true `

// FormLinks lists the links of an edition, but for those of people who sign: open ones first, then personal ones by name.
func (s *Store) FormLinks(ctx context.Context, edition int64) ([]FormLink, error) {
	var out []FormLink
	err := s.db.SelectContext(ctx, &out, formLinkColumns+`where l.edition_id = $1 and not exists (select from signers where link_id = l.id)
		order by l.person is not null, lower(l.name), l.id`, edition)
	return out, err
}

// FormLink reads one.
func (s *Store) FormLink(ctx context.Context, id int64) (FormLink, error) {
	var l FormLink
	err := s.db.GetContext(ctx, &l, formLinkColumns+`where l.id = $1`, id)
	return l, gone(err)
}

// FormLinkAt reads the one that an address names; [ErrMissing] when there is none.
func (s *Store) FormLinkAt(ctx context.Context, token string) (FormLink, error) {
	var l FormLink
	err := s.db.GetContext(ctx, &l, formLinkColumns+`where l.token = $1`, token)
	return l, gone(err)
}

// Terms are what holds for a link.
type Terms struct {
	Note     string
	Until    *time.Time // not good from then on
	Most     int        // answers; 0 for any number
	Passcode string     // that has to be known; empty for none
	Frames   string     // sites whose pages may show it, such as https://www.office.example, with blanks between
}

// How long a passcode is, in signs, at least and at most.
const (
	shortestPasscode = 4
	longestPasscode  = 64
)

// Check refuses terms that cannot hold, and puts them in order.
func (t *Terms) Check(now time.Time) error {
	t.Note = strings.Join(strings.Fields(t.Note), " ")
	if err := form.CheckLine("what the link is for", t.Note, 200); err != nil {
		return err
	}
	if t.Until != nil && !t.Until.After(now) {
		return errors.New("a link cannot be good until a day that is over: choose a later one")
	}
	if t.Most < 0 || t.Most > MostReturns {
		return fmt.Errorf("a link takes 1 to %d answers: type another number, or none", MostReturns)
	}
	if n := len([]rune(t.Passcode)); t.Passcode != "" && (n < shortestPasscode || n > longestPasscode) {
		return fmt.Errorf("a passcode has %d to %d signs", shortestPasscode, longestPasscode)
	}
	if err := form.CheckLine("the passcode", t.Passcode, 4*longestPasscode); err != nil {
		return err
	}
	var sites []string
	for _, f := range strings.Fields(t.Frames) {
		site, err := CheckAddress(f)
		if u, bad := url.Parse(site); err != nil || bad != nil || strings.ContainsAny(u.Host, `;,'"`) {
			return fmt.Errorf("%q is not a site whose pages could show the form: write one such as https://www.office.example", f)
		}
		sites = append(sites, site)
	}
	if len(sites) > 10 {
		return errors.New("at most 10 sites can show a form by one link: make another link for the rest")
	}
	t.Frames = strings.Join(sites, " ")
	return nil
}

// For is whom a link is made for, and the letter that carries it: without a person it is an open one, without a recipient there is no
// letter.
type For struct {
	Person    *roster.Person
	Recipient string
	// Letter gives the words, when the link has its token.
	Letter func(token string) (subject, body string)
}

// MakeFormLinks makes links to an edition, with the letters that carry them, and gives their ids.
func (s *Store) MakeFormLinks(ctx context.Context, edition, by int64, t Terms, whom []For) ([]int64, error) {
	if err := t.Check(time.Now()); err != nil {
		return nil, err
	}
	if len(whom) > MostCopies {
		return nil, ErrMany
	}
	hash := ""
	if t.Passcode != "" {
		var err error
		if hash, err = hashed(ctx, t.Passcode); err != nil {
			return nil, err
		}
	}
	var ids []int64
	err := s.tx(ctx, func(tx *sqlx.Tx) error {
		e, err := linkable(ctx, tx, edition)
		if err != nil {
			return err
		}
		for _, w := range whom {
			id, token, err := makeFormLink(ctx, tx, edition, by, e.Document, t, hash, w.Person)
			if err != nil {
				return err
			}
			ids = append(ids, id)
			if w.Recipient == "" {
				continue
			}
			subject, body := w.Letter(token)
			if err := s.post(ctx, tx, by, id, LetterLink, w.Recipient, subject, body); err != nil {
				return err
			}
		}
		return note(ctx, tx, by, DeedLink, fmt.Sprintf("%s, %d made", e.Name, len(ids)), t.Note)
	})
	return ids, err
}

type linked struct {
	Document  int64  `db:"document_id"`
	Name      string `db:"file_name"`
	Withdrawn bool   `db:"withdrawn"`
	Archived  bool   `db:"archived"`
}

// linkable locks the document of an edition, and refuses one that is not to go out any more.
func linkable(ctx context.Context, tx *sqlx.Tx, edition int64) (linked, error) {
	var e linked
	err := tx.GetContext(ctx, &e, `select e.document_id, e.file_name, d.archived_at is not null as archived,
		exists(select from withdrawals where edition_id = e.id) as withdrawn
		from editions e join documents d on d.id = e.document_id where e.id = $1 for update of d`, edition)
	switch {
	case err != nil:
		return e, gone(err)
	case e.Withdrawn:
		return e, errors.New("this edition was withdrawn: choose one that is in use")
	case e.Archived:
		return e, errors.New("this document is archived: take it out of the archive first")
	}
	return e, nil
}

func makeFormLink(ctx context.Context, tx *sqlx.Tx, edition, by, document int64, t Terms, hash string, p *roster.Person) (id int64,
	token string, err error,
) {
	token = rand.Text()
	secret := make([]byte, 32)
	if _, err := rand.Read(secret); err != nil {
		return 0, "", err
	}
	var person []byte
	var personID *int64
	name := ""
	if p != nil {
		if person, err = json.Marshal(p); err != nil {
			return 0, "", err
		}
		if p.ID != 0 {
			personID = &p.ID
		}
		name = p.Name()
	}
	err = tx.GetContext(
		ctx,
		&id,
		`insert into form_links (edition_id, token, inbox, secret, person_id, person, name, note, serial, expires_at,
		most, passcode, frames, made_by) values ($1, $2, $3, $4, $5, $6, $7, $8, `+nextSerial("$9")+`, $10, nullif($11, 0), $12, $13, $14)
		returning id`,
		edition,
		token,
		rand.Text(),
		secret,
		personID,
		person,
		name,
		t.Note,
		document,
		t.Until,
		t.Most,
		hash,
		t.Frames,
		by,
	)
	return id, token, err
}

// nextSerial is the number of the next copy of a document that is filled in for somebody, or goes out by a link.
func nextSerial(document string) string {
	return `(select 1 + coalesce((select sum(jsonb_array_length(f.people)) from fillings f join tasks t on t.id = f.task_id
		where t.document_id = ` + document + `), 0) + (select count(*) from form_links o join editions x on x.id = o.edition_id
		where x.document_id = ` + document + `))`
}

// OpenLink notes that a link was opened, once in ten minutes; Fetched, that its form was fetched.
func (s *Store) OpenLink(ctx context.Context, id int64) error { return s.happened(ctx, id, "opened") }

// FetchLink notes that the form of a link was fetched.
func (s *Store) FetchLink(ctx context.Context, id int64) error { return s.happened(ctx, id, "fetched") }

func (s *Store) happened(ctx context.Context, id int64, what string) error {
	_, err := s.db.ExecContext(ctx, `insert into link_events (link_id, what) select $1, $2 where not exists (select from link_events
		where link_id = $1 and what = $2 and at > now() - interval '10 minutes')`, id, what)
	return err
}

// KnowsPasscode tells whether a passcode is that of a link.
func (s *Store) KnowsPasscode(ctx context.Context, l FormLink, said string) (bool, error) {
	if l.Passcode == "" {
		return true, nil
	}
	if len([]rune(said)) > longestPasscode {
		return false, nil
	}
	done, err := hasher(ctx)
	if err != nil {
		return false, err
	}
	defer done()
	return argon2id.ComparePasswordAndHash(said, l.Passcode)
}

// RevokeLink takes a link back; who has it is told.
func (s *Store) RevokeLink(ctx context.Context, id, by int64) error {
	return s.tx(ctx, func(tx *sqlx.Tx) error {
		var name string
		if err := tx.GetContext(ctx, &name, `update form_links l set revoked_at = coalesce(revoked_at, now()) from editions e
			where l.id = $1 and e.id = l.edition_id returning e.file_name`, id); err != nil {
			return gone(err)
		}
		return note(ctx, tx, by, DeedLink, name+", 1 taken back", "")
	})
}
