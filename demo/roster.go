package demo

import (
	"context"
	_ "embed"
	"errors"

	"zealousmargin.example/internal/intake"
	"zealousmargin.example/internal/roster"
	"zealousmargin.example/internal/store"
)

// Owners is the table of the forty boat owners that the office knows, as CSV. All of them are invented.
//
//go:embed roster.csv
var Owners []byte

func owners(ctx context.Context, s *store.Store, by int64) error {
	rows, err := intake.Table(Owners)
	if err != nil {
		return err
	}
	columns, people, refused, err := roster.Read(rows)
	if err != nil {
		return err
	}
	_, err = s.BringRoster(ctx, by, columns, people, false)
	return errors.Join(append(refused, err)...)
}
