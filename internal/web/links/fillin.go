package links

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"maps"
	"math"
	"net/http"
	"net/url"
	"slices"
	"strings"
	"time"

	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/questions"
	"zealousmargin.example/internal/returns"
	"zealousmargin.example/internal/roster"
	"zealousmargin.example/internal/store"
	"zealousmargin.example/internal/web/frame"
	"zealousmargin.example/internal/web/markup"
	"zealousmargin.example/internal/web/release"
	"zealousmargin.example/internal/web/signing"
)

// Limits of what is sent with a form that is filled in on the web.
const (
	mostFiles    = 5
	mostFile     = 10 << 20 // bytes of one
	MaxFilled    = mostFiles*mostFile + 8<<20
	mostAnswers  = 1 << 20 // bytes of all answers
	widestPage   = 1800    // pixels
	usualWidth   = 900
	agreedInForm = "I have read this form, and this stands for my signature."
)

// webForm is a form as it is filled in by a link.
type webForm struct {
	form  form.Template
	given map[string]string // what the office fills in
	names []string          // that may be answered; nil for all
	desk  *signing.Desk     // of those who sign
}

// fillableHere tells whether the form of a link can be filled in on its page.
func fillableHere(l store.FormLink) bool {
	return !l.Locked && l.Profile != string(form.Flat) && l.FormKept
}

// formAt is the form of a link, with what the office knows.
func formAt(ctx context.Context, s *frame.Frame, c *echo.Context, l store.FormLink, said string) (webForm, error) {
	var w webForm
	switch d, err := deskOf(s, c, l, said); {
	case err == nil:
		p, err := signing.PartOf(ctx, s, d)
		if err != nil {
			return w, frame.Refuse(err)
		}
		w.form, w.given, w.names, w.desk = p.Form, p.Answers, p.Names, &d
		return w, nil
	case !errors.Is(err, store.ErrMissing):
		return w, err
	}
	t, err := s.Store.EditionForm(ctx, l.EditionID)
	if err != nil {
		return w, err
	}
	d, err := s.Store.Draft(ctx, l.DocumentID)
	if err != nil {
		return w, err
	}
	w.form, _ = roster.Overlaid(&t, &d.Template)
	unlessPersonal(&w.form, l)
	with := roster.With{Today: time.Now(), Edition: l.Number, Serial: l.Serial, Link: map[string]string{}}
	for key, all := range c.QueryParams() {
		with.Link[key] = all[0]
	}
	given, _ := roster.Values(&w.form, l.Person(), with)
	w.given, err = questions.Begin(w.form.Fields, given, time.Now())
	return w, frame.Refuse(err)
}

// mine tells whether a field is asked of whoever fills the form in.
func (w *webForm) mine(f *form.Field) bool {
	return w.names == nil || slices.Contains(w.names, f.Name)
}

// signs tells whether somebody who fills the form in signs it here.
func (w *webForm) signs() []string {
	if w.desk != nil {
		return nil // that is done at their desk
	}
	var out []string
	for _, f := range w.form.Placed() {
		if f.Kind == form.Signature && !slices.Contains(out, f.Name) {
			out = append(out, f.Name)
		}
	}
	return out
}

func (w *webForm) mustSign() bool {
	return slices.ContainsFunc(w.form.Placed(), func(f form.Field) bool { return f.Kind == form.Signature && f.Required })
}

// own are the answers that count: those to questions that are asked, and what the office has filled in.
func (w *webForm) own(said map[string]string) map[string]string {
	out := maps.Clone(w.given)
	if out == nil {
		out = map[string]string{}
	}
	for _, f := range w.form.Placed() {
		if v, ok := said[f.Name]; ok && !f.ReadOnly && w.mine(&f) {
			out[f.Name] = v
		}
	}
	return out
}

type fillView struct {
	frame.Shell
	Link    store.FormLink
	At      string // the address of the link
	Pass    string
	Query   string
	Steps   []questions.Step
	Count   int
	Begin   string // answers as JSON
	Answers map[string]string
	Refused map[string]string
	Signs   []string
	Must    bool
	Consent string
	Typed   string
	Problem string
	Code    string // under which it is kept
	Desk    bool
	OnPages bool
	Sheets  []pageOfForm
	Done    *doneView
	Pic     bool // it takes files
}

type pageOfForm struct {
	N, W, H  int
	Picture  string
	Controls []markup.Live
}

type doneView struct {
	Said   [][2]string
	Copy   string
	At     time.Time
	Number int64
}

// FillIn shows the form of a link as questions, or as its pages.
func FillIn(s *frame.Frame, c *echo.Context) error {
	if c.QueryParam("sent") != "" {
		return sentPage(s, c)
	}
	l, v, done, err := atLink(s, c)
	if err != nil || done {
		return err
	}
	said := c.QueryParam("pass")
	if !passes(l, said, time.Now()) {
		return openPage(s, c, http.StatusForbidden, v, "")
	}
	if !fillableHere(l) {
		return c.Redirect(http.StatusSeeOther, frame.LinkPath+l.Token)
	}
	ctx := c.Request().Context()
	if err := s.Store.OpenLink(ctx, l.ID); err != nil {
		return err
	}
	w, err := formAt(ctx, s, c, l, said)
	if err != nil {
		return err
	}
	f := fillView{Answers: w.given, Code: strings.ToUpper(strings.TrimSpace(c.QueryParam("code")))}
	if w.desk == nil && (l.Personal() || f.Code != "") {
		if f.Code != "" {
			if err := s.Tries.Turn("begun "+l.Token, frame.Sender(c.Request()), time.Now()); err != nil {
				return err
			}
		}
		switch b, err := s.Store.BegunAt(ctx, l.ID, f.Code); {
		case err == nil:
			f.Answers = w.own(b.Answers())
			s.Tries.Good("begun " + l.Token)
		case errors.Is(err, store.ErrMissing) && f.Code != "":
			v.Problem = "Nothing is kept under this code: look whether it is typed as it was shown."
			return openPage(s, c, http.StatusNotFound, v, said)
		case !errors.Is(err, store.ErrMissing):
			return err
		}
	}
	return fillPage(s, c, http.StatusOK, l, &w, f)
}

// fillPage shows the form with answers.
func fillPage(s *frame.Frame, c *echo.Context, code int, l store.FormLink, w *webForm, v fillView) error {
	ctx := c.Request().Context()
	v.Shell, v.Link, v.At, v.Desk = s.Shell(c, l.Title, ""), l, frame.LinkPath+l.Token, w.desk != nil
	v.Pass = c.FormValue("pass")
	q := url.Values{}
	for key, all := range c.QueryParams() {
		if key != "as" && key != "code" {
			q[key] = all
		}
	}
	v.Query = q.Encode()
	pages := map[int]*evidence.Page{}
	for i, p := range w.form.Pages {
		ev, err := s.PageEvidence(ctx, p)
		if err != nil { // headings are a help, and no more
			slog.Warn("the headings of a form could not be read", "edition", l.EditionID, "error", err)
			break
		}
		pages[i+1] = ev
	}
	v.Steps = questions.Steps(&w.form, pages, func(f *form.Field) bool { return f.Kind != form.Signature && w.mine(f) })
	for i := range v.Steps {
		v.Count += len(v.Steps[i].Names())
	}
	v.Signs, v.Must, v.Consent = w.signs(), w.mustSign(), agreedInForm
	b, err := json.Marshal(v.Answers)
	if err != nil {
		return err
	}
	v.Begin = string(b)
	if v.Typed == "" && l.Personal() {
		v.Typed = l.Name
	}
	if v.OnPages = c.QueryParam("as") == "pages"; v.OnPages {
		v.Sheets = sheets(&w.form, l, v.Pass, w)
	}
	return s.Render(c, code, "fillin", "page", v)
}

// sheets are the pages of a form with live fields on them.
func sheets(t *form.Template, l store.FormLink, pass string, w *webForm) []pageOfForm {
	var out []pageOfForm
	for i, p := range t.Pages {
		width, height := p.ViewSize()
		px := usualWidth / width
		one := pageOfForm{N: i + 1, W: usualWidth, H: int(math.Round(height * px))}
		one.Picture = fmt.Sprintf(
			"%s%s/pages/%d?%s",
			frame.LinkPath,
			l.Token,
			i+1,
			url.Values{"w": {fmt.Sprint(usualWidth)}, "pass": {pass}}.Encode(),
		)
		m := geom.ToView(p.Width, p.Height, p.Rotate)
		for _, f := range t.OnPage(i + 1) {
			if !f.Placed() || f.Kind == form.Button && f.Action.Do != form.TakePicture || f.Kind == form.Signature {
				continue
			}
			if !w.mine(&f) || f.Formula != "" {
				f.ReadOnly = true
			}
			r := f.Rect.Apply(m)
			c := markup.Live{Field: &f, X: r.X0 * px, Y: r.Y0 * px, W: r.W() * px, H: r.H() * px, Size: f.Look.Size * px, Scale: px}
			if c.Size == 0 {
				if c.Size = math.Min(12*px, (r.H()-1)*px/1.05); f.Multiline {
					c.Size = 10 * px
				}
			}
			one.Controls = append(one.Controls, c)
		}
		out = append(out, one)
	}
	return out
}

// PagePicture is the picture of a page of the form of a link.
func PagePicture(s *frame.Frame, c *echo.Context) error {
	l, v, done, err := atLink(s, c)
	if err != nil || done {
		return err
	}
	if !passes(l, c.QueryParam("pass"), time.Now()) {
		return openPage(s, c, http.StatusForbidden, v, "")
	}
	t, err := s.Store.EditionForm(c.Request().Context(), l.EditionID)
	if err != nil {
		return err
	}
	n, width := frame.Number(c.Param("n"), 0), frame.Number(c.QueryParam("w"), usualWidth)
	if n < 1 || n > len(t.Pages) || width != usualWidth && width != widestPage { // others would only fill what is kept at hand
		return store.ErrMissing
	}
	return s.PageSeen(c, t.Pages[n-1], width)
}

// given is what a page sends while the form is filled in.
type given struct {
	Answers map[string]string `json:"answers"`
	Pass    string            `json:"pass"`
	Code    string            `json:"code"`
	Keep    bool              `json:"keep"` // under a new code
}

// followed is what it gets back.
type followed struct {
	questions.State
	Code string `json:"code,omitempty"`
	Kept bool   `json:"kept"`
}

// Answers works out what follows from answers, and keeps them where they are kept: on a personal link, or under a code.
func Answers(s *frame.Frame, c *echo.Context) error {
	l, w, in, err := asking(s, c)
	if err != nil {
		return err
	}
	ctx := c.Request().Context()
	answers := w.own(in.Answers)
	st, err := questions.Follow(w.form.Fields, answers, time.Now())
	if err != nil {
		return frame.Refuse(err)
	}
	out := followed{State: st}
	if w.names != nil { // what others are asked is not theirs to mend
		out.Missing = slices.DeleteFunc(out.Missing, func(n string) bool { return !slices.Contains(w.names, n) })
	}
	code, fresh := strings.ToUpper(strings.TrimSpace(in.Code)), false
	if l.Personal() {
		code, fresh = "", true
	} else if in.Keep && code == "" {
		code, fresh = store.NewCode(), true
	}
	if w.desk == nil && (fresh || code != "") {
		switch err := s.Store.KeepBegun(ctx, l.ID, code, fresh, in.Answers); {
		case err == nil:
			out.Code, out.Kept = code, true
		case errors.Is(err, store.ErrManyBegun) && !in.Keep, errors.Is(err, store.ErrMissing): // the browser has it
		default:
			return frame.Refuse(err)
		}
	}
	return c.JSON(http.StatusOK, out)
}

// asking reads what a page sends for its answers.
func asking(s *frame.Frame, c *echo.Context) (l store.FormLink, w webForm, in given, err error) {
	r := c.Request()
	ctx := r.Context()
	c.Response().Header().Set("Referrer-Policy", "no-referrer")
	if l, err = s.Store.FormLinkAt(ctx, c.Param("token")); err != nil {
		return l, w, in, err
	}
	if err := l.Good(time.Now()); err != nil {
		return l, w, in, release.Closed(err)
	}
	if err := s.Typing.May(l.Token, frame.Sender(r), time.Now()); err != nil {
		return l, w, in, err
	}
	b, err := io.ReadAll(io.LimitReader(r.Body, mostAnswers+1))
	if err == nil && len(b) > mostAnswers {
		return l, w, in, frame.RefuseAs(http.StatusRequestEntityTooLarge, errors.New("these answers are too long"))
	}
	if err == nil {
		err = json.Unmarshal(b, &in)
	}
	if err != nil {
		return l, w, in, frame.Refuse(errors.New("the answers cannot be read: load the page again"))
	}
	if !passes(l, in.Pass, time.Now()) {
		return l, w, in, frame.RefuseAs(http.StatusForbidden, errors.New("say the passcode once more: it was said a while ago"))
	}
	if !fillableHere(l) {
		return l, w, in, store.ErrMissing
	}
	in.Answers = legible(in.Answers)
	w, err = formAt(ctx, s, c, l, in.Pass)
	return l, w, in, err
}

// legible are answers that can be kept.
func legible(answers map[string]string) map[string]string {
	came := returns.Came{Named: map[string][]string{}}
	for k, v := range answers {
		came.Named[k] = []string{v}
	}
	out := map[string]string{}
	for k, v := range came.Legible().Named {
		out[k] = v[0]
	}
	return out
}
