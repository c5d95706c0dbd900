package intake

import (
	"bytes"
	"fmt"
	"strings"

	"codeberg.org/go-pdf/fpdf"
	"github.com/yuin/goldmark"
	"github.com/yuin/goldmark/ast"
	"github.com/yuin/goldmark/extension"
	east "github.com/yuin/goldmark/extension/ast"
	"github.com/yuin/goldmark/text"
	"golang.org/x/image/font/gofont/gobold"
	"golang.org/x/image/font/gofont/goitalic"
	"golang.org/x/image/font/gofont/gomono"
	"golang.org/x/image/font/gofont/goregular"
	"golang.org/x/image/font/sfnt"
)

// Pages set from plain text and Markdown are A4 with margins of 20 mm, in points.
const (
	setWidth, setHeight = 595.28, 841.89
	setMargin           = 56.7
	setMeasure          = setWidth - 2*setMargin
)

func newSheet() *fpdf.Fpdf {
	p := fpdf.New("P", "pt", "A4", "")
	p.SetMargins(setMargin, setMargin, setMargin)
	p.SetAutoPageBreak(true, setMargin)
	p.AddUTF8FontFromBytes("go", "", goregular.TTF)
	p.AddUTF8FontFromBytes("go", "B", gobold.TTF)
	p.AddUTF8FontFromBytes("go", "I", goitalic.TTF)
	p.AddUTF8FontFromBytes("mono", "", gomono.TTF)
	p.AddPage()
	return p
}

func finished(p *fpdf.Fpdf) ([]byte, error) {
	var b bytes.Buffer
	if err := p.Output(&b); err != nil {
		return nil, fmt.Errorf("the text cannot be set as pages: %w", err)
	}
	return b.Bytes(), nil
}

// substitutes stand in for signs that the typefaces do not have.
var substitutes = strings.NewReplacer("☐", "□", "☑", "□", "☒", "□", "◯", "○", "\u2011", "-", "\u202f", "\u00a0", "…", "...")

// settable replaces signs that cannot be set.
func settable(s string) string {
	f, err := sfnt.Parse(gomono.TTF)
	if err != nil {
		return s
	}
	var buf sfnt.Buffer
	return strings.Map(func(r rune) rune {
		if r == '\t' || r == '\n' {
			return r
		}
		if g, err := f.GlyphIndex(&buf, r); err != nil || g == 0 {
			return '?'
		}
		return r
	}, substitutes.Replace(s))
}

// setText sets plain text as it stands, in a typeface of one width: 80 signs a line,
// longer lines wrapped at a space, a form feed begins a page.
func setText(s string) ([]byte, error) {
	const size, leading = 10.0, 13.0
	const columns = 80 // of 0.6 em each
	p := newSheet()
	p.SetFont("mono", "", size)
	s = strings.NewReplacer("\r\n", "\n", "\r", "\n").Replace(s)
	for i, page := range strings.Split(s, "\f") {
		if i > 0 {
			p.AddPage()
		}
		for line := range strings.SplitSeq(settable(strings.TrimRight(page, "\n ")), "\n") {
			for _, row := range wrapped(tabbed(line), columns) {
				p.CellFormat(setMeasure, leading, row, "", 1, "L", false, 0, "")
			}
		}
		if p.PageCount() > MaxPages {
			return nil, fmt.Errorf("this text makes more than %d pages: split it", MaxPages)
		}
	}
	return finished(p)
}

// tabbed replaces tabs by spaces to the next eighth column.
func tabbed(line string) string {
	if !strings.Contains(line, "\t") {
		return line
	}
	var b strings.Builder
	n := 0
	for _, r := range line {
		if r != '\t' {
			b.WriteRune(r)
			n++
			continue
		}
		for {
			b.WriteByte(' ')
			if n++; n%8 == 0 {
				break
			}
		}
	}
	return b.String()
}

func wrapped(line string, columns int) []string {
	var out []string
	rs := []rune(line)
	for len(rs) > columns {
		cut := columns
		for i := columns; i > columns/2; i-- {
			if rs[i] == ' ' {
				cut = i
				break
			}
		}
		out = append(out, string(rs[:cut]))
		if rs = rs[cut:]; len(rs) > 0 && rs[0] == ' ' {
			rs = rs[1:]
		}
	}
	return append(out, string(rs))
}

// setMarkdown sets Markdown (CommonMark 0.31 with tables) as pages.
func setMarkdown(s string) ([]byte, error) {
	src := []byte(settable(s))
	doc := goldmark.New(goldmark.WithExtensions(extension.Table)).Parser().Parse(text.NewReader(src))
	m := setter{Fpdf: newSheet(), src: src}
	m.blocks(doc, 0)
	if m.PageCount() > MaxPages {
		return nil, fmt.Errorf("this text makes more than %d pages: split it", MaxPages)
	}
	return finished(m.Fpdf)
}

// setter walks a Markdown document and sets its blocks.
type setter struct {
	*fpdf.Fpdf
	src []byte
}

const setSize, setLeading = 10.5, 15.0

func (m *setter) blocks(parent ast.Node, indent float64) {
	for n := parent.FirstChild(); n != nil; n = n.NextSibling() {
		m.SetLeftMargin(setMargin + indent)
		m.SetX(setMargin + indent)
		switch n := n.(type) {
		case *ast.Heading:
			size := map[int]float64{1: 20, 2: 15, 3: 12.5}[n.Level]
			if size == 0 {
				size = 11
			}
			m.Ln(4)
			m.SetFont("go", "B", size)
			m.MultiCell(0, size*1.3, m.words(n), "", "L", false)
			m.Ln(3)
		case *ast.List:
			m.list(n, indent)
		case *ast.Blockquote:
			m.blocks(n, min(indent+18, setMeasure/2))
		case *ast.FencedCodeBlock, *ast.CodeBlock:
			m.SetFont("mono", "", 9)
			lines := n.Lines()
			for i := range lines.Len() {
				line := lines.At(i)
				m.MultiCell(0, 12, tabbed(strings.TrimRight(string(line.Value(m.src)), "\n")), "", "L", false)
			}
			m.Ln(6)
		case *ast.ThematicBreak:
			m.Ln(6)
			m.SetLineWidth(0.6)
			m.Line(setMargin+indent, m.GetY(), setWidth-setMargin, m.GetY())
			m.Ln(8)
		case *east.Table:
			m.table(n, indent)
		case *ast.Paragraph, *ast.TextBlock:
			m.inline(n, "")
			m.Ln(setLeading)
			if _, loose := n.(*ast.Paragraph); loose {
				m.Ln(5)
			}
		}
	}
	m.SetLeftMargin(setMargin)
}

func (m *setter) list(l *ast.List, indent float64) {
	number := l.Start
	for item := l.FirstChild(); item != nil; item = item.NextSibling() {
		mark := "•"
		if l.IsOrdered() {
			mark = fmt.Sprintf("%d.", number)
			number++
		}
		m.SetFont("go", "", setSize)
		m.SetX(setMargin + indent + 6)
		m.CellFormat(14, setLeading, mark, "", 0, "L", false, 0, "")
		m.blocks(item, min(indent+22, setMeasure/2))
	}
	m.Ln(5)
}

// inline sets running text with its emphasis.
func (m *setter) inline(n ast.Node, style string) {
	for c := n.FirstChild(); c != nil; c = c.NextSibling() {
		switch c := c.(type) {
		case *ast.Text:
			m.SetFont("go", style, setSize)
			m.Write(setLeading, string(c.Value(m.src)))
			if c.HardLineBreak() {
				m.Ln(setLeading)
			} else if c.SoftLineBreak() {
				m.Write(setLeading, " ")
			}
		case *ast.String:
			m.SetFont("go", style, setSize)
			m.Write(setLeading, string(c.Value))
		case *ast.CodeSpan:
			m.SetFont("mono", "", setSize-1)
			m.Write(setLeading, m.words(c))
		case *ast.Emphasis:
			m.inline(c, map[bool]string{true: "B", false: "I"}[c.Level == 2])
		case *ast.AutoLink:
			m.SetFont("go", style, setSize)
			m.Write(setLeading, string(c.Label(m.src)))
		default:
			m.inline(c, style)
		}
	}
}

// words is the text of a node without its markup.
func (m *setter) words(n ast.Node) string {
	var b strings.Builder
	for c := n.FirstChild(); c != nil; c = c.NextSibling() {
		switch c := c.(type) {
		case *ast.Text:
			b.Write(c.Value(m.src))
			if c.SoftLineBreak() {
				b.WriteByte(' ')
			}
		case *ast.String:
			b.Write(c.Value)
		default:
			b.WriteString(m.words(c))
		}
	}
	return b.String()
}

// table sets a table with drawn cells, its columns of one width.
func (m *setter) table(t *east.Table, indent float64) {
	columns := len(t.Alignments)
	if columns == 0 {
		return
	}
	w := (setMeasure - indent) / float64(columns)
	m.SetLineWidth(0.5)
	for row := t.FirstChild(); row != nil; row = row.NextSibling() {
		_, head := row.(*east.TableHeader)
		m.SetFont("go", map[bool]string{true: "B", false: ""}[head], 9.5)
		var cells [][]string
		lines := 1
		for cell := row.FirstChild(); cell != nil; cell = cell.NextSibling() {
			part := m.SplitText(m.words(cell), w-8)
			cells = append(cells, part)
			lines = max(lines, len(part))
		}
		h := float64(lines)*12 + 8
		if m.GetY()+h > setHeight-setMargin {
			m.AddPage()
		}
		x, y := setMargin+indent, m.GetY()
		for i := range columns {
			m.Rect(x, y, w, h, "D")
			if i < len(cells) {
				for k, line := range cells[i] {
					m.SetXY(x+4, y+4+12*float64(k))
					m.CellFormat(w-8, 12, line, "", 0, "L", false, 0, "")
				}
			}
			x += w
		}
		m.SetXY(setMargin+indent, y+h)
	}
	m.Ln(8)
}
