package proof

import (
	"fmt"
	"math"
	"strconv"
	"strings"

	metrics "github.com/pdfcpu/pdfcpu/pkg/font"
	"golang.org/x/image/font/sfnt"

	"zealousmargin.example/internal/geom"
)

// drawn is what an appearance stream draws, as far as a form needs it read.
type drawn struct {
	text      string   // as it is seen, with a line end between lines
	signs     *glyphs  // of the font of what is seen and no text
	said      string   // as who reads the text of the page has it
	fonts     []string // base fonts, in the order of their use
	sizes     []float64
	colour    string // the fill colour of the first text, as operators
	paints    []paint
	at        [2]float64 // where the first line of the text begins
	wide      float64    // how wide that line is; 0 when it cannot be told
	picture   *stream    // the picture that is drawn
	pictureAt geom.Rect  // and where
	unknown   bool       // it could not be read
	box       [4]float64
	matrix    [6]float64
}

// paint is a path that is painted.
type paint struct {
	path   string // the first letters of the operators that make it: "mll"
	how    string // the operator that paints it
	colour string // that it is painted in, as operators
	width  float64
	dashed bool
	box    [4]float64 // around the points of the path: left, bottom, right, top
}

// draw reads an appearance stream, and those that it draws in turn.
func (f *file) draw(o any) drawn {
	var out drawn
	s, ok := f.resolve(o).(stream)
	if !ok {
		out.unknown = true
		return out
	}
	box := f.rect(s.dict["BBox"])
	out.box = [4]float64{box.X0, box.Y0, box.X1, box.Y1}
	out.matrix = [6]float64{1, 0, 0, 1, 0, 0}
	if m := f.array(s.dict["Matrix"]); len(m) == 6 {
		for i := range m {
			out.matrix[i] = f.number(m[i])
		}
	}
	f.paint(s, &out, geom.Identity, 0)
	return out
}

func (f *file) paint(s stream, out *drawn, m geom.Matrix, depth int) {
	data, err := f.decode(s)
	if err != nil || depth > 4 {
		out.unknown = true
		return
	}
	resources := f.dict(s.dict["Resources"])
	l := lexer{b: data}
	var operands []any
	var in dict
	fill, stroke, path := "0 g", "0 G", ""
	width, dashed := 1.0, false
	var box [4]float64
	var stack []geom.Matrix
	number := func(i int) float64 {
		if i < len(operands) {
			v, _ := operands[i].(float64)
			return v
		}
		return 0
	}
	for {
		v, err := l.next()
		if err != nil {
			return
		}
		word, ok := v.(keyword)
		if !ok {
			operands = append(operands, v)
			continue
		}
		switch word {
		case "q":
			stack = append(stack, m)
		case "Q":
			if len(stack) > 0 {
				m, stack = stack[len(stack)-1], stack[:len(stack)-1]
			}
		case "cm":
			m = geom.Matrix{number(0), number(1), number(2), number(3), number(4), number(5)}.Then(m)
		case "g", "rg", "k":
			fill = operators(operands, string(word))
		case "G", "RG", "K":
			stroke = operators(operands, string(word))
		case "w":
			width = number(0)
		case "d":
			a, _ := operands[0].(array)
			dashed = len(a) > 0
		case "m", "l", "c", "re", "v", "y":
			if path == "" || path == "clip" {
				path, box = "", [4]float64{math.Inf(1), math.Inf(1), math.Inf(-1), math.Inf(-1)}
			}
			path += string(word[0])
			reach(&box, word, number)
		case "W", "W*":
			path = "clip"
		case "n":
			path = ""
		case "f", "F", "f*", "S", "s", "B":
			one := paint{path: path, how: string(word), colour: fill, width: width, dashed: dashed, box: box}
			if word == "S" || word == "s" {
				one.colour = strings.ToLower(stroke)
			}
			out.paints, path = append(out.paints, one), ""
		case "Tf":
			if len(operands) == 2 {
				n, _ := operands[0].(name)
				in = f.dict(f.dict(resources["Font"])[n])
				out.fonts, out.sizes = append(out.fonts, f.name(in["BaseFont"])), append(out.sizes, number(1))
			}
		case "Td", "TD":
			if number(1) != 0 && out.text != "" {
				out.text += "\n"
			}
			if out.text == "" {
				out.at = [2]float64{number(0), number(1)}
			}
		case "T*", "Tm":
			if out.text != "" {
				out.text += "\n"
			}
		case "Tj", "'":
			if out.colour == "" {
				out.colour = fill
			}
			if len(operands) > 0 {
				b, _ := operands[len(operands)-1].(text)
				if out.text == "" && len(out.sizes) > 0 {
					out.wide = f.widthIn(in, b) * out.sizes[len(out.sizes)-1]
				}
				says := f.shownIn(in, b)
				out.said += says
				if strings.TrimSpace(says) == "" && f.name(in["Subtype"]) == "Type0" {
					if out.signs = f.signsOf(in); out.signs != nil {
						says = out.signs.text(b) // seen, and no text
					}
				}
				out.text += says
			}
		case "Do":
			if len(operands) == 1 {
				n, _ := operands[0].(name)
				x, _ := f.resolve(f.dict(resources["XObject"])[n]).(stream)
				switch f.name(x.dict["Subtype"]) {
				case "Form":
					f.paint(x, out, m, depth+1)
				case "Image":
					out.picture, out.pictureAt = &x, geom.R(0, 0, 1, 1).Apply(m) // an image is one unit wide and high (8.9.4)
				}
			}
		case "BMC", "EMC", "BDC":
		}
		operands = operands[:0]
	}
}

// reach widens a box by the points of an operator that makes a path.
func reach(box *[4]float64, word keyword, number func(int) float64) {
	points := map[keyword]int{"m": 1, "l": 1, "v": 2, "y": 2, "c": 3}[word]
	add := func(x, y float64) {
		box[0], box[1], box[2], box[3] = math.Min(box[0], x), math.Min(box[1], y), math.Max(box[2], x), math.Max(box[3], y)
	}
	for i := range points {
		add(number(2*i), number(2*i+1))
	}
	if word == "re" {
		add(number(0), number(1))
		add(number(0)+number(2), number(1)+number(3))
	}
}

// widthIn is how wide text is in a font, in em: by Adobe's published metrics for the standard ones,
// by the font's own widths otherwise (ISO 32000-2, 9.7.4.3). 0 when it cannot be told.
func (f *file) widthIn(d dict, b []byte) float64 {
	if f.name(d["Subtype"]) != "Type0" {
		total := 0
		for _, r := range winAnsi(b) {
			w, err := metrics.CharWidth(f.name(d["BaseFont"]), r)
			if err != nil || w == 0 {
				return 0
			}
			total += w
		}
		return float64(total) / 1000
	}
	kids := f.array(d["DescendantFonts"])
	if len(kids) != 1 {
		return 0
	}
	widths := map[int]float64{}
	list := f.array(f.dict(kids[0])["W"])
	for i := 0; i+1 < len(list); i += 2 {
		for k, w := range f.array(list[i+1]) {
			widths[int(f.number(list[i]))+k] = f.number(w)
		}
	}
	total := 0.0
	for i := 0; i+1 < len(b); i += 2 {
		total += widths[int(b[i])<<8|int(b[i+1])]
	}
	return total / 1000
}

func operators(operands []any, word string) string {
	var out []string
	for _, o := range operands {
		if v, ok := o.(float64); ok {
			out = append(out, strconv.FormatFloat(v, 'f', -1, 64))
		}
	}
	return strings.Join(append(out, word), " ")
}

// shownIn decodes text that is shown in a font: by its map to Unicode, or its encoding (9.10).
func (f *file) shownIn(font dict, b []byte) string {
	if font == nil {
		return "?"
	}
	if f.name(font["Subtype"]) != "Type0" {
		return winAnsi(b)
	}
	cmap := f.toUnicode(font)
	var out strings.Builder
	for i := 0; i+1 < len(b); i += 2 {
		s, ok := cmap[int(b[i])<<8|int(b[i+1])]
		if !ok {
			s = "?"
		}
		out.WriteString(s)
	}
	return out.String()
}

// glyphs are the signs that the program of a font has for Unicode: the first sign of each glyph, and for each sign that one.
type glyphs struct {
	of   map[int]rune
	same map[rune]rune
}

// signsOf reads the program of a composite font whose codes are its glyphs (9.7.4.2); nil when it is none.
func (f *file) signsOf(font dict) *glyphs {
	kids := f.array(font["DescendantFonts"])
	if len(kids) != 1 || f.name(font["Encoding"]) != "Identity-H" {
		return nil
	}
	at := f.dict(f.dict(kids[0])["FontDescriptor"])["FontFile2"]
	key := fmt.Sprint(at)
	if s, had := f.programs[key]; had {
		return s
	}
	if f.programs == nil {
		f.programs = map[string]*glyphs{}
	}
	f.programs[key] = nil
	program, ok := f.resolve(at).(stream)
	data, err := f.decode(program)
	if !ok || err != nil {
		return nil
	}
	parsed, err := sfnt.Parse(data)
	if err != nil {
		return nil
	}
	var buf sfnt.Buffer
	out := &glyphs{of: map[int]rune{}, same: map[rune]rune{}}
	for r := rune(' '); r < 0x2800; r++ { // the alphabets that forms are written in
		if g, err := parsed.GlyphIndex(&buf, r); err == nil && g != 0 {
			if _, had := out.of[int(g)]; !had {
				out.of[int(g)] = r
			}
			out.same[r] = out.of[int(g)]
		}
	}
	f.programs[key] = out
	return out
}

// text decodes text by the glyphs that are shown.
func (s *glyphs) text(b []byte) string {
	var out strings.Builder
	for i := 0; i+1 < len(b); i += 2 {
		if r, ok := s.of[int(b[i])<<8|int(b[i+1])]; ok {
			out.WriteRune(r)
		} else {
			out.WriteByte('?')
		}
	}
	return out.String()
}

// fold gives signs that look the same in the font one form: Ω is the letter and the unit.
func (s *glyphs) fold(text string) string {
	if s == nil {
		return text
	}
	return strings.Map(func(r rune) rune {
		if as, ok := s.same[r]; ok {
			return as
		}
		return r
	}, text)
}

// toUnicode reads a ToUnicode map (9.10.3): its single entries, and its ranges.
func (f *file) toUnicode(font dict) map[int]string {
	n, isRef := font["ToUnicode"].(ref)
	key := -int(n) - 1 // among what was read, beside the object itself
	if m, had := f.read[key].(map[int]string); had && isRef {
		return m
	}
	out := map[int]string{}
	s, ok := f.resolve(font["ToUnicode"]).(stream)
	data, err := f.decode(s)
	if !ok || err != nil {
		return out
	}
	number := func(b text) (code int) {
		for _, c := range b {
			code = code<<8 | int(c)
		}
		return code
	}
	utf16 := func(b text) string { return decodeText(append([]byte{0xfe, 0xff}, b...)) }
	l := lexer{b: data}
	var said []any
	for {
		v, err := l.next()
		if err != nil {
			break
		}
		word, ok := v.(keyword)
		if !ok {
			said = append(said, v)
			continue
		}
		for i := 0; word == "endbfchar" && i+1 < len(said); i += 2 {
			code, ok1 := said[i].(text)
			to, ok2 := said[i+1].(text)
			if ok1 && ok2 {
				out[number(code)] = utf16(to)
			}
		}
		for i := 0; word == "endbfrange" && i+2 < len(said); i += 3 {
			first, ok1 := said[i].(text)
			last, ok2 := said[i+1].(text)
			if !ok1 || !ok2 || number(last)-number(first) > 0xffff {
				continue
			}
			for c := number(first); c <= number(last); c++ {
				switch to := said[i+2].(type) {
				case array:
					if k := c - number(first); k < len(to) {
						one, _ := to[k].(text)
						out[c] = utf16(one)
					}
				case text:
					if len(to) >= 2 {
						next := append(text{}, to...)
						low := number(to[len(to)-2:]) + c - number(first)
						next[len(to)-2], next[len(to)-1] = byte(low>>8), byte(low)
						out[c] = utf16(next)
					}
				}
			}
		}
		said = nil
	}
	if isRef {
		f.read[key] = out
	}
	return out
}
