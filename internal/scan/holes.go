package scan

// with is all ink of several pictures of one size.
func (k *Ink) with(others ...*Ink) *Ink {
	out := &Ink{W: k.W, H: k.H, Pix: make([]uint8, len(k.Pix))}
	copy(out.Pix, k.Pix)
	for _, o := range others {
		for i, v := range o.Pix {
			out.Pix[i] |= v
		}
	}
	return out
}

// holes are the pieces of paper that ink encloses, from least to most pixels wide and high and about as wide as high.
func (k *Ink) holes(least, most int) []Part {
	paper := &Ink{W: k.W, H: k.H, Pix: make([]uint8, len(k.Pix))}
	for i, v := range k.Pix {
		paper.Pix[i] = 1 - v
	}
	var out []Part
	for _, p := range paper.Connect().Parts {
		if w, h := p.W(), p.H(); w >= least && h >= least && w <= most && h <= most && 10*max(w, h) <= 13*min(w, h) {
			out = append(out, p)
		}
	}
	return out
}

// around finds the empty squares and rings of ink by the paper within them, of a size from least to most: their outline is no
// thicker than thick, as heavy or as pale as it may be, and they stand for themselves.
func around(k *Ink, least, most, thick int) (squares, rings []Part) {
	for _, p := range k.holes(least, most) {
		w, h := p.W(), p.H()
		full := float64(p.Area) / float64(w*h)
		square := full > 0.84 // a circle fills 0.79 of its box
		if !square && (full < 0.7 || 10*max(w, h) > 11*min(w, h) || min(w, h) < least*3/2) {
			continue
		}
		box, free := k.outline(p, thick)
		if !free || 10*max(box.W(), box.H()) > 13*min(box.W(), box.H()) || 2*min(w, h) < min(box.W(), box.H()) {
			continue
		}
		if square {
			squares = append(squares, box)
		} else {
			rings = append(rings, box)
		}
	}
	return squares, rings
}

// outline is the box around the ink that encloses a hole, and whether paper is all around it: no other ink goes on from it.
func (k *Ink) outline(hole Part, thick int) (box Part, free bool) {
	box = hole
	grow := func(move func(*Part), line func(Part) (x0, y0, x1, y1 int)) bool {
		for range thick + 1 {
			x0, y0, x1, y1 := line(box)
			if 10*k.count(x0, y0, x1, y1) <= 3*(x1-x0)*(y1-y0) { // beyond the outline little is ink
				return true
			}
			move(&box)
		}
		return false
	}
	ok := grow(func(p *Part) { p.Y0-- }, func(p Part) (int, int, int, int) { return p.X0, p.Y0 - 1, p.X1, p.Y0 }) &&
		grow(func(p *Part) { p.Y1++ }, func(p Part) (int, int, int, int) { return p.X0, p.Y1, p.X1, p.Y1 + 1 }) &&
		grow(func(p *Part) { p.X0-- }, func(p Part) (int, int, int, int) { return p.X0 - 1, p.Y0, p.X0, p.Y1 }) &&
		grow(func(p *Part) { p.X1++ }, func(p Part) (int, int, int, int) { return p.X1, p.Y0, p.X1 + 1, p.Y1 })
	if !ok {
		return box, false
	}
	near, far := grown(box, 2), grown(box, 4)
	ring := far.W()*far.H() - near.W()*near.H()
	beyond := k.count(far.X0, far.Y0, far.X1, far.Y1) - k.count(near.X0, near.Y0, near.X1, near.Y1)
	return box, 100*beyond <= 3*ring
}

func grown(p Part, by int) Part {
	return Part{X0: p.X0 - by, Y0: p.Y0 - by, X1: p.X1 + by, Y1: p.Y1 + by}
}
