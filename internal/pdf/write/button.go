package write

import (
	"bytes"
	"cmp"
	"fmt"
	"image"
	_ "image/gif" // pictures of buttons come in these formats
	_ "image/jpeg"
	_ "image/png"
	"slices"

	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"
	_ "golang.org/x/image/webp"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/pdf/look"
	"zealousmargin.example/internal/pdf/object"
	"zealousmargin.example/internal/pdf/read"
)

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
func (b *Builder) icon(address string) (look.Icon, error) {
	if ic, ok := b.icons[address]; ok {
		return ic, nil
	}
	data, ok := b.pictures[address]
	if !ok {
		return look.Icon{}, fmt.Errorf("its picture is missing: choose it again")
	}
	if err := CheckPicture(data); err != nil {
		return look.Icon{}, err
	}
	img, kind, err := image.Decode(bytes.NewReader(data))
	if err != nil {
		return look.Icon{}, fmt.Errorf("its picture is damaged: choose it again")
	}
	ref, err := b.image(img, kind, data)
	if err != nil {
		return look.Icon{}, err
	}
	w, h := float64(img.Bounds().Dx()), float64(img.Bounds().Dy())
	ref, err = b.Stream([]byte(fmt.Sprintf("q\n%s 0 0 %s 0 0 cm\n/Im Do\nQ\n", object.Dec(w), object.Dec(h))), types.Dict{
		"Type": types.Name("XObject"), "Subtype": types.Name("Form"), "FormType": types.Integer(1),
		"BBox":      types.Array{object.Num(0), object.Num(0), object.Num(w), object.Num(h)},
		"Resources": types.Dict{"XObject": types.Dict{"Im": ref}},
	})
	ic := look.Icon{Ref: ref, W: w, H: h}
	b.icons[address] = ic
	return ic, err
}

// image writes an image XObject (ISO 32000-2, 8.9.5): an upright JPEG in RGB or grey as it is,
// others without loss, what shines through as a soft mask.
func (b *Builder) image(img image.Image, kind string, data []byte) (types.IndirectRef, error) {
	size := img.Bounds()
	d := types.Dict{
		"Type": types.Name("XObject"), "Subtype": types.Name("Image"), "Width": types.Integer(size.Dx()),
		"Height":           types.Integer(size.Dy()),
		"BitsPerComponent": types.Integer(8), "ColorSpace": types.Name("DeviceRGB"),
	}
	switch img.(type) {
	case *image.YCbCr:
		if kind == "jpeg" {
			return ready(b.Kit.File, data, "DCTDecode", d)
		}
	case *image.Gray:
		d["ColorSpace"] = types.Name("DeviceGray")
		if kind == "jpeg" {
			return ready(b.Kit.File, data, "DCTDecode", d)
		}
	}
	rgb, gray, _ := samples(img)
	if gray != nil {
		d["ColorSpace"], rgb = types.Name("DeviceGray"), gray
	}
	if mask := opacity(img); mask != nil {
		ref, err := b.Stream(mask, types.Dict{
			"Type": types.Name("XObject"), "Subtype": types.Name("Image"), "Width": types.Integer(size.Dx()),
			"Height":           types.Integer(size.Dy()),
			"BitsPerComponent": types.Integer(8), "ColorSpace": types.Name("DeviceGray"),
		})
		if err != nil {
			return ref, err
		}
		d["SMask"] = ref
	}
	return b.Stream(rgb, d)
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
func ready(f *object.File, raw []byte, filter string, entries types.Dict) (types.IndirectRef, error) {
	n := int64(len(raw))
	entries["Filter"], entries["Length"] = types.Name(filter), types.Integer(n)
	return f.Add(types.StreamDict{Dict: entries, Raw: raw, StreamLength: &n, FilterPipeline: []types.PDFFilter{{Name: filter}}})
}

// buttonFaces draws the states of a button: N, and D where it looks pushed in.
func (b *Builder) buttonFaces(x form.Field, r geom.Rect, l look.Setting, own *look.Icon) (types.Dict, error) {
	ap := types.Dict{}
	states := []string{"N"}
	if x.Face.Pressed == form.PushedIn {
		states = append(states, "D")
	}
	for _, state := range states {
		f := look.Face{Caption: x.Caption, Pressed: state == "D", Icon: own}
		if f.Pressed {
			f.Caption = cmp.Or(x.Face.PressedCaption, f.Caption)
		}
		fonts, set, err := b.FontsFor(f.Caption, x.Look.Font)
		if err != nil {
			return nil, err
		}
		f.Set = set
		res := types.Dict{"Font": fonts}
		if own != nil {
			res["XObject"] = types.Dict{"Ic": own.Ref}
		}
		w, h := l.Inner(r)
		if ap[state], err = look.AppearanceWith(b.Kit.File, f.Content(x, w, h), r, l, res); err != nil {
			return nil, err
		}
	}
	return ap, nil
}

// faceEntries writes what a button shows into its appearance characteristics (ISO
// 32000-2, table 192).
func faceEntries(x form.Field, mk types.Dict, ic *look.Icon) {
	put := func(key string, on bool, o types.Object) {
		if on {
			mk[key] = o
		} else {
			delete(mk, key)
		}
	}
	put("CA", x.Caption != "", object.Str(x.Caption))
	put("AC", x.Face.PressedCaption != "", object.Str(x.Face.PressedCaption))
	tp := slices.Index(form.Layouts, x.Face.Layout)
	put("TP", tp > 0, types.Integer(tp))
	if ic != nil {
		mk["I"] = ic.Ref
		mk["IF"] = types.Dict{"SW": types.Name("A"), "S": types.Name("P")} // always, in proportion (table 250)
	}
}

func (b *Builder) button(x form.Field, d, mk types.Dict, r geom.Rect, l look.Setting) error {
	if x.Caption == "" && x.Face.Picture == "" && x.Action.Do != form.TakePicture {
		x.Caption = x.Name
	}
	var ic *look.Icon
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
	d["H"] = types.Name(look.Highlights[x.Face.Pressed])
	if d["DA"], err = b.AppearanceString(x); err != nil {
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
func (b *Builder) mendButton(w read.Widget, x, was form.Field) error {
	if was.Caption != x.Caption || was.Look != x.Look || was.Face != x.Face {
		mk := types.Dict{}
		for k, v := range b.Dict(object.Entry(w.Dict, "MK")) {
			mk[k] = v
		}
		ic := ownIcon(b.Kit.File, mk)
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
		w.Dict.Update("AP", ap)
		faceEntries(x, mk, ic)
		w.Dict.Update("MK", mk)
		w.Dict.Update("H", types.Name(look.Highlights[x.Face.Pressed]))
	}
	return nil
}

// ownIcon is the picture that a button brought with it.
func ownIcon(f *object.File, mk types.Dict) *look.Icon {
	ref, ok := object.Entry(mk, "I").(types.IndirectRef)
	if !ok {
		return nil
	}
	box, ok := f.Rect(object.Entry(f.Dict(ref), "BBox"))
	if !ok || box.W() <= 0 || box.H() <= 0 {
		return nil
	}
	return &look.Icon{Ref: ref, W: box.W(), H: box.H()}
}
