package detect

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strings"
	"unicode"

	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
)

const (
	captionWords = 8    // a caption has so many words at most; more are a sentence
	captionRoom  = 40.0 // higher blanks under captions are for something else
)

// captionColumns makes candidates of a slot that is divided by nothing but its captions: words in small print that
// stand in one row above the blank, where each begins a place to write begins. Nothing when the slot has none.
func (f *finder) captionColumns(s slot, area geom.Rect, ink []mark, band float64) []candidate {
	taken := s.x0 // by the words and boxes at the left of the blank
	for _, k := range ink {
		if k.rect.Y0 < area.Y0+band-1.5 && k.rect.Y1 > area.Y0+0.8 && (k.tick || k.base < area.Y0+band-1.5) {
			taken = math.Max(taken, k.rect.X1)
		}
	}
	row := f.captionRow(area, band)
	if len(row) == 0 || len(row) < 2 && (!s.roof || !s.left && !s.right) || row[0].Rect.X0 < taken-2 || row[len(row)-1].Rect.X1 > s.x1+2 {
		return nil
	}
	if f.onBar(row, area.Y0) {
		return nil
	}
	known := f.columnFrom(row[len(row)-1].Rect.X0) // of another row of captions
	if len(row) == 1 && (known == 0 || taken < s.x0+1 || row[0].Rect.X0 < s.x0+30 || row[0].Size > 0.9*f.usualSize()) {
		return nil // alone, a caption has to say where its place ends
	}
	free := math.Inf(1)
	for _, l := range row {
		free = math.Min(free, l.Rect.Y0-area.Y0)
		if len(l.Words) > captionWords || strings.HasSuffix(l.Text(), ".") {
			return nil
		}
	}
	under := geom.Rect{X0: area.X0, X1: area.X1, Y0: area.Y0 + touch, Y1: area.Y0 + free + 4}
	if free < minSlotH || free > captionRoom || f.drawnIn(under) {
		return nil
	}
	var out []candidate
	for i, l := range row {
		from, to := math.Max(l.Rect.X0-1.5, s.x0), s.x1
		if i+1 < len(row) {
			to = row[i+1].Rect.X0 - 3
		} else if known > 0 {
			to = math.Min(to, known)
		} else if i > 0 { // as wide as its neighbour, when it could go on
			width := out[i-1].rect.W()
			if l.Rect.X1 < from+width && to-from > 1.3*width {
				to = from + width
			}
		}
		if to-from < leastWidth {
			return nil
		}
		out = append(out, candidate{
			kind: form.Text, how: fromColumn, score: 0.82, free: free, caption: l.Text(), area: area,
			rect: geom.Rect{X0: from, X1: to, Y0: area.Y0, Y1: area.Y0 + math.Min(free, rowH)},
			what: fmt.Sprintf("place %s pt wide under its caption", pt(to-from)),
		})
	}
	if !s.roof || !s.left && !s.right { // nothing but a line below: the captions must say that they are such
		if row[0].Rect.X0 > s.x0+8 || free < minSlotH+1 || f.headsRows(s) || f.hangs(s, row) || slices.ContainsFunc(row,
			func(l evidence.Line) bool {
				return !strings.ContainsFunc(l.Words[0].Text, unicode.IsLetter)
			}) {
			return nil
		}
	}
	for _, c := range out {
		f.columns = append(f.columns, [2]float64{c.rect.X0, c.rect.X1})
	}
	return out
}

// onBar tells whether words in a row stand on a tinted bar that ends above y: they head a section.
func (f *finder) onBar(row []evidence.Line, y float64) bool {
	return slices.ContainsFunc(f.ev.Boxes, func(b evidence.Box) bool {
		return b.Tone >= 0 && b.Tone < paper && b.Rect.Y0 > y+1 && !slices.ContainsFunc(row, func(l evidence.Line) bool {
			return !b.Rect.Inset(-1.5).Covers(l.Rect, 0)
		})
	})
}

// hangs tells whether words in a row belong to a rule right above them: the last rule of the run that goes on below has
// words right below it too.
func (f *finder) hangs(s slot, row []evidence.Line) bool {
	last := s.bottom
	for _, h := range f.ev.H { // from the top down
		if h.At < last-minSlotH && last-h.At < tallestRow && math.Abs(h.From-s.x0) < 4 && math.Abs(h.To-s.x1) < 4 {
			last = h.At
		}
	}
	under := slices.ContainsFunc(f.lines, func(l evidence.Line) bool {
		return last-l.Rect.Y1 > -1 && last-l.Rect.Y1 < maxHang && l.Rect.X0 > s.x0-3 && l.Rect.X1 < s.x1+3
	})
	over := func(h evidence.Rule, l evidence.Line) bool {
		return h.At > l.Rect.Y1-1 && h.At < l.Rect.Y1+maxHang && h.From < l.Rect.X0+3 && h.To > l.Rect.X1-3
	}
	return slices.ContainsFunc(f.ev.H, func(h evidence.Rule) bool {
		own := h.Len() < 0.8*(s.x1-s.x0) && over(h, row[0]) // shorter than this one
		return own || under && slices.ContainsFunc(row, func(l evidence.Line) bool { return over(h, l) })
	})
}

// headsRows tells whether the words above a rule are the heads of a table: rows of the same extent follow below it, each
// without words.
func (f *finder) headsRows(s slot) bool {
	n, at := 0, s.bottom
	for _, h := range f.ev.H { // from the top down
		if h.At < at-minSlotH && at-h.At < 40 && math.Abs(h.From-s.x0) < 4 && math.Abs(h.To-s.x1) < 4 {
			if f.hasWords(geom.Rect{X0: s.x0, X1: s.x1, Y0: h.At, Y1: at}) {
				return false
			}
			n, at = n+1, h.At
		}
	}
	return n >= 2
}

// drawnIn tells whether boxes to tick or lines to write on stand in an area.
func (f *finder) drawnIn(r geom.Rect) bool {
	return slices.ContainsFunc(f.ticks, func(t geom.Rect) bool { return t.Y1 > r.Y1-3 && t.Overlaps(r) }) ||
		slices.ContainsFunc(f.ev.H, func(h evidence.Rule) bool {
			return h.At > r.Y0 && h.At < r.Y1 && math.Min(h.To, r.X1)-math.Max(h.From, r.X0) > maxTick+2
		})
}

// columnFrom is where a captioned column ends that begins at x; 0 when there is none.
func (f *finder) columnFrom(x float64) float64 {
	for _, c := range f.columns {
		if math.Abs(c[0]-(x-1.5)) < 3 {
			return c[1]
		}
	}
	return 0
}

// captionRow is the lowest row of lines above the band of an area that is to be blank, from left to right.
func (f *finder) captionRow(area geom.Rect, band float64) []evidence.Line {
	var row []evidence.Line
	for _, l := range f.lines {
		m := l.Rect.Mid()
		if m.X < area.X0 || m.X > area.X1 || m.Y > area.Y1 || l.Rect.Y0 < area.Y0+band-1.5 {
			continue
		}
		if len(row) > 0 && l.Base > row[0].Base+3 {
			continue
		}
		if len(row) > 0 && l.Base < row[0].Base-3 {
			row = row[:0]
		}
		row = append(row, l)
	}
	slices.SortFunc(row, func(a, b evidence.Line) int { return cmp.Compare(a.Rect.X0, b.Rect.X0) })
	return row
}

// usualSize is the size of most lines of type of the page.
func (f *finder) usualSize() float64 {
	var sizes []float64
	for _, l := range f.lines {
		sizes = append(sizes, l.Size)
	}
	if len(sizes) == 0 {
		return 0
	}
	slices.Sort(sizes)
	return sizes[len(sizes)/2]
}

// underlinesHead tells whether the words that stand on a rule are larger than most, or the only words there while the rule
// runs under all of them as far as the text goes: the rule closes a heading.
func (f *finder) underlinesHead(s slot) bool {
	usual := f.usualSize()
	return slices.ContainsFunc(f.lines, func(l evidence.Line) bool {
		return l.Rect.X0 >= s.x0-2 && l.Rect.X0 < s.x0+12 && l.Rect.Y0 >= s.bottom-1 && l.Rect.Y0 < s.bottom+8 &&
			!strings.HasSuffix(l.Text(), ":") && (l.Size > 1.06*usual || s.x1-s.x0 > 0.92*f.textWidth())
	})
}

// asked is the line of words right above a rule that ends in a colon when nothing follows on it: then the rule is for
// the answer. Empty when there is none.
func (f *finder) asked(s slot) string {
	i := slices.IndexFunc(f.lines, func(l evidence.Line) bool {
		return l.Rect.Y0 > s.bottom+8 && l.Rect.Y0 < s.bottom+40 && l.Rect.X0 > s.x0-6 && l.Rect.X0 < s.x1 &&
			strings.HasSuffix(strings.TrimSpace(l.Text()), ":") && !slices.ContainsFunc(f.lines, func(o evidence.Line) bool {
			return o.Rect.X0 > l.Rect.X1 && o.Rect.X0 < s.x1 && o.Rect.OverlapY(l.Rect) > 0
		})
	})
	if i < 0 {
		return ""
	}
	return f.lines[i].Text()
}
