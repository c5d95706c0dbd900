package links

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"net/http"
	"net/mail"
	"runtime"
	"strings"
	"sync"
	"time"

	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/letter"
	"zealousmargin.example/internal/roster"
	"zealousmargin.example/internal/store"
	"zealousmargin.example/internal/web/frame"
)

// mostLetters is how many letters are written at once.
const mostLetters = 1000

var errManyLetters = fmt.Errorf("at most %d letters can be sent at once: choose fewer people", mostLetters)

// typed is a letter as it was typed.
func typed(c *echo.Context) letter.Words {
	return letter.Words{Subject: strings.TrimSpace(c.FormValue("subject")), Text: strings.ReplaceAll(c.FormValue("text"), "\r\n", "\n")}
}

// SendOut makes a link for each of the people that a request names and sends it to them. What does not go into their copies is shown first.
func SendOut(s *frame.Frame, c *echo.Context) error {
	e, err := editionOf(s, c)
	if err != nil {
		return err
	}
	ctx := c.Request().Context()
	v := linksView{Letter: typed(c)}
	refuse := func(err error) error {
		if store.Said(err) {
			return err
		}
		v.Problem = frame.Sentence(err.Error())
		return page(s, c, http.StatusUnprocessableEntity, v)
	}
	if err := v.Letter.Check(); err != nil {
		return refuse(err)
	}
	t, a, err := termsOf(c)
	if v.Terms = a; err != nil {
		return refuse(err)
	}
	people, err := chosen(s, c)
	if err != nil {
		return refuse(err)
	}
	whom, without, had, err := addressed(ctx, s, e.ID, people)
	if err == nil && len(whom) == 0 {
		err = errors.New("there is nobody to send it to: choose people who have an e-mail address and no link to this edition yet")
	}
	if err != nil {
		return refuse(err)
	}
	if c.FormValue("anyway") == "" {
		if v.Trouble, err = troubles(ctx, s, e, whom); err != nil {
			return refuse(err)
		}
		if len(v.Trouble) > 0 {
			v.Problem = "Nothing was sent yet: not everything that the office knows goes into the copies. " +
				"Look below, and send all the same if that is right."
			return page(s, c, http.StatusUnprocessableEntity, v)
		}
	}
	if may, err := s.May(c); err == nil && c.FormValue("keep") != "" && may.Administer {
		if err := keepWords(ctx, s, store.LetterLink, v.Letter, frame.Account(c).ID); err != nil {
			return refuse(err)
		}
	}
	w, err := newWriter(ctx, s, c, v.Letter, e.DocumentID)
	if err != nil {
		return refuse(err)
	}
	list := make([]store.For, len(whom))
	for i, p := range whom {
		list[i] = store.For{Person: &p, Recipient: p.Data[roster.MailColumn], Letter: func(token string) (string, string) {
			return w.to(p.Name(), token, t.Until)
		}}
	}
	if _, err := s.Store.MakeFormLinks(ctx, e.ID, frame.Account(c).ID, t, list); err != nil {
		return refuse(err)
	}
	v = linksView{Said: sentOut(len(whom), without, had)}
	return page(s, c, http.StatusOK, v)
}

// sentOut says what came of sending.
func sentOut(n int, without []string, had int) string {
	said := "1 letter is on its way."
	if n != 1 {
		said = fmt.Sprintf("%d letters are on their way.", n)
	}
	if len(without) > 0 {
		said += fmt.Sprintf(" No e-mail address is known of %s.", few(without))
	}
	if had > 0 {
		said += fmt.Sprintf(" %d had a link to this edition already.", had)
	}
	return said
}

func few(names []string) string {
	const most = 5
	if len(names) > most {
		return strings.Join(names[:most], ", ") + fmt.Sprintf(" and %d more", len(names)-most)
	}
	return strings.Join(names, ", ")
}

// chosen are the people that a request names: those who are ticked, or all whom a search finds.
func chosen(s *frame.Frame, c *echo.Context) ([]roster.Person, error) {
	ctx := c.Request().Context()
	if c.FormValue("whom") == "found" {
		people, all, err := s.Store.RosterPeople(ctx, c.FormValue("search"), 0, mostLetters)
		if err == nil && all > mostLetters {
			err = errManyLetters
		}
		return people, err
	}
	people, err := s.Ticked(c)
	if err != nil {
		return nil, err
	}
	if len(people) == 0 {
		return nil, store.ErrNobody
	}
	return people, nil
}

// addressed are those of the people who can be written to; without are the others, had is how many have a good link to the edition already.
func addressed(
	ctx context.Context,
	s *frame.Frame,
	edition int64,
	people []roster.Person,
) (whom []roster.Person, without []string, had int,
	err error,
) {
	list, err := s.Store.FormLinks(ctx, edition)
	if err != nil {
		return nil, nil, 0, err
	}
	have := map[string]bool{}
	now := time.Now()
	for _, l := range list {
		if l.Personal() && (l.Good(now) == nil || errors.Is(l.Good(now), store.ErrUsedUp)) {
			have[l.Person().Key] = true
		}
	}
	for _, p := range people {
		switch a, err := mail.ParseAddress(p.Data[roster.MailColumn]); {
		case have[p.Key]:
			had++
		case err != nil || a.Address != p.Data[roster.MailColumn]:
			without = append(without, p.Name())
		default:
			whom = append(whom, p)
		}
	}
	return whom, without, had, nil
}

// troubles is what does not go into the copies of people, or does not fit there, by person.
func troubles(ctx context.Context, s *frame.Frame, e store.Edition, people []roster.Person) ([]store.Trouble, error) {
	from, err := fillable(ctx, s, e.ID, e.DocumentID, e.File, e.Locked != "", e.Profile)
	if err != nil || from == nil {
		return nil, err
	}
	found := make([][]store.Trouble, len(people))
	next := make(chan int)
	var wait sync.WaitGroup
	for range runtime.GOMAXPROCS(0) {
		wait.Go(func() {
			for i := range next {
				made := from.prepared.For(&from.form, people[i], roster.With{Today: time.Now(), Edition: e.Number, Serial: 1}, false)
				for _, x := range made.Trouble {
					found[i] = append(found[i], store.Trouble{Person: people[i].Name(), Field: x.Field, Why: x.Err.Error()})
				}
			}
		})
	}
	for i := range people {
		if ctx.Err() != nil {
			break
		}
		next <- i
	}
	close(next)
	wait.Wait()
	var all []store.Trouble
	for _, f := range found {
		all = append(all, f...)
	}
	return all, ctx.Err()
}

// keepWords makes the words of a letter those of the office.
func keepWords(ctx context.Context, s *frame.Frame, kind string, w letter.Words, by int64) error {
	subject, text, _ := settingsOf(kind)
	return errors.Join(s.Store.SetSetting(ctx, subject, w.Subject, by), s.Store.SetSetting(ctx, text, w.Text, by))
}

// writer writes letters about a form.
type writer struct {
	words            letter.Words
	form, office, at string
}

func newWriter(ctx context.Context, s *frame.Frame, c *echo.Context, w letter.Words, document int64) (writer, error) {
	at, err := address(ctx, s, "")
	if err != nil {
		return writer{}, err
	}
	d, err := s.Store.Document(ctx, document)
	return writer{w, d.Title, s.Shell(c, "", "").Office, at}, err
}

func (w writer) to(name, token string, until *time.Time) (subject, body string) {
	good := "until it is taken back"
	if until != nil {
		good = "until the end of " + until.Add(-time.Second).Local().Format("2 January 2006")
	}
	one := w.words.With(map[string]string{"name": name, "form": w.form, "link": w.at + token, "office": w.office, "until": good})
	return one.Subject, one.Text
}

// Remind reminds those who have not answered.
func Remind(s *frame.Frame, c *echo.Context) error {
	e, err := editionOf(s, c)
	if err != nil {
		return err
	}
	ctx := c.Request().Context()
	words, err := wordsOf(ctx, s, store.LetterReminder)
	if err != nil {
		return err
	}
	list, err := s.Store.FormLinks(ctx, e.ID)
	if err != nil {
		return err
	}
	to := map[int64]string{}
	now := time.Now()
	for _, l := range list {
		if l.Personal() && due(l, now) {
			to[l.ID] = frame.Value(l.Recipient)
		}
	}
	n, err := again(ctx, s, c, e, words, store.LetterReminder, to)
	v := linksView{Said: sentOut(n, nil, 0)}
	switch {
	case store.Said(err):
		return err
	case err != nil:
		v = linksView{Problem: frame.Sentence(err.Error())}
	case n == 0:
		v = linksView{Problem: "There is nobody to remind: all who have a letter have answered, or it has not gone out yet."}
	}
	return page(s, c, http.StatusOK, v)
}

func again(
	ctx context.Context,
	s *frame.Frame,
	c *echo.Context,
	e store.Edition,
	words letter.Words,
	kind string,
	to map[int64]string,
) (int,
	error,
) {
	w, err := newWriter(ctx, s, c, words, e.DocumentID)
	if err != nil {
		return 0, err
	}
	return s.Store.PostAgain(ctx, e.ID, frame.Account(c).ID, kind, to, func(l store.FormLink) (string, string) {
		return w.to(l.Name, l.Token, l.ExpiresAt)
	})
}

// sendAgain sends a personal link once more, to an address that may be another than before.
func sendAgain(s *frame.Frame, c *echo.Context, l store.FormLink) error {
	ctx := c.Request().Context()
	if !l.Personal() {
		return store.ErrOpen
	}
	if err := l.Good(time.Now()); err != nil {
		return err
	}
	to := cmp.Or(strings.TrimSpace(c.FormValue("to")), frame.Value(l.Recipient), l.Person().Data[roster.MailColumn])
	if a, err := mail.ParseAddress(to); err != nil || a.Address != to || len(to) > 254 {
		return fmt.Errorf("%q is not an e-mail address: write one such as ida.marl@mail.example", to)
	}
	e, err := s.Store.Edition(ctx, l.EditionID)
	if err != nil {
		return err
	}
	words, err := wordsOf(ctx, s, store.LetterLink)
	if err != nil {
		return err
	}
	n, err := again(ctx, s, c, e, words, store.LetterLink, map[int64]string{l.ID: to})
	if err == nil && n == 0 {
		err = store.ErrWaiting
	}
	return err
}
