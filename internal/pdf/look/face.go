package look

import (
	"fmt"
	_ "image/gif" // pictures of buttons come in these formats
	_ "image/jpeg"
	_ "image/png"
	"math"

	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"
	_ "golang.org/x/image/webp"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/pdf/object"
)

// TakePicture is the script by which a button takes a picture (ISO 21757-1,
// Field.buttonImportIcon): the standard has no action for it.
const TakePicture = "event.target.buttonImportIcon();"

// Highlights are the highlighting modes of a pressed button (ISO 32000-2, table 191, /H).
var Highlights = map[form.Pressed]string{form.PushedIn: "P", form.Same: "N", form.Inverted: "I", form.Outlined: "O"}

// Icon is a picture as a form XObject, with its size in its own units.
type Icon struct {
	Ref  types.IndirectRef
	W, H float64
}

// Face is what a button shows in one of its states.
type Face struct {
	Caption string
	Pressed bool
	Icon    *Icon
	Set     Typeface
}

// Content draws a button: a light ground with a border, unless its look says otherwise,
// and its caption and picture as its layout sets them.
func (f Face) Content(x form.Field, w, h float64) string {
	ground := "0.94 g"
	if f.Pressed {
		ground = "0.82 g"
	}
	look := x.Look
	body := FrameContent(look, w, h, false)
	if look.Fill == "" {
		body = fmt.Sprintf("%s\n0.5 0.5 %s %s re f\n", ground, object.Dec(w-1), object.Dec(h-1)) + body
	}
	if look.Border == "" {
		body += fmt.Sprintf("0.35 G 1 w 0.5 0.5 %s %s re S\n", object.Dec(w-1), object.Dec(h-1))
	}
	words, picture := f.areas(x.Face.Layout, geom.R(3, 2, w-3, h-2))
	if f.Icon != nil && picture.W() > 0 && picture.H() > 0 {
		k := math.Min(picture.W()/f.Icon.W, picture.H()/f.Icon.H)
		at := picture.Mid()
		body += fmt.Sprintf("q\n%s 0 0 %s %s %s cm\n/Ic Do\nQ\n", object.DecFine(k), object.DecFine(k), object.Dec(at.X-k*f.Icon.W/2),
			object.Dec(at.Y-k*f.Icon.H/2))
	}
	if f.Caption != "" && words.W() > 0 && words.H() > 0 {
		size := f.size(look, words)
		at := words.Mid()
		left, base := math.Max(words.X0-1, at.X-f.Set.Width(f.Caption)*size/2), at.Y-(ascent+descent)*size/2+descent*size
		body += fmt.Sprintf("BT\n%s\n/%s %s Tf\n%s %s Td\n%s Tj\nET\n", TypeColour(look), f.Set.Resource(), object.Dec(size),
			object.Dec(left), object.Dec(base), f.Set.Show(f.Caption))
	}
	return "q\n" + body + "Q\n"
}

// size is that of the caption: the one that was set, or as large as there is room for.
func (f Face) size(look form.Look, words geom.Rect) float64 {
	if look.Size > 0 {
		return look.Size
	}
	size := math.Min(maxAuto, words.H()/(ascent+descent))
	if tw := f.Set.Width(f.Caption) * size; tw > words.W() {
		size = math.Max(minAuto, size*words.W()/tw)
	}
	return size
}

// areas divides the inside of a button between its caption and its picture.
func (f Face) areas(layout form.Layout, in geom.Rect) (words, picture geom.Rect) {
	line := math.Min(maxAuto*(ascent+descent), in.H()*0.45)
	text := in.W() / 2
	if f.Set != nil && f.Caption != "" {
		text = math.Min(f.Set.Width(f.Caption)*maxAuto, in.W()*0.6)
	}
	const gap = 2.0
	switch layout {
	case form.PictureOnly:
		if f.Icon == nil { // until there is one, the caption stands in for it
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
