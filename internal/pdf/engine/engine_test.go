package engine_test

import (
	"context"
	"errors"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/pdf/engine"
	"zealousmargin.example/internal/pdf/object"
	"zealousmargin.example/internal/pdf/pdftest"
)

// soon is a deadline for tests: files of these tests are read in milliseconds, or never.
const soon = 3 * time.Second

// engines are the processes of this program's engines, and what the largest of them has taken at most, in bytes.
func engines(t *testing.T) (pids []int, most int64) {
	t.Helper()
	all, err := filepath.Glob("/proc/[0-9]*/status")
	require.NoError(t, err)
	for _, f := range all {
		b, err := os.ReadFile(f)
		if err != nil || !strings.Contains(string(b), "\nPPid:\t"+strconv.Itoa(os.Getpid())+"\n") {
			continue
		}
		pid, err := strconv.Atoi(filepath.Base(filepath.Dir(f)))
		require.NoError(t, err)
		pids = append(pids, pid)
		for line := range strings.Lines(string(b)) {
			if v, ok := strings.CutPrefix(line, "VmHWM:"); ok {
				kb, err := strconv.ParseInt(strings.Fields(v)[0], 10, 64)
				require.NoError(t, err)
				most = max(most, kb<<10)
			}
		}
	}
	return pids, most
}

// usable tells that files can be read as ever.
func usable(t *testing.T) {
	t.Helper()
	pages, err := engine.Pages(t.Context(), pdftest.Odd())
	require.NoError(t, err)
	assert.Len(t, pages, 1)
}

// A page that would take years is given up at its deadline, by as many at once as there are engines and more, and files that come
// after are read.
func TestAPageThatNeverEndsIsStopped(t *testing.T) {
	ctx := engine.Within(t.Context(), soon)
	begun := time.Now()
	var all sync.WaitGroup
	for range 8 {
		all.Go(func() {
			_, err := engine.DrawPage(ctx, pdftest.Endless(), 1, 1)
			assert.True(t, errors.Is(err, object.ErrSlow) || errors.Is(err, object.ErrHeavy), "%v", err)
		})
	}
	all.Wait()
	assert.Less(t, time.Since(begun), 10*soon)
	usable(t)
	_, err := engine.DrawPage(engine.Within(t.Context(), soon/10), pdftest.Endless(), 1, 1)
	assert.ErrorIs(t, err, object.ErrSlow)
	assert.ErrorContains(t, err, "takes too long")
	usable(t)
}

// Whoever cancels has the work stopped, and not only its answer thrown away.
func TestCancellingStopsTheWork(t *testing.T) {
	ctx, cancel := context.WithCancelCause(t.Context())
	away := errors.New("nobody waits for it")
	time.AfterFunc(300*time.Millisecond, func() { cancel(away) })
	begun := time.Now()
	_, err := engine.DrawPage(ctx, pdftest.Endless(), 1, 1)
	assert.ErrorIs(t, err, away)
	assert.Less(t, time.Since(begun), soon)
	pids, _ := engines(t)
	for _, pid := range pids {
		assert.Less(t, busy(t, pid), 20, "nothing goes on calculating")
	}
	usable(t)
}

// busy is how many hundredths of a second of the processor a process takes in half a second.
func busy(t *testing.T, pid int) int {
	t.Helper()
	spent := func() int {
		b, err := os.ReadFile("/proc/" + strconv.Itoa(pid) + "/stat")
		if err != nil {
			return 0 // it has ended
		}
		rest := strings.Fields(string(b[strings.LastIndexByte(string(b), ')')+1:])) // proc(5): utime and stime are 14 and 15
		user, _ := strconv.Atoi(rest[11])
		system, _ := strconv.Atoi(rest[12])
		return user + system
	}
	before := spent()
	time.Sleep(500 * time.Millisecond)
	return spent() - before
}

// Background work never has the last engines: somebody at a screen is served while it hangs.
func TestPeopleAreServedWhileBackgroundWorkHangs(t *testing.T) {
	ctx, cancel := context.WithCancel(t.Context())
	var all sync.WaitGroup
	for range 40 {
		all.Go(func() { _, _ = engine.DrawPage(engine.Background(ctx), pdftest.Endless(), 1, 1) })
	}
	time.Sleep(500 * time.Millisecond)
	begun := time.Now()
	usable(t)
	assert.Less(t, time.Since(begun), 5*time.Second)
	cancel()
	all.Wait()
	usable(t)
}

// An engine that somebody else has killed while it rested is replaced unseen.
func TestAnEngineThatWasKilledIsReplaced(t *testing.T) {
	usable(t)
	pids, _ := engines(t)
	require.NotEmpty(t, pids)
	for _, pid := range pids {
		require.NoError(t, exec.Command("kill", "-9", strconv.Itoa(pid)).Run())
	}
	for range 3 {
		usable(t)
	}
}

// What unpacks to gigabytes is refused in words, and no process has taken much for it.
func TestFilesThatSwellAreRefused(t *testing.T) {
	ctx := engine.Within(t.Context(), 20*time.Second)
	for name, b := range map[string][]byte{"objects": pdftest.Swelling(600 << 20), "a picture": pdftest.Vast(14000)} {
		err := engine.Use(ctx, b, func(d *engine.Doc) error {
			if err := d.Parse(); err != nil {
				return err
			}
			_, err := d.Render(1, 1)
			return err
		})
		if name == "objects" || err != nil {
			assert.True(t, errors.Is(err, object.ErrHeavy) || errors.Is(err, object.ErrSlow), "%s: %v", name, err)
		}
		_, most := engines(t)
		assert.Less(t, most, int64(1000<<20), name)
		usable(t)
	}
	_, err := engine.Pages(ctx, pdftest.Repeated(100_000))
	assert.ErrorIs(t, err, object.ErrManyPages)
	assert.ErrorContains(t, err, "split it")
}

// Engines that have grown large are not kept, and all of them end with the program.
func TestEnginesThatHaveGrownAreNotKept(t *testing.T) {
	_, err := engine.DrawPage(t.Context(), pdftest.Vast(7000), 1, 1) // 147 MB of pixels
	require.NoError(t, err)
	usable(t)
	pids, _ := engines(t)
	for _, pid := range pids {
		b, err := os.ReadFile("/proc/" + strconv.Itoa(pid) + "/statm")
		require.NoError(t, err)
		held, err := strconv.ParseInt(strings.Fields(string(b))[1], 10, 64)
		require.NoError(t, err)
		assert.Less(t, held*int64(os.Getpagesize()), int64(400<<20))
	}
}

// A function that panics takes its engine with it and no other.
func TestAPanicEndsItsEngineOnly(t *testing.T) {
	assert.Panics(t, func() {
		_ = engine.Use(t.Context(), pdftest.Odd(), func(*engine.Doc) error { panic("a fault of ours") })
	})
	for range 6 {
		usable(t)
	}
}
