package jobs

import (
	"cmp"
	"context"
	"database/sql"
	"errors"
	"fmt"
	"log/slog"
	"os"
	"sync"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/riverqueue/river"
	"github.com/riverqueue/river/riverdriver/riverdatabasesql"
	"github.com/riverqueue/river/riverdriver/riverpgxv5"
	"github.com/riverqueue/river/rivermigrate"
	"github.com/riverqueue/river/rivertype"

	"zealousmargin.example/internal/inbox"
	"zealousmargin.example/internal/pdf/engine"
	"zealousmargin.example/internal/pdf/object"
	"zealousmargin.example/internal/post"
	"zealousmargin.example/internal/store"
)

// Queue puts work on the queue, and does it when it has workers.
type Queue struct {
	client  *river.Client[pgx.Tx]
	insert  *river.Client[*sql.Tx] // puts jobs into the transactions of the store
	store   *store.Store
	workers int
	beat    time.Duration
	quiet   context.CancelFunc // ends the beats
	beats   sync.WaitGroup
}

const (
	// longest is how long a job of a kind that does not say so itself may take.
	longest = 15 * time.Minute
	// longestOfAll is how long any may.
	longestOfAll = 3 * time.Hour
	// tries is how often work is begun that may go well another time.
	tries = 5
	// postTries is that of letters: mail servers put them off for a while, and the last try is some hours after the first.
	postTries = 10
	// usualBeat is how often a process that works says that it is there; when it has said nothing for four beats its jobs are given back.
	usualBeat = 5 * time.Second
	// softly is how long jobs may go on when the process is to stop; then they are given back.
	softly = time.Second
)

// Options are what a queue may be told.
type Options struct {
	Workers int           // how many jobs run at once; with none it only puts work on the queue
	Beat    time.Duration // how often it says that it is there; five seconds when nothing is said
	Post    post.Post     // by which letters are sent
}

// New prepares the queue's tables, and has the store put its work on the queue.
func New(ctx context.Context, s *store.Store, o Options) (*Queue, error) {
	driver := riverpgxv5.New(s.Pool)
	migrator, err := rivermigrate.New(driver, nil)
	if err != nil {
		return nil, err
	}
	if _, err := migrator.Migrate(ctx, rivermigrate.DirectionUp, nil); err != nil {
		return nil, fmt.Errorf("the queue's tables could not be made: %w", err)
	}
	q := &Queue{store: s, workers: o.Workers, beat: cmp.Or(o.Beat, usualBeat)}
	config := &river.Config{
		ID: fmt.Sprintf("%d-%s", os.Getpid(), uuid.NewString()), Logger: slog.New(slog.DiscardHandler), JobTimeout: longest,
		RescueStuckJobsAfter: longestOfAll + longest, FetchCooldown: 20 * time.Millisecond, ErrorHandler: failed{q},
	}
	if q.insert, err = river.NewClient(riverdatabasesql.New(s.DB()), &river.Config{Logger: config.Logger}); err != nil {
		return nil, err
	}
	if o.Workers > 0 {
		ws := river.NewWorkers()
		river.AddWorker(ws, &reader{store: s})
		river.AddWorker(ws, &recogniser{store: s})
		river.AddWorker(ws, &finder{store: s})
		river.AddWorker(ws, &filler{store: s})
		river.AddWorker(ws, &postman{store: s, post: o.Post})
		reads := inbox.NewReader(s)
		river.AddWorker(ws, &returnReader{store: s, inbox: reads})
		river.AddWorker(ws, &caller{store: s, inbox: reads})
		config.Workers = ws
		config.Queues = map[string]river.QueueConfig{river.QueueDefault: {MaxWorkers: o.Workers}}
	}
	if q.client, err = river.NewClient(driver, config); err != nil {
		return nil, err
	}
	s.Enqueue = q.put
	return q, nil
}

// Start begins to work, and takes up what has no job.
func (q *Queue) Start(ctx context.Context) error {
	if q.workers > 0 {
		if err := q.store.Alive(ctx, q.client.ID()); err != nil {
			return err
		}
		if err := q.client.Start(ctx); err != nil {
			return err
		}
		beating, stop := context.WithCancel(ctx)
		q.quiet = stop
		q.beats.Go(func() { q.keepBeating(beating) })
	}
	return q.store.EnqueueWaiting(ctx)
}

// keepBeating says that this process is there, and gives back the jobs of those that say nothing any more.
func (q *Queue) keepBeating(ctx context.Context) {
	retained := time.Time{}
	for tick := time.NewTicker(q.beat); ; {
		select {
		case <-ctx.Done():
			tick.Stop()
			return
		case <-tick.C:
		}
		err := q.store.Alive(ctx, q.client.ID())
		var n int64
		if err == nil {
			n, err = q.store.GiveBack(ctx, 4*q.beat)
		}
		if time.Since(retained) > time.Hour {
			retained = time.Now()
			switch n, err := q.store.Retain(ctx); {
			case err != nil && ctx.Err() == nil:
				slog.Warn("what was archived long ago could not be deleted", "error", err)
			case n > 0:
				slog.Info("what was archived long ago was deleted", "documents", n)
			}
			switch n, err := q.store.RetainReturns(ctx); {
			case err != nil && ctx.Err() == nil:
				slog.Warn("returns that are kept no longer could not be deleted", "error", err)
			case n > 0:
				slog.Info("returns that are kept no longer were deleted", "returns", n)
			}
		}
		switch {
		case err != nil && ctx.Err() == nil:
			slog.Warn("this process could not say that it works", "error", err)
		case n > 0:
			slog.Info("jobs of a process that is gone were given back", "jobs", n)
		}
	}
}

// Stop lets running jobs finish for a moment, then stops them and gives them back, as long as ctx allows.
func (q *Queue) Stop(ctx context.Context) error {
	if q.workers == 0 {
		return nil
	}
	soft, cancel := context.WithTimeout(ctx, softly)
	defer cancel()
	err := q.client.Stop(soft)
	if err != nil {
		err = q.client.StopAndCancel(ctx)
	}
	if q.quiet != nil {
		q.quiet()
		q.beats.Wait()
	}
	if errors.Is(err, context.Canceled) {
		err = nil
	}
	return errors.Join(err, q.store.Left(ctx, q.client.ID()))
}

// put queues a job in the transaction of what it is about; one with the same arguments is queued once.
func (q *Queue) put(ctx context.Context, tx *sql.Tx, w store.Work) (int64, error) {
	var args river.JobArgs
	switch w.Kind {
	case store.WorkRead:
		args = readArgs{Intake: w.ID}
	case store.TaskRecognise:
		args = recogniseArgs{Task: w.ID, Pages: w.Pages}
	case store.TaskFind:
		args = findArgs{Task: w.ID}
	case store.TaskFill:
		args = fillArgs{Task: w.ID}
	case store.WorkPost:
		args = postArgs{Letter: w.ID}
	case store.WorkReturn:
		args = returnArgs{Return: w.ID}
	case store.WorkHook:
		args = hookArgs{Call: w.ID}
	default:
		return 0, fmt.Errorf("%q is no work", w.Kind)
	}
	o := &river.InsertOpts{MaxAttempts: tries}
	if w.Kind == store.WorkPost || w.Kind == store.WorkHook {
		o.MaxAttempts = postTries
	}
	if !w.Again {
		o.UniqueOpts = river.UniqueOpts{ByArgs: true, ByState: []rivertype.JobState{
			rivertype.JobStateAvailable, rivertype.JobStatePending, rivertype.JobStateRetryable, rivertype.JobStateRunning,
			rivertype.JobStateScheduled,
		}}
	}
	res, err := q.insert.InsertTx(ctx, tx, args, o)
	if err != nil {
		return 0, err
	}
	return res.Job.ID, nil
}

// CancelIntake ends an intake; what it has made so far is dropped, the files stay.
func (q *Queue) CancelIntake(ctx context.Context, i store.Intake) error {
	if err := q.store.EndIntake(ctx, i.ID, "cancelled", ""); err != nil {
		return err
	}
	return q.cancel(ctx, i.JobID)
}

// CancelTask ends a task; what it has done so far is dropped.
func (q *Queue) CancelTask(ctx context.Context, t store.Task) error {
	if err := q.store.EndTask(ctx, t.ID, "cancelled", ""); err != nil {
		return err
	}
	return q.cancel(ctx, t.JobID)
}

// cancel ends a job, running or waiting.
func (q *Queue) cancel(ctx context.Context, job *int64) error {
	if job == nil {
		return nil
	}
	_, err := q.client.JobCancel(ctx, *job)
	if errors.Is(err, rivertype.ErrNotFound) {
		return nil
	}
	return err
}

// behind is the context of work that nobody waits for at a screen.
func behind(ctx context.Context) context.Context { return engine.Background(ctx) }

// stopped tells whether work ended for a reason that is not its own, and what the queue is to make of it: it was cancelled, it is given
// back since the process ends, or it may go well another time.
func stopped(ctx context.Context, err error) (error, bool) {
	switch {
	case err == nil:
		return nil, false
	case errors.Is(context.Cause(ctx), rivertype.ErrJobCancelledRemotely):
		return ctx.Err(), true
	case errors.Is(ctx.Err(), context.DeadlineExceeded):
		return nil, false
	case ctx.Err() != nil:
		return river.JobSnooze(0), true
	case store.Away(err), errors.Is(err, object.ErrBusy):
		return err, true
	}
	return nil, false
}

// inWords is the reason why work was given up.
func inWords(ctx context.Context, err error) string {
	if errors.Is(ctx.Err(), context.DeadlineExceeded) {
		return "it took longer than it may: split the document, and try again"
	}
	return err.Error()
}
