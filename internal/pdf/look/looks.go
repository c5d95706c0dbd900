package look

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/pdf/object"
)

// rgb are the parts of a colour "#rrggbb", 0 to 1; the bool is false when there is none.
func rgb(s string) (c [3]float64, ok bool) {
	v, err := strconv.ParseUint(strings.TrimPrefix(s, "#"), 16, 32)
	if err != nil || len(s) != 7 {
		return c, false
	}
	return [3]float64{float64(v>>16) / 255, float64(v>>8&255) / 255, float64(v&255) / 255}, true
}

// paint is the operator that sets a colour: rg for filling, RG for strokes.
func paint(c [3]float64, operator string) string {
	return fmt.Sprintf("%s %s %s %s", object.Dec(c[0]), object.Dec(c[1]), object.Dec(c[2]), operator)
}

func colourArray(c [3]float64) types.Array {
	exact := func(v float64) types.Object { return types.Float(math.Round(v*1e4) / 1e4) } // finer than a step of 255
	return types.Array{exact(c[0]), exact(c[1]), exact(c[2])}
}

// TypeColour is the operator for the type of a field: black unless it has a colour.
func TypeColour(l form.Look) string {
	if c, ok := rgb(l.Colour); ok {
		return paint(c, "rg")
	}
	return "0 g"
}

// AppearanceString is the default appearance of a field (ISO 32000-2, 12.7.4.3): it also
// brings its font into the resources of the form.
func (b *Kit) AppearanceString(x form.Field) (types.StringLiteral, error) {
	font, err := b.formFont(x)
	if err != nil {
		return "", err
	}
	return types.StringLiteral(fmt.Sprintf("/%s %s Tf %s", font, object.Dec(x.Look.Size), TypeColour(x.Look))), nil
}

// LooksOfField is how the text of a new field is set.
func LooksOfField(x form.Field, rotate int) Setting {
	return Setting{
		Size: x.Look.Size, Colour: TypeColour(x.Look), Multiline: x.Multiline, Comb: x.Comb, Font: x.Look.Font,
		Align: map[form.Align]int{form.AlignCentre: 1, form.AlignRight: 2}[x.Look.Align], Rotate: rotate + x.Look.Turn,
	}
}

func borderWidth(l form.Look) float64 {
	if l.Border == "" {
		return 0
	}
	if l.BorderWidth == 0 {
		return 1
	}
	return l.BorderWidth
}

// borderName is the style of a border as /BS has it (ISO 32000-2, table 168).
func borderName(s form.BorderStyle) string {
	if n, ok := map[form.BorderStyle]string{
		form.DashedBorder: "D", form.BevelBorder: "B", form.InsetBorder: "I",
		form.UnderlineOnly: "U",
	}[s]; ok {
		return n
	}
	return "S"
}

// Frame writes what a look says of border and fill into a widget: its appearance
// characteristics and border style, and alignment and default appearance are elsewhere.
func Frame(l form.Look, d, mk types.Dict) {
	if c, ok := rgb(l.Fill); ok {
		mk["BG"] = colourArray(c)
	}
	if c, ok := rgb(l.Border); ok {
		mk["BC"] = colourArray(c)
		bs := types.Dict{"Type": types.Name("Border"), "W": object.Num(borderWidth(l)), "S": types.Name(borderName(l.BorderStyle))}
		if l.BorderStyle == form.DashedBorder {
			bs["D"] = types.Array{object.Num(3)}
		}
		d["BS"] = bs
	}
}

// FrameContent draws fill and border of a field of w by h points; a round one for radio
// buttons.
func FrameContent(l form.Look, w, h float64, round bool) string {
	var b strings.Builder
	width := borderWidth(l)
	shape := func(inset float64) {
		if round {
			b.WriteString(circle(w/2, h/2, math.Min(w, h)/2-inset))
			return
		}
		fmt.Fprintf(&b, "%s %s %s %s re\n", object.Dec(inset), object.Dec(inset), object.Dec(w-2*inset), object.Dec(h-2*inset))
	}
	if c, ok := rgb(l.Fill); ok {
		b.WriteString("q\n" + paint(c, "rg") + "\n")
		shape(0)
		b.WriteString("f\nQ\n")
	}
	c, ok := rgb(l.Border)
	if !ok {
		return b.String()
	}
	fmt.Fprintf(&b, "q\n%s\n%s w\n", paint(c, "RG"), object.Dec(width))
	switch l.BorderStyle {
	case form.UnderlineOnly:
		fmt.Fprintf(&b, "0 %s m %s %s l\nS\n", object.Dec(width/2), object.Dec(w), object.Dec(width/2))
	case form.DashedBorder:
		b.WriteString("[3] 0 d\n")
		shape(width / 2)
		b.WriteString("S\n")
	default:
		shape(width / 2)
		b.WriteString("S\n")
	}
	b.WriteString("Q\n")
	if !round && (l.BorderStyle == form.BevelBorder || l.BorderStyle == form.InsetBorder) {
		b.WriteString(relief(w, h, width, l.BorderStyle == form.InsetBorder))
	}
	return b.String()
}

// relief draws the light and the dark edges inside a border, the light ones above and
// left when it stands out, below and right when it is sunk.
func relief(w, h, width float64, sunk bool) string {
	light, dark := "1 g", "0.6 g"
	if sunk {
		light, dark = "0.6 g", "0.8 g"
	}
	in, deep := width, 2*width
	upper := []geom.Point{
		{X: in, Y: in},
		{X: in, Y: h - in},
		{X: w - in, Y: h - in},
		{X: w - deep, Y: h - deep},
		{X: deep, Y: h - deep},
		{X: deep, Y: deep},
	}
	lower := []geom.Point{
		{X: w - in, Y: h - in},
		{X: w - in, Y: in},
		{X: in, Y: in},
		{X: deep, Y: deep},
		{X: w - deep, Y: deep},
		{X: w - deep, Y: h - deep},
	}
	return "q\n" + light + "\n" + polygon(upper) + "f\n" + dark + "\n" + polygon(lower) + "f\nQ\n"
}

func polygon(ps []geom.Point) string {
	var b strings.Builder
	for i, p := range ps {
		fmt.Fprintf(&b, "%s %s %s\n", object.Dec(p.X), object.Dec(p.Y), map[bool]string{true: "m", false: "l"}[i == 0])
	}
	b.WriteString("h\n")
	return b.String()
}

// MarkSign is the sign of the ZapfDingbats font by which readers draw a mark anew
// (/MK /CA; ISO 32000-2, annex D.6 names the signs).
func MarkSign(x form.Field) string {
	if s, ok := map[string]string{"check": "4", "circle": "l", "cross": "8", "diamond": "u", "square": "n", "star": "H"}[x.Mark]; ok {
		return s
	}
	if x.Kind == form.Radio {
		return "l"
	}
	return "8"
}

// MarkContent draws the mark of a ticked box, so that no font is needed.
func MarkContent(x form.Field, w, h float64) string {
	ink := TypeColour(x.Look)
	stroke := strings.ToUpper(ink)
	s := math.Min(w, h)
	cx, cy := w/2, h/2
	switch mark := x.Mark; {
	case mark == "circle" || mark == "" && x.Kind == form.Radio:
		return "q\n" + ink + "\n" + circle(cx, cy, s*0.26) + "f\nQ\n"
	case mark == "check":
		return fmt.Sprintf("q\n%s\n%s w\n1 J\n1 j\n%s %s m %s %s l %s %s l\nS\nQ\n", stroke, object.Dec(math.Max(0.8, s*0.12)),
			object.Dec(cx-s*0.3), object.Dec(cy), object.Dec(cx-s*0.08), object.Dec(cy-s*0.26), object.Dec(cx+s*0.32),
			object.Dec(cy+s*0.3))
	case mark == "diamond":
		d := s * 0.32
		return "q\n" + ink + "\n" + polygon([]geom.Point{
			{X: cx, Y: cy + d},
			{X: cx + d, Y: cy},
			{X: cx, Y: cy - d},
			{X: cx - d, Y: cy},
		}) + "f\nQ\n"
	case mark == "square":
		d := s * 0.26
		return fmt.Sprintf("q\n%s\n%s %s %s %s re\nf\nQ\n", ink, object.Dec(cx-d), object.Dec(cy-d), object.Dec(2*d), object.Dec(2*d))
	case mark == "star":
		var ps []geom.Point
		for i := range 10 {
			r := s * 0.36
			if i%2 == 1 {
				r *= 0.42
			}
			sin, cos := math.Sincos(math.Pi/2 + float64(i)*math.Pi/5)
			ps = append(ps, geom.Point{X: cx + r*cos, Y: cy + r*sin})
		}
		return "q\n" + ink + "\n" + polygon(ps) + "f\nQ\n"
	}
	d := s * 0.3
	return fmt.Sprintf("q\n%s\n%s w\n1 J\n%s %s m %s %s l\n%s %s m %s %s l\nS\nQ\n", stroke, object.Dec(math.Max(0.8, s*0.11)),
		object.Dec(cx-d), object.Dec(cy-d), object.Dec(cx+d), object.Dec(cy+d), object.Dec(cx-d), object.Dec(cy+d), object.Dec(cx+d),
		object.Dec(cy-d))
}

// ListContent sets the options of a list box below each other, the chosen one on a tint.
func ListContent(options []form.Option, chosen []string, w, h float64, l Setting, face Typeface) string {
	size := l.Size
	if size <= 0 {
		size = math.Min(maxAuto, math.Max(minAuto, h/6))
	}
	step := size * lineStep
	var b strings.Builder
	fmt.Fprintf(&b, "/Tx BMC\nq\n1 1 %s %s re W n\n", object.Dec(w-2), object.Dec(h-2))
	y := h - pad - step
	for _, o := range options {
		if y < -step {
			break
		}
		if o.Label != "" && slices.Contains(chosen, o.Label) {
			fmt.Fprintf(&b, "0.8 0.85 0.95 rg\n%s %s %s %s re f\n", object.Dec(1), object.Dec(y-size*0.15), object.Dec(w-2),
				object.Dec(step))
		}
		fmt.Fprintf(&b, "BT\n%s\n/%s %s Tf\n%s %s Td\n%s Tj\nET\n", l.Colour, face.Resource(), object.Dec(size),
			object.Dec(aligned(l.Align, w, face.Width(o.Label)*size)), object.Dec(y+descent*size*0.4), face.Show(o.Label))
		y -= step
	}
	b.WriteString("Q\nEMC\n")
	return b.String()
}

// Listed are the options as they are written, with the blank one that may come first.
func Listed(x form.Field) []form.Option {
	if !x.BlankFirst {
		return x.Options
	}
	return append([]form.Option{{Label: " "}}, x.Options...)
}
