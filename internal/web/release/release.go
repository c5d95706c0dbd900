package release

import (
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strings"

	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/pdf/proof"
	"zealousmargin.example/internal/pdf/read"
	"zealousmargin.example/internal/pdf/write"
	"zealousmargin.example/internal/snags"
	"zealousmargin.example/internal/store"
	"zealousmargin.example/internal/web/frame"
)

type releaseView struct {
	frame.Shell
	Doc      store.Document
	Tabs     []frame.Tab
	Kinds    []string // "14 text fields"
	LeftOut  int      // doubtful finds that are not part of the form
	Unkept   int      // finds that are, though nobody has looked at them
	Editions []store.Edition
	Fresh    *store.Edition // just released
	Problem  string
	Snags    []snags.Snag
	Serious  int
	Hold     []string // signatures that stay valid
	End      []string // those that a release ends
	Returns  []store.Return
	Inbox    store.InboxState
	At       string // the address that the answers come to; empty when nobody has asked for it
}

func gather(s *frame.Frame, c *echo.Context, id int64) (releaseView, error) {
	d, err := s.Store.Draft(c.Request().Context(), id)
	if err != nil {
		return releaseView{}, err
	}
	v := releaseView{
		Shell: s.Shell(c, "Release: "+d.Document.Title, "bench"), Doc: d.Document,
		Tabs: frame.Tabs("release", d.Document.Doubtful),
	}
	if v.Editions, err = s.Store.Editions(c.Request().Context(), id); err != nil {
		return v, err
	}
	if v.Returns, err = s.Store.Returns(c.Request().Context(), id); err != nil {
		return v, err
	}
	if v.Inbox, err = s.Store.InboxOf(c.Request().Context(), id); err != nil {
		return v, err
	}
	if v.Inbox.Path != "" {
		if v.At, err = s.Public(c.Request().Context()); err != nil {
			return v, err
		}
		v.At += frame.InboxPath + v.Inbox.Path
	}
	if v.Snags, err = s.SnagsOf(c.Request().Context(), d); err != nil {
		return v, err
	}
	for _, x := range v.Snags {
		if x.Severity == snags.Serious {
			v.Serious++
		}
	}
	hold, end, err := write.Signatures(&d.Template, s.Sources(c.Request().Context()))
	if err != nil {
		return v, err
	}
	v.Hold, v.End = wordsOf(hold), wordsOf(end)
	for i, s := range v.Hold {
		v.Hold[i] = strings.ToUpper(s[:1]) + s[1:]
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
		form.Text: {"text field", "text fields"}, form.CheckBox: {"check box", "check boxes"},
		form.Radio:  {"radio button", "radio buttons"},
		form.Choice: {"dropdown", "dropdowns"}, form.Signature: {"signature field", "signature fields"},
		form.Button: {"button", "buttons"},
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

func Show(s *frame.Frame, c *echo.Context) error {
	id, err := frame.IdOf(c)
	if err != nil {
		return err
	}
	v, err := gather(s, c, id)
	if err != nil {
		return err
	}
	return s.Render(c, http.StatusOK, "release", "page", v)
}

// Release writes the form, opens it again with another reader, compares it with
// the draft, and only then gives it a number and keeps it.
func Release(s *frame.Frame, c *echo.Context) error {
	id, err := frame.IdOf(c)
	if err != nil {
		return err
	}
	ed, err := writeEdition(s, c, id)
	if err != nil && !isProblem(err) {
		return err
	}
	v, verr := gather(s, c, id)
	if verr != nil {
		return verr
	}
	code := http.StatusOK
	if err != nil {
		code, v.Problem = http.StatusUnprocessableEntity, frame.Sentence(err.Error())
	} else {
		v.Fresh = &ed
	}
	return s.Render(c, code, "release", "page", v)
}

func isProblem(err error) bool {
	var p frame.Problem
	return errors.As(err, &p) || errors.Is(err, form.ErrClash)
}

func writeEdition(s *frame.Frame, c *echo.Context, id int64) (store.Edition, error) {
	ctx := c.Request().Context()
	d, err := s.Store.Draft(ctx, id)
	if err != nil {
		return store.Edition{}, err
	}
	placed := d.Template.Placed()
	if len(placed) == 0 {
		return store.Edition{}, frame.Refuse(errors.New("this form has no fields yet: find or place some first"))
	}
	if c.FormValue("anyway") == "" {
		all, err := s.SnagsOf(ctx, d)
		if err != nil {
			return store.Edition{}, err
		}
		if i := slices.IndexFunc(all, func(x snags.Snag) bool { return x.Severity == snags.Serious }); i >= 0 {
			return store.Edition{}, frame.Refuse(fmt.Errorf("nothing was released: %s. Mend it, or say below that it is to go out "+
				"all the same", all[i].Why))
		}
	}
	if _, end, err := write.Signatures(&d.Template, s.Sources(ctx)); err != nil {
		return store.Edition{}, err
	} else if len(end) > 0 && c.FormValue("unsigned") == "" {
		return store.Edition{}, frame.Refuse(fmt.Errorf("nothing was released: it would end %s. Say below that it may, or lay the pages "+
			"as they came", strings.Join(wordsOf(end), ", and ")))
	}
	if d.Template.Details.Title == "" { // readers show the title in place of a file name
		d.Template.Details.Title = d.Document.Title
	}
	base, draft, err := write.Base(&d.Template, s.Sources(ctx))
	if err != nil {
		return store.Edition{}, err
	}
	if draft.Pictures, err = s.ButtonPictures(ctx, draft); err != nil {
		return store.Edition{}, err
	}
	out, err := write.Release(base, draft)
	if err != nil {
		return store.Edition{}, frame.Refuse(err)
	}
	sources := s.Sources(ctx)
	if err := proof.Pages(ctx, base, &d.Template, sources.File, sources.Text); err != nil {
		return store.Edition{}, frame.Refuse(fmt.Errorf("nothing was released: %w", err))
	}
	compared, err := proof.Release(ctx, base, out, draft)
	if err != nil {
		return store.Edition{}, frame.Refuse(fmt.Errorf("nothing was released: %w", err))
	}
	return s.Store.Release(ctx, id, d.Document.Revision, frame.Account(c).ID, len(placed), out, compared.Sentence(), func(n int) string {
		return fmt.Sprintf("%s-edition-%d.pdf", frame.Slug(d.Document.Title), n)
	})
}

func wordsOf(list []read.Signature) []string {
	var out []string
	for _, s := range list {
		out = append(out, s.Words())
	}
	return out
}

func Edition(s *frame.Frame, c *echo.Context) error {
	id, err := frame.IdOf(c)
	if err != nil {
		return err
	}
	ctx := c.Request().Context()
	e, err := s.Store.Edition(ctx, id)
	if err != nil {
		return err
	}
	if c.Param("name") != e.FileName {
		return store.ErrMissing
	}
	b, err := s.Store.File(ctx, e.File)
	if err != nil {
		return err
	}
	s.Noted(ctx, frame.Account(c).ID, store.DeedDownload, e.FileName)
	return frame.Download(c, e.FileName, "application/pdf", b)
}
