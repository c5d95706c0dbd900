package store_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/roster"
	"zealousmargin.example/internal/standin"
	"zealousmargin.example/internal/store"
)

var _ standin.Roster = (*store.Store)(nil)

func TestTheRosterIsKeptUpToDate(t *testing.T) {
	s, who, _ := office(t)
	bring := func(whole bool, rows ...[]string) store.Brought {
		t.Helper()
		columns, people, refused, err := roster.Read(rows)
		require.NoError(t, err)
		require.Empty(t, refused)
		b, err := s.BringRoster(ctx, who, columns, people, whole)
		require.NoError(t, err)
		return b
	}
	head := []string{"Customer number", "Name", "Date of birth", "Name of vessel"}
	assert.Equal(t, store.Brought{New: 3}, bring(false, head, []string{"7", "Ilse Brandt", "1958-03-07", "Petrel"},
		[]string{"8", "Åse Ek", "1971-11-30", "100 % Wind"}, []string{"9", "Bo Marl", "", "Two_Sisters"}))
	assert.Equal(t, store.Brought{Changed: 1, Same: 1, New: 1}, bring(false, head, []string{"7", "Ilse Brandt", "1958-03-07", "Petrel II"},
		[]string{"8", "Åse Ek", "1971-11-30", "100 % Wind"}, []string{"10", "Ida Quill", "", ""}))
	columns, err := s.RosterColumns(ctx)
	require.NoError(t, err)
	assert.Equal(t, []roster.Column{
		{Key: "number", Title: "Customer number"},
		{Key: "name", Title: "Name"},
		{Key: "birth_date", Title: "Date of birth", Kind: "date"},
		{Key: "vessel_name", Title: "Name of vessel"},
	}, columns)
	people, all, err := s.RosterPeople(ctx, "", 0, 2)
	require.NoError(t, err)
	assert.Equal(t, 4, all)
	require.Len(t, people, 2)
	for words, names := range map[string][]string{
		"petrel": {"Ilse Brandt"}, "brandt PETREL": {"Ilse Brandt"}, "%": {"Åse Ek"}, "two_": {"Bo Marl"}, "åse": {"Åse Ek"}, "nobody": nil,
	} {
		people, _, err := s.RosterPeople(ctx, words, 0, 10)
		require.NoError(t, err)
		var got []string
		for _, p := range people {
			got = append(got, p.Name())
		}
		assert.Equal(t, names, got, words)
	}
	// a table of another program, with a column less: what it does not say stays
	assert.Equal(t, store.Brought{Changed: 1}, bring(false, []string{"Number", "Telephone"}, []string{"9", "0555 1234"}))
	p, err := s.RosterPerson(ctx, 3)
	require.NoError(t, err)
	assert.Equal(t, map[string]string{"number": "9", "name": "Bo Marl", "vessel_name": "Two_Sisters", "telephone": "0555 1234"}, p.Data)
	assert.Equal(t, store.Brought{Same: 1, Gone: 3}, bring(true, []string{"Number", "Name"}, []string{"9", "Bo Marl"}))
	require.NoError(t, s.DropPerson(ctx, 3, who))
	require.ErrorIs(t, s.DropPerson(ctx, 3, who), store.ErrMissing)
	_, err = s.RosterPerson(ctx, 3)
	require.ErrorIs(t, err, store.ErrMissing)
}
