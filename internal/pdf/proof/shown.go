package proof

import (
	"strconv"
	"strings"
)

// drawn is what an appearance stream draws, as far as a form needs it read.
type drawn struct {
	text    string   // with a line end between lines
	fonts   []string // base fonts, in the order of their use
	sizes   []float64
	colour  string // the fill colour of the first text, as operators
	paints  []paint
	picture *stream // the picture that is drawn
	unknown bool    // it could not be read
	box     [4]float64
	matrix  [6]float64
}

// paint is a path that is painted.
type paint struct {
	path   string // the first letters of the operators that make it: "mll"
	how    string // the operator that paints it
	colour string // that it is painted in, as operators
	width  float64
	dashed bool
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
	f.paint(s, &out, 0)
	return out
}

func (f *file) paint(s stream, out *drawn, depth int) {
	data, err := f.decode(s)
	if err != nil || depth > 4 {
		out.unknown = true
		return
	}
	resources := f.dict(s.dict["Resources"])
	l := lexer{b: data}
	var operands []any
	var font dict
	fill, stroke, path := "0 g", "0 G", ""
	width, dashed := 1.0, false
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
			path += string(word[0])
		case "W", "W*":
			path = "clip"
		case "n":
			path = ""
		case "f", "F", "f*", "S", "s", "B":
			one := paint{path: path, how: string(word), colour: fill, width: width, dashed: dashed}
			if word == "S" || word == "s" {
				one.colour = strings.ToLower(stroke)
			}
			out.paints, path = append(out.paints, one), ""
		case "Tf":
			if len(operands) == 2 {
				n, _ := operands[0].(name)
				font = f.dict(f.dict(resources["Font"])[n])
				out.fonts, out.sizes = append(out.fonts, f.name(font["BaseFont"])), append(out.sizes, number(1))
			}
		case "Td", "TD":
			if number(1) != 0 && out.text != "" {
				out.text += "\n"
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
				out.text += f.shownIn(font, b)
			}
		case "Do":
			if len(operands) == 1 {
				n, _ := operands[0].(name)
				x, _ := f.resolve(f.dict(resources["XObject"])[n]).(stream)
				switch f.name(x.dict["Subtype"]) {
				case "Form":
					f.paint(x, out, depth+1)
				case "Image":
					out.picture = &x
				}
			}
		case "BMC", "EMC", "BDC":
		}
		operands = operands[:0]
	}
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

// toUnicode reads the single entries of a ToUnicode map (9.10.3).
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
	l := lexer{b: data}
	in := false
	var last text
	for {
		v, err := l.next()
		if err != nil {
			break
		}
		switch v := v.(type) {
		case keyword:
			in, last = v == "beginbfchar", nil
		case text:
			if in && last != nil {
				code := 0
				for _, c := range last {
					code = code<<8 | int(c)
				}
				out[code], last = decodeText(append([]byte{0xfe, 0xff}, v...)), nil
			} else {
				last = v
			}
		}
	}
	if isRef {
		f.read[key] = out
	}
	return out
}
