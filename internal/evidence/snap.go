package evidence

import (
	"cmp"
	"math"
	"slices"
)

// How far the ends of lines that were seen in a picture stray, in points: ink spreads, and pale ends get lost.
const (
	strayEnd   = 3.2 // from the ends of others, and from lines that cross there
	crossReach = 2.6 // from a line that an upright stands on or hangs from
)

// snap draws the lines of a picture to where they were meant to end: at lines that cross there, and where others end.
func (p *Page) snap() {
	for i := range p.V {
		v := &p.V[i]
		v.From, v.To = meeting(v.From, v.At, p.H, crossReach), meeting(v.To, v.At, p.H, crossReach)
	}
	for i := range p.H {
		h := &p.H[i]
		h.From, h.To = meeting(h.From, h.At, p.V, strayEnd), meeting(h.To, h.At, p.V, strayEnd)
	}
	alike(p.H, func(r *Rule) *float64 { return &r.From })
	alike(p.H, func(r *Rule) *float64 { return &r.To })
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

// alike gives ends that lie within a stray of each other the middle one of their places.
func alike(rules []Rule, end func(*Rule) *float64) {
	ends := make([]*float64, len(rules))
	for i := range rules {
		ends[i] = end(&rules[i])
	}
	slices.SortFunc(ends, func(a, b *float64) int { return cmp.Compare(*a, *b) })
	for i := 0; i < len(ends); {
		j := i + 1
		for j < len(ends) && *ends[j]-*ends[i] <= strayEnd {
			j++
		}
		middle := *ends[(i+j)/2]
		for _, e := range ends[i:j] {
			*e = middle
		}
		i = j
	}
}
