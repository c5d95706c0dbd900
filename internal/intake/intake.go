// Package intake turns what lies on the desk into a document to work on. Today
// that is a PDF; the limits and the reasons for refusal are here.
package intake

import (
	"errors"
	"fmt"
	"path"
	"strings"
	"unicode"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/pdf"
)

// Limits of one file.
const (
	MaxBytes = 64 << 20
	MaxPages = 1000
)

// Result is a file made ready.
type Result struct {
	Title  string
	Pages  []form.Page
	Source []byte // the file to write fields into
	Notice string // what the person should know about it
}

// Read looks a file over, page by page, and tells how far it is. The error says
// why the file is refused and what to do; nothing is kept then.
func Read(name string, b []byte, step func(what string, done, total int)) (Result, error) {
	if len(b) == 0 {
		return Result{}, errors.New("this file is empty: choose another, or ask for it again")
	}
	if len(b) > MaxBytes {
		return Result{}, fmt.Errorf("this file has %d MB, the limit is %d MB: bring in a smaller one, or split it", len(b)>>20, MaxBytes>>20)
	}
	step("looking it over", 0, 1)
	h, err := pdf.Check(b)
	if err != nil {
		return Result{}, firstReason(err)
	}
	if len(h.Pages) > MaxPages {
		return Result{}, fmt.Errorf("this file has %d pages, the limit is %d: split it", len(h.Pages), MaxPages)
	}
	d, err := pdf.Open(h.Bytes)
	if err != nil {
		return Result{}, firstReason(err)
	}
	defer d.Close()
	for n := range h.Pages {
		step(fmt.Sprintf("reading page %d of %d", n+1, len(h.Pages)), n, len(h.Pages))
		if _, err := d.Render(n+1, 0.1); err != nil {
			return Result{}, fmt.Errorf("page %d cannot be drawn: %w", n+1, pdf.ErrDamaged)
		}
	}
	step("read", len(h.Pages), len(h.Pages))
	var notices []string
	if h.Repaired {
		notices = append(notices, "The file was damaged and has been repaired; the original is kept.")
	}
	switch {
	case h.Fields == 1:
		notices = append(notices, "It has one field of its own, which stays as it is.")
	case h.Fields > 1:
		notices = append(notices, fmt.Sprintf("It has %d fields of its own; they stay as they are.", h.Fields))
	}
	return Result{Title: TitleOf(name), Pages: h.Pages, Source: h.Bytes, Notice: strings.Join(notices, " ")}, nil
}

// firstReason gives the reason in the words for people, without a parser's detail.
func firstReason(err error) error {
	for _, reason := range []error{pdf.ErrNotPDF, pdf.ErrEncrypted, pdf.ErrNoPages, pdf.ErrDamaged} {
		if errors.Is(err, reason) {
			return reason
		}
	}
	return err
}

// TitleOf makes a title of a file name: "berth-application.pdf" is "Berth application".
func TitleOf(name string) string {
	base := path.Base(strings.ReplaceAll(name, `\`, "/"))
	base = strings.TrimSuffix(base, path.Ext(base))
	base = strings.Join(strings.FieldsFunc(base, func(r rune) bool { return r == '-' || r == '_' || unicode.IsSpace(r) }), " ")
	if base == "" || base == "." || base == "/" {
		return "Document without a name"
	}
	r := []rune(base)
	r[0] = unicode.ToUpper(r[0])
	return string(r)
}
