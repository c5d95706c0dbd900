package sheets

import (
	"bytes"
	"fmt"
	"strings"

	"codeberg.org/go-pdf/fpdf"
	"golang.org/x/image/font/gofont/goregular"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
)

// Truth is a field that a careful person would place. Words are those of its label
// that a name should be made of, in the order of the label.
type Truth struct {
	Page      int
	Rect      geom.Rect // page space
	Kind      form.Kind
	Words     string
	Comb      int
	Multiline bool
	Group     string // radio buttons that belong together
	Format    string
	Kinds     []form.Kind   // other kinds that are right
	Alt       [][]geom.Rect // other shapes that are right, each of one field or several
	Optional  bool          // neither missed nor wrong
	Near      bool          // a box to tick counts when its middle is right and its size roughly
	Unsaid    bool          // whether it has several lines is not known
	// Of are the factors that made the field, of a form that was drawn at random.
	Of map[string]string `json:",omitempty"`
}

// Merge is one field over several of the truth that counts as all of them.
type Merge struct {
	Members []int
	Rect    geom.Rect
}

// Sheet is a form with its truth.
type Sheet struct {
	Style string
	Held  bool // kept out of tuning
	Empty bool // there is nothing to fill in
	// Language is that of its words as Tesseract names it; empty is English.
	Language string
	PDF      []byte
	Truth    []Truth
	// Merges counts the members from 0 in Truth.
	Merges []Merge
}

// pen draws on a page with the origin at the upper left, in points, and keeps the truth.
type pen struct {
	*fpdf.Fpdf
	w, h  float64
	truth []Truth
	face  string
	size  float64
	lang  *language
}

const margin = 54.0

func newPen(w, h float64, face string, size float64, lang *language) *pen {
	p := &pen{
		Fpdf: fpdf.NewCustom(&fpdf.InitType{OrientationStr: "P", UnitStr: "pt", Size: fpdf.SizeType{Wd: w, Ht: h}}), w: w, h: h,
		face: face, size: size, lang: lang,
	}
	p.SetAutoPageBreak(false, 0)
	p.AddUTF8FontFromBytes("go", "", goregular.TTF)
	p.AddPage()
	p.SetLineWidth(0.6)
	return p
}

func (p *pen) done(style string) (Sheet, error) {
	var b bytes.Buffer
	if err := p.Output(&b); err != nil {
		return Sheet{}, fmt.Errorf("style %s: %w", style, err)
	}
	return Sheet{Style: style, PDF: b.Bytes(), Truth: p.truth}, nil
}

// want notes a field; y counts from the top.
func (p *pen) want(t Truth, x, y, w, h float64) {
	t.Page = p.PageNo()
	t.Rect = geom.R(x, p.h-y-h, x+w, p.h-y)
	p.truth = append(p.truth, t)
}

func (p *pen) font(style string, size float64) {
	face := p.face
	if p.lang.wide {
		face, style = "go", ""
	}
	p.SetFont(face, style, size)
}

// text writes at a baseline and returns where it ends.
func (p *pen) text(x, y, size float64, style, s string) float64 {
	p.font(style, size)
	if !p.lang.wide {
		s = p.UnicodeTranslatorFromDescriptor("")(s)
	}
	p.Text(x, y, s)
	return x + p.GetStringWidth(s)
}

// title heads the page with a name, a subtitle and a decorative rule.
func (p *pen) title(s string) {
	p.text(margin, 58, 17, "B", s)
	p.SetLineWidth(1.3)
	p.Line(margin, 68, p.w-margin, 68)
	p.SetLineWidth(0.6)
}

// foot closes the page with a rule and a line of small type.
func (p *pen) foot() {
	p.Line(margin, p.h-46, p.w-margin, p.h-46)
	p.text(margin, p.h-35, 7, "", "Gannet Quay Harbour Office, 1 Slip Lane · form 12/27")
	p.text(p.w-margin-24, p.h-35, 7, "", "1 / 1")
}

// paragraph sets running text and returns the y below it.
func (p *pen) paragraph(x, y, w, size float64, n int) float64 {
	p.font("", size)
	s := strings.Repeat(p.lang.prose+" ", n)
	if !p.lang.wide {
		s = p.UnicodeTranslatorFromDescriptor("")(s)
	}
	p.SetXY(x, y)
	p.MultiCell(w, size*1.3, s, "", "L", false)
	return p.GetY()
}

// field is something that a form asks for.
type field struct {
	label  string
	words  string // of the name; empty takes the label's
	format string
	kind   form.Kind
}

func (f field) truth() Truth {
	k := f.kind
	if k == "" {
		k = form.Text
	}
	w := f.words
	if w == "" {
		w = f.label
	}
	return Truth{Kind: k, Words: w, Format: f.format}
}

// language is the wording of a form.
type language struct {
	tag      string
	title    string
	fields   []field
	choose   string // "choose one" question
	options  []string
	tick     string // "tick all that apply"
	ticks    []string
	question string
	yes, no  string
	sign     string
	date     string
	remarks  string
	prose    string
	office   string
	wide     bool // needs letters outside Latin-1
}
