package proof

import (
	"errors"
	"io"
	"slices"
	"strings"
)

// operatorsOf the standard (ISO 32000-1, annex A), which is what 6.2.2 refers to; BI, ID and EI, which begin and end pictures between
// them, are not among them, since what lies between is not read here.
var operatorsOf = strings.Fields(
	"b B b* B* BDC BMC BT c cm CS cs d d0 d1 Do DP EMC ET f F f* G g gs h i j J K k l m M MP n q Q re RG rg " +
		"ri S s SC sc SCN scn sh T* Tc Td TD Tf Tj TJ TL Tm Tr Ts Tw Tz v w W W* y ' \"",
)

// draw looks at what is drawn by content with its resources; what says what it is in words.
func (a *archive) draw(what string, data []byte, resources dict, depth int) {
	if depth > 12 {
		a.fault("6.2.2", "%s is drawn by itself", what)
		return
	}
	type state struct {
		font *archivedFont
		mode int // 3 and 7 show nothing (ISO 32000-2, table 104)
	}
	var now state
	var stack []state
	var operands []any
	l := lexer{b: data}
	for {
		v, err := l.next()
		if err != nil {
			if !errors.Is(err, io.EOF) {
				a.fault("6.2.2", "%s cannot be read", what)
			}
			return
		}
		word, ok := v.(keyword)
		if !ok {
			operands = append(operands, v)
			continue
		}
		if !slices.Contains(operatorsOf, string(word)) {
			a.fault("6.2.2", "%s has %q", what, string(word))
			return
		}
		last := func() any {
			if len(operands) == 0 {
				return nil
			}
			return operands[len(operands)-1]
		}()
		of := func(sort name) any {
			n, _ := last.(name)
			o, has := a.f.dict(resources[sort])[n]
			if !has && n != "" {
				a.fault("6.2.2", "%s uses %s %s, which its resources do not have", what, sort, n)
			}
			return o
		}
		switch word {
		case "q":
			if stack = append(stack, now); len(stack) > 28 {
				a.fault("6.1.13", "%s keeps more than 28 states", what)
			}
		case "Q":
			if len(stack) > 0 {
				now, stack = stack[len(stack)-1], stack[:len(stack)-1]
			}
		case "k", "K":
			a.fault("6.2.4", "%s has inks", what)
		case "cs", "CS":
			if n, _ := last.(name); !slices.Contains([]string{"DeviceRGB", "DeviceGray", "Pattern"}, string(n)) {
				if n == "DeviceCMYK" {
					a.fault("6.2.4", "%s has inks", what)
				} else {
					a.colours(of("ColorSpace"), 0)
				}
			}
		case "scn", "SCN":
			if _, named := last.(name); named {
				a.pattern(what, of("Pattern"), depth)
			}
		case "sh":
			a.colours(a.f.dict(of("Shading"))["ColorSpace"], 0)
		case "ri":
			if n, _ := last.(name); !slices.Contains(
				[]string{"RelativeColorimetric", "AbsoluteColorimetric", "Perceptual", "Saturation"},
				string(n),
			) {
				a.fault("6.2.5", "%s has the intent %s (6.2.6)", what, n)
			}
		case "gs":
			a.state(what, a.f.dict(of("ExtGState")), depth)
		case "Tf":
			if len(operands) == 2 {
				last = operands[0]
				now.font = a.font(of("Font"))
			}
		case "Tr":
			v, _ := last.(float64)
			now.mode = int(v)
		case "Tj", "'", "\"":
			if b, ok := last.(text); ok {
				a.shown(what, now.font, b, now.mode)
			}
		case "TJ":
			list, _ := last.(array)
			for _, o := range list {
				if b, ok := o.(text); ok {
					a.shown(what, now.font, b, now.mode)
				}
			}
		case "Do":
			x, _ := a.f.resolve(of("XObject")).(stream)
			switch a.f.name(x.dict["Subtype"]) {
			case "Form":
				a.form("a form on "+what, x, depth+1)
			case "Image":
				a.image(what, x)
			default:
				a.fault("6.2.9", "%s draws %q", what, a.f.name(x.dict["Subtype"]))
			}
		}
		operands = operands[:0]
	}
}

func (a *archive) form(what string, s stream, depth int) {
	for _, k := range []name{"OPI", "PS", "Ref", "Subtype2"} {
		if s.dict[k] != nil {
			a.fault("6.2.9", "%s has %s", what, k)
		}
	}
	a.group(s.dict["Group"])
	data, err := a.f.decode(s)
	if err != nil {
		a.fault("6.2.2", "%s cannot be read", what)
		return
	}
	a.draw(what, data, a.f.dict(s.dict["Resources"]), depth)
}

func (a *archive) group(o any) {
	if g := a.f.dict(o); g["CS"] != nil {
		a.colours(g["CS"], 0)
	}
}

func (a *archive) pattern(what string, o any, depth int) {
	switch p := a.f.resolve(o).(type) {
	case stream:
		a.form("a pattern on "+what, p, depth+1)
	case dict:
		a.colours(a.f.dict(p["Shading"])["ColorSpace"], 0)
		a.state(what, a.f.dict(p["ExtGState"]), depth)
	}
}

// image holds a picture to 6.2.8.
func (a *archive) image(what string, x stream) {
	for _, k := range []name{"Alternates", "OPI", "SMaskInData"} {
		if x.dict[k] != nil {
			a.fault("6.2.8", "a picture of %s has %s", what, k)
		}
	}
	if a.f.resolve(x.dict["Interpolate"]) == true {
		a.fault("6.2.8", "a picture of %s has pixels that are guessed", what)
	}
	if a.f.resolve(x.dict["ImageMask"]) != true {
		a.colours(x.dict["ColorSpace"], 0)
	}
	for _, k := range []name{"SMask", "Mask"} {
		if m, ok := a.f.resolve(x.dict[k]).(stream); ok {
			a.image(what, m)
		}
	}
}

// colours holds a colour space to 6.2.4, where the output intent is one of RGB.
func (a *archive) colours(o any, depth int) {
	f := a.f
	o = f.resolve(o)
	kind := f.name(o)
	list, isList := o.(array)
	if isList && len(list) > 0 {
		kind = f.name(list[0])
	}
	at := func(i int) any {
		if i < len(list) {
			return list[i]
		}
		return nil
	}
	if depth > 8 {
		a.fault("6.2.4", "a colour space stands in itself")
		return
	}
	switch kind {
	case "DeviceRGB", "DeviceGray", "CalRGB", "CalGray", "Lab":
	case "Pattern":
		if at(1) != nil {
			a.colours(at(1), depth+1)
		}
	case "Indexed":
		a.colours(at(1), depth+1)
	case "Separation", "DeviceN":
		a.colours(at(2), depth+1)
	case "ICCBased":
		s, _ := f.resolve(at(1)).(stream)
		data, err := f.decode(s)
		space := map[int]string{1: "GRAY", 3: "RGB "}[int(f.number(s.dict["N"]))]
		if what := profiled(data, space); err != nil || what != "" {
			a.fault("6.2.4", "a colour space: %s", what)
		}
	default:
		a.fault("6.2.4", "colours of the kind %q", kind)
	}
}

var stateKeys = []string{
	"Type", "LW", "LC", "LJ", "ML", "D", "RI", "OP", "op", "OPM", "FL", "SM", "SA", "BM", "SMask", "CA", "ca", "AIS", "TK",
}

var blends = []string{
	"Normal", "Compatible", "Multiply", "Screen", "Overlay", "Darken", "Lighten", "ColorDodge", "ColorBurn", "HardLight",
	"SoftLight", "Difference", "Exclusion", "Hue", "Saturation", "Color", "Luminosity",
}

// state holds the parameters of a graphics state to 6.2.5 and 6.2.10.
func (a *archive) state(what string, d dict, depth int) {
	for k, v := range d {
		switch v = a.f.resolve(v); {
		case k == "BM":
			if n, ok := v.(name); !ok || !slices.Contains(blends, string(n)) {
				a.fault("6.2.5", "%s is blended by %v", what, v)
			}
		case k == "SMask" && v != name("None"):
			if g, ok := a.f.resolve(a.f.dict(v)["G"]).(stream); ok {
				a.form("a mask of "+what, g, depth+1)
			}
		case k == "TR2" && v == name("Default"):
		case !slices.Contains(stateKeys, string(k)):
			a.fault("6.2.5", "%s has %s", what, k)
		}
	}
}
