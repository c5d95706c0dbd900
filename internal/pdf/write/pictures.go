package write

import (
	"bytes"
	"fmt"
	"image"
	"image/draw"

	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"

	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/pdf/object"
)

// Picture is a picture that becomes a page of its size at its resolution.
type Picture struct {
	Image image.Image
	JPEG  []byte  // the file itself, when it can go in as it is
	DPI   float64 // dots per inch
	// Orientation says which way up the pixels lie: 1 as they are, 2 to 8 as the Exif
	// tag of that name (JEITA CP-3451, 4.6.4: which row and column come first).
	Orientation int
}

// FromPictures makes a PDF with one page a picture.
func FromPictures(pics []Picture) ([]byte, error) {
	a := assembler{objects: [][]byte{nil}}
	root, tree := a.reserve(), a.reserve()
	kids := types.Array{}
	for _, p := range pics {
		img, err := a.picture(p)
		if err != nil {
			return nil, err
		}
		w, h := float64(p.Image.Bounds().Dx())*72/p.DPI, float64(p.Image.Bounds().Dy())*72/p.DPI
		m := orient(p.Orientation, w, h)
		if p.Orientation >= 5 {
			w, h = h, w
		}
		content, err := a.Stream([]byte("q\n"+cm(m)+"/Im0 Do\nQ\n"), nil)
		if err != nil {
			return nil, err
		}
		kids = append(kids, a.add(types.Dict{
			"Type": types.Name("Page"), "Parent": *types.NewIndirectRef(tree, 0), "MediaBox": object.RectArray(geom.Rect{X1: w, Y1: h}),
			"Resources": types.Dict{"XObject": types.Dict{"Im0": img}}, "Contents": content,
		}))
	}
	a.put(tree, types.Dict{"Type": types.Name("Pages"), "Kids": kids, "Count": types.Integer(len(kids))})
	a.put(root, types.Dict{"Type": types.Name("Catalog"), "Pages": *types.NewIndirectRef(tree, 0)})
	return a.bytes(root, a.add(types.Dict{})), nil
}

// orient maps the unit square of an image onto the upright page: w by h is the size of
// the picture as its pixels lie.
func orient(o int, w, h float64) geom.Matrix {
	switch o {
	case 2: // mirrored
		return geom.Matrix{-w, 0, 0, h, w, 0}
	case 3: // upside down
		return geom.Matrix{-w, 0, 0, -h, w, h}
	case 4:
		return geom.Matrix{w, 0, 0, -h, 0, h}
	case 5:
		return geom.Matrix{0, -w, -h, 0, h, w}
	case 6: // to be turned a quarter clockwise
		return geom.Matrix{0, -w, h, 0, 0, w}
	case 7:
		return geom.Matrix{0, w, h, 0, 0, 0}
	case 8: // a quarter counterclockwise
		return geom.Matrix{0, w, -h, 0, h, 0}
	}
	return geom.Matrix{w, 0, 0, h, 0, 0}
}

// picture writes an image XObject (ISO 32000-2, 8.9.5): a JPEG as it is, others
// compressed without loss, with one component where there is no colour and one bit
// where there is black and white only.
func (a *assembler) picture(p Picture) (types.IndirectRef, error) {
	b := p.Image.Bounds()
	d := types.Dict{
		"Type": types.Name("XObject"), "Subtype": types.Name("Image"), "Width": types.Integer(b.Dx()), "Height": types.Integer(b.Dy()),
		"BitsPerComponent": types.Integer(8), "ColorSpace": types.Name("DeviceRGB"),
	}
	if p.DPI <= 0 {
		return types.IndirectRef{}, fmt.Errorf("a picture needs a resolution")
	}
	if p.JPEG != nil {
		if _, gray := p.Image.(*image.Gray); gray {
			d["ColorSpace"] = types.Name("DeviceGray")
		}
		d["Filter"], d["Length"] = types.Name("DCTDecode"), types.Integer(len(p.JPEG))
		n := a.reserve()
		a.objects[n] = streamBytes(d, p.JPEG)
		return *types.NewIndirectRef(n, 0), nil
	}
	rgb, gray, bits := samples(p.Image)
	switch {
	case bits:
		d["ColorSpace"], d["BitsPerComponent"] = types.Name("DeviceGray"), types.Integer(1)
		return a.Stream(oneBit(gray, b.Dx(), b.Dy()), d)
	case gray != nil:
		d["ColorSpace"] = types.Name("DeviceGray")
		return a.Stream(gray, d)
	}
	return a.Stream(rgb, d)
}

// samples reads a picture on white: as grey where it has no colour, and tells
// whether it is black and white only.
func samples(img image.Image) (rgb, gray []byte, bits bool) {
	b := img.Bounds()
	on, ok := img.(*image.RGBA)
	if !ok || b.Min != (image.Point{}) {
		on = image.NewRGBA(image.Rect(0, 0, b.Dx(), b.Dy()))
		draw.Draw(on, on.Rect, image.White, image.Point{}, draw.Src)
		draw.Draw(on, on.Rect, img, b.Min, draw.Over)
	}
	rgb = make([]byte, 3*b.Dx()*b.Dy())
	colour, bits := false, true
	for y := range b.Dy() {
		src, dst := on.Pix[y*on.Stride:y*on.Stride+4*b.Dx()], rgb[3*y*b.Dx():3*(y+1)*b.Dx()]
		for x := range b.Dx() {
			p, c := src[4*x:4*x+4:4*x+4], dst[3*x:3*x+3:3*x+3]
			paper := 255 - p[3]
			c[0], c[1], c[2] = p[0]+paper, p[1]+paper, p[2]+paper
			colour = colour || c[0] != c[1] || c[1] != c[2]
			bits = bits && (c[0] == 0 || c[0] == 255)
		}
	}
	if colour {
		return rgb, nil, false
	}
	gray = make([]byte, len(rgb)/3)
	for i := range gray {
		gray[i] = rgb[3*i]
	}
	return nil, gray, bits
}

func oneBit(gray []byte, w, h int) []byte {
	var out bytes.Buffer
	row := make([]byte, (w+7)/8)
	for y := range h {
		clear(row)
		for x := range w {
			if gray[y*w+x] != 0 {
				row[x/8] |= 0x80 >> (x % 8)
			}
		}
		out.Write(row)
	}
	return out.Bytes()
}

// Blank makes a PDF with one empty page of w by h points.
func Blank(w, h float64) ([]byte, error) {
	a := assembler{objects: [][]byte{nil}}
	root, tree := a.reserve(), a.reserve()
	page := a.add(types.Dict{
		"Type": types.Name("Page"), "Parent": *types.NewIndirectRef(tree, 0), "MediaBox": object.RectArray(geom.Rect{X1: w, Y1: h}),
		"Resources": types.Dict{},
	})
	a.put(tree, types.Dict{"Type": types.Name("Pages"), "Kids": types.Array{page}, "Count": types.Integer(1)})
	a.put(root, types.Dict{"Type": types.Name("Catalog"), "Pages": *types.NewIndirectRef(tree, 0)})
	return a.bytes(root, a.add(types.Dict{})), nil
}
