package measure

import (
	"cmp"
	"context"
	"fmt"
	"io"
	"math"
	"slices"
	"strings"

	"zealousmargin.example/internal/detect"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/measure/grammar"
	"zealousmargin.example/internal/measure/sheets"
)

// Drawn says which forms of the grammar to measure on.
type Drawn struct {
	Seed     uint64
	Count    int
	Scans    bool
	Overlays string // a folder for pictures of the worst; empty for none
	Pictures int    // how many
}

// share counts what came out right of something.
type share struct{ right, all int }

func (s *share) count(right bool) {
	s.all++
	if right {
		s.right++
	}
}

func (s share) String() string {
	if s.all == 0 {
		return "–"
	}
	return fmt.Sprintf("%.3f", ratio(s.right, s.all))
}

// value is what became of the fields that one value of a factor made.
type value struct {
	name              string
	wanted, hit, none int   // none: false finds nearest to such a field
	kind, named       share // of hits
	set, due          share // formats that were named, and those that should be
	pages             share // in the right order
}

func (v value) f1() float64 { return f1(v.hit, v.hit+v.none, v.wanted) }

// values are those of all factors, by name.
type values map[string]*value

func (vs values) of(name string) *value {
	if vs[name] == nil {
		vs[name] = &value{name: name}
	}
	return vs[name]
}

// each calls do for every value of factors, and for the whole.
func (vs values) each(of map[string]string, do func(*value)) {
	do(vs.of("all"))
	for k, v := range of {
		do(vs.of(k + ": " + v))
	}
}

// judge holds one page to its truth, value by value.
func (vs values) judge(f found, of map[string]string) {
	close, _ := alike(f.finds, f.truth)
	hits := match(f.finds, close, true)
	right := map[int]int{} // truth to find
	for i, k := range hits {
		right[k] = i
	}
	for k, w := range f.truth {
		i, hit := right[k]
		vs.each(w.Of, func(v *value) {
			v.wanted++
			if !hit {
				return
			}
			one := f.finds[i]
			v.hit++
			v.kind.count(one.Kind == w.Kind || slices.Contains(w.Kinds, one.Kind))
			v.named.count(meaningful(one.Name, w.Words) || w.Group != "" && meaningful(one.Name, w.Group))
			if w.Format == "?" || w.Kind != form.Text {
				return
			}
			if one.Format != "" {
				v.set.count(one.Format == w.Format)
			}
			if w.Format != "" {
				v.due.count(one.Format == w.Format)
			}
		})
	}
	for i, one := range f.finds {
		if _, hit := hits[i]; hit || one.Confidence < form.LikelyFrom {
			continue
		}
		near := of
		if k := nearest(one.Rect, f.truth); k >= 0 {
			near = f.truth[k].Of
		}
		vs.each(near, func(v *value) { v.none++ })
	}
	if len(f.truth) > 1 {
		ordered := inOrder(f.finds, hits)
		vs.each(of, func(v *value) { v.pages.count(ordered) })
	}
}

// nearest is the field of the truth whose edges are nearest to a rectangle, or -1.
func nearest(r geom.Rect, truth []sheets.Truth) int {
	best, at := math.Inf(1), -1
	for k, w := range truth {
		dx := max(0, w.Rect.X0-r.X1, r.X0-w.Rect.X1)
		dy := max(0, w.Rect.Y0-r.Y1, r.Y0-w.Rect.Y1)
		if d := math.Hypot(dx, dy); d < best {
			best, at = d, k
		}
	}
	return at
}

// inOrder tells whether the finds that are right come in the order of the truth.
func inOrder(finds []detect.Find, hits map[int]int) bool {
	last := -1
	for i := range finds {
		k, hit := hits[i]
		if !hit {
			continue
		}
		if k < last {
			return false
		}
		last = k
	}
	return true
}

// FindingDrawn measures finding on forms drawn from the grammar, and prints a table by value of
// factor, the worst first.
func FindingDrawn(ctx context.Context, w io.Writer, d Drawn) error {
	forms, err := grammar.Make(ctx, d.Seed, d.Count)
	if err != nil {
		return err
	}
	var total tally
	var pages []found
	vs := values{}
	empty := 0
	for i, f := range forms {
		var fs []found
		if d.Scans && f.Language == "" {
			continue // nobody recognises it here
		}
		if d.Scans {
			fault := ScanFaults[i%len(ScanFaults)]
			if fault.OneBit && faint(f.Of) {
				fault = ScanFaults[(i+1)%len(ScanFaults)]
			}
			one, err := scanned(ctx, f.Sheet, fault.Faults)
			if err != nil {
				return fmt.Errorf("%s: %w", f.Style, err)
			}
			f.Of["scan"] = fault.Name
			for k := range one.truth {
				one.truth[k].Of["scan"] = fault.Name
			}
			fs = []found{one}
		} else if fs, err = typeset(f.Sheet); err != nil {
			return fmt.Errorf("%s: %w", f.Style, err)
		}
		for _, p := range fs {
			total.add(p.score)
			vs.judge(p, f.Of)
			if f.Empty {
				empty += p.score.found
			}
			pages = append(pages, p)
		}
	}
	fmt.Fprintf(w, "\nFinding fields on %d forms drawn at random, seed %d (IoU >= %.1f, or a box to tick in its place)\n",
		d.Count, d.Seed, MatchIoU)
	fmt.Fprintf(w, tallyHead, "", "wanted", "found", "hit", "F1", "lenient", "kind", "name", "comb", "lines")
	total.print(w, "all")
	fmt.Fprintf(w, "false fields on forms that have none: %d\n", empty)
	total.reliability(w)
	total.speed(w, 0.3)
	vs.print(w)
	if d.Overlays == "" {
		return nil
	}
	slices.SortStableFunc(pages, func(a, b found) int { return cmp.Compare(missed(b), missed(a)) })
	return drawAll(w, d.Overlays, pages[:min(d.Pictures, len(pages))])
}

// print writes the table, the worst value first.
func (vs values) print(w io.Writer) {
	var all []*value
	for _, v := range vs {
		all = append(all, v)
	}
	slices.SortFunc(all, func(a, b *value) int { return cmp.Or(cmp.Compare(a.f1(), b.f1()), cmp.Compare(a.name, b.name)) })
	const row = "%-38s %6s %6s %6s %6s %6s %6s %6s %6s %6s\n"
	fmt.Fprintf(w, row, "factor: value", "wanted", "missed", "false", "F1", "kind", "name", "format", "due", "order")
	for _, v := range all {
		if v.wanted+v.none == 0 {
			continue
		}
		fmt.Fprintf(w, row, v.name, fmt.Sprint(v.wanted), fmt.Sprint(v.wanted-v.hit), fmt.Sprint(v.none), fmt.Sprintf("%.3f", v.f1()),
			v.kind, v.named, v.set, v.due, v.pages)
	}
}

// faint tells whether a form marks places by pale lines or tints alone: in black and white they are gone, and nobody sees them.
func faint(of map[string]string) bool {
	return strings.HasSuffix(of["stroke"], "grey") || of["mark"] == "tint" || of["mark"] == "white on tint" || of["table"] == "zebra"
}
