package pdf

import (
	"bytes"
	"cmp"
	"fmt"
	"image"
	_ "image/gif" // pictures of buttons come in these formats
	_ "image/jpeg"
	_ "image/png"
	"math"
	"slices"

	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"
	_ "golang.org/x/image/webp"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
)

// takePicture is the script by which a button takes a picture (ISO 21757-1,
// Field.buttonImportIcon): the standard has no action for it.
const takePicture = "event.target.buttonImportIcon();"

// highlights are the highlighting modes of a pressed button (ISO 32000-2, table 191, /H).
var highlights = map[form.Pressed]string{form.PushedIn: "P", form.Same: "N", form.Inverted: "I", form.Outlined: "O"}

// icon is a picture as a form XObject, with its size in its own units.
type icon struct {
	ref  types.IndirectRef
	w, h float64
}

// maxPicturePixels bounds the picture of a button: more would only make the form large.
const maxPicturePixels = 4 << 20

// CheckPicture refuses what cannot be the picture of a button, and says what to do.
func CheckPicture(b []byte) error {
	c, _, err := image.DecodeConfig(bytes.NewReader(b))
	if err != nil {
		return fmt.Errorf("this is not a picture that a button can show: choose a PNG, JPEG, GIF or WebP file")
	}
	if c.Width*c.Height > maxPicturePixels {
		return fmt.Errorf("the picture has %d by %d pixels: make it smaller, a button shows at most four million", c.Width, c.Height)
	}
	return nil
}

// icon writes a picture of the draft, once.
func (b *builder) icon(address string) (icon, error) {
	if ic, ok := b.icons[address]; ok {
		return ic, nil
	}
	data, ok := b.pictures[address]
	if !ok {
		return icon{}, fmt.Errorf("its picture is missing: choose it again")
	}
	if err := CheckPicture(data); err != nil {
		return icon{}, err
	}
	img, kind, err := image.Decode(bytes.NewReader(data))
	if err != nil {
		return icon{}, fmt.Errorf("its picture is damaged: choose it again")
	}
	ref, err := b.image(img, kind, data)
	if err != nil {
		return icon{}, err
	}
	w, h := float64(img.Bounds().Dx()), float64(img.Bounds().Dy())
	ref, err = b.stream([]byte(fmt.Sprintf("q\n%s 0 0 %s 0 0 cm\n/Im Do\nQ\n", dec(w), dec(h))), types.Dict{
		"Type": types.Name("XObject"), "Subtype": types.Name("Form"), "FormType": types.Integer(1),
		"BBox": types.Array{num(0), num(0), num(w), num(h)}, "Resources": types.Dict{"XObject": types.Dict{"Im": ref}},
	})
	ic := icon{ref: ref, w: w, h: h}
	b.icons[address] = ic
	return ic, err
}

// image writes an image XObject (ISO 32000-2, 8.9.5): an upright JPEG in RGB or grey as it is,
// others without loss, what shines through as a soft mask.
func (b *builder) image(img image.Image, kind string, data []byte) (types.IndirectRef, error) {
	size := img.Bounds()
	d := types.Dict{
		"Type": types.Name("XObject"), "Subtype": types.Name("Image"), "Width": types.Integer(size.Dx()), "Height": types.Integer(size.Dy()),
		"BitsPerComponent": types.Integer(8), "ColorSpace": types.Name("DeviceRGB"),
	}
	switch img.(type) {
	case *image.YCbCr:
		if kind == "jpeg" {
			return b.ready(data, "DCTDecode", d)
		}
	case *image.Gray:
		d["ColorSpace"] = types.Name("DeviceGray")
		if kind == "jpeg" {
			return b.ready(data, "DCTDecode", d)
		}
	}
	rgb, gray, _ := samples(img)
	if gray != nil {
		d["ColorSpace"], rgb = types.Name("DeviceGray"), gray
	}
	if mask := opacity(img); mask != nil {
		ref, err := b.stream(mask, types.Dict{
			"Type": types.Name("XObject"), "Subtype": types.Name("Image"), "Width": types.Integer(size.Dx()), "Height": types.Integer(size.Dy()),
			"BitsPerComponent": types.Integer(8), "ColorSpace": types.Name("DeviceGray"),
		})
		if err != nil {
			return ref, err
		}
		d["SMask"] = ref
	}
	return b.stream(rgb, d)
}

// opacity is how opaque every pixel is; nil when all are wholly.
func opacity(img image.Image) []byte {
	b := img.Bounds()
	out := make([]byte, 0, b.Dx()*b.Dy())
	solid := true
	for y := b.Min.Y; y < b.Max.Y; y++ {
		for x := b.Min.X; x < b.Max.X; x++ {
			_, _, _, a := img.At(x, y).RGBA()
			solid = solid && a == 0xffff
			out = append(out, byte(a>>8))
		}
	}
	if solid {
		return nil
	}
	return out
}

// ready makes a stream of bytes that are encoded already.
func (f *file) ready(raw []byte, filter string, entries types.Dict) (types.IndirectRef, error) {
	n := int64(len(raw))
	entries["Filter"], entries["Length"] = types.Name(filter), types.Integer(n)
	return f.add(types.StreamDict{Dict: entries, Raw: raw, StreamLength: &n, FilterPipeline: []types.PDFFilter{{Name: filter}}})
}

// face is what a button shows in one of its states.
type face struct {
	caption string
	pressed bool
	icon    *icon
	set     typeface
}

// buttonFaces draws the states of a button: N, and D where it looks pushed in.
func (b *builder) buttonFaces(x form.Field, r geom.Rect, l looks, own *icon) (types.Dict, error) {
	ap := types.Dict{}
	states := []string{"N"}
	if x.Face.Pressed == form.PushedIn {
		states = append(states, "D")
	}
	for _, state := range states {
		f := face{caption: x.Caption, pressed: state == "D", icon: own}
		if f.pressed {
			f.caption = cmp.Or(x.Face.PressedCaption, f.caption)
		}
		fonts, set, err := b.fontsFor(f.caption, x.Look.Font)
		if err != nil {
			return nil, err
		}
		f.set = set
		res := types.Dict{"Font": fonts}
		if own != nil {
			res["XObject"] = types.Dict{"Ic": own.ref}
		}
		w, h := l.inner(r)
		if ap[state], err = b.appearanceWith(f.content(x, w, h), r, l, res); err != nil {
			return nil, err
		}
	}
	return ap, nil
}

// faceEntries writes what a button shows into its appearance characteristics (ISO
// 32000-2, table 192).
func faceEntries(x form.Field, mk types.Dict, ic *icon) {
	put := func(key string, on bool, o types.Object) {
		if on {
			mk[key] = o
		} else {
			delete(mk, key)
		}
	}
	put("CA", x.Caption != "", str(x.Caption))
	put("AC", x.Face.PressedCaption != "", str(x.Face.PressedCaption))
	tp := slices.Index(form.Layouts, x.Face.Layout)
	put("TP", tp > 0, types.Integer(tp))
	if ic != nil {
		mk["I"] = ic.ref
		mk["IF"] = types.Dict{"SW": types.Name("A"), "S": types.Name("P")} // always, in proportion (table 250)
	}
}

func (b *builder) button(x form.Field, d, mk types.Dict, r geom.Rect, l looks) error {
	if x.Caption == "" && x.Face.Picture == "" && x.Action.Do != form.TakePicture {
		x.Caption = x.Name
	}
	var ic *icon
	if x.Face.Picture != "" {
		one, err := b.icon(x.Face.Picture)
		if err != nil {
			return err
		}
		ic = &one
	}
	ap, err := b.buttonFaces(x, r, l, ic)
	if err != nil {
		return err
	}
	d["AP"] = ap
	d["H"] = types.Name(highlights[x.Face.Pressed])
	if d["DA"], err = b.appearanceString(x.Look); err != nil {
		return err
	}
	faceEntries(x, mk, ic)
	if x.Look.Fill == "" {
		mk["BG"] = types.Array{types.Float(0.94)}
	}
	if x.Look.Border == "" {
		mk["BC"] = types.Array{types.Float(0.35)}
	}
	return nil
}

// mendButton writes what a row says of a button over what the widget has. A picture that
// came with the file stays.
func (b *builder) mendButton(w Widget, x, was form.Field) error {
	if was.Caption != x.Caption || was.Look != x.Look || was.Face != x.Face {
		mk := types.Dict{}
		for k, v := range b.dict(entry(w.widget, "MK")) {
			mk[k] = v
		}
		ic := b.ownIcon(mk)
		if x.Face.Picture != "" {
			one, err := b.icon(x.Face.Picture)
			if err != nil {
				return err
			}
			ic = &one
		}
		ap, err := b.buttonFaces(x, x.Rect, b.looksOf(w), ic)
		if err != nil {
			return err
		}
		w.widget.Update("AP", ap)
		faceEntries(x, mk, ic)
		w.widget.Update("MK", mk)
		w.widget.Update("H", types.Name(highlights[x.Face.Pressed]))
	}
	return nil
}

// ownIcon is the picture that a button brought with it.
func (f *file) ownIcon(mk types.Dict) *icon {
	ref, ok := entry(mk, "I").(types.IndirectRef)
	if !ok {
		return nil
	}
	box, ok := f.rect(entry(f.dict(ref), "BBox"))
	if !ok || box.W() <= 0 || box.H() <= 0 {
		return nil
	}
	return &icon{ref: ref, w: box.W(), h: box.H()}
}

// faceOf reads the face of a button.
func (f *file) faceOf(d types.Dict) (face form.Face, hasIcon bool) {
	mk := f.dict(entry(d, "MK"))
	if tp := f.integer(entry(mk, "TP")); tp > 0 && tp < len(form.Layouts) {
		face.Layout = form.Layouts[tp]
	}
	face.Pressed = form.Inverted // what a widget without the entry does
	for p, h := range highlights {
		if f.name(entry(d, "H")) == h || f.name(entry(d, "H")) == "T" && p == form.PushedIn { // T means the same as P
			face.Pressed = p
		}
	}
	if face.Pressed == form.PushedIn {
		face.PressedCaption = f.text(entry(mk, "AC"))
	}
	return face, f.dict(entry(mk, "I")) != nil
}

// content draws a button: a light ground with a border, unless its look says otherwise,
// and its caption and picture as its layout sets them.
func (f face) content(x form.Field, w, h float64) string {
	ground := "0.94 g"
	if f.pressed {
		ground = "0.82 g"
	}
	look := x.Look
	body := frameContent(look, w, h, false)
	if look.Fill == "" {
		body = fmt.Sprintf("%s\n0.5 0.5 %s %s re f\n", ground, dec(w-1), dec(h-1)) + body
	}
	if look.Border == "" {
		body += fmt.Sprintf("0.35 G 1 w 0.5 0.5 %s %s re S\n", dec(w-1), dec(h-1))
	}
	words, picture := f.areas(x.Face.Layout, geom.R(3, 2, w-3, h-2))
	if f.icon != nil && picture.W() > 0 && picture.H() > 0 {
		k := math.Min(picture.W()/f.icon.w, picture.H()/f.icon.h)
		at := picture.Mid()
		body += fmt.Sprintf("q\n%s 0 0 %s %s %s cm\n/Ic Do\nQ\n", decFine(k), decFine(k), dec(at.X-k*f.icon.w/2), dec(at.Y-k*f.icon.h/2))
	}
	if f.caption != "" && words.W() > 0 && words.H() > 0 {
		size := f.size(look, words)
		at := words.Mid()
		left, base := math.Max(words.X0-1, at.X-f.set.width(f.caption)*size/2), at.Y-(ascent+descent)*size/2+descent*size
		body += fmt.Sprintf("BT\n%s\n/%s %s Tf\n%s %s Td\n%s Tj\nET\n", typeColour(look), f.set.resource(), dec(size), dec(left), dec(base), f.set.show(f.caption))
	}
	return "q\n" + body + "Q\n"
}

// size is that of the caption: the one that was set, or as large as there is room for.
func (f face) size(look form.Look, words geom.Rect) float64 {
	if look.Size > 0 {
		return look.Size
	}
	size := math.Min(maxAuto, words.H()/(ascent+descent))
	if tw := f.set.width(f.caption) * size; tw > words.W() {
		size = math.Max(minAuto, size*words.W()/tw)
	}
	return size
}

// areas divides the inside of a button between its caption and its picture.
func (f face) areas(layout form.Layout, in geom.Rect) (words, picture geom.Rect) {
	line := math.Min(maxAuto*(ascent+descent), in.H()*0.45)
	text := in.W() / 2
	if f.set != nil && f.caption != "" {
		text = math.Min(f.set.width(f.caption)*maxAuto, in.W()*0.6)
	}
	const gap = 2.0
	switch layout {
	case form.PictureOnly:
		if f.icon == nil { // until there is one, the caption stands in for it
			return in, geom.Rect{}
		}
		return geom.Rect{}, in
	case form.CaptionBelow:
		return geom.R(in.X0, in.Y0, in.X1, in.Y0+line), geom.R(in.X0, in.Y0+line+gap, in.X1, in.Y1)
	case form.CaptionAbove:
		return geom.R(in.X0, in.Y1-line, in.X1, in.Y1), geom.R(in.X0, in.Y0, in.X1, in.Y1-line-gap)
	case form.CaptionRight:
		return geom.R(in.X1-text, in.Y0, in.X1, in.Y1), geom.R(in.X0, in.Y0, in.X1-text-gap, in.Y1)
	case form.CaptionLeft:
		return geom.R(in.X0, in.Y0, in.X0+text, in.Y1), geom.R(in.X0+text+gap, in.Y0, in.X1, in.Y1)
	case form.CaptionOver:
		return in, in
	}
	return in, geom.Rect{}
}

// decFine writes a number that scales: six places.
func decFine(v float64) string { return fmt.Sprintf("%.6f", v) }
