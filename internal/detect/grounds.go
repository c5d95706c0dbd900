package detect

import (
	"fmt"
	"math"
	"slices"

	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
)

const (
	shade = 0.82 // darker ground says "leave this blank"
	paper = 0.97 // lighter ground is taken for white
)

// ground is the lightness of what a writing area lies on, and the drawn area that
// gives it: the smallest filled box around its lower middle, or the bare page.
func (f *finder) ground(area geom.Rect) (tone float64, on geom.Rect) {
	if f.ev.Ground != nil {
		low := area
		low.Y1 = math.Min(area.Y1, area.Y0+14)
		if in := low.Inset(1.5); !in.Empty() {
			low = in
		}
		return f.ev.Ground.Of(low, f.ev.Height), area
	}
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

// whiteOnTint tells whether a white area is there to be written on: it lies on a tint, or among tints.
func (f *finder) whiteOnTint(r geom.Rect) bool { return f.onTint(r) || f.amongTints(r) }

// amongTints tells whether darker areas adjoin an area on two sides at least: word processors colour cell by cell.
func (f *finder) amongTints(r geom.Rect) bool {
	const near = 1.5
	var sides [4]bool
	for _, b := range f.ev.Boxes {
		if o := b.Rect; b.Tone >= shade && b.Tone < paper && !b.Stroked {
			level, upright := o.OverlapX(r) > 0.5*r.W(), o.OverlapY(r) > 0.5*r.H()
			sides[0] = sides[0] || level && math.Abs(o.Y1-r.Y0) < near
			sides[1] = sides[1] || level && math.Abs(o.Y0-r.Y1) < near
			sides[2] = sides[2] || upright && math.Abs(o.X1-r.X0) < near
			sides[3] = sides[3] || upright && math.Abs(o.X0-r.X1) < near
		}
	}
	n := 0
	for _, s := range sides {
		if s {
			n++
		}
	}
	return n >= 2
}

// whiteAreas are the white areas on tinted ground, where tinted forms are written on.
func (f *finder) whiteAreas() []geom.Rect {
	if f.whites == nil {
		f.whites = []geom.Rect{}
		for _, b := range f.ev.Boxes {
			if b.Tone >= paper && b.Rect.H() >= minSlotH && f.whiteOnTint(b.Rect) {
				f.whites = append(f.whites, b.Rect)
			}
		}
	}
	return f.whites
}

// tinted tells whether the form writes on white areas of a tinted page: more than three of them have room to write in.
func (f *finder) tinted() bool {
	n := 0
	for _, w := range f.whiteAreas() {
		if _, _, blank := f.underCaption(w); blank {
			n++
		}
	}
	return n > 3
}

// findWhite takes white areas without a border on tinted ground.
func (f *finder) findWhite() {
	for _, b := range f.ev.Boxes {
		if b.Stroked || b.Round || b.Tone < 0.97 || b.Rect.H() < minSlotH || b.Rect.H() > 200 || b.Rect.W() < 14 ||
			small(b.Rect.W(), b.Rect.H()) {
			continue
		}
		if !f.whiteOnTint(b.Rect) || f.crossed(b.Rect) || f.stacked(b.Rect) {
			continue
		}
		rect, caption, blank := f.underCaption(b.Rect)
		if !blank {
			continue
		}
		c := candidate{
			kind: form.Text, rect: rect, area: b.Rect, how: fromWhite, score: 0.8, caption: caption,
			what: fmt.Sprintf("white area %s by %s pt on a tinted ground", pt(b.Rect.W()), pt(b.Rect.H())),
		}
		if b.Rect.H() >= multiFrom && b.Rect.W() >= multiW {
			c.multiline = true
		} else if rect.H() > rowH+hair {
			c.rect.Y1 = c.rect.Y0 + 15
		}
		f.cands = append(f.cands, c)
	}
}

// underCaption is the blank part of a coloured area: all of it, or what a caption at its top leaves.
func (f *finder) underCaption(r geom.Rect) (rect geom.Rect, caption string, blank bool) {
	ink := f.inkIn(r)
	if len(ink) == 0 {
		return r, "", true
	}
	ceiling := r.Y1
	for _, k := range ink {
		if k.tick {
			return r, "", false
		}
		ceiling = math.Min(ceiling, k.rect.Y0)
	}
	rect = r
	rect.Y1 = ceiling
	if rect.H() < minSlotH || rect.H() < 0.36*r.H() || ceiling > r.Y1-3 {
		return r, "", false
	}
	caption = f.captionIn(r, [2]float64{r.X0, r.X1}, ceiling)
	return rect, caption, caption != "" && !note(caption)
}

// stacked tells whether white areas or candidates of the same column touch an
// area above or below: then it is only the ground of that column.
func (f *finder) stacked(r geom.Rect) bool {
	touches := func(o geom.Rect) bool {
		return o != r && math.Abs(o.X0-r.X0) < 3 && math.Abs(o.X1-r.X1) < 3 &&
			(math.Abs(o.Y0-r.Y1) < 2.5 || math.Abs(o.Y1-r.Y0) < 2.5 || o.Overlaps(r))
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

// overBlank tells whether a blank cell as wide as an area hangs right below it.
func (f *finder) overBlank(r geom.Rect) bool {
	return slices.ContainsFunc(f.cands, func(o candidate) bool {
		return o.kind == form.Text && o.caption == "" && math.Abs(o.area.X0-r.X0) < 3 && math.Abs(o.area.X1-r.X1) < 3 &&
			math.Abs(o.area.Y1-r.Y0) < 3
	})
}

// findTints takes tinted areas on white paper that are left empty: the places to write
// on forms that mark them so. Three of one colour are needed, and more of them than
// areas of that colour with something in them: else the colour is for looks.
func (f *finder) findTints() {
	if f.tinted() {
		return
	}
	type colour struct {
		tone         float64
		empty, other []geom.Rect
		captions     map[geom.Rect]string // of those that are empty below words
		blank        map[geom.Rect]geom.Rect
	}
	var colours []colour
	for _, b := range f.ev.Boxes {
		r := b.Rect
		if b.Stroked || b.Round || b.Tone < shade || b.Tone >= paper || r.H() < 9 || r.W() < 18 || small(r.W(), r.H()) {
			continue
		}
		i := slices.IndexFunc(colours, func(c colour) bool { return math.Abs(c.tone-b.Tone) < 0.01 })
		if i < 0 {
			colours = append(colours, colour{tone: b.Tone, captions: map[geom.Rect]string{}, blank: map[geom.Rect]geom.Rect{}})
			i = len(colours) - 1
		}
		c := &colours[i]
		part, caption, blank := f.underCaption(r)
		if blank && caption != "" && f.overBlank(r) {
			blank = false // the head of a column
		}
		if r.H() > 250 || !blank || f.crossed(r) || f.onTint(r) {
			c.other = append(c.other, r)
		} else {
			c.empty = append(c.empty, r)
			c.blank[r], c.captions[r] = part, caption
		}
	}
	for _, c := range colours {
		if len(c.empty) < 3 || len(c.empty) <= 2*len(c.other) {
			continue
		}
		for _, r := range c.empty {
			n := candidate{
				kind: form.Text, rect: c.blank[r], area: r, how: fromWhite, score: 0.8, caption: c.captions[r],
				what: fmt.Sprintf("tinted area %s by %s pt", pt(r.W()), pt(r.H())),
			}
			if r.H() >= multiFrom && r.W() >= multiW {
				n.multiline = true
			} else if n.rect.H() > rowH+4 {
				n.rect.Y1 = n.rect.Y0 + 15
			}
			f.cands = append(f.cands, n)
		}
	}
}
