package proof

import (
	"bytes"
	"cmp"
	"fmt"
	"image"
	_ "image/gif" // pictures of buttons come in these formats
	_ "image/jpeg"
	_ "image/png"
	"maps"
	"math"
	"slices"
	"strconv"

	_ "golang.org/x/image/webp"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
)

// signs are those of the ZapfDingbats font by which readers draw a mark anew (annex D.6).
var signs = map[string]string{"check": "4", "circle": "l", "cross": "8", "diamond": "u", "square": "n", "star": "H"}

// shapes are the paths by which marks are told: how the ways of drawing begin and end.
var shapes = map[string]string{
	"check": "mll S", "circle": "mcccc f", "cross": "mlml S", "diamond": "mlll f", "square": "r f",
	"star": "mlllllllll f",
}

// mark is the sign of a box to tick, and what is drawn when it is on and not when it is off.
func mark(s *subject) (string, string) {
	should := s.x.Mark
	if should == "" {
		should = map[form.Kind]string{form.CheckBox: "cross", form.Radio: "circle"}[s.x.Kind]
	}
	if !s.ours && (s.x.Mark == "" || s.unchangedLooks()) {
		return "", ""
	}
	if is := s.w.f.words(s.w.mk("CA")); is != signs[should] {
		return is, signs[should]
	}
	on, off := s.ap.normal[s.stateOf(s.x)], s.ap.normal["Off"]
	if len(on.paints) != len(off.paints)+1 {
		return fmt.Sprintf("%d marks when it is on and %d when it is off", len(on.paints), len(off.paints)), "one more when it is on"
	}
	last := on.paints[len(on.paints)-1]
	if is := last.path + " " + last.how; is != shapes[should] {
		return is, shapes[should]
	}
	if is, should := s.inTheMiddle(last, on); is != should || !s.ours {
		return is, should
	}
	return colourOf(last.colour), colourOr(s.x.Look.Colour)
}

// inTheMiddle tells whether a mark is in the middle of its box and fills about half of it.
func (s *subject) inTheMiddle(p paint, ap drawn) (string, string) {
	w, h := ap.box[2]-ap.box[0], ap.box[3]-ap.box[1]
	side := math.Min(w, h)
	across, down := (p.box[0]+p.box[2]-w)/2, (p.box[1]+p.box[3]-h)/2
	long := math.Max(p.box[2]-p.box[0], p.box[3]-p.box[1])
	if math.Max(math.Abs(across), math.Abs(down)) > 0.1*side || long < 0.4*side || long > 0.85*side {
		return fmt.Sprintf("%.1f points long, %.1f and %.1f from the middle", long, across, down), "in the middle of its box"
	}
	return "", ""
}

func colourOr(c string) string {
	if c == "" {
		return black
	}
	return c
}

// looks are the appearances of a widget with what they are called, the pressed one last.
func (s *subject) looks() []struct {
	state string
	ap    drawn
} {
	type one = struct {
		state string
		ap    drawn
	}
	var out []one
	for _, state := range slices.Sorted(maps.Keys(s.ap.normal)) {
		out = append(out, one{state, s.ap.normal[state]})
	}
	if s.ap.pressed != nil {
		out = append(out, one{"pressed", *s.ap.pressed})
	}
	return out
}

// pressedGround is that of a button that is pushed in and has no ground of its own.
const pressedGround = "#d1d1d1"

// framed is the ground and the border that the appearances of a field draw.
func framed(s *subject) (string, string) {
	if !s.ours {
		return "", ""
	}
	look := s.x.Look
	for _, l := range s.looks() {
		paints, ground, line := l.ap.paints, look.Fill, look.Border
		if s.x.Kind == form.Button {
			if line == "" { // a plain one is drawn last
				line = plainBorder
			}
			if ground == "" {
				if ground = plainGround; l.state == "pressed" {
					ground = pressedGround
				}
			}
		}
		if ground != "" {
			if len(paints) == 0 || paints[0].how != "f" || colourOf(paints[0].colour) != ground || !around(paints[0], l.ap, 1) {
				return fmt.Sprintf("drawn %q without it", l.state), "drawn on " + ground
			}
			paints = paints[1:]
		}
		if line == "" {
			continue
		}
		width := look.BorderWidth
		if width == 0 || look.Border == "" {
			width = 1
		}
		if len(paints) == 0 || paints[0].how != "S" || colourOf(paints[0].colour) != line || paints[0].width != width {
			return fmt.Sprintf("drawn %q with another border", l.state), "drawn with a border " + line
		}
		if look.Border == "" {
			continue
		}
		is, should := bordered(paints, look.BorderStyle, s.x.Kind == form.Radio), string(look.BorderStyle)
		if is == should && look.BorderStyle != form.UnderlineOnly && s.x.Kind != form.Radio && !around(paints[0], l.ap, width) {
			is = "not at its edge"
		}
		if is != should {
			return fmt.Sprintf("drawn %q with a border that is %s", l.state, is), "one that is " + should
		}
	}
	return "", ""
}

// around tells whether a path goes around the whole of an appearance, at most so many points inside.
func around(p paint, ap drawn, inside float64) bool {
	for i, v := range p.box {
		if math.Abs(v-ap.box[i]) > inside+0.1 {
			return false
		}
	}
	return true
}

// bordered tells the style of a border by how it is drawn; a round one has no edges to stand out.
func bordered(paints []paint, wanted form.BorderStyle, round bool) string {
	edges := len(paints) > 2 && paints[1].path == "mlllll" && paints[2].path == "mlllll"
	switch p := paints[0]; {
	case p.path == "ml":
		return string(form.UnderlineOnly)
	case p.dashed:
		return string(form.DashedBorder)
	case edges && colourOf(paints[1].colour) == "#ffffff":
		return string(form.BevelBorder)
	case edges:
		return string(form.InsetBorder)
	case round && (wanted == form.BevelBorder || wanted == form.InsetBorder):
		return string(wanted)
	}
	return string(form.SolidBorder)
}

// picture is the one that a button shows, pixel for pixel.
func picture(s *subject) (string, string) {
	has := s.w.mk("I") != nil
	if s.x.Face.Picture == "" {
		if has && s.ours {
			return "a picture", "none"
		}
		return "", ""
	}
	want, ok := s.draft.Pictures[s.x.Face.Picture]
	if !ok {
		return "a picture that the draft does not have", s.x.Face.Picture
	}
	icon := s.w.f.draw(s.w.f.dict(s.w.dict["MK"])["I"])
	if !has || icon.picture == nil || !s.w.f.depicts(*icon.picture, want) {
		return "no picture or another one", "its picture"
	}
	size := [4]float64{0, 0, s.w.f.number(icon.picture.dict["Width"]), s.w.f.number(icon.picture.dict["Height"])}
	if icon.box != size {
		return fmt.Sprint("cut to ", icon.box), fmt.Sprint("cut to ", size)
	}
	fit := s.w.f.dict(s.w.mk("IF")) // always, in proportion (table 250)
	if how := s.w.f.name(fit["SW"]) + s.w.f.name(fit["S"]); s.ours && how != "AP" {
		return "fitted by " + how, "fitted by AP"
	}
	for _, l := range s.looks() {
		shows := s.x.Face.Layout != form.CaptionOnly
		if (l.ap.picture != nil) != shows || shows && !s.w.f.depicts(*l.ap.picture, want) {
			return fmt.Sprintf("drawn %q %s a picture, or with another", l.state,
				map[bool]string{true: "with", false: "without"}[l.ap.picture != nil]), "its picture"
		}
	}
	return "", ""
}

// layout is how a button sets its words and its picture (table 192, /TP), said and drawn.
func layout(s *subject) (string, string) {
	is, should := int(s.w.f.number(s.w.mk("TP"))), slices.Index(layouts, s.x.Face.Layout)
	if is != should || !s.ours {
		return strconv.Itoa(is), strconv.Itoa(should)
	}
	for _, l := range s.looks() {
		if l.ap.picture == nil || l.ap.text == "" {
			continue
		}
		p, x, y := l.ap.pictureAt, l.ap.at[0]+l.ap.wide/2, l.ap.at[1]
		ok := map[form.Layout]bool{
			form.CaptionBelow: y < p.Y0, form.CaptionAbove: y > p.Mid().Y && y >= p.Y1-1, form.CaptionRight: x > p.X1,
			form.CaptionLeft: x < p.X0,
			form.CaptionOver: p.Inset(-2).Contains(geom.Point{X: x, Y: y}),
		}[s.x.Face.Layout]
		if !ok {
			return fmt.Sprintf("drawn %q with its words at %.0f, %.0f and its picture at %v", l.state, x, y, p),
				"its words " + string(s.x.Face.Layout)
		}
	}
	return "", ""
}

// depicts tells whether an image XObject (8.9.5) is the picture that the bytes are.
func (f *file) depicts(x stream, want []byte) bool {
	if f.name(x.dict["Filter"]) == "DCTDecode" {
		return bytes.Equal(x.raw, want)
	}
	img, _, err := image.Decode(bytes.NewReader(want))
	data, derr := f.decode(x)
	if err != nil || derr != nil {
		return false
	}
	b := img.Bounds()
	if int(f.number(x.dict["Width"])) != b.Dx() || int(f.number(x.dict["Height"])) != b.Dy() {
		return false
	}
	parts := map[string]int{"DeviceRGB": 3, "DeviceGray": 1}[f.name(x.dict["ColorSpace"])]
	if parts == 0 || len(data) != parts*b.Dx()*b.Dy() {
		return false
	}
	const most = 3 // of 255: what rounding and half transparent pixels may differ by
	for i, y := 0, b.Min.Y; y < b.Max.Y; y++ {
		for x := b.Min.X; x < b.Max.X; x, i = x+1, i+parts {
			r, g, bl, a := img.At(x, y).RGBA()
			if a != 0xffff {
				continue
			}
			for k, v := range []uint32{r, g, bl}[:parts] {
				if d := int(data[i+k]) - int(v>>8); d > most || d < -most {
					return false
				}
			}
		}
	}
	return true
}

// complete tells what a widget lacks to be shown: an appearance for each of its states (12.5.5).
func complete(s *subject) (string, string) {
	if !s.ours {
		return "", ""
	}
	want := []string{""}
	if s.x.Kind == form.CheckBox || s.x.Kind == form.Radio {
		want = []string{"Off", s.stateOf(s.x)}
	}
	slices.Sort(want)
	var has []string
	for state, ap := range s.ap.normal {
		if ap.unknown {
			return fmt.Sprintf("nothing to read for the state %q", state), "an appearance"
		}
		has = append(has, state)
		if is, should := s.fits(ap); is != should {
			return is, should
		}
	}
	slices.Sort(has)
	if is, should := fmt.Sprintf("%q", has), fmt.Sprintf("%q", want); is != should {
		return is, should
	}
	if s.ap.pressed != nil {
		if is, should := s.fits(*s.ap.pressed); is != should {
			return "pressed " + is, should
		}
	}
	if (s.ap.pressed != nil) != (s.x.Kind == form.Button && s.x.Face.Pressed == form.PushedIn) {
		return onOff(s.ap.pressed != nil), "a pressed look of its own only when it is pushed in"
	}
	return "", ""
}

// fits tells whether an appearance, turned by its matrix, is as large as its widget (algorithm 8.1 of
// 12.5.5 then leaves it as it is), and turned as the widget says.
func (s *subject) fits(ap drawn) (string, string) {
	r := s.place()
	w, h := ap.box[2]-ap.box[0], ap.box[3]-ap.box[1]
	turn := ((int(s.w.f.number(s.w.mk("R"))) % 360) + 360) % 360
	if turn%180 != 0 {
		w, h = h, w
	}
	if d := max(r.W()-w, w-r.W(), r.H()-h, h-r.H()); d > 0.03 {
		return fmt.Sprintf("drawn %.2f by %.2f", w, h), fmt.Sprintf("drawn %.2f by %.2f", r.W(), r.H())
	}
	m := ap.matrix
	is := map[[4]float64]int{{1, 0, 0, 1}: 0, {0, 1, -1, 0}: 90, {-1, 0, 0, -1}: 180, {0, -1, 1, 0}: 270}
	got, ok := is[[4]float64{m[0], m[1], m[2], m[3]}]
	// Turned about the origin, it is shifted back into its rectangle.
	shift := map[int][2]float64{90: {r.W(), 0}, 180: {r.W(), r.H()}, 270: {0, r.H()}}[turn]
	if off := math.Max(math.Abs(m[4]-shift[0]), math.Abs(m[5]-shift[1])); !ok || got != turn || off > 0.03 {
		return fmt.Sprintf("drawn with the matrix %v", m), fmt.Sprintf("drawn turned by %d degrees", turn)
	}
	return "", ""
}

// faces are the words that a button shows, at rest and pressed.
func faces(s *subject) (string, string) {
	if s.x.Kind != form.Button || !s.ours {
		return "", ""
	}
	want := s.caption()
	if s.x.Face.Layout == form.PictureOnly && s.x.Face.Picture != "" {
		want = ""
	}
	for _, l := range s.looks() {
		if l.state == "pressed" && want != "" && s.x.Face.PressedCaption != "" {
			want = s.x.Face.PressedCaption
		}
		if l.ap.text != want {
			return l.state + " " + l.ap.text, l.state + " " + want
		}
		if is, should := s.typeOf(l.ap); is != should {
			return is, should
		}
		if off := l.ap.at[0] + l.ap.wide/2 - (l.ap.box[2]-l.ap.box[0])/2; want != "" && s.x.Face.Layout == form.CaptionOnly &&
			l.ap.wide > 0 && math.Abs(off) > 2 && l.ap.at[0] > 3 {
			return fmt.Sprintf("%s %.1f points beside the middle", l.state, off), "in the middle"
		}
	}
	return "", ""
}

// typeOf is the font, the size and the colour of the words of an appearance.
func (s *subject) typeOf(ap drawn) (string, string) {
	if ap.text == "" || len(ap.fonts) == 0 {
		return "", ""
	}
	want := cmp.Or(baseFonts[s.x.Look.Font], s.x.Look.Font)
	switch {
	case ap.fonts[0] != want && ap.fonts[0] != baseFonts["Go"]:
		return "shown in " + ap.fonts[0], "shown in " + want
	case s.x.Look.Size > 0 && ap.sizes[0] != s.x.Look.Size:
		return fmt.Sprint("shown in size ", ap.sizes[0]), fmt.Sprint("shown in size ", s.x.Look.Size)
	case colourOf(ap.colour) != colourOr(s.x.Look.Colour):
		return "shown in " + colourOf(ap.colour), "shown in " + colourOr(s.x.Look.Colour)
	}
	return "", ""
}

// upright tells whether one line of text stands in the middle of its field, from its upper to its
// lower edge.
func upright(s *subject) (string, string) {
	ap := s.ap.normal[""]
	if !s.ours || !typed(s.x) || ap.text == "" || s.x.Multiline || s.x.List == form.ListBox || s.x.List == form.ManyList ||
		len(ap.sizes) == 0 {
		return "", ""
	}
	const middle = (0.718 - 0.207) / 2 // of a letter above its base line, in em (Helvetica's ascent and descent, Adobe font metrics)
	if off := ap.at[1] + middle*ap.sizes[0] - (ap.box[3]-ap.box[1])/2; math.Abs(off) > 1 {
		return fmt.Sprintf("%.1f points off the middle", off), "in the middle"
	}
	return "", ""
}
