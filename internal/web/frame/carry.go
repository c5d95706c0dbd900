package frame

import (
	"context"
	"time"

	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/command"
	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/web/ask"
)

// Asking is a request as package ask reads it, with what it names; that is read here, outside any
// transaction.
func (s *Frame) Asking(c *echo.Context, id int64) (r ask.Request, err error) {
	ctx := c.Request().Context()
	r = ask.Request{Value: c.FormValue, Unit: UnitOf(c)}
	if ask.AsksHere(c.FormValue("key")) {
		if r.Here, err = s.InboxURL(ctx, id); err != nil {
			return r, Refuse(err)
		}
	}
	if n := Number(c.FormValue("favourite"), 0); n > 0 {
		f, err := s.Store.Favourite(ctx, int64(n))
		if err != nil {
			return r, err
		}
		r.Called = f.Name
		if r.Favourite, err = f.Style(); err != nil {
			return r, err
		}
	}
	return r, nil
}

// Asked works out the commands that a request asks for.
type Asked func(t *form.Template) ([]command.Command, error)

// CarryOut carries commands out as one edit of a draft. What the commands go by (what is printed,
// the house style) is read first, outside the transaction.
func (s *Frame) CarryOut(ctx context.Context, id, base, by int64, stage string, reads bool, commands Asked) (form.Edit, error) {
	desk := command.Desk{Now: time.Now()}
	if reads {
		d, err := s.Store.Draft(ctx, id)
		if err != nil {
			return form.Edit{}, err
		}
		list, err := commands(&d.Template)
		if err != nil {
			return form.Edit{}, err
		}
		if desk, err = s.desk(ctx, &d.Template, list); err != nil {
			return form.Edit{}, err
		}
	}
	return s.Store.Change(ctx, id, base, by, stage, func(t *form.Template) (form.Edit, error) {
		list, err := commands(t)
		if err != nil {
			return form.Edit{}, err
		}
		d := desk
		d.Draft = t
		return d.Do(list...)
	})
}

// desk gathers what commands go by.
func (s *Frame) desk(ctx context.Context, t *form.Template, list []command.Command) (d command.Desk, err error) {
	d.Now = time.Now()
	if d.House, err = s.Store.House(ctx); err != nil {
		return d, err
	}
	if d.Words, err = s.Store.Dictionary(ctx); err != nil {
		return d, err
	}
	d.Pages = map[int]*evidence.Page{}
	for _, n := range command.Reads(t, list...) {
		if d.Pages[n], err = s.PageEvidence(ctx, t.Pages[n-1]); err != nil {
			return d, err
		}
	}
	return d, nil
}
