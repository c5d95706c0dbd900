package store_test

import (
	"context"
	"strings"
	"sync"
	"testing"

	"github.com/alexedwards/argon2id"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/store"
	"zealousmargin.example/internal/store/storetest"
)

var ctx = context.Background()

// paper is a document of one page.
func paper(title, content string, by int64) store.NewDocument {
	return store.NewDocument{
		Title: title, Originals: []store.NamedFile{{Name: "b.pdf", Bytes: []byte(content)}}, Files: [][]byte{[]byte(content)},
		Pages: []form.Page{{ID: "p1", Width: 595, Height: 842, File: "f", N: 1}}, By: by,
	}
}

func office(t *testing.T) (s *store.Store, person, doc int64) {
	t.Helper()
	s = storetest.Open(t)
	person, err := s.AddAccount(ctx, "Imke@Example.org", "Imke Maas", "administrator", "secret words")
	require.NoError(t, err)
	doc, err = s.AddDocument(ctx, paper("Berth", "one", person))
	require.NoError(t, err)
	return s, person, doc
}

func add(name string, y float64) func(*form.Template) (form.Edit, error) {
	return func(t *form.Template) (form.Edit, error) {
		return t.Place(form.Field{Page: 1, Kind: form.Text, Name: name, Rect: geom.R(50, y, 150, y+16)})
	}
}

func draft(t *testing.T, s *store.Store, doc int64) store.Draft {
	t.Helper()
	d, err := s.Draft(ctx, doc)
	require.NoError(t, err)
	return d
}

func TestSignIn(t *testing.T) {
	s, person, _ := office(t)
	a, err := s.SignIn(ctx, " imke@example.org ", "secret words")
	require.NoError(t, err)
	assert.Equal(t, person, a.ID)
	assert.Equal(t, "IM", a.Initials())
	assert.Contains(t, a.PasswordHash, "$argon2id$", "passwords are kept as argon2id only (RFC 9106)")
	_, err = s.SignIn(ctx, "imke@example.org", "wrong")
	assert.ErrorIs(t, err, store.ErrSignIn)
	_, err = s.SignIn(ctx, "nobody@example.org", "secret words")
	assert.ErrorIs(t, err, store.ErrSignIn)
}

func TestUndoAndRedoAreKeptInTheJournal(t *testing.T) {
	s, who, doc := office(t)
	for i, n := range []string{"a", "b", "c"} {
		_, err := s.Change(ctx, doc, int64(i), who, "fit", add(n, 700-float64(i)*30))
		require.NoError(t, err)
	}
	_, err := s.Undo(ctx, doc, who, -1, false)
	require.NoError(t, err)
	_, err = s.Undo(ctx, doc, who, -1, false)
	require.NoError(t, err)
	d := draft(t, s, doc) // read afresh, as after a reload
	require.Len(t, d.Template.Fields, 1)
	assert.Equal(t, "placed a", d.Undo)
	assert.Equal(t, "placed b", d.Redo)
	_, err = s.Undo(ctx, doc, who, -1, true)
	require.NoError(t, err)
	d = draft(t, s, doc)
	assert.Len(t, d.Template.Fields, 2)
	assert.Equal(t, "placed c", d.Redo)
	// A new edit ends what could be redone.
	_, err = s.Change(ctx, doc, d.Document.Revision, who, "", add("d", 400))
	require.NoError(t, err)
	assert.Empty(t, draft(t, s, doc).Redo)
	_, err = s.Undo(ctx, doc, who, -1, true)
	assert.ErrorIs(t, err, store.ErrNoUndo)
	for range 3 {
		_, err = s.Undo(ctx, doc, who, -1, false)
		require.NoError(t, err)
	}
	_, err = s.Undo(ctx, doc, who, -1, false)
	assert.ErrorIs(t, err, store.ErrNoUndo)
	assert.Empty(t, draft(t, s, doc).Template.Fields)
	assert.Equal(t, "fit", draft(t, s, doc).Document.Stage)
}

func TestTwoPeopleOnOneDraft(t *testing.T) {
	s, who, doc := office(t)
	other, err := s.AddAccount(ctx, "odalys@example.org", "Odalys Brandt", "preparer", "other words")
	require.NoError(t, err)
	e, err := s.Change(ctx, doc, 0, who, "", add("a", 700))
	require.NoError(t, err)
	a := e.After[0].ID
	_, err = s.Change(ctx, doc, 1, who, "", add("b", 600))
	require.NoError(t, err)
	seen := int64(2) // both have this revision before them
	_, err = s.Change(ctx, doc, seen, who, "", func(t *form.Template) (form.Edit, error) { return t.Rename(a, "a_renamed") })
	require.NoError(t, err)
	// The other one moves the same field: shown, not lost.
	_, err = s.Change(ctx, doc, seen, other, "", func(t *form.Template) (form.Edit, error) { return t.Move([]string{a}, 5, 0) })
	assert.ErrorIs(t, err, form.ErrClash)
	// Another field is no clash.
	_, err = s.Change(ctx, doc, seen, other, "", add("c", 500))
	require.NoError(t, err)
	d := draft(t, s, doc)
	f, _ := d.Template.Field(a)
	assert.Equal(t, "a_renamed", f.Name)
	assert.InDelta(t, 50, f.Rect.X0, 1e-9)
	assert.Len(t, d.Template.Fields, 3)
	assert.Equal(t, "Odalys Brandt", *d.Document.ChangedBy)
}

func TestARefusedEditLeavesNothingBehind(t *testing.T) {
	s, who, doc := office(t)
	_, err := s.Change(ctx, doc, 0, who, "", func(t *form.Template) (form.Edit, error) {
		return form.Edit{After: []form.Field{{ID: "x", Page: 9, Kind: form.Text, Name: "x", Rect: geom.R(0, 0, 50, 50)}}}, nil
	})
	require.Error(t, err)
	d := draft(t, s, doc)
	assert.Zero(t, d.Document.Revision)
	assert.Empty(t, d.Undo)
}

func TestEditionsAreNumberedAndCannotBeChanged(t *testing.T) {
	s, who, doc := office(t)
	_, err := s.Change(ctx, doc, 0, who, "", add("a", 700))
	require.NoError(t, err)
	first, err := s.Release(ctx, written(doc, 1, who, "%PDF one"))
	require.NoError(t, err)
	assert.Equal(t, 1, first.Number)
	assert.True(t, draft(t, s, doc).Document.Settled)
	_, err = s.Change(ctx, doc, 1, who, "", add("b", 600))
	require.NoError(t, err)
	assert.False(t, draft(t, s, doc).Document.Settled)
	_, err = s.Release(ctx, written(doc, 1, who, "%PDF two"))
	require.ErrorIs(t, err, form.ErrClash, "what was written is no longer the draft")
	second, err := s.Release(ctx, written(doc, 2, who, "%PDF two"))
	require.NoError(t, err)
	assert.Equal(t, "berth-2.pdf", second.FileName)
	_, err = s.DB().ExecContext(ctx, `update editions set number = 9 where id = $1`, first.ID)
	require.ErrorContains(t, err, "cannot be changed")
	_, err = s.DB().ExecContext(ctx, `delete from editions`)
	require.ErrorContains(t, err, "cannot be changed")
	b, err := s.File(ctx, first.File)
	require.NoError(t, err)
	assert.Equal(t, "%PDF one", string(b))
}

func TestArchiveAndBringBack(t *testing.T) {
	s, who, doc := office(t)
	require.NoError(t, s.Archive(ctx, doc, true))
	list, err := s.Documents(ctx, false)
	require.NoError(t, err)
	assert.Empty(t, list)
	list, err = s.Documents(ctx, true)
	require.NoError(t, err)
	assert.Len(t, list, 1)
	require.NoError(t, s.Archive(ctx, doc, false))
	require.NoError(t, s.Describe(ctx, doc, "  Berth   application ", "for 2027", who))
	d := draft(t, s, doc)
	assert.Equal(t, "Berth application", d.Document.Title)
	assert.ErrorContains(t, s.Describe(ctx, doc, " ", "", who), "needs a name")
	assert.ErrorIs(t, s.Archive(ctx, 4711, true), store.ErrMissing)
}

func TestAnIntakeMakesItsDocumentOnce(t *testing.T) {
	s, who, _ := office(t)
	add := func() int64 {
		id, err := s.AddIntake(ctx, store.NewIntake{Account: who, Files: []store.NamedFile{{Name: "x.pdf", Bytes: []byte("x")}}})
		require.NoError(t, err)
		return id
	}
	id := add()
	finish := func(id int64, title string) {
		require.NoError(t, s.FinishIntake(ctx, id, paper(title, title, who), 0))
	}
	finish(id, "X")
	finish(id, "X") // a job that runs twice changes nothing
	cancelled := add()
	require.NoError(t, s.EndIntake(ctx, cancelled, "cancelled", ""))
	finish(cancelled, "Y") // a cancelled one makes nothing
	require.NoError(t, s.EndIntake(ctx, id, "cancelled", ""))
	in, err := s.Intake(ctx, id)
	require.NoError(t, err)
	assert.Equal(t, "done", in.State, "what is done stays done")
	list, err := s.Documents(ctx, false)
	require.NoError(t, err)
	assert.Len(t, list, 2)
}

// The scans of a folder wait for their recognition from the same moment on in which
// their document is there.
func TestADocumentOfAFolderComesWithTheTaskForItsScans(t *testing.T) {
	s, who, _ := office(t)
	batch, err := s.AddBatch(ctx, who, "quay", "eng", "", []store.NamedFile{{Name: "x.pdf", Bytes: []byte("x")}})
	require.NoError(t, err)
	rows, err := s.BatchRows(ctx, batch)
	require.NoError(t, err)
	require.Len(t, rows, 1)
	id := rows[0].ID
	n := paper("X", "x", who)
	n.Pages[0].Scan = true
	require.NoError(t, s.FinishIntake(ctx, id, n, 1))
	in, err := s.Intake(ctx, id)
	require.NoError(t, err)
	got, err := s.LastTask(ctx, store.TaskRecognise, *in.DocumentID)
	require.NoError(t, err)
	b, err := s.Batch(ctx, batch)
	require.NoError(t, err)
	assert.Equal(t, 1, b.Open, "the folder is not worked through")
	assert.Equal(t, []string{n.Pages[0].ID}, got.Pages())
	assert.Equal(t, "eng", got.Language)
	assert.True(t, got.Running(), "a queue that starts again takes it up")
	require.NoError(t, s.FinishIntake(ctx, id, n, 1))
	again, err := s.LastTask(ctx, store.TaskRecognise, *in.DocumentID)
	require.NoError(t, err)
	assert.Equal(t, got.ID, again.ID, "once only")
}

func TestEditsOfPagesAndDetailsAreUndone(t *testing.T) {
	s, who, doc := office(t)
	_, err := s.Change(ctx, doc, 0, who, "", add("a", 700))
	require.NoError(t, err)
	blank := form.Page{Width: 400, Height: 500, File: "g", N: 1}
	_, err = s.Change(ctx, doc, 1, who, "pages", func(t *form.Template) (form.Edit, error) {
		return t.InsertPages("inserted a page", 1, []form.Page{blank}, nil)
	})
	require.NoError(t, err)
	d := draft(t, s, doc)
	require.Len(t, d.Template.Pages, 2)
	assert.Equal(t, 2, d.Template.Fields[0].Page, "the field travels with its page")
	_, err = s.Change(ctx, doc, 1, who, "", add("b", 600))
	require.ErrorIs(t, err, form.ErrClash, "it may be meant for the page that is another one now")
	_, err = s.Change(ctx, doc, 2, who, "", func(t *form.Template) (form.Edit, error) {
		return t.Describe(form.Details{Title: "Berths", Language: "en-GB"})
	})
	require.NoError(t, err)
	assert.Equal(t, "Berths", draft(t, s, doc).Template.Details.Title)
	for range 2 {
		_, err = s.Undo(ctx, doc, who, -1, false)
		require.NoError(t, err)
	}
	d = draft(t, s, doc)
	assert.Len(t, d.Template.Pages, 1)
	assert.Equal(t, 1, d.Template.Fields[0].Page)
	assert.Empty(t, d.Template.Details.Title)
	_, err = s.Undo(ctx, doc, who, -1, true)
	require.NoError(t, err)
	assert.Len(t, draft(t, s, doc).Template.Pages, 2)
}

// What was hashed with other parameters is hashed anew when its person signs in (RFC 9106, section 4, has those of today).
func TestAPasswordIsHashedAnewWhenTheParametersChange(t *testing.T) {
	storetest.Served(t)
	s := storetest.Open(t)
	ctx := context.Background()
	id, err := s.AddAccount(ctx, "imke@example.org", "Imke", "preparer", "a long password")
	require.NoError(t, err)
	few := argon2id.Params{Memory: 8 << 10, Iterations: 1, Parallelism: 1, SaltLength: 16, KeyLength: 32}
	weak, err := argon2id.CreateHash("a long password", &few)
	require.NoError(t, err)
	_, err = s.Pool.Exec(ctx, "update accounts set password_hash = $2 where id = $1", id, weak)
	require.NoError(t, err)
	_, err = s.SignIn(ctx, "IMKE@example.org ", "another password")
	require.ErrorIs(t, err, store.ErrSignIn)
	a, err := s.Account(ctx, id)
	require.NoError(t, err)
	assert.Equal(t, weak, a.PasswordHash, "a wrong password changes nothing")
	for range 2 {
		_, err = s.SignIn(ctx, "IMKE@example.org ", "a long password")
		require.NoError(t, err)
	}
	a, err = s.Account(ctx, id)
	require.NoError(t, err)
	assert.Contains(t, a.PasswordHash, "$m=65536,t=3,p=4$")
	_, err = s.SignIn(ctx, "nobody@example.org", "a long password")
	require.ErrorIs(t, err, store.ErrSignIn)
	_, err = s.SignIn(ctx, "imke@example.org", strings.Repeat("a long password", 1000))
	require.ErrorIs(t, err, store.ErrSignIn)
}

// Servers that start at once on an empty database wait for each other; one of an older release refuses a newer database.
func TestTablesAreMadeByOneServerAtATime(t *testing.T) {
	address := storetest.Database(t)
	var wait sync.WaitGroup
	errs := make(chan error, 5)
	for range cap(errs) {
		wait.Go(func() {
			s, err := store.Open(ctx, address)
			if err == nil {
				s.Close()
			}
			errs <- err
		})
	}
	wait.Wait()
	close(errs)
	for err := range errs {
		require.NoError(t, err)
	}
	s, err := store.Open(ctx, address)
	require.NoError(t, err)
	_, err = s.Pool.Exec(ctx, "insert into goose_db_version (version_id, is_applied) values (99999, true)")
	require.NoError(t, err)
	s.Close()
	_, err = store.Open(ctx, address)
	require.ErrorIs(t, err, store.ErrNewer)
}

// What somebody else did since one looked is not taken back unseen; one's own is.
func TestUndoTakesBackNothingUnseen(t *testing.T) {
	s := storetest.Open(t)
	var who [2]int64
	for i, name := range []string{"Imke Meer", "Odalys Brandt"} {
		id, err := s.AddPerson(ctx, name, strings.ToLower(name[:4])+"@office.example", "preparer")
		require.NoError(t, err)
		who[i] = id
	}
	doc, err := s.AddDocument(ctx, paper("Undo", "b", who[0]))
	require.NoError(t, err)
	add := func(by int64, name string) {
		t.Helper()
		_, err := s.Change(ctx, doc, -1, by, "", func(tpl *form.Template) (form.Edit, error) {
			return tpl.Add("placed "+name, []form.Field{{Page: 1, Kind: form.Text, Name: name, Rect: geom.R(50, 50, 150, 66)}})
		})
		require.NoError(t, err)
	}
	revision := func() int64 {
		d, err := s.Document(ctx, doc)
		require.NoError(t, err)
		return d.Revision
	}
	add(who[0], "mine")
	seen := revision()
	add(who[1], "theirs")
	_, err = s.Undo(ctx, doc, who[0], seen, false)
	var unseen *store.UnseenError
	require.ErrorAs(t, err, &unseen)
	assert.Equal(t, "Odalys Brandt", unseen.By)
	assert.Contains(t, err.Error(), "theirs")
	d, err := s.Draft(ctx, doc)
	require.NoError(t, err)
	assert.Len(t, d.Template.Fields, 2, "nothing was taken back")
	_, err = s.Undo(ctx, doc, who[0], revision(), false) // now it was seen
	require.NoError(t, err)
	_, err = s.Undo(ctx, doc, who[0], revision(), false)
	require.NoError(t, err)
	d, err = s.Draft(ctx, doc)
	require.NoError(t, err)
	assert.Empty(t, d.Template.Fields)
}
