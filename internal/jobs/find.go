package jobs

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"

	"github.com/riverqueue/river"

	"zealousmargin.example/internal/command"
	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/store"
)

// findArgs asks for fields to be found on pages.
type findArgs struct {
	Task int64 `json:"task" river:"unique"`
}

// Kind names the job in the queue.
func (findArgs) Kind() string { return "find" }

type finder struct {
	river.WorkerDefaults[findArgs]
	store *store.Store
}

// Find queues finding on all pages of a document.
func (q *Queue) Find(ctx context.Context, document, account int64) error {
	d, err := q.store.Document(ctx, document)
	if err != nil {
		return err
	}
	var ids []string
	for _, p := range d.Pages() {
		ids = append(ids, p.ID)
	}
	id, err := q.store.AddTask(ctx, store.TaskFind, document, account, ids, "")
	if err != nil {
		return err
	}
	return q.begin(ctx, store.TaskFind, id)
}

// Work finds fields page by page and adds them as one edit.
func (w *finder) Work(ctx context.Context, job *river.Job[findArgs]) error {
	task, err := w.store.Task(ctx, job.Args.Task)
	if err != nil || !task.Running() {
		return err
	}
	found, err := w.all(ctx, task)
	switch {
	case ctx.Err() != nil:
		return ctx.Err()
	case err != nil:
		return w.store.EndTask(ctx, task.ID, "failed", err.Error())
	}
	return w.store.FinishFind(ctx, task.ID, found)
}

func (w *finder) all(ctx context.Context, task store.Task) (map[string][]form.Field, error) {
	draft, err := w.store.Draft(ctx, task.DocumentID)
	if err != nil {
		return nil, err
	}
	house, err := w.store.Dictionary(ctx)
	if err != nil {
		return nil, err
	}
	style, err := w.store.House(ctx)
	if err != nil {
		return nil, err
	}
	wanted := task.Pages()
	files := openFiles{store: w.store}
	defer files.close()
	out := map[string][]form.Field{}
	done, n := 0, 0
	for _, p := range draft.Template.Pages {
		if !slices.Contains(wanted, p.ID) {
			continue
		}
		if ctx.Err() != nil {
			return nil, ctx.Err()
		}
		ev, err := w.evidence(ctx, &files, p)
		if err != nil {
			return nil, err
		}
		out[p.ID] = command.Finds(ev, 1, house, style)
		n += len(out[p.ID])
		done++
		_ = w.store.TaskStep(ctx, task.ID, fmt.Sprintf("found %d fields on %d of %d pages", n, done, len(wanted)), done) // progress only
	}
	return out, nil
}

func (w *finder) evidence(ctx context.Context, files *openFiles, p form.Page) (*evidence.Page, error) {
	d, err := files.open(ctx, p.File)
	if err != nil {
		return nil, err
	}
	if p.Text == "" {
		return d.EvidenceOf(p, nil)
	}
	b, err := w.store.File(ctx, p.Text)
	if err != nil {
		return nil, err
	}
	var text evidence.Text
	if err := json.Unmarshal(b, &text); err != nil {
		return nil, err
	}
	return d.EvidenceOf(p, &text)
}
