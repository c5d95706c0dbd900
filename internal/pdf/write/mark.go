package write

import (
	"bytes"
	"errors"
	"fmt"
	"image"
	"math"
	"slices"
	"strings"

	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/pdf/look"
	"zealousmargin.example/internal/pdf/object"
	"zealousmargin.example/internal/pdf/read"
)

// Mark is what somebody signs with: their name as it is typed, as it is drawn, or a picture; beside it stand the name and the day.
type Mark struct {
	Name string
	On   string // the day, in words
	// Strokes are what was drawn, each a line through some points: x to the right, y downwards, in any unit.
	Strokes [][]geom.Point
	Picture []byte // PNG, JPEG, GIF or WebP
}

// Limits of what is drawn.
const (
	mostStrokes = 200
	mostPoints  = 20_000
)

// Check refuses what is no signature.
func (m Mark) Check() error {
	if strings.TrimSpace(m.Name) == "" {
		return errors.New("say your name: it stands beside the signature")
	}
	if err := form.CheckLine("the name", m.Name, 120); err != nil {
		return err
	}
	if len(m.Picture) > 0 {
		return CheckPicture(m.Picture)
	}
	points, long := 0, 0.0
	for _, s := range m.Strokes {
		for i, p := range s {
			if points++; math.IsNaN(p.X) || math.IsNaN(p.Y) || math.Abs(p.X) > 1e5 || math.Abs(p.Y) > 1e5 {
				return errors.New("this drawing cannot be read: draw it once more")
			}
			if i > 0 {
				long += math.Hypot(p.X-s[i-1].X, p.Y-s[i-1].Y)
			}
		}
	}
	switch {
	case len(m.Strokes) > mostStrokes || points > mostPoints:
		return errors.New("this drawing has more lines than a signature: draw it more simply")
	case len(m.Strokes) > 0 && long == 0:
		return errors.New("draw your signature first: there are only dots")
	}
	return nil
}

// SignBy puts a signature into signature fields, by name, as content of their pages: the fields are gone then, since nobody is to sign
// there again.
func SignBy(src []byte, fields []string, m Mark) (_ []byte, err error) {
	defer object.Recovered(&err)
	if err := m.Check(); err != nil {
		return nil, err
	}
	f, err := object.Parse(src)
	if err != nil {
		return nil, err
	}
	ws, err := read.WidgetsOf(f)
	if err != nil {
		return nil, err
	}
	b := NewBuilder(f)
	if err := b.AcroForm(); err != nil {
		return nil, err
	}
	gone := map[int]bool{}
	for i, w := range ws {
		if w.Kind != form.Signature || !slices.Contains(fields, w.Name) || w.Page == 0 {
			continue
		}
		if w.Value != "" {
			return nil, fmt.Errorf("%s is signed with a certificate already", w.Name)
		}
		gone[w.Refs[0].ObjectNumber.Value()] = true
		if w.Rect.Empty() {
			continue
		}
		if err := b.mark(w, m, fmt.Sprintf("ZmSigned%d", i+1)); err != nil {
			return nil, err
		}
	}
	for _, n := range fields {
		if !slices.ContainsFunc(ws, func(w read.Widget) bool { return w.Name == n && gone[w.Refs[0].ObjectNumber.Value()] }) {
			return nil, fmt.Errorf("there is no place called %q to sign in", n)
		}
	}
	b.TakeOut(gone)
	if err := b.Finish(); err != nil {
		return nil, err
	}
	return f.Increment()
}

// mark draws a signature in the place of a widget, upright as the page is shown.
func (b *Builder) mark(w read.Widget, m Mark, name string) error {
	p := b.Pages[w.Page-1]
	r := w.Rect.Shift(p.Origin.X, p.Origin.Y)
	width, height := r.W(), r.H()
	place := geom.Matrix{1, 0, 0, 1, r.X0, r.Y0}
	switch ((p.Rotate % 360) + 360) % 360 {
	case 90:
		place, width, height = geom.Matrix{0, 1, -1, 0, r.X1, r.Y0}, height, width
	case 180:
		place = geom.Matrix{-1, 0, 0, -1, r.X1, r.Y1}
	case 270:
		place, width, height = geom.Matrix{0, -1, 1, 0, r.X0, r.Y1}, height, width
	}
	area, beside := markAreas(width, height)
	res := types.Dict{}
	fonts := types.Dict{}
	var c strings.Builder
	said := m.Name + ", " + m.On
	more, face, err := b.FontsFor(said, "")
	if err != nil {
		return err
	}
	for k, v := range more {
		fonts[k] = v
	}
	b.saying(&c, beside, said, face)
	switch {
	case len(m.Picture) > 0:
		img, kind, err := image.Decode(bytes.NewReader(m.Picture))
		if err != nil {
			return errors.New("this picture is damaged: choose it again")
		}
		ref, err := b.image(img, kind, m.Picture)
		if err != nil {
			return err
		}
		res["XObject"] = types.Dict{"Im": ref}
		at := fitted(area, float64(img.Bounds().Dx()), float64(img.Bounds().Dy()))
		fmt.Fprintf(&c, "q\n%s 0 0 %s %s %s cm\n/Im Do\nQ\n", object.Dec(at.W()), object.Dec(at.H()), object.Dec(at.X0), object.Dec(at.Y0))
	case len(m.Strokes) > 0:
		strokes(&c, area, m.Strokes)
	default:
		more, serif, err := b.FontsFor(m.Name, "Liberation-Serif")
		if err != nil {
			return err
		}
		for k, v := range more {
			fonts[k] = v
		}
		size := math.Min(area.H()*0.8, area.W()/math.Max(serif.Width(m.Name), 0.1))
		fmt.Fprintf(&c, "q\nBT\n/%s %s Tf\n%s %s Td\n%s Tj\nET\nQ\n", serif.Resource(), object.Dec(size), object.Dec(area.X0),
			object.Dec(area.Y0+(area.H()-size*0.7)/2), serif.Show(m.Name))
	}
	res["Font"] = fonts
	ref, err := b.Stream([]byte(c.String()), types.Dict{
		"Type": types.Name("XObject"), "Subtype": types.Name("Form"), "FormType": types.Integer(1),
		"BBox": types.Array{object.Num(0), object.Num(0), object.Num(width), object.Num(height)}, "Resources": res,
	})
	if err != nil {
		return err
	}
	if err := b.PageXObject(w.Page-1, name, ref); err != nil {
		return err
	}
	p = b.Pages[w.Page-1]
	if err := b.AppendContent(p, "q\n"+cm(place)+object.ContentName(name)+" Do\nQ\n"); err != nil {
		return err
	}
	b.Touch(p.Ref)
	return nil
}

// picture puts a picture that somebody gives into the file, and gives its size in pixels.
func (b *Builder) picture(picture []byte) (ref types.IndirectRef, size geom.Point, err error) {
	if err := CheckPicture(picture); err != nil {
		return ref, size, err
	}
	img, kind, err := image.Decode(bytes.NewReader(picture))
	if err != nil {
		return ref, size, errors.New("this picture is damaged: choose it again")
	}
	ref, err = b.image(img, kind, picture)
	return ref, geom.Point{X: float64(img.Bounds().Dx()), Y: float64(img.Bounds().Dy())}, err
}

// PicturedLook draws a picture and words beside it as the appearance of a widget: the picture in its left two fifths.
func (b *Builder) PicturedLook(w read.Widget, words string, picture []byte) error {
	ref, size, err := b.picture(picture)
	if err != nil {
		return err
	}
	fonts, face, err := b.FontsFor(words, "")
	if err != nil {
		return err
	}
	l := b.looksOf(w)
	width, height := w.Rect.W(), w.Rect.H()
	if l.Rotate%180 != 0 {
		width, height = height, width
	}
	in := geom.R(2, 2, width-2, height-2)
	mid := in.X0 + in.W()*0.4
	at := fitted(geom.R(in.X0, in.Y0, mid-3, in.Y1), size.X, size.Y)
	var c strings.Builder
	c.WriteString(look.FrameContent(read.LookOf(b.Kit.File, w), width, height, false))
	fmt.Fprintf(&c, "q\n%s 0 0 %s %s %s cm\n/Im Do\nQ\n", object.Dec(at.W()), object.Dec(at.H()), object.Dec(at.X0), object.Dec(at.Y0))
	b.saying(&c, geom.R(mid, in.Y0, in.X1, in.Y1), words, face)
	ap, err := look.AppearanceWith(b.Kit.File, c.String(), w.Rect, l, types.Dict{"Font": fonts, "XObject": types.Dict{"Im": ref}})
	if err != nil {
		return err
	}
	w.Dict.Update("AP", types.Dict{"N": ap})
	b.TouchWidget(w)
	return nil
}

// markAreas part a place into that of the signature and that of the words: below each other where it is high enough, else side by side.
func markAreas(w, h float64) (mark, words geom.Rect) {
	in := geom.R(1.5, 1, w-1.5, h-1)
	const row = 8 // of the words, in points
	if h >= 3*row {
		return geom.R(in.X0, in.Y0+row, in.X1, in.Y1), geom.R(in.X0, in.Y0, in.X1, in.Y0+row)
	}
	mid := in.X0 + in.W()*0.55
	return geom.R(in.X0, in.Y0, mid-3, in.Y1), geom.R(mid, in.Y0, in.X1, in.Y1)
}

// saying sets words into an area: in one line, or in as many as it takes.
func (b *Builder) saying(c *strings.Builder, in geom.Rect, s string, face look.Typeface) {
	size := 6.5
	var rows []string
	for ; ; size -= 0.25 {
		rows = look.Wrap(s, in.W()/size, face)
		if float64(len(rows))*size*1.15 <= in.H() || size <= 3 {
			break
		}
	}
	fmt.Fprintf(
		c,
		"q\n0.25 g\nBT\n/%s %s Tf\n%s TL\n%s %s Td\n",
		face.Resource(),
		object.Dec(size),
		object.Dec(size*1.15),
		object.Dec(in.X0),
		object.Dec(in.Y1-size*0.95),
	)
	for _, row := range rows {
		fmt.Fprintf(c, "%s Tj\nT*\n", face.Show(row))
	}
	c.WriteString("ET\nQ\n")
}

// fitted is the largest place of a shape in an area, at its left, in the middle of its height.
func fitted(in geom.Rect, w, h float64) geom.Rect {
	k := math.Min(in.W()/w, in.H()/h)
	y := in.Y0 + (in.H()-h*k)/2
	return geom.R(in.X0, y, in.X0+w*k, y+h*k)
}

// strokes draws lines as large as they fit.
func strokes(c *strings.Builder, in geom.Rect, all [][]geom.Point) {
	box := geom.Rect{X0: math.Inf(1), Y0: math.Inf(1), X1: math.Inf(-1), Y1: math.Inf(-1)}
	for _, s := range all {
		for _, p := range s {
			box = geom.Rect{X0: math.Min(box.X0, p.X), Y0: math.Min(box.Y0, p.Y), X1: math.Max(box.X1, p.X), Y1: math.Max(box.Y1, p.Y)}
		}
	}
	at := fitted(in.Inset(1), math.Max(box.W(), 1), math.Max(box.H(), 1))
	k := at.W() / math.Max(box.W(), 1)
	c.WriteString("q\n0.1 G\n1.1 w\n1 J\n1 j\n")
	for _, s := range all {
		for i, p := range s {
			op := "l"
			if i == 0 {
				op = "m"
			}
			fmt.Fprintf(c, "%s %s %s\n", object.Dec(at.X0+(p.X-box.X0)*k), object.Dec(at.Y1-(p.Y-box.Y0)*k), op)
		}
		if len(s) > 0 {
			c.WriteString("S\n")
		}
	}
	c.WriteString("Q\n")
}
