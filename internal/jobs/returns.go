package jobs

import (
	"context"
	"time"

	"github.com/riverqueue/river"

	"zealousmargin.example/internal/inbox"
	"zealousmargin.example/internal/store"
)

// returnArgs asks for a return to be read.
type returnArgs struct {
	Return int64 `json:"return" river:"unique"`
}

// Kind names the job in the queue.
func (returnArgs) Kind() string { return store.WorkReturn }

type returnReader struct {
	river.WorkerDefaults[returnArgs]
	store *store.Store
	inbox *inbox.Reader
}

// Timeout leaves a photographed form of several pages more time than it ever takes.
func (*returnReader) Timeout(*river.Job[returnArgs]) time.Duration { return 10 * time.Minute }

// Work reads a return. What cannot be read waits for a person.
func (w *returnReader) Work(ctx context.Context, job *river.Job[returnArgs]) error {
	r, err := w.store.Return(ctx, job.Args.Return)
	if err != nil || r.State != "unread" {
		return gone(err)
	}
	b, err := w.store.File(ctx, r.File)
	if err != nil {
		return err
	}
	target := store.Target{Document: r.DocumentID, Edition: r.EditionID, Link: r.LinkID}
	all, err := w.inbox.Read(behind(ctx), target, r.Kind, b, r.ReceivedAt)
	if why, yes := stopped(ctx, err); yes {
		return why
	}
	if err != nil {
		return w.store.FailReturn(context.WithoutCancel(ctx), r.ID, "", inWords(ctx, err))
	}
	err = w.store.Understand(ctx, r.ID, all[0])
	if why, yes := stopped(ctx, err); yes {
		return why
	}
	return gone(err)
}
