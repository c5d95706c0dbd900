package write

import (
	"bytes"
	"compress/zlib"
	"fmt"
	"math"
	"strings"

	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"

	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/pdf/look"
	"zealousmargin.example/internal/pdf/object"
)

// layerFont names the typeface of the invisible text in the resources of a page.
const layerFont = "ZmText"

// textLayer writes recognised words as invisible text (text rendering mode 3, ISO
// 32000-2, 9.3.6), each as wide as it stands on the paper, along the direction in
// which the page was read.
func (a *assembler) textLayer(text evidence.Text, as form.Page, origin geom.Point) (types.IndirectRef, error) {
	if a.wide == 0 {
		a.wide = a.reserve()
	}
	m := geom.Identity
	if as.AsIs() { // the boxes of the file stay, and its origin with them
		m = geom.Matrix{1, 0, 0, 1, origin.X, origin.Y}
	}
	dir := readingDirection(text.Rotate)
	var b strings.Builder
	b.WriteString("BT\n3 Tr\n")
	for _, w := range text.At(as.Placing()) {
		said := strings.Map(func(r rune) rune {
			if g, _ := look.Wide.Glyph(r); g == 0 {
				return '?'
			}
			return r
		}, w.Text)
		natural := look.Wide.Width(said)
		if natural == 0 || w.Rect.Empty() {
			continue
		}
		a.used = append(a.used, []rune(said)...)
		// where the baseline begins, and how long the word is along it
		start, length := wordStart(w, text.Rotate)
		size := math.Max(1, w.Size)
		unit := geom.Matrix{dir.X, dir.Y, -dir.Y, dir.X, start.X, start.Y}.Then(m)
		k := length / (natural * size)
		fmt.Fprintf(&b, "%.4f %.4f %.4f %.4f %.3f %.3f Tm /%s %s Tf %.2f Tz %s Tj\n",
			unit[0], unit[1], unit[2], unit[3], unit[4], unit[5], layerFont, object.Dec(size), k*100, look.Wide.Show(said+" "))
	}
	a.used = append(a.used, ' ')
	b.WriteString("ET\n")
	return a.Stream([]byte("q\n"+b.String()+"Q\n"), nil)
}

// readingDirection is the way a line of text runs in page space when the page is
// shown turned clockwise by rotate degrees.
func readingDirection(rotate int) geom.Point {
	switch rotate {
	case 90:
		return geom.Point{Y: 1}
	case 180:
		return geom.Point{X: -1}
	case 270:
		return geom.Point{Y: -1}
	}
	return geom.Point{X: 1}
}

// wordStart is the corner of a word's box at which its baseline begins, a fifth of
// its size up from the lower edge as read, and its length.
func wordStart(w evidence.Word, rotate int) (geom.Point, float64) {
	r := w.Rect
	switch rotate {
	case 90:
		return geom.Point{X: r.X1 - 0.2*r.W(), Y: r.Y0}, r.H()
	case 180:
		return geom.Point{X: r.X1, Y: r.Y1 - 0.2*r.H()}, r.W()
	case 270:
		return geom.Point{X: r.X0 + 0.2*r.W(), Y: r.Y1}, r.H()
	}
	return geom.Point{X: r.X0, Y: r.Y0 + 0.2*r.H()}, r.W()
}

// withFont adds the typeface of the invisible text to the resources of a page.
func (a *assembler) withFont(f *object.File, from, copied types.Object) types.Object {
	d := types.Dict{}
	if own, ok := copied.(types.Dict); ok {
		d = own
	} else {
		for k, v := range f.Dict(from) {
			d[k] = a.copy(f, v)
		}
	}
	fonts := types.Dict{}
	for k, v := range f.Dict(object.Entry(f.Dict(from), "Font")) {
		fonts[k] = a.copy(f, v)
	}
	fonts[layerFont] = *types.NewIndirectRef(a.wide, 0)
	d["Font"] = fonts
	return d
}

// font writes the typeface for the signs that were used.
func (a *assembler) font() error {
	d, err := look.Wide.Write(a, a.used)
	if err == nil {
		a.put(a.wide, d)
	}
	return err
}

// large is how many bytes of a stream are packed quickly instead of well.
const large = 1 << 20

// packed is a compressed stream object.
func packed(content []byte, d types.Dict) ([]byte, error) {
	var z bytes.Buffer
	level := zlib.DefaultCompression
	if len(content) > large { // a picture: a tenth larger, in a third of the time
		level = zlib.BestSpeed
	}
	w, err := zlib.NewWriterLevel(&z, level)
	if err != nil {
		return nil, err
	}
	if _, err := w.Write(content); err != nil {
		return nil, err
	}
	if err := w.Close(); err != nil {
		return nil, err
	}
	all := types.Dict{}
	for k, v := range d {
		all[k] = v
	}
	all["Filter"], all["Length"] = types.Name("FlateDecode"), types.Integer(z.Len())
	return streamBytes(all, z.Bytes()), nil
}
