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

// blankEnd is the blank end of a line of words, before a wall.
type blankEnd struct{ rect geom.Rect }

// commonEnds takes blank ends of lines that stand below each other and begin at one
// tab stop: four and more of them are a column to write in.
func (f *finder) commonEnds() {
	slices.SortFunc(f.ends, func(a, b blankEnd) int {
		return cmp.Or(cmp.Compare(math.Round(a.rect.X1/2), math.Round(b.rect.X1/2)), cmp.Compare(b.rect.Y0, a.rect.Y0))
	})
	for i := 0; i < len(f.ends); {
		j := i + 1
		for j < len(f.ends) && math.Abs(f.ends[j].rect.X1-f.ends[i].rect.X1) < 2 {
			j++
		}
		group := f.ends[i:j]
		i = j
		var starts []float64
		for _, e := range group {
			starts = append(starts, e.rect.X0)
		}
		slices.Sort(starts)
		mid := starts[len(starts)/2]
		var column []blankEnd
		stop := 0.0
		for _, e := range group {
			if math.Abs(e.rect.X0-mid) <= 14 {
				column = append(column, e)
				stop = math.Max(stop, e.rect.X0)
			}
		}
		if len(column) < 4 {
			continue
		}
		for _, e := range column {
			r := e.rect
			r.X0 = stop
			if r.W() < 26 || r.H() < minSlotH {
				continue
			}
			f.cands = append(f.cands, candidate{
				kind: form.Text, how: fromColumn, rect: r, area: r, score: 0.8, free: r.H(),
				what: fmt.Sprintf("blank end %s pt wide of a line, in a column of %d", pt(r.W()), len(column)),
			})
		}
	}
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

// thickAt tells whether a rule is thicker than those of forms and than the others of its page.
func (f *finder) thickAt(s slot) bool {
	const thick = 2.1
	n, own := 0, false
	for _, h := range f.ev.H {
		if h.Thick < thick || h.Len() < 100 {
			continue
		}
		n++
		own = own || math.Abs(h.At-s.bottom) < 0.5 && h.From < s.x0+2 && h.To > s.x1-2
	}
	return own && n <= 4
}

// ticksIn counts the boxes to tick that stand lower than y.
func ticksIn(ink []mark, y float64) int {
	n := 0
	for _, k := range ink {
		if k.tick && k.rect.Y0 < y {
			n++
		}
	}
	return n
}

// overWords is the height that is blank above the words of a cell.
func overWords(area geom.Rect, ink []mark) float64 {
	top := area.Y0
	for _, k := range ink {
		top = math.Max(top, k.rect.Y1)
	}
	return area.Y1 - top
}

// hanging tells whether uprights hang from both ends of the bottom rule and none
// stands on it.
func (f *finder) hanging(s slot) bool {
	at := func(x float64) bool {
		return slices.ContainsFunc(f.ev.V, func(v evidence.Rule) bool {
			return math.Abs(v.At-x) < 2 && math.Abs(v.To-s.bottom) < 2 && v.From < s.bottom-6
		})
	}
	return at(s.x0) && at(s.x1)
}

// fieldHeight chooses how high a field stands on its rule, given the free height.
// On printed forms fields are about 12 points high even in higher cells; a blank
// cell up to 18 points is filled, a higher one for the most part.
func fieldHeight(how source, free float64, under bool) float64 {
	if how == fromRule {
		return math.Min(free, math.Max(11, math.Min(14, free-1)))
	}
	switch {
	case free <= rowH:
		return free
	case under:
		return 14
	case free > 60:
		return 14
	case free > multiFrom: // too narrow for several lines
		return lowCell * free
	case free <= multiFrom:
		return math.Max(15, tallCell*free)
	}
	return 15
}

// The parts of a blank cell that its field fills from the bottom: of one too low for two lines, and of one that is only
// too narrow for them.
const (
	tallCell = 0.7
	lowCell  = 0.6
)

// mark is what stands in an area already: a word, a tick box.
type mark struct {
	rect   geom.Rect
	base   float64 // of words
	text   string
	leader bool
	tick   bool
}

func (f *finder) inkIn(area geom.Rect) []mark {
	var out []mark
	for i := range f.ev.Words {
		w := &f.ev.Words[i]
		if w.Rect.Y0 >= area.Y1+1 || w.Rect.Y1 <= area.Y0-1 || w.Rect.X0 >= area.X1 || w.Rect.X1 <= area.X0 || isPattern(w.Text) {
			continue
		}
		if area.Contains(w.Rect.Mid()) || w.Rect.Intersect(area).Area() > 0.35*w.Rect.Area() {
			out = append(out, mark{
				rect: w.Rect, base: w.Base, text: w.Text, leader: evidence.IsLeader(w.Text),
				tick: evidence.IsTick(w.Text),
			})
		}
	}
	for _, r := range f.ev.Ink {
		if r.Y0 < area.Y1 && r.Y1 > area.Y0 && area.Inset(1).Contains(r.Mid()) {
			out = append(out, mark{rect: r, base: r.Y0})
		}
	}
	for _, t := range f.ticks {
		if area.Overlaps(t) && t.Area() < 0.7*area.Area() {
			out = append(out, mark{rect: t, base: t.Y0, tick: true})
		}
	}
	slices.SortFunc(out, func(a, b mark) int { return cmp.Compare(a.rect.X0, b.rect.X0) })
	return out
}

// blank finds the widest blank stretch of the writing band just above the rule.
// Rank is a bonus or malus to the confidence that this stretch gives.
func (f *finder) blank(s slot, area geom.Rect, all []mark, band float64) (gap [2]float64, rank float64, found bool) {
	var low []mark
	for _, k := range all {
		// what merely hangs down from a line of words above is not in the way
		if k.rect.Y0 < area.Y0+band-1.5 && k.rect.Y1 > area.Y0+0.8 && (k.base < area.Y0+band-1.5 || k.leader) {
			low = append(low, k)
		}
	}
	if len(low) == 0 {
		return [2]float64{s.x0, s.x1}, 0, true
	}
	x, best := s.x0, [2]float64{}
	if !slices.ContainsFunc(low, func(k mark) bool { return !k.tick }) {
		return gap, 0, false // it is there for its box to tick
	}
	leaders := false
	last := ""
	lastText := ""
	for _, k := range low {
		if k.rect.X0-x > best[1]-best[0] {
			best = [2]float64{x, k.rect.X0}
			lastText = last
		}
		x = math.Max(x, k.rect.X1)
		leaders = leaders || k.leader
		last = k.text
	}
	if s.x1-x > best[1]-best[0] {
		best = [2]float64{x, s.x1}
		lastText = last
	}
	w := best[1] - best[0]
	if best[0] > s.x0 {
		best[0] += 3 // clear of the label
	}
	if best[1] < s.x1 {
		best[1] -= 3
	}
	colon := len(lastText) > 0 && (lastText[len(lastText)-1] == ':' || lastText == "►" || lastText == "▶")
	share := w / area.W()
	switch {
	case leaders || w < 26:
		return best, 0, false
	case colon && share >= 0.2:
		return best, -0.02, true
	case share >= 0.5 && w >= 40 && len(lastText) > 3 && lastText[len(lastText)-1] == '.':
		return best, besideWords + afterSentence, true
	case share >= 0.5 && w >= 40:
		return best, besideWords, true
	}
	return best, 0, false
}

// textWidth is the width from the leftmost to the rightmost word of the page.
func (f *finder) textWidth() float64 {
	if len(f.ev.Words) == 0 {
		return f.ev.Width
	}
	x0, x1 := math.Inf(1), math.Inf(-1)
	for _, w := range f.ev.Words {
		x0, x1 = math.Min(x0, w.Rect.X0), math.Max(x1, w.Rect.X1)
	}
	return x1 - x0
}
