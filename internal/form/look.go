package form

import (
	"fmt"
	"regexp"
	"slices"
)

// Look says how a field and what is written in it look. The zero value is black type of
// automatic size in Helvetica, with no border and no fill.
type Look struct {
	Font   string  `json:"font,omitempty"`   // one of Fonts or EmbeddedFonts; empty is Helvetica
	Size   float64 `json:"size,omitempty"`   // points; 0 is automatic
	Colour string  `json:"colour,omitempty"` // "#rrggbb" of the type; empty is black
	Align  Align   `json:"align,omitempty"`

	Border      string      `json:"border,omitempty"`      // "#rrggbb"; empty is none
	BorderWidth float64     `json:"borderwidth,omitempty"` // points; 0 is 1 when there is a border
	BorderStyle BorderStyle `json:"borderstyle,omitempty"`
	Fill        string      `json:"fill,omitempty"` // "#rrggbb"; empty is none
	Turn        int         `json:"turn,omitempty"` // degrees counterclockwise: 0, 90, 180 or 270
}

// Align is how the type of a field is aligned (quadding, ISO 32000-2, table 228).
type Align string

// The alignments.
const (
	AlignLeft   Align = ""
	AlignCentre Align = "centre"
	AlignRight  Align = "right"
)

// BorderStyle is how the border of a field is drawn (ISO 32000-2, table 168).
type BorderStyle string

// The styles of a border.
const (
	SolidBorder   BorderStyle = ""
	DashedBorder  BorderStyle = "dashed"
	BevelBorder   BorderStyle = "bevelled"
	InsetBorder   BorderStyle = "inset"
	UnderlineOnly BorderStyle = "underline"
)

// Fonts are the standard 14 fonts (ISO 32000-2, 9.6.2.2), which every reader has.
var Fonts = []string{
	"Helvetica", "Helvetica-Bold", "Helvetica-Oblique", "Helvetica-BoldOblique",
	"Times-Roman", "Times-Bold", "Times-Italic", "Times-BoldItalic",
	"Courier", "Courier-Bold", "Courier-Oblique", "Courier-BoldOblique",
	"Symbol", "ZapfDingbats",
}

// EmbeddedFonts are written into the form itself, whole, so that answers in Latin, Greek
// and Cyrillic letters show in any reader: a sans serif and a serif.
var EmbeddedFonts = []string{"Go", "Liberation-Serif"}

// Show is where a field shows.
type Show string

// Where a field shows: on screen and on paper, on one of them, or nowhere.
const (
	ShowBoth   Show = ""
	ShowScreen Show = "screen"
	ShowPrint  Show = "print"
	ShowNone   Show = "hidden"
)

// Display is the number by which scripts know where a field shows (ISO 21757-1, Field.display); a hidden one counts as one that is shown
// everywhere: it is asked for when it is to be seen.
func (s Show) Display() int { return map[Show]int{ShowScreen: 2, ShowPrint: 3}[s] }

// ListStyle is how a choice field offers its options (ISO 32000-2, 12.7.5.4).
type ListStyle string

// The styles of a choice.
const (
	Dropdown ListStyle = ""      // one of the options
	ComboBox ListStyle = "combo" // or an entry of one's own
	ListBox  ListStyle = "list"  // one of those that all show
	ManyList ListStyle = "many"  // any number of them
)

// Marks are the signs that a ticked check box or a chosen radio button shows. Empty is
// a cross in a check box and a disc in a radio button.
var Marks = []string{"", "check", "circle", "cross", "diamond", "square", "star"}

var colour = regexp.MustCompile(`^#[0-9a-f]{6}$`)

// ValidColour tells whether s is a colour: "#rrggbb" in small letters, or empty for none.
func ValidColour(s string) bool { return s == "" || colour.MatchString(s) }

// check refuses a look that cannot be drawn, and says what to do.
func (l Look) check(name string) error {
	for what, c := range map[string]string{"colour": l.Colour, "border": l.Border, "fill": l.Fill} {
		if !ValidColour(c) {
			return fmt.Errorf("%q is no colour for the %s of %s: write it as #rrggbb, such as #5b2a55", c, what, name)
		}
	}
	switch {
	case l.Font != "" && !slices.Contains(Fonts, l.Font) && !slices.Contains(EmbeddedFonts, l.Font):
		return fmt.Errorf("%q is not a font that every reader has: choose one of the standard 14, such as Times-Roman, or Go or "+
			"Liberation-Serif, which are written into the form", l.Font)
	case l.Size != 0 && (l.Size < 2 || l.Size > 144):
		return fmt.Errorf("the type of %s can be from 2 to 144 points, or 0 for automatic", name)
	case l.BorderWidth < 0 || l.BorderWidth > 12:
		return fmt.Errorf("the border of %s can be up to 12 points wide", name)
	case !slices.Contains([]Align{AlignLeft, AlignCentre, AlignRight}, l.Align):
		return fmt.Errorf("%q is not an alignment: use centre or right, or nothing for left", l.Align)
	case !slices.Contains([]BorderStyle{SolidBorder, DashedBorder, BevelBorder, InsetBorder, UnderlineOnly}, l.BorderStyle):
		return fmt.Errorf("%q is not a style of border: use dashed, bevelled, inset or underline", l.BorderStyle)
	case l.Turn%90 != 0 || l.Turn < 0 || l.Turn > 270:
		return fmt.Errorf("%s can be turned by 0, 90, 180 or 270 degrees", name)
	}
	return nil
}

// Shows is where the field shows: buttons that nobody asked to print stay off paper.
func (f Field) Shows() Show {
	if f.Kind == Button && f.Show == ShowBoth {
		return ShowScreen
	}
	return f.Show
}

// checkKind refuses properties that fields of the kind do not have.
func (f Field) checkKind() error {
	for i := range FieldProperties {
		if p := &FieldProperties[i]; p.Refused != "" && !p.Has(f.Kind) && !p.Plain(&f) {
			return fmt.Errorf("%s cannot %s: it is a %s", f.Name, p.Refused, f.Kind)
		}
	}
	switch {
	case f.Kind == Choice && !f.takesFormat() && f.Format != (Format{}):
		return fmt.Errorf("%s cannot have a format: its list takes no entry of one's own", f.Name)
	case !slices.Contains(Marks, f.Mark):
		return fmt.Errorf("%q is not a mark: use check, circle, cross, diamond, square or star", f.Mark)
	case !slices.Contains([]Show{ShowBoth, ShowScreen, ShowPrint, ShowNone}, f.Show):
		return fmt.Errorf("%q is not where a field can show: use screen, print or hidden, or nothing for both", f.Show)
	case !slices.Contains([]ListStyle{Dropdown, ComboBox, ListBox, ManyList}, f.List):
		return fmt.Errorf("%q is not a style of list: use combo, list or many, or nothing for a dropdown", f.List)
	case f.Password && (f.Multiline || f.Comb > 0):
		return fmt.Errorf("a password field has one line and no cells: change %s first", f.Name)
	case f.FilePath && (f.Multiline || f.Comb > 0 || f.Password):
		return fmt.Errorf("a field for a file has one line and no cells: change %s first", f.Name)
	}
	return nil
}
