package frame

import (
	"cmp"
	"context"
	"fmt"
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

// inboxURL is the address to which the answers of a document are sent, as this application is
// reached now.
func (s *Frame) inboxURL(ctx context.Context, c *echo.Context, id int64) (string, error) {
	inbox, err := s.Store.Inbox(ctx, id)
	scheme := "http"
	if c.IsTLS() || c.Request().Header.Get("X-Forwarded-Proto") == "https" {
		scheme = "https"
	}
	return fmt.Sprintf("%s://%s%s%s", scheme, c.Request().Host, InboxPath, inbox), err
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
