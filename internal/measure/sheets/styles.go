package sheets

import (
	"fmt"
	"math"
	"strings"

	"zealousmargin.example/internal/form"
)

// style is a way of drawing forms.
type style struct {
	name string
	held bool
	make func(lang *language) *pen
}

const (
	a4w, a4h = 595.28, 841.89
	ltw, lth = 612.0, 792.0
)

// All draws every style, in the languages that it is drawn in.
func All() ([]Sheet, error) {
	var out []Sheet
	for _, s := range styles {
		for _, tag := range tagsOf(s.name) {
			p := s.make(languages[tag])
			sheet, err := p.done(s.name + "/" + tag)
			if err != nil {
				return nil, err
			}
			sheet.Held = s.held
			out = append(out, sheet)
		}
	}
	return out, nil
}

// tagsOf spreads the languages over the styles: English always, two others each.
func tagsOf(name string) []string {
	all := []string{"de", "fr", "es", "it", "nl", "pl", "pt", "sv"}
	n := 0
	for _, c := range name {
		n = (n*31 + int(c)) % 9973
	}
	return []string{"en", all[n%8], all[(n+3)%8]}
}

var styles = []style{
	{"rules-right", false, rulesRight},
	{"captions-below", false, captionsBelow},
	{"cells-inside", false, cellsInside},
	{"boxes-above", false, boxesAbove},
	{"underscores", false, underscores},
	{"leaders", false, leaders},
	{"combs", false, combs},
	{"table", false, table},
	{"tinted", false, tinted},
	{"choices-boxes", false, choicesBoxes},
	{"choices-brackets", false, choicesBrackets},
	{"multi-rules", false, multiRules},
	{"money", false, money},
	{"landscape-zebra", false, landscapeZebra},
	{"hairlines", false, hairlines},
	{"labels-left-boxes", true, labelsLeftBoxes},
	{"ticked-lines", true, tickedLines},
	{"two-columns", true, twoColumns},
	{"circles", true, circles},
	{"dashes", true, dashes},
}

// onRule draws a rule with a field sitting on it.
func (p *pen) onRule(f field, x, y, w float64) {
	p.Line(x, y, x+w, y)
	h := math.Max(11, math.Min(18, p.size*1.3))
	if f.kind == form.Signature {
		h = 24
	}
	p.want(f.truth(), x, y-h, w, h)
}

func (p *pen) closing(y float64) {
	p.onRule(p.lang.signature(), margin, y, 220)
	p.text(margin, y+9, 7.5, "", p.lang.sign)
	p.onRule(field{label: p.lang.date, format: "date"}, margin+280, y, 120)
	p.text(margin+280, y+9, 7.5, "", p.lang.date)
	p.foot()
}

func rulesRight(l *language) *pen {
	p := newPen(a4w, a4h, "Times", 10.5, l)
	p.title(l.title)
	y := 104.0
	for _, f := range l.fields {
		p.text(margin, y, p.size, "", f.label+":")
		p.onRule(f, 190, y+2, p.w-margin-190)
		y += 25
	}
	y = p.paragraph(margin, y, p.w-2*margin, 9, 2)
	p.closing(math.Min(y+60, p.h-80))
	return p
}

func captionsBelow(l *language) *pen {
	p := newPen(ltw, lth, "Helvetica", 9, l)
	p.title(l.title)
	y := 120.0
	for i := 0; i+1 < len(l.fields) && y < 560; i += 2 {
		half := (p.w - 2*margin - 24) / 2
		for k, f := range l.fields[i : i+2] {
			x := margin + float64(k)*(half+24)
			p.onRule(f, x, y, half)
			p.text(x, y+9, 7.5, "", f.label)
		}
		y += 38
	}
	p.paragraph(margin, y, p.w-2*margin, 8.5, 1)
	p.closing(p.h - 90)
	return p
}

// cell draws a cell with its caption in the upper left corner.
func (p *pen) cell(f field, x, y, w, h float64) {
	p.Rect(x, y, w, h, "D")
	p.text(x+3, y+8.5, 6.8, "", f.label)
	p.want(f.truth(), x, y+h-13, w, 13)
}

func cellsInside(l *language) *pen {
	p := newPen(a4w, a4h, "Helvetica", 9, l)
	p.title(l.title)
	y := 90.0
	widths := [][]float64{{0.6, 0.4}, {0.5, 0.2, 0.3}, {1}, {0.33, 0.33, 0.34}, {0.25, 0.75}}
	i := 0
	for r := 0; i < len(l.fields); r++ {
		x := margin
		for _, share := range widths[r%len(widths)] {
			if i >= len(l.fields) {
				break
			}
			w := share * (p.w - 2*margin)
			p.cell(l.fields[i], x, y, w, 28)
			x += w
			i++
		}
		y += 28
	}
	p.Rect(margin, y, p.w-2*margin, 90, "D")
	p.text(margin+3, y+8.5, 6.8, "", l.remarks)
	p.want(Truth{Kind: form.Text, Words: l.remarks, Multiline: true}, margin, y+11, p.w-2*margin, 79)
	p.closing(p.h - 90)
	return p
}

func boxesAbove(l *language) *pen {
	p := newPen(a4w, a4h, "Helvetica", 9, l)
	p.title(l.title)
	y := 96.0
	half := (p.w - 2*margin - 20) / 2
	for i, f := range l.fields {
		x := margin
		if i%2 == 1 {
			x += half + 20
		}
		p.text(x, y, 8.5, "", f.label)
		p.Rect(x, y+4, half, 17, "D")
		p.want(f.truth(), x, y+4, half, 17)
		if i%2 == 1 {
			y += 36
		}
	}
	y += 40
	p.text(margin, y, 8.5, "", l.remarks)
	p.Rect(margin, y+4, p.w-2*margin, 80, "D")
	p.want(Truth{Kind: form.Text, Words: l.remarks, Multiline: true}, margin, y+4, p.w-2*margin, 80)
	p.closing(p.h - 80)
	return p
}

func underscores(l *language) *pen {
	p := newPen(a4w, a4h, "Helvetica", 10, l)
	p.title(l.title)
	y := 104.0
	for i, f := range l.fields {
		x := p.text(margin, y, p.size, "", f.label+" ")
		n := 44 - i%3*12
		line := strings.Repeat("_", n)
		p.font("", p.size)
		w := p.GetStringWidth(line)
		p.Text(x, y, line)
		p.want(f.truth(), x, y-11, w, 13)
		y += 24
	}
	p.paragraph(margin, y+10, p.w-2*margin, 9, 2)
	p.foot()
	return p
}

func leaders(l *language) *pen {
	p := newPen(a4w, a4h, "Times", 11, l)
	p.title(l.title)
	y := 108.0
	for _, f := range l.fields {
		x := p.text(margin, y, p.size, "", f.label+" ")
		p.font("", p.size)
		dot := p.GetStringWidth(".")
		n := int((p.w - margin - x) / dot)
		p.Text(x, y, strings.Repeat(".", n))
		p.want(f.truth(), x, y-12, float64(n)*dot, 14)
		y += 25
	}
	p.paragraph(margin, y+8, p.w-2*margin, 9, 1)
	p.foot()
	return p
}

// comb draws a row of squares.
func (p *pen) comb(f field, x, y, side float64, n int) {
	for i := range n {
		p.Rect(x+float64(i)*side, y, side, side*1.15, "D")
	}
	t := f.truth()
	t.Comb = n
	p.want(t, x, y, float64(n)*side, side*1.15)
}

func combs(l *language) *pen {
	p := newPen(a4w, a4h, "Helvetica", 9.5, l)
	p.title(l.title)
	y := 100.0
	for i, f := range l.fields {
		p.text(margin, y+13, p.size, "", f.label)
		p.comb(f, 200, y, 15, []int{8, 12, 20, 5, 10}[i%5])
		y += 29
	}
	p.foot()
	return p
}

func table(l *language) *pen {
	p := newPen(a4w, a4h, "Helvetica", 9, l)
	p.title(l.title)
	y := p.paragraph(margin, 80, p.w-2*margin, 9, 1) + 12
	cols := l.fields[:4]
	w := (p.w - 2*margin - 30) / 4
	p.SetFillColor(225, 225, 225)
	p.Rect(margin, y, 30, 18, "FD")
	for i, c := range cols {
		p.Rect(margin+30+float64(i)*w, y, w, 18, "FD")
		p.text(margin+34+float64(i)*w, y+12, 7.5, "B", c.label)
	}
	y += 18
	for r := range 9 {
		p.Rect(margin, y, 30, 20, "D")
		p.text(margin+10, y+13, 8.5, "", fmt.Sprint(r+1))
		for i, c := range cols {
			x := margin + 30 + float64(i)*w
			p.Rect(x, y, w, 20, "D")
			t := c.truth()
			p.want(t, x, y+5, w, 15)
		}
		y += 20
	}
	y += 26
	p.priceTable(y)
	p.closing(p.h - 90)
	return p
}

// priceTable is printed full: nothing to fill in.
func (p *pen) priceTable(y float64) {
	rows := [][]string{{"6 m", "11.00", "190.00"}, {"9 m", "16.50", "285.00"}, {"12 m", "23.00", "395.00"}, {"15 m", "31.00", "540.00"}}
	for _, row := range rows {
		for i, s := range row {
			p.Rect(margin+float64(i)*90, y, 90, 16, "D")
			p.text(margin+6+float64(i)*90, y+11.5, 8.5, "", s)
		}
		y += 16
	}
}

func tinted(l *language) *pen {
	p := newPen(a4w, a4h, "Helvetica", 9, l)
	p.SetFillColor(222, 234, 230)
	p.Rect(0, 0, p.w, p.h, "F")
	p.title(l.title)
	p.SetFillColor(255, 255, 255)
	y := 94.0
	half := (p.w - 2*margin - 20) / 2
	for i, f := range l.fields {
		x := margin
		if i%2 == 1 {
			x += half + 20
		}
		p.text(x, y, 8, "", f.label)
		p.Rect(x, y+3, half, 17, "F")
		p.want(f.truth(), x, y+3, half, 17)
		if i%2 == 1 {
			y += 34
		}
	}
	y += 44
	x := p.text(margin, y, 9, "", l.question)
	for _, s := range []string{l.yes, l.no} {
		x += 16
		p.Rect(x, y-8.5, 10, 10, "F")
		p.want(Truth{Kind: form.Radio, Words: s, Group: l.question}, x, y-8.5, 10, 10)
		x = p.text(x+14, y, 9, "", s)
	}
	p.foot()
	return p
}

func (p *pen) option(kind form.Kind, s, group string, x, y, side float64, round bool) float64 {
	if round {
		p.Circle(x+side/2, y-side/2+1, side/2, "D")
	} else {
		p.Rect(x, y-side+1, side, side, "D")
	}
	p.want(Truth{Kind: kind, Words: s, Group: group}, x, y-side+1, side, side)
	return p.text(x+side+4, y, p.size, "", s) + 18
}

func choicesBoxes(l *language) *pen {
	p := newPen(a4w, a4h, "Helvetica", 10, l)
	p.title(l.title)
	y := 110.0
	for range 2 {
		p.text(margin, y, p.size, "", l.choose)
		y += 17
		x := margin + 12
		for _, o := range l.options {
			x = p.option(form.Radio, o, l.choose, x, y, 9.5, false)
		}
		y += 28
		p.text(margin, y, p.size, "", l.tick)
		for _, o := range l.ticks {
			y += 17
			p.option(form.CheckBox, o, "", margin+12, y, 9.5, false)
		}
		y += 30
		x = math.Max(300, p.text(margin, y, p.size, "", l.question)+20)
		x = p.option(form.Radio, l.yes, l.question, x, y, 9.5, false)
		p.option(form.Radio, l.no, l.question, x, y, 9.5, false)
		y += 34
		for _, f := range l.fields[:2] {
			p.text(margin, y, p.size, "", f.label)
			p.onRule(f, 190, y+2, 200)
			y += 26
		}
		y += 10
	}
	p.closing(p.h - 80)
	return p
}

func circles(l *language) *pen {
	p := newPen(ltw, lth, "Times", 11, l)
	p.title(l.title)
	y := 110.0
	for _, f := range l.fields[:4] {
		p.text(margin, y, p.size, "", f.label)
		p.onRule(f, 200, y+2, 250)
		y += 26
	}
	y += 10
	p.text(margin, y, p.size, "B", l.choose)
	for _, o := range l.options {
		y += 18
		p.option(form.Radio, o, l.choose, margin+16, y, 10, true)
	}
	y += 30
	x := p.text(margin, y, p.size, "", l.question) + 24
	x = p.option(form.Radio, l.yes, l.question, x, y, 10, true)
	p.option(form.Radio, l.no, l.question, x, y, 10, true)
	p.paragraph(margin, y+30, p.w-2*margin, 10, 3)
	p.closing(p.h - 90)
	return p
}

func choicesBrackets(l *language) *pen {
	p := newPen(a4w, a4h, "Courier", 10, l)
	p.title(l.title)
	y := 110.0
	p.text(margin, y, p.size, "", l.tick)
	for _, o := range l.ticks {
		y += 18
		p.font("", p.size)
		w := p.GetStringWidth("[ ]")
		p.Text(margin+10, y, "[ ]")
		p.want(Truth{Kind: form.CheckBox, Words: o}, margin+10, y-8.5, w, 10.5)
		p.text(margin+18+w, y, p.size, "", o)
	}
	y += 34
	p.text(margin, y, p.size, "", l.choose)
	for _, o := range l.options {
		y += 18
		p.font("", p.size)
		w := p.GetStringWidth("( )")
		p.Text(margin+10, y, "( )")
		p.want(Truth{Kind: form.Radio, Words: o, Group: l.choose}, margin+10, y-8.5, w, 10.5)
		p.text(margin+18+w, y, p.size, "", o)
	}
	y += 40
	for _, f := range l.fields[:6] {
		x := p.text(margin, y, p.size, "", f.label+": ")
		line := strings.Repeat("_", 30)
		p.font("", p.size)
		p.Text(x, y, line)
		p.want(f.truth(), x, y-11, p.GetStringWidth(line), 13)
		y += 26
	}
	p.foot()
	return p
}

func multiRules(l *language) *pen {
	p := newPen(a4w, a4h, "Times", 10.5, l)
	p.title(l.title)
	y := 108.0
	for _, f := range l.fields[:5] {
		p.text(margin, y, p.size, "", f.label)
		p.onRule(f, 180, y+2, p.w-margin-180)
		y += 25
	}
	for k := range 2 {
		y += 16
		label := l.remarks
		if k == 1 {
			label = l.question
		}
		p.text(margin, y, p.size, "", label)
		top := y + 4
		for range 4 {
			y += 21
			p.Line(margin, y, p.w-margin, y)
		}
		p.want(Truth{Kind: form.Text, Words: label, Multiline: true}, margin, top+2, p.w-2*margin, y-top-2)
		y += 14
	}
	p.paragraph(margin, y+8, p.w-2*margin, 9, 2)
	p.closing(p.h - 90)
	return p
}

func money(l *language) *pen {
	p := newPen(ltw, lth, "Helvetica", 9, l)
	p.title(l.title)
	y := 96.0
	right := p.w - margin
	p.Line(right-110, y, right-110, y+14*22)
	p.Line(right-30, y, right-30, y+14*22)
	p.Line(right, y, right, y+14*22)
	for i := range 14 {
		f := l.fields[i%len(l.fields)]
		p.text(margin, y+15, p.size, "", fmt.Sprintf("%d", i+1))
		x := p.text(margin+18, y+15, p.size, "", f.label)
		p.font("", p.size)
		n := int((right - 116 - x - 6) / p.GetStringWidth(" ."))
		p.Text(x+4, y+15, strings.Repeat(" .", max(0, n)))
		p.Line(right-110, y+22, right, y+22)
		t := f.truth()
		p.want(t, right-110, y+22-13, 80, 13)
		t.Words += " hundredths"
		p.want(t, right-30, y+22-13, 30, 13)
		y += 22
	}
	p.paragraph(margin, y+30, p.w-2*margin, 9, 2)
	p.foot()
	return p
}

func landscapeZebra(l *language) *pen {
	p := newPen(a4h, a4w, "Helvetica", 9, l)
	p.title(l.title)
	y := 92.0
	cols := l.fields[:6]
	w := (p.w - 2*margin) / 6
	for i, c := range cols {
		p.text(margin+float64(i)*w+3, y, 7.5, "B", c.label)
	}
	p.Line(margin, y+5, p.w-margin, y+5)
	y += 5
	for r := range 14 {
		if r%2 == 1 {
			p.SetFillColor(238, 240, 238)
			p.Rect(margin, y, p.w-2*margin, 24, "F")
		}
		p.Line(margin, y+24, p.w-margin, y+24)
		for i, c := range cols {
			x := margin + float64(i)*w
			p.want(c.truth(), x, y+9, w, 15)
		}
		for i := range 7 {
			x := margin + float64(i)*w
			p.Line(x, y, x, y+24)
		}
		y += 24
	}
	p.foot()
	return p
}
