package detect

import (
	"cmp"
	"fmt"
	"math"
	"regexp"
	"slices"
	"strings"

	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
)

// Find is one proposed field of a page, in page space.
type Find struct {
	Kind      form.Kind
	Rect      geom.Rect
	Name      string // unique on its page
	Tooltip   string
	Label     string // the printed words
	Multiline bool
	Comb      int    // printed cells; 0 when it is not a comb
	Format    string // what the wording asks for: see formatOf
	// As is the format that leaves no doubt, to be set at once: with the order of dates and the signs that the page
	// suggests. Its kind is empty when there is doubt.
	As         form.Format
	Options    []form.Option // of a list, as the office says
	Group      string        // the question that radio buttons answer; buttons of one group share Name
	Export     string        // of a radio button
	Confidence float64
	Evidence   string

	label geom.Rect // around the printed words, upright; empty when they are not near
}

// Field makes a row for the draft of page n (from 1).
func (f Find) Field(n int) form.Field {
	maxLen := f.Comb
	if f.Kind == form.Text && !f.Multiline && maxLen == 0 && isInitials(f.Label) {
		maxLen = maxInitials
	}
	return form.Field{
		ID: form.NewID(), Page: n, Rect: f.Rect, Kind: f.Kind, Name: f.Name, Tooltip: f.Tooltip, Label: f.Label,
		Multiline: f.Multiline, Comb: f.Comb, MaxLen: maxLen, Export: f.Export,
		Format: f.As, Options: f.Options,
		Find: &form.Find{Confidence: f.Confidence, Evidence: f.Evidence, Looks: f.Format, Set: f.As},
	}
}

// candidate is an area to write in on its way to becoming a find.
type candidate struct {
	kind      form.Kind
	rect      geom.Rect // the shape of the field
	area      geom.Rect // the cell or line that it was made from
	how       source
	what      string // "cell 120 by 24 pt"
	score     float64
	caption   string // printed inside the area
	question  string // printed above it, however far
	multiline bool
	comb      int
	parts     int     // of a blank with strokes between, such as a date
	beside    bool    // the blank part of a cell or line that begins with words
	free      float64 // how high it is blank
	white     bool    // on a white area of a tinted form
	divider   bool    // a rule as wide as the text
	round     bool    // a circle, or round brackets
	table     *tableCell
}

// showFrom is the confidence below which a candidate is not even worth a look.
const showFrom = 0.4

type source int

const (
	fromCell   source = iota // closed on all sides
	fromColumn               // a cell that lacks a side
	fromRule                 // a line to write on
	fromLeader               // underscores or dots
	fromTick                 // a small box or circle
	fromWhite                // white on tinted ground
)

type finder struct {
	ev     *evidence.Page
	lines  []evidence.Line // without leaders and ticks
	ticks  []geom.Rect
	cands  []candidate
	whites []geom.Rect     // see whiteAreas
	walls  []evidence.Rule // uprights but for the sides of tick boxes
	ends   []blankEnd
	typed  []geom.Rect      // around typed combs
	side   map[source]place // see sideOfLabels
	spoken *string          // see language
	// formats are what labels ask for: the cells of a column have one label
	formats map[string]string

	columns [][2]float64 // from and to of the columns that captions make
	gap     float64      // between words, see wordGap; 0 is not measured
}

// Page finds the fields of one page, in reading order.
func Page(ev *evidence.Page) []Find {
	finder := examine(ev)
	found := finder.settle()
	toPage, _ := ev.ToPage()
	finds := make([]Find, 0, len(found))
	for _, i := range finder.order(found) {
		f := found[i]
		f.Rect = f.Rect.Apply(toPage).Rounded()
		finds = append(finds, f)
	}
	nameAll(finds)
	return finds
}

// examine gathers the candidates of a page.
func examine(ev *evidence.Page) *finder {
	ev = takeArrows(ev)
	f := &finder{ev: ev}
	for _, l := range ev.Lines {
		if len(l.Words) == 1 && (evidence.IsLeader(l.Words[0].Text) || evidence.IsTick(l.Words[0].Text)) {
			continue
		}
		f.lines = append(f.lines, l)
	}
	f.typedCombs()
	f.findTicks()
	f.splitLines()
	f.findSlots()
	f.findWhite()
	f.findTints()
	f.findLeaders()
	f.openTables()
	f.ruledRows()
	f.stackRules()
	f.tickCells()
	f.readArrows()
	f.judgeTables()
	for i, t := range f.findTables() {
		f.cands[i].table = &t
	}
	return f
}

// settle labels the candidates, keeps the best of those that overlap, and drops
// what is left without any sign of being a field.
func (f *finder) settle() []Find {
	var all []settled
	for _, c := range f.cands {
		if !f.offInk(&c) {
			continue
		}
		l := f.labelFor(c)
		conf := f.confidence(c, l)
		if l.where == none && (f.continued(c) || f.headUnread(c)) {
			conf = math.Max(conf, form.LikelyFrom+0.05)
		}
		all = append(all, settled{candidate: c, label: l, conf: conf, kind: c.kind})
	}
	for i, c := range all {
		if c.how == fromTick && c.label.where == none && slices.ContainsFunc(all, func(o settled) bool {
			return o.how == fromTick && o.rect != c.rect && o.rect.Intersect(c.rect.Inset(-4.5)).Area() > 0
		}) {
			all[i].conf = 0 // boxes that touch or almost do, and no words: part of a drawing
		} else if c.how == fromTick && c.label.where == none && likeBoxes(all, c.rect) >= 3 {
			all[i].conf += 0.2 // one of the boxes of this form, though it stands alone
		}
	}
	slices.SortStableFunc(all, func(a, b settled) int { return cmp.Compare(b.conf, a.conf) })
	var best []settled
	for _, c := range all {
		if c.conf < showFrom || c.rect.W() < form.MinSide || c.rect.H() < form.MinSide {
			continue
		}
		if slices.ContainsFunc(best, func(o settled) bool {
			common := o.rect.Intersect(c.rect).Area()
			return common > 0.3*math.Min(o.rect.Area(), c.rect.Area())
		}) {
			continue
		}
		best = append(best, c)
	}
	f.choices(best)
	out := make([]Find, 0, len(best))
	for _, c := range best {
		out = append(out, f.find(c))
	}
	f.tellApart(out)
	return out
}

// likeBoxes counts the boxes to tick of the size of one that have words.
func likeBoxes(all []settled, r geom.Rect) int {
	n := 0
	for _, o := range all {
		if o.how == fromTick && o.label.where != none && math.Abs(o.rect.W()-r.W()) < 0.6 && math.Abs(o.rect.H()-r.H()) < 0.6 {
			n++
		}
	}
	return n
}

// find makes a find of a settled candidate.
func (f *finder) find(c settled) Find {
	kind := c.kind
	if kind == form.Text && isSignature(c.label.text) && c.comb == 0 && c.how != fromWhite && c.rect.W() >= 60 {
		kind = form.Signature
		if c.how == fromRule { // a hand needs more room than a line of type
			c.rect.Y1 = c.rect.Y0 + math.Max(c.rect.H(), math.Min(24, c.free-1))
		}
	}
	find := Find{
		Kind: kind, Rect: c.rect.Rounded(), Label: c.label.text, Multiline: c.multiline, Comb: c.comb,
		Confidence: math.Round(c.conf*100) / 100, Evidence: c.evidence(c.label),
	}
	if c.label.where != header {
		find.label = c.label.rect
	}
	if kind == form.Text {
		find.Format = f.formatFor(c)
		if find.As = f.sureFormat(c, find); find.As.Kind != form.NoFormat {
			find.Evidence += "; " + saidFormat(find.As)
		}
	}
	find.Tooltip = tooltip(c.label)
	find.Name = nameFrom(c.label)
	if part := f.datePart(c.candidate); part != "" {
		find.Format = "" // a day alone is no date
		find.Name, find.Tooltip = find.Name+"_"+ascii(strings.ToLower(part)), find.Tooltip+", "+part
	}
	if kind == form.Radio {
		find.Group, find.Export = c.group, export(c.label.text)
		find.Name = strings.Join(significant(inBrackets.ReplaceAllString(c.group, ""), maxNameWords), "_")
		find.Tooltip = shorten(c.group, 180)
		find.Evidence += ", one answer to “" + shorten(c.group, 50) + "”"
	}
	return find
}

// inBrackets is an aside, such as how many answers are wanted.
var inBrackets = regexp.MustCompile(`\s*[(\[][^)\]]*[)\]]`)

// confidence weighs a candidate by what it is made from and how its label stands.
func (f *finder) confidence(c candidate, l label) float64 {
	v := c.score
	switch l.where {
	case none:
		v -= 0.45
	case left:
		if c.how == fromRule && !c.divider {
			v += 0.05 // words and then a line: there is no plainer request
		}
	case inside:
		v += 0.04
	case header:
		v -= 0.06
	case above, below:
		v -= 0.04
	}
	if c.divider && (l.where == above || l.where == below || l.where == header) {
		v -= 0.15 // as wide as the text, with words above or below: it parts them
	}
	if strings.HasSuffix(strings.TrimSpace(l.raw), ":") {
		v += 0.05
	}
	if f.ev.Ground != nil {
		v -= scanDoubt
		if c.comb > 0 && c.comb < 4 {
			v -= scanDoubt
		}
	}
	return math.Max(0, math.Min(v, 0.99))
}

// scanDoubt is how much less sure a find is on a scan, and once more when it is a comb of a few cells: they are easily made of strokes
// (measured on simulated scans).
const scanDoubt = 0.04

func (c candidate) evidence(l label) string {
	if l.where == none {
		return c.what + ", no label near it"
	}
	return fmt.Sprintf("%s, %s “%s”", c.what, l.where.words(), shorten(l.text, 60))
}

func shorten(s string, n int) string {
	r := []rune(s)
	if len(r) <= n {
		return s
	}
	return strings.TrimSpace(string(r[:n-1])) + "…"
}

func pt(v float64) string { return fmt.Sprintf("%.0f", v) }

// At gives the shape and the name that a field of a kind takes when it is placed
// at a point, in page space: those of the smallest writing area or tick box there. A line to
// write on counts up to its field's height above it. The bool is false when there
// is none.
func At(ev *evidence.Page, p geom.Point, kind form.Kind) (Find, bool) {
	f := examine(ev)
	toPage, fromPage := ev.ToPage()
	p = fromPage.Apply(p)
	best := -1
	for i, c := range f.cands {
		area := c.reach()
		if !area.Contains(p) || kind != form.CheckBox && kind != form.Radio && c.kind == form.CheckBox {
			continue
		}
		if best < 0 || area.Area() < f.cands[best].area.Union(f.cands[best].rect).Area() {
			best = i
		}
	}
	if best < 0 {
		return Find{}, false
	}
	c := f.cands[best]
	l := f.labelFor(c)
	find := Find{
		Kind: kind, Rect: c.rect, Label: l.text, Tooltip: tooltip(l), Name: nameFrom(l), Comb: c.comb, Multiline: c.multiline,
		Format: formatOf(l.text, c.table != nil), Evidence: c.evidence(l),
	}
	switch {
	case kind == form.CheckBox && c.kind != form.CheckBox:
		side := math.Min(10, c.rect.H())
		m := geom.Point{X: p.X, Y: c.rect.Mid().Y}
		find.Rect = geom.Rect{X0: m.X - side/2, Y0: m.Y - side/2, X1: m.X + side/2, Y1: m.Y + side/2}
	case kind == form.Signature:
		find.Rect.Y1 = find.Rect.Y0 + math.Max(c.rect.H(), math.Min(24, c.free-1))
	}
	find.Rect = find.Rect.Apply(toPage).Rounded()
	return find, true
}

// LabelOf gives the name and the tooltip of an area that is known to be a field: by
// the printed words beside it, above or below. The rectangle is in page space.
func LabelOf(ev *evidence.Page, r geom.Rect, kind form.Kind) Find {
	f := examine(ev)
	_, fromPage := ev.ToPage()
	r = r.Apply(fromPage)
	c := candidate{kind: form.Text, rect: r, area: r, how: fromRule}
	if kind == form.CheckBox || kind == form.Radio {
		c.kind, c.how = form.CheckBox, fromTick
	}
	f.lines = slices.DeleteFunc(f.lines, func(l evidence.Line) bool { return r.Inset(-1).Covers(l.Rect, 0) })
	l := f.labelFor(c)
	if before, dist, _ := f.leftOf(c); c.kind == form.CheckBox && before.where != none && dist < 12 &&
		strings.HasSuffix(strings.TrimSpace(before.raw), ":") {
		l = before // a question, and the box for yes
	}
	return Find{Kind: kind, Rect: r, Label: l.text, Tooltip: tooltip(l), Name: nameFrom(l)}
}

// Area is a place to write or to tick as it would be taken by a press: Hit is where to
// press, Rect the shape that the field takes. Both are in page space.
type Area struct {
	Hit, Rect geom.Rect
	Tick      bool
	Name      string
}

// reach is where a press means a candidate: small and low ones reach a little further.
func (c candidate) reach() geom.Rect {
	switch c.how {
	case fromRule, fromLeader, fromTick:
		return c.rect.Inset(-2)
	}
	return c.area.Union(c.rect).Inset(-1)
}

// Areas lists the places that [At] finds, the smallest first.
func Areas(ev *evidence.Page) []Area {
	f := examine(ev)
	toPage, _ := ev.ToPage()
	var out []Area
	for _, c := range f.cands {
		out = append(out, Area{
			Hit: c.reach().Apply(toPage).Rounded(), Rect: c.rect.Apply(toPage).Rounded(), Tick: c.kind == form.CheckBox,
			Name: nameFrom(f.labelFor(c)),
		})
	}
	slices.SortStableFunc(out, func(a, b Area) int { return cmp.Compare(a.Hit.Area(), b.Hit.Area()) })
	return out
}

// Cells gives the finds in a frame that was drawn across several empty cells, or across
// several boxes to tick: each named by its row and column. Nothing when the frame does not
// fit around two or more of them. The frame is in page space.
func Cells(ev *evidence.Page, frame geom.Rect, kind form.Kind) []Find {
	tick := kind == form.CheckBox || kind == form.Radio
	var out []Find
	var around geom.Rect
	for _, f := range Page(ev) {
		if !frame.Contains(f.Rect.Mid()) || tick != (f.Kind == form.CheckBox || f.Kind == form.Radio) || f.Kind == form.Signature ||
			f.Kind == form.Button {
			continue
		}
		if len(out) == 0 {
			around = f.Rect
		}
		around = around.Union(f.Rect)
		out = append(out, f)
	}
	if len(out) < 2 || around.IoU(frame) < 0.4 && !tick {
		return nil
	}
	return out
}
