package proof

import (
	"cmp"
	"fmt"
	"math"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"golang.org/x/text/encoding/charmap"

	"zealousmargin.example/internal/form"
)

// How a field looks: where it shows, its type, its ground and its border.

func show(s *subject) (string, string) {
	hidden, print, noview := s.annot(2), s.annot(3), s.annot(6)
	is := form.ShowBoth
	switch {
	case hidden, noview && !print:
		is = form.ShowNone
	case noview:
		is = form.ShowPrint
	case !print:
		is = form.ShowScreen
	}
	const told = 1<<1 | 1<<2 | 1<<5 | 1<<7 // the flags that a row tells
	if f := int(s.w.f.number(s.w.dict["F"])); s.ours && f&^told != 0 {
		return fmt.Sprintf("%s with the annotation flags %b", is, f), string(s.x.Shows())
	}
	if !s.ours && s.x.Kind == form.Button && is == form.ShowBoth && s.x.Show == form.ShowBoth {
		return "", "" // one that came with the file, and is to be printed
	}
	return string(is), string(s.x.Shows())
}

var (
	fontIn   = regexp.MustCompile(`/(\S+)\s+([\d.]+)\s+Tf`)
	wholeDA  = regexp.MustCompile(`^/\S+ [\d.]+ Tf( [\d.]+){1,4} (g|rg|k)$`)
	colourIn = regexp.MustCompile(`((?:[\d.]+\s+){1,4})(g|rg|k)\b`)
)

// appearanceString is the default appearance of the field (12.7.4.3), or that of the form.
func (s *subject) appearanceString() string {
	if o := s.w.field("DA"); o != nil {
		return s.w.f.words(o)
	}
	return s.w.f.words(s.w.f.form()["DA"])
}

// baseFonts are the names of the embedded typefaces in a file.
var baseFonts = map[string]string{"": "Helvetica", "Go": "GoRegular", "Liberation-Serif": "LiberationSerif"}

// font is the one that readers type in, and the one that the first value is set in where it has all
// the signs.
func font(s *subject) (string, string) {
	if !s.ours && s.x.Look.Font == "" {
		return "", ""
	}
	da := s.appearanceString()
	m := fontIn.FindStringSubmatch(da)
	if m == nil || s.ours && !wholeDA.MatchString(da) {
		return "none: " + da, s.x.Look.Font
	}
	want := cmp.Or(baseFonts[s.x.Look.Font], s.x.Look.Font)
	abroad := s.ours && s.x.Look.Font == "" && s.abroad()
	if abroad {
		want = baseFonts["Go"]
	}
	f := s.w.f.dict(s.w.f.dict(s.w.f.dict(s.w.f.form()["DR"])["Font"])[name(m[1])])
	if is := s.w.f.name(f["BaseFont"]); is != want {
		return is, want
	}
	if s.ours && f["ToUnicode"] != nil {
		has := map[string]bool{}
		for _, r := range s.w.f.toUnicode(f) {
			has[r] = true
		}
		for _, r := range wordsOf(s.x) {
			if !has[string(r)] && inCodePages(r) {
				return "a font without " + string(r), "one that has the letters of the words around it"
			}
		}
	}
	if ap := s.ap.normal[""]; s.ours && len(ap.fonts) > 0 && ap.fonts[0] != want && ap.fonts[0] != baseFonts["Go"] {
		return "shown in " + ap.fonts[0], "shown in " + want
	}
	return "", ""
}

// inCodePages tells whether a sign is of those that the typefaces which ship have at least.
func inCodePages(r rune) bool {
	for _, p := range []*charmap.Charmap{
		charmap.Windows1250, charmap.Windows1251, charmap.Windows1253, charmap.Windows1254, charmap.Windows1257,
	} {
		if _, ok := p.EncodeRune(r); ok {
			return true
		}
	}
	return false
}

// wordsOf are the words around a field, and in it.
func wordsOf(x *form.Field) string {
	words := x.Label + x.Tooltip + x.Hint + x.Default
	for _, o := range x.Options {
		words += o.Label
	}
	return strings.Map(func(r rune) rune {
		if r < ' ' {
			return ' '
		}
		return r
	}, words)
}

// abroad tells whether the answers to a field are in letters that the standard fonts do not have: its words are, or the language of the
// document is one that is written in others than WinAnsiEncoding has (annex D.2).
func (s *subject) abroad() bool {
	if s.x.Kind != form.Text && s.x.Kind != form.Choice {
		return false
	}
	if _, err := charmap.Windows1252.NewEncoder().String(wordsOf(s.x)); err != nil {
		return true
	}
	language, _, _ := strings.Cut(strings.ToLower(s.draft.Details.Language), "-")
	return slices.Contains(strings.Fields("pl cs sk hu hr sl ro bs sq lt lv et tr az el ru uk bg sr mk be"), language)
}

// align is how readers set what is typed, and how the first value is set.
func align(s *subject) (string, string) {
	q := int(s.w.f.number(s.w.field("Q")))
	if s.w.field("Q") == nil {
		q = int(s.w.f.number(s.w.f.form()["Q"]))
	}
	should := slices.Index([]form.Align{form.AlignLeft, form.AlignCentre, form.AlignRight}, s.x.Look.Align)
	if q != should || !s.ours {
		return strconv.Itoa(q), strconv.Itoa(should)
	}
	ap := s.ap.normal[""]
	width := ap.box[2] - ap.box[0]
	const margin = 4 // points between the text and the edge, at the most
	if ap.text == "" || ap.wide == 0 || ap.wide > width-2*margin || s.x.Comb > 0 {
		return "", ""
	}
	left, right := ap.at[0], width-ap.at[0]-ap.wide
	if ok := []bool{left <= margin, math.Abs(left-right) <= 1, right <= margin}; !ok[should] {
		return fmt.Sprintf("%.1f points from the left and %.1f from the right", left, right), "set " + string(s.x.Look.Align)
	}
	return "", ""
}

func size(s *subject) (string, string) {
	m := fontIn.FindStringSubmatch(s.appearanceString())
	if m == nil || !s.ours && s.x.Look.Size == 0 {
		return "", ""
	}
	is, _ := strconv.ParseFloat(m[2], 64) // the pattern has figures only
	should := s.x.Look.Size
	if ap := s.ap.normal[""]; is == should && should > 0 && s.ours && len(ap.sizes) > 0 {
		is = ap.sizes[0]
	}
	return strconv.FormatFloat(is, 'f', -1, 64), strconv.FormatFloat(should, 'f', -1, 64)
}

// rgb writes the parts of a colour from 0 to 1 as "#rrggbb": grey, RGB or CMYK (10.3).
func rgb(parts []float64) string {
	b := func(v float64) int { // a half is one that a single-precision number has just missed, too
		return int(math.Min(255, math.Floor(255*math.Max(0, math.Min(1, v))+0.5001)))
	}
	switch len(parts) {
	case 1:
		return fmt.Sprintf("#%02x%02x%02x", b(parts[0]), b(parts[0]), b(parts[0]))
	case 3:
		return fmt.Sprintf("#%02x%02x%02x", b(parts[0]), b(parts[1]), b(parts[2]))
	case 4:
		k := parts[3]
		return fmt.Sprintf("#%02x%02x%02x", b(1-parts[0]-k), b(1-parts[1]-k), b(1-parts[2]-k))
	}
	return ""
}

func colourOf(operators string) string {
	m := colourIn.FindStringSubmatch(operators)
	if m == nil {
		return ""
	}
	var parts []float64
	for _, v := range strings.Fields(m[1]) {
		n, _ := strconv.ParseFloat(v, 64) // the pattern has figures only
		parts = append(parts, n)
	}
	return rgb(parts)
}

const black = "#000000"

// colour is that of the type: as readers type in it, and as the first value is set in it.
func colour(s *subject) (string, string) {
	should := cmp.Or(s.x.Look.Colour, black)
	is := colourOf(s.appearanceString())
	if is != should && !(is == "" && !s.ours) {
		return is, should
	}
	hint := typed(s.x) && s.x.Shown() == "" && s.x.Hint != ""
	if da := s.appearanceString(); s.ours && !wholeDA.MatchString(da) {
		return da, should
	}
	if ap := s.ap.normal[""]; s.ours && ap.text != "" && !hint {
		return colourOf(ap.colour), should
	}
	return "", ""
}

func (s *subject) parts(k name) string {
	var parts []float64
	for _, o := range s.w.f.array(s.w.mk(k)) {
		parts = append(parts, s.w.f.number(o))
	}
	return rgb(parts)
}

// plainButton are the ground and the border of a button that has none of its own.
const (
	plainGround = "#f0f0f0"
	plainBorder = "#595959"
)

func fill(s *subject) (string, string) {
	should := s.x.Look.Fill
	if s.x.Kind == form.Button && s.ours {
		should = cmp.Or(should, plainGround)
	}
	return s.parts("BG"), should
}

func border(s *subject) (string, string) {
	should := s.x.Look.Border
	if s.x.Kind == form.Button && s.ours {
		should = cmp.Or(should, plainBorder)
	}
	if !s.ours && should == "" {
		return "", "" // one without a width is none
	}
	return s.parts("BC"), should
}

func borderWidth(s *subject) (string, string) {
	if s.x.Look.Border == "" {
		return "", ""
	}
	bs := s.w.f.dict(s.w.dict["BS"])
	is := 1.0
	if bs["W"] != nil {
		is = s.w.f.number(bs["W"])
	}
	return fmt.Sprint(is), fmt.Sprint(cmp.Or(s.x.Look.BorderWidth, 1))
}

func borderStyle(s *subject) (string, string) {
	if s.x.Look.Border == "" {
		return "", ""
	}
	is := cmp.Or(s.w.f.name(s.w.f.dict(s.w.dict["BS"])["S"]), "S")
	return is, map[form.BorderStyle]string{
		form.SolidBorder: "S", form.DashedBorder: "D", form.BevelBorder: "B", form.InsetBorder: "I",
		form.UnderlineOnly: "U",
	}[s.x.Look.BorderStyle]
}
