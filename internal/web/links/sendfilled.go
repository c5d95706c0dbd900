package links

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"maps"
	"net/http"
	"net/url"
	"slices"
	"strings"
	"time"

	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/pdf/fill"
	"zealousmargin.example/internal/pdf/write"
	"zealousmargin.example/internal/questions"
	"zealousmargin.example/internal/returns"
	"zealousmargin.example/internal/store"
	"zealousmargin.example/internal/web/frame"
	"zealousmargin.example/internal/web/signing"
)

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
