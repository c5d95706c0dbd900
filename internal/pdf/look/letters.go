package look

import (
	"bytes"
	"fmt"
	"slices"
	"strings"

	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"
	"golang.org/x/image/font/sfnt"
	"golang.org/x/text/encoding/charmap"

	"zealousmargin.example/internal/form"
)

// What a recipient types is set by the reader, in the font of the field: readers type in simple fonts, whose signs have one byte each,
// and few of them in composite ones. So a field whose answers need more than the standard fonts have gets a simple font that is embedded,
// with the signs of its language's code page. docs/decisions.md says what which reader makes of it.

// page is a code page: the signs of some languages in one byte each, ASCII in its lower half.
type page struct {
	key       string
	signs     *charmap.Charmap
	languages string // by their codes in ISO 639-1
}

// pages are tried in this order; western is the one that the standard fonts have.
var (
	western = &page{"1252", charmap.Windows1252, ""}
	pages   = []*page{
		western,
		{"1250", charmap.Windows1250, " pl cs sk hu hr sl ro bs sq "},
		{"1257", charmap.Windows1257, " lt lv et "},
		{"1254", charmap.Windows1254, " tr az "},
		{"1253", charmap.Windows1253, " el "},
		{"1251", charmap.Windows1251, " ru uk bg sr mk be "},
	}
)

func (p *page) has(s string) bool {
	_, err := p.signs.NewEncoder().String(s)
	return err == nil
}

// pageFor is the code page for the answers to a field: that of the words around it or else of the document's language. It is nil when
// no page has all those words.
func pageFor(x form.Field, language string) *page {
	words := x.Label + x.Tooltip + x.Hint + x.Default + x.Caption
	for _, o := range x.Options {
		words += o.Label
	}
	lang, _, _ := strings.Cut(strings.ToLower(language), "-")
	spoken := slices.IndexFunc(pages, func(p *page) bool { return lang != "" && strings.Contains(p.languages, " "+lang+" ") })
	if spoken >= 0 && pages[spoken].has(words) {
		return pages[spoken]
	}
	for _, p := range pages {
		if p.has(words) {
			return p
		}
	}
	return nil
}

// typing is the face that readers type the answers to a field in: a code page of an embedded typeface, or all of it where no page has
// all the words around the field. The bool tells that nobody has chosen the typeface. It is nil where the standard font does.
func (b *Kit) typing(x form.Field) (e *Embedded, p *page, auto bool) {
	e, p = embeddedFace(x.Look.Font), pageFor(x, b.Language)
	if e == nil {
		if x.Look.Font != "" || p == western || x.Kind != form.Text && x.Kind != form.Choice {
			return nil, nil, false
		}
		return Wide, p, true
	}
	return e, p, false
}

// FaceOf is the typeface that the first words of a field are set in, as looks name it: the one that it is typed in.
func (b *Kit) FaceOf(x form.Field) string {
	if e, _, _ := b.typing(x); e != nil {
		return e.Key
	}
	return x.Look.Font
}

// AutoFont is how the names of fonts begin that nobody has chosen.
const AutoFont = "ZmAuto"

// pageRef is a code page of an embedded typeface as a simple font (ISO 32000-2, 9.6.4), written once; the string is its name.
func (b *Kit) pageRef(e *Embedded, p *page, auto bool) (string, error) {
	name := e.Name + p.key
	if auto {
		name = AutoFont + p.key
	}
	if _, had := b.simple[name]; had {
		return name, nil
	}
	d, err := e.simple(b, p)
	if err != nil {
		return "", err
	}
	ref, err := b.Add(d)
	if err != nil {
		return "", err
	}
	if b.simple == nil {
		b.simple = map[string]types.IndirectRef{}
	}
	b.simple[name] = ref
	return name, nil
}

// simple writes a code page of the typeface as a TrueType font with an encoding of its own: each sign by its name in the font, and a map
// to Unicode.
func (e *Embedded) simple(f maker, p *page) (types.Dict, error) {
	const first, last = 32, 255
	sf := e.sf()
	var (
		buf    sfnt.Buffer
		widths types.Array
		cmap   []string
	)
	differences := types.Array{}
	run := false // the entry before this one was a name
	for code := first; code <= last; code++ {
		r := p.signs.DecodeByte(byte(code))
		g, w := e.Glyph(r)
		if r == '\uFFFD' || code == 127 || g == 0 {
			widths, run = append(widths, types.Integer(0)), false
			continue
		}
		widths = append(widths, types.Integer(int(w+0.5)))
		cmap = append(cmap, fmt.Sprintf("<%02X> <%04X>", code, r))
		if r == western.signs.DecodeByte(byte(code)) {
			run = false
			continue
		}
		name, err := sf.GlyphName(&buf, g)
		if err != nil || name == "" {
			name = fmt.Sprintf("uni%04X", r) // Adobe Glyph List Specification, 2
		}
		if !run {
			differences = append(differences, types.Integer(code))
		}
		differences, run = append(differences, types.Name(name)), true
	}
	descriptor, err := e.descriptor(f, 32) // not symbolic (ISO 32000-2, table 121)
	if err != nil {
		return nil, err
	}
	unicode, err := f.Stream(toUnicode("<00> <FF>", cmap), nil)
	if err != nil {
		return nil, err
	}
	encoding := types.Dict{"Type": types.Name("Encoding"), "BaseEncoding": types.Name("WinAnsiEncoding")}
	if len(differences) > 0 {
		encoding["Differences"] = differences
	}
	return types.Dict{
		"Type": types.Name("Font"), "Subtype": types.Name("TrueType"), "BaseFont": types.Name(e.base), "FirstChar": types.Integer(first),
		"LastChar": types.Integer(last), "Widths": widths, "FontDescriptor": descriptor, "Encoding": encoding, "ToUnicode": unicode,
	}, nil
}

// toUnicode is a map from codes to Unicode (ISO 32000-2, 9.10.3), with at most 100 entries in a block.
func toUnicode(space string, entries []string) []byte {
	var b bytes.Buffer
	b.WriteString("/CIDInit /ProcSet findresource begin 12 dict begin begincmap\n/CIDSystemInfo << /Registry (Adobe) /Ordering (UCS) " +
		"/Supplement 0 >> def\n/CMapName /Adobe-Identity-UCS def /CMapType 2 def\n1 begincodespacerange " + space + " endcodespacerange\n")
	for part := range slices.Chunk(entries, 100) {
		fmt.Fprintf(&b, "%d beginbfchar\n%s\nendbfchar\n", len(part), strings.Join(part, "\n"))
	}
	b.WriteString("endcmap CMapName currentdict /CMap defineresource pop end end\n")
	return b.Bytes()
}
