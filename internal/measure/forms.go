package measure

import (
	"context"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"slices"
	"time"

	"zealousmargin.example/internal/detect"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/pdf/engine"
	"zealousmargin.example/internal/pdf/fill"
	"zealousmargin.example/internal/pdf/read"
)

// Score is how finds compare with the fields that people placed.
type Score struct {
	Found, Wanted, Hit, RightKind int
	Pages                         int
	Finding, Drawing              time.Duration
}

// Precision is the share of finds that are fields.
func (s Score) Precision() float64 { return ratio(s.Hit, s.Found) }

// Recall is the share of fields that were found.
func (s Score) Recall() float64 { return ratio(s.Hit, s.Wanted) }

// F1 is the harmonic mean of precision and recall.
func (s Score) F1() float64 {
	p, r := s.Precision(), s.Recall()
	if p+r == 0 {
		return 0
	}
	return 2 * p * r / (p + r)
}

func ratio(a, b int) float64 {
	if b == 0 {
		return 0
	}
	return float64(a) / float64(b)
}

func (s *Score) add(o Score) {
	s.Found += o.Found
	s.Wanted += o.Wanted
	s.Hit += o.Hit
	s.RightKind += o.RightKind
	s.Pages += o.Pages
	s.Finding += o.Finding
	s.Drawing += o.Drawing
}

// MatchIoU is the overlap from which a find counts as the field that a person placed.
const MatchIoU = 0.5

// Match pairs finds with wanted fields of the same page, best overlap first.
func Match(found []form.Field, wanted []read.Widget) Score {
	type pair struct {
		f, w int
		iou  float64
	}
	var pairs []pair
	for i, f := range found {
		for k, w := range wanted {
			if f.Page != w.Page {
				continue
			}
			if v := f.Rect.IoU(w.Rect); v >= MatchIoU {
				pairs = append(pairs, pair{i, k, v})
			}
		}
	}
	slices.SortStableFunc(pairs, func(a, b pair) int {
		switch {
		case a.iou > b.iou:
			return -1
		case a.iou < b.iou:
			return 1
		}
		return 0
	})
	s := Score{Found: len(found), Wanted: len(wanted)}
	usedF, usedW := map[int]bool{}, map[int]bool{}
	for _, p := range pairs {
		if usedF[p.f] || usedW[p.w] {
			continue
		}
		usedF[p.f], usedW[p.w] = true, true
		s.Hit++
		if found[p.f].Kind == wanted[p.w].Kind {
			s.RightKind++
		}
	}
	return s
}

// Form strips the fields off a form, finds fields on what is left, and compares
// them with those that were there. Each page is found and drawn three times; the
// faster times count.
func Form(b []byte) (Score, error) {
	wanted, err := read.Widgets(b)
	if err != nil {
		return Score{}, err
	}
	bare, err := fill.Strip(b)
	if err != nil {
		return Score{}, err
	}
	var s Score
	err = engine.Use(context.Background(), bare, func(d *engine.Doc) (err error) {
		s, err = foundOn(d, wanted)
		return err
	})
	return s, err
}

func foundOn(d *engine.Doc, wanted []read.Widget) (Score, error) {
	var found []form.Field
	var finding, drawing time.Duration
	for n := range d.Pages() {
		var finds []detect.Find
		bestFind, bestDraw := time.Hour, time.Hour
		for range 3 {
			start := time.Now()
			ev, err := d.Evidence(n + 1)
			if err != nil {
				return Score{}, err
			}
			finds = detect.Page(ev)
			bestFind = min(bestFind, time.Since(start))
			start = time.Now()
			if _, err := d.Render(n+1, 150.0/72); err != nil {
				return Score{}, err
			}
			bestDraw = min(bestDraw, time.Since(start))
		}
		finding, drawing = finding+bestFind, drawing+bestDraw
		for _, f := range finds {
			if f.Confidence >= form.LikelyFrom {
				found = append(found, f.Field(n+1))
			}
		}
	}
	s := Match(found, wanted)
	s.Pages, s.Finding, s.Drawing = len(d.Pages()), finding, drawing
	return s, nil
}

// Forms measures every PDF of a folder and prints a table.
func Forms(w io.Writer, folder string) error {
	files, err := filepath.Glob(filepath.Join(folder, "*.pdf"))
	if err != nil || len(files) == 0 {
		return fmt.Errorf("there are no forms in %s: run make bench, which installs them", folder)
	}
	fmt.Fprintf(w, "Finding fields on real forms, stripped of theirs (IoU >= %.1f)\n", MatchIoU)
	fmt.Fprintf(w, "%-14s %6s %6s %6s %9s %7s %6s %6s %9s %9s %6s\n", "form", "wanted", "found", "hit", "precision", "recall", "F1",
		"kind", "find s/p", "draw s/p", "ratio")
	var all Score
	for _, f := range files {
		b, err := os.ReadFile(f)
		if err != nil {
			return err
		}
		s, err := Form(b)
		if err != nil {
			return fmt.Errorf("%s: %w", f, err)
		}
		line(w, filepath.Base(f), s)
		all.add(s)
	}
	line(w, "all", all)
	fmt.Fprintln(w, "kind: share of hits with the right kind; draw: PDFium at 150 dpi in the same run; ratio: find / draw, wanted <= 1.0")
	return nil
}

func line(w io.Writer, name string, s Score) {
	pages := float64(max(1, s.Pages))
	fmt.Fprintf(w, "%-14s %6d %6d %6d %9.3f %7.3f %6.3f %6.3f %9.4f %9.4f %6.2f\n", name, s.Wanted, s.Found, s.Hit, s.Precision(),
		s.Recall(), s.F1(),
		ratio(s.RightKind, s.Hit), s.Finding.Seconds()/pages, s.Drawing.Seconds()/pages, s.Finding.Seconds()/s.Drawing.Seconds())
}
