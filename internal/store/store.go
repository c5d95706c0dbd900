package store

import (
	"context"
	"crypto/sha256"
	"database/sql"
	"embed"
	"encoding/hex"
	"errors"
	"fmt"
	"io/fs"

	lru "github.com/hashicorp/golang-lru/v2"
	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/jackc/pgx/v5/stdlib"
	"github.com/jmoiron/sqlx"
	"github.com/pressly/goose/v3"
	"github.com/pressly/goose/v3/lock"
)

//go:embed migrations/*.sql
var migrations embed.FS

// ErrMissing is returned when what is asked for does not exist.
var ErrMissing = errors.New("this does not exist any more: go back and choose again")

// Store is the database. Pool is the same database for the job queue.
type Store struct {
	db     *sqlx.DB
	Pool   *pgxpool.Pool
	drafts *lru.Cache[int64, rows] // by document
	known  int64                   // the last migration
	// Enqueue puts work on the queue in the transaction of what it is about, and gives the number of its job. Without it what waits is
	// taken up when a queue starts.
	Enqueue func(context.Context, *sql.Tx, Work) (int64, error)
	// Key is what kept certificates are encrypted with, 32 bytes; without it none can be kept.
	Key []byte
}

// Work is what a job is about.
type Work struct {
	Kind  string `db:"kind"`  // WorkRead, WorkPost, WorkReturn, WorkHook, or the kind of a task
	ID    int64  `db:"id"`    // of the intake, the letter, the return, the call or the task
	Pages int    `db:"pages"` // on how many pages
	Again bool   `db:"-"`     // its last job may not have been put aside yet
}

// WorkRead is the work on an intake.
const WorkRead = "read"

// enqueue puts work on the queue and keeps the number of its job.
func (s *Store) enqueue(ctx context.Context, tx *sqlx.Tx, w Work) error {
	if s.Enqueue == nil {
		return nil
	}
	job, err := s.Enqueue(ctx, tx.Tx, w)
	if err != nil {
		return err
	}
	table := "tasks"
	switch w.Kind {
	case WorkRead:
		table = "intakes"
	case WorkPost:
		table = "letters"
	case WorkReturn:
		table = "returns"
	case WorkHook:
		table = "hook_calls"
	}
	_, err = tx.ExecContext(ctx, `update `+table+` set job_id = $2 where id = $1`, w.ID, job)
	return err
}

// Open connects to url (postgres://...) and brings the tables up to date.
func Open(ctx context.Context, url string) (*Store, error) {
	pool, err := pgxpool.New(ctx, url)
	if err != nil {
		return nil, fmt.Errorf("the database address is not valid: %w", err)
	}
	if err := pool.Ping(ctx); err != nil {
		pool.Close()
		return nil, fmt.Errorf("the database does not answer: %w", err)
	}
	drafts, err := lru.New[int64, rows](64)
	if err != nil {
		return nil, err
	}
	s := &Store{db: sqlx.NewDb(stdlib.OpenDBFromPool(pool), "pgx"), Pool: pool, drafts: drafts}
	dir, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return nil, err
	}
	if err := s.migrate(ctx, dir); err != nil {
		s.Close()
		return nil, err
	}
	return s, nil
}

// ErrNewer is a database that a later release of the application has brought up to date.
var ErrNewer = errors.New("the database belongs to a newer release of the application: start that one, or restore a backup of this one")

// migrate brings the tables up to date, one server after the other.
func (s *Store) migrate(ctx context.Context, dir fs.FS) error {
	one, err := lock.NewPostgresSessionLocker()
	if err != nil {
		return err
	}
	up, err := goose.NewProvider(goose.DialectPostgres, s.db.DB, dir, goose.WithSessionLocker(one))
	if err != nil {
		return err
	}
	var now int64
	for _, m := range up.ListSources() {
		s.known = max(s.known, m.Version)
	}
	err = s.db.GetContext(ctx, &now, `select coalesce(max(version_id), 0) from goose_db_version`)
	if err == nil && now > s.known { // before the first start there is no such table
		return ErrNewer
	}
	if _, err := up.Up(ctx); err != nil {
		return fmt.Errorf("the tables could not be brought up to date: %w", err)
	}
	return nil
}

// DB is the connection for libraries that keep tables of their own.
func (s *Store) DB() *sql.DB { return s.db.DB }

// Close ends all connections.
func (s *Store) Close() {
	_ = s.db.Close()
	s.Pool.Close()
}

// tx runs f in one transaction.
func (s *Store) tx(ctx context.Context, f func(*sqlx.Tx) error) error {
	tx, err := s.db.BeginTxx(ctx, nil)
	if err != nil {
		return err
	}
	if err := f(tx); err != nil {
		return errors.Join(err, tx.Rollback())
	}
	return tx.Commit()
}

// gone turns "no rows" into ErrMissing.
func gone(err error) error {
	if errors.Is(err, sql.ErrNoRows) {
		return ErrMissing
	}
	return err
}

// KeepFile stores b under its SHA-256, once, and returns that in hex.
func (s *Store) KeepFile(ctx context.Context, b []byte) (string, error) {
	return keepFile(ctx, s.db, b)
}

func keepFile(ctx context.Context, db sqlx.ExecerContext, b []byte) (string, error) {
	sum := sha256.Sum256(b)
	sha := hex.EncodeToString(sum[:])
	_, err := db.ExecContext(ctx, `insert into files (sha256, bytes) values ($1, $2) on conflict do nothing`, sha, b)
	return sha, err
}

// File reads a file by its SHA-256.
func (s *Store) File(ctx context.Context, sha string) ([]byte, error) {
	var b []byte
	err := s.db.GetContext(ctx, &b, `select bytes from files where sha256 = $1`, sha)
	return b, gone(err)
}
