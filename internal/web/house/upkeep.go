package house

import (
	"context"
	"errors"
	"net/http"
	"os"
	"strconv"
	"syscall"

	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/store"
	"zealousmargin.example/internal/web/frame"
)

// upkeepView is what an administrator looks after.
type upkeepView struct {
	frame.Shell
	Tray      bool // what is sent lies in the post tray
	Said      string
	Queue     []store.Queued
	Failures  []store.Failure
	Largest   []store.Size
	Database  int64  // bytes
	Left      int64  // bytes on the disk of the database; -1 where it is on another machine
	Temporary int64  // bytes left where files wait that are on their way in
	Retention string // days
	Log       []store.Entry
	Older     int64 // the log before this row
}

// logRows is how many rows of the log are shown at once.
const logRows = 40

// Upkeep shows what waits and what failed, how much room there is, and the log.
func Upkeep(s *frame.Frame, c *echo.Context) error {
	return upkeepPage(s, c, http.StatusOK, upkeepView{})
}

// TryAgain puts work that failed on the queue once more.
func TryAgain(s *frame.Frame, c *echo.Context) error {
	id, err := strconv.ParseInt(c.FormValue("id"), 10, 64)
	if err != nil {
		return store.ErrMissing
	}
	if err := s.Store.TryAgain(c.Request().Context(), c.FormValue("kind"), id); err != nil {
		return err
	}
	return upkeepPage(s, c, http.StatusOK, upkeepView{Said: "It is on the queue again."})
}

func upkeepPage(s *frame.Frame, c *echo.Context, code int, v upkeepView) (err error) {
	ctx := c.Request().Context()
	v.Shell, v.Tray = s.Shell(c, "Upkeep", "upkeep"), s.Tray
	if v.Queue, err = s.Store.Queue(ctx); err != nil {
		return err
	}
	if v.Failures, err = s.Store.Failures(ctx); err != nil {
		return err
	}
	if v.Largest, err = s.Store.Largest(ctx, 8); err != nil {
		return err
	}
	var folder string
	if v.Database, folder, err = s.Store.Room(ctx); err != nil {
		return err
	}
	v.Left, v.Temporary = left(folder), left(os.TempDir())
	if v.Retention, err = s.Store.Setting(ctx, store.Retention); err != nil {
		return err
	}
	before, _ := strconv.ParseInt(c.QueryParam("before"), 10, 64) // anything else is the end
	if v.Log, err = s.Store.Log(ctx, before, logRows); err != nil {
		return err
	}
	if len(v.Log) == logRows {
		v.Older = v.Log[logRows-1].ID
	}
	return s.Render(c, code, "upkeep", "page", v)
}

// left is how many bytes are left on the disk of a folder; -1 when it cannot be seen from here.
func left(folder string) int64 {
	var f syscall.Statfs_t
	if folder == "" || syscall.Statfs(folder, &f) != nil {
		return -1
	}
	return int64(f.Bavail) * f.Bsize
}

// DeleteForm asks why a document is deleted for good.
func DeleteForm(s *frame.Frame, c *echo.Context) error {
	d, err := s.DocumentOf(c)
	if err != nil {
		return err
	}
	return deletePage(s, c, http.StatusOK, d, "")
}

// Delete takes an archived document away for good.
func Delete(s *frame.Frame, c *echo.Context) error {
	d, err := s.DocumentOf(c)
	if err != nil {
		return err
	}
	ctx := context.WithoutCancel(c.Request().Context())
	err = s.Store.Delete(ctx, d.ID, frame.Account(c).ID, c.FormValue("reason"))
	switch {
	case errors.Is(err, store.ErrNoReason), errors.Is(err, store.ErrNotArchived):
		return deletePage(s, c, http.StatusUnprocessableEntity, d, frame.Sentence(err.Error()))
	case err != nil:
		return err
	}
	return c.Redirect(http.StatusSeeOther, "/?archived=1")
}

func deletePage(s *frame.Frame, c *echo.Context, code int, d store.Document, problem string) error {
	return s.Render(c, code, "delete", "page", struct {
		frame.Shell
		Doc     store.Document
		Problem string
		Reason  string
	}{s.Shell(c, "Delete: "+d.Title, "archive"), d, problem, c.FormValue("reason")})
}
