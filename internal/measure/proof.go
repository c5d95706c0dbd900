package measure

import (
	"cmp"
	"context"
	"fmt"
	"io"
	"maps"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"time"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/measure/faults"
	"zealousmargin.example/internal/pdf/proof"
	"zealousmargin.example/internal/pdf/read"
	"zealousmargin.example/internal/pdf/write"
)

// Faults prints what became of the faults that are put into written forms on purpose.
func Faults(w io.Writer) error {
	all, err := faults.All()
	if err != nil {
		return err
	}
	type count struct{ n, named, shown int }
	kinds, properties := map[form.Kind]*count{}, map[string]*count{}
	total := count{}
	passes := map[string]int{}
	for _, r := range all {
		if kinds[r.Kind] == nil {
			kinds[r.Kind] = &count{}
		}
		if properties[r.Property] == nil {
			properties[r.Property] = &count{}
		}
		for _, c := range []*count{kinds[r.Kind], properties[r.Property], &total} {
			c.n++
			if r.Named {
				c.named++
			}
			if r.Shown {
				c.shown++
			}
		}
		if !r.Noticed {
			passes[r.Passes]++
		}
	}
	fmt.Fprintln(w, "\nFaults in written forms, put there on purpose: named by the proof, shown on arrival")
	for _, k := range append(slices.Clone(form.Kinds), "") {
		c := kinds[k]
		fmt.Fprintf(w, "  %-12s %5d  named %5d  shown %5d\n", cmp.Or(string(k), "document"), c.n, c.named, c.shown)
	}
	fmt.Fprintf(w, "  %-12s %5d  named %5d (%.1f %%)  shown %5d, over %d properties\n", "all", total.n, total.named,
		100*float64(total.named)/float64(total.n), total.shown, len(properties))
	for _, reason := range slices.Sorted(maps.Keys(passes)) {
		fmt.Fprintf(w, "  %d pass: %s\n", passes[reason], reason)
	}
	return nil
}

// manyFields is how many fields the form has whose writing and proof are timed.
const manyFields = 300

// Proof prints how long the proof of a form takes against writing it.
func Proof(w io.Writer) error {
	t := &form.Template{}
	for p := range 6 {
		t.Pages = append(t.Pages, form.Page{ID: fmt.Sprint("p", p), N: p + 1, Width: 595, Height: 842})
	}
	for i := range manyFields {
		f := form.Field{
			ID: fmt.Sprint("f", i), Page: 1 + i/50, Order: float64(i + 1),
			Kind: []form.Kind{form.Text, form.Text, form.CheckBox, form.Choice, form.Text}[i%5],
			Name: fmt.Sprintf("field_%d", i), Tooltip: fmt.Sprintf("Field %d", i),
			Rect: geom.R(40+float64(i%5)*105, 40+float64(i/5%10)*75, 135+float64(i%5)*105, 58+float64(i/5%10)*75),
		}
		switch f.Kind {
		case form.CheckBox:
			f.Rect.X1, f.Rect.Y1 = f.Rect.X0+12, f.Rect.Y0+12
		case form.Choice:
			f.Options = []form.Option{{Label: "North pier", Export: "n"}, {Label: "South pier", Export: "s"}}
		default:
			f.Default = []string{"", "Gannet", ""}[i%3]
			if i%5 == 1 {
				f.Format = form.FormatFor(form.Date)
				f.Default = ""
			}
		}
		t.Fields = append(t.Fields, f)
	}
	t.Sort()
	var pages []form.Page
	blank, err := write.Blank(595, 842)
	if err != nil {
		return err
	}
	for i := range t.Pages {
		p := t.Pages[i]
		p.File, p.N = "blank", 1
		pages = append(pages, p)
	}
	src, _, err := write.Base(&form.Template{Pages: pages}, write.Sources{File: func(string) ([]byte, error) { return blank, nil }})
	if err != nil {
		return err
	}
	var writing, proving, again, releasing []float64
	for range 9 {
		start := time.Now()
		out, err := write.Release(src, t)
		if err != nil {
			return err
		}
		wrote := time.Since(start)
		rewrote, err := rewritten(out)
		if err != nil {
			return err
		}
		start = time.Now()
		if _, _, err := unchanged(out); err != nil {
			return err
		}
		releasing, again = append(releasing, time.Since(start).Seconds()), append(again, rewrote.Seconds())
		start = time.Now()
		if err := proof.ProveRelease(context.Background(), src, out, t); err != nil {
			return err
		}
		writing, proving = append(writing, wrote.Seconds()), append(proving, time.Since(start).Seconds())
	}
	slices.Sort(writing)
	slices.Sort(proving)
	a, b := writing[len(writing)/2], proving[len(proving)/2]
	fmt.Fprintf(w, "\nA form of %d fields: written in %.0f ms, proved in %.0f ms, %.2f times\n", manyFields, 1000*a, 1000*b, b/a)
	slices.Sort(again)
	slices.Sort(releasing)
	q, r := again[len(again)/2], releasing[len(releasing)/2]
	fmt.Fprintf(w, "  released anew without a change in %.0f ms, without the proof; qpdf writes the file anew in %.0f ms: new form %.2f "+
		"times, unchanged form %.2f times\n", 1000*r, 1000*q, a/q, r/q)
	return nil
}

// rewritten is how long qpdf takes to write a file anew, as a process of its own.
func rewritten(b []byte) (time.Duration, error) {
	dir, err := os.MkdirTemp("", "measure")
	if err != nil {
		return 0, err
	}
	defer func() { _ = os.RemoveAll(dir) }()
	in := filepath.Join(dir, "in.pdf")
	if err := os.WriteFile(in, b, 0o600); err != nil {
		return 0, err
	}
	start := time.Now()
	if out, err := exec.Command("qpdf", in, filepath.Join(dir, "out.pdf")).CombinedOutput(); err != nil {
		return 0, fmt.Errorf("qpdf: %w: %s", err, out)
	}
	return time.Since(start), nil
}

// unchanged brings a form in and writes it without a change.
func unchanged(b []byte) (out []byte, draft *form.Template, err error) {
	a, err := read.Arrive(b)
	if err != nil {
		return nil, nil, err
	}
	draft = &form.Template{Fields: a.Fields, Details: a.Details}
	draft.Sort()
	out, err = write.Release(b, draft)
	return out, draft, err
}
