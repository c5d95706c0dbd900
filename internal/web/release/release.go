package release

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/pdf/engine"
	"zealousmargin.example/internal/pdf/fill"
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
	Fresh    *store.Edition  // just released
	Kept     []store.Edition // those whose form can go out again
	Problem  string
	Asked    form.Protection // as it was asked for last, without its passwords
	Notes    string
	Profile  form.Profile
	Profiles []form.Offer
	Again    int64
	Snags    []snags.Snag
	Serious  int
	Hold     []string // signatures that stay valid
	End      []string // those that a release ends
	Came     int      // back
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
		Tabs: frame.Tabs("release", d.Document.Doubtful), Asked: form.Protection{Fill: true, Print: true},
		Profiles: form.Profiles,
	}
	if v.Editions, err = s.Store.Editions(c.Request().Context(), id); err != nil {
		return v, err
	}
	for _, e := range v.Editions {
		if e.Kept {
			v.Kept = append(v.Kept, e)
		}
	}
	sums, err := s.Store.SumReturns(c.Request().Context(), id, time.Now())
	if err != nil {
		return v, err
	}
	v.Came = sums.All
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
		v.Profile = form.Profile(c.FormValue("profile"))
		if v.Notes, v.Again = c.FormValue("notes"), int64(frame.Number(c.FormValue("again"), 0)); c.FormValue("lock") != "" {
			v.Asked = protectionOf(c)
		}
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
	n := store.NewEdition{
		Document: id, Revision: d.Document.Revision, By: frame.Account(c).ID, Form: d.Template, Notes: c.FormValue("notes"),
		Name: func(n int) string { return fmt.Sprintf("%s-edition-%d.pdf", frame.Slug(d.Document.Title), n) },
	}
	if again := int64(frame.Number(c.FormValue("again"), 0)); again != 0 {
		if err := fromEdition(ctx, s, &n, again); err != nil {
			return store.Edition{}, err
		}
	} else if err := mayGoOut(s, c, d); err != nil {
		return store.Edition{}, err
	}
	if n.Form.Details.Title == "" { // readers show the title in place of a file name
		n.Form.Details.Title = d.Document.Title
	}
	lock := protectionOf(c)
	if err := lock.Check(); err != nil {
		return store.Edition{}, frame.Refuse(fmt.Errorf("nothing was released: %w", err))
	}
	if lock.Locked() {
		n.Locked = lock.Sentence()
	}
	n.Profile = form.Profile(c.FormValue("profile"))
	if err := n.Profile.Check(); err != nil {
		return store.Edition{}, frame.Refuse(err)
	}
	if n.PDF, n.Proof, err = proved(ctx, s, &n.Form, n.Profile, lock); err != nil {
		return store.Edition{}, err
	}
	e, err := s.Store.Release(ctx, n)
	return e, frame.Refuse(err)
}

// protectionOf reads how the file is to be locked.
func protectionOf(c *echo.Context) form.Protection {
	p := form.Protection{Strength: form.Strength(c.FormValue("lock"))}
	if !p.Locked() {
		return p
	}
	may := func(what string) bool { return c.FormValue("may-"+what) != "" }
	p.Open, p.Owner = c.FormValue("open"), c.FormValue("owner")
	p.Fill, p.Print, p.Copy, p.Change, p.Comment = may("fill"), may("print"), may("copy"), may("change"), may("comment")
	return p
}

// fromEdition takes the form of an earlier edition in place of the draft.
func fromEdition(ctx context.Context, s *frame.Frame, n *store.NewEdition, id int64) error {
	from, err := s.Store.Edition(ctx, id)
	if err != nil {
		return err
	}
	if from.DocumentID != n.Document {
		return store.ErrMissing
	}
	n.Form, err = s.Store.EditionForm(ctx, id)
	n.Again, n.Revision = from.Number, from.Revision
	if errors.Is(err, store.ErrNotKept) {
		return frame.Refuse(err)
	}
	return err
}

// mayGoOut refuses a draft without fields, one with serious snags, and one that ends a signature, unless the person has said that it is to
// go out all the same.
func mayGoOut(s *frame.Frame, c *echo.Context, d store.Draft) error {
	ctx := c.Request().Context()
	if len(d.Template.Placed()) == 0 {
		return frame.Refuse(errors.New("this form has no fields yet: find or place some first"))
	}
	if c.FormValue("anyway") == "" {
		all, err := s.SnagsOf(ctx, d)
		if err != nil {
			return err
		}
		if i := slices.IndexFunc(all, func(x snags.Snag) bool { return x.Severity == snags.Serious }); i >= 0 {
			return frame.Refuse(
				fmt.Errorf("nothing was released: %s. Mend it, or say below that it is to go out all the same", all[i].Why),
			)
		}
	}
	if c.FormValue("unsigned") != "" {
		return nil
	}
	hold, end, err := write.Signatures(&d.Template, s.Sources(ctx))
	if c.FormValue("lock") != "" {
		end = append(end, hold...) // a locked file is written afresh
	}
	if err == nil && len(end) > 0 {
		err = frame.Refuse(fmt.Errorf("nothing was released: it would end %s. Say below that it may, or lay the pages as they came",
			strings.Join(wordsOf(end), ", and ")))
	}
	return err
}

// proved writes a form and locks it, and has what was written read and compared with it; the words say what was compared.
func proved(ctx context.Context, s *frame.Frame, t *form.Template, p form.Profile, lock form.Protection) (pdf []byte, words string,
	err error,
) {
	sources := s.Sources(ctx)
	base, draft, err := write.Base(t, sources)
	if err != nil {
		return nil, "", err
	}
	if draft.Pictures, err = s.ButtonPictures(ctx, draft); err != nil {
		return nil, "", err
	}
	out, err := write.Release(base, draft)
	if err != nil {
		return nil, "", frame.Refuse(err)
	}
	if err := proof.Pages(ctx, base, t, sources.File, sources.Text); err != nil {
		return nil, "", frame.Refuse(fmt.Errorf("nothing was released: %w", err))
	}
	compared, err := proof.Release(ctx, base, out, draft)
	whole, archived := out, ""
	switch {
	case err != nil:
	case p == form.PDF20:
		out, err = write.AsPDF20(out)
	case p == form.Accessible:
		out, err = tagged(ctx, out, t)
	case p == form.Flat:
		if out, err = fill.Still(out); err == nil && !lock.Locked() {
			out, archived, err = forArchive(out, draft.Details)
		}
	}
	if err == nil {
		err = proof.Profile(ctx, whole, out, p)
	}
	if err == nil && lock.Locked() {
		out, err = write.Protect(out, lock)
		switch {
		case err != nil:
		case p == form.Flat:
			_, err = proof.Locked(ctx, out, lock)
		case p == form.Accessible:
			_, err = proof.Locked(ctx, out, lock)
		default:
			compared, err = proof.Protected(ctx, base, out, draft, lock)
		}
	}
	if err != nil {
		return nil, "", frame.Refuse(fmt.Errorf("nothing was released: %w", err))
	}
	words = compared.Sentence()
	if p == form.Accessible {
		words += fmt.Sprintf(" Then it was tagged, and held to %d requirements of ISO 14289-1.", len(proof.Requirements))
	}
	if p == form.Flat {
		words += " Then its fields were made part of the pages, and it was read once more that none of them and no script is left."
		words += archived
	}
	return out, words, nil
}

// forArchive gives a flat form that says that it is PDF/A-2u when it is, and what keeps it from that when it is not.
func forArchive(flat []byte, d form.Details) (_ []byte, words string, err error) {
	out, err := write.AsArchive(flat, d)
	if err != nil {
		return nil, "", err
	}
	broken, err := proof.Archive(out)
	if err != nil {
		return nil, "", err
	}
	if len(broken) > 0 {
		return flat, fmt.Sprintf(" It is not PDF/A: %s.", broken[0].Error()), nil
	}
	return out, fmt.Sprintf(" It is PDF/A-2u, held to %d requirements of ISO 19005-2.", len(proof.Archived)), nil
}

// tagged tags a form by what another reader finds printed on its pages.
func tagged(ctx context.Context, b []byte, t *form.Template) ([]byte, error) {
	shows := map[int]string{}
	for i, p := range t.Pages {
		shows[i+1] = p.Shows
	}
	pages, err := engine.Printed(ctx, b)
	if err != nil {
		return nil, err
	}
	return write.Tagged(b, pages, shows)
}

func wordsOf(list []read.Signature) []string {
	var out []string
	for _, s := range list {
		out = append(out, s.Words())
	}
	return out
}
