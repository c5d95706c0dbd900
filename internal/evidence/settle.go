package evidence

import (
	"cmp"
	"math"
	"slices"
	"strings"
	"unicode"

	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/scan"
)

// What was recognised on the picture of a page is weighed against what is drawn there: words against lines, dots against both.

// written is the least share of the ink of a recognised word that lies beside lines, for it to be one.
const written = 0.3

// boxed tells whether a recognised word is really a row of small boxes.
func (b *Builder) boxed(w Word) bool {
	boxes := 0
	for _, x := range b.page.Boxes {
		if !x.Stroked || x.Rect.W() >= 18 || x.Rect.H() >= 18 {
			continue
		}
		if x.Rect.Inset(-1.5).Covers(w.Rect, 1) && len([]rune(w.Text)) <= 2 {
			return true
		}
		if x.Rect.Intersect(w.Rect).Area() > 0.6*x.Rect.Area() {
			boxes++
		}
	}
	return boxes >= 2
}

// dotted tells whether a recognised word is really a row of dots or a pair of brackets.
func (b *Builder) dotted(w Word) bool {
	return (len(strings.Trim(w.Text, ".,…_-—· []()")) < 3 || w.Doubt > hardlyRead) && slices.ContainsFunc(b.dots, func(d Word) bool {
		return d.Rect.Inset(-1).Intersect(w.Rect).Area() > 0.5*w.Rect.Area()
	})
}

// beside gives the ink of an area of a page that lies on none of its lines and rows of dots, and its share of all ink there.
func (b *Builder) beside() func(geom.Rect) (around geom.Rect, share float64) {
	k, height := b.page.Width/float64(b.picture.W), b.page.Height
	pixels := func(r geom.Rect) scan.Part {
		return scan.Part{
			X0: int(r.X0 / k), X1: int(math.Ceil(r.X1 / k)),
			Y0: int((height - r.Y1) / k), Y1: int(math.Ceil((height - r.Y0) / k)),
		}
	}
	var drawn []scan.Part
	for _, r := range append(slices.Clone(b.page.H), b.page.V...) {
		drawn = append(drawn, pixels(r.Rect()))
	}
	for _, d := range b.dots {
		drawn = append(drawn, pixels(d.Rect))
	}
	rest := b.picture.Without(drawn)
	return func(r geom.Rect) (geom.Rect, float64) {
		p := rest.Within(pixels(r))
		all := b.picture.Within(pixels(r)).Area
		return geom.Rect{
			X0: float64(p.X0) * k, X1: float64(p.X1) * k, Y0: height - float64(p.Y1)*k, Y1: height - float64(p.Y0)*k,
		}, float64(p.Area) / math.Max(1, float64(all))
	}
}

// read gives the recognised words that are no drawings. What recognition made of dots, boxes and rules is dropped, and what a
// word has of them at its ends is cut off.
func (b *Builder) read() []Word {
	var kept, slim, doubtful []Word // slim are words of hardly more than uprights: i, l, 1
	for _, w := range b.words {
		switch {
		case w.Doubt == 0: // confirmed by a person
			kept = append(kept, w)
		case b.boxed(w) || b.dotted(w) || strings.Trim(w.Text, "|") == "":
		case w.plain() || b.picture == nil:
			kept = append(kept, w)
		default:
			doubtful = append(doubtful, w)
		}
	}
	if len(doubtful) == 0 {
		return kept
	}
	var heights []float64
	for _, w := range kept {
		heights = append(heights, w.Rect.H())
	}
	tallest := math.Inf(1)
	if len(heights) >= 8 {
		slices.Sort(heights)
		tallest = muchTaller * heights[len(heights)/2]
	}
	beside := b.beside()
	for _, w := range doubtful {
		if w.Rect.H() > tallest { // drawings read as letters
			continue
		}
		switch around, share := beside(w.Rect); {
		case share >= written:
			if around.H() >= lowest || w.Rect.W() <= 3*around.H() { // else an edge
				kept = append(kept, trimmed(w, around))
			}
		case len([]rune(w.Text)) <= 2:
			slim = append(slim, w)
		}
	}
	for _, w := range slim {
		if slices.ContainsFunc(kept, func(o Word) bool { return o.Doubt < plainlyRead && besideIn(o, w) }) && !b.stands(w) {
			kept = append(kept, w)
		}
	}
	return kept
}

// besideIn tells whether a slim word stands in the line of another, a space away from it.
func besideIn(o, w Word) bool {
	gap := math.Max(w.Rect.X0-o.Rect.X1, o.Rect.X0-w.Rect.X1)
	return gap > -1 && gap < 0.6*o.Size && w.Rect.OverlapY(o.Rect) > 0.6*math.Min(w.Rect.H(), o.Rect.H()) && w.Rect.H() < 0.95*o.Size
}

// stands tells whether a word stands on a line across, or hangs from one.
func (b *Builder) stands(w Word) bool {
	return slices.ContainsFunc(b.page.H, func(h Rule) bool {
		return h.From < w.Rect.X1+1 && h.To > w.Rect.X0-1 && math.Min(math.Abs(h.At-w.Rect.Y0), math.Abs(h.At-w.Rect.Y1)) < 2
	})
}

// lowest is how high the ink of words is at least, in points.
const lowest = 2.2

// muchTaller than most words are those that nothing plain is read of.
const muchTaller = 2.2

// trimmed cuts off of a word what is drawn at its ends; around is its own ink.
func trimmed(w Word, around geom.Rect) Word {
	if w.Doubt > plainlyRead && around.H() < 0.7*w.Rect.H() {
		w.Rect.Y0, w.Rect.Y1 = around.Y0, around.Y1
	}
	slack := 0.5 * around.H()
	const drawn = "|[]_(){}LlIJ1i!/\\"
	if w.Rect.X1-around.X1 > slack {
		w.Rect.X1 = around.X1
		w.Text = strings.TrimRight(w.Text, drawn)
	}
	if around.X0-w.Rect.X0 > slack {
		w.Rect.X0 = around.X0
		w.Text = strings.TrimLeft(w.Text, drawn)
	}
	return w
}

// settleWords keeps the words that were recognised and are no drawings, and the rows of dots that were seen.
func (b *Builder) settleWords() {
	if len(b.words) == 0 && len(b.dots) == 0 && len(b.ink) == 0 {
		return
	}
	kept := slices.DeleteFunc(b.read(), func(w Word) bool { return w.Text == "" })
	b.page.Words = append(b.page.Words, kept...)
	// A row of letters is no rule.
	b.page.H = slices.DeleteFunc(b.page.H, func(r Rule) bool {
		return slices.ContainsFunc(kept, func(w Word) bool {
			return r.At > w.Rect.Y0+0.15*w.Rect.H() && r.At < w.Rect.Y1-0.05*w.Rect.H() &&
				math.Min(r.To, w.Rect.X1)-math.Max(r.From, w.Rect.X0) > 0.4*r.Len() && r.Len() < 1.4*w.Rect.W()+4
		})
	})
	b.page.V = slices.DeleteFunc(b.page.V, func(r Rule) bool { // nor is a stem
		return r.Len() < 24 && slices.ContainsFunc(kept, func(w Word) bool {
			return r.At > w.Rect.X0-1 && r.At < w.Rect.X1+1 && r.From > w.Rect.Y0-3 && r.To < w.Rect.Y1+3
		})
	})
	for _, r := range b.ink {
		read := slices.ContainsFunc(kept, func(w Word) bool { return w.Rect.Inset(-1).Intersect(r).Area() > 0.4*r.Area() })
		box := slices.ContainsFunc(b.page.Boxes, func(x Box) bool { return x.Stroked && x.Rect.Inset(-1.5).Covers(r, 0) })
		if !read && !box {
			b.page.Ink = append(b.page.Ink, r)
		}
	}
	b.settleDots(kept)
	if b.picture != nil {
		b.page.Words = append(b.page.Words, b.unread()...)
	}
	b.page.Words = append(b.page.Words, b.dots...)
}

// plainlyRead is how unsure recognition may be of a word that is surely no drawing.
const plainlyRead = 0.3

// hardlyRead is how unsure it is of what may be anything.
const hardlyRead = 0.6

// Unread stands for a word that is to be seen and could not be read.
const Unread = "?"

// runTogether is how many times as wide as high a piece of ink is at least, to be letters that run together.
const runTogether = 2.5

// unread makes words of rows of what looks like letters, where recognition saw nothing.
func (b *Builder) unread() []Word {
	ink := slices.Clone(b.page.Ink)
	slices.SortFunc(ink, func(a, b geom.Rect) int { return cmp.Compare(a.X0, b.X0) })
	used := make([]bool, len(ink))
	var out []Word
	for i, first := range ink {
		if used[i] || first.H() > 12 || first.H() < 3 {
			continue
		}
		row, n := first, 1
		for j := i + 1; j < len(ink) && ink[j].X0-row.X1 < 0.5*row.H(); j++ {
			if r := ink[j]; !used[j] && r.H() <= 12 && r.OverlapY(row) > 0.6*math.Min(r.H(), row.H()) && r.X0 > row.X1-1 {
				row, used[j] = row.Union(r), true
				n++
			}
		}
		if n < 3 && row.W() < runTogether*row.H() || row.W() < 1.5*row.H() || b.drawnAcross(row) {
			continue
		}
		out = append(out, Word{Text: Unread, Rect: row, Base: row.Y0, Size: row.H() / 0.72, Doubt: 1})
	}
	return out
}

// drawnAcross tells whether lines run through an area, or a frame holds it.
func (b *Builder) drawnAcross(r geom.Rect) bool {
	in := func(o Rule) bool { return !r.Inset(-1).Intersect(o.Rect()).Empty() && o.Len() > 6 }
	return slices.ContainsFunc(b.page.H, in) || slices.ContainsFunc(b.page.V, in) ||
		slices.ContainsFunc(b.page.Boxes, func(x Box) bool { return x.Stroked && x.Rect.Overlaps(r) })
}

// settleDots decides between rows of dots and the lines that they make together: dots that stand on the baseline of words
// right before them were typed, others are a line.
func (b *Builder) settleDots(words []Word) {
	b.dots = slices.DeleteFunc(b.dots, func(d Word) bool {
		if !IsLeader(d.Text) {
			return false
		}
		along := func(r Rule) bool {
			common := math.Min(r.To, d.Rect.X1) - math.Max(r.From, d.Rect.X0)
			return math.Abs(r.At-d.Rect.Mid().Y) < 1.5 && common > 0.5*math.Min(d.Rect.W(), r.Len())
		}
		if !slices.ContainsFunc(b.page.H, along) {
			return false
		}
		typed := slices.ContainsFunc(words, func(w Word) bool {
			gap := d.Rect.X0 - w.Rect.X1
			return gap > -2 && gap < 1.5*w.Size && math.Abs(w.Base-d.Rect.Y0) < 0.1*w.Size
		})
		if typed {
			b.page.H = slices.DeleteFunc(b.page.H, along)
		}
		return !typed
	})
}

// plain tells whether a word was plainly read: it has a letter or a figure that is more than uprights and corners, which
// recognition makes of boxes.
func (w Word) plain() bool {
	letters, bent := 0, 0
	for _, r := range w.Text {
		if unicode.IsLetter(r) || unicode.IsDigit(r) {
			letters++
			if !strings.ContainsRune("LlIiJj1UuHEFTtCrn7O0oD", r) {
				bent++
			}
		}
	}
	return w.Doubt <= plainlyRead && letters >= 2 && bent >= 1 && letters+1 >= len([]rune(w.Text))
}

// dropStrokes takes away the short lines of a scan that are strokes and serifs of words which were plainly read.
func (b *Builder) dropStrokes() {
	var plain []Word
	for _, w := range b.words {
		if w.Doubt > 0 && w.plain() && !b.boxed(w) {
			plain = append(plain, w)
		}
	}
	stroke := func(r Rule) bool {
		box := r.Rect()
		return slices.ContainsFunc(plain, func(w Word) bool {
			return w.Rect.Inset(-1.2).Covers(box, 0) && r.Len() < 0.95*math.Max(w.Rect.W(), w.Rect.H()+2)
		})
	}
	if len(plain) > 0 {
		b.page.H = slices.DeleteFunc(b.page.H, stroke)
		b.page.V = slices.DeleteFunc(b.page.V, stroke)
	}
	for i := range b.page.V { // an upright that goes on in a letter above or below it ends there
		v := &b.page.V[i]
		for _, w := range plain {
			if v.At < w.Rect.X0-0.5 || v.At > w.Rect.X1+0.5 || v.Len() > 4*w.Rect.H() {
				continue
			}
			if up := w.Rect.Y0 - 0.5; v.To > up && v.To < w.Rect.Y1+2 && up-v.From > 0.3*v.Len() {
				v.To = up
			} else if down := w.Rect.Y1 + 0.5; v.From < down && v.From > w.Rect.Y0-2 && v.To-down > 0.3*v.Len() {
				v.From = down
			}
		}
	}
}
