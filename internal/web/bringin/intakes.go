package bringin

import (
	"errors"
	"fmt"
	"io"
	"mime/multipart"
	"net/http"
	"path"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/intake"
	"zealousmargin.example/internal/pdf/object"
	"zealousmargin.example/internal/store"
	"zealousmargin.example/internal/web/frame"
)

// drain reads what is left of a body, so that a refused upload gets its answer.
func drain(r io.Reader) { _, _ = io.Copy(io.Discard, io.LimitReader(r, 256<<20)) }

// MaxUpload holds one request with several files.
const MaxUpload = 4 * intake.MaxBytes

// BringIn takes uploaded files and queues them for reading: each as a document, all
// as one, or as pages of a document that is there. A zipped folder becomes a batch.
func BringIn(s *frame.Frame, c *echo.Context) error {
	ctx := c.Request().Context()
	files, err := uploaded(s, c)
	if err != nil {
		drain(c.Request().Body)
		return s.Render(c, http.StatusOK, "workroom", "intake",
			frame.IntakeView{Intake: store.Intake{State: "refused", FileName: "The file", Problem: err.Error()}})
	}
	n := store.NewIntake{
		Account: frame.Account(c).ID, Into: int64(frame.Number(c.FormValue("into"), 0)),
		At: frame.Number(c.FormValue("at"), 0),
	}
	if n.Into > 0 {
		if _, err := s.Store.Document(ctx, n.Into); err != nil {
			return err
		}
	}
	if len(files) == 1 && n.Into == 0 && intake.IsFolder(files[0].Name, files[0].Bytes) {
		return bringInFolder(s, c, files[0])
	}
	groups := [][]store.NamedFile{files}
	if c.FormValue("together") == "" && n.Into == 0 {
		groups = slices.Collect(slices.Chunk(files, 1))
	}
	for _, g := range groups {
		n.Files = g
		id, err := s.Store.AddIntake(ctx, n)
		if err != nil {
			return err
		}
		if err := answer(s, c, id); err != nil {
			return err
		}
	}
	return nil
}

// uploaded reads the files of a request; the error says why one is refused.
func uploaded(s *frame.Frame, c *echo.Context) ([]store.NamedFile, error) {
	form, err := c.MultipartForm()
	if err != nil {
		return nil, object.ErrTooLarge
	}
	var out []store.NamedFile
	for _, h := range form.File["file"] {
		if strings.ContainsFunc(h.Filename, unicode.IsControl) || !utf8.ValidString(h.Filename) {
			return nil, errors.New("the name of the file has a control sign in it, or signs that cannot be read: give it another name")
		}
		b, err := readUpload(h)
		if err != nil {
			return nil, err
		}
		out = append(out, store.NamedFile{Name: h.Filename, Bytes: b})
	}
	if len(out) == 0 {
		return nil, errors.New("no file came: choose one")
	}
	return out, nil
}

func readUpload(h *multipart.FileHeader) ([]byte, error) {
	f, err := h.Open()
	if err != nil {
		return nil, err
	}
	defer f.Close()
	b, err := object.Read(f, MaxUpload)
	if err != nil {
		return nil, err
	}
	if len(b) > intake.MaxBytes && !intake.IsFolder(h.Filename, b) {
		return nil, object.ErrTooLarge
	}
	return b, nil
}

// bringInFolder queues the documents of a zipped folder, to be read and, in the
// language that was chosen, recognised.
func bringInFolder(s *frame.Frame, c *echo.Context, f store.NamedFile) error {
	ctx := c.Request().Context()
	files, skipped, err := intake.Folder(f.Bytes)
	if err != nil {
		return s.Render(c, http.StatusOK, "workroom", "intake",
			frame.IntakeView{Intake: store.Intake{State: "refused", FileName: f.Name, Problem: err.Error()}})
	}
	language := c.FormValue("language")
	if language == "" && len(intake.Languages()) > 0 {
		language = "eng"
	}
	named := make([]store.NamedFile, len(files))
	for i, one := range files {
		named[i] = store.NamedFile{Name: one.Name, Bytes: one.Bytes}
	}
	batch, err := s.Store.AddBatch(ctx, frame.Account(c).ID, f.Name, language, strings.Join(skipped, "\n"), named)
	if err != nil {
		return err
	}
	b, err := s.Store.Batch(ctx, batch)
	if err != nil {
		return err
	}
	return s.Render(c, http.StatusOK, "workroom", "folderrow", b)
}

func IntakeProgress(s *frame.Frame, c *echo.Context) error {
	i, err := ownIntake(s, c)
	if err != nil {
		return err
	}
	return answer(s, c, i.ID)
}

// ownIntake reads the intake of a request; it must be the person's own.
func ownIntake(s *frame.Frame, c *echo.Context) (store.Intake, error) {
	id, err := frame.IdOf(c)
	if err != nil {
		return store.Intake{}, err
	}
	i, err := s.Store.Intake(c.Request().Context(), id)
	if err == nil && i.AccountID != frame.Account(c).ID {
		err = store.ErrMissing
	}
	return i, err
}

func answer(s *frame.Frame, c *echo.Context, id int64) error {
	i, err := s.Store.Intake(c.Request().Context(), id)
	if err != nil {
		return err
	}
	v := frame.IntakeView{Intake: i}
	if i.Running() && strings.EqualFold(path.Ext(i.FileName), ".pdf") { // its first page is drawn once, however often this is asked
		v.Look = fmt.Sprintf("/pictures/%s/1/240.png", i.First)
	}
	if i.State == "done" {
		c.Response().Header().Set("HX-Trigger", map[bool]string{true: "documents-changed", false: "pages-changed"}[i.IntoDocument == nil])
	}
	return s.Render(c, http.StatusOK, "workroom", "intake", v)
}

func CancelIntake(s *frame.Frame, c *echo.Context) error {
	i, err := ownIntake(s, c)
	if err != nil {
		return err
	}
	if err := s.Queue.CancelIntake(c.Request().Context(), i); err != nil {
		return err
	}
	return answer(s, c, i.ID)
}

// UnlockIntake opens the files of an intake with a password, and has the copies read that need none: the password is used here and kept
// nowhere.
func UnlockIntake(s *frame.Frame, c *echo.Context) error {
	i, err := ownIntake(s, c)
	if err != nil {
		return err
	}
	if i.State != "locked" {
		return answer(s, c, i.ID)
	}
	ctx := c.Request().Context()
	files, err := s.Store.IntakeFiles(ctx, i.ID)
	if err != nil {
		return err
	}
	opened := make([][]byte, len(files))
	for k, f := range files {
		copied, err := intake.Unlock(ctx, f.Bytes, c.FormValue("password"))
		switch {
		case ctx.Err() != nil:
			return err
		case err != nil:
			if err := s.Store.EndIntake(ctx, i.ID, "locked", err.Error()); err != nil {
				return err
			}
			return answer(s, c, i.ID)
		}
		opened[k] = copied
	}
	if err := s.Store.UnlockIntake(ctx, i.ID, opened); err != nil {
		return err
	}
	return answer(s, c, i.ID)
}

type folderView struct {
	frame.Shell
	Folder   store.Batch
	Rows     []folderRow
	Language string
	Skipped  []string
}

// folderRow is a document of a folder.
type folderRow struct {
	store.BatchRow
	Problems string
}

// Folder lists what has become of the documents of a folder.
func Folder(s *frame.Frame, c *echo.Context) error {
	id, err := frame.IdOf(c)
	if err != nil {
		return err
	}
	ctx := c.Request().Context()
	v := folderView{Shell: s.Shell(c, "Folder", "workroom")}
	if v.Folder, err = s.Store.Batch(ctx, id); err != nil {
		return err
	}
	v.Title = v.Folder.Name
	v.Language = intake.LanguageName(v.Folder.Language)
	for l := range strings.SplitSeq(v.Folder.Skipped, "\n") {
		if l != "" {
			v.Skipped = append(v.Skipped, l)
		}
	}
	rows, err := s.Store.BatchRows(ctx, id)
	if err != nil {
		return err
	}
	for _, r := range rows {
		f := folderRow{BatchRow: r}
		for _, p := range []string{r.Problem, r.Notice, r.TaskWrong} {
			if p != "" {
				f.Problems = strings.TrimSpace(f.Problems + " " + frame.Sentence(p))
			}
		}
		v.Rows = append(v.Rows, f)
	}
	block := "page"
	if c.Request().Header.Get("HX-Request") != "" {
		block = "rows"
	}
	return s.Render(c, http.StatusOK, "folder", block, v)
}

// FindInFolder queues finding on every document of a folder that has been read.
func FindInFolder(s *frame.Frame, c *echo.Context) error {
	id, err := frame.IdOf(c)
	if err != nil {
		return err
	}
	ctx := c.Request().Context()
	rows, err := s.Store.BatchRows(ctx, id)
	if err != nil {
		return err
	}
	for _, r := range rows {
		if r.DocumentID == nil {
			continue
		}
		if err := s.Store.AddFind(ctx, *r.DocumentID, frame.Account(c).ID); err != nil {
			return err
		}
	}
	return c.Redirect(http.StatusSeeOther, fmt.Sprintf("/folders/%d", id))
}
