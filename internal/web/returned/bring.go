package returned

import (
	"archive/zip"
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"mime/multipart"
	"net/http"
	"net/url"
	"slices"
	"strings"
	"time"

	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/pdf/fill"
	"zealousmargin.example/internal/pdf/object"
	"zealousmargin.example/internal/pdf/read"
	"zealousmargin.example/internal/returns"
	"zealousmargin.example/internal/store"
	"zealousmargin.example/internal/web/frame"
	"zealousmargin.example/internal/web/release"
)

// Limits of what is dropped in at once.
const (
	MaxBrought  = 128 << 20
	mostBrought = 2000
)

// tally counts what was dropped in.
type tally struct {
	in, later int
	refused   []string
}

func (t *tally) words() string {
	out := fmt.Sprintf("%d came in", t.in)
	if t.in == 1 {
		out = "One came in"
	}
	if t.later > 0 {
		out += fmt.Sprintf(", %d of them are still being read", t.later)
	}
	out += "."
	if len(t.refused) > 0 {
		out += " Not taken: " + strings.Join(t.refused[:min(5, len(t.refused))], "; ") + "."
	}
	return out
}

// Bring takes returns that came in another way: files, many or in a zip.
func Bring(s *frame.Frame, c *echo.Context) error {
	d, err := s.DocumentOf(c)
	if err != nil {
		return err
	}
	if d.ArchivedAt != nil {
		return frame.Refuse(errors.New("this document is archived: take it out of the archive first"))
	}
	m, err := c.MultipartForm()
	if err != nil || len(m.File["file"]) == 0 {
		return frame.Refuse(errors.New("choose the files that came back first"))
	}
	ctx := c.Request().Context()
	var t tally
	for _, h := range m.File["file"] {
		b, err := opening(h)
		if err != nil {
			return err
		}
		if err := t.bring(ctx, s, d.ID, returns.FileName(h.Filename), b, 0); err != nil {
			return release.Closed(err)
		}
	}
	return page(s, c, http.StatusOK, view{Said: t.words()})
}

func opening(h *multipart.FileHeader) ([]byte, error) {
	f, err := h.Open()
	if err != nil {
		return nil, err
	}
	defer f.Close()
	return object.Read(f, MaxBrought)
}

// bring keeps what came in one file.
func (t *tally) bring(ctx context.Context, s *frame.Frame, document int64, name string, b []byte, depth int) error {
	if t.in >= mostBrought {
		t.refused = append(t.refused, name+": there are too many at once")
		return nil
	}
	kind := returns.KindNamed(name, b)
	target := store.Target{Document: document}
	switch {
	case len(b) == 0:
		t.refused = append(t.refused, name+" is empty")
		return nil
	case kind == returns.Zip && depth == 0:
		return t.unpack(ctx, s, document, name, b)
	case len(b) > release.MaxReturn:
		t.refused = append(t.refused, fmt.Sprintf("%s is larger than %d MB", name, release.MaxReturn>>20))
		return nil
	}
	a := store.Arrived{Target: target, Road: roadOf(kind), Kind: kind, Name: name, Bytes: b}
	if kind == returns.PDF || kind == returns.Picture {
		if _, err := s.Store.Receive(ctx, a); err != nil {
			return err
		}
		t.in++
		t.later++
		return nil
	}
	all, err := s.Inbox.Read(ctx, target, kind, b, time.Now())
	if err != nil {
		return err
	}
	for i := range all {
		a.Read = &all[i]
		if a.Name = name; len(all) > 1 {
			a.Name = fmt.Sprintf("%s, %d", name, i+1)
		}
		if _, err := s.Store.Receive(ctx, a); err != nil {
			return err
		}
		t.in++
	}
	return nil
}

func roadOf(kind string) string {
	switch kind {
	case returns.PDF:
		return "file"
	case returns.Picture:
		return "paper"
	}
	return "data"
}

// unpack brings what is in a zip; what grows beyond its limits is refused.
func (t *tally) unpack(ctx context.Context, s *frame.Frame, document int64, name string, b []byte) error {
	z, err := zip.NewReader(bytes.NewReader(b), int64(len(b)))
	if err != nil {
		t.refused = append(t.refused, name+" is a damaged zip")
		return nil
	}
	left := int64(4 * MaxBrought)
	for _, f := range z.File {
		short := returns.FileName(f.Name)
		if f.FileInfo().IsDir() || strings.HasPrefix(short, ".") || strings.Contains(f.Name, "__MACOSX") {
			continue
		}
		if int64(f.UncompressedSize64) > release.MaxReturn ||
			left < int64(f.UncompressedSize64) { //nolint:gosec // what is larger is refused when it is read
			t.refused = append(t.refused, short+" is too large")
			continue
		}
		in, err := f.Open()
		if err != nil {
			t.refused = append(t.refused, short+" is damaged")
			continue
		}
		one, err := io.ReadAll(io.LimitReader(in, release.MaxReturn+1))
		_ = in.Close()
		if err != nil || len(one) > release.MaxReturn {
			t.refused = append(t.refused, short+" is damaged or too large")
			continue
		}
		left -= int64(len(one))
		if err := t.bring(ctx, s, document, short, one, 1); err != nil {
			return err
		}
	}
	return nil
}

// filled is an edition with answers in it; what its rules refuse stands in it all the same.
func filled(src []byte, t *form.Template, answers map[string]string) ([]byte, error) {
	all := fill.Typed(t, answers)
	prepared, err := fill.Prepare(src)
	if err != nil {
		return nil, err
	}
	for { // what a field cannot take at all is left out: it stands in the table
		b, err := prepared.With(all, fill.Options{Force: true})
		var one *fill.FieldError
		if !errors.As(err, &one) {
			return b, err
		}
		delete(all, one.Field)
	}
}

// Prefill fills an edition in from a file of answers: as a PDF to look at or to send on, or on a link, so that the recipient goes on with
// it.
func Prefill(s *frame.Frame, c *echo.Context) error {
	d, forms, err := formsOf(s, c)
	if err != nil {
		return err
	}
	ctx := c.Request().Context()
	name, b, err := frame.Upload(c, release.MaxReturn, "choose the file of answers first: CSV, XFDF or FDF")
	if err != nil {
		return frame.Refuse(err)
	}
	sets, err := read.Came(returns.KindNamed(name, b), b)
	if err != nil {
		return frame.Refuse(err)
	}
	if len(sets) > 1 {
		return frame.Refuse(fmt.Errorf("this file has %d sets of answers: take one with a single set", len(sets)))
	}
	number := frame.Number(c.FormValue("edition"), 0)
	if number == 0 {
		number, _ = returns.Match(sets[0].Named, forms.Editions)
	}
	t := forms.Form(number)
	if t == nil {
		return frame.Refuse(errors.New("no edition of this form asks what this file answers"))
	}
	got, err := returns.Read(t, sets[0].Legible(), time.Now())
	if err != nil {
		return frame.Refuse(err)
	}
	e := forms.Edition(number)
	if c.FormValue("to") == "link" {
		list, err := s.Store.FormLinks(ctx, e.ID)
		if err != nil {
			return err
		}
		i := slices.IndexFunc(list, func(l store.FormLink) bool { return !l.Personal() && l.Good(time.Now()) == nil })
		if i < 0 {
			return frame.Refuse(fmt.Errorf("there is no link for everybody to edition %d: make one first, under links", number))
		}
		code := store.NewCode()
		if err := s.Store.KeepBegun(ctx, list[i].ID, code, true, got.Values); err != nil {
			return err
		}
		at, err := s.Public(ctx)
		if err != nil {
			return err
		}
		return page(s, c, http.StatusOK, view{Said: fmt.Sprintf("Filled in, to be gone on with at %s%s%s/fill?%s",
			at, frame.LinkPath, list[i].Token, url.Values{"code": {code}}.Encode())})
	}
	src, err := s.File(ctx, e.File)
	if err != nil {
		return err
	}
	out, err := filled(src, t, got.Values)
	if err != nil {
		return frame.Refuse(err)
	}
	return frame.Download(c, frame.Slug(d.Title)+"-filled.pdf", "application/pdf", out)
}
