package release

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"io"
	"net/http"
	"os"
	"time"

	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/pdf/object"
	"zealousmargin.example/internal/returns"
	"zealousmargin.example/internal/store"
	"zealousmargin.example/internal/web/frame"
	"zealousmargin.example/internal/web/markup"
)

// MaxReturn is how large answers may be, in bytes.
const MaxReturn = 32 << 20

// Receive keeps answers that a recipient has sent. It is answered when they are committed.
func Receive(s *frame.Frame, c *echo.Context) error {
	r := c.Request()
	ctx := r.Context()
	away := func(err error) error { // the body is not read
		c.Response().Header().Set("Connection", "close")
		return Closed(err)
	}
	target, err := s.Store.OpenInbox(ctx, c.Param("inbox"))
	if err != nil {
		return away(err)
	}
	if err := s.Answers.May(c.Param("inbox"), frame.Sender(r), time.Now()); err != nil {
		return away(err)
	}
	b, done, err := body(ctx, s, r)
	if err != nil {
		return err
	}
	defer done()
	if len(b) == 0 {
		return frame.Refuse(errors.New("no answers came with this: press the button of the form that sends them"))
	}
	road := "button"
	if target.Link != nil {
		road = "link"
	}
	if err := Keep(ctx, s, store.Arrived{Target: target, Road: road, Bytes: b}); err != nil {
		return Closed(err)
	}
	return c.HTMLBlob(http.StatusOK, []byte(markup.Page("Received", "The answers have arrived. Thank you.")))
}

// Keep keeps what came back, read where that is quickly done.
func Keep(ctx context.Context, s *frame.Frame, a store.Arrived) error {
	var err error
	a.Kind = returns.KindOf(a.Bytes)
	if a.Read, err = s.Inbox.AtOnce(ctx, a.Target, a.Kind, a.Bytes); err != nil {
		return err
	}
	_, err = s.Store.Receive(ctx, a)
	return err
}

// Closed says with the right status why answers are not taken.
func Closed(err error) error {
	var ended *store.EndedError
	switch {
	case errors.Is(err, store.ErrClosed), errors.As(err, &ended):
		return frame.RefuseAs(http.StatusGone, err)
	case errors.Is(err, store.ErrFull):
		return frame.RefuseAs(http.StatusInsufficientStorage, err)
	}
	return err
}

// body reads answers: small ones at once, others by way of the disk, so that whoever sends slowly holds no memory.
func body(ctx context.Context, s *frame.Frame, r *http.Request) (b []byte, done func(), err error) {
	tooLarge := frame.RefuseAs(http.StatusRequestEntityTooLarge,
		fmt.Errorf("the answers are larger than %d MB: send them without attachments", MaxReturn>>20))
	var in io.Reader = r.Body
	if n := r.ContentLength; n < 0 || n > frame.SmallAnswer {
		f, err := os.CreateTemp("", "answers-*")
		if err != nil {
			return nil, nil, err
		}
		defer func() { _ = errors.Join(f.Close(), os.Remove(f.Name())) }()
		if _, err := io.Copy(f, r.Body); err != nil {
			return nil, nil, tooLarge
		}
		if _, err := f.Seek(0, io.SeekStart); err != nil {
			return nil, nil, err
		}
		in = f
	}
	if done, err = s.Answers.Slot(ctx, r.ContentLength); err != nil {
		return nil, nil, err
	}
	if b, err = object.Read(in, MaxReturn); err != nil {
		done()
		return nil, nil, tooLarge
	}
	return b, done, nil
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

// types are the media types of what came, and the ends of file names.
var types = map[string][2]string{
	returns.FDF: {"application/vnd.fdf", "fdf"}, returns.XFDF: {"application/vnd.adobe.xfdf", "xfdf"},
	returns.PDF: {"application/pdf", "pdf"}, returns.JSON: {"application/json", "json"}, returns.CSV: {"text/csv; charset=utf-8", "csv"},
	returns.Picture: {"application/octet-stream", "img"}, returns.Zip: {"application/zip", "zip"},
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
	t, ok := types[r.Kind]
	if !ok {
		t = [2]string{"text/plain; charset=utf-8", "txt"}
	}
	return frame.Download(c, cmp.Or(r.Name, fmt.Sprintf("answers-%d.%s", r.ID, t[1])), t[0], b)
}
