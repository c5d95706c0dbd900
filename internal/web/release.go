package web

import (
	"context"
	"errors"
	"fmt"
	"mime"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/labstack/echo/v5"
	"golang.org/x/text/unicode/norm"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/pdf/proof"
	"zealousmargin.example/internal/pdf/write"
	"zealousmargin.example/internal/snags"
	"zealousmargin.example/internal/store"
)

type releaseView struct {
	shell
	Doc      store.Document
	Tabs     []tab
	Kinds    []string // "14 text fields"
	LeftOut  int      // doubtful finds that are not part of the form
	Unkept   int      // finds that are, though nobody has looked at them
	Editions []store.Edition
	Fresh    *store.Edition // just released
	Problem  string
	Snags    []snags.Snag
	Serious  int
	Returns  []store.Return
}

func (s *Frame) releaseView(c *echo.Context, id int64) (releaseView, error) {
	d, err := s.store.Draft(c.Request().Context(), id)
	if err != nil {
		return releaseView{}, err
	}
	v := releaseView{shell: s.shell(c, "Release: "+d.Document.Title, "bench"), Doc: d.Document, Tabs: tabs("release", d.Document.Doubtful)}
	if v.Editions, err = s.store.Editions(c.Request().Context(), id); err != nil {
		return v, err
	}
	if v.Returns, err = s.store.Returns(c.Request().Context(), id); err != nil {
		return v, err
	}
	if v.Snags, err = s.snagsOf(c.Request().Context(), d); err != nil {
		return v, err
	}
	for _, x := range v.Snags {
		if x.Severity == snags.Serious {
			v.Serious++
		}
	}
	n := map[form.Kind]int{}
	for _, f := range d.Template.Fields {
		switch {
		case !f.Placed():
			v.LeftOut++
			continue
		case f.OpenFind():
			v.Unkept++
		}
		n[f.Kind]++
	}
	words := map[form.Kind][2]string{
		form.Text: {"text field", "text fields"}, form.CheckBox: {"check box", "check boxes"}, form.Radio: {"radio button", "radio buttons"},
		form.Choice: {"dropdown", "dropdowns"}, form.Signature: {"signature field", "signature fields"}, form.Button: {"button", "buttons"},
	}
	for _, k := range form.Kinds {
		switch n[k] {
		case 0:
		case 1:
			v.Kinds = append(v.Kinds, "1 "+words[k][0])
		default:
			v.Kinds = append(v.Kinds, fmt.Sprintf("%d %s", n[k], words[k][1]))
		}
	}
	return v, nil
}

func (s *Frame) releasePage(c *echo.Context) error {
	id, err := idOf(c)
	if err != nil {
		return err
	}
	v, err := s.releaseView(c, id)
	if err != nil {
		return err
	}
	return s.render(c, http.StatusOK, "release", "page", v)
}

// snagsOf looks a draft through.
func (s *Frame) snagsOf(ctx context.Context, d store.Draft) ([]snags.Snag, error) {
	pages, err := s.evidenceOf(ctx, d.Template)
	if err != nil {
		return nil, err
	}
	t := d.Template
	if t.Details.Title == "" { // a release gives it the document's
		t.Details.Title = d.Document.Title
	}
	return snags.Find(&t, pages, time.Now()), nil
}

// release writes the form, opens it again with another reader, compares it with
// the draft, and only then gives it a number and keeps it.
func (s *Frame) release(c *echo.Context) error {
	id, err := idOf(c)
	if err != nil {
		return err
	}
	ed, err := s.writeEdition(c, id)
	if err != nil && !isProblem(err) {
		return err
	}
	v, verr := s.releaseView(c, id)
	if verr != nil {
		return verr
	}
	code := http.StatusOK
	if err != nil {
		code, v.Problem = http.StatusUnprocessableEntity, sentence(err.Error())
	} else {
		v.Fresh = &ed
	}
	return s.render(c, code, "release", "page", v)
}

func isProblem(err error) bool {
	var p problem
	return errors.As(err, &p) || errors.Is(err, form.ErrClash)
}

func (s *Frame) writeEdition(c *echo.Context, id int64) (store.Edition, error) {
	ctx := c.Request().Context()
	d, err := s.store.Draft(ctx, id)
	if err != nil {
		return store.Edition{}, err
	}
	placed := d.Template.Placed()
	if len(placed) == 0 {
		return store.Edition{}, refuse(errors.New("this form has no fields yet: find or place some first"))
	}
	if c.FormValue("anyway") == "" {
		all, err := s.snagsOf(ctx, d)
		if err != nil {
			return store.Edition{}, err
		}
		if i := slices.IndexFunc(all, func(x snags.Snag) bool { return x.Severity == snags.Serious }); i >= 0 {
			return store.Edition{}, refuse(fmt.Errorf("nothing was released: %s. Mend it, or say below that it is to go out all the same", all[i].Why))
		}
	}
	if d.Template.Details.Title == "" { // readers show the title in place of a file name
		d.Template.Details.Title = d.Document.Title
	}
	base, draft, err := write.Base(&d.Template, s.sources(ctx))
	if err != nil {
		return store.Edition{}, err
	}
	if draft.Pictures, err = s.buttonPictures(ctx, draft); err != nil {
		return store.Edition{}, err
	}
	out, err := write.Release(base, draft)
	if err != nil {
		return store.Edition{}, refuse(err)
	}
	sources := s.sources(ctx)
	if err := proof.Pages(base, &d.Template, sources.File, sources.Text); err != nil {
		return store.Edition{}, refuse(fmt.Errorf("nothing was released: %w", err))
	}
	compared, err := proof.Release(base, out, draft)
	if err != nil {
		return store.Edition{}, refuse(fmt.Errorf("nothing was released: %w", err))
	}
	return s.store.Release(ctx, id, d.Document.Revision, account(c).ID, len(placed), out, compared.Sentence(), func(n int) string {
		return fmt.Sprintf("%s-edition-%d.pdf", slug(d.Document.Title), n)
	})
}

// slug makes a title fit for a file name: "Antrag für Gäste" is "antrag-fur-gaste".
func slug(title string) string {
	var b strings.Builder
	gap := false
	for _, r := range norm.NFD.String(strings.ToLower(title)) {
		switch {
		case r >= 'a' && r <= 'z', r >= '0' && r <= '9':
			if gap && b.Len() > 0 {
				b.WriteByte('-')
			}
			gap = false
			b.WriteRune(r)
		case r > 0x2ff && r < 0x370: // a mark that belongs to the letter before it
		default:
			gap = true
		}
	}
	if b.Len() == 0 {
		return "form"
	}
	return b.String()
}

func (s *Frame) edition(c *echo.Context) error {
	id, err := idOf(c)
	if err != nil {
		return err
	}
	ctx := c.Request().Context()
	e, err := s.store.Edition(ctx, id)
	if err != nil {
		return err
	}
	if c.Param("name") != e.FileName {
		return store.ErrMissing
	}
	b, err := s.store.File(ctx, e.File)
	if err != nil {
		return err
	}
	return download(c, e.FileName, "application/pdf", b)
}

// download offers bytes as a file.
func download(c *echo.Context, name, kind string, b []byte) error {
	h := c.Response().Header()
	h.Set("Content-Disposition", mime.FormatMediaType("attachment", map[string]string{"filename": name}))
	h.Set("Cache-Control", "private, no-cache")
	return c.Blob(http.StatusOK, kind, b)
}
