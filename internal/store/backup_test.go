package store_test

import (
	"fmt"
	"os"
	"path/filepath"
	"sync"
	"sync/atomic"
	"testing"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/store"
	"zealousmargin.example/internal/store/storetest"
)

// everything is every row of every table but those that are kept for a while only, as PostgreSQL writes them.
func everything(t *testing.T, url string) map[string][]string {
	t.Helper()
	c, err := pgx.Connect(ctx, url)
	require.NoError(t, err)
	defer c.Close(ctx)
	rows, err := c.Query(ctx, `select tablename from pg_tables where schemaname = 'public' and tablename <> all($1)`,
		[]string{"sessions", "links", "workers", "river_job", "river_leader", "river_client", "river_client_queue", "river_queue"})
	require.NoError(t, err)
	names, err := pgx.CollectRows(rows, pgx.RowTo[string])
	require.NoError(t, err)
	out := map[string][]string{}
	for _, name := range names {
		rows, err := c.Query(ctx, fmt.Sprintf(`select t::text from %s t order by 1`, pgx.Identifier{name}.Sanitize()))
		require.NoError(t, err)
		out[name], err = pgx.CollectRows(rows, pgx.RowTo[string])
		require.NoError(t, err)
	}
	return out
}

// What is backed up while people work is one moment of it, and comes back whole: every row of every table is the same.
func TestABackupComesBackWhole(t *testing.T) {
	at := storetest.Database(t)
	s, err := store.Open(ctx, at)
	require.NoError(t, err)
	t.Cleanup(s.Close)
	who, err := s.AddAccount(ctx, "imke@example.org", "Imke Maas", "administrator", "secret words")
	require.NoError(t, err)
	doc, err := s.AddDocument(ctx, paper("Berth \\ 'quoted' ☂", "one\x00two\xff", who))
	require.NoError(t, err)
	for i := range 20 {
		_, err = s.Change(ctx, doc, -1, who, "", add(fmt.Sprintf("a%d", i), 700-20*float64(i)))
		require.NoError(t, err)
	}
	d, err := s.Draft(ctx, doc)
	require.NoError(t, err)
	_, err = s.Release(ctx, written(doc, d.Document.Revision, who, "%PDF one"))
	require.NoError(t, err)
	require.NoError(t, s.SetSetting(ctx, store.OfficeName, "Outer Harbour", who))
	before := everything(t, at)

	file := filepath.Join(t.TempDir(), "office.backup")
	var stop atomic.Bool
	var work sync.WaitGroup
	work.Go(func() { // somebody goes on
		for i := 0; !stop.Load(); i++ {
			_, err := s.Change(ctx, doc, -1, who, "", add(fmt.Sprintf("b%d", i), 300))
			assert.NoError(t, err)
		}
	})
	m, err := store.BackUp(ctx, at, file)
	stop.Store(true)
	work.Wait()
	require.NoError(t, err)
	assert.Equal(t, 1, m.Rows["documents"])
	info, err := os.Stat(file)
	require.NoError(t, err)
	assert.Equal(t, os.FileMode(0o600), info.Mode().Perm(), "nobody else reads it")

	to := storetest.Database(t)
	_, err = store.Restore(ctx, to, file)
	require.NoError(t, err)
	after := everything(t, to)
	for table, rows := range before {
		if table != "edits" && table != "fields" && table != "documents" {
			assert.Equal(t, rows, after[table], table)
		}
	}
	assert.Equal(t, len(after["edits"]), len(after["fields"]), "one moment: each edit has placed its field")
	assert.GreaterOrEqual(t, len(after["edits"]), 20)

	quiet := filepath.Join(t.TempDir(), "quiet.backup")
	_, err = store.BackUp(ctx, at, quiet)
	require.NoError(t, err)
	again := storetest.Database(t)
	_, err = store.Restore(ctx, again, quiet)
	require.NoError(t, err)
	assert.Equal(t, everything(t, at), everything(t, again), "every row of every table")
	r, err := store.Open(ctx, again)
	require.NoError(t, err)
	defer r.Close()
	_, err = r.SignIn(ctx, "imke@example.org", "secret words")
	require.NoError(t, err)
	_, err = r.Change(ctx, doc, -1, who, "", add("new", 100))
	require.NoError(t, err, "work goes on")

	_, err = store.Restore(ctx, again, quiet)
	assert.ErrorContains(t, err, "not empty")
}

// A backup that was cut off, changed, or is none is said to be so, and nothing is restored from it.
func TestABackupThatIsNotWholeIsRefused(t *testing.T) {
	at := storetest.Database(t)
	s, err := store.Open(ctx, at)
	require.NoError(t, err)
	t.Cleanup(s.Close)
	dir := t.TempDir()
	file := filepath.Join(dir, "office.backup")
	_, err = store.BackUp(ctx, at, file)
	require.NoError(t, err)
	whole, err := os.ReadFile(file)
	require.NoError(t, err)
	_, err = store.CheckBackup(file, "")
	require.NoError(t, err)
	to := storetest.Database(t)
	for name, change := range map[string]func([]byte) []byte{
		"cut":     func(b []byte) []byte { return b[:len(b)/2] },
		"changed": func(b []byte) []byte { b[len(b)/2] ^= 1; return b },
		"none":    func([]byte) []byte { return []byte("Berth application") },
		"empty":   func([]byte) []byte { return nil },
	} {
		spoilt := filepath.Join(dir, name)
		require.NoError(t, os.WriteFile(spoilt, change(append([]byte(nil), whole...)), 0o600))
		_, err := store.CheckBackup(spoilt, "")
		assert.ErrorIs(t, err, store.ErrBackup, name)
		_, err = store.Restore(ctx, to, spoilt)
		assert.ErrorIs(t, err, store.ErrBackup, name)
	}
	assert.Empty(t, everything(t, to), "nothing is there")
	_, err = store.BackUp(ctx, to, filepath.Join(dir, "other"))
	assert.ErrorContains(t, err, "no office")
}
