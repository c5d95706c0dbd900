package signing

import (
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/letter"
	"zealousmargin.example/internal/pdf/fill"
	"zealousmargin.example/internal/pdf/read"
	"zealousmargin.example/internal/pdf/write"
	"zealousmargin.example/internal/roster"
	"zealousmargin.example/internal/store"
	"zealousmargin.example/internal/web/frame"
)

// Desk is where somebody fills in their part and signs: at the page of a link, or in the office.
type Desk struct {
	Signing store.Signing
	Signer  int64
	At      string // the address of the page; the form is at At + "/form.pdf"
	Query   string // what is added to addresses, with its question mark
	Pass    string // stands in forms
	Staff   bool
	// Knows tells whether what was said is the passcode or the password.
	Knows func(said string) (bool, error)
}

type deskView struct {
	frame.Shell
	Desk
	Me      *store.Signer
	Turn    *store.Signer
	Fields  int      // that they fill in
	Missing []string // that must be and are not
	Next    *store.Signer
	Problem string
	Typed   string
	Size    int
}

// MaxSent is how large a form that is sent back may be, and a picture of a signature with it, in bytes.
const MaxSent = 32 << 20

// Page shows what somebody has to do, or what became of it.
func Page(s *frame.Frame, c *echo.Context, code int, d Desk, problem string) error {
	ctx := c.Request().Context()
	v := deskView{
		Shell: s.Shell(c, d.Signing.Title, ""), Desk: d, Me: d.Signing.Of(d.Signer), Turn: d.Signing.Turn(), Problem: problem,
	}
	if v.Me == nil {
		return store.ErrMissing
	}
	v.Typed = cmp.Or(c.FormValue("name"), v.Me.Name)
	if v.Turn != nil && v.Turn.ID == d.Signer {
		t, err := formOf(ctx, s, d.Signing.EditionID, d.Signing.DocumentID)
		if err != nil {
			return err
		}
		b, err := s.Store.File(ctx, shown(&d.Signing, v.Me))
		if err != nil {
			return err
		}
		v.Size = len(b)
		v.Fields = len(theirs(&t, v.Me.Role))
		if v.Missing, err = empty(b, &t, v.Me.Role); err != nil {
			return err
		}
		if v.Me.Position < len(d.Signing.Signers) {
			v.Next = &d.Signing.Signers[v.Me.Position]
		}
	}
	return s.Render(c, code, "desk", "page", v)
}

// shown is the file that somebody sees: as they have filled it in, or as it came to them; the finished one when there is one.
func shown(g *store.Signing, w *store.Signer) string {
	switch {
	case g.Finished != nil:
		return *g.Finished
	case w.File != nil:
		return *w.File
	}
	return g.File
}

// File gives the form to somebody whose turn it is, and what they have signed or the finished form after that.
func File(s *frame.Frame, c *echo.Context, d Desk) error {
	w := d.Signing.Of(d.Signer)
	turn := d.Signing.Turn()
	if w == nil || w.SignedAt == nil && (turn == nil || turn.ID != w.ID) {
		return frame.RefuseAs(http.StatusForbidden, store.ErrNotYet)
	}
	b, err := s.Store.File(c.Request().Context(), shown(&d.Signing, w))
	if err != nil {
		return err
	}
	return frame.Download(c, frame.Slug(d.Signing.Title)+".pdf", "application/pdf", b)
}

// Do takes the form that somebody has filled in, or their signature.
func Do(s *frame.Frame, c *echo.Context, d Desk) error {
	var err error
	switch c.FormValue("do") {
	case "answer":
		err = answer(s, c, d)
	case "sign":
		err = put(s, c, d)
	default:
		err = errors.New("here a form is filled in or signed")
	}
	if store.Said(err) || errors.Is(err, store.ErrMissing) {
		return err
	}
	if err != nil {
		return Page(s, c, http.StatusUnprocessableEntity, d, frame.Sentence(err.Error()))
	}
	return c.Redirect(http.StatusSeeOther, d.At+d.Query)
}

func turnOf(d Desk) (*store.Signer, error) {
	w := d.Signing.Of(d.Signer)
	switch turn := d.Signing.Turn(); {
	case d.Signing.EndedAt != nil:
		return nil, store.ErrCalledOff
	case w == nil || w.SignedAt != nil:
		return nil, store.ErrSigned
	case turn == nil || turn.ID != w.ID:
		return nil, store.ErrNotYet
	}
	return w, nil
}

func answer(s *frame.Frame, c *echo.Context, d Desk) error {
	w, err := turnOf(d)
	if err != nil {
		return err
	}
	ctx := c.Request().Context()
	_, sent, err := frame.Upload(c, MaxSent, "choose the file that you have filled in and saved")
	if err != nil {
		return err
	}
	if len(sent) > MaxSent {
		return fmt.Errorf("the file is larger than %d MB: send it without attachments", MaxSent>>20)
	}
	if _, err := read.Check(ctx, sent); err != nil { // in a process of its own, with limits
		return err
	}
	t, err := formOf(ctx, s, d.Signing.EditionID, d.Signing.DocumentID)
	if err != nil {
		return err
	}
	src, err := s.Store.File(ctx, d.Signing.File)
	if err != nil {
		return err
	}
	out, err := taken(src, sent, &t, w.Role)
	if err != nil {
		return err
	}
	return s.Store.Answer(ctx, d.Signing.ID, d.Signer, out)
}

// Part is what somebody is to fill in whose turn it is: the form, the names of their fields, and what stands in it.
type Part struct {
	Form    form.Template
	Names   []string
	Answers map[string]string
}

// PartOf is the part of whoever is at a desk. It fails when it is not their turn.
func PartOf(ctx context.Context, s *frame.Frame, d Desk) (Part, error) {
	var p Part
	w, err := turnOf(d)
	if err != nil {
		return p, err
	}
	if p.Form, err = formOf(ctx, s, d.Signing.EditionID, d.Signing.DocumentID); err != nil {
		return p, err
	}
	p.Names = theirs(&p.Form, w.Role)
	b, err := s.Store.File(ctx, shown(&d.Signing, w))
	if err != nil {
		return p, err
	}
	said, err := fill.Answers(b)
	if err != nil {
		return p, err
	}
	p.Answers = map[string]string{}
	for name, v := range said {
		switch v := v.(type) {
		case string:
			p.Answers[name] = v
		case []any:
			var all []string
			for _, one := range v {
				all = append(all, fmt.Sprint(one))
			}
			p.Answers[name] = strings.Join(all, "\n")
		}
	}
	return p, nil
}

// FillIn puts the answers of somebody whose turn it is into the form, those of their own fields.
func FillIn(ctx context.Context, s *frame.Frame, d Desk, answers map[string]any) error {
	p, err := PartOf(ctx, s, d)
	if err != nil {
		return err
	}
	own := map[string]any{}
	for _, name := range p.Names {
		own[name] = ""
		if v, ok := answers[name]; ok {
			own[name] = v
		}
	}
	src, err := s.Store.File(ctx, d.Signing.File)
	if err != nil {
		return err
	}
	out, err := fill.With(src, own, fill.Options{})
	if err != nil {
		return err
	}
	return s.Store.Answer(ctx, d.Signing.ID, d.Signer, out)
}

// Marked reads the signature that a page sends, with how it was made.
func Marked(c *echo.Context, at time.Time) (write.Mark, string, error) { return markOf(c, at) }

// markOf reads a signature.
func markOf(c *echo.Context, at time.Time) (write.Mark, string, error) {
	m := write.Mark{Name: strings.Join(strings.Fields(c.FormValue("name")), " "), On: at.Local().Format("2 January 2006")}
	method := c.FormValue("by")
	switch method {
	case "typed":
	case "drawn":
		var all [][][2]float64
		if err := json.Unmarshal([]byte(c.FormValue("strokes")), &all); err != nil || len(all) == 0 {
			return m, "", errors.New("draw your signature first, or type your name instead")
		}
		for _, stroke := range all {
			var line []geom.Point
			for _, p := range stroke {
				line = append(line, geom.Point{X: p[0], Y: p[1]})
			}
			m.Strokes = append(m.Strokes, line)
		}
	case "picture":
		_, b, err := frame.Upload(c, 4<<20, "choose the picture of your signature first, or type your name instead")
		if err != nil {
			return m, "", err
		}
		if len(b) > 4<<20 {
			return m, "", errors.New("the picture is larger than 4 MB: make it smaller")
		}
		if len(b) == 0 {
			return m, "", errors.New("this picture is empty: choose another, or type your name instead")
		}
		m.Picture = b
	default:
		return m, "", errors.New("say how you sign: by typing your name, by drawing it, or with a picture")
	}
	return m, method, m.Check()
}

var errConsent = errors.New("say that you agree first: without that it is no signature")

// put puts a signature into the form and gives the turn on.
func put(s *frame.Frame, c *echo.Context, d Desk) error {
	w, err := turnOf(d)
	if err != nil {
		return err
	}
	ctx := c.Request().Context()
	if c.FormValue("agree") == "" {
		return errConsent
	}
	at := time.Now().UTC().Truncate(time.Second)
	m, method, err := markOf(c, at)
	if err != nil {
		return err
	}
	if err := s.Tries.Turn(fmt.Sprintf("signer %d", d.Signer), frame.Sender(c.Request()), time.Now()); err != nil {
		return err
	}
	known, err := d.Knows(c.FormValue("secret"))
	if err != nil {
		return err
	}
	if !known {
		return errors.New(map[bool]string{
			true: "that is not your password: type it again", false: "that is not the passcode: type it as the office has told it to you",
		}[d.Staff])
	}
	s.Tries.Good(fmt.Sprintf("signer %d", d.Signer))
	t, err := formOf(ctx, s, d.Signing.EditionID, d.Signing.DocumentID)
	if err != nil {
		return err
	}
	src, err := s.Store.File(ctx, shown(&d.Signing, w))
	if err != nil {
		return err
	}
	left, err := empty(src, &t, w.Role)
	if err != nil {
		return err
	}
	if len(left) > 0 {
		return fmt.Errorf("fill in your part first: nothing stands in %s yet", strings.Join(left, ", "))
	}
	n := store.Signed{
		Name: m.Name, Signing: d.Signing.ID, Signer: w.ID, What: digest(src), Method: method, Sender: frame.Sender(c.Request()), At: at,
		Last: w.Position == len(d.Signing.Signers),
	}
	if n.File, err = signed(src, &t, w, m, at); err != nil {
		return err
	}
	if n.Last {
		g := d.Signing
		g.Signers = slices.Clone(g.Signers)
		me := g.Of(w.ID) // as it will stand on the sheet
		me.Name, me.SignedAt, me.Method, me.Sender, me.File = m.Name, &at, method, n.Sender, &n.What
		n.File, err = finished(ctx, s, n.File, &g, at)
	} else {
		next := d.Signing.Signers[w.Position]
		var who roster.Person
		if who, err = personOf(ctx, s, &next); err == nil {
			n.File, err = readied(n.File, &t, next.Role, who, roster.With{Today: at, Edition: d.Signing.Number})
		}
	}
	if err != nil {
		return err
	}
	if n.Letter, err = lettersOf(ctx, s, c, d.Signing.Title); err != nil {
		return err
	}
	return s.Store.Sign(ctx, n)
}

// personOf is what is known of somebody who signs: of the person whose link it is, or the name of somebody of the office.
func personOf(ctx context.Context, s *frame.Frame, w *store.Signer) (roster.Person, error) {
	if w.LinkID == nil {
		return roster.Person{Data: map[string]string{roster.NameColumn: w.Name}}, nil
	}
	l, err := s.Store.FormLink(ctx, *w.LinkID)
	return l.Person(), err
}

// lettersOf writes letters to those who sign.
func lettersOf(
	ctx context.Context,
	s *frame.Frame,
	c *echo.Context,
	title string,
) (func(kind, name, token string) (string, string), error) {
	at, err := s.Reached(ctx)
	if err != nil {
		return nil, err
	}
	office := s.Shell(c, "", "").Office
	return func(kind, name, token string) (string, string) {
		words := letter.Sign
		if kind == store.LetterFinished {
			words = letter.Finished
		}
		one := words.With(
			map[string]string{
				"name":   name,
				"form":   title,
				"link":   at + frame.LinkPath + token,
				"office": office,
				"until":  "until it is taken back",
			},
		)
		return one.Subject, one.Text
	}, nil
}
