package jobs

import (
	"archive/zip"
	"bytes"
	"cmp"
	"context"
	"fmt"
	"runtime"
	"strings"
	"sync"
	"time"
	"unicode"

	"github.com/riverqueue/river"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/pdf/fill"
	"zealousmargin.example/internal/roster"
	"zealousmargin.example/internal/store"
)

// fillArgs asks for copies to be filled in.
type fillArgs struct {
	Task int64 `json:"task" river:"unique"`
}

// Kind names the job in the queue.
func (fillArgs) Kind() string { return store.TaskFill }

type filler struct {
	river.WorkerDefaults[fillArgs]
	store *store.Store
}

// Timeout leaves a copy more time than it ever takes.
func (*filler) Timeout(*river.Job[fillArgs]) time.Duration { return time.Hour }

// Work fills a copy in for each person, and keeps all of them at once.
func (w *filler) Work(ctx context.Context, job *river.Job[fillArgs]) error {
	f, err := w.store.Filling(ctx, job.Args.Task)
	if err != nil || !f.Running() {
		return gone(err)
	}
	result, trouble, err := w.all(ctx, f)
	if why, yes := stopped(ctx, err); yes {
		return why
	}
	if err == nil {
		err = w.store.FinishFilling(ctx, f.ID, result, trouble)
	}
	if why, yes := stopped(ctx, err); yes || err == nil {
		return why
	}
	last, cancel := context.WithTimeout(context.WithoutCancel(ctx), time.Minute)
	defer cancel()
	return w.store.EndTask(last, f.ID, "failed", inWords(ctx, err))
}

// mostBytes is how large all copies of a run may be together.
const mostBytes = 600 << 20

var errTooLarge = fmt.Errorf("the copies would be larger than %d MB together: choose fewer people", mostBytes>>20)

func (w *filler) all(ctx context.Context, f store.Filling) ([]byte, []store.Trouble, error) {
	t, err := w.store.EditionForm(ctx, f.EditionID)
	if err != nil {
		return nil, nil, err
	}
	d, err := w.store.Draft(ctx, f.DocumentID)
	if err != nil {
		return nil, nil, err
	}
	t, _ = roster.Overlaid(&t, &d.Template)
	e, err := w.store.Edition(ctx, f.EditionID)
	if err != nil {
		return nil, nil, err
	}
	src, err := w.store.File(ctx, e.File)
	if err != nil {
		return nil, nil, err
	}
	prepared, err := fill.Prepare(src)
	if err != nil {
		return nil, nil, err
	}
	people := f.People()
	today := time.Now()
	made := make([]fill.Copy, len(people))
	var (
		wait sync.WaitGroup
		mu   sync.Mutex
		done int
		size int
		told time.Time
	)
	next := make(chan int)
	for range runtime.GOMAXPROCS(0) {
		wait.Go(func() {
			for i := range next {
				with := roster.With{Today: today, Edition: e.Number, Serial: f.First + i}
				made[i] = prepared.For(&t, people[i], with, f.Flat || f.Merged)
				mu.Lock()
				done++
				size += len(made[i].PDF)
				if time.Since(told) > time.Second/2 {
					told = time.Now()
					_ = w.store.TaskStep(ctx, f.ID, fmt.Sprintf("%d of %d copies", done, len(people)), done) // progress only
				}
				mu.Unlock()
			}
		})
	}
	for i := range people {
		mu.Lock()
		full := size > mostBytes
		mu.Unlock()
		if ctx.Err() != nil || full {
			break
		}
		next <- i
	}
	close(next)
	wait.Wait()
	if ctx.Err() != nil {
		return nil, nil, ctx.Err()
	}
	if size > mostBytes {
		return nil, nil, errTooLarge
	}
	var trouble []store.Trouble
	for i := range made {
		for _, x := range made[i].Trouble {
			trouble = append(trouble, store.Trouble{Person: people[i].Name(), Field: x.Field, Why: x.Err.Error()})
		}
	}
	b, err := together(made, people, f)
	return b, trouble, err
}

// together puts the copies into one archive, or one after the other into one file; nil when there are none.
func together(made []fill.Copy, people []roster.Person, f store.Filling) ([]byte, error) {
	if f.Merged {
		var all [][]byte
		for i := range made {
			if made[i].PDF != nil {
				all = append(all, made[i].PDF)
			}
		}
		if len(all) == 0 {
			return nil, nil
		}
		return fill.Merge(all)
	}
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	stem := strings.TrimSuffix(f.FileName, ".pdf")
	taken := map[string]bool{}
	n := 0
	for i := range made {
		if made[i].PDF == nil {
			continue
		}
		n++
		name := form.FreeName(stem+"-"+fileName(people[i]), taken)
		taken[name] = true
		w, err := z.CreateHeader(&zip.FileHeader{Name: name + ".pdf", Method: zip.Deflate, Modified: f.At})
		if err == nil {
			_, err = w.Write(made[i].PDF)
		}
		if err != nil {
			return nil, err
		}
	}
	if err := z.Close(); err != nil || n == 0 {
		return nil, err
	}
	return b.Bytes(), nil
}

// fileName is a person's name as part of the name of a file.
func fileName(p roster.Person) string {
	s := strings.Map(func(r rune) rune {
		switch {
		case unicode.IsLetter(r), unicode.IsDigit(r):
			return unicode.ToLower(r)
		case unicode.IsSpace(r), r == '-', r == '.', r == '\'':
			return '-'
		}
		return -1
	}, cmp.Or(p.Name(), p.Key))
	return cmp.Or(strings.Trim(s, "-"), "person")
}
