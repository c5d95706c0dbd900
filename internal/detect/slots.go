package detect

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strings"

	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
)

// afterSentence lowers it once more when the words end in a full stop.
const afterSentence = -0.2

// besideWords lowers a blank stretch that merely follows words in the same band.
const besideWords = -0.25

const (
	touch         = 1.6   // a rule that ends this close to another touches it
	minSlotW      = 9.0   // narrower is no place to write a sign
	minSlotH      = 7.5   // lower neither
	lowStrip      = 10.0  // an area that is not closed and lower is seldom meant
	bandH         = 9.0   // height of the writing band above a bottom rule that must be blank
	tallestColumn = 260.0 // between two uprights
	rowH          = 18.0  // a blank cell up to here is filled to its top
	hair          = 0.05  // by which what is as high as a limit may be higher: places come as 32-bit numbers, and limits are round
	multiFrom     = 34.0  // free height from which several lines are meant
	multiW        = 90.0
)

// slot is the area that stands on a horizontal rule between two uprights, or
// between an upright and the end of the rule.
type slot struct {
	x0, x1       float64
	bottom, top  float64
	left, right  bool    // closed by an upright
	wallL, wallR float64 // how high the uprights reach
	roof         bool    // closed by a rule above
	ticks        []float64
	tickTop      float64 // how high the ticks reach
}

// walls is how high both uprights of a slot reach.
func (s slot) walls() float64 { return math.Min(s.wallL, s.wallR) }

// findSlots looks above every horizontal rule for blank areas.
func (f *finder) findSlots() {
	var slots []slot
	f.walls = slices.DeleteFunc(slices.Clone(f.ev.V), f.sideOfTick)
	for _, h := range f.ev.H {
		if h.Len() >= minSlotW && !f.edgeOfTick(h) && !f.outerLine(h) {
			slots = append(slots, f.slotsOn(h)...)
		}
	}
	var cells []slot
	for _, s := range slots {
		if s.left && s.right && s.roof {
			cells = append(cells, s)
		}
	}
	inComb := f.combs(cells)
	for _, s := range slots {
		if !inComb(s) {
			f.slot(s)
		}
	}
	f.commonEnds()
}

// slotsOn cuts the area above a rule at the uprights that stand on it.
func (f *finder) slotsOn(h evidence.Rule) []slot {
	type cut struct {
		x      float64
		closed bool
		top    float64
	}
	var cuts []cut
	var ticks []evidence.Rule
	for _, v := range f.walls {
		if v.At < h.From-touch || v.At > h.To+touch || v.From > h.At+touch {
			continue
		}
		if reach := v.To - h.At; reach < minSlotH-2 {
			if reach >= 2 && v.From > h.At-touch-1 { // it stands on the rule and is no wall: a tick
				ticks = append(ticks, v)
			}
			continue
		}
		if v.Dashed {
			ticks = append(ticks, v)
			continue
		}
		cuts = append(cuts, cut{v.At, true, v.To})
	}
	for _, w := range f.whiteAreas() { // the edge of a white area is as good as a wall
		if w.Y0 > h.At+4 || w.Y1 < h.At+minSlotH || small(w.W(), w.H()) {
			continue
		}
		for _, x := range [2]float64{w.X0, w.X1} {
			if x > h.From+4 && x < h.To-4 && !slices.ContainsFunc(cuts, func(c cut) bool { return math.Abs(c.x-x) < 3 }) {
				cuts = append(cuts, cut{x, true, w.Y1})
			}
		}
	}
	slices.SortFunc(cuts, func(a, b cut) int { return cmp.Compare(a.x, b.x) })
	for i := 0; i < len(cuts); { // short uprights of one height, close together and open at their tops, are ticks
		j := i + 1
		short := func(c cut) bool { return c.closed && c.top-h.At < tallestTickMark && !f.closedAt(c.x, c.top) }
		for j < len(cuts) && short(cuts[i]) && short(cuts[j]) && cuts[j].x-cuts[j-1].x < maxSign+3 &&
			math.Abs(cuts[j].top-cuts[i].top) < tallestTickMark/2 {
			j++
		}
		if j-i >= 3 {
			for k := i; k < j; k++ {
				if cuts[k].x > h.From+2 && cuts[k].x < h.To-2 {
					ticks = append(ticks, evidence.Rule{From: h.At, To: cuts[k].top, At: cuts[k].x})
				}
			}
			cuts = slices.Delete(cuts, i, j)
			continue
		}
		i = j
	}
	slices.SortFunc(ticks, func(a, b evidence.Rule) int { return cmp.Compare(a.At, b.At) })
	if len(cuts) == 0 || cuts[0].x > h.From+4 {
		cuts = slices.Insert(cuts, 0, cut{h.From, false, math.Inf(1)})
	}
	if cuts[len(cuts)-1].x < h.To-4 {
		cuts = append(cuts, cut{h.To, false, math.Inf(1)})
	}
	var out []slot
	for i := 1; i < len(cuts); i++ {
		a, b := cuts[i-1], cuts[i]
		if b.x-a.x < minSlotW {
			continue
		}
		s := slot{x0: a.x, x1: b.x, bottom: h.At, left: a.closed, right: b.closed, wallL: a.top, wallR: b.top}
		s.top, s.roof = f.roof(s.x0, s.x1, h.At)
		// A short upright between two wide places is a tick of a comb, not a wall.
		if s.top-s.bottom < minSlotH {
			continue
		}
		for _, t := range ticks {
			if t.At > s.x0+2 && t.At < s.x1-2 {
				s.ticks = append(s.ticks, t.At)
				s.tickTop = math.Max(s.tickTop, t.To)
			}
		}
		out = append(out, s)
	}
	topOf := func(x float64) float64 {
		for _, c := range cuts {
			if c.x == x {
				return c.top
			}
		}
		return math.Inf(1)
	}
	return f.mergeGroups(mergeTicked(out, topOf, f.edgeOfWhite), topOf)
}

// tallestTickMark is how high the strokes between the places of a comb are at most, when nothing closes the places above.
const tallestTickMark = 12.0

// outerLine tells whether a rule is the outer one of a double line: another of its extent lies right above it.
func (f *finder) outerLine(h evidence.Rule) bool {
	return slices.ContainsFunc(f.ev.H, func(o evidence.Rule) bool {
		d := o.At - h.At
		return d > 0.8 && d <= 4 && o.From >= h.From-1 && o.To <= h.To+1 && o.Len() > 0.9*h.Len()
	})
}

// closedAt tells whether a rule goes through the upper end of an upright.
func (f *finder) closedAt(x, top float64) bool {
	return slices.ContainsFunc(f.ev.H, func(h evidence.Rule) bool {
		return math.Abs(h.At-top) < 1.8 && h.From < x+1 && h.To > x-1
	})
}

// sideOfTick tells whether an upright is a side of a box to tick.
func (f *finder) sideOfTick(v evidence.Rule) bool {
	return v.Len() <= maxTick+2 && slices.ContainsFunc(f.ticks, func(t geom.Rect) bool {
		return (math.Abs(v.At-t.X0) < 1 || math.Abs(v.At-t.X1) < 1) && v.From > t.Y0-1.5 && v.To < t.Y1+1.5
	})
}

// overHeading tells whether a rule and another of its extent enclose a line of words with no room to write: a heading between rules.
func (f *finder) overHeading(s slot) bool {
	return slices.ContainsFunc(f.ev.H, func(h evidence.Rule) bool {
		d := s.bottom - h.At
		if d < minSlotH || d > 2.5*minSlotH || math.Abs(h.From-s.x0) > 3 || math.Abs(h.To-s.x1) > 3 {
			return false
		}
		return slices.ContainsFunc(f.lines, func(l evidence.Line) bool {
			return l.Rect.Y1 < s.bottom+1 && l.Rect.Y0 > h.At-1 && l.Rect.Y0-h.At < minSlotH/2 && l.Rect.X0 > s.x0-3 && l.Rect.X1 < s.x1+3
		})
	})
}

// edgeOfTick tells whether a rule is the head or the foot of a box to tick and nothing more.
func (f *finder) edgeOfTick(h evidence.Rule) bool {
	return h.Len() <= maxTick+2 && slices.ContainsFunc(f.ticks, func(t geom.Rect) bool {
		return (math.Abs(h.At-t.Y0) < 1 || math.Abs(h.At-t.Y1) < 1) && h.From > t.X0-1.5 && h.To < t.X1+1.5
	})
}

// edgeOfWhite tells whether an upright goes along a white area up to its top.
func (f *finder) edgeOfWhite(x, top float64) bool {
	return slices.ContainsFunc(f.whiteAreas(), func(w geom.Rect) bool {
		return (math.Abs(w.X0-x) < 1 || math.Abs(w.X1-x) < 1) && math.Abs(w.Y1-top) < 1
	})
}

// roof is the height of the nearest rule above y that covers most of x0..x1; without
// one it is the top of the page.
func (f *finder) roof(x0, x1, y float64) (top float64, found bool) {
	top = f.ev.Height
	for _, h := range f.ev.H {
		if h.At <= y+2.5 || h.At >= top {
			continue
		}
		if math.Min(h.To, x1)-math.Max(h.From, x0) >= 0.6*(x1-x0) {
			top, found = h.At, true
		}
	}
	return top, found
}

// slot makes candidates of the blank part of a slot.
func (f *finder) slot(s slot) {
	if s.left && s.right && s.x1-s.x0 > 0.8*f.ev.Width && s.walls()-s.bottom > 0.6*f.ev.Height {
		return // the foot of a frame around the page
	}
	closed := s.left && s.right && s.roof && s.walls() > s.top-6
	reach := s.top
	if !closed {
		reach = math.Min(s.top, s.bottom+60)
		if s.left && s.right && s.walls() > s.bottom+minSlotH && s.walls() < s.bottom+tallestColumn {
			reach = math.Min(s.top, s.walls()) // between two walls it goes as high as they do
		}
	}
	area := geom.Rect{X0: s.x0, Y0: s.bottom, X1: s.x1, Y1: reach}
	tone, ground := f.ground(area)
	if tone < shade {
		return
	}
	white := tone >= paper && f.onTint(ground)
	if !white { // drawn over a tint of its own size
		for _, w := range f.whiteAreas() {
			if w.IoU(area) > 0.8 {
				white, ground = true, w
			}
		}
	}
	if white { // the white area is the place to write, whatever lies above it
		if ground.Y1 < area.Y1-1 && ground.Y1-area.Y0 >= minSlotH && ground.X0 < area.X0+4 && ground.X1 > area.X1-4 {
			area.Y1 = ground.Y1
		}
	}
	ink := f.inkIn(area)
	if slices.ContainsFunc(ink, func(k mark) bool { return closed && k.text != "" && strings.Trim(k.text, "–—-") == "" }) {
		return // struck out: nothing is to be written there
	}
	band := math.Min(bandH, area.H()*0.8)
	if cols := f.captionColumns(s, area, ink, band); len(cols) > 0 {
		f.cands = append(f.cands, cols...)
		return
	}
	gap, rank, found := f.blank(s, area, ink, band)
	if !found || gap[1] < s.x1-1 {
		last := s.x0
		for _, k := range ink {
			if k.rect.Y0 < area.Y0+band && k.rect.Y1 > area.Y0+0.8 {
				last = math.Max(last, k.rect.X1)
			}
		}
		if s.right && s.x1-last >= 36 && s.x1-last < 0.5*area.W() && tone >= shade {
			f.ends = append(f.ends, blankEnd{geom.Rect{X0: last + 3, X1: s.x1, Y0: s.bottom, Y1: math.Min(s.top, s.bottom+13)}})
		}
	}
	if !found {
		return
	}
	// how high the blank reaches: to the lowest ink above it
	ceiling, caption := area.Y1, ""
	for _, k := range ink {
		if k.rect.OverlapX(geom.Rect{X0: gap[0], X1: gap[1]}) > 1 && k.rect.Y0 >= area.Y0+band*0.6 {
			ceiling = math.Min(ceiling, k.rect.Y0)
		}
	}
	free := ceiling - area.Y0
	if free < minSlotH-0.5 {
		return
	}
	if s.roof && (s.left || s.right) || s.left && s.right {
		caption = f.captionIn(area, gap, ceiling)
	}
	c := candidate{kind: form.Text, area: area, caption: caption}
	wide := gap[1] - gap[0]
	switch {
	case closed:
		if small(wide, area.H()) && len(ink) == 0 {
			return // a tick box, found elsewhere, or an ornament
		}
		c.how, c.score = fromCell, 0.88
		if area.H() > 60 && wide < 30 {
			c.score -= 0.3 // a gap between the bars of a chart
		}
		c.what = fmt.Sprintf("cell %s by %s pt", pt(area.W()), pt(area.H()))
	case s.left && s.right:
		c.how, c.score = fromColumn, 0.8
		c.what = fmt.Sprintf("cell %s pt wide on a rule", pt(wide))
	case s.left || s.right:
		c.how, c.score = fromColumn, 0.74
		c.what = fmt.Sprintf("open cell %s pt wide on a rule", pt(wide))
	default:
		c.how, c.score = fromRule, 0.82
		c.what = fmt.Sprintf("rule %s pt long", pt(wide))
		if f.hanging(s) {
			return // the upper edge of a table or a box
		}
		if gap[0] > s.x0+1 && gap[1] < s.x1-1 {
			c.score -= 0.15 // words at both ends
		} else if gap[0] > s.x0+1 && rank < -0.1 && f.underlinesHead(s) {
			c.score -= 0.4
		}
		if ticksIn(ink, area.Y0+bandH) >= 2 {
			c.score -= 0.5 // a row of boxes to tick
		}
		if wide > 0.92*f.textWidth() && wide > 300 {
			if c.question = f.asked(s); c.question == "" && !f.askedInRows(s) {
				c.score -= 0.3 // as wide as the text: more often a divider
				c.divider = true
			}
		}
		if edge := 0.07 * f.ev.Height; (s.bottom < edge || s.bottom > f.ev.Height-edge) && s.x1-s.x0 > 0.85*f.textWidth() &&
			gap[0] > s.x0+1 && gap[1] < s.x1-1 {
			c.score -= 0.5 // the line of a running head, with words at both its ends
		}
		if f.overHeading(s) {
			c.score -= 0.5
		}
		if f.thickAt(s) && wide > 100 {
			c.score -= 0.35 // a stroke that opens a section
		}
		if wide < 24 && !white {
			c.score -= 0.5 // a stroke of a drawing
		}
	}
	if !white && tone < paper && f.tinted() {
		c.score -= 0.4 // this form writes on white, and here is none
	}
	if closed && caption != "" && gap[1]-gap[0] > 0.9*area.W() {
		if over := overWords(area, ink); over > 0.6*free {
			c.score -= 0.55 // words in the middle of a box: a notice or a heading
		}
		if ticksIn(ink, area.Y1) > 0 && free < rowH {
			c.score -= 0.55 // it is there for its boxes to tick
		}
	}
	switch {
	case !closed && free < lowStrip:
		c.score -= 0.45 // what is left between two things
	case closed && (area.H() > 3*free && free < rowH && len(strings.Fields(caption)) >= 8 || note(caption) &&
		free < area.H()-free+multiFrom/2):
		c.score -= 0.5 // what is left in a frame around a note
	}
	c.white = white
	c.score += rank
	c.beside = rank <= besideWords
	c.free = free
	c.rect = geom.Rect{X0: gap[0], Y0: area.Y0, X1: gap[1], Y1: area.Y0 + fieldHeight(c.how, free, ceiling < area.Y1)}
	walled := c.how == fromCell || c.how == fromColumn && s.left && s.right && s.walls() >= s.bottom+multiFrom
	if walled && free >= multiFrom && wide >= multiW || walled && c.how == fromColumn && free >= multiFrom {
		c.multiline = true
		c.rect.Y1 = ceiling
		if wide > 0.8*f.ev.Width && (free > 0.45*f.ev.Height || area.H() > 0.5*f.ev.Height) {
			c.score -= 0.6 // a frame around the page
		}
		if len(strings.Fields(caption)) > 24 {
			c.score -= 0.6 // a note in a frame, not a caption
		}
	}
	if n := len(s.ticks) + 1; n > 1 && even(s) {
		c.comb = n
		c.what = fmt.Sprintf("%d printed cells", n)
		c.rect.X0, c.rect.X1 = s.x0, s.x1
		if s.tickTop-s.bottom >= 8 && s.tickTop < c.rect.Y1 {
			c.rect.Y1 = s.tickTop // as high as its cells
		}
	}
	f.cands = append(f.cands, c)
}

// The parts of a blank cell that its field fills from the bottom: of one too low for two lines, and of one that is only
// too narrow for them.
const (
	tallCell = 0.7
	lowCell  = 0.6
)
