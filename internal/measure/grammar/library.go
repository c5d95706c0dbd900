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
