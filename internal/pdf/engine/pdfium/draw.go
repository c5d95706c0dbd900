package pdfium

import (
	"fmt"
	"image"
	"math"
	"runtime"
	"sync"

	"github.com/klippa-app/go-pdfium/enums"
	"github.com/klippa-app/go-pdfium/requests"
	"github.com/klippa-app/go-pdfium/structs"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
)

// maxPixels holds the widest side of a drawn page, in pixels.
const maxPixels = 10000

// Render draws page n (from 1) as it is shown, without its form fields, at scale
// pixels per point. The widest side is held to 10,000 pixels.
func (d *Doc) Render(n int, scale float64) (*image.RGBA, error) {
	p, err := d.numbered(n)
	if err != nil {
		return nil, err
	}
	w, h := geom.ViewSize(p.Width, p.Height, p.Rotate)
	scale = math.Min(scale, maxPixels/math.Max(w, h))
	req := &requests.RenderPageInPixels{
		Page: d.page(n - 1), Width: max(1, int(math.Round(w*scale))), Height: max(1, int(math.Round(h*scale))),
	}
	res, err := d.in.RenderPageInPixels(req)
	if err != nil {
		return nil, fmt.Errorf("page %d cannot be drawn: %w", n, err)
	}
	defer res.Cleanup() // the pixels belong to the engine until then
	drawn, ok := res.Result.RenderedImage.(*image.RGBA)
	if !ok {
		return nil, fmt.Errorf("page %d was drawn in an unexpected format", n)
	}
	img := image.NewRGBA(drawn.Bounds())
	copy(img.Pix, drawn.Pix)
	return img, nil
}

func (d *Doc) numbered(n int) (page, error) {
	if n < 1 || n > len(d.pages) {
		return page{}, fmt.Errorf("there is no page %d: the document has %d", n, len(d.pages))
	}
	return d.pages[n-1], nil
}

// plain tells whether p lies just as the file's own page does.
func (p page) plain(as form.Page) bool {
	return as.AsIs() && as.Rotate == p.Rotate && as.Width == p.Width && as.Height == p.Height
}

// RenderPage draws a page of a draft whose file this is: placed and turned as the
// draft says. Without a place or a turn of its own it is [Doc.Render] of page as.N.
func (d *Doc) RenderPage(as form.Page, scale float64) (*image.RGBA, error) {
	p, err := d.numbered(as.N)
	if err != nil {
		return nil, err
	}
	if p.plain(as) {
		return d.Render(as.N, scale)
	}
	vw, vh := as.ViewSize()
	scale = math.Min(scale, maxPixels/math.Max(vw, vh))
	w, h := max(1, int(math.Round(vw*scale))), max(1, int(math.Round(vh*scale)))
	// The engine starts from the file's page as shown, in points, y downwards.
	m := geom.FromView(p.Width, p.Height, p.Rotate).Then(as.Placing()).Then(geom.ToView(as.Width, as.Height, as.Rotate)).
		Then(geom.Matrix{float64(w) / vw, 0, 0, float64(h) / vh, 0, 0})
	if (m[1] != 0 && m[0] != 0) && d.Pictured(as.N) { // the engine turns large pictures slowly
		return d.warped(as, m, w, h)
	}
	bm, err := d.in.FPDFBitmap_Create(&requests.FPDFBitmap_Create{Width: w, Height: h, Alpha: 1})
	if err != nil {
		return nil, fmt.Errorf("page %d cannot be drawn: %w", as.N, err)
	}
	defer func() { _, _ = d.in.FPDFBitmap_Destroy(&requests.FPDFBitmap_Destroy{Bitmap: bm.Bitmap}) }()
	if _, err := d.in.FPDFBitmap_FillRect(&requests.FPDFBitmap_FillRect{
		Bitmap: bm.Bitmap, Width: w, Height: h,
		Color: 0xFFFFFFFF,
	}); err != nil {
		return nil, err
	}
	_, err = d.in.FPDF_RenderPageBitmapWithMatrix(&requests.FPDF_RenderPageBitmapWithMatrix{
		Bitmap: bm.Bitmap, Page: d.page(as.N - 1),
		Matrix: structs.FPDF_FS_MATRIX{
			A: float32(m[0]), B: float32(m[1]), C: float32(m[2]), D: float32(m[3]), E: float32(m[4]),
			F: float32(m[5]),
		},
		Clipping: structs.FPDF_FS_RECTF{Right: float32(w), Bottom: float32(h)},
		Flags:    enums.FPDF_RENDER_FLAG_REVERSE_BYTE_ORDER,
	})
	if err != nil {
		return nil, fmt.Errorf("page %d cannot be drawn: %w", as.N, err)
	}
	buf, err := d.in.FPDFBitmap_GetBuffer(&requests.FPDFBitmap_GetBuffer{Bitmap: bm.Bitmap})
	if err != nil {
		return nil, err
	}
	img := image.NewRGBA(image.Rect(0, 0, w, h))
	copy(img.Pix, buf.Buffer)
	return img, nil
}

// warped draws the file's page as it is there, and turns the picture. M takes points of
// the page as shown to pixels of the result.
func (d *Doc) warped(as form.Page, m geom.Matrix, w, h int) (*image.RGBA, error) {
	if k := m.Scale(); k < 1.2 && w < 1000 && h < 1400 { // thin rules would break: draw larger, then take means
		large, err := d.warped(as, m.Then(geom.Matrix{3, 0, 0, 3, 0, 0}), 3*w, 3*h)
		if err != nil {
			return nil, err
		}
		return shrunk(large, 3), nil
	}
	scale := m.Scale()
	src, err := d.Render(as.N, scale)
	if err != nil {
		return nil, err
	}
	p := d.pages[as.N-1]
	vw, vh := p.ViewSize()
	b := src.Bounds()
	back, ok := geom.Matrix{vw / float64(b.Dx()), 0, 0, vh / float64(b.Dy()), 0, 0}.Then(m).Inverse()
	if !ok {
		return nil, fmt.Errorf("page %d cannot be laid like this", as.N)
	}
	out := image.NewRGBA(image.Rect(0, 0, w, h))
	var wg sync.WaitGroup
	for part := range runtime.NumCPU() {
		wg.Go(func() {
			for y := part; y < h; y += runtime.NumCPU() {
				warpRow(out, src, back, y)
			}
		})
	}
	wg.Wait()
	return out, nil
}

// shrunk is a picture n times smaller, each pixel the mean of n by n.
func shrunk(src *image.RGBA, n int) *image.RGBA {
	w, h := src.Rect.Dx()/n, src.Rect.Dy()/n
	out := image.NewRGBA(image.Rect(0, 0, w, h))
	for y := range h {
		for x := range w {
			var sum [4]int
			for dy := range n {
				row := src.Pix[(y*n+dy)*src.Stride+4*x*n:]
				for i := range 4 * n {
					sum[i%4] += int(row[i])
				}
			}
			for c := range 4 {
				out.Pix[y*out.Stride+4*x+c] = uint8(sum[c] / (n * n))
			}
		}
	}
	return out
}

// warpRow fills a row of dst from src, bilinearly, in steps of 1/256 of a pixel. Back
// takes places in dst to places in src; beyond src there is white.
func warpRow(dst, src *image.RGBA, back geom.Matrix, y int) {
	w, sw, sh := dst.Rect.Dx(), src.Rect.Dx(), src.Rect.Dy()
	row := dst.Pix[y*dst.Stride : y*dst.Stride+4*w]
	const one = 1 << 16
	start := back.Apply(geom.Point{X: 0.5, Y: float64(y) + 0.5})
	fx, fy := int64((start.X-0.5)*one), int64((start.Y-0.5)*one)
	dx, dy := int64(back[0]*one), int64(back[1]*one)
	for x := range w {
		ix, iy := int(fx>>16), int(fy>>16)
		at := row[4*x : 4*x+4 : 4*x+4]
		if ix < 0 || iy < 0 || ix+1 >= sw || iy+1 >= sh {
			at[0], at[1], at[2], at[3] = 255, 255, 255, 255
		} else {
			u, v := uint32(fx>>8)&255, uint32(fy>>8)&255
			a := src.Pix[iy*src.Stride+4*ix:]
			b := src.Pix[(iy+1)*src.Stride+4*ix:]
			k00, k10, k01, k11 := (256-u)*(256-v), u*(256-v), (256-u)*v, u*v
			for c := range 3 {
				at[c] = uint8((uint32(a[c])*k00 + uint32(a[c+4])*k10 + uint32(b[c])*k01 + uint32(b[c+4])*k11) >> 16)
			}
			at[3] = 255
		}
		fx += dx
		fy += dy
	}
}
