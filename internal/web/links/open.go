package links

import (
	"crypto/hmac"
	"crypto/sha256"
	"encoding/base64"
	"encoding/binary"
	"errors"
	"fmt"
	"log/slog"
	"net/http"
	"net/url"
	"slices"
	"strings"
	"time"

	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/returns"
	"zealousmargin.example/internal/roster"
	"zealousmargin.example/internal/store"
	"zealousmargin.example/internal/web/frame"
	"zealousmargin.example/internal/web/release"
	"zealousmargin.example/internal/web/signing"
)

// passLife is how long a passcode that was said is good for.
const passLife = 2 * time.Hour

// pass is what stands in a page in place of the passcode that was said: until when it is good, signed. No cookie is set, so that the page
// works in a frame of another site, too.
func pass(l store.FormLink, until time.Time) string {
	b := binary.BigEndian.AppendUint64(nil, uint64(until.Unix()))
	mac := hmac.New(sha256.New, l.Secret)
	mac.Write(b)
	return base64.RawURLEncoding.EncodeToString(mac.Sum(b))
}

func passes(l store.FormLink, said string, now time.Time) bool {
	if l.Passcode == "" {
		return true
	}
	b, err := base64.RawURLEncoding.DecodeString(said)
	if err != nil || len(b) < 8 {
		return false
	}
	until := time.Unix(int64(binary.BigEndian.Uint64(b)), 0) //nolint:gosec // what was signed is a time
	return hmac.Equal([]byte(said), []byte(pass(l, until))) && now.Before(until)
}

type openView struct {
	frame.Shell
	Link    store.FormLink
	Ask     bool // for the passcode
	Pass    string
	Get     string // where the file is
	At      string // the address of the link
	Here    string // where the form is filled in; empty when it cannot be
	OnPages string // the same, on its pages
	Sent    bool
	Ended   string // why the link leads nowhere
	Thanks  string // for the last answer that it takes
	Problem string
}

// atLink reads the link that an address names, and says on its page why it leads nowhere; done tells that it has.
func atLink(s *frame.Frame, c *echo.Context) (l store.FormLink, v openView, done bool, err error) {
	h := c.Response().Header()
	h.Set("Referrer-Policy", "no-referrer") // the address is a secret
	h.Set("X-Robots-Tag", "noindex")
	l, err = s.Store.FormLinkAt(c.Request().Context(), c.Param("token"))
	v = openView{Shell: s.Shell(c, l.Title, ""), Link: l}
	if errors.Is(err, store.ErrMissing) {
		v.Title = "No form here"
		v.Ended = "There is no form at this address. Look whether all of it was copied, or ask the office that you have it from."
		return l, v, true, s.Render(c, http.StatusNotFound, "open", "page", v)
	}
	if err != nil {
		return l, v, false, err
	}
	if l.Frames != "" { // Content Security Policy Level 3, 6.4.2: it goes before the older header
		h.Del("X-Frame-Options")
		h.Set("Content-Security-Policy", strings.Replace(h.Get("Content-Security-Policy"), "frame-ancestors 'none'",
			"frame-ancestors 'self' "+l.Frames, 1))
		h.Del("Cross-Origin-Opener-Policy")
	}
	ended := l.Good(time.Now())
	switch { // the last answer that a link takes is thanked for, too
	case !errors.Is(ended, store.ErrUsedUp):
	case c.Request().Method == http.MethodGet && c.QueryParam("sent") != "":
		v.Thanks = "Your form has arrived. Thank you."
	case l.Personal() && l.Answered != nil:
		v.Thanks = "Your form arrived on " + l.Answered.Local().Format("2 January 2006") + ". Thank you."
	}
	if v.Thanks != "" {
		return l, v, true, s.Render(c, http.StatusOK, "open", "page", v)
	}
	if ended != nil {
		v.Ended = frame.Sentence(ended.Error())
		return l, v, true, s.Render(c, http.StatusGone, "open", "page", v)
	}
	return l, v, false, nil
}

// deskOf is the desk of whoever signs by a link; [store.ErrMissing] when nobody does.
func deskOf(s *frame.Frame, c *echo.Context, l store.FormLink, said string) (signing.Desk, error) {
	ctx := c.Request().Context()
	g, signer, err := s.Store.SigningOf(ctx, l.ID)
	d := signing.Desk{
		Signing: g, Signer: signer, At: frame.LinkPath + l.Token, Pass: said, Query: "?" + url.Values{"pass": {said}}.Encode(),
		Knows: func(said string) (bool, error) { return s.Store.KnowsPasscode(ctx, l, said) },
	}
	return d, err
}

// Open shows the page that a link leads to.
func Open(s *frame.Frame, c *echo.Context) error {
	l, v, done, err := atLink(s, c)
	if err != nil || done {
		return err
	}
	if err := s.Store.OpenLink(c.Request().Context(), l.ID); err != nil {
		return err
	}
	return openPage(s, c, http.StatusOK, v, c.QueryParam("pass"))
}

func openPage(s *frame.Frame, c *echo.Context, code int, v openView, said string) error {
	if v.Ask = !passes(v.Link, said, time.Now()); !v.Ask && v.Link.Passcode != "" {
		v.Pass = said
		switch d, err := deskOf(s, c, v.Link, said); {
		case err == nil:
			return signing.Page(s, c, code, d, v.Problem)
		case !errors.Is(err, store.ErrMissing):
			return err
		}
	}
	q := url.Values{}
	for key, all := range c.QueryParams() {
		if key != "sent" && key != "pass" {
			q[key] = all
		}
	}
	if v.Pass != "" {
		q.Set("pass", v.Pass)
	}
	v.At = frame.LinkPath + v.Link.Token
	v.Get = v.At + "/form.pdf"
	if fillableHere(v.Link) {
		v.Here = v.At + "/fill"
	}
	if len(q) > 0 {
		v.Get += "?" + q.Encode()
		if v.Here != "" {
			v.Here += "?" + q.Encode()
		}
	}
	q.Set("as", "pages")
	v.OnPages = v.At + "/fill?" + q.Encode()
	v.Sent = c.QueryParam("sent") != ""
	return s.Render(c, code, "open", "page", v)
}

// errPasscode is said to whoever says another passcode.
var errPasscode = errors.New("that is not the passcode: type it as the office has told it to you")

// Send takes the passcode of a link, or a form that comes back by it.
func Send(s *frame.Frame, c *echo.Context) error {
	l, v, done, err := atLink(s, c)
	if err != nil || done {
		return err
	}
	r := c.Request()
	ctx := r.Context()
	if !strings.HasPrefix(r.Header.Get("Content-Type"), "multipart/") {
		if err := s.Tries.Turn("link "+l.Token, frame.Sender(r), time.Now()); err != nil {
			return err
		}
		known, err := s.Store.KnowsPasscode(ctx, l, c.FormValue("passcode"))
		if err != nil {
			return err
		}
		if !known {
			v.Problem = frame.Sentence(errPasscode.Error())
			return openPage(s, c, http.StatusUnprocessableEntity, v, "")
		}
		s.Tries.Good("link " + l.Token)
		return openPage(s, c, http.StatusOK, v, pass(l, time.Now().Add(passLife)))
	}
	turn, err := s.Answers.Turn(ctx, l.Token, frame.Sender(r), time.Now()) // before anything of the file is read
	if err != nil {
		return err
	}
	defer turn()
	if !passes(l, c.FormValue("pass"), time.Now()) {
		v.Problem = "Say the passcode first."
		return openPage(s, c, http.StatusForbidden, v, "")
	}
	said := c.FormValue("pass")
	switch d, err := deskOf(s, c, l, said); {
	case err == nil:
		return signing.Do(s, c, d)
	case !errors.Is(err, store.ErrMissing):
		return err
	}
	switch err := take(s, c, l); {
	case store.Said(err):
		return err
	case err != nil:
		v.Problem = frame.Sentence(err.Error())
		return openPage(s, c, http.StatusUnprocessableEntity, v, said)
	}
	q := url.Values{"sent": {"1"}}
	if l.Passcode != "" {
		q.Set("pass", said)
	}
	return c.Redirect(http.StatusSeeOther, frame.LinkPath+l.Token+"?"+q.Encode())
}

// take keeps the form that was sent back.
func take(s *frame.Frame, c *echo.Context, l store.FormLink) error {
	name, b, err := frame.Upload(c, release.MaxReturn, "choose the file that you have filled in and saved")
	if err != nil {
		return err
	}
	if len(b) > release.MaxReturn {
		return fmt.Errorf("the file is larger than %d MB: send it without attachments", release.MaxReturn>>20)
	}
	if kind := returns.KindOf(b); !slices.Contains([]string{returns.PDF, returns.FDF, returns.XFDF, returns.Picture}, kind) {
		return errors.New(
			"this is neither the form, a PDF or a picture of it, nor its answers as FDF or XFDF: " +
				"choose the file that you have filled in and saved",
		)
	}
	ctx := c.Request().Context()
	target, err := s.Store.OpenInbox(ctx, l.Inbox)
	if err != nil {
		return err
	}
	return release.Keep(ctx, s, store.Arrived{Target: target, Road: "file", Name: name, Bytes: b})
}

// File gives the form that a link leads to.
func File(s *frame.Frame, c *echo.Context) error {
	l, v, done, err := atLink(s, c)
	if err != nil || done {
		return err
	}
	ctx := c.Request().Context()
	if !passes(l, c.QueryParam("pass"), time.Now()) {
		return openPage(s, c, http.StatusForbidden, v, "")
	}
	turn, err := s.Answers.Turn(ctx, "file "+l.Token, frame.Sender(c.Request()), time.Now())
	if err != nil {
		return err
	}
	defer turn()
	switch d, err := deskOf(s, c, l, c.QueryParam("pass")); {
	case err == nil:
		if err := s.Store.FetchLink(ctx, l.ID); err != nil {
			return err
		}
		return signing.File(s, c, d)
	case !errors.Is(err, store.ErrMissing):
		return err
	}
	with := roster.With{Today: time.Now(), Link: map[string]string{}}
	for key, all := range c.QueryParams() {
		with.Link[key] = all[0]
	}
	b, err := fileOf(ctx, s, l, with)
	if err != nil {
		slog.Error("a form was not given out", "link", l.ID, "error", err)
		return err
	}
	if err := s.Store.FetchLink(ctx, l.ID); err != nil {
		return err
	}
	return frame.Download(c, frame.Slug(l.Title)+".pdf", "application/pdf", b)
}
