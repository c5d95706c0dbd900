package jobs

import (
	"context"
	"errors"
	"fmt"
	"testing"
	"time"

	"github.com/jackc/pgx/v5/pgconn"
	"github.com/riverqueue/river"
	"github.com/riverqueue/river/rivertype"
	"github.com/stretchr/testify/assert"

	"zealousmargin.example/internal/pdf/object"
)

// What may go well another time is tried again, what is cancelled is not, what a process gives back counts as no try, and what a file is
// to blame for is said at once.
func TestWhyWorkEnds(t *testing.T) {
	plain := context.Background()
	cancelled, cancel := context.WithCancelCause(plain)
	cancel(rivertype.ErrJobCancelledRemotely)
	ending, end := context.WithCancel(plain)
	end()
	late, done := context.WithDeadline(plain, time.Now().Add(-time.Second))
	defer done()
	for _, c := range []struct {
		name  string
		ctx   context.Context
		err   error
		stops bool
	}{
		{"nothing", plain, nil, false},
		{"a broken file", plain, object.ErrDamaged, false},
		{"a file that is too slow", plain, object.ErrSlow, false},
		{"the database away", plain, fmt.Errorf("reading: %w", &pgconn.PgError{Code: "57P01"}), true},
		{"all engines taken", plain, object.ErrBusy, true},
		{"cancelled", cancelled, errors.New("stopped"), true},
		{"the process ends", ending, errors.New("stopped"), true},
		{"out of time", late, errors.New("stopped"), false},
	} {
		why, stops := stopped(c.ctx, c.err)
		assert.Equal(t, c.stops, stops, c.name)
		var snooze *river.JobSnoozeError
		assert.Equal(t, c.name == "the process ends", errors.As(why, &snooze), c.name)
	}
	assert.Contains(t, inWords(late, errors.New("stopped")), "longer than it may")
	assert.Equal(t, object.ErrSlow.Error(), inWords(plain, object.ErrSlow))
}
