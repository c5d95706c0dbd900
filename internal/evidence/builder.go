package evidence

import (
	"cmp"
	"math"
	"slices"

	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/scan"
)

// Widths in points that separate a line from an area. Forms draw rules from
// hairlines to about 2 points; 3 leaves room for heavy ones (common practice, no
// source).
const (
	MaxRuleThick = 3.0
	straight     = 0.6 // how far a line may lean, end to end, and still be upright
	joinGap      = 1.2 // pieces of a line this close are one line
	minRule      = 3.0 // shorter strokes are specks or parts of letters
)

// Path is one painted path: its subpaths in page space.
type Path struct {
	Subpaths []Subpath
	Stroke   bool
	Fill     bool
	Width    float64    // of the stroke, in points
	Tone     float64    // lightness of the fill, 0 to 1
	Ink      float64    // lightness of the stroke, 0 to 1
	Dashed   bool       // stroked with a dash pattern
	Clip     *geom.Rect // outside of it nothing shows; nil when all does
}

// Subpath is a run of joined segments.
type Subpath struct {
	Points []geom.Point
	Closed bool
	Curved bool
}

// Builder collects the marks of one page.
type Builder struct {
	page  Page
	glyph []glyph
	words []Word
	dots  []Word
	ink   []geom.Rect // the size of letters
	crowd geom.Rect   // around drawings of very many pieces
	pale  []geom.Rect // thin areas of the colour of paper
	texts [2]int      // pieces of text that show, and that do not

	picture *scan.Ink // of a page that is a picture
	doubted bool      // the words of the file come from an earlier recognition
}

type glyph struct {
	r    rune
	rect geom.Rect
}

// NewBuilder begins a page: its size in points unturned, and its turn clockwise.
// What is added after that is in points of the page as shown, upright.
func NewBuilder(width, height float64, rotate int) *Builder {
	width, height = geom.ViewSize(width, height, rotate)
	return &Builder{page: Page{Width: width, Height: height, Rotate: rotate}}
}

// Glyph adds one letter with the rectangle around its ink. White space ends a word.
func (b *Builder) Glyph(r rune, rect geom.Rect) { b.glyph = append(b.glyph, glyph{r, rect}) }

// Word adds a word that was recognised as one, such as by OCR.
func (b *Builder) Word(w Word) { b.words = append(b.words, w) }

// Resolution says how fine the largest picture of the page is, in dots per inch.
func (b *Builder) Resolution(dpi float64) { b.page.DPI = dpi }

// Picture adds an area that is covered by a picture.
func (b *Builder) Picture(r geom.Rect) {
	b.page.Pictures = append(b.page.Pictures, r)
	if r.Intersect(b.page.Rect()).Area() > covering*b.page.Rect().Area() { // what was written before lies under it
		b.texts = [2]int{0, b.texts[0] + b.texts[1]}
	}
}

// covering is the part of a page that pictures of paper cover at least.
const covering = 0.6

// Text counts a piece of text of the file, and whether it is hidden.
func (b *Builder) Text(hidden bool) {
	if hidden {
		b.texts[1]++
	} else {
		b.texts[0]++
	}
}

// Path adds a painted path.
func (b *Builder) Path(p Path) {
	for _, s := range p.Subpaths {
		b.subpath(p, s)
	}
}

func (b *Builder) subpath(p Path, s Subpath) {
	if len(s.Points) < 2 {
		return
	}
	box := bounds(s.Points)
	if p.Clip != nil && !p.Clip.Covers(box, 0.5) {
		if box.X0 > p.Clip.X1+0.5 || box.X1 < p.Clip.X0-0.5 || box.Y0 > p.Clip.Y1+0.5 || box.Y1 < p.Clip.Y0-0.5 {
			return
		}
		if p.Stroke && !s.Curved {
			b.strokes(p, s) // what is cut off has no side there
			p.Stroke = false
			if !p.Fill {
				return
			}
		}
		s, box = clipped(s, box, *p.Clip)
	}
	if !finite(box) || !box.Overlaps(b.page.Rect().Inset(-MaxRuleThick)) && box.W() > 0 && box.H() > 0 {
		return
	}
	thin := math.Min(box.W(), box.H())
	visible := p.Fill && p.Tone < 0.97 || p.Stroke && p.Ink < 0.97
	if p.Fill && !p.Stroke && thin <= MaxRuleThick {
		if visible {
			b.rule(box, thin, false)
		} else {
			b.pale = append(b.pale, box)
		}
		return
	}
	if visible && arrow(s, box) {
		b.page.Arrows = append(b.page.Arrows, box)
		return
	}
	if s.Curved && roundedRect(s, box) {
		b.box(p, box)
		return
	}
	if s.Curved {
		if visible && len(s.Points) >= 4 {
			b.page.Boxes = append(b.page.Boxes, Box{Rect: box, Stroked: p.Stroke && p.Ink < 0.97, Tone: tone(p), Round: true})
		}
		return
	}
	if rectangular(s, box) {
		if thin <= MaxRuleThick && visible {
			b.rule(box, math.Max(thin, p.Width), p.Dashed)
			return
		}
		b.box(p, box)
		return
	}
	b.strokes(p, s)
}

// The size in points of the arrows that point down in lists to choose from (common practice, no source).
const leastArrow, mostArrow = 2.0, 12.0

// arrow tells whether a subpath is a small triangle or an open angle that points up or down: two points at one height, and one half way
// between them at another.
func arrow(s Subpath, box geom.Rect) bool {
	pts := s.Points
	if n := len(pts); n == 4 && pts[0] == pts[3] {
		pts = pts[:3]
	}
	if s.Curved || len(pts) != 3 || box.W() < leastArrow || box.W() > mostArrow || box.H() < leastArrow/2 || box.H() > mostArrow {
		return false
	}
	for i, tip := range pts {
		a, b := pts[(i+1)%3], pts[(i+2)%3]
		if math.Abs(a.Y-b.Y) < straight && math.Abs(tip.Y-a.Y) > leastArrow/2 && math.Abs(tip.X-(a.X+b.X)/2) < 0.1*box.W() {
			return true
		}
	}
	return false
}

// strokes adds the straight segments of a subpath as rules.
func (b *Builder) strokes(p Path, s Subpath) {
	if !p.Stroke || p.Ink >= 0.97 {
		return
	}
	pts := s.Points
	if s.Closed {
		pts = append(slices.Clone(pts), pts[0])
	}
	for i := 1; i < len(pts); i++ {
		seg := geom.R(pts[i-1].X, pts[i-1].Y, pts[i].X, pts[i].Y)
		if p.Clip != nil {
			seg = seg.Intersect(p.Clip.Inset(-0.5))
			if seg.W() < 0 || seg.H() < 0 {
				continue
			}
		}
		// A stroke that is wide and short is an area drawn with the pen: a bar.
		if math.Min(seg.W(), seg.H()) <= straight && p.Width <= MaxRuleThick {
			b.rule(seg, p.Width, p.Dashed)
		}
	}
}

// clipped is what shows of an area: its points are drawn to the edge of the clip.
func clipped(s Subpath, box, clip geom.Rect) (Subpath, geom.Rect) {
	out := s
	out.Points = make([]geom.Point, len(s.Points))
	for i, p := range s.Points {
		out.Points[i] = geom.Point{X: math.Max(clip.X0, math.Min(clip.X1, p.X)), Y: math.Max(clip.Y0, math.Min(clip.Y1, p.Y))}
	}
	return out, box.Intersect(clip)
}

// box adds a rectangle, and its border as rules.
func (b *Builder) box(p Path, box geom.Rect) {
	stroked := p.Stroke && p.Ink < 0.97
	b.page.Boxes = append(b.page.Boxes, Box{Rect: box, Stroked: stroked, Tone: tone(p)})
	if stroked {
		for _, side := range sides(box) {
			b.rule(side, p.Width, p.Dashed)
		}
	}
}

// roundedRect tells whether the subpath is a rectangle with rounded corners: it runs
// straight along more than 40 % of every side of box.
func roundedRect(s Subpath, box geom.Rect) bool {
	var along [4]float64
	for i, p := range s.Points {
		q := s.Points[(i+1)%len(s.Points)]
		dx, dy := math.Abs(q.X-p.X), math.Abs(q.Y-p.Y)
		for k, on := range [4]bool{
			dy < straight && math.Abs(p.Y-box.Y0) < straight, dy < straight && math.Abs(p.Y-box.Y1) < straight,
			dx < straight && math.Abs(p.X-box.X0) < straight, dx < straight && math.Abs(p.X-box.X1) < straight,
		} {
			if on {
				along[k] = math.Max(along[k], math.Max(dx, dy))
			}
		}
	}
	return along[0] > 0.4*box.W() && along[1] > 0.4*box.W() && along[2] > 0.4*box.H() && along[3] > 0.4*box.H()
}

func finite(r geom.Rect) bool {
	s := r.X0 + r.Y0 + r.X1 + r.Y1
	return !math.IsNaN(s) && !math.IsInf(s, 0)
}

func tone(p Path) float64 {
	if !p.Fill {
		return -1
	}
	return p.Tone
}

func sides(r geom.Rect) [4]geom.Rect {
	return [4]geom.Rect{
		{X0: r.X0, Y0: r.Y0, X1: r.X1, Y1: r.Y0},
		{X0: r.X0, Y0: r.Y1, X1: r.X1, Y1: r.Y1},
		{X0: r.X0, Y0: r.Y0, X1: r.X0, Y1: r.Y1},
		{X0: r.X1, Y0: r.Y0, X1: r.X1, Y1: r.Y1},
	}
}

func bounds(pts []geom.Point) geom.Rect {
	r := geom.Rect{X0: pts[0].X, Y0: pts[0].Y, X1: pts[0].X, Y1: pts[0].Y}
	for _, p := range pts[1:] {
		r.X0, r.X1 = math.Min(r.X0, p.X), math.Max(r.X1, p.X)
		r.Y0, r.Y1 = math.Min(r.Y0, p.Y), math.Max(r.Y1, p.Y)
	}
	return r
}

// rectangular tells whether the subpath goes round the four sides of box: every
// point is a corner, and every corner is a point.
func rectangular(s Subpath, box geom.Rect) bool {
	if len(s.Points) < 4 || len(s.Points) > 6 {
		return false
	}
	var seen [4]bool
	for _, p := range s.Points {
		left, right := math.Abs(p.X-box.X0) <= straight, math.Abs(p.X-box.X1) <= straight
		low, high := math.Abs(p.Y-box.Y0) <= straight, math.Abs(p.Y-box.Y1) <= straight
		if !left && !right || !low && !high {
			return false
		}
		seen[0] = seen[0] || left && low
		seen[1] = seen[1] || right && low
		seen[2] = seen[2] || left && high
		seen[3] = seen[3] || right && high
	}
	return seen[0] && seen[1] && seen[2] && seen[3]
}

func (b *Builder) rule(r geom.Rect, thick float64, dashed bool) {
	if max(r.W(), r.H()) <= 0.3 {
		return
	}
	// A piece that is short both ways may be a dot of a line in either direction: the others tell.
	speck := max(r.W(), r.H()) < minRule
	if speck || r.W() >= r.H() {
		b.page.H = append(b.page.H, Rule{Horizontal: true, From: r.X0, To: r.X1, At: (r.Y0 + r.Y1) / 2, Thick: thick, Dashed: dashed})
	}
	if speck || r.W() < r.H() {
		b.page.V = append(b.page.V, Rule{From: r.Y0, To: r.Y1, At: (r.X0 + r.X1) / 2, Thick: thick, Dashed: dashed})
	}
}

// Page tidies what was collected and returns it. The builder must not be used again.
func (b *Builder) Page() *Page {
	p := &b.page
	p.Layered = b.texts[1] > b.texts[0]
	b.dropStrokes()
	b.litSides()
	p.H = joinRules(p.H)
	p.V = joinRules(p.V)
	p.joinCorners()
	if b.picture != nil {
		p.snap()
	}
	slices.SortFunc(p.H, func(a, b Rule) int { return cmp.Or(cmp.Compare(b.At, a.At), cmp.Compare(a.From, b.From)) })
	slices.SortFunc(p.V, func(a, b Rule) int { return cmp.Or(cmp.Compare(a.At, b.At), cmp.Compare(a.From, b.From)) })
	if b.picture != nil {
		b.closeEnds()
		p.gapsOfTints()
	}
	p.Words = words(b.glyph)
	if b.doubted {
		for i := range p.Words {
			p.Words[i].Doubt = layerDoubt
		}
	}
	b.settleWords()
	p.Lines = lines(p.Words)
	return p
}

// litSides adds the sides of frames that look raised or sunken and are as light as the paper: those that join a dark side
// to the end of another.
func (b *Builder) litSides() {
	if len(b.pale) == 0 || len(b.pale) > maxPale {
		return
	}
	meets := func(a, c float64) bool { return math.Abs(a-c) < MaxRuleThick }
	h, v := slices.Clone(b.page.H), slices.Clone(b.page.V)
	for _, r := range b.pale {
		level := r.W() >= r.H()
		frame := false
		for _, top := range h {
			for _, side := range v {
				corner := (meets(side.At, top.From) || meets(side.At, top.To)) && (meets(side.From, top.At) || meets(side.To, top.At))
				if !corner || math.Max(side.Len(), top.Len()) < 2*MaxRuleThick {
					continue
				}
				if level {
					frame = frame || meets(r.X0, top.From) && meets(r.X1, top.To) && (meets(r.Mid().Y, side.From) || meets(r.Mid().Y,
						side.To))
				} else {
					frame = frame || meets(r.Y0, side.From) && meets(r.Y1, side.To) && (meets(r.Mid().X, top.From) || meets(r.Mid().X,
						top.To))
				}
			}
		}
		if frame {
			b.rule(r, math.Min(r.W(), r.H()), false)
		}
	}
}

// maxPale is how many thin light areas are looked at: more of them are a drawing.
const maxPale = 400

// maxCorner is the largest radius, in points, of corners that were drawn for
// themselves, apart from the sides of their frame (common practice, no source).
const maxCorner = 14.0

// joinCorners draws out the sides of a frame to where they would meet, when a curve
// joins their ends.
func (p *Page) joinCorners() {
	meets := func(end, corner float64) bool { return math.Abs(end-corner) < 0.8 }
	for _, c := range p.Boxes {
		r := c.Rect
		if !c.Round || !c.Stroked || r.W() > maxCorner || r.H() > maxCorner || math.Abs(r.W()-r.H()) > 0.3*math.Max(r.W(), r.H()) {
			continue
		}
		for i := range p.H {
			h := &p.H[i]
			right, left := meets(h.To, r.X0), meets(h.From, r.X1) // which side of the curve it ends at
			if !right && !left || !meets(h.At, r.Y0) && !meets(h.At, r.Y1) {
				continue
			}
			for j := range p.V {
				v := &p.V[j]
				up, down := meets(v.From, r.Y1), meets(v.To, r.Y0)
				if !up && !down || right && !meets(v.At, r.X1) || left && !meets(v.At, r.X0) {
					continue
				}
				if right {
					h.To = v.At
				} else {
					h.From = v.At
				}
				if up {
					v.From = h.At
				} else {
					v.To = h.At
				}
			}
		}
	}
}

// joinRules makes one rule of collinear pieces that touch, and of rows of short
// even dashes; what stays shorter than minRule is dropped.
func joinRules(in []Rule) []Rule {
	slices.SortFunc(in, func(a, b Rule) int { return cmp.Or(cmp.Compare(a.At, b.At), cmp.Compare(a.From, b.From)) })
	var out []Rule
	for i := 0; i < len(in); {
		j := i + 1
		for j < len(in) && in[j].At-in[j-1].At <= 0.75 && in[j].At-in[i].At <= 1.5 {
			j++
		}
		row := slices.Clone(in[i:j])
		slices.SortFunc(row, func(a, b Rule) int { return cmp.Compare(a.From, b.From) })
		i = j
		out = append(out, joinRow(row)...)
	}
	return slices.DeleteFunc(out, func(r Rule) bool { return r.Len() < minRule })
}

func joinRow(row []Rule) []Rule {
	var out []Rule
	pieces, longest := 0, 0.0
	for _, r := range row {
		if n := len(out); n > 0 {
			last := &out[n-1]
			gap := r.From - last.To
			dash := r.Len() <= 8 && longest <= 8 && gap <= 6 && pieces+1 >= 1
			if gap <= joinGap || dash {
				// the weight of the longer piece decides where the line lies
				if r.Len() > longest {
					last.At = r.At
				}
				last.To = math.Max(last.To, r.To)
				last.Dashed = last.Dashed && r.Dashed || gap > joinGap
				last.Thick = math.Max(last.Thick, r.Thick)
				pieces++
				longest = math.Max(longest, r.Len())
				continue
			}
		}
		out = append(out, r)
		pieces, longest = 1, r.Len()
	}
	return out
}

// lowLetters is how much higher a gap between words is measured by beside letters without ascenders: those of
// typewriter faces stand far apart, stops and hyphens in them further (common practice, no source).
const (
	lowLetters = 1.12
	lowSigns   = 1.4
)

// Letters that reach below the baseline.
const (
	descendGreek    = "βγζημµξρςφχψ"
	descendCyrillic = "дуфцщрїґДЦЩ"
)
