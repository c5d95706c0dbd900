package store_test

import (
	"errors"
	"strings"
	"sync"
	"sync/atomic"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/store"
	"zealousmargin.example/internal/store/storetest"
)

// Of many who know the word and begin an office at once, one is its first person.
func TestAnOfficeIsBegunOnce(t *testing.T) {
	s := storetest.Open(t)
	empty, err := s.Empty(ctx)
	require.NoError(t, err)
	assert.True(t, empty)
	for said, words := range map[string]string{"": "not the word", "gull": "not the word"} {
		_, err := s.BeginOffice(ctx, "tern", said, "Imke Maas", "imke@example.org", "several good words")
		assert.ErrorContains(t, err, words)
	}
	_, err = s.BeginOffice(ctx, "", "", "Imke Maas", "imke@example.org", "several good words")
	assert.ErrorContains(t, err, "not the word", "no word opens nothing")
	_, err = s.BeginOffice(ctx, "tern", "tern", "Imke Maas", "imke@example.org", "short")
	assert.ErrorContains(t, err, "at least 12 signs")
	var wait sync.WaitGroup
	var begun, late atomic.Int32
	for i := range 6 {
		wait.Go(func() {
			_, err := s.BeginOffice(ctx, "tern", " tern ", "Imke Maas", strings.Repeat("i", i+1)+"@example.org", "several good words")
			switch {
			case err == nil:
				begun.Add(1)
			case strings.Contains(err.Error(), "first person already"):
				late.Add(1)
			}
		})
	}
	wait.Wait()
	assert.EqualValues(t, 1, begun.Load())
	assert.EqualValues(t, 5, late.Load())
	people, err := s.People(ctx)
	require.NoError(t, err)
	assert.Len(t, people, 1)
}

// Administrators who leave at the same time, or make preparers of each other, leave one behind.
func TestAnOfficeKeepsAnAdministrator(t *testing.T) {
	s, person, _ := office(t)
	ids := []int64{person}
	for _, email := range []string{"b@example.org", "c@example.org", "d@example.org"} {
		id, err := s.AddPerson(ctx, "Somebody", email, store.Administrator)
		require.NoError(t, err)
		ids = append(ids, id)
	}
	var wait sync.WaitGroup
	var last atomic.Int32
	for i, id := range ids {
		wait.Go(func() {
			err := s.Disable(ctx, id, true)
			if i%2 == 0 {
				err = s.ChangePerson(ctx, id, "Somebody", store.Preparer)
			}
			if errors.Is(err, store.ErrLastAdministrator) {
				last.Add(1)
			}
		})
	}
	wait.Wait()
	chiefs := 0
	people, err := s.People(ctx)
	require.NoError(t, err)
	for _, p := range people {
		if p.Role == store.Administrator && !p.Disabled {
			chiefs++
		}
	}
	assert.Positive(t, chiefs)
	assert.EqualValues(t, 1, last.Load())
}

// A link sets a password once; an earlier link, a used one, one of somebody who was shut out set nothing. Setting it ends every visit.
func TestALinkSetsAPasswordOnce(t *testing.T) {
	s, _, _ := office(t)
	id, err := s.AddPerson(ctx, "  Ono   Brandt ", "Ono@Example.org", store.Preparer)
	require.NoError(t, err)
	_, err = s.AddPerson(ctx, "Ono Brandt", "ono@example.org", store.Preparer)
	assert.ErrorContains(t, err, "is there already")
	for words, bad := range map[string][3]string{
		"needs a name":  {" ", "a@example.org", store.Preparer},
		"no e-mail":     {"A", "a at example.org", store.Preparer},
		"is not a role": {"A", "a@example.org", "chief"},
	} {
		_, err := s.AddPerson(ctx, bad[0], bad[1], bad[2])
		assert.ErrorContains(t, err, strings.ReplaceAll(words, "no e-mail", "is not an e-mail address"))
	}
	first, err := s.Link(ctx, id)
	require.NoError(t, err)
	token, err := s.Link(ctx, id)
	require.NoError(t, err)
	_, err = s.LinkOf(ctx, first)
	assert.ErrorIs(t, err, store.ErrLink, "a later one is good in its place")
	a, err := s.LinkOf(ctx, token)
	require.NoError(t, err)
	assert.Equal(t, "Ono Brandt", a.Name)
	visit, err := s.BeginVisit(ctx, id, "127.0.0.1", strings.Repeat("é", 300))
	require.NoError(t, err)
	_, err = s.SetPassword(ctx, token, "too short")
	require.ErrorContains(t, err, "12 signs")
	_, err = s.SetPassword(ctx, token, "several good words")
	require.NoError(t, err)
	_, err = s.SetPassword(ctx, token, "several other words")
	assert.ErrorIs(t, err, store.ErrLink)
	_, err = s.Visiting(ctx, visit)
	assert.ErrorIs(t, err, store.ErrMissing, "who was signed in has to do so again")
	_, err = s.SignIn(ctx, "ono@example.org", "several good words")
	require.NoError(t, err)

	here, err := s.BeginVisit(ctx, id, "127.0.0.1", "a browser")
	require.NoError(t, err)
	there, err := s.BeginVisit(ctx, id, "10.0.0.2", "another")
	require.NoError(t, err)
	assert.ErrorContains(t, s.ChangePassword(ctx, id, here, "a wrong one", "quite another one"), "not your present password")
	require.NoError(t, s.ChangePassword(ctx, id, here, "several good words", "quite another one"))
	_, err = s.Visiting(ctx, there)
	require.ErrorIs(t, err, store.ErrMissing)
	_, err = s.Visiting(ctx, here)
	require.NoError(t, err, "they stay where they are")
	visits, err := s.Visits(ctx, id)
	require.NoError(t, err)
	assert.Len(t, visits, 1)
	assert.ErrorIs(t, s.EndVisit(ctx, id+1, here), store.ErrMissing, "nobody ends another's")
	require.NoError(t, s.EndVisit(ctx, id, here))
	third, err := s.Link(ctx, id)
	require.NoError(t, err)
	require.NoError(t, s.Disable(ctx, id, true))
	_, err = s.LinkOf(ctx, third)
	assert.ErrorIs(t, err, store.ErrLink)
	_, err = s.SignIn(ctx, "ono@example.org", "quite another one")
	assert.ErrorIs(t, err, store.ErrSignIn)
}

// Settings are put in order, or refused in words; what was set before stands in the log.
func TestSettings(t *testing.T) {
	s, person, _ := office(t)
	for _, c := range []struct{ key, said, kept, refused string }{
		{store.PublicAddress, " https://forms.example/ ", "https://forms.example", ""},
		{store.PublicAddress, "forms.example", "", "is not the address of a server"},
		{store.PublicAddress, "https://forms.example/path", "", "is not the address of a server"},
		{store.PublicAddress, "javascript://forms.example", "", "is not the address of a server"},
		{store.PreparersRelease, "yes", "yes", ""},
		{store.PreparersRelease, "perhaps", "", ""},
		{store.OfficeName, " Gannet \t Quay ", "Gannet Quay", ""},
		{store.OfficeName, strings.Repeat("x", 121), "", "the name of the office"},
		{store.Retention, " 730 ", "730", ""},
		{store.Retention, "0", "", "not a number of days"},
		{store.Retention, "two years", "", "not a number of days"},
		{store.Proxy, "10.0.0.7", "10.0.0.7/32", ""},
		{store.Proxy, "10.0.0.7/24", "10.0.0.0/24", ""},
		{store.Proxy, "2001:db8::1", "2001:db8::1/128", ""},
		{store.Proxy, "proxy.example", "", "no address on the network"},
		{store.Consent, "  I agree.\n", "I agree.", ""},
		{store.LetterSubject, "Your\r\nBcc: all@example.org", "Your Bcc: all@example.org", ""},
		{"colour", "red", "", "nothing that can be set"},
	} {
		err := s.SetSetting(ctx, c.key, c.said, person)
		if c.refused != "" {
			assert.ErrorContains(t, err, c.refused, c.said)
			continue
		}
		require.NoError(t, err, c.said)
		is, err := s.Setting(ctx, c.key)
		require.NoError(t, err)
		assert.Equal(t, c.kept, is)
	}
	none, err := s.Setting(ctx, "colour")
	require.NoError(t, err)
	assert.Empty(t, none)
	var about string
	require.NoError(t, s.Pool.QueryRow(ctx, `select about from log where about like 'proxy%' order by id desc limit 1`).Scan(&about))
	assert.Equal(t, `proxy: "2001:db8::1/128", before "10.0.0.0/24"`, about)
}
