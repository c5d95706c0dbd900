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

// besideWords lowers a blank stretch that merely follows words in the same band.
const besideWords = -0.25

const (
	touch     = 1.6  // a rule that ends this close to another touches it
	minSlotW  = 9.0  // narrower is no place to write a sign
	minSlotH  = 7.5  // lower neither
	lowStrip  = 10.0 // an area that is not closed and lower is seldom meant
	bandH     = 9.0  // height of the writing band above a bottom rule that must be blank
	rowH      = 18.0 // a blank cell up to here is filled to its top
	multiFrom = 34.0 // free height from which several lines are meant
	multiW    = 90.0
)

// slot is the area that stands on a horizontal rule between two uprights, or
// between an upright and the end of the rule.
type slot struct {
	x0, x1      float64
	bottom, top float64
	left, right bool // closed by an upright
	roof        bool // closed by a rule above
	ticks       []float64
}

// findSlots looks above every horizontal rule for blank areas.
func (f *finder) findSlots() {
	var slots []slot
	f.walls = slices.DeleteFunc(slices.Clone(f.ev.V), f.sideOfTick)
	for _, h := range f.ev.H {
		if h.Len() >= minSlotW {
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
		s := slot{x0: a.x, x1: b.x, bottom: h.At, left: a.closed, right: b.closed}
		s.top, s.roof = f.roof(s.x0, s.x1, h.At)
		// A short upright between two wide places is a tick of a comb, not a wall.
		if s.top-s.bottom < minSlotH {
			continue
		}
		for _, t := range ticks {
			if t.At > s.x0+2 && t.At < s.x1-2 {
				s.ticks = append(s.ticks, t.At)
			}
		}
		out = append(out, s)
	}
	return mergeTicked(out, func(x float64) float64 {
		for _, c := range cuts {
			if c.x == x {
				return c.top
			}
		}
		return math.Inf(1)
	}, f.edgeOfWhite)
}

// sideOfTick tells whether an upright is a side of a box to tick.
func (f *finder) sideOfTick(v evidence.Rule) bool {
	return v.Len() <= maxTick+2 && slices.ContainsFunc(f.ticks, func(t geom.Rect) bool {
		return (math.Abs(v.At-t.X0) < 1 || math.Abs(v.At-t.X1) < 1) && v.From > t.Y0-1.5 && v.To < t.Y1+1.5
	})
}

// edgeOfWhite tells whether an upright goes along a white area up to its top.
func (f *finder) edgeOfWhite(x, top float64) bool {
	return slices.ContainsFunc(f.whiteAreas(), func(w geom.Rect) bool {
		return (math.Abs(w.X0-x) < 1 || math.Abs(w.X1-x) < 1) && math.Abs(w.Y1-top) < 1
	})
}

// mergeTicked joins neighbouring slots whose common upright reaches less than
// two thirds of the way to the roof: such an upright is a tick, unless it is a wall.
func mergeTicked(in []slot, topOf func(float64) float64, wall func(x, top float64) bool) []slot {
	var out []slot
	for _, s := range in {
		if n := len(out); n > 0 && out[n-1].right && s.left && out[n-1].x1 == s.x0 {
			reach := topOf(s.x0) - s.bottom
			if !wall(s.x0, topOf(s.x0)) && s.roof && out[n-1].roof && math.Abs(out[n-1].top-s.top) < 1 && reach < 0.66*(s.top-s.bottom) && reach < 16 && s.x1-s.x0 < 60 {
				out[n-1].ticks = append(append(out[n-1].ticks, s.x0), s.ticks...)
				out[n-1].x1, out[n-1].right = s.x1, s.right
				continue
			}
		}
		out = append(out, s)
	}
	return out
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
	closed := s.left && s.right && s.roof
	reach := s.top
	if !closed {
		reach = math.Min(s.top, s.bottom+60)
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
	band := math.Min(bandH, area.H()*0.8)
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
		if wide > 0.92*f.textWidth() && wide > 300 {
			c.score -= 0.3 // as wide as the text: more often a divider
			c.divider = true
		}
		if edge := 0.07 * f.ev.Height; (s.bottom < edge || s.bottom > f.ev.Height-edge) && s.x1-s.x0 > 0.85*f.textWidth() && gap[0] > s.x0+1 && gap[1] < s.x1-1 {
			c.score -= 0.5 // the line of a running head, with words at both its ends
		}
		if wide < 24 && !white {
			c.score -= 0.5 // a stroke of a drawing
		}
	}
	if !white && tone < paper && f.tinted() {
		c.score -= 0.4 // this form writes on white, and here is none
	}
	switch {
	case !closed && free < lowStrip:
		c.score -= 0.45 // what is left between two things
	case closed && area.H() > 3*free && free < rowH && len(strings.Fields(caption)) >= 8:
		c.score -= 0.5 // what is left in a frame around a note
	}
	c.white = white
	c.score += rank
	c.beside = rank <= besideWords
	c.free = free
	c.rect = geom.Rect{X0: gap[0], Y0: area.Y0, X1: gap[1], Y1: area.Y0 + fieldHeight(c.how, free, ceiling < area.Y1)}
	if c.how == fromCell && free >= multiFrom && wide >= multiW {
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
	}
	f.cands = append(f.cands, c)
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

// even tells whether the ticks divide the slot into cells of one width.
func even(s slot) bool {
	step := (s.x1 - s.x0) / float64(len(s.ticks)+1)
	if step < 6 || step > 40 {
		return false
	}
	for i, x := range s.ticks {
		if math.Abs(x-(s.x0+step*float64(i+1))) > step*0.2 {
			return false
		}
	}
	return true
}

// fieldHeight chooses how high a field stands on its rule, given the free height.
// On printed forms fields are about 12 points high even in higher cells; a blank
// cell up to 18 points is filled.
func fieldHeight(how source, free float64, under bool) float64 {
	if how == fromRule {
		return math.Min(free, math.Max(11, math.Min(14, free-1)))
	}
	switch {
	case free <= rowH:
		return free
	case under, free > 60:
		return 14
	}
	return 15
}

// ink is what stands in an area already: words, tick boxes.
type ink struct {
	rect   geom.Rect
	base   float64 // of words
	text   string
	leader bool
	tick   bool
}

func (f *finder) inkIn(area geom.Rect) []ink {
	var out []ink
	for i := range f.ev.Words {
		w := &f.ev.Words[i]
		if w.Rect.Y0 >= area.Y1+1 || w.Rect.Y1 <= area.Y0-1 || w.Rect.X0 >= area.X1 || w.Rect.X1 <= area.X0 {
			continue
		}
		if area.Contains(w.Rect.Mid()) || w.Rect.Intersect(area).Area() > 0.35*w.Rect.Area() {
			out = append(out, ink{rect: w.Rect, base: w.Base, text: w.Text, leader: evidence.IsLeader(w.Text), tick: evidence.IsTick(w.Text)})
		}
	}
	for _, r := range f.ev.Ink {
		if r.Y0 < area.Y1 && r.Y1 > area.Y0 && area.Inset(1).Contains(r.Mid()) {
			out = append(out, ink{rect: r, base: r.Y0})
		}
	}
	for _, t := range f.ticks {
		if area.Overlaps(t) && t.Area() < 0.7*area.Area() {
			out = append(out, ink{rect: t, base: t.Y0, tick: true})
		}
	}
	slices.SortFunc(out, func(a, b ink) int { return cmp.Compare(a.rect.X0, b.rect.X0) })
	return out
}

// blank finds the widest blank stretch of the writing band just above the rule.
// Rank is a bonus or malus to the confidence that this stretch gives.
func (f *finder) blank(s slot, area geom.Rect, all []ink, band float64) (gap [2]float64, rank float64, found bool) {
	var low []ink
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
	if !slices.ContainsFunc(low, func(k ink) bool { return !k.tick }) {
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
	case share >= 0.5 && w >= 40:
		return best, besideWords, true
	}
	return best, 0, false
}

const (
	shade = 0.82 // darker ground says "leave this blank"
	paper = 0.97 // lighter ground is taken for white
)

// ground is the lightness of what a writing area lies on, and the drawn area that
// gives it: the smallest filled box around its lower middle, or the bare page.
func (f *finder) ground(area geom.Rect) (tone float64, on geom.Rect) {
	mid := area.Mid()
	mid.Y = math.Min(mid.Y, area.Y0+6)
	best := math.Inf(1)
	tone = 1
	for _, b := range f.ev.Boxes {
		if b.Tone >= 0 && b.Rect.Contains(mid) && b.Rect.Area() <= best {
			best, tone, on = b.Rect.Area(), b.Tone, b.Rect
		}
	}
	return tone, on
}

func (f *finder) shaded(area geom.Rect) bool {
	tone, _ := f.ground(area)
	return tone < shade
}

// onTint tells whether a drawn area lies on a larger one of a darker colour.
func (f *finder) onTint(r geom.Rect) bool {
	return !r.Empty() && slices.ContainsFunc(f.ev.Boxes, func(o evidence.Box) bool {
		return o.Tone >= 0 && o.Tone < paper && o.Rect.Area() > 1.2*r.Area() && o.Rect.Intersect(r).Area() > 0.9*r.Area()
	})
}

// whiteAreas are the white areas on tinted ground, where tinted forms are written on.
func (f *finder) whiteAreas() []geom.Rect {
	if f.whites == nil {
		f.whites = []geom.Rect{}
		for _, b := range f.ev.Boxes {
			if b.Tone >= paper && b.Rect.H() >= minSlotH && f.onTint(b.Rect) {
				f.whites = append(f.whites, b.Rect)
			}
		}
	}
	return f.whites
}

// tinted tells whether the form writes on white areas of a tinted page.
func (f *finder) tinted() bool { return len(f.whiteAreas()) > 3 }

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

// combs finds rows of three and more adjoining blank cells of one width, makes a
// comb of each, and tells which slots they use up.
func (f *finder) combs(cells []slot) func(slot) bool {
	used := map[slotKey]bool{}
	cs := slices.Clone(cells)
	slices.SortFunc(cs, func(a, b slot) int { return cmp.Or(cmp.Compare(a.bottom, b.bottom), cmp.Compare(a.x0, b.x0)) })
	for i := 0; i < len(cs); {
		j := i + 1
		w := cs[i].x1 - cs[i].x0
		for j < len(cs) && math.Abs(cs[j].bottom-cs[i].bottom) < 1 && math.Abs(cs[j].x0-cs[j-1].x1) < 2 &&
			math.Abs(cs[j].x1-cs[j].x0-w) < 0.12*w+0.5 && math.Abs(cs[j].top-cs[i].top) < 1 {
			j++
		}
		first, last := cs[i], cs[j-1]
		area := geom.Rect{X0: first.x0, Y0: first.bottom, X1: last.x1, Y1: first.top}
		if n := j - i; n >= 3 && w >= 7 && w <= 30 && area.H() >= 8 && area.H() <= 36 && area.H() >= 0.6*w && len(f.inkIn(area)) == 0 && !f.shaded(area) {
			for _, c := range cs[i:j] {
				used[key(c)] = true
			}
			f.cands = append(f.cands, candidate{
				kind: form.Text, rect: area, area: area, how: fromCell, comb: n, score: 0.93,
				what: fmt.Sprintf("%d printed cells", n),
			})
		}
		i = j
	}
	return func(s slot) bool { return used[key(s)] }
}

type slotKey [3]int

func key(s slot) slotKey {
	return slotKey{int(math.Round(s.x0)), int(math.Round(s.x1)), int(math.Round(s.bottom))}
}

// findWhite takes white areas without a border on tinted ground.
func (f *finder) findWhite() {
	for _, b := range f.ev.Boxes {
		if b.Stroked || b.Round || b.Tone < 0.97 || b.Rect.H() < minSlotH || b.Rect.H() > 200 || b.Rect.W() < 14 || small(b.Rect.W(), b.Rect.H()) {
			continue
		}
		if !f.onTint(b.Rect) || len(f.inkIn(b.Rect)) > 0 || f.crossed(b.Rect) || f.stacked(b.Rect) {
			continue
		}
		c := candidate{
			kind: form.Text, rect: b.Rect, area: b.Rect, how: fromWhite, score: 0.8,
			what: fmt.Sprintf("white area %s by %s pt on a tinted ground", pt(b.Rect.W()), pt(b.Rect.H())),
		}
		if b.Rect.H() >= multiFrom && b.Rect.W() >= multiW {
			c.multiline = true
		} else if b.Rect.H() > rowH {
			c.rect.Y1 = c.rect.Y0 + 15
		}
		f.cands = append(f.cands, c)
	}
}

// stacked tells whether white areas or candidates of the same column touch an
// area above or below: then it is only the ground of that column.
func (f *finder) stacked(r geom.Rect) bool {
	touches := func(o geom.Rect) bool {
		return o != r && math.Abs(o.X0-r.X0) < 3 && math.Abs(o.X1-r.X1) < 3 && (math.Abs(o.Y0-r.Y1) < 2.5 || math.Abs(o.Y1-r.Y0) < 2.5 || o.Overlaps(r))
	}
	return slices.ContainsFunc(f.ev.Boxes, func(b evidence.Box) bool { return b.Tone >= paper && touches(b.Rect) }) ||
		slices.ContainsFunc(f.cands, func(c candidate) bool { return touches(c.area) })
}

// crossed tells whether rules divide the inside of an area.
func (f *finder) crossed(r geom.Rect) bool {
	in := r.Inset(2)
	for _, h := range f.ev.H {
		if h.At > in.Y0 && h.At < in.Y1 && math.Min(h.To, in.X1)-math.Max(h.From, in.X0) > 0.3*in.W() {
			return true
		}
	}
	for _, v := range f.ev.V {
		if !v.Dashed && v.At > in.X0 && v.At < in.X1 && math.Min(v.To, in.Y1)-math.Max(v.From, in.Y0) > 0.5*in.H() {
			return true
		}
	}
	return false
}

// findLeaders takes runs of underscores and dots that lead to nothing.
func (f *finder) findLeaders() {
	for _, w := range f.ev.Words {
		if !evidence.IsLeader(w.Text) {
			continue
		}
		dots := w.Text[0] != '_'
		n := len([]rune(w.Text))
		r := w.Rect
		if r.W() < 18 || n < 4 {
			continue
		}
		c := candidate{kind: form.Text, how: fromLeader, score: 0.86}
		size := f.typeSize(w)
		height := math.Max(11, math.Min(18, size*1.25))
		if dots {
			c.score = 0.62
			c.what = fmt.Sprintf("dotted leader %s pt long", pt(r.W()))
			if f.leadsToSomething(r) {
				continue
			}
			c.rect = geom.Rect{X0: r.X0, Y0: r.Y0 - 1.5, X1: r.X1, Y1: r.Y0 - 1.5 + height}
		} else {
			c.what = fmt.Sprintf("row of underscores %s pt long", pt(r.W()))
			c.rect = geom.Rect{X0: r.X0, Y0: r.Y0, X1: r.X1, Y1: r.Y0 + height}
		}
		c.area = c.rect
		f.cands = append(f.cands, c)
	}
	f.joinLeaders()
}

// joinLeaders makes one candidate of pieces of a leader that follow each other.
func (f *finder) joinLeaders() {
	var out []candidate
	for _, c := range f.cands {
		if n := len(out); c.how == fromLeader && n > 0 && out[n-1].how == fromLeader {
			p := &out[n-1]
			if gap := c.rect.X0 - p.rect.X1; math.Abs(p.rect.Y0-c.rect.Y0) < 1.5 && gap > -1 && gap < 2 {
				p.rect, p.area = p.rect.Union(c.rect), p.area.Union(c.rect)
				continue
			}
		}
		out = append(out, c)
	}
	f.cands = out
}

// typeSize is the size of the type beside a leader.
func (f *finder) typeSize(w evidence.Word) float64 {
	for _, l := range f.lines {
		if math.Abs(l.Base-w.Base) < 4 {
			return l.Size
		}
	}
	return 11
}

// leadsToSomething tells whether words or a drawn cell follow right after a
// leader: then it only leads the eye there.
func (f *finder) leadsToSomething(r geom.Rect) bool {
	probe := geom.Rect{X0: r.X1, X1: r.X1 + 40, Y0: r.Y0 - 2, Y1: r.Y0 + 8}
	for _, w := range f.ev.Words {
		if probe.Overlaps(w.Rect) {
			return true
		}
	}
	for _, v := range f.ev.V {
		if v.At > probe.X0-2 && v.At < probe.X1 && v.From < probe.Y1 && v.To > probe.Y0 {
			return true
		}
	}
	return false
}

// stackRules makes one place of several lines of rules that lie below each other at one
// distance, of one length, with no words between or beside them.
func (f *finder) stackRules() {
	var rules []int
	for i, c := range f.cands {
		if c.how == fromRule && c.comb == 0 && c.rect.W() > 120 {
			rules = append(rules, i)
		}
	}
	slices.SortFunc(rules, func(a, b int) int { return cmp.Compare(f.cands[b].rect.Y0, f.cands[a].rect.Y0) })
	gone := map[int]bool{}
	for k := 0; k < len(rules); k++ {
		if gone[rules[k]] {
			continue
		}
		stack := []int{rules[k]}
		step := 0.0
		for _, next := range rules[k+1:] {
			last := f.cands[stack[len(stack)-1]].area
			r := f.cands[next].area
			d := last.Y0 - r.Y0
			if math.Abs(r.X0-last.X0) > 3 || math.Abs(r.X1-last.X1) > 3 || d < 10 {
				continue
			}
			if d > 34 || step > 0 && math.Abs(d-step) > 2 || f.wordsNear(geom.Rect{X0: last.X0 - 150, X1: last.X1, Y0: r.Y0 - 1, Y1: last.Y0 - 1}) {
				break
			}
			step = d
			stack = append(stack, next)
		}
		if len(stack) < 2 {
			continue
		}
		top := &f.cands[stack[0]]
		last := f.cands[stack[len(stack)-1]]
		top.multiline = true
		top.rect.Y0, top.area.Y0 = last.rect.Y0, last.area.Y0
		top.rect.Y1 = math.Max(top.rect.Y1, math.Min(f.cands[stack[0]].area.Y1, last.rect.Y0+step*float64(len(stack))-1))
		if blank := top.free; blank > 0 {
			base := last.rect.Y0 + step*float64(len(stack)-1)
			top.rect.Y1 = math.Min(top.rect.Y1, base+math.Max(11, blank))
		}
		top.what = fmt.Sprintf("%d rules below each other", len(stack))
		top.score = math.Max(top.score, 0.8)
		top.divider = false
		for _, i := range stack[1:] {
			gone[i] = true
		}
	}
	if len(gone) == 0 {
		return
	}
	kept := f.cands[:0:0]
	for i, c := range f.cands {
		if !gone[i] {
			kept = append(kept, c)
		}
	}
	f.cands = kept
}

// wordsNear tells whether words, other than leaders, stand in an area.
func (f *finder) wordsNear(r geom.Rect) bool {
	return slices.ContainsFunc(f.ev.Words, func(w evidence.Word) bool {
		return !evidence.IsLeader(w.Text) && w.Rect.Intersect(r).Area() > 0.3*w.Rect.Area()
	})
}
