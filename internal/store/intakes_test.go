package store_test

import (
	"fmt"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/store"
)

// An intake ends once, whatever comes to it in whatever order: done makes one document, cancelled none, and only one that is locked is
// unlocked.
func TestAnIntakeEndsOnce(t *testing.T) {
	rng := seeded(t)
	s, person, _ := office(t)
	for range 25 {
		id, err := s.AddIntake(ctx, store.NewIntake{Account: person, Files: []store.NamedFile{
			{Name: "a.pdf", Bytes: fmt.Append(nil, rng.Uint64())}, {Name: "b.pdf", Bytes: []byte("second")},
		}})
		require.NoError(t, err)
		state, done := "waiting", false
		running := func() bool { return state == "waiting" || state == "reading" }
		for range 12 {
			switch rng.IntN(6) {
			case 0:
				err := s.IntakeStep(ctx, id, "reading page 1", 1, 4)
				if running() {
					require.NoError(t, err)
					state = "reading"
				} else {
					require.ErrorIs(t, err, store.ErrMissing)
				}
			case 1:
				require.NoError(t, s.EndIntake(ctx, id, "locked", "it asks for a password"))
				if running() || state == "locked" {
					state = "locked"
				}
			case 2:
				end := []string{"refused", "cancelled"}[rng.IntN(2)]
				require.NoError(t, s.EndIntake(ctx, id, end, "why"))
				if running() || state == "locked" {
					state = end
				}
			case 3:
				require.NoError(t, s.UnlockIntake(ctx, id, [][]byte{[]byte("opened"), nil}))
				if state == "locked" {
					state = "waiting"
					files, err := s.IntakeFiles(ctx, id)
					require.NoError(t, err)
					require.Len(t, files, 2)
					assert.Equal(t, "opened", string(files[0].Opened))
					assert.Empty(t, files[1].Opened)
				}
			default:
				if state == "refused" || state == "locked" {
					continue // a job that is refused or waits for a password does not finish
				}
				require.NoError(t, s.FinishIntake(ctx, id, paper("In", "in", person), 0))
				if state != "cancelled" {
					state, done = "done", true
				}
			}
			in, err := s.Intake(ctx, id)
			require.NoError(t, err)
			require.Equal(t, state, in.State)
			require.Equal(t, running(), in.Running())
			require.Equal(t, done, in.DocumentID != nil)
			require.Equal(t, "a.pdf and 1 more", in.FileName)
		}
	}
	list, err := s.RunningIntakes(ctx, person)
	require.NoError(t, err)
	for _, in := range list {
		assert.Contains(t, []string{"waiting", "reading", "locked"}, in.State)
	}
}

// A job that is done twice at the same time makes one document.
func TestAnIntakeThatIsFinishedTwiceAtOnce(t *testing.T) {
	s, person, doc := office(t)
	var wait sync.WaitGroup
	own, err := s.AddIntake(ctx, store.NewIntake{Account: person, Files: []store.NamedFile{{Name: "a.pdf", Bytes: []byte("a")}}})
	require.NoError(t, err)
	b := []store.NamedFile{{Name: "b.pdf", Bytes: []byte("b")}}
	into, err := s.AddIntake(ctx, store.NewIntake{Account: person, Into: doc, At: 2, Files: b})
	require.NoError(t, err)
	under, err := s.IntakesInto(ctx, person, doc)
	require.NoError(t, err)
	require.Len(t, under, 1)
	for range 4 {
		wait.Go(func() { assert.NoError(t, s.FinishIntake(ctx, own, paper("In", "in", person), 0)) })
		wait.Go(func() { assert.NoError(t, s.FinishIntake(ctx, into, paper("More", "more", person), 0)) })
	}
	wait.Wait()
	docs, err := s.Documents(ctx, false)
	require.NoError(t, err)
	assert.Len(t, docs, 2)
	d := draft(t, s, doc)
	require.Len(t, d.Template.Pages, 2)
	assert.NotEqual(t, d.Template.Pages[0].ID, d.Template.Pages[1].ID)
	steps, err := s.History(ctx, doc, 10)
	require.NoError(t, err)
	assert.Len(t, steps, 1)
}

// A task goes on from the pages that are done, ends once, and leaves alone what has gone from the document in the meantime.
func TestATaskEndsOnceAndPassesOverWhatHasGone(t *testing.T) {
	s, person, _ := office(t)
	n := paper("Scans", "scans", person)
	n.Pages = append(n.Pages, form.Page{ID: "p2", Width: 595, Height: 842, File: "f", N: 2})
	doc, err := s.AddDocument(ctx, n)
	require.NoError(t, err)
	_, err = s.LastTask(ctx, store.TaskRecognise, doc)
	require.ErrorIs(t, err, store.ErrMissing)
	id, err := s.AddTask(ctx, store.TaskRecognise, doc, person, []string{"p1", "p2", "gone"}, "eng")
	require.NoError(t, err)
	for i, page := range []string{"p1", "p2", "p1"} { // the first is read once more
		require.NoError(t, s.TaskStep(ctx, id, "recognising", i))
		require.NoError(t, s.TaskPart(ctx, id, page, store.Recognised{File: page + "-text", Words: 10 * (i + 1)}))
	}
	parts, err := s.TaskParts(ctx, id)
	require.NoError(t, err)
	assert.Equal(t, map[string]store.Recognised{"p1": {File: "p1-text", Words: 30}, "p2": {File: "p2-text", Words: 20}}, parts)
	last, err := s.LastTask(ctx, store.TaskRecognise, doc)
	require.NoError(t, err)
	assert.True(t, last.Running())
	assert.Equal(t, []string{"p1", "p2", "gone"}, last.Pages())
	assert.Equal(t, 5+95*2/3, last.Percent())
	texts := map[string]string{"p1": "p1-text", "p2": "p2-text", "gone": "gone-text"}
	var wait sync.WaitGroup
	for range 4 {
		wait.Go(func() { assert.NoError(t, s.FinishRecognise(ctx, id, texts, 60, "recognised 2 pages")) })
	}
	wait.Wait()
	d := draft(t, s, doc)
	assert.Equal(t, "p2-text", d.Template.Pages[1].Text)
	steps, err := s.History(ctx, doc, 10)
	require.NoError(t, err)
	assert.Len(t, steps, 1)
	require.ErrorIs(t, s.TaskStep(ctx, id, "late", 3), store.ErrMissing)
	require.ErrorIs(t, s.TaskPart(ctx, id, "p1", store.Recognised{}), store.ErrMissing)
	require.NoError(t, s.EndTask(ctx, id, "failed", "late"))
	done, err := s.Task(ctx, id)
	require.NoError(t, err)
	assert.Equal(t, "done", done.State)
	assert.Equal(t, 60, done.Words)

	find, err := s.AddTask(ctx, store.TaskFind, doc, person, []string{"p1", "p2"}, "")
	require.NoError(t, err)
	found := func(id string) form.Field {
		return form.Field{ID: id, Kind: form.Text, Name: "name_" + id, Rect: geom.R(50, 100, 250, 120), Find: &form.Find{Confidence: 0.9}}
	}
	require.NoError(t, s.FinishFind(ctx, find, map[string][]form.Field{"p2": {found("a")}, "gone": {found("b")}}))
	d = draft(t, s, doc)
	require.Len(t, d.Template.Fields, 1)
	assert.Equal(t, 2, d.Template.Fields[0].Page)
	require.NoError(t, s.AddFind(ctx, doc, person))
	again, err := s.LastTask(ctx, store.TaskFind, doc)
	require.NoError(t, err)
	require.NoError(t, s.FinishFind(ctx, again.ID, map[string][]form.Field{"p2": {found("c")}}))
	assert.Len(t, draft(t, s, doc).Template.Fields, 1, "there is a field at that place")
	require.NoError(t, s.AddFind(ctx, doc, person))
	stopped, err := s.LastTask(ctx, store.TaskFind, doc)
	require.NoError(t, err)
	require.NoError(t, s.EndTask(ctx, stopped.ID, "cancelled", ""))
	require.NoError(t, s.FinishFind(ctx, stopped.ID, map[string][]form.Field{"p1": {found("d")}}))
	assert.Len(t, draft(t, s, doc).Template.Fields, 1, "it was called off")
}

// A folder is worked through when nothing of it waits: neither a file that is read nor the recognising of one.
func TestAFolderIsOpenWhileAnythingOfItWaits(t *testing.T) {
	s, person, _ := office(t)
	batch, err := s.AddBatch(ctx, person, "Old forms", "eng", "notes.xyz", []store.NamedFile{
		{Name: "a.pdf", Bytes: []byte("a")}, {Name: "b.pdf", Bytes: []byte("b")}, {Name: "c.pdf", Bytes: []byte("c")},
	})
	require.NoError(t, err)
	open := func() int {
		b, err := s.Batch(ctx, batch)
		require.NoError(t, err)
		assert.Equal(t, 3, b.Documents)
		return b.Open
	}
	assert.Equal(t, 3, open())
	rows, err := s.BatchRows(ctx, batch)
	require.NoError(t, err)
	require.Len(t, rows, 3)
	n := paper("A", "a", person)
	n.Pages[0].Scan = true
	require.NoError(t, s.FinishIntake(ctx, rows[0].ID, n, 1))
	assert.Equal(t, 3, open(), "it is a scan, and its text is still to be read")
	require.NoError(t, s.FinishIntake(ctx, rows[1].ID, paper("B", "b", person), 0))
	require.NoError(t, s.EndIntake(ctx, rows[2].ID, "refused", "this is no PDF"))
	assert.Equal(t, 1, open())
	rows, err = s.BatchRows(ctx, batch)
	require.NoError(t, err)
	task, err := s.LastTask(ctx, store.TaskRecognise, *rows[0].DocumentID)
	require.NoError(t, err)
	assert.Equal(t, "eng", task.Language)
	require.NoError(t, s.FinishRecognise(ctx, task.ID, map[string]string{"p1": "text"}, 12, "recognised"))
	assert.Zero(t, open())
	rows, err = s.BatchRows(ctx, batch)
	require.NoError(t, err)
	assert.Equal(t, []string{"A", "B", ""}, []string{rows[0].Title, rows[1].Title, rows[2].Title})
	assert.Equal(t, 12, rows[0].Words)
	assert.Equal(t, "this is no PDF", rows[2].Problem)
	all, err := s.Batches(ctx)
	require.NoError(t, err)
	assert.Len(t, all, 1)
	mine, err := s.RunningIntakes(ctx, person)
	require.NoError(t, err)
	assert.Empty(t, mine, "those of folders are shown with their folder")
}
