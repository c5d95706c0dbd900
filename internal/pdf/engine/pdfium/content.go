package pdfium

import (
	"fmt"
	"image"
	"math"

	"github.com/klippa-app/go-pdfium/enums"
	"github.com/klippa-app/go-pdfium/references"
	"github.com/klippa-app/go-pdfium/requests"

	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/scan"
)

// maxDepth bounds how deep form XObjects may nest; deeper is taken for an attack.
const maxDepth = 12

// Evidence reads the content of page n (from 1): vector paths, pictures and
// glyphs, nested form XObjects included. Annotations and fields are not content.
func (d *Doc) Evidence(n int) (*evidence.Page, error) {
	p, err := d.numbered(n)
	if err != nil {
		return nil, err
	}
	as := p.Page
	as.N = n
	return d.EvidenceOf(as, nil)
}

// ScanDPI is the resolution at which the marks of a scan are looked for.
const ScanDPI = 200.0

// EvidenceOf reads the content of a page of a draft whose file this is. Text, when
// not nil, is what was recognised on the page.
func (d *Doc) EvidenceOf(as form.Page, text *evidence.Text) (*evidence.Page, error) {
	b, err := d.marks(as)
	if err != nil {
		return nil, err
	}
	if large, crowd := b.Large(), b.Crowd(); as.Scan || len(large) > 0 || !crowd.Empty() {
		const k = ScanDPI / 72
		img, err := d.RenderPage(as, k)
		if err != nil {
			return nil, err
		}
		if as.Scan { // what is drawn on it is in its picture
			gray := scan.Gray(img)
			b.Pixels(gray)
			b.Layer(gray, text == nil)
			large, crowd = nil, geom.Rect{}
		}
		_, height := as.ViewSize()
		for _, r := range large { // a form that stands in a page as a picture
			box := image.Rect(int(r.X0*k), int((height-r.Y1)*k), int(r.X1*k), int((height-r.Y0)*k)).Intersect(img.Bounds())
			b.PicturePixels(scan.Gray(img.SubImage(box)), r)
		}
		if !crowd.Empty() {
			b.PixelRules(scan.Gray(img), crowd)
		}
	}
	recognised(b, as, text)
	return b.Page(), nil
}

// Written is [Doc.EvidenceOf] without what must be looked for in the pixels of pictures. A page is drawn only where it brings words with it
// that are to be weighed against its picture.
func (d *Doc) Written(as form.Page, text *evidence.Text) (*evidence.Page, error) {
	b, err := d.marks(as)
	if err != nil {
		return nil, err
	}
	switch {
	case !as.Scan:
	case text != nil || !b.Lettered():
		b.Layer(nil, false)
	default:
		img, err := d.RenderPage(as, ScanDPI/72)
		if err != nil {
			return nil, err
		}
		b.Layer(scan.Gray(img), true)
	}
	recognised(b, as, text)
	return b.Page(), nil
}

// recognised adds what was recognised on a page.
func recognised(b *evidence.Builder, as form.Page, text *evidence.Text) {
	if text == nil {
		return
	}
	toView, _ := geom.Upright(as.Width, as.Height, as.Rotate)
	for _, w := range text.At(as.Placing()) {
		w.Rect = w.Rect.Apply(toView)
		b.Word(w.Settled())
	}
}

// Pictured tells whether page n (from 1) has a picture among its first objects, or in
// a form that stands there: without one it cannot be a scan.
func (d *Doc) Pictured(n int) bool {
	ref := d.page(n - 1)
	count, err := d.in.FPDFPage_CountObjects(&requests.FPDFPage_CountObjects{Page: ref})
	if err != nil {
		return false
	}
	for i := range min(count.Count, 12) {
		obj, err := d.in.FPDFPage_GetObject(&requests.FPDFPage_GetObject{Page: ref, Index: i})
		if err != nil {
			continue
		}
		kind, err := d.in.FPDFPageObj_GetType(&requests.FPDFPageObj_GetType{PageObject: obj.PageObject})
		if err == nil && (kind.Type == enums.FPDF_PAGEOBJ_IMAGE || kind.Type == enums.FPDF_PAGEOBJ_FORM) {
			return true
		}
	}
	return false
}

// marks collects the content of a page as it is shown.
func (d *Doc) marks(as form.Page) (*evidence.Builder, error) {
	n := as.N
	p, err := d.numbered(n)
	if err != nil {
		return nil, err
	}
	b := evidence.NewBuilder(as.Width, as.Height, as.Rotate)
	toView, _ := geom.Upright(as.Width, as.Height, as.Rotate)
	c := content{d: d, b: b, toPage: geom.Matrix{1, 0, 0, 1, -p.origin.X, -p.origin.Y}.Then(as.Placing()).Then(toView)}
	ref := d.page(n - 1)
	count, err := d.in.FPDFPage_CountObjects(&requests.FPDFPage_CountObjects{Page: ref})
	if err != nil {
		return nil, fmt.Errorf("the content of page %d cannot be read: %w", n, err)
	}
	for i := range count.Count {
		obj, err := d.in.FPDFPage_GetObject(&requests.FPDFPage_GetObject{Page: ref, Index: i})
		if err != nil {
			continue
		}
		c.object(obj.PageObject, c.toPage, 0)
	}
	if err := c.text(ref); err != nil {
		return nil, fmt.Errorf("the text of page %d cannot be read: %w", n, err)
	}
	b.Resolution(c.dpi)
	return b, nil
}

type content struct {
	d       *Doc
	b       *evidence.Builder
	toPage  geom.Matrix
	largest float64 // area of the largest picture
	dpi     float64 // its resolution
}

// object adds one page object; m takes its parent's space to page space.
func (c *content) object(ref references.FPDF_PAGEOBJECT, m geom.Matrix, depth int) {
	in := c.d.in
	kind, err := in.FPDFPageObj_GetType(&requests.FPDFPageObj_GetType{PageObject: ref})
	if err != nil {
		return
	}
	switch kind.Type {
	case enums.FPDF_PAGEOBJ_TEXT:
		c.b.Text(c.hidden(ref))
	case enums.FPDF_PAGEOBJ_PATH:
		c.path(ref, m)
	case enums.FPDF_PAGEOBJ_IMAGE:
		r := geom.Rect{X1: 1, Y1: 1}.Apply(c.matrix(ref).Then(m))
		c.b.Picture(r)
		if size, err := in.FPDFImageObj_GetImagePixelSize(&requests.FPDFImageObj_GetImagePixelSize{ImageObject: ref}); err == nil &&
			r.Area() > c.largest {
			c.largest = r.Area()
			c.dpi = math.Max(float64(size.Width), float64(size.Height)) / math.Max(r.W(), r.H()) * 72
		}
	case enums.FPDF_PAGEOBJ_FORM:
		if depth >= maxDepth {
			return
		}
		inner := c.matrix(ref).Then(m)
		n, err := in.FPDFFormObj_CountObjects(&requests.FPDFFormObj_CountObjects{PageObject: ref})
		if err != nil {
			return
		}
		for i := range n.Count {
			obj, err := in.FPDFFormObj_GetObject(&requests.FPDFFormObj_GetObject{PageObject: ref, Index: uint64(i)})
			if err == nil {
				c.object(obj.PageObject, inner, depth+1)
			}
		}
	}
}

// hidden tells whether a piece of text is not to be seen (ISO 32000-1, table 106, mode 3).
func (c *content) hidden(ref references.FPDF_PAGEOBJECT) bool {
	mode, err := c.d.in.FPDFTextObj_GetTextRenderMode(&requests.FPDFTextObj_GetTextRenderMode{PageObject: ref})
	return err == nil && mode.TextRenderMode == enums.FPDF_TEXTRENDERMODE_INVISIBLE
}

func (c *content) matrix(ref references.FPDF_PAGEOBJECT) geom.Matrix {
	res, err := c.d.in.FPDFPageObj_GetMatrix(&requests.FPDFPageObj_GetMatrix{PageObject: ref})
	if err != nil {
		return geom.Identity
	}
	m := res.Matrix
	return geom.Matrix{float64(m.A), float64(m.B), float64(m.C), float64(m.D), float64(m.E), float64(m.F)}
}

// maxSegments is the length from which a path is a drawing and no form rule.
const maxSegments = 400

// crowded takes a path of very many pieces, such as all dotted lines of a page in one: a thin one is a
// line, and the lines of a wide one are looked for in its picture.
func (c *content) crowded(ref references.FPDF_PAGEOBJECT, parent geom.Matrix, p evidence.Path) {
	r, ok := c.bounds(ref, parent)
	if !ok {
		return
	}
	if math.Min(r.W(), r.H()) <= evidence.MaxRuleThick {
		p.Subpaths, p.Stroke, p.Fill = []evidence.Subpath{{Points: r.Corners(), Closed: true}}, false, true
		p.Clip = c.clip(ref, parent)
		c.b.Path(p)
		return
	}
	c.b.Crowded(r)
}

// path adds a path; parent takes the space that it stands in to page space.
func (c *content) path(ref references.FPDF_PAGEOBJECT, parent geom.Matrix) {
	in, m := c.d.in, c.matrix(ref).Then(parent)
	mode, err := in.FPDFPath_GetDrawMode(&requests.FPDFPath_GetDrawMode{PageObject: ref})
	if err != nil {
		return
	}
	p := evidence.Path{Stroke: mode.Stroke, Fill: mode.FillMode != enums.FPDF_FILLMODE_NONE, Tone: 0, Ink: 0}
	if !p.Stroke && !p.Fill {
		return
	}
	n, err := in.FPDFPath_CountSegments(&requests.FPDFPath_CountSegments{PageObject: ref})
	if err != nil || n.Count < 2 {
		return
	}
	if n.Count > maxSegments {
		c.crowded(ref, parent, p)
		return
	}
	if p.Stroke {
		if w, err := in.FPDFPageObj_GetStrokeWidth(&requests.FPDFPageObj_GetStrokeWidth{PageObject: ref}); err == nil {
			p.Width = float64(w.StrokeWidth) * m.Scale()
		}
		if k, err := in.FPDFPageObj_GetStrokeColor(&requests.FPDFPageObj_GetStrokeColor{PageObject: ref}); err == nil {
			p.Ink = lightness(k.StrokeColor.R, k.StrokeColor.G, k.StrokeColor.B, k.StrokeColor.A)
		}
	}
	if p.Stroke {
		if n, err := in.FPDFPageObj_GetDashCount(&requests.FPDFPageObj_GetDashCount{PageObject: ref}); err == nil {
			p.Dashed = n.DashCount > 0
		}
	}
	if p.Fill {
		if k, err := in.FPDFPageObj_GetFillColor(&requests.FPDFPageObj_GetFillColor{PageObject: ref}); err == nil {
			p.Tone = lightness(k.FillColor.R, k.FillColor.G, k.FillColor.B, k.FillColor.A)
		}
	}
	if !p.Stroke && (n.Count == 4 || n.Count == 5) { // one area: when it is thin, its bounds say all
		if r, ok := c.bounds(ref, parent); ok && math.Min(r.W(), r.H()) <= evidence.MaxRuleThick {
			p.Subpaths = []evidence.Subpath{{Points: r.Corners(), Closed: true}}
			p.Clip = c.clip(ref, parent)
			c.b.Path(p)
			return
		}
	}
	var cur evidence.Subpath
	flush := func() {
		if len(cur.Points) > 1 {
			p.Subpaths = append(p.Subpaths, cur)
		}
		cur = evidence.Subpath{}
	}
	for i := range n.Count {
		seg, err := in.FPDFPath_GetPathSegment(&requests.FPDFPath_GetPathSegment{PageObject: ref, Index: i})
		if err != nil {
			return
		}
		pt, err := in.FPDFPathSegment_GetPoint(&requests.FPDFPathSegment_GetPoint{PathSegment: seg.PathSegment})
		if err != nil {
			return
		}
		at := m.Apply(geom.Point{X: float64(pt.X), Y: float64(pt.Y)})
		if n.Count == 2 { // nothing but a line
			cur.Points = append(cur.Points, at)
			continue
		}
		kind, err := in.FPDFPathSegment_GetType(&requests.FPDFPathSegment_GetType{PathSegment: seg.PathSegment})
		if err != nil {
			return
		}
		if kind.Type == enums.FPDF_SEGMENT_MOVETO {
			flush()
		}
		cur.Curved = cur.Curved || kind.Type == enums.FPDF_SEGMENT_BEZIERTO
		cur.Points = append(cur.Points, at)
		if !p.Stroke {
			continue // an area is closed anyway
		}
		if closed, err := in.FPDFPathSegment_GetClose(&requests.FPDFPathSegment_GetClose{PathSegment: seg.PathSegment}); err == nil &&
			closed.IsClose {
			cur.Closed = true
		}
	}
	flush()
	p.Clip = c.clip(ref, parent)
	c.b.Path(p)
}

// clip is the area outside of which an object is not shown, taken as the rectangle
// around each clipping path; nil when there is none.
func (c *content) clip(ref references.FPDF_PAGEOBJECT, parent geom.Matrix) *geom.Rect {
	in := c.d.in
	clip, err := in.FPDFPageObj_GetClipPath(&requests.FPDFPageObj_GetClipPath{PageObject: ref})
	if err != nil {
		return nil
	}
	paths, err := in.FPDFClipPath_CountPaths(&requests.FPDFClipPath_CountPaths{ClipPath: clip.ClipPath})
	if err != nil {
		return nil // it has none
	}
	var out *geom.Rect
	for i := range min(paths.Count, maxDepth) {
		n, err := in.FPDFClipPath_CountPathSegments(&requests.FPDFClipPath_CountPathSegments{ClipPath: clip.ClipPath, PathIndex: i})
		if err != nil || n.Count < 3 || n.Count > maxSegments {
			continue
		}
		var r geom.Rect
		for k := range n.Count {
			seg, err := in.FPDFClipPath_GetPathSegment(&requests.FPDFClipPath_GetPathSegment{
				ClipPath: clip.ClipPath, PathIndex: i,
				SegmentIndex: k,
			})
			if err != nil {
				return nil
			}
			pt, err := in.FPDFPathSegment_GetPoint(&requests.FPDFPathSegment_GetPoint{PathSegment: seg.PathSegment})
			if err != nil {
				return nil
			}
			at := parent.Apply(geom.Point{X: float64(pt.X), Y: float64(pt.Y)})
			dot := geom.Rect{X0: at.X, Y0: at.Y, X1: at.X, Y1: at.Y}
			if k == 0 {
				r = dot
			}
			r = r.Union(dot)
		}
		if out != nil {
			r = out.Intersect(r)
		}
		out = &r
	}
	return out
}

// bounds is the area that an object covers, in page space.
func (c *content) bounds(ref references.FPDF_PAGEOBJECT, parent geom.Matrix) (geom.Rect, bool) {
	b, err := c.d.in.FPDFPageObj_GetBounds(&requests.FPDFPageObj_GetBounds{PageObject: ref})
	if err != nil {
		return geom.Rect{}, false
	}
	return geom.R(float64(b.Left), float64(b.Bottom), float64(b.Right), float64(b.Top)).Apply(parent), true
}

// lightness of an RGB colour over white paper, 0 to 1 (ITU-R BT.601 luma weights).
func lightness(r, g, b, a uint) float64 {
	y := (0.299*float64(r) + 0.587*float64(g) + 0.114*float64(b)) / 255
	alpha := float64(a) / 255
	return y*alpha + 1 - alpha
}

func (c *content) text(ref requests.Page) error {
	res, err := c.d.in.GetPageTextStructured(&requests.GetPageTextStructured{Page: ref, Mode: requests.GetPageTextStructuredModeChars})
	if err != nil {
		return err
	}
	for _, ch := range res.Chars {
		p := ch.PointPosition
		r := geom.R(p.Left, p.Bottom, p.Right, p.Top).Apply(c.toPage)
		for _, g := range ch.Text {
			c.b.Glyph(g, r)
		}
	}
	return nil
}
