// Package jobs runs the heavy work in the background, on a queue in PostgreSQL. A
// worker that is killed in mid-job loses nothing: the job runs again, and its
// outcome is written once.
package jobs

import (
	"context"
	"errors"
	"fmt"
	"log/slog"

	"github.com/jackc/pgx/v5"
	"github.com/riverqueue/river"
	"github.com/riverqueue/river/riverdriver/riverpgxv5"
	"github.com/riverqueue/river/rivermigrate"

	"zealousmargin.example/internal/intake"
	"zealousmargin.example/internal/store"
)

// Queue puts work on the queue, and does it when it has workers.
type Queue struct {
	client  *river.Client[pgx.Tx]
	store   *store.Store
	workers int
}

// readArgs asks for an uploaded file to be read.
type readArgs struct {
	Intake int64 `json:"intake" river:"unique"`
}

// Kind names the job in the queue.
func (readArgs) Kind() string { return "read" }

type reader struct {
	river.WorkerDefaults[readArgs]
	store *store.Store
}

// Work reads an uploaded file and makes its document, or says why not.
func (w *reader) Work(ctx context.Context, job *river.Job[readArgs]) error {
	in, err := w.store.Intake(ctx, job.Args.Intake)
	if err != nil {
		return err
	}
	if in.State == "done" || in.State == "refused" {
		return nil
	}
	b, err := w.store.File(ctx, in.File)
	if err != nil {
		return err
	}
	res, err := intake.Read(in.FileName, b, func(what string, done, total int) {
		if err := w.store.IntakeStep(ctx, in.ID, what, done, total); err != nil {
			slog.Warn("progress of an intake was not written", "intake", in.ID, "error", err)
		}
	})
	if err != nil {
		return w.store.RefuseIntake(ctx, in.ID, err.Error())
	}
	return w.store.FinishIntake(ctx, in.ID, store.NewDocument{
		Title: res.Title, FileName: in.FileName, Notice: res.Notice, Original: b, Source: res.Source, Pages: res.Pages, By: in.AccountID,
	})
}

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
	config := &river.Config{Logger: slog.New(slog.DiscardHandler)}
	if workers > 0 {
		ws := river.NewWorkers()
		river.AddWorker(ws, &reader{store: s})
		config.Workers = ws
		config.Queues = map[string]river.QueueConfig{river.QueueDefault: {MaxWorkers: workers}}
	}
	client, err := river.NewClient(driver, config)
	if err != nil {
		return nil, err
	}
	return &Queue{client: client, store: s, workers: workers}, nil
}

// Start begins to work, and takes up what an earlier run left waiting.
func (q *Queue) Start(ctx context.Context) error {
	if q.workers > 0 {
		if err := q.client.Start(ctx); err != nil {
			return err
		}
	}
	waiting, err := q.store.WaitingIntakes(ctx)
	if err != nil {
		return err
	}
	for _, id := range waiting {
		if err := q.Read(ctx, id); err != nil {
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

// Read queues an uploaded file for reading; a file is queued once.
func (q *Queue) Read(ctx context.Context, id int64) error {
	_, err := q.client.Insert(ctx, readArgs{Intake: id}, &river.InsertOpts{UniqueOpts: river.UniqueOpts{ByArgs: true}, MaxAttempts: 3})
	return err
}
