package store_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/roster"
	"zealousmargin.example/internal/store"
)

// Going to a step in the list, forward or back, gives what the draft was after it; a step that is not there changes nothing.
func TestEveryStepCanBeGoneTo(t *testing.T) {
	rng := seeded(t)
	s, person, doc := office(t)
	var steps []int64
	var as []form.Template
	for i := range 12 {
		work := add(fmt.Sprintf("field_%d", i), 30+60*float64(i))
		if i > 2 && rng.IntN(3) == 0 {
			work = func(d *form.Template) (form.Edit, error) {
				return d.Move([]string{d.Fields[rng.IntN(len(d.Fields))].ID}, 7, 3)
			}
		}
		_, err := s.Change(ctx, doc, -1, person, "fit", work)
		require.NoError(t, err)
		list, err := s.History(ctx, doc, 1)
		require.NoError(t, err)
		steps, as = append(steps, list[0].ID), append(as, draft(t, s, doc).Template)
	}
	for range 20 {
		k := rng.IntN(len(steps))
		require.NoError(t, s.JumpTo(ctx, doc, person, steps[k]))
		is := draft(t, s, doc).Template
		require.ElementsMatch(t, as[k].Fields, is.Fields, "step %d", k)
		latest, err := s.Latest(ctx, doc)
		require.NoError(t, err)
		assert.Equal(t, "Imke Maas", *latest.By)
		list, err := s.History(ctx, doc, 50)
		require.NoError(t, err)
		require.Len(t, list, len(steps), "going about makes no steps of its own")
		for i, x := range list { // newest first
			assert.Equal(t, map[bool]string{true: "done", false: "undone"}[len(steps)-1-i <= k], x.State)
		}
	}
	before := draft(t, s, doc)
	require.ErrorIs(t, s.JumpTo(ctx, doc, person, 99999), store.ErrMissing)
	assert.Equal(t, before.Document.Revision, draft(t, s, doc).Document.Revision)
	_, err := s.Latest(ctx, 99999)
	assert.ErrorIs(t, err, store.ErrMissing)
}

// The house style is one for each kind; a style is kept under its name and replaced under it; what is at hand is a person's own.
func TestStylesAreKept(t *testing.T) {
	s, person, _ := office(t)
	house, err := s.House(ctx)
	require.NoError(t, err)
	assert.Empty(t, house)
	for _, width := range []float64{80, 120} {
		require.NoError(t, s.SetHouse(ctx, form.Text, form.HouseStyle{Style: form.Style{Locked: true}, Width: width}, person))
	}
	require.NoError(t, s.SetHouse(ctx, form.CheckBox, form.HouseStyle{Height: 9}, person))
	house, err = s.House(ctx)
	require.NoError(t, err)
	assert.Equal(t, form.House{
		form.Text: {Style: form.Style{Locked: true}, Width: 120}, form.CheckBox: {Height: 9},
	}, house)

	for i, name := range []string{"quay", "Anchor", "quay"} {
		require.NoError(t, s.KeepFavourite(ctx, name, form.Style{NoSpell: i == 2}, person))
	}
	kept, err := s.Favourites(ctx)
	require.NoError(t, err)
	require.Len(t, kept, 2)
	assert.Equal(t, "Anchor", kept[0].Name)
	one, err := s.Favourite(ctx, kept[1].ID)
	require.NoError(t, err)
	style, err := one.Style()
	require.NoError(t, err)
	assert.True(t, style.NoSpell, "the last one of that name")
	require.NoError(t, s.DropFavourite(ctx, one.ID))
	require.ErrorIs(t, s.DropFavourite(ctx, one.ID), store.ErrMissing)
	_, err = s.Favourite(ctx, one.ID)
	require.ErrorIs(t, err, store.ErrMissing)

	hand, err := s.Handy(ctx, person)
	require.NoError(t, err)
	assert.Nil(t, hand, "they never chose")
	for _, want := range [][]string{{"split", "join"}, {}} {
		require.NoError(t, s.SetHandy(ctx, person, want))
		hand, err = s.Handy(ctx, person)
		require.NoError(t, err)
		assert.Equal(t, want, hand, "nothing at hand is a choice, too")
	}
	_, err = s.Handy(ctx, 99999)
	assert.ErrorIs(t, err, store.ErrMissing)
}

// A message is in the tray once, however often it is handed over; it is leafed through from the last one on.
func TestThePostTrayKeepsEachMessageOnce(t *testing.T) {
	s, _, _ := office(t)
	for range 2 {
		for i := range 5 {
			require.NoError(t, s.Catch(ctx, fmt.Sprintf("<%d@quay>", i), "forms@quay", "ono@example.org", fmt.Appendf(nil, "letter %d", i)))
		}
	}
	for range 2 { // without an id nobody knows that they are the same
		require.NoError(t, s.Catch(ctx, "", "forms@quay", "ono@example.org", []byte("no id")))
	}
	first, err := s.PostTray(ctx, 0, 4)
	require.NoError(t, err)
	require.Len(t, first, 4)
	rest, err := s.PostTray(ctx, first[3].ID, 10)
	require.NoError(t, err)
	require.Len(t, rest, 3)
	assert.Equal(t, "letter 0", string(rest[2].Message))
	one, err := s.CaughtMessage(ctx, rest[2].ID)
	require.NoError(t, err)
	assert.Equal(t, rest[2], one)
	_, err = s.CaughtMessage(ctx, 99999)
	assert.ErrorIs(t, err, store.ErrMissing)
}

// When the roster was last changed is known, and how long what it knows of people usually is.
func TestTheRosterTellsOfItself(t *testing.T) {
	s, person, _ := office(t)
	at, err := s.RosterChanged(ctx)
	require.NoError(t, err)
	assert.True(t, at.IsZero(), "never")
	var people []roster.Person
	for i := range 10 {
		vessel := "Petrel"
		if i == 9 { // one in ten does not make a field wider
			vessel = "The Very Long Name of a Small Boat"
		}
		people = append(people, roster.Person{Key: fmt.Sprint(i), Data: map[string]string{"vessel": vessel}})
	}
	_, err = s.BringRoster(ctx, person, []roster.Column{{Key: "vessel", Title: "Vessel"}}, people, false)
	require.NoError(t, err)
	at, err = s.RosterChanged(ctx)
	require.NoError(t, err)
	assert.False(t, at.IsZero())
	signs, err := s.RosterSigns(ctx)
	require.NoError(t, err)
	assert.Equal(t, map[string]int{"vessel": len("Petrel")}, signs)
	list, _, err := s.RosterPeople(ctx, "long name", 0, 5)
	require.NoError(t, err)
	require.Len(t, list, 1)
	require.NoError(t, s.DropPerson(ctx, list[0].ID, person))
	require.ErrorIs(t, s.DropPerson(ctx, list[0].ID, person), store.ErrMissing)
	_, err = s.RosterPerson(ctx, list[0].ID)
	assert.ErrorIs(t, err, store.ErrMissing)
}
