package grammar

import (
	"fmt"
	"html"
	"strconv"
	"strings"
)

// papers are widths and heights in points.
var papers = map[string][2]float64{
	"A4": {595, 842}, "Letter": {612, 792}, "A5 landscape": {595, 420}, "A4 landscape": {842, 595}, "Legal": {612, 1008},
	"A4 turned": {595, 842},
}

// strokes are widths in points and colours.
var strokes = map[string]struct {
	width float64
	rgb   [3]int
}{
	"hairline grey": {0.25, [3]int{120, 120, 120}}, "fine black": {0.5, [3]int{0, 0, 0}}, "black": {1, [3]int{0, 0, 0}},
	"heavy": {1.75, [3]int{0, 0, 0}}, "blue": {0.75, [3]int{30, 70, 160}}, "light grey": {0.75, [3]int{190, 190, 190}},
}

// gaps are the points between rows.
var gaps = map[string]float64{"tight": 1, "snug": 3, "normal": 6, "roomy": 10, "wide": 16}

func hex(c [3]int) string { return fmt.Sprintf("#%02x%02x%02x", c[0], c[1], c[2]) }

// page writes a plan as HTML. With colours, every place to write has one of its own behind it.
type page struct {
	*plan
	strings.Builder
	twin bool
	size float64
	line string // of CSS, for a border
}

func (p *page) put(format string, args ...any) { fmt.Fprintf(p, format, args...) }

func esc(s string) string { return html.EscapeString(s) }

// place is the style of an element that is the place of a field.
func (p *page) place(id int) string {
	if !p.twin {
		return ""
	}
	return "background:" + hex(colourOf(id)) + " !important;"
}

// html writes a number of plans as one document, each beginning on a page of its own.
func htmlOf(plans []*plan, twin bool) string {
	var b strings.Builder
	b.WriteString(`<!doctype html><meta charset="utf-8"><style>` + sheetCSS)
	fmt.Fprintf(&b, "@font-face{font-family:round;src:url(%q)}\n", roundFile)
	for i, p := range plans {
		s := papers[p.at("paper")]
		fmt.Fprintf(&b, "@page p%d{size:%gpt %gpt;margin:%dpt}\n.p%d{page:p%d}\n", i, s[0], s[1], 34+8*(i%3), i, i)
	}
	b.WriteString("</style>")
	for i, p := range plans {
		w := &page{plan: p, twin: twin}
		w.size, _ = strconv.ParseFloat(p.at("size"), 64)
		s := strokes[p.at("stroke")]
		w.line = fmt.Sprintf("%gpt solid %s", s.width, hex(s.rgb))
		w.form(i)
		b.WriteString(w.String())
	}
	return b.String()
}

var typefaces = map[string]string{
	"sans": "DejaVu Sans", "serif": "DejaVu Serif", "typewriter": "DejaVu Sans Mono",
	"round": "round", "narrow": "DejaVu Sans Condensed",
}

// roundFile is the file of the typeface that the machine does not have, beside the HTML.
const roundFile = "round.ttf"

const sheetCSS = `
*{box-sizing:border-box;-webkit-print-color-adjust:exact;print-color-adjust:exact}
body{margin:0} section{break-before:page} section:first-of-type{break-before:auto}
h1{font-size:1.6em;margin:0 0 .5em} p{margin:.3em 0}
.row{display:flex;align-items:flex-end;gap:4pt;min-width:0} .row>.l{flex:none;max-width:70%} .row>.m{flex:1;min-width:30pt}
.stop>.l{width:40%} .ragged>.l{width:40%;text-align:right}
.col{display:flex;flex-direction:column;min-width:0}
.cap{font-size:.75em;line-height:1.25}
.g{color:#999;white-space:nowrap;overflow:hidden}
table{border-collapse:collapse;width:100%} td,th{padding:1pt 3pt;text-align:left;vertical-align:top}
`

func (p *page) form(i int) {
	mark := ""
	if p.twin {
		mark = "background:" + hex(startColour)
	}
	p.put(`<section class="p%d" lang="%s" style="font:%gpt/1.3 %s"><div style="height:3pt;width:30pt;%s"></div>`, i, p.words.locale, p.size,
		typefaces[p.at("typeface")], mark)
	open := 0
	for _, b := range p.blocks {
		if b.column != open {
			switch {
			case open == 0:
				p.put(`<div style="display:flex;gap:22pt"><div style="flex:1;min-width:0">`)
			case b.column == 2:
				p.put(`</div><div style="flex:1.1;min-width:0;padding-top:%gpt">`, 4+gaps[p.at("spacing")]/3)
			default:
				p.put(`</div></div>`)
			}
			open = b.column
		}
		p.block(b)
	}
	if open != 0 {
		p.put(`</div></div>`)
	}
	p.put("</section>\n")
}

func (p *page) block(b block) {
	gap := gaps[p.at("spacing")]
	switch b.kind {
	case "title":
		p.put(`<h1>%s</h1>`, esc(b.text))
	case "prose":
		p.put(`<p>%s</p>`, esc(b.text))
	case "head":
		p.head(b.text)
	case "fields", "combs", "long":
		p.fields(b)
	case "ticks":
		p.ticks(b)
	case "table":
		p.table(b.table)
	case "signing":
		p.put(`<div style="display:flex;gap:30pt;margin-top:%gpt">`, 22+gap)
		for _, it := range b.items {
			p.put(`<div style="flex:1"><div style="height:15pt;%sborder-bottom:.6pt solid #000"></div><div class="cap">%s</div></div>`,
				p.place(it.id), esc(it.label))
		}
		p.put(`</div>`)
	default:
		p.distract(b.kind)
	}
}

func (p *page) head(s string) {
	style := map[string]string{
		"bold": "font-weight:bold", "tinted bar": "background:#dde5ee;padding:2pt 4pt;font-weight:bold",
		"reversed bar": "background:#223a5c;color:#fff;padding:2pt 4pt", "rule below": "border-bottom:.75pt solid #000",
		"thick rule above": "border-top:2.5pt solid #000;padding-top:2pt;font-weight:bold", "numbered": "font-weight:bold",
		"framed": "border:.75pt solid #000;padding:2pt 4pt;text-align:center",
	}[p.at("head")]
	if p.at("head") == "numbered" {
		s = strconv.Itoa(1+len(s)%4) + ". " + s
	}
	p.put(`<div style="font-size:1.1em;margin:%gpt 0 %gpt;%s">%s</div>`, 8+gaps[p.at("spacing")]/2, 3+gaps[p.at("spacing")]/2, style, esc(s))
}

// grid is the CSS of the columns.
func (p *plan) grid() string {
	switch p.at("columns") {
	case "two by rows":
		return "1fr 1fr"
	case "three by rows":
		return "1fr 1fr 1fr"
	case "wide and narrow":
		return "2fr 1fr"
	}
	return "1fr"
}

func (p *page) fields(b block) {
	gap := gaps[p.at("spacing")]
	grid, inside := p.grid(), p.at("label") == "inside"
	if b.kind != "fields" {
		grid, inside = "1fr", false
	}
	joined := inside && p.at("mark") != "tint" && p.at("mark") != "white on tint" // cells of one frame
	style := fmt.Sprintf("display:grid;grid-template-columns:%s;row-gap:%gpt;column-gap:14pt;margin-top:%gpt", grid, gap+2, gap)
	if joined {
		style = fmt.Sprintf("display:grid;grid-template-columns:%s;gap:0;margin-top:%gpt", grid, gap+2)
	}
	if p.at("mark") == "white on tint" && b.kind != "combs" {
		style += ";background:#e3e9e2;padding:5pt"
	}
	if p.at("mark") == "ruled rows" && b.kind == "fields" {
		style = fmt.Sprintf("display:grid;grid-template-columns:%s;row-gap:0;column-gap:14pt;margin-top:%gpt", grid, gap)
	}
	p.put(`<div style="%s">`, style)
	for _, it := range b.items {
		switch {
		case b.kind == "combs":
			p.labelled(it, func() { p.comb(it) })
		case b.kind == "long":
			p.put(`<div class="col"><div>%s</div>`, esc(it.label))
			p.mark(it)
			p.put(`</div>`)
		case inside:
			p.captioned(it, joined)
		case p.at("mark") == "ruled rows":
			rule := strings.Replace(p.line, "solid", []string{"solid", "dotted", "dashed"}[len(p.words.locale+p.at("size"))%3], 1)
			p.put(`<div class="row stop" style="align-items:center;min-height:%gpt;border-bottom:%s"><span class="l">%s%s</span>`+
				`<span class="m" style="align-self:stretch;%s"></span></div>`, p.size*1.3+gap+3, rule, esc(it.label), p.colon(), p.place(it.id))
		default:
			p.labelled(it, func() { p.mark(it) })
		}
	}
	p.put(`</div>`)
}

// colon says whether labels end in one: those at the left do in half of the forms.
func (p *plan) colon() string {
	if l := p.at("label"); strings.HasPrefix(l, "left") && (len(p.at("typeface"))+len(p.at("head")))%2 == 0 ||
		p.at("mark") == "ruled rows" {
		return ":"
	}
	return ""
}

func (p *page) text(it item) string {
	s := esc(it.label) + p.colon()
	if it.hint != "" {
		s = esc(it.label) + " " + esc(it.hint) + p.colon()
	}
	return s
}

// labelled sets a label where the form sets it.
func (p *page) labelled(it item, mark func()) {
	unit := func() {
		if it.unit != "" {
			p.put(`<span>%s</span>`, it.unit)
		}
	}
	small := ""
	if it.below != "" {
		small = `<div class="cap">` + esc(it.below) + `</div>`
	}
	switch l := p.at("label"); l {
	case "above", "inside":
		p.put(`<div class="col"><div>%s</div><div class="row">`, p.text(it))
		mark()
		unit()
		p.put(`</div>%s</div>`, small)
	case "below":
		p.put(`<div class="col"><div class="row">`)
		mark()
		unit()
		p.put(`</div><div class="cap">%s</div></div>`, p.text(it))
	default:
		class := map[string]string{"left": "row", "left at a stop": "row stop", "left, ragged": "row ragged"}[l]
		p.put(`<div><div class="%s"><span class="l">%s</span>`, class, p.text(it))
		mark()
		unit()
		p.put(`</div>%s</div>`, small)
	}
}

// captioned is a cell with its caption in small print at the top.
func (p *page) captioned(it item, joined bool) {
	border := ""
	switch m := p.at("mark"); m {
	case "rule", "dotted rule", "dashed rule": // only a bottom line
		border = fmt.Sprintf("border-bottom:%s;", strings.Replace(p.line, "solid", map[string]string{
			"rule": "solid", "dotted rule": "dotted", "dashed rule": "dashed",
		}[m], 1))
	case "tint", "white on tint", "tint and rule":
		border = p.border(m)
	default:
		border = p.border(m)
		if joined && (m == "box" || m == "double box" || m == "rounded box") {
			border = "border:" + p.line + ";margin:0 -0.5pt -0.5pt 0;"
		}
	}
	p.put(`<div class="col" style="%s"><div class="cap" style="padding:1pt 2pt 0">%s</div>`, border, p.text(it))
	p.put(`<div class="g" style="height:%gpt;padding:0 3pt;%s">%s</div></div>`, p.size*1.35+2, p.place(it.id), esc(it.guide))
}

// border is the CSS of a mark.
func (p *page) border(mark string) string {
	solid := func(to string) string { return strings.Replace(p.line, "solid", to, 1) }
	switch mark {
	case "rule":
		return "border-bottom:" + p.line + ";"
	case "dotted rule":
		return "border-bottom:" + solid("dotted") + ";"
	case "dashed rule":
		return "border-bottom:" + solid("dashed") + ";"
	case "rounded box":
		return "border:" + p.line + ";border-radius:4pt;"
	case "double box":
		return "border:2.2pt double " + hex(strokes[p.at("stroke")].rgb) + ";"
	case "bevel":
		return "border:1.5pt inset #bbb;"
	case "ridge":
		return "border:2.2pt ridge #bbb;"
	case "tint":
		return "background:#e6ecf3;"
	case "tint and rule":
		return "background:#eef1f4;border-bottom:" + p.line + ";"
	case "white on tint":
		return "background:#fff;"
	}
	return "border:" + p.line + ";"
}

// mark is what says: write here.
func (p *page) mark(it item) {
	height := p.size*1.3 + 3
	m := p.at("mark")
	switch m {
	case "typed dots", "underscores":
		char, wide := "_", 0.56
		if m == "typed dots" {
			char, wide = ".", 0.36
		}
		if p.at("typeface") == "typewriter" {
			wide = 0.62
		}
		n := int(p.room() / (wide * p.size))
		for i := range it.lines {
			if i > 0 {
				p.put("<br>")
			}
			p.put(`<span style="%swhite-space:nowrap">%s</span>`, p.place(it.id), strings.Repeat(char, max(8, n)))
			if i == 0 && it.lines > 1 {
				n = int((p.width() - 20) / (wide * p.size))
			}
		}
		return
	case "ruled rows":
		m = "rule"
	}
	if it.lines > 1 {
		switch m {
		case "rule", "dotted rule", "dashed rule": // lines to write on
			p.put(`<div style="%s">`, p.place(it.id))
			for range it.lines {
				p.put(`<div style="height:%gpt;%s"></div>`, height+3, p.border(m))
			}
			p.put(`</div>`)
			return
		}
		height = float64(it.lines) * (height + 3)
	}
	p.put(`<span class="m g" style="height:%gpt;line-height:%gpt;padding:0 3pt;%s%s">%s</span>`, height, height-1, p.border(m), p.place(it.id), esc(it.guide))
}

// width is that of the form's text, and room what is left beside a label.
func (p *plan) width() float64 { return papers[p.at("paper")][0] - 100 }

func (p *plan) room() float64 {
	w := p.width()
	switch p.at("columns") {
	case "two by rows", "two by columns":
		w = w/2 - 14
	case "three by rows", "wide and narrow":
		w = w/3 - 14
	}
	if strings.HasPrefix(p.at("label"), "left") {
		size, _ := strconv.ParseFloat(p.at("size"), 64)
		w = max(w*0.55, w-22*size) - 12
		if w < 60 || strings.Contains(p.at("label"), ",") || strings.Contains(p.at("label"), "stop") {
			w = max(40, min(w, 0.5*p.width()))
		}
	}
	return w - 20
}

// comb is a row of cells.
func (p *page) comb(it item) {
	side := p.size*1.25 + 3
	kind := p.at("comb")
	s := strokes[p.at("stroke")]
	solid := fmt.Sprintf("%gpt solid %s", s.width, hex(s.rgb))
	if kind == "typed" {
		p.put(`<span style="white-space:nowrap;%s">|`, p.place(it.id))
		for _, n := range it.comb {
			p.WriteString(strings.Repeat("__|", n))
		}
		p.put(`</span>`)
		return
	}
	outer := "display:inline-flex;align-items:flex-end;"
	if it.parts == nil {
		outer += p.place(it.id)
	}
	p.put(`<span style="%s">`, outer)
	for g, n := range it.comb {
		if g > 0 {
			switch p.at("comb group") {
			case "gap":
				p.put(`<span style="width:7pt"></span>`)
			case "stroke":
				p.put(`<span style="width:7pt;text-align:center">/</span>`)
			case "stop":
				p.put(`<span style="width:7pt;text-align:center">.</span>`)
			}
		}
		if it.parts != nil {
			p.put(`<span style="display:inline-flex;%s">`, p.place(it.parts[g]))
		}
		for i := range n {
			style := fmt.Sprintf("width:%gpt;height:%gpt;", side, side+2)
			first, last := i == 0, i == n-1
			switch kind {
			case "boxes":
				style += "border:" + solid + ";"
				if !first {
					style += "border-left:0;"
				}
			case "apart":
				style += "border:" + solid + ";margin-right:2.5pt;"
			case "dashed":
				style += "border:" + strings.Replace(solid, "solid", "dashed", 1) + ";"
				if !first {
					style += "border-left:0;"
				}
			case "dots":
				style += "border:" + strings.Replace(solid, "solid", "dotted", 1) + ";"
				if !first {
					style += "border-left:0;"
				}
			case "ticks", "tall ticks":
				style += "border-bottom:" + solid + ";position:relative;"
			}
			if p.at("comb group") == "heavy line" && last && g < len(it.comb)-1 && kind != "ticks" && kind != "tall ticks" {
				style += "border-right:2pt solid " + hex(s.rgb) + ";"
			}
			p.put(`<span style="%s">`, style)
			if kind == "ticks" || kind == "tall ticks" {
				tall := 5.0
				if kind == "tall ticks" && (i == 0) {
					tall = 10
				}
				p.put(`<i style="position:absolute;left:0;bottom:0;height:%gpt;border-left:%s"></i>`, tall, solid)
				if last {
					p.put(`<i style="position:absolute;right:0;bottom:0;height:%gpt;border-left:%s"></i>`, tall, solid)
				}
			}
			p.put(`</span>`)
		}
		if it.parts != nil {
			p.put(`</span>`)
		}
	}
	p.put(`</span>`)
}

// box draws a box to tick.
func (p *page) box(id int) {
	side := p.size * 0.95
	style := fmt.Sprintf("display:inline-block;vertical-align:-1pt;width:%gpt;height:%gpt;%s", side, side, p.place(id))
	switch p.at("tick") {
	case "square":
		style += "border:.75pt solid #000"
	case "rounded":
		style += "border:.75pt solid #333;border-radius:2pt"
	case "circle":
		style += "border:.75pt solid #000;border-radius:50%"
	case "heavy":
		style += "border:1.8pt solid #000"
	case "coloured":
		style += "border:1pt solid #b03a2e"
	case "bevel":
		style += "border:1.5pt inset #999"
	case "several shapes":
		style += "border:.5pt solid #777;border-radius:50%;background:#ccc;padding:1pt"
		p.put(`<span style="%s"><i style="display:block;width:100%%;height:100%%;border-radius:50%%;background:#fff;border:.4pt solid #999"></i></span>`, style)
		return
	case "cell":
		style += "border:.5pt solid #000;width:" + fmt.Sprint(side*1.6) + "pt;height:" + fmt.Sprint(side*1.25) + "pt"
	case "glyph":
		p.put(`<span style="font-family:DejaVu Sans;line-height:1;%s">☐</span>`, p.place(id))
		return
	case "brackets":
		p.put(`<span style="white-space:pre;line-height:1;%s">[  ]</span>`, p.place(id))
		return
	}
	p.put(`<span style="%s"></span>`, style)
}

func (p *page) ticks(b block) {
	p.put(`<div style="margin-top:%gpt">`, gaps[p.at("spacing")]+3)
	stacked := strings.Contains(p.at("tick place"), "stacked")
	if p.at("tick place") == "beside the question" {
		p.put(`<div style="display:flex;flex-wrap:wrap;gap:2pt 14pt;justify-content:space-between"><span>%s</span><span style="white-space:nowrap">`, esc(b.text))
	} else {
		p.put(`<div>%s</div><div style="display:flex;gap:3pt 16pt;flex-wrap:wrap;%s">`, esc(b.text),
			map[bool]string{true: "flex-direction:column", false: ""}[stacked])
	}
	for _, c := range b.ticks {
		p.put(`<span style="white-space:nowrap;margin-right:8pt">`)
		if strings.HasPrefix(p.at("tick place"), "after") {
			p.put(`%s `, esc(c.text))
			p.box(c.id)
		} else {
			p.box(c.id)
			p.put(` %s`, esc(c.text))
		}
		p.put(`</span>`)
	}
	p.put(`</div></div>`)
	if p.at("tick place") == "beside the question" {
		p.put(`</div>`)
	}
}

func (p *page) table(t *table) {
	kind := p.at("table")
	cellStyle := map[string]string{
		"grid": "border:" + p.line, "row heads and total": "border:" + p.line, "rows only": "border-bottom:" + p.line, "zebra": "",
		"uprights only": "border-left:" + p.line + ";border-right:" + p.line,
	}[kind]
	head := map[string]string{
		"plain": "", "tinted": "background:#dfe6ee", "reversed": "background:#2b2b2b;color:#fff",
		"small":      "font-size:.8em;font-weight:normal",
		"with units": "",
	}[p.at("table head")]
	p.put(`<div style="break-inside:avoid"><div style="margin-top:%gpt"><b>%s</b></div><table style="margin-top:2pt;%s"><tr>`, 6+gaps[p.at("spacing")], esc(t.title),
		map[bool]string{true: "border-bottom:" + p.line, false: ""}[kind == "uprights only" || kind == "zebra"])
	for _, h := range t.heads {
		p.put(`<th style="%s;%s">%s</th>`, cellStyle, head, esc(h))
	}
	p.put(`</tr>`)
	for r, row := range t.rows {
		tint := ""
		if kind == "zebra" && r%2 == 0 {
			tint = "background:#ebeff2;"
		}
		height := p.size*1.3 + 4 + gaps[p.at("spacing")]/3
		if t.tall {
			height *= 4
		}
		p.put(`<tr style="height:%gpt">`, height)
		for _, c := range row {
			if c.id < 0 {
				p.put(`<td style="%s">%s</td>`, cellStyle, esc(c.text))
				continue
			}
			p.put(`<td style="%s%s;%s"></td>`, tint, cellStyle, p.place(c.id))
		}
		p.put(`</tr>`)
	}
	p.put(`</table></div>`)
}
