package evidence

import (
	"strings"
	"unicode"

	"zealousmargin.example/internal/geom"
)

// Rule is a straight horizontal or vertical line.
type Rule struct {
	Horizontal bool
	From, To   float64 // extent along the line
	At         float64 // y of a horizontal, x of a vertical line (its middle)
	Thick      float64
	Dashed     bool // drawn in pieces
}

// Len is the length of the rule in points.
func (r Rule) Len() float64 { return r.To - r.From }

// Rect is the area that the rule inks.
func (r Rule) Rect() geom.Rect {
	if r.Horizontal {
		return geom.Rect{X0: r.From, X1: r.To, Y0: r.At - r.Thick/2, Y1: r.At + r.Thick/2}
	}
	return geom.Rect{X0: r.At - r.Thick/2, X1: r.At + r.Thick/2, Y0: r.From, Y1: r.To}
}

// Box is a rectangle that was drawn as one: with a border, or as an area of
// its own colour.
type Box struct {
	Rect    geom.Rect
	Stroked bool
	// Tone is the lightness of its fill, 0 black to 1 white; negative when it has none.
	Tone float64
	// Round tells that the corners are rounded or that it is a circle.
	Round bool
}

// Word is a run of glyphs without a gap.
type Word struct {
	Text string    `json:"text"`
	Rect geom.Rect `json:"rect"` // around the ink
	Base float64   `json:"base"` // y of the baseline
	Size float64   `json:"size"` // height of the type, about the em, in points
	// Doubt is how unsure recognition is, 0 to 1; typeset words have none.
	Doubt float64 `json:"doubt,omitempty"`
}

// Text is the recognised words of a page. Rectangles are in the space of the page
// as it was laid then; At takes them to where it lies now.
type Text struct {
	Place    geom.Matrix `json:"place"`    // of the page, when it was recognised
	Rotate   int         `json:"rotate"`   // the turn at which the words read upright
	Language string      `json:"language"` // as Tesseract names it: "eng", "deu+eng"
	Words    []Word      `json:"words"`
	Seconds  float64     `json:"seconds"` // that recognising took
}

// At gives the words in the space of the page laid by place.
func (t Text) At(place geom.Matrix) []Word {
	from, ok := t.Place.Inverse()
	if !ok || t.Place == place {
		return t.Words
	}
	m := from.Then(place)
	out := make([]Word, len(t.Words))
	for i, w := range t.Words {
		w.Rect = w.Rect.Apply(m)
		w.Base = m.Apply(geom.Point{X: w.Rect.X0, Y: w.Base}).Y
		w.Size *= m.Scale()
		out[i] = w
	}
	return out
}

// Settled gives a recognised word, upright, the size and the baseline of its type. The
// ink of a word is as high as its letters: "owner" has neither ascenders nor
// descenders, "Signature" both. The parts of the em are those of common book and office
// faces (common practice, no source).
func (w Word) Settled() Word {
	const xHeight, capHeight, descent = 0.52, 0.72, 0.21
	top, below := xHeight, 0.0
	for _, r := range w.Text {
		if strings.ContainsRune("gjpqyQ,;()[]{}|", r) {
			below = descent
		}
		if strings.ContainsRune("bdfhijklt()[]{}|!?/'\"", r) || unicode.IsUpper(r) || unicode.IsDigit(r) || r > 127 &&
			unicode.IsLetter(r) {
			top = capHeight
		}
	}
	w.Size = w.Rect.H() / (top + below)
	w.Base = w.Rect.Y0 + below*w.Size
	return w
}

// Line is a row of words that read on, left to right.
type Line struct {
	Words []Word
	Rect  geom.Rect
	Base  float64
	Size  float64
}

// Text is the words of the line with a space between.
func (l Line) Text() string {
	n := 0
	for _, w := range l.Words {
		n += len(w.Text) + 1
	}
	b := make([]byte, 0, n)
	for i, w := range l.Words {
		if i > 0 {
			b = append(b, ' ')
		}
		b = append(b, w.Text...)
	}
	return string(b)
}

// Page is the evidence of one page. Width and Height are those of the page as
// shown; Rotate is the turn clockwise that leads to it.
type Page struct {
	Width, Height float64
	Rotate        int
	H, V          []Rule // horizontal rules from the top down, vertical ones from left to right
	Boxes         []Box
	Arrows        []geom.Rect // small triangles and open angles that point up or down
	Pictures      []geom.Rect
	DPI           float64     // resolution of the largest picture; 0 when there is none
	Ink           []geom.Rect // what has the size of a letter and was not read
	Words         []Word
	Lines         []Line
	Ground        *Ground // of a scan; nil for others
	// Layered tells that the words of the file are not to be seen: a layer of an earlier recognition.
	Layered bool
}

// Ground is the tone of a scanned page, sampled coarsely: type and lines are not in it.
type Ground struct {
	Cell float64 // side of a sample, in points
	W, H int
	Tone []uint8 // W*H samples from the upper left, row by row; 255 is blank paper
}

// Of is the middle tone of an area of a page that is so many points high, 0 black to 1
// blank paper.
func (g *Ground) Of(r geom.Rect, height float64) float64 {
	var hist [256]int
	n := 0
	for y := max(0, int((height-r.Y1)/g.Cell)); y <= min(g.H-1, int((height-r.Y0)/g.Cell)); y++ {
		for x := max(0, int(r.X0/g.Cell)); x <= min(g.W-1, int(r.X1/g.Cell)); x++ {
			hist[g.Tone[y*g.W+x]]++
			n++
		}
	}
	if n == 0 {
		return 1
	}
	for v, below := 0, 0; v < 256; v++ {
		if below += hist[v]; 2*below >= n {
			return float64(v) / 255
		}
	}
	return 1
}

// ToPage takes the upright page to page space, and back.
func (p *Page) ToPage() (to, back geom.Matrix) {
	w, h := geom.ViewSize(p.Width, p.Height, p.Rotate) // of the unrotated page
	back, to = geom.Upright(w, h, p.Rotate)
	return to, back
}

// IsScan tells whether the page is a picture of paper: pictures cover most of it, and
// there is hardly a word, or the words are a layer that is not to be seen.
func (p *Page) IsScan() bool {
	covered := 0.0
	for _, r := range p.Pictures {
		covered += r.Intersect(p.Rect()).Area()
	}
	return covered > covering*p.Rect().Area() && (len(p.Words) < 8 || p.Layered) && len(p.H)+len(p.V) < 20
}

// Rect is the whole page.
func (p *Page) Rect() geom.Rect { return geom.Rect{X1: p.Width, Y1: p.Height} }
