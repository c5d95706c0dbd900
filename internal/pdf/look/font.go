package look

import (
	"bytes"
	"errors"
	"fmt"
	"slices"
	"sync"

	"github.com/go-fonts/liberation/liberationserifregular"
	"github.com/pdfcpu/pdfcpu/pkg/font"
	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"
	"golang.org/x/image/font/gofont/goregular"
	"golang.org/x/image/font/sfnt"
	"golang.org/x/image/math/fixed"
	"golang.org/x/text/encoding/charmap"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/pdf/object"
)

// Typeface measures and encodes text for an appearance stream.
type Typeface interface {
	// resource is its name in the resource dictionary.
	Resource() string
	// width of s at 1 point, in points.
	Width(s string) float64
	// show is s as the operand of the Tj operator.
	Show(s string) string
}

// standard is one of the standard 14 fonts, in WinAnsiEncoding but for the two of
// symbols, which have encodings of their own (ISO 32000-2, 9.6.2.2 and annex D). It
// covers what Windows code page 1252 has; the widths are Adobe's published metrics.
type standard string

const helvetica = standard("Helvetica")

func (s standard) Resource() string {
	if s == helvetica {
		return "Helv" // as most forms call it (common practice, no source)
	}
	return string(s)
}

func (s standard) symbolic() bool { return s == "Symbol" || s == "ZapfDingbats" }

func (s standard) Width(t string) float64 {
	total := 0
	for _, r := range t {
		w, err := font.CharWidth(string(s), r)
		if err != nil || w == 0 {
			w = 556
		}
		total += w
	}
	return float64(total) / 1000
}

func (s standard) Show(t string) string {
	b, err := charmap.Windows1252.NewEncoder().Bytes([]byte(t))
	if err != nil {
		b = []byte(t)
	}
	return "(" + object.Escape(string(b)) + ")"
}

func (s standard) dict() types.Dict {
	d := types.Dict{"Type": types.Name("Font"), "Subtype": types.Name("Type1"), "BaseFont": types.Name(string(s))}
	if !s.symbolic() {
		d["Encoding"] = types.Name("WinAnsiEncoding")
	}
	return d
}

// encodable tells whether WinAnsiEncoding has every sign of s.
func encodable(s string) bool {
	_, err := charmap.Windows1252.NewEncoder().String(s)
	return err == nil
}

// Embedded is a typeface that is written into the file whole: its signs reach beyond
// WinAnsiEncoding.
type Embedded struct {
	Key  string // as [form.EmbeddedFonts] names it
	base string // its PostScript name
	Name string // of the resource
	ttf  []byte
	sf   func() *sfnt.Font
	mute bool // its signs are blanks to who reads the text of a page
}

func embed(key, base, resource string, ttf []byte) *Embedded {
	return &Embedded{Key: key, base: base, Name: resource, ttf: ttf, sf: sync.OnceValue(func() *sfnt.Font {
		f, err := sfnt.Parse(ttf)
		if err != nil {
			panic(err) // the font is part of the program
		}
		return f
	})}
}

// Wide is the typeface for text that WinAnsiEncoding does not have and that no font was
// chosen for: it has the WGL4 set (Latin, Greek, Cyrillic). faces are all that there are.
var (
	Wide  = embed("Go", "GoRegular", "ZmWide", goregular.TTF)
	Faces = []*Embedded{Wide, hints, embed("Liberation-Serif", "LiberationSerif", "ZmSerif", liberationserifregular.TTF)}
)

// hints are set in a typeface whose signs are no text: some readers take the text that a field shows for its answer.
var hints = func() *Embedded {
	e := embed("-", "GoRegular", "ZmHint", goregular.TTF)
	e.mute = true
	return e
}()

// HintFont is the font resources for a hint, and the typeface to set it in.
func (b *Kit) HintFont(s string) (types.Dict, Typeface, error) {
	if lost := hints.missing(s); len(lost) > 0 {
		return nil, nil, noTypeface(lost)
	}
	ref, err := b.embeddedRef(hints, []rune(s))
	return types.Dict{hints.Resource(): ref}, hints, err
}

// EmbeddedAs finds the embedded typeface of a PostScript name, as looks name it; empty when it is none
// of ours.
func EmbeddedAs(base string) string {
	for _, e := range Faces {
		if e.base == base && !e.mute {
			return e.Key
		}
	}
	return ""
}

// embeddedFace finds an embedded typeface by the name that a look has; nil when it is a
// standard one.
func embeddedFace(font string) *Embedded {
	i := slices.IndexFunc(Faces, func(e *Embedded) bool { return e.Key == font })
	if i < 0 {
		return nil
	}
	return Faces[i]
}

const unitsPerEm = 1000

func (e *Embedded) Resource() string { return e.Name }

func (e *Embedded) Glyph(r rune) (sfnt.GlyphIndex, float64) {
	var buf sfnt.Buffer
	f := e.sf()
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

func (e *Embedded) Width(s string) float64 {
	total := 0.0
	for _, r := range s {
		_, w := e.Glyph(r)
		total += w
	}
	return total / unitsPerEm
}

func (e *Embedded) Show(s string) string {
	var b bytes.Buffer
	b.WriteByte('<')
	for _, r := range s {
		g, _ := e.Glyph(r)
		fmt.Fprintf(&b, "%04X", uint16(g))
	}
	b.WriteByte('>')
	return b.String()
}

// missing lists the signs of s that the typeface does not have.
func (e *Embedded) missing(s string) []rune {
	var out []rune
	for _, r := range s {
		if g, _ := e.Glyph(r); g == 0 && r != '\n' && r != '\r' && r != '\t' && !slices.Contains(out, r) {
			out = append(out, r)
		}
	}
	return out
}

// alphabets are the ranges of Unicode that a form's answers are expected in: Latin with
// its extensions, Greek, Cyrillic, and the signs of money, arithmetic and punctuation.
var alphabets = [][2]rune{
	{0x20, 0x24f},
	{0x370, 0x52f},
	{0x1e00, 0x1fff},
	{0x2010, 0x204a},
	{0x20a0, 0x20bf},
	{0x2100, 0x2122},
	{0x2190, 0x22ff},
}

// alphabet lists the signs of those that the typeface has.
func (e *Embedded) alphabet() []rune {
	var out []rune
	for _, part := range alphabets {
		for r := part[0]; r <= part[1]; r++ {
			if g, _ := e.Glyph(r); g != 0 {
				out = append(out, r)
			}
		}
	}
	return out
}

// maker makes new objects of a file.
type maker interface {
	Stream(content []byte, entries types.Dict) (types.IndirectRef, error)
	Indirect(o types.Object) (types.IndirectRef, error)
}

// program writes the typeface's TrueType program, whole: into a form once.
func (e *Embedded) program(f maker) (types.IndirectRef, error) {
	kit, shared := f.(*Kit)
	if shared && kit.programs[e.base] != nil {
		return *kit.programs[e.base], nil
	}
	ref, err := f.Stream(e.ttf, types.Dict{"Length1": types.Integer(len(e.ttf))})
	if shared && err == nil {
		if kit.programs == nil {
			kit.programs = map[string]*types.IndirectRef{}
		}
		kit.programs[e.base] = &ref
	}
	return ref, err
}

// descriptor writes the typeface's program, whole, and its measures (ISO 32000-2, 9.8).
func (e *Embedded) descriptor(f maker, flags int) (types.IndirectRef, error) {
	program, err := e.program(f)
	if err != nil {
		return program, err
	}
	sf := e.sf()
	var buf sfnt.Buffer
	box, _ := sf.Bounds(&buf, fixed.I(unitsPerEm), 0)
	m, _ := sf.Metrics(&buf, fixed.I(unitsPerEm), 0)
	return f.Indirect(types.Dict{
		"Type": types.Name("FontDescriptor"), "FontName": types.Name(e.base), "Flags": types.Integer(flags),
		"FontBBox": types.Array{
			types.Integer(box.Min.X.Floor()), types.Integer(-box.Max.Y.Ceil()), types.Integer(box.Max.X.Ceil()),
			types.Integer(-box.Min.Y.Floor()),
		},
		"ItalicAngle": types.Integer(0), "Ascent": types.Integer(m.Ascent.Round()), "Descent": types.Integer(-m.Descent.Round()),
		"CapHeight": types.Integer(m.CapHeight.Round()), "StemV": types.Integer(80), "FontFile2": program,
	})
}

// Write writes the typeface as a composite font (ISO 32000-2, 9.7) for the given
// signs: the whole TrueType program, widths and a ToUnicode map for those used. The
// font dictionary itself is returned.
func (e *Embedded) Write(f maker, used []rune) (types.Dict, error) {
	runes := slices.Clone(used)
	slices.Sort(runes)
	runes = slices.Compact(runes)
	descriptor, err := e.descriptor(f, 4) // symbolic (ISO 32000-2, table 121)
	if err != nil {
		return nil, err
	}
	var widths types.Array
	var cmap []string
	for _, r := range runes {
		g, w := e.Glyph(r)
		widths = append(widths, types.Integer(int(g)), types.Array{types.Integer(int(w + 0.5))})
		if e.mute {
			r = ' '
		}
		cmap = append(cmap, fmt.Sprintf("<%04X> <%X>", uint16(g), []byte(types.EncodeUTF16String(string(r)))[2:]))
	}
	unicode, err := f.Stream(toUnicode("<0000> <FFFF>", cmap), nil)
	if err != nil {
		return nil, err
	}
	descendant, err := f.Indirect(types.Dict{
		"Type": types.Name("Font"), "Subtype": types.Name("CIDFontType2"), "BaseFont": types.Name(e.base),
		"CIDSystemInfo": types.Dict{
			"Registry": types.StringLiteral("Adobe"), "Ordering": types.StringLiteral("Identity"),
			"Supplement": types.Integer(0),
		},
		"FontDescriptor": descriptor, "DW": types.Integer(600), "W": widths, "CIDToGIDMap": types.Name("Identity"),
	})
	if err != nil {
		return nil, err
	}
	return types.Dict{
		"Type": types.Name("Font"), "Subtype": types.Name("Type0"), "BaseFont": types.Name(e.base),
		"Encoding": types.Name("Identity-H"), "DescendantFonts": types.Array{descendant}, "ToUnicode": unicode,
	}, nil
}

// embedding is a typeface in a file that is being written: its signs are known only at
// the end.
type embedding struct {
	ref   types.IndirectRef
	used  []rune
	typed bool // answers are typed in it
}

// fontKit brings fonts into a file, each once.
type Kit struct {
	*object.File
	helv     types.IndirectRef
	fonts    map[standard]types.IndirectRef
	embedded map[*Embedded]*embedding
	programs map[string]*types.IndirectRef // of embedded typefaces, by their PostScript names
	simple   map[string]types.IndirectRef  // code pages of embedded typefaces, by name
	Language string                        // of the document, as BCP 47 has it
}

// Begin writes the font that the form itself names.
func (b *Kit) Begin() (err error) {
	b.helv, err = b.Add(helvetica.dict())
	return err
}

// Finish lists all fonts in a resource dictionary, and writes the embedded ones.
func (b *Kit) Finish(fonts types.Dict) error {
	fonts.Update("Helv", b.helv)
	for face, ref := range b.fonts {
		fonts.Update(face.Resource(), ref)
	}
	for name, ref := range b.simple {
		fonts.Update(name, ref)
	}
	if err := b.fillEmbedded(); err != nil {
		return err
	}
	for face, in := range b.embedded {
		if in.typed {
			fonts.Update(face.Resource(), in.ref)
		}
	}
	return nil
}

// standardRef is the font dictionary of a standard font, written once.
func (b *Kit) standardRef(s standard) (types.IndirectRef, error) {
	if s == helvetica {
		return b.helv, nil
	}
	if ref, ok := b.fonts[s]; ok {
		return ref, nil
	}
	ref, err := b.Add(s.dict())
	if err != nil {
		return ref, err
	}
	if b.fonts == nil {
		b.fonts = map[standard]types.IndirectRef{}
	}
	b.fonts[s] = ref
	return ref, nil
}

// embeddedRef reserves an embedded font for some signs.
func (b *Kit) embeddedRef(e *Embedded, signs []rune) (types.IndirectRef, error) {
	in, ok := b.embedded[e]
	if !ok {
		ref, err := b.Add(types.Dict{})
		if err != nil {
			return ref, err
		}
		in = &embedding{ref: ref}
		if b.embedded == nil {
			b.embedded = map[*Embedded]*embedding{}
		}
		b.embedded[e] = in
	}
	in.used = append(in.used, signs...)
	return in.ref, nil
}

// fillEmbedded writes the embedded fonts, now that their signs are known.
func (b *Kit) fillEmbedded() error {
	for _, e := range Faces {
		in, ok := b.embedded[e]
		if !ok {
			continue
		}
		d, err := e.Write(b, in.used)
		if err != nil {
			return err
		}
		place, found := b.Ctx.FindTableEntryLight(in.ref.ObjectNumber.Value())
		if !found {
			return errors.New("the embedded font was lost")
		}
		place.Object = d
	}
	return nil
}

// formFont is the name of the font that a field is filled in with, brought into the form: of an embedded one the code page of its
// answers, or its whole alphabet where no page has all the words around the field.
func (b *Kit) formFont(x form.Field) (string, error) {
	if e, p, auto := b.typing(x); e != nil && p != nil {
		return b.pageRef(e, p, auto)
	} else if e != nil {
		_, err := b.embeddedRef(e, e.alphabet())
		if err == nil {
			b.embedded[e].typed = true
		}
		return e.Resource(), err
	}
	face := helvetica
	if x.Look.Font != "" {
		face = standard(x.Look.Font)
	}
	_, err := b.standardRef(face)
	return face.Resource(), err
}

// ErrNoTypeface says that no typeface that ships has a sign.
var ErrNoTypeface = errors.New("there is no typeface")

func noTypeface(lost []rune) error {
	return fmt.Errorf("%w for %q: write it with Latin, Greek or Cyrillic letters", ErrNoTypeface, string(lost))
}

// FontsFor is the font resources for text, and the typeface to set it in: the one that is
// wanted where it has all the signs.
func (b *Kit) FontsFor(s, want string) (types.Dict, Typeface, error) {
	e := embeddedFace(want)
	if e == nil && encodable(s) {
		face := helvetica
		if want != "" {
			face = standard(want)
		}
		ref, err := b.standardRef(face)
		return types.Dict{face.Resource(): ref}, face, err
	}
	if e == nil || len(e.missing(s)) > 0 {
		e = Wide
	}
	if lost := e.missing(s); len(lost) > 0 {
		return nil, nil, noTypeface(lost)
	}
	ref, err := b.embeddedRef(e, []rune(s))
	return types.Dict{e.Resource(): ref}, e, err
}
