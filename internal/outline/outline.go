package outline

import (
	"cmp"
	"math"
	"regexp"
	"slices"
	"strings"

	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/geom"
)

// The types of an element, named as ISO 32000-2, 14.8.4, has them.
const (
	Paragraph = "P"
	List      = "L"
	Item      = "LI"
	Body      = "LBody"
	Table     = "Table"
	Row       = "TR"
	Head      = "TH"
	Cell      = "TD"
	Form      = "Form"
)

// Piece is a line of words or a field on a page, in page points.
type Piece struct {
	Rect  geom.Rect
	Text  string  // of a line
	Size  float64 // of its type
	Bold  bool
	Field bool
}

// Element is a part of the structure: it has pieces, by their places in the list, or further elements.
type Element struct {
	Type   string
	Pieces []int
	Kids   []Element
	Scope  string // of a head of a table: Column or Row
}

// Sizes are those of the type of a document.
type Sizes struct {
	Body  float64   // that most of it is set in
	Heads []float64 // larger ones, from the largest on
}

const (
	larger     = 1.15 // how much larger than the body a heading is set (common practice, no source)
	bolder     = 1.05 // and one in bold type
	mostLevels = 4
	headWords  = 14 // a heading has no more words
	near       = 0.06
)

// SizesOf finds the sizes of the type in the lines of all pages.
func SizesOf(pages [][]Piece) Sizes {
	signs := map[float64]int{}
	for _, page := range pages {
		for _, p := range page {
			if !p.Field && p.Size > 0 {
				signs[math.Round(p.Size*2)/2] += len([]rune(p.Text))
			}
		}
	}
	var s Sizes
	best := 0
	for size, n := range signs {
		if n > best || n == best && size < s.Body {
			s.Body, best = size, n
		}
	}
	for size := range signs {
		if size >= s.Body*bolder && !slices.ContainsFunc(s.Heads, func(h float64) bool { return math.Abs(h-size) < h*near }) {
			s.Heads = append(s.Heads, size)
		}
	}
	slices.SortFunc(s.Heads, func(a, b float64) int { return cmp.Compare(b, a) })
	return s
}

// level is that of a heading, from 1; 0 is none.
func (s Sizes) level(p Piece) int {
	least := larger
	if p.Bold {
		least = bolder
	}
	if p.Field || p.Size < s.Body*least || len(strings.Fields(p.Text)) > headWords || !strings.ContainsFunc(p.Text, letter) {
		return 0
	}
	for i, h := range s.Heads {
		if p.Size > h*(1-near)-0.3 {
			return min(i+1, mostLevels)
		}
	}
	return 0
}

// Heading tells whether a line is set as a heading.
func (s Sizes) Heading(p Piece) bool { return s.level(p) > 0 }

func letter(r rune) bool { return r >= 'A' && r <= 'Z' || r >= 'a' && r <= 'z' || r > 127 }

// Builder keeps in mind how deep the headings of a document are, since none may be left out (ISO 14289-1, 7.4.2).
type Builder struct {
	Sizes Sizes
	depth int // of the last heading
}

// Page is the structure of a page, in the order in which it is read. The lines come in that order, fields anywhere; the rules are those
// that are printed on the page.
func (b *Builder) Page(pieces []Piece, h, v []evidence.Rule) []Element {
	tables := grids(h, v)
	in := make([]int, len(pieces)) // the table of each piece, from 1
	inside := make([][]int, len(tables))
	var rest []int
	for i, p := range pieces {
		for t, g := range tables {
			if g.box.Contains(p.Rect.Mid()) {
				in[i] = t + 1
				inside[t] = append(inside[t], i)
				break
			}
		}
		rest = append(rest, i)
	}
	var out []Element
	last := -1 // the piece that a paragraph may go on from
	done := make([]bool, len(tables))
	for _, i := range ordered(pieces, rest) {
		switch t := in[i] - 1; {
		case t >= 0 && done[t]:
		case t >= 0: // a table stands where the first of it is read
			done[t] = true
			out = append(out, tables[t].element(pieces, inside[t]))
			last = -1
		case pieces[i].Field:
			out = append(out, Element{Type: Form, Pieces: []int{i}})
			last = -1
		default:
			out = b.line(out, pieces, i, last)
			last = i
		}
	}
	return out
}

// Gaps between a box and its label, and how small a box is, in points (common practice, no source).
const (
	boxSide  = 22
	labelGap = 24
)

// ordered puts fields among the lines, which come in reading order: behind what stands before them in their row, a box before the words
// behind it, else behind what stands over them.
func ordered(pieces []Piece, which []int) []int {
	var out, fields []int
	for _, i := range which {
		if pieces[i].Field {
			fields = append(fields, i)
		} else {
			out = append(out, i)
		}
	}
	slices.SortStableFunc(fields, func(a, b int) int { // from the top, and from the left in a row
		p, q := pieces[a].Rect, pieces[b].Rect
		if p.OverlapY(q) > 0.5*math.Min(p.H(), q.H()) {
			return cmp.Compare(p.X0, q.X0)
		}
		return cmp.Compare(q.Y1, p.Y1)
	})
	for _, f := range fields {
		out = slices.Insert(out, place(pieces, out, f), f)
	}
	return out
}

// place is where a field comes among those that are in order.
func place(pieces []Piece, out []int, f int) int {
	r := pieces[f].Rect
	before, gapBefore, behind, gapBehind, over, gapOver, higher := -1, math.Inf(1), -1, math.Inf(1), -1, math.Inf(1), -1
	for at, i := range out {
		p := pieces[i]
		row := p.Rect.OverlapY(r) > 0.3*math.Min(p.Rect.H(), r.H())
		switch {
		case row && p.Rect.X0 <= r.X0: // what a field lies on, such as the line of its label, comes before it
			if gap := r.X0 - p.Rect.X1; gap < gapBefore {
				before, gapBefore = at, gap
			}
		case row && !p.Field && p.Rect.X0 >= r.X1-2:
			if gap := p.Rect.X0 - r.X1; gap < gapBehind {
				behind, gapBehind = at, gap
			}
		case p.Rect.Y0 >= r.Y1-3 && p.Rect.OverlapX(r) > 0:
			if gap := p.Rect.Y0 - r.Y1; gap < gapOver {
				over, gapOver = at, gap
			}
		}
		if p.Rect.Mid().Y > r.Mid().Y {
			higher = at
		}
	}
	switch {
	case behind >= 0 && r.W() <= boxSide && gapBehind < labelGap && gapBehind < gapBefore:
		return behind
	case before >= 0:
		return before + 1
	case over >= 0:
		return over + 1
	}
	return higher + 1
}

var bullet = regexp.MustCompile(`^\s*(?:[•‣◦▪–—*·-]|\(?[0-9]{1,2}[.)]|\(?[a-z][.)])\s+\S`)

// line puts a line behind what there is: to the paragraph or the item that it goes on from, or as something new.
func (b *Builder) line(out []Element, pieces []Piece, i, last int) []Element {
	p := pieces[i]
	if level := b.Sizes.level(p); level > 0 {
		if n := len(out) - 1; last >= 0 && n >= 0 && out[n].Type[0] == 'H' && follows(pieces[last], p) { // a heading of several lines
			out[n].Pieces = append(out[n].Pieces, i)
			return out
		}
		b.depth = min(level, b.depth+1)
		return append(out, Element{Type: "H" + string(rune('0'+b.depth)), Pieces: []int{i}})
	}
	goes := last >= 0 && len(out) > 0 && follows(pieces[last], p)
	if bullet.MatchString(p.Text) {
		item := Element{Type: Item, Kids: []Element{{Type: Body, Pieces: []int{i}}}}
		if n := len(out) - 1; n >= 0 && out[n].Type == List && last >= 0 {
			out[n].Kids = append(out[n].Kids, item)
			return out
		}
		return append(out, Element{Type: List, Kids: []Element{item}})
	}
	if n := len(out) - 1; goes {
		switch out[n].Type {
		case Paragraph:
			out[n].Pieces = append(out[n].Pieces, i)
			return out
		case List:
			body := &out[n].Kids[len(out[n].Kids)-1].Kids[0]
			if p.Rect.X0 > pieces[body.Pieces[0]].Rect.X0+1 { // it stands in from the bullet
				body.Pieces = append(body.Pieces, i)
				return out
			}
		}
	}
	return append(out, Element{Type: Paragraph, Pieces: []int{i}})
}

// follows tells whether a line goes on from the one over it: in the same type, close below, from about the same left.
func follows(a, b Piece) bool {
	size := math.Max(a.Size, b.Size)
	gap := a.Rect.Y0 - b.Rect.Y1
	return math.Abs(a.Size-b.Size) < size*0.12 && gap > -size*0.5 && gap < size*0.9 && math.Abs(a.Rect.X0-b.Rect.X0) < 3*size &&
		a.Rect.OverlapX(b.Rect) > 0 && a.Rect.W() > 0.45*b.Rect.W()
}
