package storetest

import (
	"context"
	"fmt"
	"math/rand/v2"
	"net/url"
	"os"
	"testing"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/store"
)

// Open makes a fresh database on the server that ZM_DATABASE_URL names, and drops
// it when the test ends.
func Open(t testing.TB) *store.Store {
	t.Helper()
	s, err := store.Open(context.Background(), Database(t))
	require.NoError(t, err)
	t.Cleanup(s.Close)
	return s
}

// Database makes a fresh database and gives its address.
func Database(t testing.TB) string {
	t.Helper()
	base := os.Getenv("ZM_DATABASE_URL")
	require.NotEmpty(t, base, "the tests need a database: run them with make test, or set ZM_DATABASE_URL")
	ctx := context.Background()
	name := fmt.Sprintf("zm_test_%d_%d", os.Getpid(), rand.Uint64())
	run := func(query string) {
		c, err := pgx.Connect(ctx, base)
		require.NoError(t, err)
		defer c.Close(ctx)
		_, err = c.Exec(ctx, query)
		require.NoError(t, err)
	}
	run("create database " + name)
	t.Cleanup(func() { run("drop database if exists " + name + " with (force)") })
	u, err := url.Parse(base)
	require.NoError(t, err)
	u.Path = "/" + name
	return u.String()
}
