package jobs

import (
	"context"
	"encoding/json"
	"fmt"
	"runtime"
	"slices"
	"sync"
	"time"

	"github.com/riverqueue/river"
	"golang.org/x/sync/errgroup"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/intake"
	"zealousmargin.example/internal/pdf/engine"
	"zealousmargin.example/internal/store"
)

// recogniseArgs asks for the text of pages to be recognised.
type recogniseArgs struct {
	Task  int64 `json:"task" river:"unique"`
	Pages int   `json:"pages"`
}

// Kind names the job in the queue.
func (recogniseArgs) Kind() string { return store.TaskRecognise }

type recogniser struct {
	river.WorkerDefaults[recogniseArgs]
	store *store.Store
}

// Timeout gives every page half a minute.
func (*recogniser) Timeout(job *river.Job[recogniseArgs]) time.Duration {
	return min(longestOfAll, longest+time.Duration(job.Args.Pages)*30*time.Second)
}

// Work recognises the pages, as many at once as there are cores, and writes their
// words as one edit.
func (w *recogniser) Work(ctx context.Context, job *river.Job[recogniseArgs]) error {
	task, err := w.store.Task(ctx, job.Args.Task)
	if err != nil {
		return gone(err)
	}
	if !task.Running() {
		return nil
	}
	draft, err := w.store.Draft(ctx, task.DocumentID)
	if err != nil {
		return gone(err)
	}
	var pages []form.Page
	for _, p := range draft.Template.Pages {
		if slices.Contains(task.Pages(), p.ID) {
			pages = append(pages, p)
		}
	}
	err = w.all(behind(ctx), task, pages)
	if why, yes := stopped(ctx, err); yes {
		return why
	}
	if err != nil {
		last, cancel := context.WithTimeout(context.WithoutCancel(ctx), time.Minute)
		defer cancel()
		return w.store.EndTask(last, task.ID, "failed", inWords(ctx, err))
	}
	parts, err := w.store.TaskParts(ctx, task.ID)
	if err != nil {
		return err
	}
	texts, words := map[string]string{}, 0
	for _, p := range pages {
		texts[p.ID] = parts[p.ID].File
		words += parts[p.ID].Words
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

// all recognises those of the pages that are not recognised yet.
func (w *recogniser) all(ctx context.Context, task store.Task, pages []form.Page) error {
	parts, err := w.store.TaskParts(ctx, task.ID)
	if err != nil {
		return err
	}
	var mu sync.Mutex
	done := len(parts)
	work, inner := errgroup.WithContext(ctx)
	work.SetLimit(runtime.NumCPU())
	_ = w.store.TaskStep(ctx, task.ID, fmt.Sprintf("recognising page %d of %d", done+1, len(pages)), done)
	for _, p := range pages {
		if _, there := parts[p.ID]; there {
			continue
		}
		work.Go(func() error {
			if inner.Err() != nil {
				return inner.Err()
			}
			part, err := w.page(inner, p, task.Language)
			if err != nil {
				return err
			}
			if err := w.store.TaskPart(ctx, task.ID, p.ID, part); err != nil {
				return err
			}
			mu.Lock()
			defer mu.Unlock()
			done++
			_ = w.store.TaskStep(ctx, task.ID, fmt.Sprintf("recognised %d of %d pages", done, len(pages)), done) // progress only
			return nil
		})
	}
	return work.Wait()
}

// page recognises one page and keeps its words as a file.
func (w *recogniser) page(ctx context.Context, p form.Page, language string) (part store.Recognised, err error) {
	file, err := w.store.File(ctx, p.File)
	if err != nil {
		return part, err
	}
	dpi := 0.0
	if ev, err := engine.Written(ctx, file, p); err == nil {
		dpi = ev.DPI
	}
	text, err := intake.Recognise(ctx, file, p, dpi, language)
	if err != nil {
		return part, err
	}
	b, err := json.Marshal(text)
	if err != nil {
		return part, err
	}
	part.File, err = w.store.KeepFile(ctx, b)
	part.Words = len(text.Words)
	return part, err
}
