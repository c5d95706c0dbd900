package store

import (
	"archive/tar"
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"
)

// Manifest says what a file that [BackUp] writes has in it.
type Manifest struct {
	Made    time.Time      `json:"made"`
	Release int64          `json:"release"` // the last migration
	Dump    string         `json:"dump"`    // SHA-256 of the dump
	Rows    map[string]int `json:"rows"`    // of every table that is kept
}

// What is kept for a while only, and stands in no backup: who is signed in, links that are good once, the post tray, in which such links
// lie, and jobs, which are put on the queue again when the application starts.
var passing = []string{
	"sessions",
	"links",
	"post_tray",
	"workers",
	"river_job",
	"river_leader",
	"river_client",
	"river_client_queue",
	"river_queue",
}

const (
	manifestName = "backup.json"
	dumpName     = "database.dump"
)

// ErrBackup is a file that is no backup, or not whole.
var ErrBackup = errors.New("this is no backup, or it is not whole: take another copy of it")

// program finds a program of PostgreSQL: on the path, or where Debian keeps those of each version.
func program(name string) (string, error) {
	if p, err := exec.LookPath(name); err == nil && !strings.HasPrefix(p, "/usr/bin/") {
		return p, nil
	}
	all, _ := filepath.Glob("/usr/lib/postgresql/*/bin/" + name)
	if len(all) > 0 {
		slices.Sort(all)
		return all[len(all)-1], nil
	}
	p, err := exec.LookPath(name)
	if err != nil {
		return "", fmt.Errorf("%s is not installed: install the package postgresql-client", name)
	}
	return p, nil
}

// moment is a database as it is now, whatever is changed meanwhile; done gives it back, and may be called twice.
func moment(ctx context.Context, at string) (tx pgx.Tx, done func(), err error) {
	c, err := pgx.Connect(ctx, at)
	if err != nil {
		return nil, nil, fmt.Errorf("the database does not answer: %w", err)
	}
	done = func() { _ = c.Close(context.WithoutCancel(ctx)) } // which ends the transaction
	if tx, err = c.BeginTx(ctx, pgx.TxOptions{IsoLevel: pgx.RepeatableRead, AccessMode: pgx.ReadOnly}); err != nil {
		done()
	}
	return tx, done, err
}

// BackUp writes all that the office has into one file, as it is at one moment, while the application goes on.
func BackUp(ctx context.Context, at, file string) (m Manifest, err error) {
	dump, err := program("pg_dump")
	if err != nil {
		return m, err
	}
	tx, done, err := moment(ctx, at)
	if err != nil {
		return m, err
	}
	defer done()
	var snapshot string
	if err := tx.QueryRow(ctx, `select pg_export_snapshot()`).Scan(&snapshot); err != nil {
		return m, err
	}
	m.Made = time.Now().UTC().Truncate(time.Second)
	if err := tx.QueryRow(ctx, `select max(version_id) from goose_db_version`).Scan(&m.Release); err != nil {
		return m, errors.New("this database has no office in it: name the one that the application uses")
	}
	if m.Rows, err = rowsOf(ctx, tx); err != nil {
		return m, err
	}
	part := file + ".part"
	defer func() { _ = os.Remove(part) }()
	args := []string{"--format=custom", "--no-owner", "--no-privileges", "--snapshot=" + snapshot, "--file=" + part}
	for _, t := range passing {
		args = append(args, "--exclude-table-data=public."+t)
	}
	if err := tool(ctx, dump, at, args...); err != nil {
		return m, err
	}
	return m, pack(file, part, &m)
}

// tool runs a program of PostgreSQL on a database. The password goes by its environment: everybody can read command lines.
func tool(ctx context.Context, name, address string, args ...string) error {
	var said bytes.Buffer
	env := os.Environ()
	if u, err := url.Parse(address); err == nil && u.User != nil {
		if word, there := u.User.Password(); there {
			env = append(env, "PGPASSWORD="+word)
			u.User = url.User(u.User.Username())
			address = u.String()
		}
	}
	c := exec.CommandContext(ctx, name, append([]string{"--dbname=" + address}, args...)...)
	c.Env = env
	c.Stderr = &said
	if err := c.Run(); err != nil {
		words := said.String()
		return fmt.Errorf("%s: %w: %s", filepath.Base(name), err, strings.TrimSpace(words[max(0, len(words)-600):]))
	}
	return nil
}

// rowsOf counts the rows of every table that a backup keeps.
func rowsOf(ctx context.Context, tx pgx.Tx) (map[string]int, error) {
	rows, err := tx.Query(ctx, `select tablename from pg_tables where schemaname = 'public' order by tablename`)
	if err != nil {
		return nil, err
	}
	names, err := pgx.CollectRows(rows, pgx.RowTo[string])
	if err != nil {
		return nil, err
	}
	out := map[string]int{}
	for _, name := range names {
		if slices.Contains(passing, name) {
			continue
		}
		var n int
		if err := tx.QueryRow(ctx, `select count(*) from `+pgx.Identifier{name}.Sanitize()).Scan(&n); err != nil {
			return nil, err
		}
		out[name] = n
	}
	return out, nil
}

// pack puts a dump and what is known of it into one file, which is there whole or not at all.
func pack(file, dump string, m *Manifest) (err error) {
	in, err := os.Open(dump)
	if err != nil {
		return err
	}
	defer in.Close()
	sum := sha256.New()
	size, err := io.Copy(sum, in)
	if err != nil {
		return err
	}
	m.Dump = hex.EncodeToString(sum.Sum(nil))
	if _, err := in.Seek(0, io.SeekStart); err != nil {
		return err
	}
	out, err := os.OpenFile(file+".new", os.O_CREATE|os.O_TRUNC|os.O_WRONLY, 0o600)
	if err != nil {
		return err
	}
	defer func() {
		if err != nil {
			_ = out.Close()
			_ = os.Remove(file + ".new")
		}
	}()
	about, err := json.MarshalIndent(m, "", "  ")
	if err != nil {
		return err
	}
	w := tar.NewWriter(out)
	for _, part := range []struct {
		name string
		size int64
		from io.Reader
	}{{manifestName, int64(len(about)), bytes.NewReader(about)}, {dumpName, size, in}} {
		if err := w.WriteHeader(&tar.Header{Name: part.name, Size: part.size, Mode: 0o600, ModTime: m.Made}); err != nil {
			return err
		}
		if _, err := io.Copy(w, part.from); err != nil {
			return err
		}
	}
	if err := errors.Join(w.Close(), out.Sync(), out.Close()); err != nil {
		return err
	}
	return os.Rename(file+".new", file)
}

// CheckBackup reads a backup through and tells what is in it. The error is ErrBackup when it is not whole. Where dump is not empty, the
// dump is written there.
func CheckBackup(file, dump string) (m Manifest, err error) {
	f, err := os.Open(file)
	if err != nil {
		return m, err
	}
	defer f.Close()
	r := tar.NewReader(f)
	if h, err := r.Next(); err != nil || h.Name != manifestName || json.NewDecoder(io.LimitReader(r, 1<<20)).Decode(&m) != nil {
		return m, ErrBackup
	}
	if h, err := r.Next(); err != nil || h.Name != dumpName {
		return m, ErrBackup
	}
	sum := sha256.New()
	var to io.Writer = sum
	if dump != "" {
		out, oerr := os.OpenFile(dump, os.O_CREATE|os.O_TRUNC|os.O_WRONLY, 0o600)
		if oerr != nil {
			return m, oerr
		}
		defer func() { err = errors.Join(err, out.Close()) }()
		to = io.MultiWriter(sum, out)
	}
	if _, err := io.Copy(to, r); err != nil || hex.EncodeToString(sum.Sum(nil)) != m.Dump {
		return m, ErrBackup
	}
	return m, nil
}

// Restore puts a backup into an empty database, all of it or nothing, and compares what is there then.
func Restore(ctx context.Context, at, file string) (m Manifest, err error) {
	restore, err := program("pg_restore")
	if err != nil {
		return m, err
	}
	before, free, err := moment(ctx, at)
	if err != nil {
		return m, err
	}
	defer free()
	var tables int
	if err := before.QueryRow(ctx, `select count(*) from pg_tables where schemaname = 'public'`).Scan(&tables); err != nil {
		return m, err
	}
	free() // what is restored waits for nobody
	if tables > 0 {
		return m, errors.New("this database is not empty: make a new one with createdb, and name that")
	}
	dir, err := os.MkdirTemp("", "restore")
	if err != nil {
		return m, err
	}
	defer func() { _ = os.RemoveAll(dir) }()
	dump := filepath.Join(dir, dumpName)
	if m, err = CheckBackup(file, dump); err != nil {
		return m, err
	}
	if newest, err := newestMigration(); err != nil || m.Release > newest {
		return m, errors.Join(err, ErrNewer)
	}
	if err := tool(ctx, restore, at, "--no-owner", "--no-privileges", "--exit-on-error", "--single-transaction", dump); err != nil {
		return m, err
	}
	after, done, err := moment(ctx, at)
	if err != nil {
		return m, err
	}
	defer done()
	now, err := rowsOf(ctx, after)
	if err != nil {
		return m, err
	}
	for table, n := range m.Rows {
		if now[table] != n {
			return m, fmt.Errorf("%w (%s has %d rows, not %d)", ErrBackup, table, now[table], n)
		}
	}
	return m, nil
}

// newestMigration is the number of the last migration that this release knows.
func newestMigration() (newest int64, err error) {
	all, err := migrations.ReadDir("migrations")
	for _, f := range all {
		var n int64
		if _, err := fmt.Sscanf(f.Name(), "%d_", &n); err == nil {
			newest = max(newest, n)
		}
	}
	return newest, err
}
