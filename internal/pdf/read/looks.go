package read

import (
	"fmt"
	_ "image/gif" // pictures of buttons come in these formats
	_ "image/jpeg"
	_ "image/png"
	"math"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"
	_ "golang.org/x/image/webp"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/pdf/look"
	"zealousmargin.example/internal/pdf/object"
)

// faceOf reads the face of a button.
func faceOf(f *object.File, d types.Dict) (face form.Face, hasIcon bool) {
	mk := f.Dict(object.Entry(d, "MK"))
	if tp := f.Integer(object.Entry(mk, "TP")); tp > 0 && tp < len(form.Layouts) {
		face.Layout = form.Layouts[tp]
	}
	face.Pressed = form.Inverted // what a widget without the entry does
	for p, h := range look.Highlights {
		if f.Name(object.Entry(d, "H")) == h || f.Name(object.Entry(d, "H")) == "T" && p == form.PushedIn { // T means the same as P
			face.Pressed = p
		}
	}
	if face.Pressed == form.PushedIn {
		face.PressedCaption = f.Text(object.Entry(mk, "AC"))
	}
	return face, f.Dict(object.Entry(mk, "I")) != nil
}

var (
	daFont   = regexp.MustCompile(`/(\S+)\s+([\d.]+)\s+Tf`)
	daColour = regexp.MustCompile(`((?:[\d.]+\s+){1,4})(g|rg|k)\b`)
)

// LookOf reads how a widget looks: from its default appearance, alignment, appearance
// characteristics and border style, its own or those it inherits.
func LookOf(f *object.File, w Widget) form.Look {
	var l form.Look
	find := func(key string) types.Object {
		for _, ref := range w.Refs {
			if o, ok := f.Dict(ref).Find(key); ok {
				return o
			}
		}
		cat, err := f.Catalog()
		if err != nil {
			return nil
		}
		return object.Entry(f.Dict(object.Entry(cat, "AcroForm")), key)
	}
	da := f.Text(find("DA"))
	if m := daFont.FindStringSubmatch(da); m != nil {
		l.Font = fontCalled(f, m[1])
		if v, err := strconv.ParseFloat(m[2], 64); err == nil && v >= 2 && v <= 144 {
			l.Size = v
		}
	}
	if m := daColour.FindStringSubmatch(da); m != nil {
		var parts []float64
		for _, s := range strings.Fields(m[1]) {
			v, _ := strconv.ParseFloat(s, 64) // the pattern has figures only
			parts = append(parts, v)
		}
		if l.Colour = hex(parts); l.Colour == "#000000" {
			l.Colour = ""
		}
	}
	l.Align = map[int]form.Align{1: form.AlignCentre, 2: form.AlignRight}[f.Integer(find("Q"))]
	mk := f.Dict(object.Entry(w.Dict, "MK"))
	l.Fill, l.Border = colourOf(f, object.Entry(mk, "BG")), colourOf(f, object.Entry(mk, "BC"))
	if l.Border == "" {
		return l
	}
	if bs := f.Dict(object.Entry(w.Dict, "BS")); bs != nil {
		l.BorderStyle = map[string]form.BorderStyle{
			"D": form.DashedBorder, "B": form.BevelBorder, "I": form.InsetBorder,
			"U": form.UnderlineOnly,
		}[f.Name(object.Entry(bs, "S"))]
		if o := object.Entry(bs, "W"); o != nil {
			l.BorderWidth = math.Min(12, f.Number(o))
			if l.BorderWidth <= 0 {
				l.Border, l.BorderWidth, l.BorderStyle = "", 0, form.SolidBorder
			}
		}
	}
	if l.BorderWidth == 1 {
		l.BorderWidth = 0 // what a border is without saying
	}
	return l
}

// colourOf reads an array of one, three or four parts as a colour; empty when it has none.
func colourOf(f *object.File, o types.Object) string {
	var parts []float64
	for _, p := range f.Array(o) {
		parts = append(parts, f.Number(p))
	}
	return hex(parts)
}

// hex writes grey, RGB or CMYK parts from 0 to 1 as "#rrggbb" (ISO 32000-2, 10.3 for
// the simple conversion from CMYK).
func hex(parts []float64) string {
	byteOf := func(v float64) int { // 0.899999976 is 0.9 as a single-precision number has it
		return int(math.Min(255, math.Floor(255*math.Max(0, math.Min(1, v))+0.5001)))
	}
	switch len(parts) {
	case 1:
		return fmt.Sprintf("#%02x%02x%02x", byteOf(parts[0]), byteOf(parts[0]), byteOf(parts[0]))
	case 3:
		return fmt.Sprintf("#%02x%02x%02x", byteOf(parts[0]), byteOf(parts[1]), byteOf(parts[2]))
	case 4:
		k := parts[3]
		return fmt.Sprintf("#%02x%02x%02x", byteOf(1-parts[0]-k), byteOf(1-parts[1]-k), byteOf(1-parts[2]-k))
	}
	return ""
}

// showOf reads where a widget shows.
func showOf(annot int) form.Show {
	switch {
	case annot&object.AnnotHidden != 0, annot&object.AnnotNoView != 0 && annot&object.AnnotPrint == 0:
		return form.ShowNone
	case annot&object.AnnotNoView != 0:
		return form.ShowPrint
	case annot&object.AnnotPrint == 0:
		return form.ShowScreen
	}
	return form.ShowBoth
}

// fontCalled is the font that a name stands for in the resources of the form, as a look has it; empty
// when it is Helvetica or another one.
func fontCalled(f *object.File, name string) string {
	cat, err := f.Catalog()
	if err != nil {
		return ""
	}
	fonts := f.Dict(object.Entry(f.Dict(object.Entry(f.Dict(object.Entry(cat, "AcroForm")), "DR")), "Font"))
	d := f.Dict(object.Entry(fonts, name))
	base := f.Name(object.Entry(d, "BaseFont"))
	if slices.Contains(form.Fonts[1:], base) {
		return base
	}
	if ours := object.Entry(d, "ToUnicode") != nil; ours && !strings.HasPrefix(name, look.AutoFont) { // embedded, and chosen by somebody
		return look.EmbeddedAs(base)
	}
	return ""
}

// markOf is the mark that a sign of the ZapfDingbats font stands for (ISO 32000-2, annex D.6); empty
// when it is the usual one of its kind.
func markOf(k form.Kind, sign string) string {
	m := map[string]string{"4": "check", "l": "circle", "8": "cross", "u": "diamond", "n": "square", "H": "star"}[sign]
	if m == map[form.Kind]string{form.CheckBox: "cross", form.Radio: "circle"}[k] {
		return ""
	}
	return m
}
