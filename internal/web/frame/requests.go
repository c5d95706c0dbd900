package frame

import (
	"cmp"
	"context"
	"errors"
	"slices"
	"strconv"

	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/store"
	"zealousmargin.example/internal/web/ask"
)

func Number(s string, otherwise int) int { return ask.Number(s, otherwise) }

// Chosen is the ids that a request names.
func Chosen(c *echo.Context) []string { return ask.Strings(c.FormValue("ids")) }

func StageOf(c *echo.Context) string {
	k := c.FormValue("stage")
	if !slices.Contains(BenchStages, k) {
		return "fit"
	}
	return cmp.Or(k, "fit")
}

func Account(c *echo.Context) store.Account {
	a, _ := c.Get("account").(store.Account)
	return a
}

// UnitOf is the unit that a person wants to see: what their browser keeps, points otherwise.
func UnitOf(c *echo.Context) string {
	if k, err := c.Cookie("zm_unit"); err == nil && form.Units[k.Value] > 0 {
		return k.Value
	}
	return "pt"
}

// InboxPath is where answers come in, from whoever has a form: nobody signs in for it, and no
// token of ours stands in a PDF.
const InboxPath = "/in/"

// LinkPath is where the links lead that people without an account have.
const LinkPath = "/f/"

// InboxURL is the address to which the answers of a document are sent: at the address that the office has set, never at
// one that a request names.
func (s *Frame) InboxURL(ctx context.Context, id int64) (string, error) {
	at, err := s.Reached(ctx)
	if err != nil {
		return "", err
	}
	inbox, err := s.Store.Inbox(ctx, id)
	return at + InboxPath + inbox, err
}

// Reached is [Frame.Public], and refuses where nobody has said it.
func (s *Frame) Reached(ctx context.Context) (string, error) {
	at, err := s.Public(ctx)
	if err == nil && at == "" {
		err = Refuse(errors.New("say first at which address this office is reached from outside, in the settings"))
	}
	return at, err
}

// Public is the address at which the office is reached from outside; empty when nobody has said it.
func (s *Frame) Public(ctx context.Context) (string, error) {
	at, err := s.Store.Setting(ctx, store.PublicAddress)
	if at == "" && s.reached != nil {
		at = s.reached()
	}
	return at, err
}

func IdOf(c *echo.Context) (int64, error) {
	id, err := strconv.ParseInt(c.Param("id"), 10, 64)
	if err != nil {
		return 0, store.ErrMissing
	}
	return id, nil
}

// DocumentOf reads the document that a request is about.
func (s *Frame) DocumentOf(c *echo.Context) (store.Document, error) {
	id, err := IdOf(c)
	if err != nil {
		return store.Document{}, err
	}
	return s.Store.Document(c.Request().Context(), id)
}

// DraftOf reads the draft that the address names.
func (s *Frame) DraftOf(c *echo.Context) (store.Draft, error) {
	id, err := IdOf(c)
	if err != nil {
		return store.Draft{}, err
	}
	return s.Store.Draft(c.Request().Context(), id)
}
