package links

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/letter"
	"zealousmargin.example/internal/pdf/write"
	"zealousmargin.example/internal/roster"
	"zealousmargin.example/internal/store"
	"zealousmargin.example/internal/web/frame"
)

type linksView struct {
	frame.Shell
	Doc      store.Document
	Tabs     []frame.Tab
	Editions []store.Edition // that can go out
	Edition  store.Edition   // that the page is about
	At       string          // what the addresses of links begin with
	Open     []openLink
	Personal []store.FormLink // that are shown
	Counts   counts
	Only     string // those of the personal links that are shown
	Words    string
	People   []roster.Person
	All      int
	Letter   letter.Words
	Blanks   []letter.Blank
	Terms    asked
	Trouble  []store.Trouble // what does not go into the copies of those to whom it is to be sent
	Said     string
	Problem  string
	Tray     bool
}

// asked is what was typed for a link.
type asked struct{ Note, Until, Most, Frames string }

// openLink is a link for everybody, as the page shows it.
type openLink struct {
	store.FormLink
	URL   string
	Side  int    // modules of its code
	Code  string // as the path of a drawing
	Ended string
}

// counts say how far the personal links are.
type counts struct{ All, Waiting, Back, Opened, Fetched, Answered, Left int }

// mostShown is how many people are shown to choose among.
const mostShown = 12

// Show lists the links of an edition: whom it went to, who opened it, who answered.
func Show(s *frame.Frame, c *echo.Context) error {
	return page(s, c, http.StatusOK, linksView{})
}

func page(s *frame.Frame, c *echo.Context, code int, v linksView) error {
	d, err := s.DocumentOf(c)
	if err != nil {
		return err
	}
	ctx := c.Request().Context()
	v.Shell, v.Doc, v.Tabs = s.Shell(c, "Links: "+d.Title, "bench"), d, frame.Tabs("release", d.Doubtful)
	v.Words, v.Only, v.Blanks, v.Tray = strings.TrimSpace(c.QueryParam("search")), c.QueryParam("only"), letter.Blanks, s.Tray
	all, err := s.Store.Editions(ctx, d.ID)
	if err != nil {
		return err
	}
	want := int64(frame.Number(c.FormValue("edition"), 0))
	for _, e := range all {
		if e.WithdrawnAt == nil || e.ID == want {
			v.Editions = append(v.Editions, e)
		}
	}
	if len(v.Editions) == 0 {
		return s.Render(c, code, "links", "page", v)
	}
	v.Edition = v.Editions[0]
	if i := slices.IndexFunc(v.Editions, func(e store.Edition) bool { return e.ID == want }); i >= 0 {
		v.Edition = v.Editions[i]
	}
	if v.At, err = s.Public(ctx); err != nil {
		return err
	}
	list, err := s.Store.FormLinks(ctx, v.Edition.ID)
	if err != nil {
		return err
	}
	now := time.Now()
	for _, l := range list {
		if !l.Personal() {
			o, err := open(l, v.At+frame.LinkPath+l.Token, now)
			if err != nil {
				return err
			}
			v.Open = append(v.Open, o)
			continue
		}
		v.Counts.add(l, now)
		if shows(l, v.Only) {
			v.Personal = append(v.Personal, l)
		}
	}
	if v.People, v.All, err = s.Store.RosterPeople(ctx, v.Words, 0, mostShown); err != nil {
		return err
	}
	if v.Letter == (letter.Words{}) {
		if v.Letter, err = wordsOf(ctx, s, store.LetterLink); err != nil {
			return err
		}
	}
	return s.Render(c, code, "links", "page", v)
}

func (n *counts) add(l store.FormLink, now time.Time) {
	n.All++
	switch frame.Value(l.State) {
	case "waiting":
		n.Waiting++
	case "returned", "failed":
		n.Back++
	}
	for _, x := range []struct {
		is bool
		n  *int
	}{
		{l.Opened != nil, &n.Opened},
		{l.Fetched != nil, &n.Fetched},
		{l.Answered != nil, &n.Answered},
		{due(l, now), &n.Left},
	} {
		if x.is {
			*x.n++
		}
	}
}

// due tells whether somebody can be reminded: they have a good link, their letter has not come back, and they have not answered.
func due(l store.FormLink, now time.Time) bool {
	return l.Answered == nil && l.Good(now) == nil && frame.Value(l.State) == "sent"
}

// shows tells whether a personal link is among those that are asked for.
func shows(l store.FormLink, only string) bool {
	switch only {
	case "unopened":
		return l.Opened == nil
	case "unanswered":
		return l.Answered == nil
	case "answered":
		return l.Answered != nil
	case "back":
		return slices.Contains([]string{"returned", "failed"}, frame.Value(l.State))
	}
	return true
}

func open(l store.FormLink, at string, now time.Time) (openLink, error) {
	o := openLink{FormLink: l, URL: at}
	if err := l.Good(now); err != nil {
		o.Ended = frame.Sentence(err.Error())
	}
	dots, err := write.Code(at)
	if err != nil {
		return o, err
	}
	o.Side = len(dots)
	var b strings.Builder
	for y, row := range dots {
		for x, dark := range row {
			if dark {
				fmt.Fprintf(&b, "M%d %dh1v1h-1z", x, y)
			}
		}
	}
	o.Code = b.String()
	return o, nil
}

// settingsOf are the settings under which the office's words for a kind of letter are kept, with the words that come with the application.
func settingsOf(kind string) (subject, text string, first letter.Words) {
	if kind == store.LetterReminder {
		return store.ReminderSubject, store.ReminderText, letter.Reminder
	}
	return store.LetterSubject, store.LetterText, letter.First
}

// wordsOf are the office's words for a kind of letter.
func wordsOf(ctx context.Context, s *frame.Frame, kind string) (letter.Words, error) {
	subject, text, w := settingsOf(kind)
	for key, to := range map[string]*string{subject: &w.Subject, text: &w.Text} {
		v, err := s.Store.Setting(ctx, key)
		if err != nil {
			return w, err
		}
		if v != "" {
			*to = v
		}
	}
	return w, nil
}

// termsOf reads what is to hold for a link, and what was typed for it.
func termsOf(c *echo.Context) (store.Terms, asked, error) {
	a := asked{
		Note:   c.FormValue("note"),
		Until:  strings.TrimSpace(c.FormValue("until")),
		Most:   strings.TrimSpace(c.FormValue("most")),
		Frames: c.FormValue("frames"),
	}
	t := store.Terms{Note: a.Note, Passcode: strings.TrimSpace(c.FormValue("passcode")), Frames: a.Frames}
	if a.Until != "" {
		day, err := time.ParseInLocation(time.DateOnly, a.Until, time.Local)
		if err != nil {
			return t, a, fmt.Errorf("%q is not a day: choose one such as 2027-03-31", a.Until)
		}
		end := day.AddDate(0, 0, 1) // the day itself is in it
		t.Until = &end
	}
	if a.Most != "" {
		if t.Most = frame.Number(a.Most, -1); t.Most < 1 {
			return t, a, fmt.Errorf("%q is not a number of answers: type one such as 200, or nothing for any number", a.Most)
		}
	}
	return t, a, nil
}

// Make makes a link for everybody.
func Make(s *frame.Frame, c *echo.Context) error {
	e, err := editionOf(s, c)
	if err != nil {
		return err
	}
	ctx := c.Request().Context()
	if _, err := address(ctx, s, ""); err != nil {
		return err
	}
	t, a, err := termsOf(c)
	if err == nil {
		_, err = s.Store.MakeFormLinks(ctx, e.ID, frame.Account(c).ID, t, []store.For{{}})
	}
	switch {
	case store.Said(err):
		return err
	case err != nil:
		return page(s, c, http.StatusUnprocessableEntity, linksView{Problem: frame.Sentence(err.Error()), Terms: a})
	}
	return c.Redirect(http.StatusSeeOther, fmt.Sprintf("/documents/%d/links?edition=%d#open", e.DocumentID, e.ID))
}

// editionOf is the edition that a request names; it belongs to the document of the address.
func editionOf(s *frame.Frame, c *echo.Context) (store.Edition, error) {
	document, err := frame.IdOf(c)
	if err != nil {
		return store.Edition{}, err
	}
	e, err := s.Store.Edition(c.Request().Context(), int64(frame.Number(c.FormValue("edition"), 0)))
	if err == nil && e.DocumentID != document {
		err = store.ErrMissing
	}
	return e, err
}

// Change takes a link back, or sends it once more.
func Change(s *frame.Frame, c *echo.Context) error {
	id, err := frame.IdOf(c)
	if err != nil {
		return err
	}
	ctx := c.Request().Context()
	l, err := s.Store.FormLink(ctx, id)
	if err != nil {
		return err
	}
	switch c.FormValue("do") {
	case "revoke":
		err = s.Store.RevokeLink(ctx, id, frame.Account(c).ID)
	case "again":
		err = sendAgain(s, c, l)
	default:
		err = errors.New("a link can be taken back or sent once more")
	}
	if err != nil {
		return frame.Refuse(err)
	}
	return c.Redirect(http.StatusSeeOther, fmt.Sprintf("/documents/%d/links?edition=%d", l.DocumentID, l.EditionID))
}
