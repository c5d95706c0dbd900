package jobs

import (
	"context"
	"errors"
	"strings"
	"time"

	"github.com/riverqueue/river"

	"zealousmargin.example/internal/post"
	"zealousmargin.example/internal/store"
)

// postArgs asks for a letter to be sent.
type postArgs struct {
	Letter int64 `json:"letter" river:"unique"`
}

// Kind names the job in the queue.
func (postArgs) Kind() string { return store.WorkPost }

type postman struct {
	river.WorkerDefaults[postArgs]
	store *store.Store
	post  post.Post
}

// Timeout leaves a mail server more time than it ever takes.
func (*postman) Timeout(*river.Job[postArgs]) time.Duration { return 2 * time.Minute }

var errNoPost = errors.New("this process has no mail server to send it by")

// Work sends a letter. One that was handed over by a worker that could not say so any more is handed over once more, under the same
// number, by which mail servers and readers know it.
func (w *postman) Work(ctx context.Context, job *river.Job[postArgs]) error {
	l, err := w.store.Letter(ctx, job.Args.Letter)
	if err != nil || l.State != "waiting" {
		return gone(err)
	}
	if w.post == nil {
		return errNoPost
	}
	err = w.post.Send(ctx, post.Message{
		To: l.Recipient, Subject: l.Subject, Text: l.Body, ID: "letter-" + strings.ToLower(l.Number) + "@zealous-margin.invalid",
	})
	var back *post.RefusedError
	switch {
	case errors.As(err, &back):
		return w.store.EndLetter(ctx, l.ID, "returned", back.Said)
	case err != nil:
		if why, yes := stopped(ctx, err); yes {
			return why
		}
		return err // tried again
	}
	return w.store.EndLetter(context.WithoutCancel(ctx), l.ID, "sent", "")
}
