package proof

import (
	"bytes"
	"fmt"
	"image"
	_ "image/gif" // pictures of buttons come in these formats
	_ "image/jpeg"
	_ "image/png"
	"slices"

	_ "golang.org/x/image/webp"

	"zealousmargin.example/internal/form"
)

// signs are those of the ZapfDingbats font by which readers draw a mark anew (annex D.6).
var signs = map[string]string{"check": "4", "circle": "l", "cross": "8", "diamond": "u", "square": "n", "star": "H"}

// shapes are the paths by which marks are told: how the ways of drawing begin and end.
var shapes = map[string]string{"check": "mll S", "circle": "mcccc f", "cross": "mlml S", "diamond": "mlll f", "square": "r f", "star": "mlllllllll f"}

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
	on, off := s.ap.normal[s.x.OnState()], s.ap.normal["Off"]
	if len(on.paints) != len(off.paints)+1 {
		return fmt.Sprintf("%d marks when it is on and %d when it is off", len(on.paints), len(off.paints)), "one more when it is on"
	}
	last := on.paints[len(on.paints)-1]
	if is := last.path + " " + last.how; is != shapes[should] {
		return is, shapes[should]
	}
	if s.ours {
		return colourOf(last.colour), colourOr(s.x.Look.Colour)
	}
	return "", ""
}

func colourOr(c string) string {
	if c == "" {
		return black
	}
	return c
}

// framed is the ground and the border that the appearances of a field draw.
func framed(s *subject) (string, string) {
	if !s.ours {
		return "", ""
	}
	look := s.x.Look
	if s.x.Kind == form.Button {
		return "", "" // its ground tells that it is pressed
	}
	for state, ap := range s.ap.normal {
		var ground, line *paint
		for i := range ap.paints {
			p := &ap.paints[i]
			if ground == nil && p.how == "f" && i == 0 {
				ground = p
			}
			if line == nil && p.how == "S" && i <= 1 {
				line = p
			}
		}
		if look.Fill != "" && (ground == nil || colourOf(ground.colour) != look.Fill) {
			return fmt.Sprintf("drawn %q without it", state), "drawn on " + look.Fill
		}
		if look.Border == "" {
			continue
		}
		width := look.BorderWidth
		if width == 0 {
			width = 1
		}
		if line == nil || colourOf(line.colour) != look.Border || line.width != width || line.dashed != (look.BorderStyle == form.DashedBorder) {
			return fmt.Sprintf("drawn %q with another border", state), "drawn with a border " + look.Border
		}
	}
	return "", ""
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
	icon := s.w.f.draw(s.w.dict["MK"].(dict)["I"])
	shown := s.ap.normal[""].picture
	if !has || icon.picture == nil || s.x.Face.Layout != form.CaptionOnly && shown == nil {
		return "no picture", "its picture"
	}
	for _, p := range []*stream{icon.picture, shown} {
		if p != nil && !s.w.f.depicts(*p, want) {
			return "another picture", "its picture"
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
		want = []string{"Off", s.x.OnState()}
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
	if !ok || got != turn {
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
	if is := s.ap.normal[""].text; is != want {
		return is, want
	}
	if s.ap.pressed == nil {
		return "", ""
	}
	if want != "" && s.x.Face.PressedCaption != "" {
		want = s.x.Face.PressedCaption
	}
	return "pressed " + s.ap.pressed.text, "pressed " + want
}
