package detect

import (
	"math"

	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
)

const (
	doubtfulWord = 0.5 // recognition this unsure may have read a drawing
	leastWidth   = 26.0
	grazed       = 0.25 // share of the height of a word that a field may cover: descenders reach into it
	clear        = 1.5  // points between words and a field that was moved off them
)

// offInk moves a candidate off the words that are printed in its place, and tells whether enough of it is left.
// What a field stands on, replaces or is divided by does not count: leaders, signs for boxes, guide text, single
// signs in the cells of a comb.
func (f *finder) offInk(c *candidate) bool {
	if c.kind == form.CheckBox {
		return !f.inWord(c.rect)
	}
	for range 4 {
		i := f.wordOn(c)
		if i < 0 {
			return true
		}
		if !moveOff(&c.rect, f.ev.Words[i].Rect) {
			return false
		}
		c.multiline = c.multiline && c.rect.H() >= multiFrom
		c.comb = 0
	}
	return f.wordOn(c) < 0
}

// covers tells whether the inside of a candidate lies over a word more than by grazing it.
func covers(c *candidate, in geom.Rect, w *evidence.Word) bool {
	over := w.Rect.Intersect(in)
	if over.H() <= grazed*w.Rect.H() || over.W() <= 0.1*w.Rect.W() {
		return false
	}
	return !(evidence.IsLeader(w.Text) || isTyped(w.Text) || evidence.IsTick(w.Text) ||
		w.Doubt > doubtfulWord || IsGuide(w.Text) ||
		c.comb > 0 && len([]rune(w.Text)) == 1)
}

// wordOn is the number of a word in the place of a candidate; negative when there is none.
func (f *finder) wordOn(c *candidate) int {
	in := c.rect.Inset(0.5)
	for i := range f.ev.Words {
		w := &f.ev.Words[i]
		if w.Rect.Y0 < in.Y1 && w.Rect.Y1 > in.Y0 && w.Rect.X0 < in.X1 && w.Rect.X1 > in.X0 && covers(c, in, w) {
			return i
		}
	}
	return -1
}

// moveOff takes the side of a word that costs the least of r, and tells whether it is still a place to write.
func moveOff(r *geom.Rect, word geom.Rect) bool {
	best := geom.Rect{}
	for _, left := range []geom.Rect{
		{X0: r.X0, X1: r.X1, Y0: r.Y0, Y1: math.Min(r.Y1, word.Y0-0.5)},
		{X0: math.Max(r.X0, word.X1+2*clear), X1: r.X1, Y0: r.Y0, Y1: r.Y1},
		{X0: r.X0, X1: math.Min(r.X1, word.X0-2*clear), Y0: r.Y0, Y1: r.Y1},
	} {
		if left.H() >= minSlotH && left.W() >= leastWidth && left.Area() > best.Area() {
			best = left
		}
	}
	if best.Empty() {
		return false
	}
	*r = best
	return true
}

// inWord tells whether a box to tick is only a part of a word that was read: the bowl of a letter.
func (f *finder) inWord(r geom.Rect) bool {
	for i := range f.ev.Words {
		w := &f.ev.Words[i]
		if w.Rect.Contains(r.Mid()) && w.Rect.W() > 1.5*r.W() && w.Rect.Intersect(r).Area() > 0.6*r.Area() &&
			!evidence.IsTick(w.Text) && !evidence.IsLeader(w.Text) && w.Doubt <= doubtfulWord && len([]rune(w.Text)) > 1 {
			return true
		}
	}
	return false
}
