package detect

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strings"

	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
)

const (
	longestCell = 4   // underscores of one cell of a typed comb
	mostSigns   = 30  // cells of one
	typedGap    = 9.0 // points between its pieces
)

// typedCombs finds combs that were typed: |__|__|__|, _ _ - _ _ _, __.__.____. Their words are no longer part of the lines.
func (f *finder) typedCombs() {
	var pieces []evidence.Word
	for _, w := range f.ev.Words {
		if isTyped(w.Text) {
			pieces = append(pieces, w)
		}
	}
	slices.SortFunc(pieces, func(a, b evidence.Word) int {
		if math.Min(a.Rect.Y1, b.Rect.Y1)-math.Max(a.Rect.Y0, b.Rect.Y0) > -3 { // underscores stand below the strokes
			return cmp.Compare(a.Rect.X0, b.Rect.X0)
		}
		return cmp.Compare(b.Rect.Y0, a.Rect.Y0)
	})
	for i := 0; i < len(pieces); {
		area, text := pieces[i].Rect, pieces[i].Text
		j := i + 1
		for ; j < len(pieces); j++ {
			r := pieces[j].Rect
			if gap := r.X0 - area.X1; gap < -3 || gap > typedGap || r.Y0 > area.Y1+3 || r.Y1 < area.Y0-3 {
				break
			}
			if r.X0 > area.X1+1.5 {
				text += " "
			}
			text += pieces[j].Text
			area = area.Union(r)
		}
		if n := signsOf(text); n > 0 {
			f.typedComb(area, n)
		}
		i = j
	}
}

// signsOf is the number of cells of a typed comb; 0 when the text is none.
func signsOf(text string) int {
	runs := strings.FieldsFunc(text, func(r rune) bool { return r != '_' })
	strokes := strings.Contains(strings.Trim(text, "|"), "|")
	n := 0
	for _, r := range runs {
		if len(r) > longestCell || strokes && len(r) != len(runs[0]) {
			return 0
		}
		if strokes {
			n++
		} else {
			n += len(r)
		}
	}
	if len(runs) < 2 || n < 3 || n > mostSigns {
		return 0
	}
	return n
}

func (f *finder) typedComb(area geom.Rect, n int) {
	height := math.Max(11, area.H())
	rect := geom.Rect{X0: area.X0, X1: area.X1, Y0: area.Y0, Y1: area.Y0 + height}
	f.cands = append(f.cands, candidate{
		kind: form.Text, rect: rect, area: rect, how: fromLeader, comb: n, score: 0.9, free: height,
		what: fmt.Sprintf("%d typed cells", n),
	})
	f.typed = append(f.typed, area.Inset(-0.5))
	for i := range f.lines {
		l := &f.lines[i]
		if !l.Rect.Overlaps(area) {
			continue
		}
		l.Words = slices.DeleteFunc(slices.Clone(l.Words), func(w evidence.Word) bool { return f.inTyped(w) })
		if len(l.Words) > 0 {
			l.Rect = l.Words[0].Rect
			for _, w := range l.Words {
				l.Rect = l.Rect.Union(w.Rect)
			}
		}
	}
	f.lines = slices.DeleteFunc(f.lines, func(l evidence.Line) bool { return len(l.Words) == 0 })
}

// inTyped tells whether a word is a piece of a typed comb.
func (f *finder) inTyped(w evidence.Word) bool {
	return slices.ContainsFunc(f.typed, func(r geom.Rect) bool { return r.Contains(w.Rect.Mid()) }) && isTyped(w.Text)
}

// isTyped tells whether a word may be a piece of a typed comb: nothing but underscores and strokes.
func isTyped(word string) bool { return strings.Trim(word, "_|./-–") == "" }
