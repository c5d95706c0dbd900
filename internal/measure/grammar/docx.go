package grammar

import (
	"archive/zip"
	"bytes"
	"encoding/xml"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"
)

// word writes a plan as a DOCX document (ISO/IEC 29500-1, WordprocessingML), the way people do in a word
// processor: with tables, tab stops, typed dots, borders of paragraphs and cells.
type word struct {
	*plan
	strings.Builder
	twin  bool
	size  float64
	inner float64 // width between the margins, in points
}

const docxMargin = 50.0

// twips are twentieths of a point, the measure of the format.
func twips(pt float64) int { return int(math.Round(20 * pt)) }

func xmlText(s string) string {
	var b bytes.Buffer
	if xml.EscapeText(&b, []byte(s)) != nil {
		return ""
	}
	return b.String()
}

// look is how a run of words looks.
type look struct {
	size   float64
	bold   bool
	colour string
	under  bool
	place  int // field whose place it is, from 1
	face   string
}

// run is words of one look; tabs are written \t.
func (w *word) run(s string, l look) string {
	var b strings.Builder
	size := w.size
	if l.size > 0 {
		size = l.size
	}
	face := typefaces[w.at("typeface")]
	if w.at("typeface") == "round" {
		face = "DejaVu Sans Light"
	}
	if l.face != "" {
		face = l.face
	}
	fmt.Fprintf(&b, `<w:r><w:rPr><w:rFonts w:ascii="%s" w:hAnsi="%[1]s" w:cs="%[1]s"/>`, face)
	if l.bold {
		b.WriteString(`<w:b/>`)
	}
	if l.colour != "" {
		fmt.Fprintf(&b, `<w:color w:val="%s"/>`, l.colour)
	}
	fmt.Fprintf(&b, `<w:sz w:val="%d"/>`, int(math.Round(2*size)))
	if l.under {
		b.WriteString(`<w:u w:val="single"/>`)
	}
	if l.place > 0 && w.twin {
		fmt.Fprintf(&b, `<w:shd w:val="clear" w:color="auto" w:fill="%s"/>`, fill(colourOf(l.place-1)))
	}
	b.WriteString(`</w:rPr>`)
	for i, part := range strings.Split(s, "\t") {
		if i > 0 {
			b.WriteString(`<w:tab/>`)
		}
		if part != "" {
			fmt.Fprintf(&b, `<w:t xml:space="preserve">%s</w:t>`, xmlText(part))
		}
	}
	b.WriteString(`</w:r>`)
	return b.String()
}

func fill(c [3]int) string { return strings.TrimPrefix(hex(c), "#") }

// para is a paragraph; props is the inside of its w:pPr.
func para(props string, runs ...string) string {
	return `<w:p><w:pPr>` + props + `</w:pPr>` + strings.Join(runs, "") + `</w:p>`
}

func space(before, after float64) string {
	return fmt.Sprintf(`<w:spacing w:before="%d" w:after="%d"/>`, twips(before), twips(after))
}

// edge is a border of a cell or paragraph.
func (w *word) edge(side, style string) string {
	s := strokes[w.at("stroke")]
	return fmt.Sprintf(`<w:%s w:val="%s" w:sz="%d" w:space="0" w:color="%s"/>`, side, style, max(2, int(math.Round(8*s.width))), fill(s.rgb))
}

// box is a cell of a table.
type box struct {
	width  float64 // points
	edges  string  // the inside of w:tcBorders
	tint   string
	place  int // field whose place the whole cell is, from 1
	height float64
	body   string
	span   int
	middle bool
}

func (w *word) tableOf(widths []float64, rows [][]box, height float64) string {
	var b strings.Builder
	b.WriteString(`<w:tbl><w:tblPr><w:tblW w:w="0" w:type="auto"/><w:tblLayout w:type="fixed"/>` +
		`<w:tblCellMar><w:left w:w="60" w:type="dxa"/><w:right w:w="60" w:type="dxa"/></w:tblCellMar></w:tblPr><w:tblGrid>`)
	for _, v := range widths {
		fmt.Fprintf(&b, `<w:gridCol w:w="%d"/>`, twips(v))
	}
	b.WriteString(`</w:tblGrid>`)
	for _, row := range rows {
		h := height
		for _, c := range row {
			h = max(h, c.height)
		}
		fmt.Fprintf(&b, `<w:tr><w:trPr><w:cantSplit/><w:trHeight w:val="%d" w:hRule="atLeast"/></w:trPr>`, twips(h))
		for _, c := range row {
			fmt.Fprintf(&b, `<w:tc><w:tcPr><w:tcW w:w="%d" w:type="dxa"/>`, twips(c.width))
			if c.span > 1 {
				fmt.Fprintf(&b, `<w:gridSpan w:val="%d"/>`, c.span)
			}
			if c.edges != "" {
				b.WriteString(`<w:tcBorders>` + c.edges + `</w:tcBorders>`)
			}
			switch {
			case c.place > 0 && w.twin:
				fmt.Fprintf(&b, `<w:shd w:val="clear" w:color="auto" w:fill="%s"/>`, fill(colourOf(c.place-1)))
			case c.tint != "":
				fmt.Fprintf(&b, `<w:shd w:val="clear" w:color="auto" w:fill="%s"/>`, c.tint)
			}
			if c.middle {
				b.WriteString(`<w:vAlign w:val="center"/>`)
			}
			body := c.body
			if body == "" {
				body = para(space(0, 0), w.run("", look{}))
			}
			b.WriteString(`</w:tcPr>` + body + `</w:tc>`)
		}
		b.WriteString(`</w:tr>`)
	}
	b.WriteString(`</w:tbl>`)
	// tables that follow each other would become one
	return b.String() + para(`<w:spacing w:before="0" w:after="0" w:line="40" w:lineRule="exact"/>`)
}

// docx is the whole document.
func (p *plan) docx(twin bool) ([]byte, error) {
	w := &word{plan: p, twin: twin}
	w.size, _ = strconv.ParseFloat(p.at("size"), 64)
	paper := papers[p.at("paper")]
	w.inner = paper[0] - 2*docxMargin
	mark := ""
	if twin {
		mark = fmt.Sprintf(`<w:shd w:val="clear" w:color="auto" w:fill="%s"/>`, fill(startColour))
	}
	w.WriteString(para(mark+`<w:spacing w:before="0" w:after="0" w:line="80" w:lineRule="exact"/>`, w.run(" ", look{size: 2})))
	w.body(p.blocks)
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for _, f := range []struct{ name, body string }{
		{"[Content_Types].xml", `<?xml version="1.0"?><Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types">` +
			`<Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/>` +
			`<Override PartName="/word/document.xml" ContentType="application/vnd.openxmlformats-officedocument.wordprocessingml.document.main+xml"/></Types>`},
		{"_rels/.rels", `<?xml version="1.0"?><Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships">` +
			`<Relationship Id="r1" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/officeDocument" Target="word/document.xml"/>` +
			`</Relationships>`},
		{"word/document.xml", `<?xml version="1.0"?><w:document xmlns:w="http://schemas.openxmlformats.org/wordprocessingml/2006/main"><w:body>` +
			w.String() + fmt.Sprintf(`<w:sectPr><w:pgSz w:w="%d" w:h="%d"/><w:pgMar w:top="%[3]d" w:right="%[3]d" w:bottom="%[3]d" w:left="%[3]d"`+
			` w:header="300" w:footer="300" w:gutter="0"/></w:sectPr>`, twips(paper[0]), twips(paper[1]), twips(docxMargin)) +
			`</w:body></w:document>`},
	} {
		out, err := z.Create(f.name)
		if err == nil {
			_, err = out.Write([]byte(f.body))
		}
		if err != nil {
			return nil, err
		}
	}
	if err := z.Close(); err != nil {
		return nil, err
	}
	return b.Bytes(), nil
}

// body writes blocks; two columns are the cells of a table without lines.
func (w *word) body(blocks []block) {
	for i := 0; i < len(blocks); i++ {
		if blocks[i].column == 0 {
			w.block(blocks[i])
			continue
		}
		whole, inner := w.String(), w.inner
		half := inner/2 - 1
		w.inner = half - 12
		var cells []box
		for c := 1; c <= 2; c++ {
			w.Reset()
			for ; i < len(blocks) && blocks[i].column == c; i++ {
				w.block(blocks[i])
			}
			cells = append(cells, box{width: half, body: w.String() + para(space(0, 0))})
		}
		i--
		w.Reset()
		w.inner = inner
		w.WriteString(whole)
		w.WriteString(w.tableOf([]float64{half, half}, [][]box{cells}, 10))
	}
}

func (w *word) block(b block) {
	gap := gaps[w.at("spacing")]
	switch b.kind {
	case "title":
		w.WriteString(para(space(0, 8), w.run(b.text, look{size: 1.6 * w.size, bold: true})))
	case "prose":
		w.WriteString(para(space(2, 4), w.run(b.text, look{})))
	case "head":
		w.head(b.text)
	case "fields":
		w.fields(b)
	case "combs":
		w.combs(b)
	case "long":
		it := b.items[0]
		w.WriteString(para(space(gap+4, 2), w.run(it.label, look{})))
		w.long(it)
	case "ticks":
		w.ticks(b)
	case "table":
		w.table(b.table)
	case "signing":
		w.WriteString(para(space(20+gap, 0)))
		each := (w.inner - 30) / 2
		var line, caption []box
		for i, it := range b.items {
			if i > 0 {
				line, caption = append(line, box{width: 30}), append(caption, box{width: 30})
			}
			line = append(line, box{width: each, place: it.id + 1, edges: `<w:bottom w:val="single" w:sz="4" w:space="0" w:color="000000"/>`})
			caption = append(caption, box{width: each, body: para(space(0, 0), w.run(it.label, look{size: 0.75 * w.size}))})
		}
		w.WriteString(w.tableOf([]float64{each, 30, each}, [][]box{line, caption}, 14))
	default:
		w.distract(b.kind)
	}
}

func (w *word) head(s string) {
	gap := gaps[w.at("spacing")]
	l := look{size: 1.1 * w.size, bold: true}
	props := space(8+gap/2, 3+gap/2)
	switch w.at("head") {
	case "tinted bar":
		props = `<w:shd w:val="clear" w:color="auto" w:fill="DDE5EE"/>` + props
	case "reversed bar":
		props, l.colour = `<w:shd w:val="clear" w:color="auto" w:fill="223A5C"/>`+props, "FFFFFF"
	case "rule below":
		props = `<w:pBdr><w:bottom w:val="single" w:sz="6" w:space="1" w:color="000000"/></w:pBdr>` + props
	case "thick rule above":
		props = `<w:pBdr><w:top w:val="single" w:sz="20" w:space="1" w:color="000000"/></w:pBdr>` + props
	case "framed":
		e := ""
		for _, side := range []string{"top", "left", "bottom", "right"} {
			e += fmt.Sprintf(`<w:%s w:val="single" w:sz="6" w:space="1" w:color="000000"/>`, side)
		}
		props = `<w:pBdr>` + e + `</w:pBdr>` + props
	case "numbered":
		s = strconv.Itoa(1+len(s)%4) + ". " + s
	}
	w.WriteString(para(props, w.run(s, l)))
}

func (w *word) table(t *table) {
	kind := w.at("table")
	each := w.inner / float64(len(t.heads))
	edges := map[string]string{
		"grid": w.grid4(), "row heads and total": w.grid4(), "rows only": w.edge("bottom", "single"),
		"uprights only": w.edge("left", "single") + w.edge("right", "single"),
	}[kind]
	l, tint := look{bold: true}, ""
	switch w.at("table head") {
	case "tinted":
		tint = "DFE6EE"
	case "reversed":
		tint, l.colour = "2B2B2B", "FFFFFF"
	case "small":
		l = look{size: 0.8 * w.size}
	}
	var heads []box
	var widths []float64
	for _, h := range t.heads {
		heads = append(heads, box{width: each, edges: edges, tint: tint, body: para(space(0, 0), w.run(h, l))})
		widths = append(widths, each)
	}
	rows := [][]box{heads}
	for r, row := range t.rows {
		var cells []box
		for _, c := range row {
			b := box{width: each, edges: edges, height: w.height() + gaps[w.at("spacing")]/3}
			if t.tall {
				b.height *= 4
			}
			if r == len(t.rows)-1 && (t.tall || kind == "zebra") {
				b.edges += w.edge("bottom", "single")
			}
			if kind == "zebra" && r%2 == 0 {
				b.tint = "EBEFF2"
			}
			if c.id < 0 {
				b.body = para(space(0, 0), w.run(c.text, look{}))
			} else {
				b.place = c.id + 1
			}
			cells = append(cells, b)
		}
		rows = append(rows, cells)
	}
	// A table stays on one page: on the next one nothing would tell its columns.
	title := para(space(6+gaps[w.at("spacing")], 2), w.run(t.title, look{bold: true}))
	w.WriteString(strings.ReplaceAll(title+w.tableOf(widths, rows, w.height()), "<w:pPr>", "<w:pPr><w:keepNext/>"))
}

func (w *word) grid4() string {
	return w.edge("top", "single") + w.edge("left", "single") + w.edge("bottom", "single") + w.edge("right", "single")
}

// distract writes what is no field.
func (w *word) distract(kind string) {
	black := func(sides ...string) string {
		e := ""
		for _, s := range sides {
			e += fmt.Sprintf(`<w:%s w:val="single" w:sz="6" w:space="3" w:color="000000"/>`, s)
		}
		return e
	}
	say := w.words
	switch kind {
	case "letterhead":
		w.WriteString(para(`<w:pBdr>`+black("bottom")+`</w:pBdr>`+space(0, 10)+w.stopAt(w.inner), w.run("Gannet Quay", look{bold: true}),
			w.run("\t1 Slip Lane · gannetquay.example", look{size: 0.75 * w.size})))
	case "page frame":
		w.WriteString(para(`<w:pBdr>`+black("top")+`</w:pBdr>`+space(0, 4), w.run(" ", look{size: 4})))
	case "filled table":
		each := w.inner / float64(len(say.months))
		edges := strings.ReplaceAll(black("top", "left", "bottom", "right"), `w:space="3"`, `w:space="0"`)
		var rows [][]box
		for r := range 4 {
			var row []box
			for c, m := range say.months {
				s := m
				if r > 0 {
					s = figure(r, c)
				}
				row = append(row, box{width: each, edges: edges, body: para(space(0, 0)+`<w:jc w:val="right"/>`, w.run(s, look{}))})
			}
			rows = append(rows, row)
		}
		w.WriteString(para(space(8, 2), w.run(say.statistics, look{bold: true})))
		w.WriteString(w.tableOf(slices.Repeat([]float64{each}, len(say.months)), rows, 12))
	case "note in a frame":
		w.WriteString(para(`<w:pBdr>`+black("top", "left", "bottom", "right")+`</w:pBdr>`+space(8, 8), w.run(say.prose[0], look{})))
	case "price list":
		for i, r := range say.rows {
			w.WriteString(para(space(1, 1)+fmt.Sprintf(`<w:tabs><w:tab w:val="right" w:leader="dot" w:pos="%d"/></w:tabs>`, twips(w.inner-4)),
				w.run(fmt.Sprintf("%s\t%d,50", r, 12+7*i), look{})))
		}
	case "small print":
		w.WriteString(para(`<w:pBdr>`+black("top")+`</w:pBdr>`+space(10, 0), w.run(strings.Join(say.prose, " "), look{size: 0.75 * w.size})))
	case "chart", "letter":
		for _, s := range say.letters {
			w.WriteString(para(space(3, 3), w.run(s, look{})))
		}
	case "article":
		for _, s := range say.prose {
			w.WriteString(para(`<w:pBdr>`+black("bottom")+`</w:pBdr>`+space(5, 8), w.run(s+" "+s, look{})))
		}
	case "programme":
		var rows [][]box
		for i, r := range say.rows {
			e := w.edge("bottom", "single")
			rows = append(rows, []box{
				{width: 60, edges: e, body: para(space(1, 1), w.run(fmt.Sprintf("%d:%02d", 9+i, 15*i%60), look{bold: true}))},
				{width: w.inner - 60, edges: e, body: para(space(1, 1), w.run(r, look{}))},
			})
		}
		w.WriteString(w.tableOf([]float64{60, w.inner - 60}, rows, 14))
	}
}

func (w *word) stopAt(pt float64) string {
	return fmt.Sprintf(`<w:tabs><w:tab w:val="right" w:pos="%d"/></w:tabs>`, twips(pt))
}
