package jobs

import (
	"context"
	"errors"
	"log/slog"
	"strings"

	"github.com/riverqueue/river"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/intake"
	"zealousmargin.example/internal/pdf/object"
	"zealousmargin.example/internal/store"
)

// readArgs asks for uploaded files to be read.
type readArgs struct {
	Intake   int64  `json:"intake" river:"unique"`
	Try      string `json:"try,omitempty" river:"unique"` // another one for each password
	Password string `json:"password,omitempty"`
}

// Kind names the job in the queue.
func (readArgs) Kind() string { return "read" }

type reader struct {
	river.WorkerDefaults[readArgs]
	store *store.Store
	queue *Queue
}

// Read queues an intake for reading.
func (q *Queue) Read(ctx context.Context, id int64, password string) error {
	if err := q.store.ReopenIntake(ctx, id); err != nil {
		return err
	}
	args := readArgs{Intake: id, Password: password}
	if password != "" {
		args.Try = form.NewID()
	}
	job, err := q.put(ctx, args)
	if err != nil {
		return err
	}
	return q.store.IntakeJob(ctx, id, job)
}

// CancelIntake ends an intake; what it has made so far is dropped, the files stay.
func (q *Queue) CancelIntake(ctx context.Context, i store.Intake) error {
	if err := q.store.EndIntake(ctx, i.ID, "cancelled", ""); err != nil {
		return err
	}
	return q.cancel(ctx, i.JobID)
}

// Work reads the files of an intake and makes its document, or says why not.
func (w *reader) Work(ctx context.Context, job *river.Job[readArgs]) error {
	in, err := w.store.Intake(ctx, job.Args.Intake)
	if err != nil {
		return err
	}
	if !in.Running() {
		gathered(ctx, w.store, in.DocumentID) // when a worker went down between
		return nil
	}
	files, err := w.store.IntakeFiles(ctx, in.ID)
	if err != nil {
		return err
	}
	n, scans, err := w.read(ctx, in, files, job.Args.Password)
	switch {
	case ctx.Err() != nil: // cancelled, or the worker is going down and the job will run again
		return ctx.Err()
	case asksPassword(err):
		return w.store.EndIntake(ctx, in.ID, "locked", err.Error())
	case err != nil:
		return w.store.EndIntake(ctx, in.ID, "refused", err.Error())
	}
	task, err := w.store.FinishIntake(ctx, in.ID, n, scans)
	if err != nil {
		return err
	}
	if done, err := w.store.Intake(ctx, in.ID); err == nil {
		gathered(ctx, w.store, done.DocumentID)
	}
	if task == 0 {
		return nil
	}
	return w.queue.begin(ctx, store.TaskRecognise, task)
}

// read makes one document of the files, the pages of each after those of the last.
func (w *reader) read(ctx context.Context, in store.Intake, files []store.NamedFile, password string) (store.NewDocument, int, error) {
	var all store.NewDocument
	scans := 0
	for k, f := range files {
		r, err := intake.Read(ctx, intake.Source{Name: f.Name, Bytes: f.Bytes, Password: password}, func(what string, done, total int) {
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
	a.Originals, a.Files = append(a.Originals, b.Originals...), append(a.Files, b.Files...)
	a.Notice = strings.TrimSpace(a.Notice + " " + b.Notice)
	return a
}
