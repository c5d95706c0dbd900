package outline

import (
	"cmp"
	"math"
	"regexp"
	"slices"
	"strings"

	"zealousmargin.example/internal/arrange"
	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/geom"
)

// The types of an element, named as ISO 32000-2, 14.8.4, has them.
const (
	Paragraph = "P"
	List      = "L"
	Item      = "LI"
	Label     = "Lbl"
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

func letter(r rune) bool { return r >= 'A' && r <= 'Z' || r >= 'a' && r <= 'z' || r > 127 }

// Builder keeps in mind how deep the headings of a document are, since none may be left out (ISO 14289-1, 7.4.2).
type Builder struct {
	Sizes Sizes
	depth int // of the last heading
}

// Page is the structure of a page, in the order in which it is read. Height is that of the page; the rules are those that are printed on it.
func (b *Builder) Page(pieces []Piece, h, v []evidence.Rule, height float64) []Element {
	tables := grids(h, v)
	in := make([]int, len(pieces)) // the table of each piece, from 1
	units := []geom.Rect{}         // what is put in order: pieces outside of tables, and tables
	owner := []int{}               // a piece, or -1-n for table n
	flip := func(r geom.Rect) geom.Rect { return geom.R(r.X0, height-r.Y1, r.X1, height-r.Y0) }
	inside := make([][]int, len(tables))
	for i, p := range pieces {
		for t, g := range tables {
			if g.box.Contains(p.Rect.Mid()) {
				in[i] = t + 1
				inside[t] = append(inside[t], i)
				break
			}
		}
	}
	for t, g := range tables {
		if len(inside[t]) > 0 {
			units, owner = append(units, flip(g.box)), append(owner, -1-t)
		}
	}
	for i, p := range pieces {
		if in[i] == 0 {
			units, owner = append(units, flip(p.Rect)), append(owner, i)
		}
	}
	var out []Element
	last := -1 // the piece that a paragraph may go on from
	for _, k := range arrange.Structure(units) {
		o := owner[k]
		switch {
		case o < 0:
			out = append(out, tables[-1-o].element(pieces, inside[-1-o], flip))
			last = -1
		case pieces[o].Field:
			out = append(out, Element{Type: Form, Pieces: []int{o}})
			last = -1
		default:
			out = b.line(out, pieces, o, last)
			last = o
		}
	}
	return out
}

var bullet = regexp.MustCompile(`^\s*(?:[•‣◦▪–—*·-]|\(?[0-9]{1,2}[.)]|\(?[a-z][.)])\s+\S`)

// line puts a line behind what there is: to the paragraph or the item that it goes on from, or as something new.
func (b *Builder) line(out []Element, pieces []Piece, i, last int) []Element {
	p := pieces[i]
	if level := b.Sizes.level(p); level > 0 {
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
