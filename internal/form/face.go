package form

import (
	"fmt"
	"regexp"
	"slices"
)

// Face is what a button shows beside its caption (ISO 32000-2, table 192), and how it
// looks while it is pressed.
type Face struct {
	// Picture is the SHA-256 of a picture among [Template.Pictures]; empty is none.
	Picture        string  `json:"picture,omitempty"`
	Layout         Layout  `json:"layout,omitempty"`
	Pressed        Pressed `json:"pressed,omitempty"`
	PressedCaption string  `json:"pressedcaption,omitempty"` // empty is the caption
}

// Layout is how a button sets its caption and its picture (ISO 32000-2, table 192, /TP).
type Layout string

// The layouts of a button, in the order of the numbers that the standard gives them.
const (
	CaptionOnly  Layout = ""
	PictureOnly  Layout = "picture"
	CaptionBelow Layout = "below"
	CaptionAbove Layout = "above"
	CaptionRight Layout = "right"
	CaptionLeft  Layout = "left"
	CaptionOver  Layout = "over"
)

// Layouts lists the layouts; the place of each is its number in the standard.
var Layouts = []Layout{CaptionOnly, PictureOnly, CaptionBelow, CaptionAbove, CaptionRight, CaptionLeft, CaptionOver}

// Pressed is how a button looks while it is pressed (ISO 32000-2, table 191, /H).
type Pressed string

// The looks of a pressed button: pushed in, the same, in reversed colours, with a
// reversed border.
const (
	PushedIn Pressed = ""
	Same     Pressed = "same"
	Inverted Pressed = "inverted"
	Outlined Pressed = "outlined"
)

// PressedLooks lists them.
var PressedLooks = []Pressed{PushedIn, Same, Inverted, Outlined}

var address = regexp.MustCompile(`^[0-9a-f]{64}$`)

// checkFace refuses a face that cannot be written, and says what to do.
func (f Field) checkFace() error {
	switch x := f.Face; {
	case x.Picture != "" && !address.MatchString(x.Picture):
		return fmt.Errorf("the picture of %s is named by the SHA-256 of its bytes, 64 hexadecimal figures", f.Name)
	case !slices.Contains(Layouts, x.Layout):
		return fmt.Errorf("%q is not a layout of a button: use picture, below, above, right, left or over, or nothing for the "+
			"caption only", x.Layout)
	case !slices.Contains(PressedLooks, x.Pressed):
		return fmt.Errorf("%q is not how a pressed button can look: use same, inverted or outlined, or nothing for pushed in", x.Pressed)
	case x.PressedCaption != "" && x.Pressed != PushedIn:
		return fmt.Errorf("only a button that is pushed in has another caption while it is pressed: change %s first", f.Name)
	}
	return nil
}

// PicturesUsed lists the pictures that buttons of the draft show.
func (t *Template) PicturesUsed() []string {
	var out []string
	for _, f := range t.Fields {
		if p := f.Face.Picture; p != "" && !slices.Contains(out, p) {
			out = append(out, p)
		}
	}
	return out
}
