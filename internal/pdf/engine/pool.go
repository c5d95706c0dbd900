package engine

import (
	"bufio"
	"context"
	"encoding/gob"
	"fmt"
	"io"
	"log/slog"
	"os"
	"os/exec"
	"runtime"
	"strconv"
	"strings"
	"sync"
	"time"

	"golang.org/x/sys/unix"

	"zealousmargin.example/internal/pdf/object"
)

const (
	// DefaultLimit is how long one step may take: opening a file, reading a page, drawing one. Of 800 forms from public offices none
	// needs as long for a page (common practice, no source).
	DefaultLimit = 40 * time.Second
	// longestWait is how long work waits for an engine that is free.
	longestWait = 2 * time.Minute
)

// instances is how many engines there are; background work never has more of them than inBackground.
var (
	instances    = max(2, runtime.NumCPU()) + 2
	inBackground = instances - 2
)

type marker int

const (
	background marker = iota
	limit
)

// Background marks what is done with ctx as work that nobody waits for at a screen: it leaves engines to people.
func Background(ctx context.Context) context.Context { return context.WithValue(ctx, background, true) }

// Within gives the steps of what is done with ctx another deadline than [DefaultLimit].
func Within(ctx context.Context, d time.Duration) context.Context {
	return context.WithValue(ctx, limit, d)
}

// pool are the engines.
var pool = struct {
	slots  chan struct{} // as many as there are engines
	behind chan struct{} // as many as background work may have
	mu     sync.Mutex
	rest   []*worker // those that wait for a file
}{slots: make(chan struct{}, instances), behind: make(chan struct{}, inBackground)}

// worker is an engine: a process.
type worker struct {
	cmd  *exec.Cmd
	in   *bufio.Writer
	enc  *gob.Encoder
	dec  *gob.Decoder
	pipe io.WriteCloser
	said *tail
}

// begin starts an engine.
func begin() (*worker, error) {
	self, err := os.Executable()
	if err != nil {
		return nil, err
	}
	w := &worker{cmd: exec.Command(self), said: &tail{}}
	w.cmd.Env = []string{asEngine + "=" + strconv.Itoa(os.Getpid())}
	for _, name := range []string{"HOME", "XDG_CACHE_HOME", "TMPDIR"} { // where the compiled module is kept, and nothing else of ours
		if v, ok := os.LookupEnv(name); ok {
			w.cmd.Env = append(w.cmd.Env, name+"="+v)
		}
	}
	w.cmd.Stderr = w.said
	if w.pipe, err = w.cmd.StdinPipe(); err != nil {
		return nil, err
	}
	out, err := w.cmd.StdoutPipe()
	if err != nil {
		return nil, err
	}
	w.in = bufio.NewWriterSize(w.pipe, 1<<16)
	w.enc, w.dec = gob.NewEncoder(w.in), gob.NewDecoder(bufio.NewReaderSize(out, 1<<16))
	if err := w.cmd.Start(); err != nil {
		return nil, err
	}
	most := unix.Rlimit{Cur: processMemory * watched, Max: processMemory * watched}
	if err := unix.Prlimit(w.cmd.Process.Pid, unix.RLIMIT_DATA, &most, nil); err != nil {
		w.end()
		return nil, err
	}
	return w, nil
}

// end kills an engine, whatever it does.
func (w *worker) end() {
	_ = w.cmd.Process.Kill()
	_ = w.pipe.Close()
	_ = w.cmd.Wait()
}

// ask has an engine do one deed.
func (w *worker) ask(q request) (answer, error) {
	var a answer
	err := w.enc.Encode(&q)
	if err == nil {
		err = w.in.Flush()
	}
	if err == nil {
		err = w.dec.Decode(&a)
	}
	return a, err
}

// lease is one engine while a file is open in it.
type lease struct {
	*worker
	limit  time.Duration
	timer  *time.Timer
	rested bool // it has done nothing yet since it waited for a file
	spent  bool // another is to take its place
	mu     sync.Mutex
	over   bool
	killed error // why it was stopped
}

// kill stops the engine in whatever it does.
func (l *lease) kill(why error) {
	l.mu.Lock()
	defer l.mu.Unlock()
	if !l.over && l.killed == nil {
		l.killed = why
		_ = l.cmd.Process.Kill()
	}
}

// step has the engine do one deed before its deadline.
func (l *lease) step(q request) (answer, error) {
	l.timer.Reset(l.limit)
	defer l.timer.Stop()
	a, err := l.ask(q)
	if err != nil && l.rested { // it may have ended while it rested
		if err = l.replace(); err == nil {
			a, err = l.ask(q)
		}
	}
	l.rested = false
	if err != nil {
		l.mu.Lock()
		defer l.mu.Unlock()
		if l.killed == nil {
			l.killed = l.died()
		}
		return a, l.killed
	}
	l.spent = l.spent || a.Spent
	return a, a.err()
}

// replace begins another engine in place of one that ended by itself.
func (l *lease) replace() error {
	l.mu.Lock()
	defer l.mu.Unlock()
	if l.killed != nil {
		return l.killed
	}
	l.end()
	w, err := begin()
	if err == nil {
		l.worker = w
	}
	return err
}

// died says why an engine ended by itself; what it said last goes to the log where that is not known.
func (l *lease) died() error {
	_ = l.cmd.Process.Kill()
	_ = l.cmd.Wait() // what it has written is whole then
	said := l.said.String()
	for _, s := range []string{"out of memory", "cannot allocate memory", "failed to allocate"} {
		if strings.Contains(said, s) {
			return object.ErrHeavy
		}
	}
	slog.Error("the PDF engine stopped", "state", l.cmd.ProcessState.String(), "said", said[:min(len(said), 500)])
	return fmt.Errorf("%w (the PDF engine stopped)", object.ErrDamaged)
}

// leased waits for an engine and runs do with it.
func leased(ctx context.Context, do func(*lease) error) (err error) {
	free, err := slot(ctx)
	if err != nil {
		return err
	}
	defer free()
	l := &lease{limit: DefaultLimit}
	if d, ok := ctx.Value(limit).(time.Duration); ok {
		l.limit = d
	}
	if l.worker, l.rested, err = take(); err != nil {
		return fmt.Errorf("the PDF engine did not start: %w", err)
	}
	l.timer = time.AfterFunc(l.limit, func() { l.kill(object.ErrSlow) })
	stop := context.AfterFunc(ctx, func() { l.kill(context.Cause(ctx)) })
	finished := false
	defer func() {
		l.timer.Stop()
		stop()
		l.mu.Lock()
		l.over = true
		l.mu.Unlock()
		if l.killed != nil {
			err = l.killed
		}
		if l.killed != nil || l.spent || !finished {
			l.end()
			return
		}
		pool.mu.Lock()
		pool.rest = append(pool.rest, l.worker)
		pool.mu.Unlock()
	}()
	err = do(l)
	finished = true
	return err
}

// slot waits until an engine may be taken.
func slot(ctx context.Context) (free func(), err error) {
	wait, cancel := context.WithTimeout(ctx, longestWait)
	defer cancel()
	take := func(c chan struct{}) error {
		select {
		case c <- struct{}{}:
			return nil
		case <-wait.Done():
			if ctx.Err() != nil {
				return context.Cause(ctx)
			}
			return object.ErrBusy
		}
	}
	if ctx.Value(background) == nil {
		return func() { <-pool.slots }, take(pool.slots)
	}
	if err := take(pool.behind); err != nil {
		return nil, err
	}
	if err := take(pool.slots); err != nil {
		<-pool.behind
		return nil, err
	}
	return func() { <-pool.slots; <-pool.behind }, nil
}

// take gives an engine that rests, or a new one.
func take() (w *worker, rested bool, err error) {
	pool.mu.Lock()
	defer pool.mu.Unlock()
	if n := len(pool.rest); n > 0 {
		w = pool.rest[n-1]
		pool.rest = pool.rest[:n-1]
		return w, true, nil
	}
	w, err = begin()
	return w, false, err
}

// Busy is how many engines have a file open.
func Busy() int { return len(pool.slots) }

// tail keeps the end of what is written.
type tail struct {
	mu  sync.Mutex
	end []byte
}

func (t *tail) Write(b []byte) (int, error) {
	t.mu.Lock()
	defer t.mu.Unlock()
	const most = 8 << 10
	t.end = append(t.end, b...)
	t.end = t.end[max(0, len(t.end)-most):]
	return len(b), nil
}

func (t *tail) String() string {
	t.mu.Lock()
	defer t.mu.Unlock()
	return string(t.end)
}

// Ready tells whether an engine can be had: it starts one, where none rests.
func Ready(ctx context.Context) error {
	return leased(ctx, func(l *lease) error {
		_, err := l.step(request{})
		return err
	})
}
