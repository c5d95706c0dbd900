package store_test

import (
	"errors"
	"fmt"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/roster"
	"zealousmargin.example/internal/store"
)

// round sends a form round to an applicant, who has a link, and to somebody of the office.
func round(t *testing.T, s *store.Store, edition, person int64) store.Signing {
	t.Helper()
	id, err := s.BeginSigning(ctx, store.NewSigning{
		Edition: edition, By: person, File: []byte("as it goes out"), Consent: " I agree. ", Signers: []store.NewSigner{
			{Role: "applicant", Name: "Ono Brandt", Passcode: "0417", Person: &roster.Person{Key: "7"}},
			{Role: "harbour master", Name: "Imke Maas", Account: person},
		},
	})
	require.NoError(t, err)
	return signingOf(t, s, id)
}

func signingOf(t *testing.T, s *store.Store, id int64) store.Signing {
	t.Helper()
	g, err := s.Signing(ctx, id)
	require.NoError(t, err)
	return g
}

// Those who sign do so one after the other, what was shown to them and nothing else; who comes too early, twice, or after it was called
// off is told so.
func TestAFormIsSignedInItsOrder(t *testing.T) {
	s, person, doc := office(t)
	e := edition(t, s, person, doc, "berth")
	g := round(t, s, e.ID, person)
	first, second := g.Signers[0], g.Signers[1]
	assert.Equal(t, "I agree.", g.Consent)
	assert.NotNil(t, first.TurnAt)
	assert.Nil(t, second.TurnAt)
	assert.Equal(t, first.ID, g.Turn().ID)
	assert.True(t, second.Mine(person))
	waiting, err := s.ToSign(ctx, person)
	require.NoError(t, err)
	assert.Empty(t, waiting, "it is not their turn")
	links, err := s.FormLinks(ctx, e.ID)
	require.NoError(t, err)
	assert.Empty(t, links, "the link of a signer is no link to the form")

	sign := func(w store.Signer, what string, last bool) error {
		return s.Sign(ctx, store.Signed{
			Signing: g.ID, Signer: w.ID, What: what, File: fmt.Appendf(nil, "signed by %d", w.ID), Name: w.Name, Method: "typed",
			Sender: "127.0.0.1", At: time.Now(), Last: last,
		})
	}
	assert.ErrorIs(t, sign(second, g.File, true), store.ErrNotYet)
	assert.ErrorIs(t, s.Answer(ctx, g.ID, second.ID, []byte("early")), store.ErrNotYet)
	assert.ErrorIs(t, sign(store.Signer{ID: 999}, g.File, false), store.ErrMissing)
	require.NoError(t, s.Answer(ctx, g.ID, first.ID, []byte("filled in")))
	assert.ErrorIs(t, sign(first, g.File, false), store.ErrMoved, "it was filled in since it was shown")
	g = signingOf(t, s, g.ID)
	shown := *g.Signers[0].File
	assert.ErrorIs(t, sign(first, shown, true), store.ErrMoved, "somebody signs after them")

	var wait sync.WaitGroup
	var signed, before atomic.Int32
	for range 6 { // a press too many
		wait.Go(func() {
			switch err := sign(first, shown, false); {
			case err == nil:
				signed.Add(1)
			case errors.Is(err, store.ErrSigned):
				before.Add(1)
			}
		})
	}
	wait.Wait()
	assert.EqualValues(t, 1, signed.Load())
	assert.EqualValues(t, 5, before.Load())

	waiting, err = s.ToSign(ctx, person)
	require.NoError(t, err)
	require.Len(t, waiting, 1)
	g = signingOf(t, s, g.ID)
	assert.Equal(t, second.ID, g.Turn().ID)
	_, err = s.SigningByFile(ctx, g.File)
	require.ErrorIs(t, err, store.ErrMissing, "it is not finished")
	require.NoError(t, sign(second, g.File, true))
	g = signingOf(t, s, g.ID)
	assert.Nil(t, g.Turn())
	assert.NotNil(t, g.DoneAt)
	found, err := s.SigningByFile(ctx, *g.Finished)
	require.NoError(t, err)
	assert.Equal(t, g.ID, found.ID)
	came, err := s.Returns(ctx, doc)
	require.NoError(t, err)
	require.Len(t, came, 1, "it comes back like answers")
	assert.Equal(t, "round", came[0].Road)
	assert.ErrorIs(t, s.CallOff(ctx, g.ID, person), store.ErrMissing, "it is finished")
	all, err := s.Signings(ctx, doc)
	require.NoError(t, err)
	assert.Len(t, all, 1)
}

func TestASigningIsCalledOff(t *testing.T) {
	s, person, doc := office(t)
	e := edition(t, s, person, doc, "berth")
	g := round(t, s, e.ID, person)
	require.NoError(t, s.CallOff(ctx, g.ID, person))
	g = signingOf(t, s, g.ID)
	assert.Nil(t, g.Turn())
	assert.ErrorIs(t, s.Answer(ctx, g.ID, g.Signers[0].ID, []byte("late")), store.ErrCalledOff)
	assert.ErrorIs(t, s.CallOff(ctx, g.ID, person), store.ErrMissing)
	of, signer, err := s.SigningOf(ctx, *g.Signers[0].LinkID)
	require.NoError(t, err)
	assert.Equal(t, []int64{g.ID, g.Signers[0].ID}, []int64{of.ID, signer})
	_, _, err = s.SigningOf(ctx, 9999)
	assert.ErrorIs(t, err, store.ErrMissing)
}

func TestFormsThatCannotGoRoundAreRefused(t *testing.T) {
	s, person, doc := office(t)
	e := edition(t, s, person, doc, "berth")
	ono := store.NewSigner{Role: "applicant", Name: "Ono Brandt", Person: &roster.Person{Key: "7"}}
	for words, n := range map[string]store.NewSigning{
		"agree to":               {Signers: []store.NewSigner{ono}},
		"what they agree to":     {Consent: strings.Repeat("x", 2000), Signers: []store.NewSigner{ono}},
		"nobody has a part":      {Consent: "I agree."},
		"signs with a passcode":  {Consent: "I agree.", Signers: []store.NewSigner{ono}},
		"a passcode has 4 to 64": {Consent: "I agree.", Signers: []store.NewSigner{{Person: ono.Person, Passcode: "1"}}},
	} {
		n.Edition, n.By, n.File = e.ID, person, []byte("form")
		_, err := s.BeginSigning(ctx, n)
		assert.ErrorContains(t, err, words)
	}
	list, err := s.Signings(ctx, doc)
	require.NoError(t, err)
	assert.Empty(t, list, "nothing was begun")
}
