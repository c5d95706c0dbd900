package measure

import (
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"math"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"zealousmargin.example/internal/detect"
	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/measure/sheets"
)

// TruthSuffix ends the names of files that say which fields the form of that name has.
const TruthSuffix = ".truth.json"

// HasTruth tells whether a folder holds forms with their truth beside them.
func HasTruth(folder string) bool {
	files, err := filepath.Glob(filepath.Join(folder, "*"+TruthSuffix))
	return err == nil && len(files) > 0
}

// rect is a rectangle as truth files write it: x0, y0, x1, y1 in points from the lower left of the
// visible page, unturned.
type rect [4]float64

func (r rect) geom() geom.Rect { return geom.R(r[0], r[1], r[2], r[3]) }

// truthFile is NAME.truth.json.
type truthFile struct {
	Fields []struct {
		Page      int         `json:"page"`
		Type      form.Kind   `json:"type"`
		Rect      rect        `json:"rect"`
		Label     string      `json:"label"`
		Name      string      `json:"name"`
		Multiline *bool       `json:"multiline"`
		Comb      int         `json:"comb"`
		Group     string      `json:"group"`
		Kinds     []form.Kind `json:"types_ok"`
		Optional  bool        `json:"optional"`
		Alt       [][]rect    `json:"alt"`
		Unscored  bool        `json:"comb_unscored"`
	} `json:"fields"`
	Merges []struct {
		Members []int `json:"members"`
		Rect    rect  `json:"rect"`
	} `json:"merges"`
}

// marked reads the forms of a folder that have their truth beside them.
//
// Errors: a truth file that is no JSON, that names fields which are not there, or has no form.
func marked(folder string) ([]sheets.Sheet, error) {
	files, err := filepath.Glob(filepath.Join(folder, "*"+TruthSuffix))
	if err != nil {
		return nil, err
	}
	var out []sheets.Sheet
	for _, f := range files {
		b, err := os.ReadFile(f)
		if err != nil {
			return nil, err
		}
		var t truthFile
		if err := json.Unmarshal(b, &t); err != nil {
			return nil, fmt.Errorf("%s: %w", f, err)
		}
		pdf, err := os.ReadFile(strings.TrimSuffix(f, TruthSuffix) + ".pdf")
		if errors.Is(err, fs.ErrNotExist) {
			return nil, fmt.Errorf("%s: the form is missing; put it beside its truth as .pdf", f)
		}
		if err != nil {
			return nil, err
		}
		s, err := t.sheet()
		if err != nil {
			return nil, fmt.Errorf("%s: %w", f, err)
		}
		s.Style, s.PDF = strings.TrimSuffix(filepath.Base(f), TruthSuffix), pdf
		out = append(out, s)
	}
	return out, nil
}

func (t truthFile) sheet() (sheets.Sheet, error) {
	var s sheets.Sheet
	for _, f := range t.Fields {
		w := sheets.Truth{
			Page: f.Page, Rect: f.Rect.geom(), Kind: f.Type, Words: f.Label + " " + f.Name, Comb: f.Comb, Group: f.Group,
			Kinds: f.Kinds, Optional: f.Optional, Multiline: f.Multiline != nil && *f.Multiline, Unsaid: f.Multiline == nil, Near: true,
		}
		if f.Unscored {
			w.Comb = 0
		}
		for _, a := range f.Alt {
			var rects []geom.Rect
			for _, r := range a {
				rects = append(rects, r.geom())
			}
			w.Alt = append(w.Alt, rects)
		}
		s.Truth = append(s.Truth, w)
	}
	for _, m := range t.Merges {
		for _, i := range m.Members {
			if i < 0 || i >= len(s.Truth) {
				return s, fmt.Errorf("a merge names field %d of %d", i, len(s.Truth))
			}
		}
		s.Merges = append(s.Merges, sheets.Merge{Members: m.Members, Rect: m.Rect.geom()})
	}
	return s, nil
}

// asFound gives the truth of page n the shape in which it was found, where several shapes count: another
// rectangle, several fields for one, one field over several. What may be found or not is left out of both
// the truth and the finds.
func asFound(s sheets.Sheet, n int, finds []detect.Find) ([]detect.Find, []sheets.Truth) {
	best := func(r geom.Rect) float64 {
		v := 0.0
		for _, f := range finds {
			if f.Confidence >= form.LikelyFrom {
				v = math.Max(v, f.Rect.IoU(r))
			}
		}
		return v
	}
	merged := map[int]bool{}
	var truth []sheets.Truth
	for _, m := range s.Merges {
		first := s.Truth[m.Members[0]]
		if first.Page != n || best(m.Rect) < MatchIoU {
			continue
		}
		for _, i := range m.Members {
			merged[i] = true
		}
		first.Rect, first.Alt = m.Rect, nil
		truth = append(truth, first)
	}
	for i, t := range s.Truth {
		if t.Page != n || merged[i] {
			continue
		}
		shape := []geom.Rect{t.Rect}
		for _, alt := range t.Alt {
			one := slices.ContainsFunc(alt, func(r geom.Rect) bool { return best(r) < MatchIoU })
			if !one && (len(alt) > 1 && best(t.Rect) < MatchIoU || len(alt) == 1 && best(alt[0]) > best(t.Rect)) {
				shape = alt
			}
		}
		if t.Optional {
			finds = slices.DeleteFunc(slices.Clone(finds), func(f detect.Find) bool {
				return slices.ContainsFunc(shape, func(r geom.Rect) bool { return r.IoU(f.Rect) >= MatchIoU })
			})
			continue
		}
		for _, r := range shape {
			t.Rect = r
			if len(shape) > 1 {
				t.Comb, t.Format = 0, "?" // its cells are shared out, and what is asked of each is not said
			}
			truth = append(truth, t)
		}
	}
	return finds, truth
}

// Marked measures finding on the forms of a folder that have their truth beside them, and prints a table.
func Marked(w io.Writer, folder, overlays string) error {
	all, err := marked(folder)
	if err != nil {
		return err
	}
	fmt.Fprintf(w, "Finding fields on the forms of %s (IoU >= %.1f, or a box to tick in its place)\n", folder, MatchIoU)
	fmt.Fprintf(w, tallyHead, "form", "wanted", "found", "hit", "F1", "lenient", "kind", "name", "comb", "lines")
	var total tally
	var pages []found
	for _, s := range all {
		fs, err := typeset(s)
		if err != nil {
			return fmt.Errorf("%s: %w", s.Style, err)
		}
		var form tally
		for _, f := range fs {
			form.add(f.score)
		}
		form.print(w, s.Style)
		total.add(form)
		pages = append(pages, fs...)
	}
	total.print(w, "all")
	total.reliability(w)
	total.speed(w, 1)
	if overlays == "" {
		return nil
	}
	return drawAll(w, overlays, pages)
}

// overInk tells whether a find lies over printed words: over more than a quarter of the height of a word
// and a tenth of its width. Leaders and strokes are what fields stand on, and guide text what they replace.
func overInk(ev *evidence.Page, f detect.Find) bool {
	_, from := ev.ToPage()
	r := f.Rect.Apply(from).Inset(0.5)
	return slices.ContainsFunc(ev.Words, func(w evidence.Word) bool {
		if evidence.IsLeader(w.Text) || evidence.IsTick(w.Text) || w.Doubt > 0.5 || detect.IsGuide(w.Text) || strings.Trim(w.Text,
			"_|") == "" ||
			f.Comb > 0 && len([]rune(w.Text)) == 1 {
			return false
		}
		c := w.Rect.Intersect(r)
		return !c.Empty() && c.H() > 0.25*w.Rect.H() && c.W() > 0.1*w.Rect.W()
	})
}
