package grammar

import (
	"bytes"
	"context"
	"slices"
	"strconv"
	"strings"

	"codeberg.org/go-pdf/fpdf"
	"github.com/pdfcpu/pdfcpu/pkg/api"
	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/model"
	"golang.org/x/image/font/gofont/gomedium"
	"golang.org/x/image/font/gofont/gomono"
	"golang.org/x/image/font/gofont/goregular"

	"zealousmargin.example/internal/geom"
)

// sheet draws a plan with a PDF library, at places of its own reckoning, in points from the upper left.
type sheet struct {
	*fpdf.Fpdf
	*plan
	w, h   float64 // as seen
	turned bool
	x, y   float64 // of the column, and where the next thing goes
	wide   float64 // of the column
	size   float64
	gap    float64
	stop   float64 // where the places of ruled rows begin
	at     map[int]area
	core   func(string) string // for the typefaces without Unicode
	rgb    [3]int
	thick  float64
}

const sheetMargin = 46.0

// coreFaces are those every reader has (ISO 32000-1, 9.6.2.2); they write Latin-1 only.
var coreFaces = map[string]string{"sans": "Helvetica", "serif": "Times", "typewriter": "Courier"}

func fromLibrary(_ context.Context, _ string, plans []*plan) ([]Form, error) {
	var out []Form
	for _, p := range plans {
		s := newSheet(p)
		for i := 0; i < len(p.blocks); i++ {
			if p.blocks[i].column == 0 {
				s.block(p.blocks[i])
				continue
			}
			i = s.columns(i)
		}
		if s.turned {
			s.TransformEnd()
		}
		var b bytes.Buffer
		if err := s.Output(&b); err != nil {
			return nil, err
		}
		pdf := b.Bytes()
		if s.turned {
			var turned bytes.Buffer
			if err := api.Rotate(bytes.NewReader(pdf), &turned, 90, nil, model.NewDefaultConfiguration()); err != nil {
				return nil, err
			}
			pdf = turned.Bytes()
		}
		f, err := p.form(pdf, s.at, 1)
		if err != nil {
			return nil, err
		}
		out = append(out, f)
	}
	return out, nil
}

func newSheet(p *plan) *sheet {
	paper := papers[p.at("paper")]
	s := &sheet{plan: p, w: paper[0], h: paper[1], turned: p.at("paper") == "A4 turned", at: map[int]area{}, gap: gaps[p.at("spacing")]}
	if s.turned {
		s.w, s.h = s.h, s.w
	}
	s.Fpdf = fpdf.NewCustom(&fpdf.InitType{OrientationStr: "P", UnitStr: "pt", Size: fpdf.SizeType{Wd: paper[0], Ht: paper[1]}})
	s.core = s.UnicodeTranslatorFromDescriptor("")
	s.SetAutoPageBreak(false, 0)
	s.AddUTF8FontFromBytes("round", "", goregular.TTF)
	s.AddUTF8FontFromBytes("narrow", "", gomedium.TTF)
	s.AddUTF8FontFromBytes("go mono", "", gomono.TTF)
	s.size, _ = strconv.ParseFloat(p.at("size"), 64)
	st := strokes[p.at("stroke")]
	s.rgb, s.thick = st.rgb, st.width
	s.x, s.wide = sheetMargin, s.w-2*sheetMargin
	s.newPage()
	return s
}

func (s *sheet) newPage() {
	if s.PageNo() > 0 && s.turned {
		s.TransformEnd()
	}
	s.AddPage()
	if s.turned { // the page lies on its side in the file: what is drawn is turned with it
		s.TransformBegin()
		s.TransformRotate(90, 0, 0)
		s.TransformTranslate(-s.w, 0)
	}
	s.y = sheetMargin
}

// room makes sure that so many points are left on the page.
func (s *sheet) room(points float64) {
	if s.y+points > s.h-sheetMargin {
		s.newPage()
	}
}

func (s *sheet) font(style string, size float64) {
	face := s.plan.at("typeface")
	if core, ok := coreFaces[face]; ok && !slices.Contains([]string{"pl", "el", "uk"}, s.words.locale) {
		s.SetFont(core, style, size)
		return
	}
	switch face {
	case "typewriter":
		face = "go mono"
	case "sans", "serif":
		face = "round"
	}
	s.SetFont(face, "", size)
}

func (s *sheet) code(t string) string {
	if _, ok := coreFaces[s.plan.at("typeface")]; ok && !slices.Contains([]string{"pl", "el", "uk"}, s.words.locale) {
		return s.core(t)
	}
	return t
}

func (s *sheet) width(t, style string, size float64) float64 {
	s.font(style, size)
	return s.GetStringWidth(s.code(t))
}

// say writes at a baseline and gives where it ends.
func (s *sheet) say(x, base, size float64, style, t string) float64 {
	s.font(style, size)
	s.Text(x, base, s.code(t))
	return x + s.GetStringWidth(s.code(t))
}

// lines breaks words to a width.
func (s *sheet) lines(t string, size, width float64) []string {
	var out []string
	line := ""
	for _, w := range strings.Fields(t) {
		if line != "" && s.width(line+" "+w, "", size) > width {
			out, line = append(out, line), w
			continue
		}
		line = strings.TrimSpace(line + " " + w)
	}
	return append(out, line)
}

// prose writes a paragraph below y and gives the y below it.
func (s *sheet) prose(x, y, width, size float64, t string) float64 {
	for _, l := range s.lines(t, size, width) {
		y += 1.3 * size
		s.say(x, y-0.3*size, size, "", l)
	}
	return y + 3
}

// put notes the place of a field; y is its top.
func (s *sheet) put(id int, x, y, w, h float64) {
	r := inPage(x, y, w, h, s.h)
	if s.turned { // a quarter clockwise undoes it
		r = geom.R(s.h-r.Y1, r.X0, s.h-r.Y0, r.X1)
	}
	if a, there := s.at[id]; there && a.page == s.PageNo() {
		r = r.Union(a.rect)
	}
	s.at[id] = area{s.PageNo(), r}
}

func (s *sheet) pen() {
	s.SetDrawColor(s.rgb[0], s.rgb[1], s.rgb[2])
	s.SetLineWidth(s.thick)
	s.SetDashPattern(nil, 0)
}

func (s *sheet) black(w float64) {
	s.SetDrawColor(0, 0, 0)
	s.SetLineWidth(w)
	s.SetDashPattern(nil, 0)
}

func (s *sheet) tint(r, g, b int, x, y, w, h float64) {
	s.SetFillColor(r, g, b)
	s.Rect(x, y, w, h, "F")
}

// columns draws the blocks of two columns beside each other, from the i-th on, and gives the last.
func (s *sheet) columns(i int) int {
	x, wide, top, page := s.x, s.wide, s.y, s.PageNo()
	s.wide = wide/2 - 12
	low := top
	for c := 1; c <= 2; c++ {
		s.x, s.y = x+float64(c-1)*(s.wide+24), top+float64(c-1)*4
		for ; i < len(s.blocks) && s.blocks[i].column == c; i++ {
			s.block(s.blocks[i])
			if s.PageNo() != page { // the rest goes on below each other
				page, top = s.PageNo(), sheetMargin
			}
		}
		low = max(low, s.y)
	}
	s.x, s.wide, s.y = x, wide, low
	return i - 1
}

func (s *sheet) block(b block) {
	switch b.kind {
	case "title":
		s.y += 1.8 * s.size
		s.say(s.x, s.y, 1.6*s.size, "B", b.text)
		s.y += 8
	case "prose":
		s.y = s.prose(s.x, s.y, s.wide, s.size, b.text)
	case "head":
		s.head(b.text)
	case "fields":
		s.fields(b)
	case "combs":
		for _, it := range b.items {
			s.room(3 * s.size)
			s.y += s.gap + 4
			s.comb(it)
		}
	case "long":
		s.long(b.items[0])
	case "ticks":
		s.ticks(b)
	case "table":
		s.table(b.table)
	case "signing":
		s.room(60)
		s.y += 34 + s.gap
		each := (s.wide - 30) / 2
		for i, it := range b.items {
			x := s.x + float64(i)*(each+30)
			s.black(0.6)
			s.Line(x, s.y, x+each, s.y)
			s.put(it.id, x, s.y-15, each, 15)
			s.say(x, s.y+0.9*s.size, 0.75*s.size, "", it.label)
		}
		s.y += 1.4 * s.size
	default:
		s.distract(b.kind)
	}
}

func (s *sheet) head(t string) {
	size := 1.1 * s.size
	s.room(5 * size)
	s.y += 8 + s.gap/2
	bar := size*1.5 + 2
	base := s.y + 0.72*bar
	s.black(0.75)
	x := s.x
	switch s.plan.at("head") {
	case "tinted bar":
		s.tint(221, 229, 238, s.x, s.y, s.wide, bar)
		x += 4
	case "reversed bar":
		s.tint(34, 58, 92, s.x, s.y, s.wide, bar)
		s.SetTextColor(255, 255, 255)
		x += 4
	case "rule below":
		s.Line(s.x, s.y+bar, s.x+s.wide, s.y+bar)
	case "thick rule above":
		s.SetLineWidth(2.5)
		s.Line(s.x, s.y, s.x+s.wide, s.y)
	case "framed":
		s.Rect(s.x, s.y, s.wide, bar, "D")
		x += (s.wide - s.width(t, "B", size)) / 2
	case "numbered":
		t = strconv.Itoa(1+len(t)%4) + ". " + t
	}
	s.say(x, base, size, "B", t)
	s.SetTextColor(0, 0, 0)
	s.y += bar + 3 + s.gap/2
}

// shares are the columns of fields: where each begins and how wide it is.
func (s *sheet) shares() [][2]float64 {
	const gutter = 14.0
	parts := map[string][]float64{
		"two by rows": {1, 1}, "three by rows": {1, 1, 1}, "wide and narrow": {2, 1},
	}[s.plan.at("columns")]
	if parts == nil {
		return [][2]float64{{s.x, s.wide}}
	}
	sum := 0.0
	for _, p := range parts {
		sum += p
	}
	free := s.wide - gutter*float64(len(parts)-1)
	x := s.x
	var out [][2]float64
	for _, p := range parts {
		out = append(out, [2]float64{x, free * p / sum})
		x += free*p/sum + gutter
	}
	return out
}

func (s *sheet) fields(b block) {
	shares := s.shares()
	onTint := s.plan.at("mark") == "white on tint"
	for row := range slices.Chunk(b.items, len(shares)) {
		s.room(s.size*5 + s.gap + 8)
		deepest := 1
		if l := s.plan.at("label"); strings.HasPrefix(l, "left") && (l != "left" || s.plan.at("mark") == "ruled rows") {
			for i, it := range row {
				deepest = max(deepest, len(s.lines(it.label+" "+it.hint+s.colon(), s.size, max(0.42*shares[i][1]-5, 20))))
			}
		}
		s.y += float64(deepest-1) * 1.05 * s.size
		top := s.y
		s.stop = 0
		for _, it := range b.items {
			s.stop = max(s.stop, shares[0][0]+min(0.42*shares[0][1], s.width(it.label+s.colon(), "", s.size))+6)
		}
		if onTint {
			s.tint(227, 233, 226, s.x-4, top, s.wide+8, s.rowHeight())
		}
		for i, it := range row {
			s.y = top
			s.field(it, shares[i][0], shares[i][1])
		}
		s.y = top + s.rowHeight()
	}
	s.y += 4
}

func (s *sheet) rowHeight() float64 {
	switch s.plan.at("label") {
	case "above":
		return 2.7*s.size + 5 + s.gap
	case "below":
		return 2.4*s.size + 5 + s.gap
	case "inside":
		return 2.3*s.size + 4
	}
	if s.plan.at("guide") == "small print below" && s.plan.at("mark") != "ruled rows" {
		return 2.5*s.size + 4 + s.gap
	}
	return 1.4*s.size + 5 + s.gap
}

// field draws one with its label, at s.y and below.
func (s *sheet) field(it item, x, w float64) {
	line := s.size*1.3 + 3
	text := it.label
	if it.hint != "" {
		text += " " + it.hint
	}
	text += s.colon()
	if it.unit != "" {
		w -= 3*s.size + 2
		defer func(y float64) { s.say(x+w+3, y, s.size, "", it.unit) }(s.y + s.unitBase(line))
	}
	switch s.plan.at("label") {
	case "above":
		s.say(x, s.y+s.size, s.size, "", text)
		s.mark(it, x, s.y+1.3*s.size, w, line)
	case "below":
		s.mark(it, x, s.y+1, w, line)
		s.say(x, s.y+line+1.1*s.size, 0.78*s.size, "", text)
	case "inside":
		s.inside(it, text, x, w)
	default:
		from := x + s.width(text, "", s.size) + 5
		if l := s.plan.at("label"); l != "left" || s.plan.at("mark") == "ruled rows" {
			from = x + 0.42*w
		}
		words := s.lines(text, s.size, max(0.42*w-5, 20))
		if s.plan.at("label") == "left" && s.plan.at("mark") != "ruled rows" {
			words = []string{text}
			if from > x+0.75*w { // too long for one line
				words, from = s.lines(text, s.size, 0.6*w), x+0.65*w
			}
		}
		for i, l := range words {
			at := x
			if s.plan.at("label") == "left, ragged" {
				at = from - 5 - s.width(l, "", s.size)
			}
			base := s.y + line - 0.3*s.size - 1
			if s.plan.at("mark") == "ruled rows" {
				base = s.y + s.rowHeight() - 0.4*s.size - 2
			}
			s.say(at, base+float64(i-len(words)+1)*s.size*1.05, s.size, "", l)
		}
		if s.plan.at("mark") == "ruled rows" {
			s.pen()
			s.SetDashPattern(map[string][]float64{"dotted": {0.8, 1.8}, "dashed": {4, 3}}[s.ruledStyle()], 0)
			bottom := s.y + s.rowHeight() - 1
			s.Line(s.x, bottom, s.x+s.wide, bottom)
			s.put(it.id, s.stop, bottom-line, x+w-s.stop, line)
			return
		}
		s.mark(it, from, s.y, x+w-from, line)
		if it.below != "" {
			s.say(from, s.y+line+0.8*s.size, 0.7*s.size, "", it.below)
		}
	}
}

func (s *sheet) unitBase(line float64) float64 {
	if s.plan.at("label") == "above" {
		return 1.3*s.size + line - 0.3*s.size
	}
	return line - 0.3*s.size
}

func (p *plan) ruledStyle() string {
	return []string{"solid", "dotted", "dashed"}[len(p.words.locale+p.at("size"))%3]
}

// inside draws a cell with its caption.
func (s *sheet) inside(it item, text string, x, w float64) {
	h := s.rowHeight()
	cap := 0.72 * s.size
	switch m := s.plan.at("mark"); m {
	case "rule", "dotted rule", "dashed rule":
		s.pen()
		s.SetDashPattern(map[string][]float64{"dotted rule": {0.8, 1.8}, "dashed rule": {4, 3}}[m], 0)
		s.Line(x, s.y+h, x+w+14, s.y+h)
		s.SetDashPattern(nil, 0)
		s.Line(x, s.y+h-5, x, s.y+h) // only short ticks part the cells
		s.Line(x+w+14, s.y+h-5, x+w+14, s.y+h)
		x += 1
	default:
		s.frame(m, x, s.y+1, w, h-2)
	}
	s.say(x+2, s.y+cap+2, cap, "", text)
	s.put(it.id, x+1, s.y+cap+4, w-2, h-cap-5)
	s.guide(it, x+3, s.y+h-4)
}

func (s *sheet) guide(it item, x, base float64) {
	if it.guide == "" {
		return
	}
	s.SetTextColor(150, 150, 150)
	s.say(x, base, 0.9*s.size, "", it.guide)
	s.SetTextColor(0, 0, 0)
}

// frame draws the mark of a place that is closed on all sides, or tinted.
func (s *sheet) frame(mark string, x, y, w, h float64) {
	s.pen()
	switch mark {
	case "rounded box":
		s.RoundedRect(x, y, w, h, 4, "1234", "D")
	case "double box":
		s.Rect(x, y, w, h, "D")
		s.Rect(x+2, y+2, w-4, h-4, "D")
	case "bevel", "ridge":
		s.SetLineWidth(1.2)
		s.SetDrawColor(120, 120, 120)
		s.Line(x, y+h, x, y)
		s.Line(x, y, x+w, y)
		s.SetDrawColor(215, 215, 215)
		s.Line(x+w, y, x+w, y+h)
		s.Line(x+w, y+h, x, y+h)
		if mark == "ridge" {
			s.Line(x+1.2, y+h-1.2, x+1.2, y+1.2)
			s.Line(x+1.2, y+1.2, x+w-1.2, y+1.2)
			s.SetDrawColor(120, 120, 120)
			s.Line(x+w-1.2, y+1.2, x+w-1.2, y+h-1.2)
			s.Line(x+w-1.2, y+h-1.2, x+1.2, y+h-1.2)
		}
	case "tint":
		s.tint(230, 236, 243, x, y, w, h)
	case "tint and rule":
		s.tint(238, 241, 244, x, y, w, h)
		s.Line(x, y+h, x+w, y+h)
	case "white on tint":
		s.tint(255, 255, 255, x, y, w, h)
	default:
		s.Rect(x, y, w, h, "D")
	}
}

// mark draws what says: write here, h points high from y down.
func (s *sheet) mark(it item, x, y, w, h float64) {
	if w < 24 {
		w = 24
	}
	switch m := s.plan.at("mark"); m {
	case "rule", "dotted rule", "dashed rule", "ruled rows":
		s.pen()
		s.SetDashPattern(map[string][]float64{"dotted rule": {0.8, 1.8}, "dashed rule": {4, 3}}[m], 0)
		s.Line(x, y+h, x+w, y+h)
		s.SetDashPattern(nil, 0)
	case "typed dots", "underscores":
		c := map[string]string{"typed dots": ".", "underscores": "_"}[m]
		n := int(w / s.width(c, "", s.size))
		end := s.say(x, y+h-0.3*s.size-1, s.size, "", strings.Repeat(c, max(6, n)))
		w = end - x
	default:
		s.frame(m, x, y, w, h)
		s.guide(it, x+3, y+h-0.35*s.size)
	}
	s.put(it.id, x, y, w, h)
}

func (s *sheet) long(it item) {
	line := s.size*1.3 + 5
	s.room(float64(it.lines+2) * line)
	s.y += s.gap + 1.4*s.size
	s.say(s.x, s.y, s.size, "", it.label)
	s.y += 3
	switch m := s.plan.at("mark"); m {
	case "rule", "dotted rule", "dashed rule", "ruled rows", "typed dots", "underscores":
		for range it.lines {
			s.mark(it, s.x, s.y, s.wide, line)
			s.y += line
		}
	default:
		if m == "white on tint" {
			s.tint(227, 233, 226, s.x-4, s.y, s.wide+8, float64(it.lines)*line+8)
		}
		s.frame(m, s.x, s.y+4, s.wide, float64(it.lines)*line)
		s.put(it.id, s.x, s.y+4, s.wide, float64(it.lines)*line)
		s.y += float64(it.lines)*line + 8
	}
}

// comb is a row of cells with a label where the form sets it.
func (s *sheet) comb(it item) {
	side := 1.25*s.size + 4
	x, y := s.x, s.y
	switch l := s.plan.at("label"); l {
	case "above", "inside", "below":
		s.say(x, y+s.size, s.size, "", it.label)
		y += 1.4 * s.size
	default:
		x = s.say(x, y+side-0.3*s.size, s.size, "", it.label+s.colon()) + 6
	}
	from := x
	for g, n := range it.comb {
		if g > 0 {
			switch s.plan.at("comb group") {
			case "gap":
				x += 7
			case "stroke":
				s.say(x+2, y+side-3, s.size, "", "/")
				x += 8
			case "stop":
				s.say(x+2, y+side-3, s.size, "", ".")
				x += 8
			}
		}
		if g > 0 && s.plan.at("comb") == "apart" && s.plan.at("comb group") == "heavy line" {
			x += 3
		}
		begin := x
		x = s.cells(n, x, y, side, g < len(it.comb)-1)
		if it.parts != nil {
			s.put(it.parts[g], begin, y, x-begin, side)
		}
	}
	s.put(it.id, from, y, x-from, side)
	s.y = y + side + 2
}

// cells draws one group of a comb and gives where it ends.
func (s *sheet) cells(n int, x, y, side float64, more bool) float64 {
	s.pen()
	w := float64(n) * side
	kind := s.plan.at("comb")
	switch kind {
	case "typed":
		return s.say(x, y+side-4, s.size, "", "|"+strings.Repeat("__|", n))
	case "apart":
		for i := range n {
			s.Rect(x+float64(i)*(side+3), y, side, side, "D")
		}
		return x + float64(n)*(side+3) - 3
	case "ticks", "tall ticks":
		s.Line(x, y+side, x+w, y+side)
		for i := range n + 1 {
			tall := 5.0
			if kind == "tall ticks" && (i == 0 || i == n) {
				tall = 10
			}
			s.Line(x+float64(i)*side, y+side, x+float64(i)*side, y+side-tall)
		}
	case "dots", "dashed":
		s.SetDashPattern(map[string][]float64{"dots": {0.7, 1.7}, "dashed": {2.5, 2}}[kind], 0)
		s.Rect(x, y, w, side, "D")
		for i := 1; i < n; i++ {
			s.Line(x+float64(i)*side, y, x+float64(i)*side, y+side)
		}
	default:
		for i := range n {
			s.Rect(x+float64(i)*side, y, side, side, "D")
		}
	}
	s.SetDashPattern(nil, 0)
	if more && s.plan.at("comb group") == "heavy line" {
		s.SetLineWidth(2)
		s.Line(x+w, y, x+w, y+side)
	}
	return x + w
}

// box draws a box to tick with its foot on a baseline and gives where it ends.
func (s *sheet) box(id int, x, base float64) float64 {
	side := 0.95 * s.size
	y := base - side + 1
	s.black(0.75)
	w, h := side, side
	switch s.plan.at("tick") {
	case "rounded":
		s.RoundedRect(x, y, side, side, 2, "1234", "D")
	case "circle":
		s.Circle(x+side/2, y+side/2, side/2, "D")
	case "heavy":
		s.SetLineWidth(1.8)
		s.Rect(x, y, side, side, "D")
	case "coloured":
		s.SetDrawColor(176, 58, 46)
		s.Rect(x, y, side, side, "D")
	case "bevel":
		s.SetDrawColor(110, 110, 110)
		s.Line(x, y+side, x, y)
		s.Line(x, y, x+side, y)
		s.SetDrawColor(200, 200, 200)
		s.Line(x+side, y, x+side, y+side)
		s.Line(x, y+side, x+side, y+side)
	case "several shapes":
		s.SetFillColor(200, 200, 200)
		s.Circle(x+side/2, y+side/2, side/2, "F")
		s.SetFillColor(255, 255, 255)
		s.Circle(x+side/2, y+side/2, side/2-1, "FD")
	case "brackets":
		end := s.say(x, base, s.size, "", "[  ]")
		s.put(id, x, base-s.size*0.8, end-x, s.size)
		return end
	case "cell":
		w, h = 1.6*side, 1.25*side
		s.Rect(x, y-0.25*side, w, h, "D")
		y -= 0.25 * side
	default:
		s.Rect(x, y, side, side, "D")
	}
	s.put(id, x, y, w, h)
	return x + w
}

func (s *sheet) ticks(b block) {
	line := 1.5*s.size + 2
	s.room(line * float64(len(b.ticks)+2))
	s.y += s.gap + 4 + s.size
	x := s.x
	place := s.plan.at("tick place")
	if place == "beside the question" {
		x = max(s.say(x, s.y, s.size, "", b.text)+14, s.x+0.45*s.wide)
		need := 0.0
		for _, c := range b.ticks {
			need += s.width(c.text, "", s.size) + 3*s.size + 8
		}
		if x+need > s.x+s.wide {
			s.y, x = s.y+line, s.x
		}
	} else {
		s.say(x, s.y, s.size, "", b.text)
		s.y += line
	}
	stacked := strings.Contains(place, "stacked")
	for _, c := range b.ticks {
		if !stacked && x > s.x && x+s.width(c.text, "", s.size)+3*s.size > s.x+s.wide {
			s.y, x = s.y+line, s.x
		}
		if strings.HasPrefix(place, "after") {
			x = s.box(c.id, s.say(x, s.y, s.size, "", c.text)+4, s.y)
		} else {
			x = s.say(s.box(c.id, x, s.y)+4, s.y, s.size, "", c.text)
		}
		x += 16
		if stacked {
			s.y, x = s.y+line, s.x
		}
	}
	if !stacked {
		s.y += 5
	}
}

func (s *sheet) table(t *table) {
	h := 1.3*s.size + 5 + s.gap/3
	s.room(h * float64(max(len(t.rows), 4)+2))
	s.y += 8 + s.gap + s.size
	s.say(s.x, s.y, s.size, "B", t.title)
	s.y += 4
	kind := s.plan.at("table")
	each := s.wide / float64(len(t.heads))
	size := s.size
	switch s.plan.at("table head") {
	case "tinted":
		s.tint(223, 230, 238, s.x, s.y, s.wide, h)
	case "reversed":
		s.tint(43, 43, 43, s.x, s.y, s.wide, h)
		s.SetTextColor(255, 255, 255)
	case "small":
		size *= 0.8
	}
	for c, head := range t.heads {
		s.say(s.x+float64(c)*each+3, s.y+h-0.4*s.size, size, "", head)
	}
	s.SetTextColor(0, 0, 0)
	s.pen()
	rule := func(y float64) {
		if kind != "zebra" && kind != "uprights only" {
			s.Line(s.x, y, s.x+s.wide, y)
		}
	}
	top := s.y
	if kind != "rows only" {
		rule(top)
	}
	s.y += h
	rule(s.y)
	if t.tall {
		h *= 4
	}
	for r, row := range t.rows {
		if kind == "zebra" && r%2 == 0 {
			s.tint(235, 239, 242, s.x, s.y, s.wide, h)
		}
		for c, f := range row {
			if f.id < 0 {
				s.say(s.x+float64(c)*each+3, s.y+h-0.4*s.size, s.size, "", f.text)
				continue
			}
			s.put(f.id, s.x+float64(c)*each, s.y, each, h)
		}
		s.y += h
		s.pen()
		rule(s.y)
	}
	if kind != "rows only" && kind != "zebra" {
		for c := range len(t.heads) + 1 {
			s.Line(s.x+float64(c)*each, top, s.x+float64(c)*each, s.y)
		}
		s.Line(s.x, s.y, s.x+s.wide, s.y)
	}
	if kind == "zebra" {
		s.Line(s.x, s.y, s.x+s.wide, s.y)
	}
	s.y += 4
}

// distract draws what is no field.
func (s *sheet) distract(kind string) {
	w := s.words
	switch kind {
	case "letterhead":
		s.say(s.x, s.y, s.size, "B", "Gannet Quay")
		s.say(s.x+s.wide-150, s.y, 0.75*s.size, "", "1 Slip Lane · gannetquay.example")
		s.black(1)
		s.Line(s.x, s.y+4, s.x+s.wide, s.y+4)
		s.y += 10
	case "page frame":
		s.black(1)
		s.Rect(26, 26, s.w-52, s.h-52, "D")
	case "filled table":
		s.room(90)
		s.y += 16
		s.say(s.x, s.y, s.size, "B", w.statistics)
		s.y += 4
		s.black(0.5)
		h := 1.6 * s.size
		each := s.wide / float64(len(w.months))
		for r := range 4 {
			for c, m := range w.months {
				s.Rect(s.x+float64(c)*each, s.y, each, h, "D")
				if r > 0 {
					m = figure(r, c)
				}
				s.say(s.x+float64(c)*each+4, s.y+h-0.4*s.size, 0.9*s.size, "", m)
			}
			s.y += h
		}
	case "note in a frame":
		s.room(90)
		s.y += 10
		top := s.y
		s.y = s.prose(s.x+6, s.y+3, s.wide-12, s.size, w.prose[0]) + 14
		s.black(0.75)
		s.Rect(s.x, top, s.wide, s.y-top, "D")
	case "price list":
		s.room(80)
		s.y += 8
		for i, r := range w.rows {
			s.y += 1.4 * s.size
			price := strconv.Itoa(12+7*i) + ",50"
			from, to := s.say(s.x, s.y, s.size, "", r)+2, s.x+s.wide-s.width(price, "", s.size)
			s.say(from, s.y, s.size, "", strings.Repeat(".", int((to-from)/s.width(".", "", s.size))))
			s.say(to, s.y, s.size, "", price)
		}
	case "small print":
		s.room(60)
		s.y += 12
		s.black(0.5)
		s.Line(s.x, s.y, s.x+s.wide, s.y)
		s.y = s.prose(s.x, s.y+2, s.wide, 0.75*s.size, strings.Join(w.prose, " "))
	case "chart":
		s.room(90)
		s.y += 70
		s.black(0.75)
		s.Line(s.x, s.y, s.x+180, s.y)
		s.Line(s.x, s.y-62, s.x, s.y)
		for i := range 6 {
			v := 12 + float64((i*37)%44)
			s.SetFillColor(150, 170, 190)
			s.Rect(s.x+6+28*float64(i), s.y-v, 18, v, []string{"F", "D"}[i%2])
		}
		s.y += s.size
		s.say(s.x, s.y, 0.75*s.size, "", w.statistics)
	case "letter":
		for _, l := range w.letters {
			s.y = s.prose(s.x, s.y+4, s.wide, s.size, l)
		}
	case "article":
		s.room(200)
		half := s.wide/2 - 10
		top := s.y + 8
		text := strings.Repeat(strings.Join(w.prose, " ")+" ", 2)
		a := s.prose(s.x, top, half, s.size, text)
		b := s.prose(s.x+half+20, top, half, s.size, text)
		s.y = max(a, b)
		s.black(0.5)
		s.Line(s.x+s.wide/2, top, s.x+s.wide/2, s.y)
	case "programme":
		for i, r := range w.rows {
			s.y += 1.5*s.size + 3
			s.say(s.x, s.y, s.size, "B", strconv.Itoa(9+i)+":"+[]string{"00", "15", "30", "45"}[i%4])
			s.say(s.x+50, s.y, s.size, "", r)
			s.black(0.4)
			s.Line(s.x, s.y+4, s.x+s.wide, s.y+4)
		}
	}
}
