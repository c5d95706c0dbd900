package detect

import (
	"math"
	"regexp"
	"strings"
	"unicode"

	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
)

const (
	headWords = 8    // of the head of a section at most
	headSize  = 1.12 // of most type: larger is a head
	headBar   = 40.0 // a bar or frame around a head is so high at most
	headRule  = 9.0  // a rule that belongs to a head is so near
	headWide  = 120.0
)

// head is the head of a section: its words, where they stand, and what it stands over.
type head struct {
	words    string
	base     float64
	from, to float64
}

// ordinal is the number or letter that a head begins with.
var ordinal = regexp.MustCompile(`^\s*(\d{1,2}|[A-Z]|[IVX]{1,4})[.)]\s+`)

// sectionHeads finds the heads of the sections of a page: short lines in larger type, on a bar or in a frame, numbered, or along a wide
// rule, that are no label.
func (f *finder) sectionHeads(finds []Find) []head {
	usual := f.usualSize()
	var out []head
	for _, l := range f.lines {
		text := strings.TrimSpace(l.Text())
		if len(l.Words) > headWords || strings.TrimRight(text, ":?.,;") != text || !strings.ContainsFunc(text, unicode.IsLetter) {
			continue
		}
		labels := false
		for _, o := range finds {
			labels = labels || math.Max(o.label.Inset(-1).Intersect(l.Rect).Area(), o.Rect.Intersect(l.Rect).Area()) > 0.3*l.Rect.Area()
		}
		if labels {
			continue
		}
		h := head{words: ordinal.ReplaceAllString(text, ""), base: l.Base, from: l.Rect.X0 - 12, to: f.ev.Width}
		for _, o := range f.lines { // another beside it begins a column of its own
			if o.Rect.X0 > l.Rect.X1 && math.Abs(o.Base-l.Base) < 6 {
				h.to = math.Min(h.to, o.Rect.X0-6)
			}
		}
		if on, ok := f.headGround(l); ok {
			h.from, h.to = on.X0, on.X1
		} else if l.Size < headSize*usual && !ordinal.MatchString(text) {
			continue
		}
		if h.words != "" {
			out = append(out, h)
		}
	}
	return out
}

// headGround is the bar, the frame or the rule that makes a head of a line.
func (f *finder) headGround(l evidence.Line) (geom.Rect, bool) {
	for _, b := range f.ev.Boxes {
		if b.Round || !b.Stroked && (b.Tone < 0 || b.Tone >= paper) {
			continue
		}
		if r := b.Rect; r.W() >= headWide && r.H() <= headBar && r.Inset(-1).Covers(l.Rect, 0) {
			return r, true
		}
	}
	for _, h := range f.ev.H {
		if h.Len() >= headWide && h.From < l.Rect.X0+3 && h.From > l.Rect.X0-15 && h.To > l.Rect.X1+20 &&
			math.Min(math.Abs(h.At-l.Rect.Y0), math.Abs(h.At-l.Rect.Y1)) < headRule {
			return geom.Rect{X0: h.From, X1: h.To, Y0: h.At, Y1: h.At}, true
		}
	}
	return geom.Rect{}, false
}

// tellApart puts the section before what is said of fields that would sound alike: "Owner: Telephone".
func (f *finder) tellApart(finds []Find) {
	alike := map[string][]int{}
	for i, o := range finds {
		if o.Tooltip != "" {
			alike[o.Tooltip] = append(alike[o.Tooltip], i)
		}
	}
	var heads []head
	for said, all := range alike {
		if len(all) < 2 || oneQuestion(finds, all) {
			continue
		}
		if heads == nil {
			if heads = f.sectionHeads(finds); len(heads) < 2 {
				return
			}
		}
		sections := make([]string, len(all))
		differ := false
		for k, i := range all {
			sections[k] = sectionOf(heads, finds[i].Rect)
			differ = differ || sections[k] != sections[0]
		}
		for k, i := range all {
			if differ && sections[k] != "" && !strings.HasPrefix(said, sections[k]) {
				finds[i].Tooltip = shorten(sections[k]+": "+said, 180)
			}
		}
	}
}

// oneQuestion tells whether finds are the radio buttons of one question, which sound alike: no two of them give the same answer.
func oneQuestion(finds []Find, all []int) bool {
	given := map[string]bool{}
	for _, i := range all {
		if finds[i].Kind != form.Radio || given[finds[i].Export] {
			return false
		}
		given[finds[i].Export] = true
	}
	return true
}

// sectionOf is the nearest head above a place that stands over it.
func sectionOf(heads []head, r geom.Rect) string {
	best, words := math.Inf(1), ""
	for _, h := range heads {
		if x := r.Mid().X; h.base > r.Mid().Y && h.base-r.Y1 < best && h.from <= x && h.to >= x {
			best, words = h.base-r.Y1, h.words
		}
	}
	return words
}
