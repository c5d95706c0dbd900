package inbox

import (
	"context"
	"time"

	"zealousmargin.example/internal/store"
)

// flat reads a PDF without fields.
func (r *Reader) flat(_ context.Context, _ *Forms, _ int, _ []byte, _ time.Time) (store.Understood, error) {
	return Waiting("it has no fields to read answers from"), nil
}

// paper reads a picture of a form on paper.
func (r *Reader) paper(_ context.Context, _ *Forms, _ int, _ []byte, _ time.Time) (store.Understood, error) {
	return Waiting("it is a picture"), nil
}
