package measure

import (
	"context"
	"errors"
	"fmt"
	"io"
	"slices"
	"time"

	"zealousmargin.example/demo"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/jobs"
	"zealousmargin.example/internal/store"
)

func median(all []time.Duration) time.Duration {
	slices.Sort(all)
	return all[len(all)/2]
}

// fill300 gives document 1 three hundred fields.
func fill300(ctx context.Context, s *store.Store) error {
	_, err := s.Change(ctx, 1, -1, 1, "", func(d *form.Template) (form.Edit, error) {
		var all []form.Field
		for i := range 300 {
			x, y := float64(30+i%10*50), float64(30+i/10*26)
			all = append(all, form.Field{
				Page: 1, Kind: form.Text, Name: fmt.Sprintf("field_%d", i), Rect: geom.R(x, y, x+44, y+16), MaxLen: 40,
				Tooltip: "What is asked in this place", Label: "What is asked in this place",
				Checks: []form.Check{{Test: form.NotAfter, A: "today", Message: "This cannot be ahead."}},
			})
		}
		return d.AddNew(all)
	})
	return err
}

// oneEdit moves or describes one of the fields.
func oneEdit(ctx context.Context, s *store.Store, i int) error {
	_, err := s.Change(ctx, 1, -1, 1, "", func(d *form.Template) (form.Edit, error) {
		f := d.Fields[i%len(d.Fields)]
		g := f
		if i%2 == 0 {
			g.Tooltip = fmt.Sprintf("What is asked in this place, said for the %d. time", i)
		} else {
			g.Rect = g.Rect.Shift(float64(1-i/2%2*2), 0)
		}
		return form.Edit{Title: "changed a field", Before: []form.Field{f}, After: []form.Field{g}}, nil
	})
	return err
}

// Journal measures how much room five thousand edits of a document of three hundred fields take, and how much longer the draft takes to
// be opened then.
func Journal(ctx context.Context, w io.Writer, address string) (err error) {
	s, drop, err := ownDatabase(ctx, address)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, drop()) }()
	if err := demo.Load(ctx, s, "berth-application.pdf"); err != nil {
		return err
	}
	if err := fill300(ctx, s); err != nil {
		return err
	}
	q, err := jobs.New(ctx, s, jobs.Options{})
	if err != nil {
		return err
	}
	c, leave, err := visit(s, q)
	if err != nil {
		return err
	}
	defer leave()
	opened := func() (time.Duration, error) {
		var all []time.Duration
		for range 41 {
			begun := time.Now()
			if _, err := c.get("/documents/1/fit"); err != nil {
				return 0, err
			}
			all = append(all, time.Since(begun))
		}
		return median(all), nil
	}
	before, err := opened()
	if err != nil {
		return err
	}
	const edits = 5000
	for i := range edits {
		if err := oneEdit(ctx, s, i); err != nil {
			return err
		}
	}
	if _, err := s.Pool.Exec(ctx, `vacuum analyze edits`); err != nil {
		return err
	}
	after, err := opened()
	if err != nil {
		return err
	}
	var room int64
	if err := s.Pool.QueryRow(ctx, `select pg_total_relation_size('edits')`).Scan(&room); err != nil {
		return err
	}
	fmt.Fprintf(w, "\n%d edits of a document of 300 fields take %.1f MB with their indexes (wanted <= 20); the page is opened "+
		"in %.1f ms, before %.1f ms; ratio %.2f (wanted <= 1.2)\n", edits, float64(room)/(1<<20), after.Seconds()*1000,
		before.Seconds()*1000, after.Seconds()/before.Seconds())
	return nil
}
