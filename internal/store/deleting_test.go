package store_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/store"
)

func count(t *testing.T, s *store.Store, query string, args ...any) (n int) {
	t.Helper()
	require.NoError(t, s.Pool.QueryRow(ctx, query, args...).Scan(&n))
	return n
}

// What is deleted for good leaves nothing but a row of the log; what another document uses stays.
func TestADocumentIsDeletedForGood(t *testing.T) {
	s, who, doc := office(t)
	shared, err := s.KeepFile(ctx, []byte("one"))
	require.NoError(t, err)
	other, err := s.AddDocument(ctx, paper("Crew list", "one", who))
	require.NoError(t, err)
	_, err = s.Change(ctx, doc, 0, who, "", add("a", 700))
	require.NoError(t, err)
	_, err = s.Release(ctx, written(doc, 1, who, "%PDF one"))
	require.NoError(t, err)

	assert.ErrorIs(t, s.Delete(ctx, doc, who, "no longer offered"), store.ErrNotArchived)
	require.NoError(t, s.Archive(ctx, doc, true))
	assert.ErrorIs(t, s.Delete(ctx, doc, who, "  "), store.ErrNoReason)
	require.NoError(t, s.Delete(ctx, doc, who, "no longer offered"))
	assert.ErrorIs(t, s.Delete(ctx, doc, who, "once more"), store.ErrMissing)
	_, err = s.Draft(ctx, doc)
	assert.ErrorIs(t, err, store.ErrMissing)
	for _, table := range []string{"editions", "fields", "edits", "originals"} {
		assert.Zero(t, count(t, s, `select count(*) from `+table+` where document_id = $1`, doc), table)
	}
	assert.Equal(t, 1, count(t, s, `select count(*) from files`), "the edition's file is gone")
	_, err = s.File(ctx, shared)
	require.NoError(t, err, "what another document uses stays")
	_, err = s.Draft(ctx, other)
	require.NoError(t, err)
	list, err := s.Log(ctx, 0, 10)
	require.NoError(t, err)
	require.NotEmpty(t, list)
	assert.Equal(t, store.DeedDelete, list[0].Deed)
	assert.Equal(t, "no longer offered", list[0].Reason)
	assert.Contains(t, list[0].About, "Berth")
	assert.Equal(t, "Imke Maas", list[0].Who)
}

// Neither the log nor the editions can be changed, emptied or shortened by the application's own way to the database.
func TestTheLogAndTheEditionsAreOnlyAddedTo(t *testing.T) {
	s, who, doc := office(t)
	require.NoError(t, s.Note(ctx, who, store.DeedDownload, "berth.pdf"))
	_, err := s.Release(ctx, written(doc, 0, who, "%PDF one"))
	require.NoError(t, err)
	for _, q := range []string{
		`delete from log`, `update log set deed = 'nothing'`, `truncate log`, `delete from editions`, `update editions set number = 9`,
		`truncate editions`, `truncate documents cascade`,
	} {
		_, err := s.Pool.Exec(ctx, q)
		assert.Error(t, err, q)
	}
	assert.Equal(t, 1, count(t, s, `select count(*) from editions`))
	assert.Equal(t, 2, count(t, s, `select count(*) from log`))
}

// What has been archived for longer than the office keeps it goes by itself, and nothing else.
func TestWhatIsArchivedLongEnoughGoesByItself(t *testing.T) {
	s, who, doc := office(t)
	young, err := s.AddDocument(ctx, paper("Crew list", "two", who))
	require.NoError(t, err)
	for _, id := range []int64{doc, young} {
		require.NoError(t, s.Archive(ctx, id, true))
	}
	_, err = s.Pool.Exec(ctx, `update documents set archived_at = now() - interval '40 days' where id = $1`, doc)
	require.NoError(t, err)
	n, err := s.Retain(ctx)
	require.NoError(t, err)
	assert.Zero(t, n, "nothing is set")
	for _, bad := range []string{"0", "-3", "a month", "99999999"} {
		assert.ErrorContains(t, s.SetSetting(ctx, store.Retention, bad, who), "number of days", bad)
	}
	require.NoError(t, s.SetSetting(ctx, store.Retention, "30", who))
	n, err = s.Retain(ctx)
	require.NoError(t, err)
	assert.Equal(t, 1, n)
	_, err = s.Document(ctx, doc)
	assert.ErrorIs(t, err, store.ErrMissing)
	_, err = s.Document(ctx, young)
	require.NoError(t, err)
	list, err := s.Log(ctx, 0, 1)
	require.NoError(t, err)
	assert.Empty(t, list[0].Who, "nobody has done it")
	assert.Contains(t, list[0].Reason, "30 days")
}

// An erased person cannot come in, is not listed, and is a former colleague wherever something was done.
func TestAnErasedPersonIsAFormerColleague(t *testing.T) {
	s, who, doc := office(t)
	other, err := s.AddAccount(ctx, "odalys@example.org", "Odalys Brandt", "administrator", "other secret words")
	require.NoError(t, err)
	_, err = s.Change(ctx, doc, 0, other, "", add("a", 700))
	require.NoError(t, err)
	require.NoError(t, s.Erase(ctx, other, who))
	assert.ErrorIs(t, s.Erase(ctx, who, who), store.ErrLastAdministrator)
	_, err = s.SignIn(ctx, "odalys@example.org", "other secret words")
	assert.ErrorIs(t, err, store.ErrSignIn)
	people, err := s.People(ctx)
	require.NoError(t, err)
	assert.Len(t, people, 1)
	d, err := s.Document(ctx, doc)
	require.NoError(t, err)
	require.NotNil(t, d.ChangedBy)
	assert.Equal(t, store.FormerColleague, *d.ChangedBy)
	assert.Zero(t, count(t, s, `select count(*) from accounts where email like '%odalys%' or name like '%Odalys%'`))
}

// The jobs of a process that says nothing any more are given back; those of one that does are not.
func TestJobsOfSilentProcessesAreGivenBack(t *testing.T) {
	s, _, _ := office(t)
	_, err := s.Pool.Exec(ctx, `create table river_job (id int, state text, kind text, attempt int, attempted_at timestamptz,
		scheduled_at timestamptz, attempted_by text[])`)
	require.NoError(t, err)
	_, err = s.Pool.Exec(ctx, `insert into river_job values (1, 'running', 'read', 2, now() - interval '1 hour', now(), '{old,gone}'),
		(2, 'running', 'find', 1, now() - interval '1 hour', now(), '{there}'), (3, 'running', 'read', 1, now(), now(), '{new}'),
		(4, 'completed', 'read', 1, now() - interval '1 hour', now(), '{gone}')`)
	require.NoError(t, err)
	require.NoError(t, s.Alive(ctx, "there"))
	n, err := s.GiveBack(ctx, 20*time.Second)
	require.NoError(t, err)
	assert.EqualValues(t, 1, n)
	assert.Equal(t, 1, count(t, s, `select attempt from river_job where id = 1 and state = 'available'`), "the try does not count")
	queue, err := s.Queue(ctx)
	require.NoError(t, err)
	assert.Equal(t, []store.Queued{{"find", "running", 1}, {"read", "running", 1}, {"read", "waiting", 1}}, queue)
}
