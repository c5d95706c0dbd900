package web

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"net/http"

	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/pdf/object"
)

// maxReturn is how large answers may be, in bytes.
const maxReturn = 32 << 20

// inboxPath is where answers come in, from whoever has a form: nobody signs in for it, and no
// token of ours stands in a PDF.
const inboxPath = "/in/"

// inboxURL is the address to which the answers of a document are sent, as this application is
// reached now.
func (s *Frame) inboxURL(ctx context.Context, c *echo.Context, id int64) (string, error) {
	inbox, err := s.store.Inbox(ctx, id)
	scheme := "http"
	if c.IsTLS() || c.Request().Header.Get("X-Forwarded-Proto") == "https" {
		scheme = "https"
	}
	return fmt.Sprintf("%s://%s%s%s", scheme, c.Request().Host, inboxPath, inbox), err
}

// kindOfReturn looks at what came: some readers do not say what they send.
func kindOfReturn(b []byte) string {
	head := bytes.TrimLeft(b[:min(len(b), 1024)], " \r\n\t\xef\xbb\xbf")
	switch {
	case bytes.HasPrefix(head, []byte("%FDF-")):
		return "fdf"
	case bytes.HasPrefix(head, []byte("%PDF-")):
		return "pdf"
	case bytes.Contains(head, []byte("<xfdf")):
		return "xfdf"
	}
	return "data"
}

// receive keeps answers that a recipient has sent.
func (s *Frame) receive(c *echo.Context) error {
	b, err := object.Read(c.Request().Body, maxReturn)
	if err != nil {
		return problem{http.StatusRequestEntityTooLarge, fmt.Errorf("the answers are larger than %d MB: send them without attachments", maxReturn>>20)}
	}
	if len(b) == 0 {
		return refuse(errors.New("no answers came with this: press the button of the form that sends them"))
	}
	if err := s.store.Receive(c.Request().Context(), c.Param("inbox"), kindOfReturn(b), b); err != nil {
		return err
	}
	return c.HTML(http.StatusOK, "<!doctype html><title>Received</title><p>The answers have arrived. Thank you.</p>")
}

var returnTypes = map[string][2]string{"fdf": {"application/vnd.fdf", "fdf"}, "xfdf": {"application/vnd.adobe.xfdf", "xfdf"}, "pdf": {"application/pdf", "pdf"}, "data": {"text/plain; charset=utf-8", "txt"}}

// aReturn offers one set of answers as it came.
func (s *Frame) aReturn(c *echo.Context) error {
	id, err := idOf(c)
	if err != nil {
		return err
	}
	ctx := c.Request().Context()
	r, err := s.store.Return(ctx, id)
	if err != nil {
		return err
	}
	b, err := s.store.File(ctx, r.File)
	if err != nil {
		return err
	}
	t := returnTypes[r.Kind]
	return download(c, fmt.Sprintf("answers-%d.%s", r.ID, t[1]), t[0], b)
}
