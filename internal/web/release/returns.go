package release

import (
	"bytes"
	"errors"
	"fmt"
	"net/http"
	"time"

	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/pdf/object"
	"zealousmargin.example/internal/store"
	"zealousmargin.example/internal/web/frame"
	"zealousmargin.example/internal/web/markup"
)

// MaxReturn is how large answers may be, in bytes.
const MaxReturn = 32 << 20

// KindOf looks at what came: some readers do not say what they send.
func KindOf(b []byte) string {
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

// Receive keeps answers that a recipient has sent.
func Receive(s *frame.Frame, c *echo.Context) error {
	r := c.Request()
	ctx := r.Context()
	away := func(err error) error { // the body is not read
		c.Response().Header().Set("Connection", "close")
		var ended *store.EndedError
		switch {
		case errors.Is(err, store.ErrClosed), errors.As(err, &ended):
			return frame.RefuseAs(http.StatusGone, err)
		case errors.Is(err, store.ErrFull):
			return frame.RefuseAs(http.StatusInsufficientStorage, err)
		}
		return err
	}
	if err := s.Store.OpenInbox(ctx, c.Param("inbox")); err != nil {
		return away(err)
	}
	done, err := s.Answers.Turn(ctx, c.Param("inbox"), frame.Sender(r), time.Now())
	if err != nil {
		return away(err)
	}
	defer done()
	b, err := object.Read(r.Body, MaxReturn)
	if err != nil {
		return frame.RefuseAs(http.StatusRequestEntityTooLarge,
			fmt.Errorf("the answers are larger than %d MB: send them without attachments", MaxReturn>>20))
	}
	if len(b) == 0 {
		return frame.Refuse(errors.New("no answers came with this: press the button of the form that sends them"))
	}
	if err := s.Store.Receive(ctx, c.Param("inbox"), KindOf(b), b); err != nil {
		return away(err)
	}
	return c.HTMLBlob(http.StatusOK, []byte(markup.Page("Received", "The answers have arrived. Thank you.")))
}

// SetInbox closes, opens or changes where the answers of a document come to.
func SetInbox(s *frame.Frame, c *echo.Context) error {
	id, err := frame.IdOf(c)
	if err != nil {
		return err
	}
	ctx := c.Request().Context()
	switch c.FormValue("do") {
	case "close", "open":
		err = s.Store.CloseInbox(ctx, id, c.FormValue("do") == "close")
	case "new":
		err = s.Store.NewInbox(ctx, id)
	default:
		err = frame.Refuse(errors.New("an address for answers can be closed, opened or changed"))
	}
	if err != nil {
		return err
	}
	return c.Redirect(http.StatusSeeOther, fmt.Sprintf("/documents/%d/release#returns", id))
}

var returnTypes = map[string][2]string{
	"fdf": {"application/vnd.fdf", "fdf"}, "xfdf": {"application/vnd.adobe.xfdf", "xfdf"},
	"pdf": {"application/pdf", "pdf"}, "data": {"text/plain; charset=utf-8", "txt"},
}

// AReturn offers one set of answers as it came.
func AReturn(s *frame.Frame, c *echo.Context) error {
	id, err := frame.IdOf(c)
	if err != nil {
		return err
	}
	ctx := c.Request().Context()
	r, err := s.Store.Return(ctx, id)
	if err != nil {
		return err
	}
	b, err := s.Store.File(ctx, r.File)
	if err != nil {
		return err
	}
	t := returnTypes[r.Kind]
	return frame.Download(c, fmt.Sprintf("answers-%d.%s", r.ID, t[1]), t[0], b)
}
