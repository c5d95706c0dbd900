package jobs

import (
	"context"
	"encoding/json"
	"fmt"
	"runtime"
	"slices"
	"sync"

	"github.com/riverqueue/river"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/intake"
	"zealousmargin.example/internal/pdf/engine"
	"zealousmargin.example/internal/store"
)

// recogniseArgs asks for the text of pages to be recognised.
type recogniseArgs struct {
	Task int64 `json:"task" river:"unique"`
}

// Kind names the job in the queue.
func (recogniseArgs) Kind() string { return "recognise" }

type recogniser struct {
	river.WorkerDefaults[recogniseArgs]
	store *store.Store
}

// Recognise queues the recognition of pages of a document.
func (q *Queue) Recognise(ctx context.Context, document, account int64, pages []string, language string) error {
	id, err := q.store.AddTask(ctx, store.TaskRecognise, document, account, pages, language)
	if err != nil {
		return err
	}
	return q.begin(ctx, store.TaskRecognise, id)
}

// begin queues the job of a task.
func (q *Queue) begin(ctx context.Context, kind string, id int64) error {
	var args river.JobArgs = recogniseArgs{Task: id}
	if kind == store.TaskFind {
		args = findArgs{Task: id}
	}
	job, err := q.put(ctx, args)
	if err != nil {
		return err
	}
	return q.store.TaskJob(ctx, id, job)
}

// CancelTask ends a task; what it has done so far is dropped.
func (q *Queue) CancelTask(ctx context.Context, t store.Task) error {
	if err := q.store.EndTask(ctx, t.ID, "cancelled", ""); err != nil {
		return err
	}
	return q.cancel(ctx, t.JobID)
}

// Work recognises the pages, as many at once as there are cores, and writes their
// words as one edit.
func (w *recogniser) Work(ctx context.Context, job *river.Job[recogniseArgs]) error {
	task, err := w.store.Task(ctx, job.Args.Task)
	if err != nil {
		return err
	}
	if !task.Running() {
		return nil
	}
	draft, err := w.store.Draft(ctx, task.DocumentID)
	if err != nil {
		return err
	}
	var pages []form.Page
	for _, p := range draft.Template.Pages {
		if slices.Contains(task.Pages(), p.ID) {
			pages = append(pages, p)
		}
	}
	texts, words, err := w.all(ctx, task, pages)
	switch {
	case ctx.Err() != nil:
		return ctx.Err()
	case err != nil:
		return w.store.EndTask(ctx, task.ID, "failed", err.Error())
	}
	title := "recognised the text of 1 page"
	if len(texts) != 1 {
		title = fmt.Sprintf("recognised the text of %d pages", len(texts))
	}
	if err := w.store.FinishRecognise(ctx, task.ID, texts, words, title); err != nil {
		return err
	}
	gathered(ctx, w.store, &task.DocumentID)
	return nil
}

func (w *recogniser) all(ctx context.Context, task store.Task, pages []form.Page) (texts map[string]string, words int, err error) {
	texts = map[string]string{}
	var mu sync.Mutex
	var wg sync.WaitGroup
	inner, stop := context.WithCancel(ctx)
	defer stop()
	next := make(chan form.Page)
	done := 0
	for range min(runtime.NumCPU(), max(1, len(pages))) {
		wg.Go(func() {
			for p := range next {
				sha, n, perr := w.page(inner, p, task.Language)
				mu.Lock()
				if perr != nil && err == nil {
					err = perr
					stop()
				}
				if perr == nil {
					texts[p.ID], words = sha, words+n
				}
				done++
				_ = w.store.TaskStep(ctx, task.ID, fmt.Sprintf("recognised %d of %d pages", done, len(pages)), done) // progress only
				mu.Unlock()
			}
		})
	}
	_ = w.store.TaskStep(ctx, task.ID, fmt.Sprintf("recognising page 1 of %d", len(pages)), 0)
feed:
	for _, p := range pages {
		select {
		case next <- p:
		case <-inner.Done():
			break feed
		}
	}
	close(next)
	wg.Wait()
	return texts, words, err
}

// page recognises one page and keeps its words as a file.
func (w *recogniser) page(ctx context.Context, p form.Page, language string) (sha string, words int, err error) {
	file, err := w.store.File(ctx, p.File)
	if err != nil {
		return "", 0, err
	}
	dpi := 0.0
	if ev, err := engine.Read(ctx, file, p, nil); err == nil {
		dpi = ev.DPI
	}
	text, err := intake.Recognise(ctx, file, p, dpi, language)
	if err != nil {
		return "", 0, err
	}
	b, err := json.Marshal(text)
	if err != nil {
		return "", 0, err
	}
	sha, err = w.store.KeepFile(ctx, b)
	return sha, len(text.Words), err
}
