package pdf

import (
	"bytes"
	"fmt"
	"slices"
	"sync"

	"github.com/pdfcpu/pdfcpu/pkg/font"
	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"
	"golang.org/x/image/font/gofont/goregular"
	"golang.org/x/image/font/sfnt"
	"golang.org/x/image/math/fixed"
	"golang.org/x/text/encoding/charmap"
)

// typeface measures and encodes text for an appearance stream.
type typeface interface {
	// resource is its name in the resource dictionary.
	resource() string
	// width of s at 1 point, in points.
	width(s string) float64
	// show is s as the operand of the Tj operator.
	show(s string) string
}

// helvetica is the standard font (ISO 32000-2, 9.6.2.2), in WinAnsiEncoding. It
// covers what Windows code page 1252 has; the widths are Adobe's published metrics.
type helvetica struct{}

func (helvetica) resource() string { return "Helv" }

func (helvetica) width(s string) float64 {
	total := 0
	for _, r := range s {
		w, err := font.CharWidth("Helvetica", r)
		if err != nil || w == 0 {
			w = 556
		}
		total += w
	}
	return float64(total) / 1000
}

func (helvetica) show(s string) string {
	b, err := charmap.Windows1252.NewEncoder().Bytes([]byte(s))
	if err != nil {
		b = []byte(s)
	}
	return "(" + escape(string(b)) + ")"
}

// encodable tells whether WinAnsiEncoding has every sign of s.
func encodable(s string) bool {
	_, err := charmap.Windows1252.NewEncoder().String(s)
	return err == nil
}

// wide is the embedded typeface for text outside WinAnsiEncoding: Go Regular,
// which has the WGL4 set (Latin, Greek, Cyrillic).
type wide struct{}

const unitsPerEm = 1000

var goFont = sync.OnceValue(func() *sfnt.Font {
	f, err := sfnt.Parse(goregular.TTF)
	if err != nil {
		panic(err) // the font is part of the program
	}
	return f
})

func (wide) resource() string { return "ZmWide" }

func glyphOf(r rune) (sfnt.GlyphIndex, float64) {
	var buf sfnt.Buffer
	f := goFont()
	g, err := f.GlyphIndex(&buf, r)
	if err != nil {
		g = 0
	}
	adv, err := f.GlyphAdvance(&buf, g, fixed.I(unitsPerEm), 0)
	if err != nil {
		return g, 600
	}
	return g, float64(adv) / 64
}

func (wide) width(s string) float64 {
	total := 0.0
	for _, r := range s {
		_, w := glyphOf(r)
		total += w
	}
	return total / unitsPerEm
}

func (wide) show(s string) string {
	var b bytes.Buffer
	b.WriteByte('<')
	for _, r := range s {
		g, _ := glyphOf(r)
		fmt.Fprintf(&b, "%04X", uint16(g))
	}
	b.WriteByte('>')
	return b.String()
}

// missing lists the signs of s that no typeface of ours has.
func missing(s string) []rune {
	var out []rune
	for _, r := range s {
		if g, _ := glyphOf(r); g == 0 && r != '\n' && r != '\r' && r != '\t' && !encodable(string(r)) && !slices.Contains(out, r) {
			out = append(out, r)
		}
	}
	return out
}

func faceFor(s string) typeface {
	if encodable(s) {
		return helvetica{}
	}
	return wide{}
}

func helveticaDict() types.Dict {
	return types.Dict{
		"Type": types.Name("Font"), "Subtype": types.Name("Type1"), "BaseFont": types.Name("Helvetica"),
		"Encoding": types.Name("WinAnsiEncoding"),
	}
}

// maker makes new objects of a file.
type maker interface {
	stream(content []byte, entries types.Dict) (types.IndirectRef, error)
	indirect(o types.Object) (types.IndirectRef, error)
}

func (f *file) indirect(o types.Object) (types.IndirectRef, error) { return f.add(o) }

func (a *assembler) indirect(o types.Object) (types.IndirectRef, error) { return a.add(o), nil }

// wideFont writes Go Regular as a composite font (ISO 32000-2, 9.7) for the given
// signs: the whole TrueType program, widths and a ToUnicode map for those used. The
// font dictionary itself is returned.
func wideFont(f maker, used []rune) (types.Dict, error) {
	runes := slices.Clone(used)
	slices.Sort(runes)
	runes = slices.Compact(runes)
	program, err := f.stream(goregular.TTF, types.Dict{"Length1": types.Integer(len(goregular.TTF))})
	if err != nil {
		return nil, err
	}
	sf := goFont()
	var buf sfnt.Buffer
	box, _ := sf.Bounds(&buf, fixed.I(unitsPerEm), 0)
	m, _ := sf.Metrics(&buf, fixed.I(unitsPerEm), 0)
	descriptor, err := f.indirect(types.Dict{
		"Type": types.Name("FontDescriptor"), "FontName": types.Name("GoRegular"), "Flags": types.Integer(4),
		"FontBBox":    types.Array{types.Integer(box.Min.X.Floor()), types.Integer(-box.Max.Y.Ceil()), types.Integer(box.Max.X.Ceil()), types.Integer(-box.Min.Y.Floor())},
		"ItalicAngle": types.Integer(0), "Ascent": types.Integer(m.Ascent.Round()), "Descent": types.Integer(-m.Descent.Round()),
		"CapHeight": types.Integer(m.CapHeight.Round()), "StemV": types.Integer(80), "FontFile2": program,
	})
	if err != nil {
		return nil, err
	}
	var widths types.Array
	var cmap bytes.Buffer
	cmap.WriteString("/CIDInit /ProcSet findresource begin 12 dict begin begincmap\n/CIDSystemInfo << /Registry (Adobe) /Ordering (UCS) /Supplement 0 >> def\n/CMapName /Adobe-Identity-UCS def /CMapType 2 def\n1 begincodespacerange <0000> <FFFF> endcodespacerange\n")
	for part := range slices.Chunk(runes, 100) { // at most 100 in a block (ISO 32000-2, 9.10.3)
		fmt.Fprintf(&cmap, "%d beginbfchar\n", len(part))
		for _, r := range part {
			g, w := glyphOf(r)
			widths = append(widths, types.Integer(int(g)), types.Array{types.Integer(int(w + 0.5))})
			fmt.Fprintf(&cmap, "<%04X> <%X>\n", uint16(g), []byte(types.EncodeUTF16String(string(r)))[2:])
		}
		cmap.WriteString("endbfchar\n")
	}
	cmap.WriteString("endcmap CMapName currentdict /CMap defineresource pop end end\n")
	unicode, err := f.stream(cmap.Bytes(), nil)
	if err != nil {
		return nil, err
	}
	descendant, err := f.indirect(types.Dict{
		"Type": types.Name("Font"), "Subtype": types.Name("CIDFontType2"), "BaseFont": types.Name("GoRegular"),
		"CIDSystemInfo":  types.Dict{"Registry": types.StringLiteral("Adobe"), "Ordering": types.StringLiteral("Identity"), "Supplement": types.Integer(0)},
		"FontDescriptor": descriptor, "DW": types.Integer(600), "W": widths, "CIDToGIDMap": types.Name("Identity"),
	})
	if err != nil {
		return nil, err
	}
	return types.Dict{
		"Type": types.Name("Font"), "Subtype": types.Name("Type0"), "BaseFont": types.Name("GoRegular"),
		"Encoding": types.Name("Identity-H"), "DescendantFonts": types.Array{descendant}, "ToUnicode": unicode,
	}, nil
}
