package arrange

import (
	"cmp"
	"math"
	"slices"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
)

// Rows gives the ids of fields in reading order, as the page is shown. View takes
// page space to the page as shown ([geom.ToView]).
func Rows(fields []form.Field, view geom.Matrix) []string {
	rects := make([]geom.Rect, len(fields))
	for i, f := range fields {
		rects[i] = f.Rect.Apply(view)
	}
	out := make([]string, len(fields))
	for i, k := range ReadingOrder(rects) {
		out[i] = fields[k].ID
	}
	return out
}

// ReadingOrder gives the indices of rectangles (y downwards) row by row from the
// top, each row from the left. Rectangles share a row with the highest one left
// when they overlap it by half the height of the lower of the two.
func ReadingOrder(rects []geom.Rect) []int {
	left := make([]int, len(rects))
	for i := range left {
		left[i] = i
	}
	slices.SortStableFunc(left, func(a, b int) int { return cmp.Compare(rects[a].Mid().Y, rects[b].Mid().Y) })
	out := make([]int, 0, len(rects))
	for len(left) > 0 {
		head := rects[left[0]]
		var row, rest []int
		for _, i := range left {
			if rects[i].OverlapY(head) >= math.Min(rects[i].H(), head.H())/2 {
				row = append(row, i)
			} else {
				rest = append(rest, i)
			}
		}
		slices.SortStableFunc(row, func(a, b int) int { return cmp.Compare(rects[a].X0, rects[b].X0) })
		out, left = append(out, row...), rest
	}
	return out
}

// Jumps lists the fields of a page, in tab order, to which the tab order jumps: back over
// others, or far ahead, of the order in which the page is read.
func Jumps(fields []form.Field, read []string) []string {
	place := map[string]int{}
	for i, id := range read {
		place[id] = i
	}
	var out []string
	for i := 1; i < len(fields); i++ {
		if step := place[fields[i].ID] - place[fields[i-1].ID]; step < -2 || step > 3 {
			out = append(out, fields[i].ID)
		}
	}
	return out
}

// Bead is the place of a field in the order margin, in pixels from its upper left.
type Bead struct {
	ID   string
	N    int    // place in the tab order, from 1
	Name string // of the field; [Beads] leaves it empty
	X, Y float64
}

// BeadRadius is half the size of a bead, in pixels.
const BeadRadius = 9.0

// lanes are where beads can stand beside each other, nearest to the page first.
var lanes = []float64{46, 28, 10}

// Beads places one bead per field, in tab order, at the height of its field (y, in
// pixels), so that none covers another. Beads that follow each other at one height
// stand side by side and read from the left; where there is no room, lower.
func Beads(ids []string, y []float64) []Bead {
	out := make([]Bead, 0, len(ids))
	// Lanes are a bead apart, so only beads of one lane can touch; they are kept by
	// bands of one bead's height.
	bands := map[[2]int][]float64{}
	band := func(at float64) int { return int(math.Floor(at / (2 * BeadRadius))) }
	taken := func(lane int, at float64) bool {
		for b := band(at) - 1; b <= band(at)+1; b++ {
			for _, y := range bands[[2]int{lane, b}] {
				if math.Abs(y-at) < 2*BeadRadius {
					return true
				}
			}
		}
		return false
	}
	for i := 0; i < len(ids); {
		n := 1 // how many stand side by side
		for n < len(lanes) && i+n < len(ids) && math.Abs(y[i+n]-y[i]) < 2*BeadRadius {
			n++
		}
		at := math.Max(y[i], BeadRadius+1)
		anyTaken := func() bool {
			for lane := range n {
				if taken(lane, at) {
					return true
				}
			}
			return false
		}
		for anyTaken() {
			at += 4
		}
		for k := range n {
			lane := n - 1 - k
			out = append(out, Bead{ID: ids[i+k], N: i + k + 1, X: lanes[lane], Y: math.Round(at*10) / 10})
			bands[[2]int{lane, band(at)}] = append(bands[[2]int{lane, band(at)}], at)
		}
		i += n
	}
	return out
}
