package signing

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/roster"
	"zealousmargin.example/internal/store"
	"zealousmargin.example/internal/web/frame"
)

type roundView struct {
	frame.Shell
	Doc      store.Document
	Tabs     []frame.Tab
	Editions []store.Edition
	Edition  store.Edition
	Roles    []string
	Signed   map[string]int // places to sign, by role
	Fields   map[string]int
	People   []roster.Person
	All      int
	Staff    []store.Person
	Consent  string
	List     []store.Signing
	Sealed   bool
	Problem  string
}

// mostShown is how many people of the roster can be chosen among.
const mostShown = 500

// Rounds lists the forms of a document that go round, and begins another.
func Rounds(s *frame.Frame, c *echo.Context) error { return rounds(s, c, http.StatusOK, "") }

func rounds(s *frame.Frame, c *echo.Context, code int, problem string) error {
	d, err := s.DocumentOf(c)
	if err != nil {
		return err
	}
	ctx := c.Request().Context()
	v := roundView{
		Shell: s.Shell(c, "Signing: "+d.Title, "bench"), Doc: d, Tabs: frame.Tabs("release", d.Doubtful), Problem: problem,
		Signed: map[string]int{}, Fields: map[string]int{},
	}
	all, err := s.Store.Editions(ctx, d.ID)
	if err != nil {
		return err
	}
	v.Editions = slices.DeleteFunc(all, func(e store.Edition) bool { return !goesRound(e) })
	if v.List, err = s.Store.Signings(ctx, d.ID); err != nil {
		return err
	}
	if len(v.Editions) > 0 {
		if err := v.about(ctx, s, c); err != nil {
			return err
		}
	}
	return s.Render(c, code, "rounds", "page", v)
}

// goesRound tells whether an edition can be filled in by several.
func goesRound(e store.Edition) bool {
	return e.Kept && e.Locked == "" && e.Profile != string(form.Flat) && e.WithdrawnAt == nil
}

// about tells who has a part in an edition, and who can sign.
func (v *roundView) about(ctx context.Context, s *frame.Frame, c *echo.Context) error {
	v.Edition = v.Editions[0]
	want := int64(frame.Number(c.FormValue("edition"), 0))
	if i := slices.IndexFunc(v.Editions, func(e store.Edition) bool { return e.ID == want }); i >= 0 {
		v.Edition = v.Editions[i]
	}
	t, err := formOf(ctx, s, v.Edition.ID, v.Doc.ID)
	if err != nil {
		return err
	}
	v.Roles = t.RoleOrder()
	for _, r := range v.Roles {
		v.Signed[r], v.Fields[r] = len(places(&t, r)), len(theirs(&t, r))
	}
	if v.People, v.All, err = s.Store.RosterPeople(ctx, "", 0, mostShown); err != nil {
		return err
	}
	if v.Staff, err = s.Store.People(ctx); err != nil {
		return err
	}
	v.Staff = slices.DeleteFunc(v.Staff, func(p store.Person) bool { return p.Disabled || !p.Ready })
	if v.Consent, err = consent(ctx, s); err != nil {
		return err
	}
	who, err := seal(ctx, s, time.Now())
	v.Sealed = err == nil && who != nil
	return nil
}

func consent(ctx context.Context, s *frame.Frame) (string, error) {
	v, err := s.Store.Setting(ctx, store.Consent)
	if v == "" {
		v = store.UsualConsent
	}
	return v, err
}

// Begin sends an edition round.
func Begin(s *frame.Frame, c *echo.Context) error {
	id, err := frame.IdOf(c)
	if err != nil {
		return err
	}
	switch err := begin(s, c, id); {
	case store.Said(err):
		return err
	case err != nil:
		return rounds(s, c, http.StatusUnprocessableEntity, frame.Sentence(err.Error()))
	}
	return c.Redirect(http.StatusSeeOther, fmt.Sprintf("/documents/%d/signings#rounds", id))
}

func begin(s *frame.Frame, c *echo.Context, id int64) error {
	ctx := c.Request().Context()
	e, err := s.Store.Edition(ctx, int64(frame.Number(c.FormValue("edition"), 0)))
	if err != nil || e.DocumentID != id || !goesRound(e) {
		return errors.Join(err, errors.New("choose an edition that is in use and not locked"))
	}
	t, err := formOf(ctx, s, e.ID, id)
	if err != nil {
		return err
	}
	roles := t.RoleOrder()
	if len(roles) == 0 {
		return store.ErrNoRoles
	}
	n := store.NewSigning{Edition: e.ID, By: frame.Account(c).ID, Consent: c.FormValue("consent")}
	var first roster.Person
	for i, role := range roles {
		w, who, err := signerOf(s, c, i, role)
		if err != nil {
			return err
		}
		if i == 0 {
			first = who
		}
		n.Signers = append(n.Signers, w)
	}
	d, err := s.Store.Document(ctx, id)
	if err != nil {
		return err
	}
	write, err := lettersOf(ctx, s, c, d.Title)
	if err != nil {
		return err
	}
	n.Letter = func(name, token string) (string, string) { return write(store.LetterSign, name, token) }
	src, err := s.Store.File(ctx, e.File)
	if err != nil {
		return err
	}
	if n.File, err = readied(src, &t, roles[0], first, roster.With{Today: time.Now(), Edition: e.Number}); err != nil {
		return err
	}
	if may, err := s.May(c); err == nil && may.Administer && c.FormValue("keep") != "" {
		if err := s.Store.SetSetting(ctx, store.Consent, n.Consent, n.By); err != nil {
			return err
		}
	}
	_, err = s.Store.BeginSigning(ctx, n)
	return err
}

// signerOf reads who is to sign for a role: "person 12" of the roster, or "account 3" of the office.
func signerOf(s *frame.Frame, c *echo.Context, i int, role string) (store.NewSigner, roster.Person, error) {
	ctx := c.Request().Context()
	kind, number, _ := strings.Cut(c.FormValue("who-"+strconv.Itoa(i)), " ")
	n, err := strconv.ParseInt(number, 10, 64)
	w := store.NewSigner{Role: role, Passcode: strings.TrimSpace(c.FormValue("passcode-" + strconv.Itoa(i)))}
	if err != nil {
		return w, roster.Person{}, fmt.Errorf("say who signs as %s", role)
	}
	switch kind {
	case "person":
		p, err := s.Store.RosterPerson(ctx, n)
		if err != nil {
			return w, p, err
		}
		w.Person, w.Name, w.Recipient = &p, p.Name(), p.Data[roster.MailColumn]
		if w.Recipient == "" {
			return w, p, fmt.Errorf("no e-mail address is known of %s, who signs as %s: bring it into the roster first", w.Name, role)
		}
		return w, p, nil
	case "account":
		a, err := s.Store.Account(ctx, n)
		if err != nil {
			return w, roster.Person{}, err
		}
		w.Account, w.Name = a.ID, a.Name
		return w, roster.Person{Data: map[string]string{roster.NameColumn: a.Name}}, nil
	}
	return w, roster.Person{}, fmt.Errorf("say who signs as %s", role)
}

// End calls a form off that goes round.
func End(s *frame.Frame, c *echo.Context) error {
	id, err := frame.IdOf(c)
	if err != nil {
		return err
	}
	ctx := c.Request().Context()
	g, err := s.Store.Signing(ctx, id)
	if err != nil {
		return err
	}
	if err := s.Store.CallOff(ctx, id, frame.Account(c).ID); err != nil {
		return err
	}
	return c.Redirect(http.StatusSeeOther, fmt.Sprintf("/documents/%d/signings#rounds", g.DocumentID))
}

// Signed gives a file of a form that went round: what somebody has signed, by their place, or the finished one for 0.
func Signed(s *frame.Frame, c *echo.Context) error {
	id, err := frame.IdOf(c)
	if err != nil {
		return err
	}
	ctx := c.Request().Context()
	g, err := s.Store.Signing(ctx, id)
	if err != nil {
		return err
	}
	n := frame.Number(c.Param("n"), -1)
	var sha string
	switch {
	case n == 0 && g.Finished != nil:
		sha = *g.Finished
	case n >= 1 && n <= len(g.Signers) && g.Signers[n-1].SignedAt != nil:
		sha = *g.Signers[n-1].File
	default:
		return store.ErrMissing
	}
	b, err := s.Store.File(ctx, sha)
	if err != nil {
		return err
	}
	name := frame.Slug(g.Title) + "-signed"
	if n > 0 {
		name += "-" + strconv.Itoa(n)
	}
	s.Noted(ctx, frame.Account(c).ID, store.DeedDownload, name)
	return frame.Download(c, name+".pdf", "application/pdf", b)
}

// deskOf is the desk of somebody of the office.
func deskOf(s *frame.Frame, c *echo.Context) (Desk, error) {
	id, err := frame.IdOf(c)
	if err != nil {
		return Desk{}, err
	}
	ctx := c.Request().Context()
	d := Desk{At: fmt.Sprintf("/signings/%d", id), Staff: true}
	if d.Signing, err = s.Store.Signing(ctx, id); err != nil {
		return d, err
	}
	me := frame.Account(c)
	var mine *store.Signer // the first of theirs that is not signed, else the last
	for i := range d.Signing.Signers {
		w := &d.Signing.Signers[i]
		if w.AccountID != nil && *w.AccountID == me.ID && (mine == nil || mine.SignedAt != nil) {
			mine = w
		}
	}
	if mine == nil {
		return d, store.ErrMissing
	}
	d.Signer = mine.ID
	d.Knows = func(said string) (bool, error) {
		_, err := s.Store.SignIn(ctx, me.Email, said)
		if errors.Is(err, store.ErrSignIn) {
			return false, nil
		}
		return err == nil, err
	}
	return d, nil
}

// Show shows somebody of the office what they have to sign.
func Show(s *frame.Frame, c *echo.Context) error {
	d, err := deskOf(s, c)
	if err != nil {
		return err
	}
	return Page(s, c, http.StatusOK, d, "")
}

// Put takes what somebody of the office has filled in, or their signature.
func Put(s *frame.Frame, c *echo.Context) error {
	d, err := deskOf(s, c)
	if err != nil {
		return err
	}
	return Do(s, c, d)
}

// Give gives somebody of the office the form that they sign.
func Give(s *frame.Frame, c *echo.Context) error {
	d, err := deskOf(s, c)
	if err != nil {
		return err
	}
	return File(s, c, d)
}
