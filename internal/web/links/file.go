package links

import (
	"context"
	"errors"
	"slices"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/pdf/fill"
	"zealousmargin.example/internal/roster"
	"zealousmargin.example/internal/store"
	"zealousmargin.example/internal/web/frame"
)

// edition is an edition that copies are made of: its file, read once, and its form with what the office fills in today.
type edition struct {
	prepared *fill.Form
	form     form.Template
}

// fillable reads an edition; nil when nothing is filled into it, since it is locked, flat, was
// released before forms were kept, or takes nothing from the office.
func fillable(ctx context.Context, s *frame.Frame, id, document int64, file string, locked bool, profile string) (*edition, error) {
	if locked || profile == string(form.Flat) {
		return nil, nil
	}
	t, err := s.Store.EditionForm(ctx, id)
	switch {
	case errors.Is(err, store.ErrNotKept):
		return nil, nil
	case err != nil:
		return nil, err
	}
	d, err := s.Store.Draft(ctx, document)
	if err != nil {
		return nil, err
	}
	e := &edition{}
	var takes bool
	if e.form, takes = roster.Overlaid(&t, &d.Template); !takes {
		return nil, nil
	}
	src, err := s.File(ctx, file)
	if err != nil {
		return nil, err
	}
	e.prepared, err = fill.Prepare(src)
	return e, err
}

// copyFor fills a copy in for whom a link leads there. What the address of a link says goes in, too; a link for everybody has no number.
func (e *edition) copyFor(l store.FormLink, with roster.With) fill.Copy {
	t := e.form
	unlessPersonal(&t, l)
	with.Edition, with.Serial = l.Number, l.Serial
	return e.prepared.For(&t, l.Person(), with, false)
}

// unlessPersonal leaves out what an open link cannot know: who it is, and a number.
func unlessPersonal(t *form.Template, l store.FormLink) {
	if l.Personal() {
		return
	}
	t.Fields = slices.Clone(t.Fields)
	for i := range t.Fields {
		if src := t.Fields[i].Source; src == form.FromSerial || src == form.FromPerson {
			t.Fields[i].Source = form.NoSource
		}
	}
}

// fileOf is the form as a link gives it: filled in with what the office knows, and with answers that come back by this link.
func fileOf(ctx context.Context, s *frame.Frame, l store.FormLink, with roster.With) ([]byte, error) {
	e, err := fillable(ctx, s, l.EditionID, l.DocumentID, l.File, l.Locked, l.Profile)
	if err != nil {
		return nil, err
	}
	var b []byte
	if e != nil {
		b = e.copyFor(l, with).PDF
	}
	if b == nil { // as it was released
		if b, err = s.File(ctx, l.File); err != nil {
			return nil, err
		}
	}
	if l.Locked || l.Profile == string(form.Flat) {
		return b, nil
	}
	inbox, err := s.Store.InboxOf(ctx, l.DocumentID)
	if err != nil || inbox.Path == "" {
		return b, err
	}
	at, err := s.Public(ctx)
	if err != nil {
		return nil, err
	}
	return fill.Readdress(b, at+frame.InboxPath+inbox.Path, at+frame.InboxPath+l.Inbox)
}

// address is where a link leads to.
func address(ctx context.Context, s *frame.Frame, token string) (string, error) {
	at, err := s.Reached(ctx)
	return at + frame.LinkPath + token, err
}
