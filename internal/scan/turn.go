package scan

import (
	"image"
	"math"
	"slices"
)

// Turn tells by how many quarters clockwise a page must be turned to stand upright
// (0 to 3), and how sure that is, from 0 to 1. Lines of type run along the shorter
// gaps between letters; in Latin, Greek and Cyrillic type more letters reach up from
// a line than down (common practice, no source).
func Turn(g *image.Gray) (quarters int, sure float64) {
	small := Shrink(g, halvings(g, 2600))
	letters := Threshold(small).Connect().letters()
	if len(letters) < 25 {
		return 0, 0
	}
	across, down := runsOf(letters)
	if across+down == 0 {
		return 0, 0
	}
	lying := float64(across) / float64(across+down)
	if lying >= 0.5 {
		up := uprightness(letters)
		if up >= 0 {
			return 0, up * (2*lying - 1)
		}
		return 2, -up * (2*lying - 1)
	}
	// Lines run up or down the picture: look at it turned a quarter clockwise.
	h := small.Rect.Dy()
	turned := make([]Part, len(letters))
	for i, p := range letters {
		turned[i] = Part{h - p.Y1, p.X0, h - p.Y0, p.X1, p.Area}
	}
	up := uprightness(turned)
	if up >= 0 {
		return 1, up * (1 - 2*lying)
	}
	return 3, -up * (1 - 2*lying)
}

// BusiestBand is the band across a picture, a sixth of it high, with most of what has the size of letters; empty when there is little.
func BusiestBand(g *image.Gray) image.Rectangle {
	n := halvings(g, 2600)
	small := Shrink(g, n)
	letters := Threshold(small).Connect().letters()
	high := small.Rect.Dy() / 6
	if len(letters) < 10 || high < 8 {
		return image.Rectangle{}
	}
	best, top := 0, 0
	for y := 0; y+high <= small.Rect.Dy(); y += high / 4 {
		inside := 0
		for _, p := range letters {
			if p.Y0 >= y && p.Y1 <= y+high {
				inside++
			}
		}
		if inside > best {
			best, top = inside, y
		}
	}
	return image.Rect(0, top<<n, g.Rect.Dx(), (top+high)<<n)
}

// runsOf counts the letters whose nearest neighbour stands beside them, and those
// whose nearest neighbour stands above or below.
func runsOf(letters []Part) (across, down int) {
	const cell = 64
	grid := map[[2]int][]Part{}
	for _, p := range letters {
		at := [2]int{(p.X0 + p.X1) / 2 / cell, (p.Y0 + p.Y1) / 2 / cell}
		grid[at] = append(grid[at], p)
	}
	for _, p := range letters {
		cx, cy := (p.X0+p.X1)/2/cell, (p.Y0+p.Y1)/2/cell
		beside, stacked := 1000, 1000
		for gx := cx - 1; gx <= cx+1; gx++ {
			for gy := cy - 1; gy <= cy+1; gy++ {
				for _, o := range grid[[2]int{gx, gy}] {
					if o == p {
						continue
					}
					dx := max(o.X0-p.X1, p.X0-o.X1)
					dy := max(o.Y0-p.Y1, p.Y0-o.Y1)
					switch {
					case dx >= 0 && dy < -min(p.H(), o.H())/3:
						beside = min(beside, dx)
					case dy >= 0 && dx < -min(p.W(), o.W())/3:
						stacked = min(stacked, dy)
					}
				}
			}
		}
		switch {
		case beside < stacked:
			across++
		case stacked < beside:
			down++
		}
	}
	return across, down
}

// uprightness compares the letters that reach above their neighbours on a line with
// those that reach below: positive when more reach above, by how far chance can be
// ruled out, from -1 to 1.
func uprightness(letters []Part) float64 {
	const cell = 96
	grid := map[[2]int][]Part{}
	for _, p := range letters {
		at := [2]int{p.X0 / cell, p.Y0 / cell}
		grid[at] = append(grid[at], p)
	}
	above, below := 0, 0
	var tops, feet, heights []int
	for _, p := range letters {
		tops, feet, heights = tops[:0], feet[:0], heights[:0]
		for gx := p.X0/cell - 1; gx <= p.X0/cell+1; gx++ {
			for gy := p.Y0/cell - 1; gy <= p.Y0/cell+1; gy++ {
				for _, o := range grid[[2]int{gx, gy}] {
					if 2*(min(p.Y1, o.Y1)-max(p.Y0, o.Y0)) > min(p.H(), o.H()) && o.H() < 3*p.H() && p.H() < 3*o.H() {
						tops, feet, heights = append(tops, o.Y0), append(feet, o.Y1), append(heights, o.H())
					}
				}
			}
		}
		if len(tops) < 5 {
			continue
		}
		top, foot, h := median(tops), median(feet), median(heights)
		reach := max(2, h/5)
		up, down := top-p.Y0, p.Y1-foot
		switch {
		case up >= reach && up <= h && abs(down) < reach:
			above++
		case down >= reach && down <= h && abs(up) < reach:
			below++
		}
	}
	n := float64(above + below)
	if n < 12 {
		return 0
	}
	d := float64(above-below) / math.Sqrt(n) / 4 // four standard deviations are certain
	return math.Max(-1, math.Min(1, d))
}

func median(v []int) int {
	s := slices.Clone(v)
	slices.Sort(s)
	return s[len(s)/2]
}

func abs(v int) int {
	if v < 0 {
		return -v
	}
	return v
}

// Quarters turns a picture clockwise by quarters of a full turn.
func Quarters(img image.Image, quarters int) image.Image {
	quarters = ((quarters % 4) + 4) % 4
	if quarters == 0 {
		return img
	}
	b := img.Bounds()
	w, h := b.Dx(), b.Dy()
	src := RGBA(img)
	ow, oh := w, h
	if quarters%2 == 1 {
		ow, oh = h, w
	}
	out := image.NewRGBA(image.Rect(0, 0, ow, oh))
	for y := range h {
		for x := range w {
			ox, oy := x, y
			switch quarters {
			case 1:
				ox, oy = h-1-y, x
			case 2:
				ox, oy = w-1-x, h-1-y
			case 3:
				ox, oy = y, w-1-x
			}
			copy(out.Pix[oy*out.Stride+4*ox:][:4], src.Pix[y*src.Stride+4*x:][:4])
		}
	}
	return out
}
