package jobs

import (
	"context"
	"encoding/json"
	"log/slog"
	"time"

	"github.com/riverqueue/river"
	"github.com/riverqueue/river/rivertype"

	"zealousmargin.example/internal/store"
)

// givenUp is said of work that failed by a fault of ours.
const givenUp = "something went wrong on our side and nothing was lost: an administrator can have it tried again"

// notTaken is said of letters that the mail server put off again and again.
const notTaken = "the mail server did not take it for hours: an administrator can have it tried again"

// failed hears of jobs that end with an error or a panic.
type failed struct{ *Queue }

// HandleError logs an error; work that was tried often enough is given up.
func (f failed) HandleError(ctx context.Context, job *rivertype.JobRow, err error) *river.ErrorHandlerResult {
	w := workOf(job)
	slog.Error("a job failed", "kind", job.Kind, "job", job.ID, "about", w.ID, "document", f.document(ctx, w), "try", job.Attempt,
		"of", job.MaxAttempts, "error", err)
	if job.Attempt >= job.MaxAttempts {
		f.giveUp(ctx, w)
	}
	return nil
}

// HandlePanic gives work up that ends in a panic: it would do so again.
func (f failed) HandlePanic(ctx context.Context, job *rivertype.JobRow, panicked any, trace string) *river.ErrorHandlerResult {
	w := workOf(job)
	slog.Error("a job panicked", "kind", job.Kind, "job", job.ID, "about", w.ID, "document", f.document(ctx, w), "panic", panicked,
		"trace", trace)
	f.giveUp(ctx, w)
	return &river.ErrorHandlerResult{SetCancelled: true}
}

// giveUp says at what the job was about that it has failed.
func (f failed) giveUp(ctx context.Context, w store.Work) {
	ctx, cancel := context.WithTimeout(context.WithoutCancel(ctx), 10*time.Second)
	defer cancel()
	end, why := f.store.EndTask, givenUp
	switch w.Kind {
	case store.WorkRead:
		end = f.store.EndIntake
	case store.WorkPost:
		end, why = f.store.EndLetter, notTaken
	case store.WorkReturn:
		end = f.store.FailReturn
	case store.WorkHook:
		end, why = f.store.EndCall, "nobody took the call for hours"
	}
	if err := end(ctx, w.ID, "failed", why); err != nil {
		slog.Error("a job that failed could not be said to have", "about", w.ID, "error", err)
	}
}

// document is the id of the document that work is about; 0 when there is none yet.
func (f failed) document(ctx context.Context, w store.Work) int64 {
	switch w.Kind {
	case store.WorkRead:
	case store.WorkPost, store.WorkHook:
		return 0
	case store.WorkReturn:
		r, _ := f.store.Return(ctx, w.ID) // for the log only
		return r.DocumentID
	default:
		t, _ := f.store.Task(ctx, w.ID) // for the log only
		return t.DocumentID
	}
	i, err := f.store.Intake(ctx, w.ID)
	if err != nil || i.DocumentID == nil {
		return 0
	}
	return *i.DocumentID
}

// workOf is what a job is about.
func workOf(job *rivertype.JobRow) store.Work {
	var args struct{ Intake, Task, Letter, Return, Call int64 }
	_ = json.Unmarshal(job.EncodedArgs, &args) // we have written them
	return store.Work{Kind: job.Kind, ID: max(args.Intake, args.Task, args.Letter, args.Return, args.Call)}
}
