package form

import (
	"cmp"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"golang.org/x/text/collate"
	tag "golang.org/x/text/language"

	"zealousmargin.example/internal/geom"
)

// How properties of a field are read and set where one takes others along.

// Equal tells whether two rows say the same.
func (f Field) Equal(g Field) bool { return same(FieldProperties, &f, &g) }

// rectProperty is the place of the field: "x0 y0 x1 y1" in points.
func rectProperty() Property[Field] {
	p := row("rect", "rect", AsData, func(f *Field) *geom.Rect { return &f.Rect }).titled("the place of")
	p.same = func(a, b *Field) bool { return a.Rect.Rounded() == b.Rect.Rounded() }
	return p.reads(func(f *Field) string {
		r := f.Rect
		return fmt.Sprint(geom.Round(r.X0), geom.Round(r.Y0), geom.Round(r.X1), geom.Round(r.Y1))
	}).sets(func(f *Field, v string) error {
		parts := strings.FieldsFunc(v, func(r rune) bool { return r == ' ' || r == ',' || r == '[' || r == ']' })
		var n [4]float64
		for i, s := range parts {
			x, err := strconv.ParseFloat(s, 64)
			if err != nil || i > 3 {
				return fmt.Errorf("%q is not a rectangle: write left, bottom, right and top in points", v)
			}
			n[i] = x
		}
		if len(parts) != 4 {
			return fmt.Errorf("%q is not a rectangle: write left, bottom, right and top in points", v)
		}
		f.Rect = geom.R(n[0], n[1], n[2], n[3])
		return nil
	})
}

func orderProperty() Property[Field] {
	return lengthOf("order", "order", func(f *Field) *float64 { return &f.Order }).titled("the place in the tab order of")
}

// typed tells whether an answer is text.
func typed(f *Field) bool { return f.Kind == Text || f.Kind == Choice }

// startProperty is whether a box to tick, or a button of a group, is on at the start.
func startProperty() Property[Field] {
	return Property[Field]{
		Key: "checked", Kinds: tickable, Type: AsFlag, Group: OfAnswer, Before: "At the start it is", Title: "what comes first in",
		Choices: []Offer{{"no", "not ticked"}, {"yes", "ticked"}},
		Get:     func(f *Field) string { return YesNo(f.On()) },
		Set: func(f *Field, v string) error {
			on, err := ReadYesNo(v)
			if err == nil {
				f.start(on)
			}
			return err
		},
		same:  func(a, b *Field) bool { return a.On() == b.On() },
		carry: func(to, from *Field) { to.start(from.On()) },
	}
}

// OnState is what a check box or radio button sends when it is on: the name of that state in the
// file.
func (f Field) OnState() string {
	if f.Export == "" || f.Export == "Off" {
		return "Yes"
	}
	return f.Export
}

// On tells whether a check box or radio button is on at the start.
func (f Field) On() bool {
	return slices.Contains(tickable, f.Kind) && f.Default != "" && f.Default == f.OnState()
}

// start is the one place that says what is on at the start.
func (f *Field) start(on bool) {
	if f.Default = ""; on {
		f.Default = f.OnState()
	}
	if f.Origin != nil {
		f.Origin.Odd = "" // it is said now
	}
}

// setExport changes what a box sends; one that is on stays on.
func setExport(f *Field, v string) error {
	on := f.On()
	if f.Export = v; on {
		f.Default = f.OnState()
	}
	return nil
}

func afterDeed(f *Field) {
	if f.Action.Do == TakePicture && f.Face.Picture == "" {
		f.Face.Layout = PictureOnly
	}
	switch {
	case f.Action.Do != SubmitForm:
		f.Action.URL, f.Action.As = "", ""
	case f.Action.URL == "":
		f.Action.URL = "https://"
	}
}

// afterPicture lets a picture show, and takes its room away with it.
func afterPicture(f *Field) {
	switch {
	case f.Face.Picture != "" && f.Face.Layout == CaptionOnly:
		f.Face.Layout = CaptionRight
	case f.Face.Picture == "" && f.Action.Do != TakePicture:
		f.Face.Layout = CaptionOnly
	}
}

// setComb gives as many signs as cells, on one line that hides nothing.
func setComb(f *Field, v string) error {
	n, err := strconv.Atoi(cmp.Or(v, "0"))
	if err != nil || n < 0 || n > 200 {
		return fmt.Errorf("%q is not a number of cells: type a whole number from 0 to 200", v)
	}
	if f.Comb = n; n > 0 {
		f.MaxLen, f.Multiline, f.Password, f.FilePath, f.NoScroll = n, false, false, false, false
	}
	return nil
}

// KindWords names the kinds of field as they are chosen among: a kind, or one with a property
// that makes it another for those who use it.
var KindWords = []Offer{
	{"text", "text field"},
	{"lines", "text field of several lines"},
	{"checkbox", "check box"},
	{"radio", "radio button"},
	{"choice", "dropdown"},
	{"combo", "dropdown with own entry"},
	{"list", "list box, one"},
	{"many", "list box, several"},
	{"password", "password field"},
	{"file", "field for a file"},
	{"signature", "signature field"},
	{"button", "button"},
	{"picture", "picture field"},
}

// KindWord is what KindWords calls the kind of the field.
func (f Field) KindWord() string {
	switch {
	case f.Kind == Text && f.Multiline:
		return "lines"
	case f.Kind == Text && f.Password:
		return "password"
	case f.Kind == Text && f.FilePath:
		return "file"
	case f.Action.Do == TakePicture:
		return "picture"
	case f.Kind == Choice && f.List != Dropdown:
		return string(f.List)
	}
	return string(f.Kind)
}

// setKind turns a field into another kind, one of KindWords, and drops what the new one cannot
// have.
func setKind(f *Field, to string) error {
	on := f.On()
	if f.Action.Do == TakePicture && to != "picture" { // a picture field becomes something else
		f.Action, f.Face.Layout = Action{}, CaptionOnly
	}
	switch to {
	case "text", "lines", "password", "file":
		f.Kind, f.Multiline = Text, to == "lines"
		if to != "text" {
			f.Comb = 0
		}
		f.Password, f.FilePath = to == "password", to == "file"
	case "choice", "combo", "list", "many":
		f.Kind, f.List = Choice, map[string]ListStyle{"combo": ComboBox, "list": ListBox, "many": ManyList}[to]
	case "picture":
		f.Kind = Button
		f.Action, f.Face.Layout, f.Caption = Action{Do: TakePicture}, PictureOnly, cmp.Or(f.Caption, "Press to choose a picture")
	case "checkbox", "signature", "button", "radio":
		f.Kind = Kind(to)
	default:
		return fmt.Errorf("%q is not a kind of field here", to)
	}
	for _, p := range FieldProperties {
		if !p.Has(f.Kind) && p.Member != "" && (p.Refused != "" || !p.Style) {
			p.Clear(f)
		}
	}
	dropFormat(f)
	if slices.Contains(tickable, f.Kind) {
		f.start(on)
	} else if f.Kind == Button {
		f.Caption = cmp.Or(f.Caption, "Button")
	}
	if f.Password {
		f.Default = "" // it would stand in the file for everybody to read
	}
	if f.Kind != Button {
		f.Steps = slices.DeleteFunc(f.Steps, func(s Step) bool { return s.When == WhenPressed })
	}
	return nil
}

// takesFormat tells whether what a recipient types can have a format: a text, or an entry of one's own.
func (f *Field) takesFormat() bool { return f.Kind == Text || f.Kind == Choice && f.List == ComboBox }

// dropFormat takes the format from a list that takes no entry of one's own.
func dropFormat(f *Field) {
	if !f.takesFormat() {
		f.Format = Format{}
	}
}

// formatIs is for properties that only some formats have.
func formatIs(kinds ...FormatKind) func(*Field) bool {
	return func(f *Field) bool { return slices.Contains(kinds, f.Format.Kind) }
}

// DatePatterns are those that are offered; others can be typed.
var DatePatterns = []string{
	"dd.mm.yyyy", "dd/mm/yyyy", "mm/dd/yyyy", "yyyy-mm-dd", "dd.mm.yy", "d mmm yyyy", "d mmmm yyyy",
	"mmmm d, yyyy",
}

// Masks are patterns to begin with, each with what it is for.
var Masks = []Offer{
	{"## ### ### ###", "tax number"},
	{"##/###/#####", "tax number"},
	{"###-##-####", "social number"},
	{"@@-####", "berth or craft number"},
	{"#### #### #### ####", "card number"},
	{"#" + AsManySigns, "figures, as many as it takes"},
	{"@" + AsManySigns, "letters, as many as it takes"},
}

// patterns are what a date, a time or a postcode can be written like; a mask is typed.
func patterns(f *Field) []Offer {
	var out []Offer
	switch f.Format.Kind {
	case Date:
		for _, s := range DatePatterns {
			out = append(out, Offer{s, s})
		}
		if !slices.Contains(DatePatterns, f.Format.Pattern) {
			out = append(out, Offer{f.Format.Pattern, f.Format.Pattern})
		}
	case Time:
		return []Offer{{"HH:MM", "17:45"}, {"HH:MM:ss", "17:45:00"}, {"h:MM tt", "5:45 pm"}}
	}
	return out
}

func setFormat(f *Field, v string) error {
	comma := f.Format.Comma
	f.Format = FormatFor(FormatKind(v))
	if k := f.Format.Kind; k == Number || k == Percent {
		f.Format.Comma = comma
	}
	return nil
}

// AsManySigns ends a pattern of one place that stands for as many as a field takes: of several fields, each as
// many as it has.
const AsManySigns = "…"

// setPattern sets what a format is written as. A place with [AsManySigns] behind it is repeated.
func setPattern(f *Field, v string) error {
	if place, many := strings.CutSuffix(v, AsManySigns); many && f.Format.Kind == Mask && len([]rune(place)) == 1 {
		n := max(f.Comb, f.MaxLen)
		if n == 0 {
			return fmt.Errorf("%s takes any number of signs: say first how many it takes at most", f.Name)
		}
		v = strings.Repeat(place, n)
	}
	f.Format.Pattern = v
	return nil
}

func fontChoices() []Offer {
	out := []Offer{{"", "Helvetica"}}
	for _, f := range Fonts[1:] {
		out = append(out, Offer{f, strings.ReplaceAll(f, "-", " ")})
	}
	for _, f := range EmbeddedFonts {
		out = append(out, Offer{f, strings.ReplaceAll(f, "-", " ") + ", Greek and Cyrillic too"})
	}
	return out
}

// WriteOptions writes the options of a choice one a line, "label = value" where another value is
// sent than is shown.
func WriteOptions(options []Option) string {
	var out []string
	for _, o := range options {
		if o.Export != "" && o.Export != o.Label {
			out = append(out, o.Label+" = "+o.Export)
		} else {
			out = append(out, o.Label)
		}
	}
	return strings.Join(out, "\n")
}

// ReadOptions reads what WriteOptions writes.
func ReadOptions(s string) []Option {
	var out []Option
	for line := range strings.SplitSeq(s, "\n") {
		label, export, _ := strings.Cut(line, " = ")
		if label = strings.TrimSpace(label); label != "" {
			out = append(out, Option{Label: label, Export: strings.TrimSpace(export)})
		}
	}
	return out
}

// Alphabet compares words as a dictionary does: by the Unicode Collation Algorithm (UTS #10).
func Alphabet() func(a, b string) int { return collate.New(tag.Und, collate.IgnoreCase).CompareString }

// sortOptions puts the options of a choice into the order that its flag promises (ISO 32000-2,
// table 233, bit 20: the order is the writer's to keep).
func (f *Field) sortOptions() {
	if !f.Sort {
		return
	}
	less := Alphabet()
	slices.SortStableFunc(f.Options, func(a, b Option) int { return less(a.Label, b.Label) })
}

func samePart(a, b *Find) bool { return a == nil && b == nil || a != nil && b != nil && *a == *b }

func clonePart(a *Find) *Find {
	if a == nil {
		return nil
	}
	b := *a
	return &b
}

func sameOrigin(a, b *Origin) bool {
	return a == nil && b == nil || a != nil && b != nil && a.Object == b.Object && a.Shared == b.Shared && a.Odd == b.Odd
}

func cloneOrigin(a *Origin) *Origin {
	if a == nil {
		return nil
	}
	b := *a
	return &b
}
