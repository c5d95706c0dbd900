package storetest

import (
	"context"
	"fmt"
	"math/rand/v2"
	"net/url"
	"os"
	"strconv"
	"strings"
	"sync"
	"syscall"
	"testing"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/store"
)

// Open makes a fresh database on the server that ZM_DATABASE_URL names, and drops
// it when the test ends.
func Open(t testing.TB) *store.Store {
	t.Helper()
	return opened(t, database(t, empty.like(t, func(*store.Store) error { return nil })))
}

// Copy makes a fresh database with what fill puts into one. It is filled once for all the tests of a
// package, and copied for each. Through may change the address at which it is opened.
func Copy(t testing.TB, fill func(*store.Store) error, through ...func(address string) string) *store.Store {
	t.Helper()
	at := database(t, filled.like(t, fill))
	for _, f := range through {
		at = f(at)
	}
	return opened(t, at)
}

// Databases that are made once for all the tests of a package: one whose tables are made, and one with what the tests begin with.
var (
	empty  = pattern{name: "empty"}
	filled = pattern{name: "filled"}
)

// pattern is a database that others are copies of.
type pattern struct {
	name string
	once sync.Once
	made string // its name on the server
}

// like is what makes a new database a copy of the pattern, which is filled when it is asked for first.
func (p *pattern) like(t testing.TB, fill func(*store.Store) error) string {
	t.Helper()
	p.once.Do(func() {
		name := fmt.Sprintf("%s%s_%d", patternPrefix, p.name, os.Getpid())
		forget(t)
		run(t, "create database "+name)
		s, err := store.Open(context.Background(), address(t, name))
		require.NoError(t, err)
		defer s.Close()
		s.Key = key
		require.NoError(t, fill(s))
		p.made = name
	})
	require.NotEmpty(t, p.made, "the database that is copied was not filled")
	return " strategy file_copy template " + p.made // quicker where nothing is made to last
}

// served is how passwords are hashed where people use the application.
var served = store.Hashing

// Tests hash many passwords that nobody guesses: little is done for each.
func init() {
	store.Hashing.Memory, store.Hashing.Iterations = 1<<10, 1
}

// Served has passwords hashed until the test ends as where people use the application.
func Served(t testing.TB) {
	few := store.Hashing
	store.Hashing = served
	t.Cleanup(func() { store.Hashing = few })
}

// key is what certificates are encrypted with in tests.
var key = []byte("thirty-two bytes for tests alone")

const patternPrefix = "zm_pattern_"

// forget drops the patterns of tests that have ended.
func forget(t testing.TB) {
	ctx := context.Background()
	c := connected(t)
	defer c.Close(ctx)
	rows, err := c.Query(ctx, "select datname from pg_database where datname like $1", strings.ReplaceAll(patternPrefix, "_", `\_`)+"%")
	require.NoError(t, err)
	names, err := pgx.CollectRows(rows, pgx.RowTo[string])
	require.NoError(t, err)
	for _, name := range names {
		if pid, err := strconv.Atoi(name[strings.LastIndexByte(name, '_')+1:]); err == nil && syscall.Kill(pid, 0) != nil {
			_, _ = c.Exec(ctx, "drop database if exists "+name) // another package may drop it, too
		}
	}
}

func opened(t testing.TB, address string) *store.Store {
	t.Helper()
	s, err := store.Open(context.Background(), address)
	require.NoError(t, err)
	s.Key = key
	t.Cleanup(s.Close)
	return s
}

// Database makes a fresh database and gives its address.
func Database(t testing.TB) string {
	t.Helper()
	return database(t, "")
}

func database(t testing.TB, like string) string {
	t.Helper()
	name := fmt.Sprintf("zm_test_%d_%d", os.Getpid(), rand.Uint64())
	run(t, "create database "+name+like)
	t.Cleanup(func() { run(t, "drop database if exists "+name+" with (force)") })
	return address(t, name)
}

func base(t testing.TB) string {
	at := os.Getenv("ZM_DATABASE_URL")
	require.NotEmpty(t, at, "the tests need a database: run them with make test, or set ZM_DATABASE_URL")
	return at
}

func address(t testing.TB, name string) string {
	u, err := url.Parse(base(t))
	require.NoError(t, err)
	u.Path = "/" + name
	return u.String()
}

func connected(t testing.TB) *pgx.Conn {
	c, err := pgx.Connect(context.Background(), base(t))
	require.NoError(t, err)
	return c
}

func run(t testing.TB, query string) {
	ctx := context.Background()
	c := connected(t)
	defer c.Close(ctx)
	_, err := c.Exec(ctx, query)
	require.NoError(t, err)
}
