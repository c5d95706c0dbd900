package look

import (
	"fmt"
	"math"
	"strings"

	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"

	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/pdf/object"
)

// looks says how the text of a field is set.
type Setting struct {
	Size      float64 // points; 0 is automatic
	Colour    string  // operators that set the fill colour, "0 g"
	Multiline bool
	Comb      int
	Align     int    // quadding: 0 left, 1 centred, 2 right (ISO 32000-2, table 228)
	Font      string // one of the standard 14; empty is Helvetica
	Rotate    int    // counterclockwise, to read upright on a turned page
}

const (
	pad      = 2.0  // between the edge of a field and its text
	maxAuto  = 12.0 // the largest automatic size
	minAuto  = 4.0
	ascent   = 0.718 // of Helvetica, in em (Adobe font metrics)
	descent  = 0.207
	lineStep = 1.15 // of automatic leading, in em
)

// Inner is the size of a field as it is read: width and height change places when it is turned.
func (l Setting) Inner(r geom.Rect) (w, h float64) {
	if l.Rotate%180 != 0 {
		return r.H(), r.W()
	}
	return r.W(), r.H()
}

// Appearance wraps content in a form XObject of the size of r, turned as l says
// (ISO 32000-2, 12.5.5 and 12.5.6.19, /MK /R).
func Appearance(f *object.File, content string, r geom.Rect, l Setting, fonts types.Dict) (types.IndirectRef, error) {
	res := types.Dict{}
	if len(fonts) > 0 {
		res["Font"] = fonts
	}
	return AppearanceWith(f, content, r, l, res)
}

// AppearanceWith is appearance with all the resources that the content needs.
func AppearanceWith(f *object.File, content string, r geom.Rect, l Setting, resources types.Dict) (types.IndirectRef, error) {
	w, h := l.Inner(r)
	d := types.Dict{
		"Type": types.Name("XObject"), "Subtype": types.Name("Form"), "FormType": types.Integer(1),
		"BBox": types.Array{object.Num(0), object.Num(0), object.Num(w), object.Num(h)}, "Resources": resources,
	}
	var m types.Array
	switch ((l.Rotate % 360) + 360) % 360 {
	case 90:
		m = types.Array{object.Num(0), object.Num(1), object.Num(-1), object.Num(0), object.Num(r.W()), object.Num(0)}
	case 180:
		m = types.Array{object.Num(-1), object.Num(0), object.Num(0), object.Num(-1), object.Num(r.W()), object.Num(r.H())}
	case 270:
		m = types.Array{object.Num(0), object.Num(-1), object.Num(1), object.Num(0), object.Num(0), object.Num(r.H())}
	}
	if m != nil {
		d["Matrix"] = m
	}
	return f.Stream([]byte(content), d)
}

// TextContent sets value in a field of w by h points, as the variable text of
// ISO 32000-2, 12.7.4.3.
func TextContent(value string, w, h float64, l Setting, face Typeface) string {
	if value == "" {
		return "/Tx BMC\nEMC\n"
	}
	colour := l.Colour
	if colour == "" {
		colour = "0 g"
	}
	var b strings.Builder
	fmt.Fprintf(&b, "/Tx BMC\nq\n%s %s %s %s re W n\nBT\n%s\n", object.Dec(1), object.Dec(1), object.Dec(w-2), object.Dec(h-2), colour)
	switch {
	case l.Comb > 0:
		combText(&b, value, w, h, l, face)
	case l.Multiline:
		linesText(&b, value, w, h, l, face)
	default:
		oneLine := strings.Join(strings.FieldsFunc(value, func(r rune) bool { return r == '\n' || r == '\r' }), " ")
		size := l.Size
		if size <= 0 {
			size = math.Min(maxAuto, (h-1)/(ascent+descent))
			if tw := face.Width(oneLine) * size; tw > w-2*pad {
				size = math.Max(minAuto, size*(w-2*pad)/tw)
			}
		}
		x := aligned(l.Align, w, face.Width(oneLine)*size)
		y := (h-(ascent+descent)*size)/2 + descent*size
		fmt.Fprintf(&b, "/%s %s Tf\n%s %s Td\n%s Tj\n", face.Resource(), object.Dec(size), object.Dec(x), object.Dec(y),
			face.Show(oneLine))
	}
	b.WriteString("ET\nQ\nEMC\n")
	return b.String()
}

func aligned(align int, w, text float64) float64 {
	switch align {
	case 1:
		return math.Max(pad, (w-text)/2)
	case 2:
		return math.Max(pad, w-pad-text)
	}
	return pad
}

// combText sets one sign in the middle of each cell.
func combText(b *strings.Builder, value string, w, h float64, l Setting, face Typeface) {
	cell := w / float64(l.Comb)
	size := l.Size
	if size <= 0 {
		size = math.Min(math.Min(maxAuto, (h-1)/(ascent+descent)), cell/0.75)
	}
	fmt.Fprintf(b, "/%s %s Tf\n", face.Resource(), object.Dec(size))
	y := (h-(ascent+descent)*size)/2 + descent*size
	at := 0.0
	i := 0
	for _, r := range value {
		if i >= l.Comb {
			break
		}
		x := cell*float64(i) + (cell-face.Width(string(r))*size)/2
		dy := 0.0
		if i == 0 {
			dy = y
		}
		fmt.Fprintf(b, "%s %s Td %s Tj\n", object.Dec(x-at), object.Dec(dy), face.Show(string(r)))
		at = x
		i++
	}
}

func linesText(b *strings.Builder, value string, w, h float64, l Setting, face Typeface) {
	size := l.Size
	var rows []string
	if size > 0 {
		rows = Wrap(value, (w-2*pad)/size, face)
	} else {
		for size = maxAuto; ; size -= 0.5 {
			rows = Wrap(value, (w-2*pad)/size, face)
			if float64(len(rows))*size*lineStep <= h-2*pad || size <= minAuto {
				break
			}
		}
	}
	fmt.Fprintf(b, "/%s %s Tf\n%s TL\n", face.Resource(), object.Dec(size), object.Dec(size*lineStep))
	y := h - pad - ascent*size
	at := 0.0
	for i, row := range rows {
		x := aligned(l.Align, w, face.Width(row)*size)
		dy := -size * lineStep
		if i == 0 {
			dy = y
		}
		fmt.Fprintf(b, "%s %s Td %s Tj\n", object.Dec(x-at), object.Dec(dy), face.Show(row))
		at = x
	}
}

// Wrap breaks text at line ends and spaces into rows at most width em wide; a word
// that is wider is broken where it must.
func Wrap(s string, width float64, face Typeface) []string {
	var rows []string
	s = strings.ReplaceAll(strings.ReplaceAll(s, "\r\n", "\n"), "\r", "\n")
	for para := range strings.SplitSeq(s, "\n") {
		row := ""
		for _, w := range strings.Split(para, " ") {
			for face.Width(w) > width && len([]rune(w)) > 1 {
				cut := 1
				for rs := []rune(w); cut < len(rs) && face.Width(string(rs[:cut+1])) <= width; cut++ {
				}
				if row != "" {
					rows = append(rows, row)
					row = ""
				}
				rows = append(rows, string([]rune(w)[:cut]))
				w = string([]rune(w)[cut:])
			}
			next := w
			if row != "" {
				next = row + " " + w
			}
			if row != "" && face.Width(next) > width {
				rows = append(rows, row)
				next = w
			}
			row = next
		}
		rows = append(rows, row)
	}
	return rows
}

// circle is a closed path of four Bézier curves; 0.5523 is the usual control
// length 4/3*(sqrt(2)-1) for a quarter turn.
func circle(cx, cy, r float64) string {
	k := 0.5523 * r
	return fmt.Sprintf("%s %s m\n%s %s %s %s %s %s c\n%s %s %s %s %s %s c\n%s %s %s %s %s %s c\n%s %s %s %s %s %s c\nh\n",
		object.Dec(cx+r), object.Dec(cy), object.Dec(cx+r), object.Dec(cy+k), object.Dec(cx+k), object.Dec(cy+r), object.Dec(cx),
		object.Dec(cy+r),
		object.Dec(cx-k), object.Dec(cy+r), object.Dec(cx-r), object.Dec(cy+k), object.Dec(cx-r), object.Dec(cy),
		object.Dec(cx-r), object.Dec(cy-k), object.Dec(cx-k), object.Dec(cy-r), object.Dec(cx), object.Dec(cy-r),
		object.Dec(cx+k), object.Dec(cy-r), object.Dec(cx+r), object.Dec(cy-k), object.Dec(cx+r), object.Dec(cy))
}
