package pdf

import (
	"fmt"
	"math"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
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
	return fmt.Sprintf("%s %s %s %s", dec(c[0]), dec(c[1]), dec(c[2]), operator)
}

func colourArray(c [3]float64) types.Array {
	exact := func(v float64) types.Object { return types.Float(math.Round(v*1e4) / 1e4) } // finer than a step of 255
	return types.Array{exact(c[0]), exact(c[1]), exact(c[2])}
}

// typeColour is the operator for the type of a field: black unless it has a colour.
func typeColour(l form.Look) string {
	if c, ok := rgb(l.Colour); ok {
		return paint(c, "rg")
	}
	return "0 g"
}

// appearanceString is the default appearance of a field (ISO 32000-2, 12.7.4.3): it also
// brings its font into the resources of the form.
func (b *fontKit) appearanceString(l form.Look) (types.StringLiteral, error) {
	face, err := b.formFont(l)
	if err != nil {
		return "", err
	}
	return types.StringLiteral(fmt.Sprintf("/%s %s Tf %s", face.resource(), dec(l.Size), typeColour(l))), nil
}

// looksOfField is how the text of a new field is set.
func looksOfField(x form.Field, rotate int) looks {
	return looks{
		size: x.Look.Size, colour: typeColour(x.Look), multiline: x.Multiline, comb: x.Comb, font: x.Look.Font,
		align: map[form.Align]int{form.AlignCentre: 1, form.AlignRight: 2}[x.Look.Align], rotate: rotate + x.Look.Turn,
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
	if n, ok := map[form.BorderStyle]string{form.DashedBorder: "D", form.BevelBorder: "B", form.InsetBorder: "I", form.UnderlineOnly: "U"}[s]; ok {
		return n
	}
	return "S"
}

// frame writes what a look says of border and fill into a widget: its appearance
// characteristics and border style, and alignment and default appearance are elsewhere.
func frame(l form.Look, d, mk types.Dict) {
	if c, ok := rgb(l.Fill); ok {
		mk["BG"] = colourArray(c)
	}
	if c, ok := rgb(l.Border); ok {
		mk["BC"] = colourArray(c)
		bs := types.Dict{"Type": types.Name("Border"), "W": num(borderWidth(l)), "S": types.Name(borderName(l.BorderStyle))}
		if l.BorderStyle == form.DashedBorder {
			bs["D"] = types.Array{num(3)}
		}
		d["BS"] = bs
	}
}

// frameContent draws fill and border of a field of w by h points; a round one for radio
// buttons.
func frameContent(l form.Look, w, h float64, round bool) string {
	var b strings.Builder
	width := borderWidth(l)
	shape := func(inset float64) {
		if round {
			b.WriteString(circle(w/2, h/2, math.Min(w, h)/2-inset))
			return
		}
		fmt.Fprintf(&b, "%s %s %s %s re\n", dec(inset), dec(inset), dec(w-2*inset), dec(h-2*inset))
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
	fmt.Fprintf(&b, "q\n%s\n%s w\n", paint(c, "RG"), dec(width))
	switch l.BorderStyle {
	case form.UnderlineOnly:
		fmt.Fprintf(&b, "0 %s m %s %s l\nS\n", dec(width/2), dec(w), dec(width/2))
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
	upper := []geom.Point{{X: in, Y: in}, {X: in, Y: h - in}, {X: w - in, Y: h - in}, {X: w - deep, Y: h - deep}, {X: deep, Y: h - deep}, {X: deep, Y: deep}}
	lower := []geom.Point{{X: w - in, Y: h - in}, {X: w - in, Y: in}, {X: in, Y: in}, {X: deep, Y: deep}, {X: w - deep, Y: deep}, {X: w - deep, Y: h - deep}}
	return "q\n" + light + "\n" + polygon(upper) + "f\n" + dark + "\n" + polygon(lower) + "f\nQ\n"
}

func polygon(ps []geom.Point) string {
	var b strings.Builder
	for i, p := range ps {
		fmt.Fprintf(&b, "%s %s %s\n", dec(p.X), dec(p.Y), map[bool]string{true: "m", false: "l"}[i == 0])
	}
	b.WriteString("h\n")
	return b.String()
}

// markSign is the sign of the ZapfDingbats font by which readers draw a mark anew
// (/MK /CA; ISO 32000-2, annex D.6 names the signs).
func markSign(x form.Field) string {
	if s, ok := map[string]string{"check": "4", "circle": "l", "cross": "8", "diamond": "u", "square": "n", "star": "H"}[x.Mark]; ok {
		return s
	}
	if x.Kind == form.Radio {
		return "l"
	}
	return "8"
}

// markContent draws the mark of a ticked box, so that no font is needed.
func markContent(x form.Field, w, h float64) string {
	ink := typeColour(x.Look)
	stroke := strings.ToUpper(ink)
	s := math.Min(w, h)
	cx, cy := w/2, h/2
	switch mark := x.Mark; {
	case mark == "circle" || mark == "" && x.Kind == form.Radio:
		return "q\n" + ink + "\n" + circle(cx, cy, s*0.26) + "f\nQ\n"
	case mark == "check":
		return fmt.Sprintf("q\n%s\n%s w\n1 J\n1 j\n%s %s m %s %s l %s %s l\nS\nQ\n", stroke, dec(math.Max(0.8, s*0.12)),
			dec(cx-s*0.3), dec(cy), dec(cx-s*0.08), dec(cy-s*0.26), dec(cx+s*0.32), dec(cy+s*0.3))
	case mark == "diamond":
		d := s * 0.32
		return "q\n" + ink + "\n" + polygon([]geom.Point{{X: cx, Y: cy + d}, {X: cx + d, Y: cy}, {X: cx, Y: cy - d}, {X: cx - d, Y: cy}}) + "f\nQ\n"
	case mark == "square":
		d := s * 0.26
		return fmt.Sprintf("q\n%s\n%s %s %s %s re\nf\nQ\n", ink, dec(cx-d), dec(cy-d), dec(2*d), dec(2*d))
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
	return fmt.Sprintf("q\n%s\n%s w\n1 J\n%s %s m %s %s l\n%s %s m %s %s l\nS\nQ\n", stroke, dec(math.Max(0.8, s*0.11)),
		dec(cx-d), dec(cy-d), dec(cx+d), dec(cy+d), dec(cx-d), dec(cy+d), dec(cx+d), dec(cy-d))
}

// listContent sets the options of a list box below each other, the chosen one on a tint.
func listContent(options []form.Option, chosen []string, w, h float64, l looks, face typeface) string {
	size := l.size
	if size <= 0 {
		size = math.Min(maxAuto, math.Max(minAuto, h/6))
	}
	step := size * lineStep
	var b strings.Builder
	fmt.Fprintf(&b, "/Tx BMC\nq\n1 1 %s %s re W n\n", dec(w-2), dec(h-2))
	y := h - pad - step
	for _, o := range options {
		if y < -step {
			break
		}
		if o.Label != "" && slices.Contains(chosen, o.Label) {
			fmt.Fprintf(&b, "0.8 0.85 0.95 rg\n%s %s %s %s re f\n", dec(1), dec(y-size*0.15), dec(w-2), dec(step))
		}
		fmt.Fprintf(&b, "BT\n%s\n/%s %s Tf\n%s %s Td\n%s Tj\nET\n", l.colour, face.resource(), dec(size), dec(aligned(l.align, w, face.width(o.Label)*size)), dec(y+descent*size*0.4), face.show(o.Label))
		y -= step
	}
	b.WriteString("Q\nEMC\n")
	return b.String()
}

// listed are the options as they are written, with the blank one that may come first.
func listed(x form.Field) []form.Option {
	if !x.BlankFirst {
		return x.Options
	}
	return append([]form.Option{{Label: " "}}, x.Options...)
}

var (
	daFont   = regexp.MustCompile(`/(\S+)\s+([\d.]+)\s+Tf`)
	daColour = regexp.MustCompile(`((?:[\d.]+\s+){1,4})(g|rg|k)\b`)
)

// lookOf reads how a widget looks: from its default appearance, alignment, appearance
// characteristics and border style, its own or those it inherits.
func (f *file) lookOf(w Widget) form.Look {
	var l form.Look
	find := func(key string) types.Object {
		for _, ref := range w.refs {
			if o, ok := f.dict(ref).Find(key); ok {
				return o
			}
		}
		cat, err := f.catalog()
		if err != nil {
			return nil
		}
		return entry(f.dict(entry(cat, "AcroForm")), key)
	}
	da := f.text(find("DA"))
	if m := daFont.FindStringSubmatch(da); m != nil {
		if slices.Contains(form.Fonts[1:], m[1]) {
			l.Font = m[1]
		}
		if i := slices.IndexFunc(faces, func(e *embedded) bool { return e.name == m[1] }); i >= 0 {
			l.Font = faces[i].key
		}
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
	l.Align = map[int]form.Align{1: form.AlignCentre, 2: form.AlignRight}[f.integer(find("Q"))]
	mk := f.dict(entry(w.widget, "MK"))
	l.Fill, l.Border = f.colourOf(entry(mk, "BG")), f.colourOf(entry(mk, "BC"))
	if l.Border == "" {
		return l
	}
	if bs := f.dict(entry(w.widget, "BS")); bs != nil {
		l.BorderStyle = map[string]form.BorderStyle{"D": form.DashedBorder, "B": form.BevelBorder, "I": form.InsetBorder, "U": form.UnderlineOnly}[f.name(entry(bs, "S"))]
		if o := entry(bs, "W"); o != nil {
			l.BorderWidth = math.Min(12, f.number(o))
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
func (f *file) colourOf(o types.Object) string {
	var parts []float64
	for _, p := range f.array(o) {
		parts = append(parts, f.number(p))
	}
	return hex(parts)
}

// hex writes grey, RGB or CMYK parts from 0 to 1 as "#rrggbb" (ISO 32000-2, 10.3 for
// the simple conversion from CMYK).
func hex(parts []float64) string {
	byteOf := func(v float64) int { return int(math.Round(255 * math.Max(0, math.Min(1, v)))) }
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

// annotFlags are the annotation flags of a field (ISO 32000-2, table 167).
func annotFlags(x form.Field) int {
	n := map[form.Show]int{form.ShowBoth: AnnotPrint, form.ShowScreen: 0, form.ShowPrint: AnnotPrint | AnnotNoView, form.ShowNone: AnnotHidden}[x.Shows()]
	if x.Locked {
		n |= AnnotLocked
	}
	return n
}

// showOf reads where a widget shows.
func showOf(annot int) form.Show {
	switch {
	case annot&AnnotHidden != 0, annot&AnnotNoView != 0 && annot&AnnotPrint == 0:
		return form.ShowNone
	case annot&AnnotNoView != 0:
		return form.ShowPrint
	case annot&AnnotPrint == 0:
		return form.ShowScreen
	}
	return form.ShowBoth
}
