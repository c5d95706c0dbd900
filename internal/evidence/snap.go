package evidence

import (
	"cmp"
	"math"
	"slices"

	"zealousmargin.example/internal/geom"
)

// How far the ends of lines that were seen in a picture stray, in points: ink spreads, and pale ends get lost.
const (
	strayEnd   = 3.2 // from the ends of others, and from lines that cross there
	crossReach = 2.6 // from a line that an upright stands on or hangs from
)

// shortAlone is how long a line across is at least that no upright meets: shorter ones are strokes of type.
const shortAlone = 13.0

// widestGap is how far the pieces of a line of typed cells stand apart at most.
const widestGap = 7.0

// longLine is how long lines are at least that are drawn to end where others do.
const longLine = 60.0

// snap draws the lines of a picture to where they were meant to end: at lines that cross there, and where others end.
func (p *Page) snap() {
	p.H = slices.DeleteFunc(p.H, func(h Rule) bool {
		return h.Len() < shortAlone && !slices.ContainsFunc(p.V, func(v Rule) bool {
			return v.At > h.From-crossReach && v.At < h.To+crossReach &&
				(math.Abs(v.From-h.At) < crossReach || math.Abs(v.To-h.At) < crossReach)
		})
	})
	for i := range p.V {
		v := &p.V[i]
		v.From, v.To = meeting(v.From, v.At, p.H, crossReach), meeting(v.To, v.At, p.H, crossReach)
	}
	p.joinAcross()
	p.joinTorn()
	for i := range p.H {
		h := &p.H[i]
		h.From, h.To = meeting(h.From, h.At, p.V, strayEnd), meeting(h.To, h.At, p.V, strayEnd)
	}
	p.boxesToLines()
	alike(p.H, func(r *Rule) *float64 { return &r.From })
	alike(p.H, func(r *Rule) *float64 { return &r.To })
}

// boxesToLines gives small boxes the sides that were found as lines, where all four were.
func (p *Page) boxesToLines() {
	near := func(rules []Rule, at, from, to float64) (float64, bool) {
		best, off := 0.0, crossReach
		for _, r := range rules {
			if d := math.Abs(r.At - at); d < off && math.Min(r.To, to)-math.Max(r.From, from) > 0.7*(to-from) {
				best, off = r.At, d
			}
		}
		return best, off < crossReach
	}
	for i, b := range p.Boxes {
		if !b.Stroked || b.Round || b.Rect.W() > 20 || b.Rect.H() > 20 {
			continue
		}
		r := b.Rect
		x0, a := near(p.V, r.X0, r.Y0, r.Y1)
		x1, b := near(p.V, r.X1, r.Y0, r.Y1)
		y0, c := near(p.H, r.Y0, r.X0, r.X1)
		y1, d := near(p.H, r.Y1, r.X0, r.X1)
		if a && b && c && d && x1-x0 > 4 && y1-y0 > 4 {
			p.Boxes[i].Rect = geom.Rect{X0: x0, Y0: y0, X1: x1, Y1: y1}
		}
	}
}

// joinAcross makes one line of pieces that an upright parts: rows of cells that were typed. Two uprights are the sides of cells that
// stand apart.
func (p *Page) joinAcross() {
	slices.SortFunc(p.H, func(a, b Rule) int { return cmp.Compare(a.From, b.From) })
	var out []Rule
	for _, r := range p.H {
		i := slices.IndexFunc(out, func(o Rule) bool {
			if gap := r.From - o.To; math.Abs(o.At-r.At) > 1 || gap < -1 || gap > widestGap {
				return false
			}
			n := 0
			for _, v := range p.V {
				if v.At > o.To-1 && v.At < r.From+1 && v.From < r.At+crossReach && v.To > r.At+widestGap {
					n++
				}
			}
			return n == 1
		})
		if i < 0 {
			out = append(out, r)
			continue
		}
		out[i].To = math.Max(out[i].To, r.To)
	}
	p.H = out
}

// tornPiece is how far the pieces of a torn line lie apart at most; there are three at least.
const tornPiece = 45.0

// joinTorn makes one line of three pieces and more that follow each other at one height, with nothing between them: a pale line of which
// parts got lost.
func (p *Page) joinTorn() {
	slices.SortFunc(p.H, func(a, b Rule) int { return cmp.Compare(a.From, b.From) })
	crossed := func(r Rule) bool {
		return slices.ContainsFunc(p.V, func(v Rule) bool {
			return v.At > r.From-crossReach && v.At < r.To+crossReach && v.From < r.At+crossReach && v.To > r.At-crossReach
		})
	}
	gone := map[int]bool{}
	for i := range p.H {
		if gone[i] || p.H[i].Len() > 2*tornPiece || crossed(p.H[i]) {
			continue
		}
		chain := []int{i}
		for j := i + 1; j < len(p.H); j++ {
			last := p.H[chain[len(chain)-1]]
			gap := p.H[j].From - last.To
			if gap > tornPiece {
				break
			}
			if !gone[j] && gap > 0 && math.Abs(p.H[j].At-last.At) < 0.8 && !crossed(p.H[j]) {
				chain = append(chain, j)
			}
		}
		if len(chain) < 3 {
			continue
		}
		p.H[i].To = p.H[chain[len(chain)-1]].To
		for _, j := range chain[1:] {
			gone[j] = true
		}
	}
	kept := p.H[:0:0]
	for i, r := range p.H {
		if !gone[i] {
			kept = append(kept, r)
		}
	}
	p.H = kept
}

// meeting is where the nearest line lies that crosses another near its end; the end itself when none does.
func meeting(end, at float64, across []Rule, reach float64) float64 {
	best, to := reach, end
	for _, o := range across {
		if d := math.Abs(o.At - end); d < best && o.From-reach <= at && o.To+reach >= at {
			best, to = d, o.At
		}
	}
	return to
}

// alike gives the ends of long lines that lie within a stray of the middle of many the place of that middle, the most crowded place first.
func alike(rules []Rule, end func(*Rule) *float64) {
	var ends []*float64
	for i := range rules {
		if rules[i].Len() >= longLine {
			ends = append(ends, end(&rules[i]))
		}
	}
	slices.SortFunc(ends, func(a, b *float64) int { return cmp.Compare(*a, *b) })
	for len(ends) > 0 {
		best, from, to := 0, 0, 0
		for i, j, k := 0, 0, 0; k < len(ends); k++ { // those around k
			for *ends[k]-*ends[i] > strayEnd {
				i++
			}
			for j < len(ends) && *ends[j]-*ends[k] <= strayEnd {
				j++
			}
			if j-i > best {
				best, from, to = j-i, i, j
			}
		}
		middle := *ends[(from+to)/2]
		for _, e := range ends[from:to] {
			if math.Abs(*e-middle) <= strayEnd {
				*e = middle
			}
		}
		ends = slices.Delete(ends, from, to)
	}
}

// closeEnds adds the sides of frames that are too short for lines of their own, such as those with rounded corners: where two
// lines of one extent lie below each other, and ink leads from one to the other at an end.
func (b *Builder) closeEnds() {
	const lowest, highest, reach = 8.0, 36.0, 4.0
	k := b.page.Width / float64(b.picture.W)
	joined := func(x, low, high float64) bool {
		rows, inked := 0, 0
		for y := int((b.page.Height - high) / k); y < int((b.page.Height-low)/k); y++ {
			rows++
			for px := int((x - reach) / k); px < int((x+reach)/k); px++ {
				if b.picture.At(px, y) {
					inked++
					break
				}
			}
		}
		return 10*inked >= 9*rows
	}
	b.closeSunken()
	h := b.page.H
	for i, top := range h {
		for _, foot := range h[i+1:] {
			d := top.At - foot.At
			if d > highest {
				break
			}
			if d < lowest || math.Abs(top.From-foot.From) > reach || math.Abs(top.To-foot.To) > reach || top.Len() < 2*highest {
				continue
			}
			for _, x := range [2]float64{(top.From + foot.From) / 2, (top.To + foot.To) / 2} {
				side := Rule{From: foot.At, To: top.At, At: x, Thick: foot.Thick}
				if !joined(x, foot.At, top.At) || slices.ContainsFunc(b.page.V, func(v Rule) bool {
					return math.Abs(v.At-x) < reach && math.Min(v.To, top.At)-math.Max(v.From, foot.At) > 0.8*d
				}) {
					continue
				}
				b.page.V = append(b.page.V, side)
			}
			break
		}
	}
	slices.SortFunc(b.page.V, func(a, b Rule) int { return cmp.Or(cmp.Compare(a.At, b.At), cmp.Compare(a.From, b.From)) })
}

// closeSunken adds the two sides of frames that look sunken and are as pale as the paper, where the line at the top and an upright that
// hangs from its left end are all that shows, in a row or column of several such frames.
func (b *Builder) closeSunken() {
	const lowest, highest = 9.0, 60.0
	type frame struct{ top, side Rule }
	var found []frame
	for _, top := range b.page.H {
		if top.Len() < 30 {
			continue
		}
		side := slices.IndexFunc(b.page.V, func(v Rule) bool {
			return math.Abs(v.At-top.From) < crossReach && math.Abs(v.To-top.At) < crossReach && v.Len() >= lowest && v.Len() <= highest
		})
		if side < 0 {
			continue
		}
		down := b.page.V[side]
		crossed := false // by another upright
		for i, v := range b.page.V {
			crossed = crossed || i != side && v.At > top.From-crossReach && v.At < top.To+crossReach &&
				math.Min(v.To, down.To)-math.Max(v.From, down.From) > crossReach
		}
		if crossed || slices.ContainsFunc(b.page.H, func(o Rule) bool {
			return o.At < top.At-1 && o.At > down.From-crossReach && o.From < top.To && o.To > top.From
		}) {
			continue
		}
		found = append(found, frame{top, down})
	}
	for _, f := range found {
		like := 0
		for _, o := range found {
			if math.Abs(o.side.Len()-f.side.Len()) < 2 {
				like++
			}
		}
		if like < 3 {
			continue
		}
		b.page.H = append(b.page.H, Rule{Horizontal: true, From: f.top.From, To: f.top.To, At: f.side.From, Thick: f.top.Thick})
		b.page.V = append(b.page.V, Rule{From: f.side.From, To: f.side.To, At: f.top.To, Thick: f.side.Thick})
	}
	slices.SortFunc(b.page.H, func(a, b Rule) int { return cmp.Or(cmp.Compare(b.At, a.At), cmp.Compare(a.From, b.From)) })
}

// gapsOfTints adds the white places between tinted ones of one row, where several rows have such a gap at one place.
func (p *Page) gapsOfTints() {
	const least, rows = 30.0, 2
	var gaps []Box
	for _, a := range p.Boxes {
		if a.Stroked || a.Tone < 0 || a.Tone > 0.98 || a.Rect.H() > 40 {
			continue
		}
		next := math.Inf(1)
		for _, b := range p.Boxes {
			if !b.Stroked && b.Tone >= 0 && b.Rect.X0 > a.Rect.X1 && b.Rect.OverlapY(a.Rect) > 0.5*a.Rect.H() {
				next = math.Min(next, b.Rect.X0)
				if math.Abs(b.Rect.Y0-a.Rect.Y0) > 2 || math.Abs(b.Rect.Y1-a.Rect.Y1) > 2 {
					next = 0
				}
			}
		}
		if r := (geom.Rect{X0: a.Rect.X1, X1: next, Y0: a.Rect.Y0, Y1: a.Rect.Y1}); next < p.Width && r.W() >= least {
			gaps = append(gaps, Box{Rect: r, Tone: 1})
		}
	}
	for _, g := range gaps {
		same := 0
		for _, o := range gaps {
			if math.Abs(o.Rect.X1-g.Rect.X1) < strayEnd {
				same++
			}
		}
		if same >= rows {
			p.Boxes = append(p.Boxes, g)
		}
	}
}
