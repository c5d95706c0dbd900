package proof

import (
	"encoding/binary"
	"math"
	"strings"
)

// archivedFont is a font as 6.2.11 asks about it.
type archivedFont struct {
	name    string
	wide    bool // a composite one, two bytes a sign (Identity-H or -V)
	program *trueType
	why     string // why there is none that can be read
	widths  map[int]float64
	usual   float64 // of the composite ones that are not listed
	unicode map[int]string
	latin   bool // its encoding is one of the standard's, by names that stand for letters
	glyph   func(code int) int
}

// font reads one; nil when there is nothing.
func (a *archive) font(o any) *archivedFont {
	d := a.f.dict(o)
	if d == nil {
		return nil
	}
	key, kept := o.(ref)
	if had := a.fonts[key]; kept && had != nil {
		return had
	}
	out := &archivedFont{name: a.f.name(d["BaseFont"]), widths: map[int]float64{}, unicode: a.f.toUnicode(d)}
	switch a.f.name(d["Subtype"]) {
	case "Type0":
		a.composite(out, d)
	case "TrueType":
		a.simple(out, d)
	default:
		out.why = "it is no TrueType font whose signs can be measured"
		out.latin = a.f.name(d["Encoding"]) == "WinAnsiEncoding" || a.f.name(d["Encoding"]) == "MacRomanEncoding"
	}
	if kept {
		a.fonts[key] = out
	}
	return out
}

func (a *archive) programOf(out *archivedFont, descriptor any) {
	s, ok := a.f.resolve(a.f.dict(descriptor)["FontFile2"]).(stream)
	if !ok {
		out.why = "it is not in the file, or is no TrueType font"
		return
	}
	data, err := a.f.decode(s)
	if err == nil {
		out.program = readTrueType(data)
	}
	if out.program == nil {
		out.why = "its program cannot be read"
	}
	if a.f.dict(descriptor)["CIDSet"] != nil {
		out.why = "it has a list of its signs"
	}
}

// composite reads a font whose signs are numbered (ISO 32000-2, 9.7; ISO 19005-2, 6.2.11.3).
func (a *archive) composite(out *archivedFont, d dict) {
	f := a.f
	kids := f.array(d["DescendantFonts"])
	enc := f.name(d["Encoding"])
	if len(kids) != 1 || enc != "Identity-H" && enc != "Identity-V" || f.name(f.dict(kids[0])["Subtype"]) != "CIDFontType2" {
		out.why = "it is a composite font of another kind"
		return
	}
	kid := f.dict(kids[0])
	out.wide = true
	a.programOf(out, kid["FontDescriptor"])
	out.usual = 1000
	if kid["DW"] != nil {
		out.usual = f.number(kid["DW"])
	}
	list := f.array(kid["W"])
	for i := 0; i+1 < len(list); {
		first := int(f.number(list[i]))
		if each := f.array(list[i+1]); each != nil {
			for k, w := range each {
				out.widths[first+k] = f.number(w)
			}
			i += 2
			continue
		}
		if i+2 >= len(list) {
			break
		}
		for c := first; c <= min(int(f.number(list[i+1])), 0xffff); c++ {
			out.widths[c] = f.number(list[i+2])
		}
		i += 3
	}
	switch to := f.resolve(kid["CIDToGIDMap"]).(type) {
	case name:
		out.glyph = func(code int) int { return code }
		if to != "Identity" {
			out.why = "it does not say which sign is which"
		}
	case stream:
		b, err := f.decode(to)
		out.glyph = func(code int) int {
			if err != nil || 2*code+1 >= len(b) {
				return 0
			}
			return int(binary.BigEndian.Uint16(b[2*code:]))
		}
	default:
		out.why = "it does not say which sign is which"
	}
}

// simple reads a TrueType font of one byte a sign (ISO 32000-2, 9.6.5.4; ISO 19005-2, 6.2.11.6).
func (a *archive) simple(out *archivedFont, d dict) {
	f := a.f
	a.programOf(out, d["FontDescriptor"])
	first := int(f.number(d["FirstChar"]))
	for i, w := range f.array(d["Widths"]) {
		out.widths[first+i] = f.number(w)
	}
	out.usual = -1
	const symbolic = 4
	if int(f.number(f.dict(d["FontDescriptor"])["Flags"]))&symbolic != 0 {
		if d["Encoding"] != nil {
			out.why = "it is symbolic and has an encoding"
		}
		if out.program != nil {
			out.glyph = out.program.symbol
		}
		return
	}
	switch enc := f.name(d["Encoding"]); enc {
	case "WinAnsiEncoding":
		out.latin = true
		if out.program != nil {
			out.glyph = func(code int) int { return out.program.letter([]rune(winAnsi([]byte{byte(code)}))[0]) }
		}
	default:
		out.why = "its encoding is of another kind"
	}
}

// shown holds what is shown in a font to 6.2.11.4 to 6.2.11.8.
func (a *archive) shown(what string, in *archivedFont, b []byte, mode int) {
	if in == nil {
		a.fault("6.2.2", "%s shows text in no font", what)
		return
	}
	step := 1
	if in.wide {
		step = 2
	}
	seen := mode != 3 && mode != 7
	if in.why != "" && seen {
		a.fault("6.2.11.4", "%s of %s: %s", in.name, what, in.why)
		return
	}
	for i := 0; i+step <= len(b); i += step {
		code := int(b[i])
		if in.wide {
			code = code<<8 | int(b[i+1])
		}
		if says, ok := in.unicode[code]; !in.latin && (!ok || says == "" || strings.ContainsAny(says, "\x00\ufeff\ufffe\ufffd")) {
			a.fault("6.2.11.7", "a sign of %s on %s", in.name, what)
		}
		if !seen || in.program == nil || in.glyph == nil {
			continue
		}
		g := in.glyph(code)
		if g == 0 || g >= in.program.count {
			a.fault("6.2.11.8", "a sign of %s on %s", in.name, what)
			continue
		}
		says, ok := in.widths[code]
		if !ok {
			says = in.usual
		}
		if is := in.program.width(g); math.Abs(is-says) > 1 {
			a.fault("6.2.11.5", "a sign of %s on %s is %.0f wide, not %.0f", in.name, what, is, says)
		}
	}
}

// trueType is what is needed of the program of a TrueType font (ISO/IEC 14496-22, 5): how many signs it has, how wide they are, and its
// maps from letters and codes to signs.
type trueType struct {
	count, metrics int
	unit           float64
	hmtx           []byte
	maps           map[[2]int]map[int]int // by platform and encoding
}

func readTrueType(b []byte) *trueType {
	if len(b) < 12 {
		return nil
	}
	u16 := func(b []byte, i int) int {
		if i < 0 || i+2 > len(b) {
			return 0
		}
		return int(binary.BigEndian.Uint16(b[i:]))
	}
	u32 := func(b []byte, i int) int { return u16(b, i)<<16 | u16(b, i+2) }
	tables := map[string][]byte{}
	for i := range u16(b, 4) {
		at := 12 + 16*i
		if at+16 > len(b) {
			return nil
		}
		from, n := u32(b, at+8), u32(b, at+12)
		if from < 0 || n < 0 || from+n > len(b) {
			continue
		}
		tables[string(b[at:at+4])] = b[from : from+n]
	}
	t := &trueType{
		count: u16(tables["maxp"], 4), metrics: u16(tables["hhea"], 34), unit: float64(u16(tables["head"], 18)), hmtx: tables["hmtx"],
		maps: map[[2]int]map[int]int{},
	}
	if t.count == 0 || t.metrics == 0 || t.unit == 0 || len(t.hmtx) < 4*t.metrics {
		return nil
	}
	cmap := tables["cmap"]
	for i := range u16(cmap, 2) {
		at := u32(cmap, 4+8*i+4)
		if at <= 0 || at >= len(cmap) {
			continue
		}
		t.maps[[2]int{u16(cmap, 4+8*i), u16(cmap, 4+8*i+2)}] = cmapOf(cmap[at:], u16)
	}
	return t
}

// cmapOf reads a map of format 0, 4 or 6 (5.2.1.3).
func cmapOf(b []byte, u16 func([]byte, int) int) map[int]int {
	out := map[int]int{}
	switch u16(b, 0) {
	case 0:
		for c := range min(256, max(0, len(b)-6)) {
			out[c] = int(b[6+c])
		}
	case 6:
		for i := range u16(b, 8) {
			out[u16(b, 6)+i] = u16(b, 10+2*i)
		}
	case 4:
		n := u16(b, 6) // twice the number of segments
		for i := 0; i < n; i += 2 {
			end, start, delta, at := u16(b, 14+i), u16(b, 16+n+i), u16(b, 16+2*n+i), 16+3*n+i
			for c := start; c <= end && c < 0xffff; c++ {
				g := c
				if off := u16(b, at); off != 0 {
					if g = u16(b, at+off+2*(c-start)); g == 0 {
						continue
					}
				}
				out[c] = (g + delta) & 0xffff
			}
		}
	}
	return out
}

// width of a sign in thousandths of an em.
func (t *trueType) width(g int) float64 {
	g = min(g, t.metrics-1)
	return float64(binary.BigEndian.Uint16(t.hmtx[4*g:])) * 1000 / t.unit
}

func (t *trueType) letter(r rune) int { return t.maps[[2]int{3, 1}][int(r)] }

// symbol is the sign of a code of a symbolic font: by the map for symbols, or by the only one there is.
func (t *trueType) symbol(code int) int {
	if m := t.maps[[2]int{3, 0}]; m != nil {
		for _, high := range []int{0xf000, 0, 0xf100, 0xf200} {
			if g := m[high+code]; g != 0 {
				return g
			}
		}
		return 0
	}
	if len(t.maps) == 1 {
		for _, m := range t.maps {
			return m[code]
		}
	}
	return t.maps[[2]int{1, 0}][code]
}
