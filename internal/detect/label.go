package detect

import (
	"math"
	"regexp"
	"slices"
	"strings"
	"unicode"

	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
)

// place says where a label stands, seen from its field.
type place int

const (
	none place = iota
	inside
	left
	right
	above
	below
	header // at the head of the column, and maybe at the start of the row
)

// words says where the field lies, seen from its label.
func (p place) words() string {
	switch p {
	case inside:
		return "around"
	case left:
		return "right of"
	case right:
		return "left of"
	case above, header:
		return "below"
	}
	return "above"
}

// label is the printed words that belong to a candidate.
type label struct {
	where place
	raw   string // as printed
	text  string // cleaned: no numbering, leaders or marks
	row   string // of a table cell: the words at the start of its row
	n     int    // of a table cell: the number of its row, from 1
	title string // of a table cell: the heading of the table
	wide  float64
	rect  geom.Rect // around the words
}

// splitLines cuts lines of text at tick boxes and at uprights between words.
func (f *finder) splitLines() {
	var out []evidence.Line
	for _, l := range f.lines {
		start := 0
		for i := 1; i <= len(l.Words); i++ {
			if i < len(l.Words) && !f.between(l, l.Words[i-1].Rect, l.Words[i].Rect) {
				continue
			}
			out = append(out, partOf(l, start, i))
			start = i
		}
	}
	f.lines = out
}

// partOf is a line of some of the words of another, from one to before another.
func partOf(l evidence.Line, from, to int) evidence.Line {
	part := evidence.Line{Words: l.Words[from:to], Base: l.Base, Size: l.Size, Rect: l.Words[from].Rect}
	for _, w := range part.Words {
		part.Rect = part.Rect.Union(w.Rect)
	}
	return part
}

func (f *finder) between(l evidence.Line, a, b geom.Rect) bool {
	mid := (l.Rect.Y0 + l.Rect.Y1) / 2
	for _, t := range f.ticks {
		if t.X0 > a.X1-2 && t.X1 < b.X0+2 && t.Y0 < mid && t.Y1 > mid {
			return true
		}
	}
	if b.X0-a.X1 < 1.5 {
		return false
	}
	for _, v := range f.ev.V {
		if v.At >= a.X1-0.5 && v.At <= b.X0+0.5 && v.From < mid && v.To > mid {
			return true
		}
	}
	return false
}

func (f *finder) labelFor(c candidate) label {
	if c.table != nil {
		return c.table.label()
	}
	if c.kind == form.CheckBox {
		return f.tickLabel(c)
	}
	if first, n := f.firstGroup(c); n > 0 && !slices.ContainsFunc(f.lines, func(l evidence.Line) bool {
		return l.Rect.OverlapX(c.rect) > 0.5*l.Rect.W() && (l.Rect.Y0 > c.rect.Y1-2 && l.Rect.Y0 < c.rect.Y1+12 && !isDatePart(l.Text()))
	}) {
		return f.labelFor(first)
	}
	if t := clean(c.question); t != "" {
		return label{where: above, raw: c.question, text: t}
	}
	if t := clean(c.caption); t != "" {
		return label{where: inside, raw: c.caption, text: t}
	}
	l, dist, blocked := f.leftOf(c)
	up, upDist := f.aboveOf(c)
	down, downDist := f.belowOf(c)
	isLine := c.how == fromRule || c.how == fromLeader
	if isLine && l.where == none {
		if before := f.sentenceBefore(c); before.where != none {
			return before
		}
	}
	if up.where == header && up.wide > 1.4*c.area.W()+8 {
		up = label{} // a paragraph, not the head of a column
	}
	switch {
	case l.where != none && blocked && f.hundredths(c):
		l.text, l.raw = l.text+" (hundredths)", l.raw+" (hundredths)"
		return l
	case isLine && l.where != none && !blocked && dist <= 60:
		return l
	case !c.multiline && up.where == above && upDist <= 9 && down.where != none && downDist <= 9 && f.sideOfLabels(c.how) != none:
		if f.sideOfLabels(c.how) == above {
			return up
		}
		return down
	case isLine && down.where != none && downDist <= 9 && !(up.where != none && upDist < 3):
		return down
	case l.where != none && !blocked && dist <= 140:
		return l
	case !isLine && up.where != none:
		if blocked && l.where != none {
			up.row = l.text
		}
		return up
	case isLine && up.where != none && (upDist <= 8 || c.multiline && upDist <= 26):
		return up
	case l.where != none && !blocked && dist <= 420:
		return l
	case l.where != none && blocked && !isLine:
		return l
	case down.where != none && downDist <= 9:
		return down
	}
	return label{}
}

// sideOfLabels says on which side of its places of one sort a page has their labels, above or below, by those that have words
// on one side only and by how near the words are; none when nothing tells.
func (f *finder) sideOfLabels(how source) place {
	if side, known := f.side[how]; known {
		return side
	}
	if f.side == nil {
		f.side = map[source]place{}
	}
	side := none
	defer func() { f.side[how] = side }()
	onlyUp, onlyDown, nearer := 0, 0, 0.0
	for _, c := range f.cands {
		if c.how != how || c.kind != form.Text || c.comb > 0 || c.divider || c.caption != "" || c.table != nil || c.multiline {
			continue
		}
		if l, _, _ := f.leftOf(c); l.where != none {
			continue
		}
		up, upDist := f.aboveOf(c)
		down, downDist := f.belowOf(c)
		isUp, isDown := up.where == above && upDist <= 9, down.where != none && downDist <= 9
		switch {
		case isUp && isDown:
			nearer += upDist - downDist
		case isUp:
			onlyUp++
		case isDown:
			onlyDown++
		}
	}
	switch {
	case onlyUp > onlyDown, onlyUp == onlyDown && nearer < -1.5:
		side = above
	case onlyDown > onlyUp, nearer > 1.5:
		side = below
	}
	return side
}

// tickLabel prefers the words right after the box, then those before it.
func (f *finder) tickLabel(c candidate) label {
	r := c.rect
	best, at := math.Inf(1), -1
	for i, l := range f.lines {
		if l.Rect.X0 < r.X1-2 || l.Rect.OverlapY(r) < 0.3*math.Min(l.Rect.H(), r.H()) {
			continue
		}
		if d := l.Rect.X0 - r.X1; d < best && d <= 22 {
			best, at = d, i
		}
	}
	if at >= 0 {
		if t := clean(f.lines[at].Text()); t != "" {
			return label{where: right, raw: f.lines[at].Text(), text: t, rect: f.lines[at].Rect}
		}
	}
	if l, dist, blocked := f.leftOf(c); l.where != none && !blocked && dist <= 30 && !f.answersAnother(l, r) {
		return l
	}
	if down, d := f.belowOf(c); down.where != none && d <= 8 {
		return down
	}
	up, d := f.aboveOf(c)
	if up.where != none && (d <= 60 || f.columnUp(c, c.rect.Y1+d)) {
		up.where = header
		if l, _, _ := f.leftOf(c); l.where != none {
			up.row = l.text
		}
		return up
	}
	return label{}
}

// answersAnother tells whether the words left of a box follow right after another box:
// then they are that one's.
func (f *finder) answersAnother(l label, r geom.Rect) bool {
	return slices.ContainsFunc(f.lines, func(w evidence.Line) bool {
		return w.Text() == l.raw && w.Rect.X1 <= r.X0+4 && w.Rect.OverlapY(r) > 0 && slices.ContainsFunc(f.ticks, func(t geom.Rect) bool {
			return t != r && t.OverlapY(w.Rect) > 0.5*math.Min(t.H(), w.Rect.H()) && w.Rect.X0-t.X1 > -2 && w.Rect.X0-t.X1 <= 22
		})
	})
}

// leftOf finds the nearest words left of a candidate on its line. Blocked tells
// that another candidate stands between.
func (f *finder) leftOf(c candidate) (out label, dist float64, blocked bool) {
	band := geom.Rect{X0: 0, X1: c.rect.X0 + 4, Y0: c.rect.Y0 - 2, Y1: c.rect.Y0 + math.Min(13, math.Max(9, c.rect.H()))}
	if c.kind == form.CheckBox {
		band.Y0, band.Y1 = c.rect.Y0-1, c.rect.Y1+1
	}
	if h := c.area.H(); c.how == fromCell || c.how == fromWhite || c.how == fromColumn && h < multiFrom {
		band.Y1 = math.Max(band.Y1, c.rect.Y0+math.Min(h, multiFrom)) // words may stand at the top of their row
	}
	if c.multiline {
		band.Y0, band.Y1 = c.rect.Y0, c.rect.Y1+4
	}
	best := math.Inf(-1)
	var found evidence.Line
	low := math.Inf(-1) // of a label beside several lines, half way down
	for _, l := range f.lines {
		if l.Rect.X1 > band.X1 || l.Rect.OverlapY(band) < 0.45*math.Min(l.Rect.H(), band.H()) || numbering(l.Text()) && !f.goesOn(l) {
			continue
		}
		if c.multiline && l.Base < c.rect.Y1-22 {
			if math.IsInf(best, -1) && l.Rect.X1 > low {
				low, found = l.Rect.X1, l
			}
			continue
		}
		if l.Rect.X1 > best {
			best, found = l.Rect.X1, l
		}
	}
	if math.IsInf(best, -1) {
		best = low
	}
	if math.IsInf(best, -1) {
		return label{}, 0, false
	}
	text, around := found.Text(), found.Rect
	before, goesOn := f.lineBefore(found)
	if goesOn && continues(text) { // goes on from the line above
		text, around = before.Text()+" "+text, around.Union(before.Rect)
	} else {
		text, around = f.wrapped(found, text, c)
	}
	cleaned := clean(text)
	if cleaned == "" {
		return label{}, 0, false
	}
	for _, o := range f.cands {
		if o.rect != c.rect && o.kind != form.CheckBox && o.rect.X0 >= best-4 && o.rect.X1 <= c.rect.X0+2 &&
			o.rect.OverlapY(band) > 4 && o.score > 0.3 {
			blocked = true
		}
	}
	return label{where: left, raw: text, text: cleaned, rect: around}, c.rect.X0 - best, blocked
}

// continues tells whether a line of words goes on from the one above: it begins with a small letter, or has none.
func continues(text string) bool {
	first := []rune(text)
	return unicode.IsLower(first[0]) || numbering(text)
}

const (
	labelLines   = 3    // of a label beside its field
	labelLeading = 1.4  // baselines apart, in sizes of type
	labelWords   = 14.0 // of all its lines
)

// wrapped reads the lines of a label that stand over its last one: close, at one margin, of one size, and with no place to
// write of their own.
func (f *finder) wrapped(last evidence.Line, text string, c candidate) (string, geom.Rect) {
	around, top := last.Rect, last
	for i := f.lineUnder(last, c); i >= 0 && len(strings.Fields(text)) < labelWords; i = f.lineUnder(last, c) {
		last = f.lines[i]
		text, around = text+" "+last.Text(), around.Union(last.Rect)
	}
	for range labelLines - 1 {
		i := slices.IndexFunc(f.lines, func(l evidence.Line) bool {
			gap := l.Base - top.Base
			return gap > 2 && gap < labelLeading*math.Max(top.Size, 6) && math.Max(l.Size, top.Size) < 1.3*math.Min(l.Size, top.Size)+1 &&
				(math.Abs(l.Rect.X0-last.Rect.X0) < 2 || math.Abs(l.Rect.X1-last.Rect.X1) < 2 ||
					math.Abs(l.Rect.Mid().X-last.Rect.Mid().X) < 2) &&
				l.Rect.X1 < c.rect.X0+2 && !strings.HasSuffix(strings.TrimSpace(l.Text()), ":")
		})
		if i < 0 {
			break
		}
		l := f.lines[i]
		if len(strings.Fields(text))+len(l.Words) > labelWords || f.servesAnother(l, c) {
			break
		}
		text, around, top = l.Text()+" "+text, around.Union(l.Rect), l
	}
	return text, around
}

// lineUnder is the line of a label below one of it, on the height of the place; negative when there is none.
func (f *finder) lineUnder(last evidence.Line, c candidate) int {
	if strings.HasSuffix(strings.TrimSpace(last.Text()), ":") {
		return -1
	}
	return slices.IndexFunc(f.lines, func(l evidence.Line) bool {
		gap := last.Base - l.Base
		return gap > 2 && gap < labelLeading*math.Max(last.Size, 6) && math.Max(l.Size, last.Size) < 1.3*math.Min(l.Size, last.Size)+1 &&
			(math.Abs(l.Rect.X0-last.Rect.X0) < 2 || math.Abs(l.Rect.X1-last.Rect.X1) < 2) && l.Rect.X1 < c.rect.X0+2 &&
			l.Rect.Mid().Y > c.rect.Y0-1 && !f.servesAnother(l, c)
	})
}

// servesAnother tells whether a place to write other than c stands right of a line of words, on its height.
func (f *finder) servesAnother(l evidence.Line, c candidate) bool {
	return slices.ContainsFunc(f.cands, func(o candidate) bool {
		return o.rect.X0 > l.Rect.X1-4 && o.rect.X0 < c.rect.X1 && o.rect.IoU(c.rect) < 0.3 && o.rect.OverlapY(l.Rect) > 0.5*l.Rect.H()
	})
}

// sentenceBefore reads the end of the line above a blank that begins a line of a running
// sentence: words follow the blank at once, and a line of words ends above.
func (f *finder) sentenceBefore(c candidate) label {
	follows := slices.ContainsFunc(f.lines, func(l evidence.Line) bool {
		d := l.Rect.X0 - c.rect.X1
		return d > -2 && d < 7 && math.Abs(l.Base-c.rect.Y0) < 4
	})
	if !follows {
		return label{}
	}
	var last evidence.Line
	for _, l := range f.lines {
		gap := l.Base - c.rect.Y0
		if gap > 8 && gap < 34 && l.Rect.X1 > c.rect.X0+100 &&
			(len(last.Words) == 0 || gap < last.Base-c.rect.Y0-3 || math.Abs(l.Base-last.Base) < 3 && l.Rect.X1 > last.Rect.X1) {
			last = l
		}
	}
	if len(last.Words) == 0 {
		return label{}
	}
	t := clean(last.Text())
	if t == "" {
		return label{}
	}
	return label{where: above, raw: last.Text(), text: t, rect: last.Rect}
}

// lineBefore reads the line of a paragraph that stands right above one.
func (f *finder) lineBefore(of evidence.Line) (evidence.Line, bool) {
	for _, l := range f.lines {
		if gap := l.Base - of.Base; gap > 2 && gap < 1.6*of.Size && math.Abs(l.Rect.X0-of.Rect.X0) < 6 {
			return l, true
		}
	}
	return evidence.Line{}, false
}

// goesOn tells whether a line without a letter is the end of a paragraph of words.
func (f *finder) goesOn(of evidence.Line) bool {
	before, ok := f.lineBefore(of)
	return ok && !numbering(before.Text()) && len(before.Words) >= 3
}

// aboveOf finds the words above a candidate: right above it, or over blank cells
// at the head of its column. Stacked lines are read together.
func (f *finder) aboveOf(c candidate) (label, float64) {
	x := geom.Rect{X0: c.area.X0, X1: c.area.X1}
	top := c.rect.Y1
	var stack []evidence.Line
	for _, l := range slices.Backward(f.lines) { // from the bottom up
		if l.Rect.Y0 < top-1.5 || l.Rect.OverlapX(x) < 0.35*math.Min(l.Rect.W(), x.W()) {
			continue
		}
		if n := len(stack); n > 0 {
			if l.Base-stack[n-1].Base > labelLeading*math.Max(l.Size, 7) || n >= 3 || l.Size > 1.35*stack[n-1].Size ||
				l.Rect.X1 > math.Max(x.X1, stack[n-1].Rect.X1)+wideOver {
				break // too far, the heading of a section, or words over more than this place
			}
			if l.Base-stack[n-1].Base < 2 {
				stack[n-1].Words = append(slices.Clone(stack[n-1].Words), l.Words...)
				continue
			}
		} else if l.Rect.Y0-top > 260 {
			break
		}
		stack = append(stack, l)
	}
	if len(stack) == 0 {
		return label{}, 0
	}
	d := stack[0].Rect.Y0 - top
	if d > 26 && !f.columnUp(c, stack[0].Rect.Y0) {
		return label{}, 0
	}
	where := above
	if d > 14 {
		where = header
	}
	if where == above && len(stack) > 1 && stack[0].Rect.W() > 1.6*x.W() {
		stack = stack[:1] // a paragraph runs above, only its last line is near
	}
	var parts []string
	for _, l := range slices.Backward(stack) {
		parts = append(parts, l.Text())
	}
	raw := strings.Join(parts, " ")
	t := clean(raw)
	if t == "" {
		return label{}, 0
	}
	wide, around := 0.0, stack[0].Rect
	for _, l := range stack {
		wide = math.Max(wide, l.Rect.W())
		around = around.Union(l.Rect)
	}
	return label{where: where, raw: raw, text: t, wide: wide, rect: around}, d
}

// wideOver is how far the lines of a label over its place go beyond it.
const wideOver = 30.0

// hundredths tells whether a narrow cell adjoins a wider one on its left that has
// the same bottom line: money is split so into whole and hundredths.
func (f *finder) hundredths(c candidate) bool {
	return c.rect.W() <= 30 && slices.ContainsFunc(f.cands, func(o candidate) bool {
		return math.Abs(o.rect.X1-c.rect.X0) < 2 && math.Abs(o.rect.Y0-c.rect.Y0) < 2 && o.rect.W() > 1.8*c.rect.W() &&
			o.kind == form.Text
	})
}

// columnUp tells whether candidates of the same column fill the way up to y.
func (f *finder) columnUp(c candidate, y float64) bool {
	apart := 0.0 // boxes to tick stand apart in their column
	if c.kind == form.CheckBox {
		apart = 30
	}
	at := c.area.Y1
	if at-c.rect.Y0 > 40 {
		at = c.rect.Y1
	}
	for range 60 {
		if y-at < 26 {
			return true
		}
		next := slices.IndexFunc(f.cands, func(o candidate) bool {
			return math.Abs(o.area.X0-c.area.X0) < 3 && math.Abs(o.area.X1-c.area.X1) < 3 && o.rect.Y0 >= at-2 && o.rect.Y0 < at+4+apart
		})
		if next < 0 {
			return false
		}
		at = math.Max(f.cands[next].area.Y1, at+4)
	}
	return false
}

// longestCaption is how many words a caption below a line has at most.
const longestCaption = 14

// belowOf finds a caption right below a line.
func (f *finder) belowOf(c candidate) (label, float64) {
	best := math.Inf(1)
	var found evidence.Line
	for _, l := range f.lines {
		d := c.rect.Y0 - l.Rect.Y1
		if d < -1 || d > 12 || l.Rect.OverlapX(c.rect) < 0.6*l.Rect.W() || l.Rect.W() > c.rect.W()+8 {
			continue
		}
		if d < best {
			best, found = d, l
		}
	}
	t := ""
	if len(found.Words) > 0 && !note(found.Text()) && len(found.Words) <= longestCaption {
		t = clean(found.Text())
	}
	if t == "" {
		return label{}, 0
	}
	return label{where: below, raw: found.Text(), text: t, rect: found.Rect}, best
}

// captionIn reads the words of a cell that stand above or before its blank part.
func (f *finder) captionIn(area geom.Rect, gap [2]float64, ceiling float64) string {
	var parts []string
	for _, l := range f.lines {
		m := l.Rect.Mid()
		if !area.Contains(m) {
			continue
		}
		before := l.Rect.X1 <= gap[0]+1 && l.Rect.Y0 < ceiling
		if l.Rect.Y0 >= ceiling-1 || before {
			parts = append(parts, l.Text())
		}
	}
	return strings.Join(parts, " ")
}

var (
	numberingOnly  = regexp.MustCompile(`^[(\[]?([0-9]{1,3}[a-z]?|[a-zA-Z])[)\].:]*$`)
	numberingFirst = regexp.MustCompile(`^[(\[]?([0-9]{1,3}[a-z]?|[a-z])[)\].:]*\s+`)
	trailing       = regexp.MustCompile(`[\s.…·_:►▶▸*]+$`)
	leaderRun      = regexp.MustCompile(`(\s*[.…·_]){3,}.*$`)
)

// numbering tells whether words are nothing but the number of a line or a mark.
func numbering(s string) bool {
	s = strings.TrimSpace(s)
	if numberingOnly.MatchString(s) {
		return true
	}
	return !strings.ContainsFunc(s, unicode.IsLetter)
}

// clean takes numbering, leaders, arrows, colons and what could not be read off a label.
func clean(s string) string {
	s = strings.Map(func(r rune) rune {
		if unicode.IsControl(r) || r >= 0xE000 && r <= 0xF8FF || strings.ContainsRune("►▶▸◄▲▼●■□☐○✓✔", r) {
			return ' '
		}
		return r
	}, s)
	said := slices.DeleteFunc(strings.Fields(s), func(w string) bool { return w == evidence.Unread })
	s = leaderRun.ReplaceAllString(strings.Join(said, " "), "")
	if t := numberingFirst.ReplaceAllString(s, ""); strings.ContainsFunc(t, unicode.IsLetter) {
		s = t
	}
	s = strings.TrimLeft(trailing.ReplaceAllString(s, ""), ",;. ")
	if !strings.ContainsFunc(s, unicode.IsLetter) {
		return ""
	}
	return s
}
