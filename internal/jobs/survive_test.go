package jobs_test

import (
	"archive/zip"
	"bytes"
	"context"
	"fmt"
	"os"
	"os/exec"
	"os/signal"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/demo"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/jobs"
	"zealousmargin.example/internal/pdf/engine"
	"zealousmargin.example/internal/pdf/write"
	"zealousmargin.example/internal/roster"
	"zealousmargin.example/internal/scan/simulate"
	"zealousmargin.example/internal/store"
	"zealousmargin.example/internal/store/storetest"
)

// asWorker is the variable that makes this test a process that works: it holds the address of the database.
const asWorker = "ZM_TEST_WORKER"

// beat is how often the workers of these tests say that they are there.
const beat = 500 * time.Millisecond

func TestMain(m *testing.M) {
	if at := os.Getenv(asWorker); at != "" {
		if err := work(at); err != nil {
			fmt.Fprintln(os.Stderr, err)
			os.Exit(1)
		}
		return
	}
	os.Exit(m.Run())
}

// work does jobs until the process is told to end.
func work(at string) error {
	ctx, stop := signal.NotifyContext(context.Background(), syscall.SIGTERM)
	defer stop()
	s, err := store.Open(ctx, at)
	if err != nil {
		return err
	}
	defer s.Close()
	sender, err := trayed(s, os.Getenv(slowly) != "")
	if err != nil {
		return err
	}
	q, err := jobs.New(ctx, s, jobs.Options{Workers: 1, Beat: beat, Post: sender})
	if err != nil {
		return err
	}
	if err := q.Start(context.WithoutCancel(ctx)); err != nil {
		return err
	}
	<-ctx.Done()
	last, cancel := context.WithTimeout(context.Background(), 10*time.Second)
	defer cancel()
	return q.Stop(last)
}

// worker starts a process that works, with more in its environment.
func worker(t *testing.T, at string, with ...string) *exec.Cmd {
	t.Helper()
	self, err := os.Executable()
	require.NoError(t, err)
	c := exec.Command(self)
	c.Env = append(append(os.Environ(), asWorker+"="+at), with...)
	c.Stderr = os.Stderr
	require.NoError(t, c.Start())
	t.Cleanup(func() {
		_ = c.Process.Kill()
		_ = c.Wait()
	})
	return c
}

// scans is a file of n scanned pages, no two the same.
func scans(t *testing.T, n int) []byte {
	t.Helper()
	d, err := demo.Charges()
	require.NoError(t, err)
	img, err := engine.DrawPage(t.Context(), d.Bytes, 1, 150.0/72)
	require.NoError(t, err)
	var pics []write.Picture
	for i := range n {
		f := simulate.Faults{Specks: 80, Skew: 0.8, Light: 0.2, Seed: uint64(i)}
		pics = append(pics, write.Picture{Image: simulate.Scan(img, 150, f), DPI: 150, Orientation: 1})
	}
	b, err := write.FromPictures(pics)
	require.NoError(t, err)
	return b
}

// A worker that is killed, or told to end, in the middle of a job of any kind: another does it, and nothing is there twice.
func TestWorkSurvivesTheEndOfItsWorker(t *testing.T) {
	few := scans(t, 2)
	paper := map[string][]byte{store.WorkRead: few, store.TaskRecognise: few, store.TaskFind: few}
	table := map[string]string{
		store.WorkRead: "intakes", store.TaskRecognise: "tasks", store.TaskFind: "tasks", store.TaskFill: "tasks",
	}
	for _, kind := range []string{store.WorkRead, store.TaskRecognise, store.TaskFind, store.TaskFill} {
		for _, sig := range []syscall.Signal{syscall.SIGKILL, syscall.SIGTERM} {
			t.Run(kind+" "+sig.String(), func(t *testing.T) {
				ctx := context.Background()
				at := storetest.Database(t)
				s, err := store.Open(ctx, at)
				require.NoError(t, err)
				t.Cleanup(s.Close)
				_, err = jobs.New(ctx, s, jobs.Options{})
				require.NoError(t, err)
				who, err := s.AddAccount(ctx, "imke@example.org", "Imke Maas", "administrator", "secret words")
				require.NoError(t, err)
				state := begin(t, s, who, kind, paper[kind])
				quick := slow(t, s, table[kind])
				first := worker(t, at)
				require.Eventually(t, func() bool { _, n := state(); return n > 0 }, time.Minute, 20*time.Millisecond, "it has begun")
				require.NoError(t, first.Process.Signal(sig))
				err = first.Wait()
				if sig == syscall.SIGTERM {
					require.NoError(t, err, "it ends by itself")
				}
				now, _ := state()
				require.NotEqual(t, "done", now, "it was in the middle")
				quick()
				begun := time.Now()
				worker(t, at)
				require.Eventually(t, func() bool { now, _ := state(); return now == "done" }, 2*time.Minute, 50*time.Millisecond)
				t.Logf("done %.1f s after the next worker started", time.Since(begun).Seconds())
				docs, err := s.Documents(ctx, false)
				require.NoError(t, err)
				assert.Len(t, docs, 1)
				if kind != store.TaskFill { // which changes nothing of the document
					steps, err := s.History(ctx, docs[0].ID, 50)
					require.NoError(t, err)
					assert.Len(t, steps, 1, "one step in the journal")
				}
				require.Eventually(t, func() bool {
					var open int
					err := s.Pool.QueryRow(ctx, `select count(*) from river_job where state <> 'completed'`).Scan(&open)
					return err == nil && open == 0
				}, time.Minute, 50*time.Millisecond, "nothing waits or hangs")
			})
		}
	}
}

// slow has every step of work take longer than a worker that is told to end may go on, so that none is at its end by then; quick
// takes that back.
func slow(t *testing.T, s *store.Store, table string) (quick func()) {
	t.Helper()
	_, err := s.Pool.Exec(t.Context(), `create function slowly() returns trigger language plpgsql
		as $$ begin perform pg_sleep(1.2); return new; end $$;
		create trigger slowly before update on `+table+` for each row execute function slowly()`)
	require.NoError(t, err)
	return func() {
		_, err := s.Pool.Exec(t.Context(), `drop function slowly cascade`)
		require.NoError(t, err)
	}
}

// begin puts work of a kind on the queue. State is how it stands, and how far.
func begin(t *testing.T, s *store.Store, who int64, kind string, paper []byte) (state func() (string, int)) {
	t.Helper()
	ctx := context.Background()
	if kind == store.WorkRead {
		id, err := s.AddIntake(ctx, one(who, "scans.pdf", paper))
		require.NoError(t, err)
		return func() (string, int) {
			in, err := s.Intake(ctx, id)
			require.NoError(t, err)
			return in.State, in.Done
		}
	}
	if kind == store.TaskFill {
		return beginFilling(t, s, who)
	}
	pages, err := engine.Pages(ctx, paper)
	require.NoError(t, err)
	n := store.NewDocument{
		Title: "Scans", By: who, Originals: []store.NamedFile{{Name: "scans.pdf", Bytes: paper}}, Files: [][]byte{paper},
	}
	sha, err := s.KeepFile(ctx, paper)
	require.NoError(t, err)
	var ids []string
	for i, p := range pages {
		p.ID, p.File, p.N, p.Scan = form.NewID(), sha, i+1, true
		n.Pages, ids = append(n.Pages, p), append(ids, p.ID)
	}
	doc, err := s.AddDocument(ctx, n)
	require.NoError(t, err)
	language := ""
	if kind == store.TaskRecognise {
		language = "eng"
	}
	id, err := s.AddTask(ctx, kind, doc, who, ids, language)
	require.NoError(t, err)
	return func() (string, int) {
		task, err := s.Task(ctx, id)
		require.NoError(t, err)
		return task.State, task.Done
	}
}

// beginFilling asks for copies for many people.
func beginFilling(t *testing.T, s *store.Store, who int64) func() (string, int) {
	t.Helper()
	ctx := context.Background()
	d, err := demo.Berth()
	require.NoError(t, err)
	pages, err := engine.Pages(ctx, d.Bytes)
	require.NoError(t, err)
	doc, err := s.AddDocument(ctx, store.NewDocument{
		Title: "Berths", By: who, Originals: []store.NamedFile{{Name: "berth.pdf", Bytes: d.Bytes}}, Files: [][]byte{d.Bytes}, Pages: pages,
	})
	require.NoError(t, err)
	tpl := form.Template{Pages: pages, Fields: []form.Field{{
		ID: "v", Page: 1, Kind: form.Text, Name: "vessel", Rect: geom.R(60, 500, 260, 518), Order: 1,
		Source: form.FromPerson, Datum: "vessel_name",
	}}}
	pdf, err := write.Release(d.Bytes, &tpl)
	require.NoError(t, err)
	e, err := s.Release(ctx, store.NewEdition{
		Document: doc, By: who, PDF: pdf, Form: tpl, Name: func(n int) string { return fmt.Sprintf("berth-%d.pdf", n) },
	})
	require.NoError(t, err)
	people := make([]roster.Person, 300)
	for i := range people {
		people[i] = roster.Person{Key: fmt.Sprint(i), Data: map[string]string{"name": fmt.Sprintf("Person %d", i), "vessel_name": "Petrel"}}
	}
	id, err := s.AddFilling(ctx, e.ID, who, people, false, false)
	require.NoError(t, err)
	return func() (string, int) {
		f, err := s.Filling(ctx, id)
		require.NoError(t, err)
		if f.State == "done" {
			b, err := s.File(ctx, *f.Result)
			require.NoError(t, err)
			z, err := zip.NewReader(bytes.NewReader(b), int64(len(b)))
			require.NoError(t, err)
			require.Len(t, z.File, len(people), "a copy for each")
		}
		return f.State, f.Done
	}
}

// A password opens a file where it is given; no row of the queue has it.
func TestPasswordsStandInNoJob(t *testing.T) {
	ctx := context.Background()
	s := storetest.Open(t)
	_, err := jobs.New(ctx, s, jobs.Options{})
	require.NoError(t, err)
	who, err := s.AddAccount(ctx, "imke@example.org", "Imke Maas", "administrator", "secret words")
	require.NoError(t, err)
	id, err := s.AddIntake(ctx, one(who, "locked.pdf", []byte("%PDF-1.7 locked")))
	require.NoError(t, err)
	require.NoError(t, s.EndIntake(ctx, id, "locked", "locked"))
	require.NoError(t, s.UnlockIntake(ctx, id, [][]byte{[]byte("%PDF-1.7 open")}))
	var args string
	require.NoError(t, s.Pool.QueryRow(ctx, `select string_agg(args::text, ' ') from river_job`).Scan(&args))
	assert.NotContains(t, strings.ToLower(args), "password")
	files, err := s.IntakeFiles(ctx, id)
	require.NoError(t, err)
	assert.Equal(t, "%PDF-1.7 open", string(files[0].Opened))
	assert.Equal(t, "%PDF-1.7 locked", string(files[0].Bytes), "what came is kept as it came")
}

// Work that was given up by a fault of ours is listed with its reason, and is done when it is tried again.
func TestWhatWasGivenUpCanBeTriedAgain(t *testing.T) {
	ctx := context.Background()
	s := storetest.Open(t)
	q, err := jobs.New(ctx, s, jobs.Options{Workers: 1})
	require.NoError(t, err)
	who, err := s.AddAccount(ctx, "imke@example.org", "Imke Maas", "administrator", "secret words")
	require.NoError(t, err)
	berth, err := demo.Berth()
	require.NoError(t, err)
	id, err := s.AddIntake(ctx, one(who, "berth.pdf", berth.Bytes))
	require.NoError(t, err)
	// The same file can be read no more: its rows are broken as a fault of ours would do.
	_, err = s.Pool.Exec(ctx, `alter table documents add constraint broken check (false)`)
	require.NoError(t, err)
	_, err = s.Pool.Exec(ctx, `update river_job set max_attempts = 1`)
	require.NoError(t, err)
	require.NoError(t, q.Start(ctx))
	defer func() {
		last, cancel := context.WithTimeout(ctx, 10*time.Second)
		defer cancel()
		assert.NoError(t, q.Stop(last))
	}()
	state := func() string {
		in, err := s.Intake(ctx, id)
		require.NoError(t, err)
		return in.State
	}
	require.Eventually(t, func() bool { return state() == "failed" }, 30*time.Second, 50*time.Millisecond)
	list, err := s.Failures(ctx)
	require.NoError(t, err)
	require.Len(t, list, 1)
	assert.Equal(t, "berth.pdf", list[0].What)
	assert.Contains(t, list[0].Problem, "nothing was lost")
	_, err = s.Pool.Exec(ctx, `alter table documents drop constraint broken`)
	require.NoError(t, err)
	require.NoError(t, s.TryAgain(ctx, list[0].Kind, list[0].ID))
	require.Eventually(t, func() bool { return state() == "done" }, 30*time.Second, 50*time.Millisecond)
	list, err = s.Failures(ctx)
	require.NoError(t, err)
	assert.Empty(t, list)
	sizes, err := s.Largest(ctx, 5)
	require.NoError(t, err)
	require.Len(t, sizes, 1)
	assert.Equal(t, int64(len(berth.Bytes)), sizes[0].Bytes)
}

// A return that is being read when its reader is killed is read by another, once.
func TestAReturnIsReadThoughItsReaderIsKilled(t *testing.T) {
	ctx := context.Background()
	at := storetest.Database(t)
	s, err := store.Open(ctx, at)
	require.NoError(t, err)
	t.Cleanup(s.Close)
	_, err = jobs.New(ctx, s, jobs.Options{})
	require.NoError(t, err)
	who, err := s.AddAccount(ctx, "imke@example.org", "Imke Maas", "administrator", "secret words")
	require.NoError(t, err)
	beginFilling(t, s, who) // an edition
	_, err = s.Pool.Exec(ctx, `delete from river_job`)
	require.NoError(t, err)
	e, err := s.Edition(ctx, 1)
	require.NoError(t, err)
	file, err := s.File(ctx, e.File)
	require.NoError(t, err)
	img, err := engine.DrawPage(ctx, file, 1, 200.0/72)
	require.NoError(t, err)
	paper, err := write.FromPictures([]write.Picture{{Image: simulate.Scan(img, 200, simulate.Faults{Skew: 1}), DPI: 200, Orientation: 1}})
	require.NoError(t, err)
	id, err := s.Receive(ctx, store.Arrived{Target: store.Target{Document: e.DocumentID}, Road: "paper", Kind: "pdf", Bytes: paper})
	require.NoError(t, err)
	first := worker(t, at)
	require.Eventually(t, func() bool {
		var n int
		return s.Pool.QueryRow(ctx, `select count(*) from river_job where kind = 'return' and state = 'running'`).Scan(&n) == nil && n == 1
	}, time.Minute, 10*time.Millisecond, "it has begun")
	require.NoError(t, first.Process.Kill())
	_ = first.Wait()
	r, err := s.Return(ctx, id)
	require.NoError(t, err)
	require.Equal(t, "unread", r.State, "it was in the middle")
	worker(t, at)
	require.Eventually(t, func() bool {
		r, err := s.Return(ctx, id)
		return err == nil && r.State == "new"
	}, 2*time.Minute, 50*time.Millisecond)
	files, err := s.Attached(ctx, id)
	require.NoError(t, err)
	assert.Len(t, files, 1, "the paper, laid over its page, once")
}
