package markup

import (
	"fmt"
	"html/template"
	"math"
	"strconv"
	"strings"

	"zealousmargin.example/internal/arrange"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
)

// Mark is a field as the bench draws it: X, Y, W and H are in points of the page as shown, from its
// upper left.
type Mark struct {
	*form.Field
	X, Y, W, H float64
	Badge      string // what a closed note says of it
	Wrong      string
	Doubt      bool   // a doubtful find that nobody has kept
	Found      bool   // a find that nobody has kept
	Picture    string // the address of a button's picture
}

// Place is the place of a field as data for the script.
func Place(x, y, w, h float64) template.HTMLAttr {
	return template.HTMLAttr(`data-x="` + Number(x) + `" data-y="` + Number(y) + `" data-w="` + Number(w) + `" data-h="` + Number(h) +
		`"`)
}

func (m *Mark) sense() string {
	switch {
	case m.Doubt:
		return " doubt"
	case m.Found:
		return " found"
	}
	return ""
}

// Shape draws a field over the page.
func (b *Builder) Shape(m *Mark) {
	x, y, w, h := Number(m.X), Number(m.Y), Number(m.W), Number(m.H)
	label := m.Name + ", " + m.Badge
	if m.Doubt {
		label += ", doubtful"
	}
	if m.Required {
		label += ", must be filled in"
	}
	attributes := []string{
		"class", "f k-" + string(m.Kind) + m.sense(), "id", "f-" + m.ID, "data-id", m.ID, "data-name", m.Name,
		"data-x", x, "data-y", y, "data-w", w, "data-h", h, "tabindex", "0", "role", "button", "aria-label", label,
	}
	b.Open("g", append(attributes, when(m.Required, "data-required", "yes")...)...).Element("title", m.Tooltip)
	b.Empty("rect", "class", "body", "x", x, "y", y, "width", w, "height", h).Empty("path", "class", "spine", "d", m.spine())
	if m.Picture != "" {
		p := m.pictureArea()
		b.Empty("image", "href", m.Picture, "x", tenth(p.X0), "y", tenth(p.Y0), "width", tenth(p.W()), "height", tenth(p.H()))
	}
	if m.Kind == form.Button && (m.Picture == "" || m.Face.Layout != form.PictureOnly) {
		across, down := m.captionPlace()
		b.Element("text", m.Caption, "class", "cap", "x", x, "y", y, "dx", tenth(across), "dy", tenth(down+3))
	}
	b.Element("text", m.Name, "class", "nm", "x", x, "y", y, "dx", "4", "dy", tenth(m.H/2+3)).Close("g")
}

func tenth(v float64) string { return strconv.FormatFloat(v, 'f', 1, 64) }

// captionPlace is about where a button shows its caption, from its upper left.
func (m *Mark) captionPlace() (across, down float64) {
	across, down = m.W/2, m.H/2
	if m.Picture == "" {
		return across, down
	}
	switch m.Face.Layout {
	case form.CaptionLeft:
		across = m.W / 4
	case form.CaptionRight:
		across = m.W * 3 / 4
	case form.CaptionAbove:
		down = m.H * 0.2
	case form.CaptionBelow:
		down = m.H * 0.8
	}
	return across, down
}

// pictureArea is about where a button shows its picture, as the page is shown: its upper left is at
// the upper left of the page.
func (m *Mark) pictureArea() geom.Rect {
	r := geom.R(m.X+2, m.Y+2, m.X+m.W-2, m.Y+m.H-2)
	switch m.Face.Layout {
	case form.CaptionBelow:
		r.Y1 -= r.H() * 0.4
	case form.CaptionAbove:
		r.Y0 += r.H() * 0.4
	case form.CaptionLeft:
		r.X0 += r.W() / 2
	case form.CaptionRight:
		r.X1 -= r.W() / 2
	}
	return r
}

// spine is the path of the mark on the leading edge that tells the kind without colour.
func (m *Mark) spine() string {
	x, y0, x1, y1 := m.X, m.Y, m.X+m.W, m.Y+m.H
	switch {
	case m.Kind == form.CheckBox:
		n := math.Min(m.W, m.H) * 0.35
		return fmt.Sprintf("M%.2f %.2fh%.2fl%.2f %.2fz", x, y0, n, -n, n)
	case m.Kind == form.Signature:
		var b strings.Builder
		fmt.Fprintf(&b, "M%.2f %.2f", x+1, y0)
		for y, side := y0, 2.4; y < y1-1; y, side = y+3, -side {
			fmt.Fprintf(&b, "q%.2f 1.5 0 3", side)
		}
		return b.String()
	case m.Kind == form.Button:
		return fmt.Sprintf("M%.2f %.2fH%.2fV%.2fH%.2fz", x, y0, x1, y1, x)
	case m.Kind == form.Radio:
		return fmt.Sprintf("M%.2f %.2fa4 4 0 0 0 4 -4h-4z", x, y0+4)
	case m.Kind == form.Choice:
		h := m.H / 3
		return fmt.Sprintf("M%.2f %.2fh6v%.2fh-2v%.2fh-2v%.2fh-2z", x, y0, h, h, h)
	case m.Comb > 0:
		var b strings.Builder
		for y := y0; y < y1; y += 4 {
			fmt.Fprintf(&b, "M%.2f %.2fh3v2h-3z", x, y)
		}
		return b.String()
	case m.Multiline:
		return fmt.Sprintf("M%.2f %.2fh1.6V%.2fh-1.6zM%.2f %.2fh1.6V%.2fh-1.6z", x, y0, y1, x+3.2, y0, y1)
	}
	return "M" + short(x) + " " + short(y0) + "h3V" + short(y1) + "h-3z"
}

// Line writes the closed note of a field.
func (b *Builder) Line(m *Mark) {
	class := "note" + m.sense()
	if m.Wrong != "" {
		class += " bad"
	}
	b.Open("li", "class", class, "id", "n-"+m.ID, "data-id", m.ID, "data-x", Number(m.X), "data-y", Number(m.Y), "data-w", Number(m.W),
		"data-h", Number(m.H))
	b.Open("button", "class", "line", "tabindex", "-1", "data-open", m.ID).Element("span", m.Name, "class", "n").
		Open("span", "class", "t")
	switch {
	case m.Doubt:
		b.Text(m.Find.Evidence).Close("span").Element("span", "doubtful", "class", "b").Close("button").Open("span", "class", "quick")
		b.Element("button", "keep", "class", "link", "data-do", "keep", "data-field", m.ID, "tabindex", "-1", "aria-label",
			"Keep "+m.Name).Text(" ")
		b.Element("button", "drop", "class", "link", "data-do", "drop", "data-field", m.ID, "tabindex", "-1", "aria-label",
			"Drop "+m.Name).Close("span")
	case m.Wrong != "":
		b.Text(m.Tooltip).Close("span").Element("span", m.Wrong, "class", "b").Close("button")
	default:
		b.Text(m.Tooltip).Close("span").Element("span", m.Badge, "class", "b").Close("button")
	}
	b.Close("li")
}

// Beads draws the thread through the beads in their order, and the beads.
func Beads(all []arrange.Bead) template.HTML {
	var path strings.Builder
	for i, k := range all {
		to := "L"
		if i == 0 {
			to = "M"
		}
		path.WriteString(to + Number(k.X) + " " + Number(k.Y))
	}
	var b Builder
	b.Grow(220 * len(all))
	b.Empty("path", "class", "thread", "d", path.String())
	for _, k := range all {
		n := strconv.Itoa(k.N)
		b.Open("g", "class", "bead", "id", "bead-"+k.ID, "data-id", k.ID, "data-n", n, "role", "listitem", "tabindex", "-1",
			"aria-label", "Number "+n+": "+k.Name,
			"transform", "translate("+Number(k.X)+" "+Number(k.Y)+")")
		b.Empty("circle", "r", "9").Element("text", n, "y", "4").Close("g")
	}
	return b.HTML()
}

// Box writes a rectangle of a class, in points of the page as shown, with words at its upper left corner; empty is none.
func (b *Builder) Box(class string, r geom.Rect, words string) {
	b.Empty("rect", "class", class, "x", tenth(r.X0), "y", tenth(r.Y0), "width", tenth(r.W()), "height", tenth(r.H()))
	if words != "" {
		b.Element("text", words, "class", class, "x", tenth(r.X0), "y", tenth(r.Y0-2))
	}
}
