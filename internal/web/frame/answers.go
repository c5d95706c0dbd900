package frame

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"log/slog"
	"mime"
	"net/http"
	"strings"
	"syscall"

	"github.com/labstack/echo/v5"
	"golang.org/x/text/unicode/norm"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/store"
)

// Shell is what every page shows around its content.
type Shell struct {
	Title   string
	Office  string
	Account store.Account
	CSRF    string
	Here    string // the room: "workroom", "bench"
	May     May    // what the person may do
}

func (s *Frame) Shell(c *echo.Context, title, here string) Shell {
	csrf, _ := c.Get("csrf").(string)
	a, _ := c.Get("account").(store.Account)
	office := s.office
	if _, name := s.settings(c.Request().Context()); name != "" {
		office = name
	}
	v := Shell{Title: title, Office: office, Account: a, CSRF: csrf, Here: here}
	if a.ID != 0 {
		v.May, _ = s.May(c) // what cannot be told is not offered
	}
	return v
}

// Render writes the named block of a page's template.
func (s *Frame) Render(c *echo.Context, code int, view, block string, data any) error {
	var b bytes.Buffer
	if err := s.views[view].ExecuteTemplate(&b, block, data); err != nil {
		return fmt.Errorf("template %s: %w", view, err)
	}
	c.Response().Header().Set("Cache-Control", "no-store")
	return c.HTMLBlob(code, b.Bytes())
}

// away is said while the database does not answer.
const away = "The office's database does not answer just now. What was saved is safe; try again in a moment."

// full is said where there is no room for what was to be kept.
const full = "There is no room left on the disk, so this was not saved. An administrator must make room: the upkeep page says what " +
	"is large."

// RequestID is under which a request keeps its number.
const RequestID = "request"

// ours is said of a fault of the application.
const ours = "Something went wrong on our side. Nothing was lost; try again in a moment."

// Fail answers an error: a sentence for a part of a page, a page otherwise.
func (s *Frame) Fail(c *echo.Context, err error) {
	if c.Request().Context().Err() != nil { // whoever asked has left, nobody reads the answer
		return
	}
	code, say := http.StatusInternalServerError, ours
	var he *echo.HTTPError
	var refused Problem
	switch {
	case errors.As(err, &refused):
		code, say = refused.code, refused.Error()
	case errors.Is(err, store.ErrMissing):
		code, say = http.StatusNotFound, store.ErrMissing.Error()
	case store.Full(err), errors.Is(err, syscall.ENOSPC):
		code, say = http.StatusInsufficientStorage, full
		slog.Error("the disk is full", "route", c.Path(), "request", c.Get(RequestID), "error", err)
	case store.Away(err):
		code, say = http.StatusServiceUnavailable, away
		c.Response().Header().Set("Retry-After", "5")
		slog.Error("the database does not answer", "route", c.Path(), "request", c.Get(RequestID), "error", err)
	case errors.Is(err, form.ErrClash):
		code, say = http.StatusConflict, form.ErrClash.Error()
	case errors.As(err, &he):
		code = he.Code
		if say = he.Message; code == http.StatusForbidden {
			say = "This page has been open for too long: load it again, then repeat the step."
		}
	default:
		var coder echo.HTTPStatusCoder
		if errors.As(err, &coder) {
			code, say = coder.StatusCode(), http.StatusText(coder.StatusCode())
		} else if !errors.Is(err, context.Canceled) && c.Request().Context().Err() == nil {
			slog.Error("request failed", "route", c.Path(), "request", c.Get(RequestID), "error", err)
			say = fmt.Sprintf("%s If it goes on, tell whoever runs the application the number %v.", say, c.Get(RequestID))
		}
	}
	say = Sentence(say)
	if c.Request().Header.Get("HX-Request") != "" || strings.Contains(c.Request().Header.Get("Accept"), "application/json") {
		_ = c.String(code, say)
		return
	}
	data := struct {
		Shell
		Say string
	}{s.Shell(c, "Sorry", ""), say}
	if err := s.Render(c, code, "sorry", "page", data); err != nil {
		_ = c.String(code, say)
	}
}

// Problem is an error that the person can do something about.
type Problem struct {
	code int
	error
}

// Refuse wraps what a person did wrong. What the database says is no fault of theirs.
func Refuse(err error) error {
	if err == nil || store.Said(err) || errors.Is(err, form.ErrClash) || errors.Is(err, store.ErrMissing) {
		return err
	}
	return Problem{http.StatusUnprocessableEntity, err}
}

func Sentence(s string) string {
	if s == "" {
		return s
	}
	s = strings.ToUpper(s[:1]) + s[1:]
	if !strings.HasSuffix(s, ".") && !strings.HasSuffix(s, "!") && !strings.HasSuffix(s, "?") {
		s += "."
	}
	return s
}

func Value(p *string) string {
	if p == nil {
		return ""
	}
	return *p
}

// IntakeView is an intake as the workroom and the pages room show it.
type IntakeView struct {
	store.Intake
	Look string // leads to the picture of the first page while the rest is still read
}

// Slug makes a title fit for a file name: "Antrag für Gäste" is "antrag-fur-gaste".
func Slug(title string) string {
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

// Download offers bytes as a file.
func Download(c *echo.Context, name, kind string, b []byte) error {
	h := c.Response().Header()
	h.Set("Content-Disposition", mime.FormatMediaType("attachment", map[string]string{"filename": name}))
	h.Set("Cache-Control", "private, no-cache")
	return c.Blob(http.StatusOK, kind, b)
}

// RefuseAs is [Refuse] with a status of its own.
func RefuseAs(code int, err error) error { return Problem{code, err} }
