package jobs

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"time"

	"github.com/riverqueue/river"

	"zealousmargin.example/internal/command"
	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/pdf/engine"
	"zealousmargin.example/internal/store"
)

// findArgs asks for fields to be found on pages.
type findArgs struct {
	Task int64 `json:"task" river:"unique"`
}

// Kind names the job in the queue.
func (findArgs) Kind() string { return store.TaskFind }

type finder struct {
	river.WorkerDefaults[findArgs]
	store *store.Store
}

// Work finds fields page by page and adds them as one edit.
func (w *finder) Work(ctx context.Context, job *river.Job[findArgs]) error {
	task, err := w.store.Task(ctx, job.Args.Task)
	if err != nil || !task.Running() {
		return gone(err)
	}
	found, err := w.all(behind(ctx), task)
	if why, yes := stopped(ctx, err); yes {
		return why
	}
	if err != nil {
		last, cancel := context.WithTimeout(context.WithoutCancel(ctx), time.Minute)
		defer cancel()
		return w.store.EndTask(last, task.ID, "failed", inWords(ctx, err))
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
	out := map[string][]form.Field{}
	done, n := 0, 0
	var pages []form.Page
	for _, p := range draft.Template.Pages {
		if slices.Contains(wanted, p.ID) {
			pages = append(pages, p)
		}
	}
	err = eachEvidence(ctx, w.store, pages, (*engine.Doc).EvidenceOf, func(p form.Page, ev *evidence.Page) {
		out[p.ID] = command.Finds(ev, 1, house, style)
		n += len(out[p.ID])
		done++
		_ = w.store.TaskStep(ctx, task.ID, fmt.Sprintf("found %d fields on %d of %d pages", n, done, len(wanted)), done) // progress only
	})
	return out, err
}

// reading is how a page of a draft is read, with what was recognised on it.
type reading func(*engine.Doc, form.Page, *evidence.Text) (*evidence.Page, error)

// eachEvidence reads what is on pages of a draft. Pages of one file that follow each other are read while it is open once; each is
// then told.
func eachEvidence(ctx context.Context, s *store.Store, pages []form.Page, read reading, tell func(form.Page, *evidence.Page)) error {
	const atOnce = 4 // pages before anything is told of them
	for len(pages) > 0 {
		n := 1
		for n < min(len(pages), atOnce) && pages[n].File == pages[0].File {
			n++
		}
		part := pages[:n]
		pages = pages[n:]
		file, err := s.File(ctx, part[0].File)
		if err != nil {
			return err
		}
		texts := make([]*evidence.Text, n)
		for i, p := range part {
			if texts[i], err = textOf(ctx, s, p); err != nil {
				return err
			}
		}
		got := make([]*evidence.Page, n)
		err = engine.Use(ctx, file, func(d *engine.Doc) (err error) {
			for i, p := range part {
				if got[i], err = read(d, p, texts[i]); err != nil {
					return err
				}
			}
			return nil
		})
		if err != nil {
			return err
		}
		for i, p := range part {
			tell(p, got[i])
		}
	}
	return nil
}

// textOf is what was recognised on a page; nil when nothing was.
func textOf(ctx context.Context, s *store.Store, p form.Page) (*evidence.Text, error) {
	if p.Text == "" {
		return nil, nil
	}
	b, err := s.File(ctx, p.Text)
	if err != nil {
		return nil, err
	}
	var text evidence.Text
	if err := json.Unmarshal(b, &text); err != nil {
		return nil, err
	}
	return &text, nil
}
