package measure

import (
	"context"
	"fmt"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"slices"
	"sync"
	"time"

	"zealousmargin.example/demo"
	"zealousmargin.example/internal/command"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/intake"
	"zealousmargin.example/internal/pdf/engine"
	"zealousmargin.example/internal/pdf/fill"
	"zealousmargin.example/internal/pdf/read"
	"zealousmargin.example/internal/pdf/write"
	"zealousmargin.example/internal/roster"
)

// Copies prints how long filled copies of the two-page demo form take against as many runs of qpdf, which reads a form and writes it.
func Copies(ctx context.Context, w io.Writer) error {
	const runs = 1000
	t, src, err := sourced(ctx)
	if err != nil {
		return err
	}
	rows, err := intake.Table(demo.Owners)
	if err != nil {
		return err
	}
	_, people, _, err := roster.Read(rows)
	if err != nil {
		return err
	}
	start := time.Now()
	prepared, err := fill.Prepare(src)
	if err != nil {
		return err
	}
	var wait sync.WaitGroup
	next, lost := make(chan int), make([]bool, runs)
	for range runtime.GOMAXPROCS(0) {
		wait.Go(func() {
			for i := range next {
				c := prepared.For(t, people[i%len(people)], roster.With{Today: start, Edition: 1, Serial: i + 1}, false)
				lost[i] = c.PDF == nil
			}
		})
	}
	for i := range runs {
		next <- i
	}
	close(next)
	wait.Wait()
	ours := time.Since(start)
	if slices.Contains(lost, true) {
		return fmt.Errorf("a copy was not made")
	}
	dir, err := os.MkdirTemp("", "zm-copies")
	if err != nil {
		return err
	}
	defer os.RemoveAll(dir)
	in := filepath.Join(dir, "in.pdf")
	if err := os.WriteFile(in, src, 0o600); err != nil {
		return err
	}
	start = time.Now()
	for range runs {
		if err := exec.CommandContext(ctx, "qpdf", in, filepath.Join(dir, "out.pdf")).Run(); err != nil {
			return fmt.Errorf("qpdf: %w", err)
		}
	}
	theirs := time.Since(start)
	fmt.Fprintf(w, "\n%d filled copies of the two-page form (%d fields, %d of them filled in): %.1f s; %d runs of qpdf: %.1f s; "+
		"%.1f times as fast\n", runs, len(t.Fields), filled(t), ours.Seconds(), runs, theirs.Seconds(), theirs.Seconds()/ours.Seconds())
	return nil
}

// sourced is the berth application with what is found on it, and what the office knows of it taken as sources.
func sourced(ctx context.Context) (*form.Template, []byte, error) {
	d, err := demo.Berth()
	if err != nil {
		return nil, nil, err
	}
	h, err := read.Check(ctx, d.Bytes)
	if err != nil {
		return nil, nil, err
	}
	t := &form.Template{Pages: h.Pages}
	err = engine.Use(ctx, d.Bytes, func(doc *engine.Doc) error {
		for i := range h.Pages {
			ev, err := doc.Evidence(i + 1)
			if err != nil {
				return err
			}
			e, err := t.Add("found", command.Finds(ev, i+1, nil, nil))
			if err == nil {
				err = t.Apply(e)
			}
			if err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil {
		return nil, nil, err
	}
	rows, err := intake.Table(demo.Owners)
	if err != nil {
		return nil, nil, err
	}
	columns, _, _, err := roster.Read(rows)
	if err != nil {
		return nil, nil, err
	}
	e, err := roster.Accept(t, roster.Propose(t, columns))
	if err == nil {
		err = t.Apply(e)
	}
	if err != nil {
		return nil, nil, err
	}
	out, err := write.Release(d.Bytes, t)
	return t, out, err
}

func filled(t *form.Template) int {
	n := 0
	for _, f := range t.Fields {
		if f.Source != form.NoSource {
			n++
		}
	}
	return n
}
