package jobs_test

import (
	"context"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/demo"
	"zealousmargin.example/internal/jobs"
	"zealousmargin.example/internal/store"
	"zealousmargin.example/internal/store/storetest"
)

func one(who int64, name string, b []byte) store.NewIntake {
	return store.NewIntake{Account: who, Files: []store.NamedFile{{Name: name, Bytes: b}}}
}

// A worker that dies with work on its hands loses nothing: the next one takes up
// what was waiting, and what was half read, and each file becomes one document.
func TestWhatAnEarlierRunLeftIsTakenUp(t *testing.T) {
	ctx := context.Background()
	s := storetest.Open(t)
	who, err := s.AddAccount(ctx, "imke@example.org", "Imke Maas", "administrator", "secret words")
	require.NoError(t, err)
	berth, err := demo.Berth()
	require.NoError(t, err)
	waiting, err := s.AddIntake(ctx, one(who, "waiting.pdf", berth.Bytes))
	require.NoError(t, err)
	half, err := s.AddIntake(ctx, one(who, "half.pdf", berth.Bytes))
	require.NoError(t, err)
	require.NoError(t, s.IntakeStep(ctx, half, "reading page 1 of 2", 0, 2))
	bad, err := s.AddIntake(ctx, one(who, "bad.pdf", []byte("no form at all")))
	require.NoError(t, err)

	// One that only queues, as the application does with --workers=0.
	front, err := jobs.New(ctx, s, jobs.Options{})
	require.NoError(t, err)
	require.NoError(t, front.Start(ctx))
	require.NoError(t, front.Start(ctx), "asked twice, read once")

	q, err := jobs.New(ctx, s, jobs.Options{Workers: 2})
	require.NoError(t, err)
	require.NoError(t, q.Start(ctx))
	defer func() {
		last, cancel := context.WithTimeout(ctx, 10*time.Second)
		defer cancel()
		assert.NoError(t, q.Stop(last))
	}()
	require.Eventually(t, func() bool {
		ended := 0
		for _, id := range []int64{waiting, half, bad} {
			if in, err := s.Intake(ctx, id); err == nil && !in.Running() {
				ended++
			}
		}
		return ended == 3
	}, 20*time.Second, 50*time.Millisecond)
	docs, err := s.Documents(ctx, false)
	require.NoError(t, err)
	assert.Len(t, docs, 2)
	in, err := s.Intake(ctx, bad)
	require.NoError(t, err)
	assert.Equal(t, "refused", in.State)
	assert.Contains(t, in.Problem, "not a PDF")
}

func TestTheDemoOfficeIsLoadedOnce(t *testing.T) {
	ctx := context.Background()
	s := storetest.Open(t)
	require.NoError(t, demo.Load(ctx, s))
	require.NoError(t, demo.Load(ctx, s))
	docs, err := s.Documents(ctx, false)
	require.NoError(t, err)
	assert.Len(t, docs, 6)
	for _, p := range demo.People {
		a, err := s.SignIn(ctx, p.Email, p.Password)
		require.NoError(t, err)
		assert.Equal(t, p.Role, a.Role)
	}
	assert.NotEqual(t, demo.People[0].Role, demo.People[1].Role)
}
