package jobs

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/riverqueue/river"
	"github.com/riverqueue/river/riverdriver/riverpgxv5"
	"github.com/riverqueue/river/rivermigrate"
	"github.com/riverqueue/river/rivertype"

	"zealousmargin.example/internal/store"
)

// Queue puts work on the queue, and does it when it has workers.
type Queue struct {
	client  *river.Client[pgx.Tx]
	store   *store.Store
	workers int
}

// longest is how long a job may take; the processes that it starts have limits of
// their own.
const longest = 2 * time.Hour

// New prepares the queue's tables and a client with so many workers; with none it
// only puts work on the queue.
func New(ctx context.Context, s *store.Store, workers int) (*Queue, error) {
	driver := riverpgxv5.New(s.Pool)
	migrator, err := rivermigrate.New(driver, nil)
	if err != nil {
		return nil, err
	}
	if _, err := migrator.Migrate(ctx, rivermigrate.DirectionUp, nil); err != nil {
		return nil, fmt.Errorf("the queue's tables could not be made: %w", err)
	}
	q := &Queue{store: s, workers: workers}
	config := &river.Config{Logger: slog.New(slog.DiscardHandler), JobTimeout: longest, FetchCooldown: 20 * time.Millisecond}
	if workers > 0 {
		ws := river.NewWorkers()
		river.AddWorker(ws, &reader{store: s, queue: q})
		river.AddWorker(ws, &recogniser{store: s})
		river.AddWorker(ws, &finder{store: s})
		config.Workers = ws
		config.Queues = map[string]river.QueueConfig{river.QueueDefault: {MaxWorkers: workers}}
	}
	if q.client, err = river.NewClient(driver, config); err != nil {
		return nil, err
	}
	return q, nil
}

// Start begins to work, and takes up what an earlier run left waiting.
func (q *Queue) Start(ctx context.Context) error {
	if q.workers > 0 {
		if err := q.client.Start(ctx); err != nil {
			return err
		}
	}
	intakes, err := q.store.WaitingIntakes(ctx)
	if err != nil {
		return err
	}
	for _, id := range intakes {
		if err := q.Read(ctx, id, ""); err != nil {
			return err
		}
	}
	tasks, err := q.store.WaitingTasks(ctx)
	if err != nil {
		return err
	}
	for _, id := range tasks {
		t, err := q.store.Task(ctx, id)
		if err != nil {
			return err
		}
		if err := q.begin(ctx, t.Kind, id); err != nil {
			return err
		}
	}
	return nil
}

// Stop lets running jobs finish, as long as ctx allows.
func (q *Queue) Stop(ctx context.Context) error {
	if q.workers == 0 {
		return nil
	}
	err := q.client.Stop(ctx)
	if errors.Is(err, context.Canceled) {
		return nil
	}
	return err
}

// put queues a job; one with the same arguments is queued once.
func (q *Queue) put(ctx context.Context, args river.JobArgs) (int64, error) {
	res, err := q.client.Insert(ctx, args, &river.InsertOpts{
		UniqueOpts: river.UniqueOpts{ByArgs: true, ByState: []rivertype.JobState{
			rivertype.JobStateAvailable, rivertype.JobStatePending, rivertype.JobStateRetryable, rivertype.JobStateRunning,
			rivertype.JobStateScheduled,
		}}, MaxAttempts: 3,
	})
	if err != nil {
		return 0, err
	}
	return res.Job.ID, nil
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
