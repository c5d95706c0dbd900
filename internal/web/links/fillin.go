package links

import (
	"bytes"
	"context"
	"crypto/hmac"
	"crypto/sha256"
	"encoding/base64"
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
	"zealousmargin.example/internal/pdf/fill"
	"zealousmargin.example/internal/pdf/write"
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

// questionView is a question with what stands there.
type questionView struct {
	questions.Question
	Value    string
	Refused  string
	ReadOnly bool
	ID       string
}

// Q is a question for the template.
func (v fillView) Q(q questions.Question) questionView {
	return questionView{q, v.Answers[q.Name], v.Refused[q.Name], q.Field.ReadOnly || q.Field.Formula != "", "q-" + q.Field.ID}
}

// Chosen tells whether an option is among the answers to a question.
func (q questionView) Chosen(o form.Option) bool {
	return slices.Contains(strings.Split(q.Value, "\n"), o.Export)
}

// Sort is how a question is asked.
func (q questionView) Sort() string {
	f := q.Field
	switch f.Kind {
	case form.Signature:
		return "signature"
	case form.Button:
		return "picture"
	case form.CheckBox:
		if len(q.Options) > 1 {
			return "radio"
		}
		return "tick"
	case form.Radio:
		return "radio"
	case form.Choice:
		switch f.List {
		case form.ManyList:
			return "many"
		case form.ComboBox:
			return "combo"
		}
		return "list"
	}
	switch {
	case f.Multiline:
		return "long"
	case f.FilePath:
		return "file"
	case f.Password:
		return "password"
	case f.Format.Kind == form.Number || f.Format.Kind == form.Percent:
		return "number"
	}
	return "text"
}

// On is what a tick box says when it is on.
func (q questionView) On() string {
	if len(q.Options) == 1 {
		return q.Options[0].Export
	}
	return q.Field.OnState()
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

// SendFilled takes a form that was filled in on the web.
func SendFilled(s *frame.Frame, c *echo.Context) error {
	l, v, done, err := atLink(s, c)
	if err != nil || done {
		return err
	}
	r := c.Request()
	ctx := r.Context()
	turn, err := s.Answers.Turn(ctx, l.Token, frame.Sender(r), time.Now()) // before anything of it is read
	if err != nil {
		return err
	}
	defer turn()
	said := c.FormValue("pass")
	if !passes(l, said, time.Now()) {
		v.Problem = "Say the passcode first."
		return openPage(s, c, http.StatusForbidden, v, "")
	}
	if !fillableHere(l) {
		return store.ErrMissing
	}
	w, err := formAt(ctx, s, c, l, said)
	if err != nil {
		return err
	}
	typed := legible(typedIn(c, &w))
	answers := w.own(typed)
	st, err := questions.Follow(w.form.Fields, answers, time.Now())
	if err != nil {
		return frame.Refuse(err)
	}
	refused := maps.Clone(st.Refused)
	for _, name := range st.Missing {
		if refused[name] == "" && (w.names == nil || slices.Contains(w.names, name)) {
			refused[name] = "This must be filled in."
		}
	}
	again := func(problem string) error {
		if strings.Contains(r.Header.Get("Accept"), "application/json") {
			return c.JSON(http.StatusUnprocessableEntity, map[string]any{"problem": problem, "refused": refused})
		}
		return fillPage(s, c, http.StatusUnprocessableEntity, l, &w, fillView{
			Answers: answers, Refused: refused, Problem: problem, Typed: c.FormValue("name"),
		})
	}
	if len(refused) > 0 {
		return again(
			tooFew(len(refused)),
		)
	}
	sent := st.Sent(answers)
	if w.desk != nil {
		return fillPart(s, c, l, &w, sent, said, again)
	}
	to, err := keepFilled(s, c, l, &w, sent, said)
	switch {
	case store.Said(err):
		return err
	case err != nil:
		return again(frame.Sentence(err.Error()))
	}
	return sentTo(c, to)
}

// tooFew says how many answers are missing or refused.
func tooFew(n int) string {
	if n == 1 {
		return "One answer is missing or refused."
	}
	return fmt.Sprintf("%d answers are missing or refused.", n)
}

// sentTo leads to what comes after sending.
func sentTo(c *echo.Context, to string) error {
	if strings.Contains(c.Request().Header.Get("Accept"), "application/json") {
		return c.JSON(http.StatusOK, map[string]string{"to": to})
	}
	return c.Redirect(http.StatusSeeOther, to)
}

// fillPart puts the part of somebody who signs into the form; then they sign at their desk.
func fillPart(
	s *frame.Frame,
	c *echo.Context,
	l store.FormLink,
	w *webForm,
	sent map[string]string,
	said string,
	again func(string) error,
) error {
	switch err := signing.FillIn(c.Request().Context(), s, *w.desk, fill.Typed(&w.form, sent)); {
	case store.Said(err):
		return err
	case err != nil:
		return again(frame.Sentence(err.Error()))
	}
	return sentTo(c, frame.LinkPath+l.Token+"?"+url.Values{"pass": {said}}.Encode()+"#signhere")
}

// typedIn are the answers that a page sends: all in one, or each by itself where no script runs.
func typedIn(c *echo.Context, w *webForm) map[string]string {
	out := map[string]string{}
	if all := c.FormValue("answers"); all != "" && len(all) <= mostAnswers && json.Unmarshal([]byte(all), &out) == nil {
		return out
	}
	_, _ = c.MultipartForm()
	values := c.Request().PostForm
	if m := c.Request().MultipartForm; m != nil {
		values = m.Value
	}
	for _, f := range w.form.Placed() {
		out[f.Name] = strings.Join(values["a."+f.Name], "\n")
	}
	return out
}

// keepFilled keeps a form that was filled in, with a copy as PDF, and gives the address of the page that says so.
func keepFilled(s *frame.Frame, c *echo.Context, l store.FormLink, w *webForm, sent map[string]string, said string) (string, error) {
	r := c.Request()
	ctx := r.Context()
	now := time.Now().UTC().Truncate(time.Second)
	pictures, files, err := enclosed(c, w)
	if err != nil {
		return "", err
	}
	body := map[string]any{"answers": sent, "edition": l.Number, "sent": now}
	var mark *write.Mark
	if places := w.signs(); len(places) > 0 &&
		(w.mustSign() || strings.TrimSpace(c.FormValue("name")) != "" && c.FormValue("agree") != "") {
		if c.FormValue("agree") == "" {
			return "", errors.New("say that you agree first: without that it is no signature")
		}
		m, how, err := signing.Marked(c, now)
		if err != nil {
			return "", err
		}
		mark = &m
		body["signed"] = map[string]string{
			"name":   m.Name,
			"by":     how,
			"at":     now.Format(time.RFC3339),
			"from":   frame.Sender(r),
			"agreed": agreedInForm,
		}
	}
	src, err := s.File(ctx, l.File)
	if err != nil {
		return "", err
	}
	pdf, err := fill.With(src, fill.Typed(&w.form, sent), fill.Options{Now: now, Force: true})
	if err == nil && len(pictures) > 0 {
		pdf, err = write.PicturesIn(pdf, pictures)
	}
	if err == nil && mark != nil {
		pdf, err = write.SignBy(pdf, w.signs(), *mark)
	}
	if err != nil {
		return "", err
	}
	target, err := s.Store.OpenInbox(ctx, l.Inbox)
	if err != nil {
		return "", err
	}
	b, err := json.Marshal(body)
	if err != nil {
		return "", err
	}
	read, err := s.Inbox.Read(ctx, target, returns.JSON, b, now)
	if err != nil {
		return "", err
	}
	u := read[0]
	u.Copy, u.Files = pdf, append(u.Files, files...)
	id, err := s.Store.Receive(ctx, store.Arrived{Target: target, Road: "web", Kind: returns.JSON, Bytes: b, Read: &u})
	if err != nil {
		return "", err
	}
	if err := s.Store.DropBegun(ctx, l.ID, strings.ToUpper(strings.TrimSpace(c.FormValue("code")))); err != nil {
		slog.Warn("what was begun is still kept", "link", l.ID, "error", err)
	}
	q := url.Values{"sent": {fmt.Sprint(id)}, "key": {receipt(l, id)}}
	if said != "" {
		q.Set("pass", said)
	}
	return frame.LinkPath + l.Token + "/fill?" + q.Encode(), nil
}

// enclosed are the pictures for the buttons that take one, by name, and the files that come with the answers.
func enclosed(c *echo.Context, w *webForm) (pictures map[string][]byte, files []store.Enclosed, err error) {
	pictures = map[string][]byte{}
	m := c.Request().MultipartForm
	if m == nil {
		return pictures, nil, nil
	}
	for key, all := range m.File {
		name, isField := strings.CutPrefix(key, "f.")
		if !isField && key != "more" {
			continue
		}
		for _, h := range all {
			if h.Size == 0 {
				continue
			}
			if len(files) >= mostFiles || h.Size > mostFile {
				return nil, nil, fmt.Errorf(
					"at most %d files of %d MB each can come with the form: choose fewer, or smaller ones",
					mostFiles,
					mostFile>>20,
				)
			}
			f, err := h.Open()
			if err != nil {
				return nil, nil, err
			}
			b, err := io.ReadAll(f)
			_ = f.Close()
			if err != nil {
				return nil, nil, err
			}
			i := slices.IndexFunc(w.form.Fields, func(f form.Field) bool { return f.Name == name && f.Placed() })
			if isField && i < 0 {
				continue
			}
			one := store.Enclosed{Name: returns.FileName(h.Filename), Bytes: b}
			if isField {
				one.Key = w.form.Fields[i].ID
				if w.form.Fields[i].Kind == form.Button {
					if err := write.CheckPicture(b); err != nil {
						return nil, nil, err
					}
					pictures[name] = bytes.Clone(b)
				}
			}
			files = append(files, one)
		}
	}
	return pictures, files, nil
}

// receipt is what shows that somebody has sent a return: without it nobody sees it by a link.
func receipt(l store.FormLink, id int64) string {
	mac := hmac.New(sha256.New, l.Secret)
	fmt.Fprintf(mac, "return %d", id)
	return base64.RawURLEncoding.EncodeToString(mac.Sum(nil)[:18])
}

// received reads the return that somebody has sent by a link.
func received(s *frame.Frame, c *echo.Context, number string) (l store.FormLink, r store.Return, err error) {
	h := c.Response().Header()
	h.Set("Referrer-Policy", "no-referrer")
	ctx := c.Request().Context()
	if l, err = s.Store.FormLinkAt(ctx, c.Param("token")); err != nil {
		return l, r, err
	}
	id := int64(frame.Number(number, 0))
	if !hmac.Equal([]byte(receipt(l, id)), []byte(c.QueryParam("key"))) {
		return l, r, store.ErrMissing
	}
	if r, err = s.Store.Return(ctx, id); err == nil && (r.LinkID == nil || *r.LinkID != l.ID) {
		err = store.ErrMissing
	}
	return l, r, err
}

// sentPage says what was sent.
func sentPage(s *frame.Frame, c *echo.Context) error {
	l, r, err := received(s, c, c.QueryParam("sent"))
	if err != nil {
		return err
	}
	forms, err := s.Inbox.FormsOf(c.Request().Context(), l.DocumentID)
	if err != nil {
		return err
	}
	d := doneView{At: r.ReceivedAt, Number: r.ID}
	answers := r.Answers()
	for _, col := range forms.Columns {
		if v := answers[col.Key]; v != "" {
			d.Said = append(d.Said, [2]string{col.Label, strings.ReplaceAll(col.Shown(v), "\n", ", ")})
		}
	}
	if r.Copy != nil {
		d.Copy = fmt.Sprintf("%s%s/sent/%d?%s", frame.LinkPath, l.Token, r.ID, url.Values{"key": {c.QueryParam("key")}}.Encode())
	}
	return s.Render(
		c,
		http.StatusOK,
		"fillin",
		"page",
		fillView{Shell: s.Shell(c, l.Title, ""), Link: l, At: frame.LinkPath + l.Token, Done: &d},
	)
}

// SentCopy is a copy of what somebody has sent, as PDF: as it can be changed, or flattened.
func SentCopy(s *frame.Frame, c *echo.Context) error {
	l, r, err := received(s, c, c.Param("id"))
	if err != nil {
		return err
	}
	if r.Copy == nil {
		return store.ErrMissing
	}
	b, err := s.Store.File(c.Request().Context(), *r.Copy)
	if err != nil {
		return err
	}
	if c.QueryParam("flat") != "" {
		if b, err = fill.Flatten(b); err != nil {
			return err
		}
	}
	return frame.Download(c, frame.Slug(l.Title)+"-sent.pdf", "application/pdf", b)
}
