package standin

import (
	"context"

	"zealousmargin.example/internal/roster"
)

// Roster is an office's people records. The store keeps the shipped one; a way to records that lie elsewhere implements it, too.
type Roster interface {
	// RosterColumns lists what is known of people.
	RosterColumns(ctx context.Context) ([]roster.Column, error)
	// RosterPeople lists those in whose data all the words stand, by name: at most so many from a place on, and how many they are in all.
	RosterPeople(ctx context.Context, words string, from, most int) (people []roster.Person, all int, err error)
	// RosterPerson finds one.
	RosterPerson(ctx context.Context, id int64) (roster.Person, error)
}
