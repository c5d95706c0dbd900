package jobs

import (
	"context"
	"errors"
	"log/slog"
	"strings"
	"time"

	"github.com/riverqueue/river"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/intake"
	"zealousmargin.example/internal/pdf/object"
	"zealousmargin.example/internal/store"
)

// readArgs asks for uploaded files to be read.
type readArgs struct {
	Intake int64 `json:"intake" river:"unique"`
}

// Kind names the job in the queue.
func (readArgs) Kind() string { return store.WorkRead }

type reader struct {
	river.WorkerDefaults[readArgs]
	store *store.Store
}

// Work reads the files of an intake and makes its document, or says why not.
func (w *reader) Work(ctx context.Context, job *river.Job[readArgs]) error {
	in, err := w.store.Intake(ctx, job.Args.Intake)
	if err != nil {
		return gone(err)
	}
	if !in.Running() {
		gathered(ctx, w.store, in.DocumentID) // when a worker went down between
		return nil
	}
	files, err := w.store.IntakeFiles(ctx, in.ID)
	if err != nil {
		return err
	}
	n, scans, err := w.read(behind(ctx), in, files)
	if why, yes := stopped(ctx, err); yes {
		return why
	}
	last, cancel := context.WithTimeout(context.WithoutCancel(ctx), time.Minute) // its time may be up
	defer cancel()
	switch {
	case asksPassword(err):
		return w.store.EndIntake(last, in.ID, "locked", err.Error())
	case err != nil:
		return w.store.EndIntake(last, in.ID, "refused", inWords(ctx, err))
	}
	if err := w.store.FinishIntake(ctx, in.ID, n, scans); err != nil {
		return err
	}
	if done, err := w.store.Intake(ctx, in.ID); err == nil {
		gathered(ctx, w.store, done.DocumentID)
	}
	return nil
}

// gone takes work whose rows were deleted for done.
func gone(err error) error {
	if errors.Is(err, store.ErrMissing) {
		return nil
	}
	return err
}

// read makes one document of the files, the pages of each after those of the last.
func (w *reader) read(ctx context.Context, in store.Intake, files []store.NamedFile) (store.NewDocument, int, error) {
	var all store.NewDocument
	scans := 0
	for k, f := range files {
		r, err := intake.Read(ctx, intake.Source{Name: f.Name, Bytes: f.Bytes, Opened: f.Opened}, func(what string, done, total int) {
			if len(files) > 1 {
				what = f.Name + ": " + what
				done, total = k*total+done, len(files)*total
			}
			if err := w.store.IntakeStep(ctx, in.ID, what, done, total); err != nil && ctx.Err() == nil &&
				!errors.Is(err, store.ErrMissing) {
				slog.Warn("progress of an intake was not written", "intake", in.ID, "error", err)
			}
		})
		if err != nil {
			if len(files) > 1 && !asksPassword(err) {
				err = errors.New(f.Name + ": " + err.Error())
			}
			return all, 0, err
		}
		all = append2(all, Document(r, files[k:k+1], in.AccountID))
		scans += r.Scans
	}
	if first, _, several := strings.Cut(all.Title, ", sheet 1"); several {
		all.Title = first
	}
	return all, scans, nil
}

// asksPassword tells whether a file can be read with a password, or with another one.
func asksPassword(err error) bool {
	return errors.Is(err, object.ErrEncrypted) || errors.Is(err, object.ErrPassword) || errors.Is(err, object.ErrNoChange)
}

// Document is what reading has made of files, as the store keeps it.
func Document(r intake.Result, files []store.NamedFile, by int64) store.NewDocument {
	n := store.NewDocument{
		Title: r.Title, Notice: r.Notice, Originals: files, Files: [][]byte{r.PDF}, Pages: r.Pages, Fields: r.Fields,
		Details: r.Details, Ready: r.Ready, By: by,
	}
	for _, b := range r.Files {
		n.Files = append(n.Files, b)
	}
	return n
}

// append2 puts the pages of a second file after those of the first.
func append2(a, b store.NewDocument) store.NewDocument {
	if len(a.Pages) == 0 {
		return b
	}
	// The joined draft is worked out by the same edit that inserts pages.
	t := form.Template{Pages: a.Pages, Fields: a.Fields}
	e, err := t.InsertPages("", len(a.Pages)+1, b.Pages, b.Fields)
	if err == nil && t.Apply(e) == nil {
		ready := func(n store.NewDocument) []form.Page {
			if n.Ready != nil {
				return n.Ready
			}
			return n.Pages
		}
		if a.Ready != nil || b.Ready != nil {
			joined := append([]form.Page(nil), ready(a)...)
			for i, p := range ready(b) {
				p.ID = t.Pages[len(a.Pages)+i].ID
				joined = append(joined, p)
			}
			a.Ready = joined
		}
		a.Pages, a.Fields = t.Pages, t.Fields
	}
	a.Details.Leave = form.JoinLeave(a.Details.Leave, b.Details.Leave)
	a.Originals, a.Files = append(a.Originals, b.Originals...), append(a.Files, b.Files...)
	a.Notice = strings.TrimSpace(a.Notice + " " + b.Notice)
	return a
}
