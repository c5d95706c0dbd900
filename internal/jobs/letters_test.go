package jobs_test

import (
	"context"
	"fmt"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/jobs"
	"zealousmargin.example/internal/post"
	"zealousmargin.example/internal/roster"
	"zealousmargin.example/internal/standin"
	"zealousmargin.example/internal/store"
	"zealousmargin.example/internal/store/storetest"
)

// slowly is the variable that makes the post tray of a worker keep a message and then take its time to say so.
const slowly = "ZM_TEST_SLOW_POST"

// trayed is a sender whose messages come into the post tray of a store.
func trayed(s *store.Store, slow bool) (*post.Server, error) {
	tray, err := standin.OpenPostTray(func(ctx context.Context, c standin.Caught) error {
		err := s.Catch(ctx, c.ID, c.From, c.To, c.Raw)
		if slow {
			time.Sleep(20 * time.Second)
		}
		return err
	})
	if err != nil {
		return nil, err
	}
	return post.NewServer(tray.Address(), "", "Gannet Quay <forms@gannet-quay.example>")
}

// written makes a link each for people at some addresses, with a letter.
func written(t *testing.T, s *store.Store, to ...string) (edition int64) {
	t.Helper()
	ctx := t.Context()
	who, err := s.AddAccount(ctx, "imke@example.org", "Imke Maas", "administrator", "secret words")
	require.NoError(t, err)
	doc, err := s.AddDocument(ctx, store.NewDocument{
		Title: "Berth application", By: who, Originals: []store.NamedFile{{Name: "berth.pdf", Bytes: []byte("%PDF-1.7")}},
		Files: [][]byte{[]byte("%PDF-1.7")}, Pages: []form.Page{{ID: form.NewID(), Width: 595, Height: 842, N: 1}},
	})
	require.NoError(t, err)
	e, err := s.Release(ctx, store.NewEdition{
		Document: doc, By: who, PDF: []byte("%PDF-1.7"), Name: func(n int) string { return fmt.Sprintf("berth-%d.pdf", n) },
	})
	require.NoError(t, err)
	var whom []store.For
	for i, address := range to {
		whom = append(whom, store.For{
			Person: &roster.Person{Key: fmt.Sprint(i), Data: map[string]string{"name": address}}, Recipient: address,
			Letter: func(token string) (string, string) { return "Berth application", "https://forms.example/f/" + token },
		})
	}
	_, err = s.MakeFormLinks(ctx, e.ID, who, store.Terms{}, whom)
	require.NoError(t, err)
	return e.ID
}

// letterStates is how the last letter of each person stands, by name.
func letterStates(t *testing.T, s *store.Store, edition int64) map[string]string {
	t.Helper()
	list, err := s.FormLinks(t.Context(), edition)
	require.NoError(t, err)
	out := map[string]string{}
	for _, l := range list {
		out[l.Name] = *l.State + *l.Problem
	}
	return out
}

func TestLettersGoOutComeBackAndArePutOff(t *testing.T) {
	s := storetest.Open(t)
	sender, err := trayed(s, false)
	require.NoError(t, err)
	q, err := jobs.New(t.Context(), s, jobs.Options{Workers: 2, Post: sender})
	require.NoError(t, err)
	require.NoError(t, q.Start(context.Background()))
	t.Cleanup(func() {
		last, cancel := context.WithTimeout(context.Background(), 10*time.Second)
		defer cancel()
		assert.NoError(t, q.Stop(last))
	})
	edition := written(t, s, "ida@mail.example", "gone@nowhere.example", "later@slow.example")
	require.Eventually(t, func() bool {
		now := letterStates(t, s, edition)
		return now["ida@mail.example"] == "sent" && now["later@slow.example"] == "sent" && now["gone@nowhere.example"] != "waiting"
	}, time.Minute, 50*time.Millisecond)
	assert.Equal(t, "returned550 5.1.1 there is no such mailbox", letterStates(t, s, edition)["gone@nowhere.example"])
	all, err := s.PostTray(t.Context(), 0, 10)
	require.NoError(t, err)
	assert.Len(t, all, 2)
}

// A worker that is killed when it has handed a letter over, but could not say so: the letter goes out once more, and is there once.
func TestALetterThatWasHandedOverTwiceIsThereOnce(t *testing.T) {
	at := storetest.Database(t)
	s, err := store.Open(t.Context(), at)
	require.NoError(t, err)
	t.Cleanup(s.Close)
	_, err = jobs.New(t.Context(), s, jobs.Options{})
	require.NoError(t, err)
	edition := written(t, s, "ida@mail.example")
	first := worker(t, at, slowly+"=yes")
	caught := func() int {
		all, err := s.PostTray(t.Context(), 0, 10)
		require.NoError(t, err)
		return len(all)
	}
	require.Eventually(t, func() bool { return caught() == 1 }, time.Minute, 20*time.Millisecond)
	require.NoError(t, first.Process.Signal(syscall.SIGKILL))
	_ = first.Wait()
	require.Equal(t, "waiting", letterStates(t, s, edition)["ida@mail.example"], "nobody could say that it was sent")
	worker(t, at)
	require.Eventually(
		t,
		func() bool { return letterStates(t, s, edition)["ida@mail.example"] == "sent" },
		2*time.Minute,
		50*time.Millisecond,
	)
	assert.Equal(t, 1, caught())
}
