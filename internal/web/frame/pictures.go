package frame

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"image"
	"net/http"
	"strconv"
	"strings"
	"time"

	"github.com/labstack/echo/v5"
	"golang.org/x/sync/singleflight"

	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/pdf/engine"
	"zealousmargin.example/internal/pdf/object"
	"zealousmargin.example/internal/pdf/write"
	"zealousmargin.example/internal/snags"
	"zealousmargin.example/internal/store"
)

type Thumb struct {
	N, W, H, Count int
	On             bool
	Picture        string
}

// MaxPicture is the widest picture of a page that is drawn, in pixels: A2 at 400 %.
const MaxPicture = 9600

// PictureURL leads to the picture of a page, so many pixels wide. It says all that
// the picture depends on, so that it can be kept for ever.
func PictureURL(p form.Page, width int) string {
	u := fmt.Sprintf("/pictures/%s/%d/%d.png?as=%d,%v,%v", p.File, p.N, width, p.Rotate, p.Width, p.Height)
	if !p.AsIs() {
		for _, v := range p.Placing() {
			u += "," + strconv.FormatFloat(v, 'f', -1, 64)
		}
	}
	return u
}

// pageOf reads a page from the address of its picture.
func pageOf(file string, n int, as string) (form.Page, bool) {
	p := form.Page{File: file, N: n}
	parts := strings.Split(as, ",")
	if len(parts) != 3 && len(parts) != 9 {
		return p, false
	}
	v := make([]float64, len(parts))
	for i, s := range parts {
		f, err := strconv.ParseFloat(s, 64)
		if err != nil || f > 1e6 || f < -1e6 || f != f {
			return p, false
		}
		v[i] = f
	}
	p.Rotate, p.Width, p.Height = int(v[0]), v[1], v[2]
	if len(v) == 9 {
		p.Place = geom.Matrix(v[3:9])
	}
	return p, p.Width >= 1 && p.Height >= 1 && p.Width <= form.MaxSide && p.Height <= form.MaxSide && p.Rotate%90 == 0
}

// Picture draws a page of a file, so many pixels wide.
func (s *Frame) Picture(c *echo.Context) error {
	sha, n := c.Param("sha"), Number(c.Param("page"), 0)
	width := Number(strings.TrimSuffix(c.Param("width"), ".png"), 0)
	if width < 8 || width > MaxPicture {
		return Refuse(fmt.Errorf("a page can be drawn 8 to %d pixels wide", MaxPicture))
	}
	as := c.QueryParam("as")
	key := fmt.Sprintf("%s/%d/%d/%s", sha, n, width, as)
	b, err := s.drawn(c.Request().Context(), key, sha, width, func(d *engine.Doc) (form.Page, bool) {
		if n < 1 || n > len(d.Pages()) {
			return form.Page{}, false
		}
		if as != "" {
			return pageOf(sha, n, as)
		}
		p := d.Pages()[n-1]
		p.N = n
		return p, true
	})
	if err != nil {
		return err
	}
	c.Response().Header().Set("Cache-Control", "private, max-age=31536000, immutable")
	return c.Blob(http.StatusOK, "image/png", b)
}

// drawn gives the picture of a page of a file, so many pixels wide, and keeps it at hand under a key.
func (s *Frame) drawn(ctx context.Context, key, sha string, width int, page func(*engine.Doc) (form.Page, bool)) ([]byte, error) {
	if b, ok := s.pictures.Get(key); ok {
		return b, nil
	}
	return once(ctx, &s.drawing, key, func(ctx context.Context) ([]byte, error) {
		b, err := s.draw(ctx, sha, width, page)
		if err == nil {
			s.pictures.Add(key, b)
		}
		return b, err
	})
}

func (s *Frame) draw(ctx context.Context, sha string, width int, page func(*engine.Doc) (form.Page, bool)) ([]byte, error) {
	file, err := s.File(ctx, sha)
	if err != nil {
		return nil, err
	}
	var img *image.RGBA
	err = engine.Use(ctx, file, func(d *engine.Doc) (err error) {
		p, ok := page(d)
		if !ok {
			return store.ErrMissing
		}
		w, _ := p.ViewSize()
		img, err = d.RenderPage(p, float64(width)/w)
		return err
	})
	if err != nil {
		return nil, unreadable(err)
	}
	return engine.PNG(img)
}

// PageSeen draws a page of a form, so many pixels wide, for people who have no account; drawn pages are kept at hand.
func (s *Frame) PageSeen(c *echo.Context, p form.Page, width int) error {
	b, err := s.drawn(c.Request().Context(), PictureURL(p, width), p.File, width, func(*engine.Doc) (form.Page, bool) { return p, true })
	if err != nil {
		return err
	}
	c.Response().Header().Set("Cache-Control", "private, max-age=86400")
	return c.Blob(http.StatusOK, "image/png", b)
}

// unreadable refuses what is the fault of a file, and not ours.
func unreadable(err error) error {
	for _, its := range []error{
		object.ErrNotPDF, object.ErrEncrypted, object.ErrNoPages, object.ErrManyPages, object.ErrDamaged, object.ErrSlow, object.ErrHeavy,
	} {
		if errors.Is(err, its) {
			return Refuse(err)
		}
	}
	return err
}

// File reads a kept file; the last few are at hand.
func (s *Frame) File(ctx context.Context, sha string) ([]byte, error) {
	if b, ok := s.files.Get(sha); ok {
		return b, nil
	}
	b, err := s.Store.File(ctx, sha)
	if err == nil {
		s.files.Add(sha, b)
	}
	return b, err
}

// Text reads the recognised words of a page.
func (s *Frame) Text(ctx context.Context, sha string) (evidence.Text, error) {
	var t evidence.Text
	b, err := s.Store.File(ctx, sha)
	if err != nil {
		return t, err
	}
	err = json.Unmarshal(b, &t)
	return t, err
}

// PageEvidence reads what is on a page, once.
func (s *Frame) PageEvidence(ctx context.Context, p form.Page) (*evidence.Page, error) {
	p.ID, p.Notes = "", ""
	raw, err := json.Marshal(p)
	if err != nil {
		return nil, err
	}
	sum := sha256.Sum256(raw)
	key := hex.EncodeToString(sum[:])
	if ev, ok := s.evidence.Get(key); ok {
		return ev, nil
	}
	return once(ctx, &s.reading, key, func(ctx context.Context) (*evidence.Page, error) {
		ev, err := s.readEvidence(ctx, p)
		if err == nil {
			s.evidence.Add(key, ev)
		}
		return ev, err
	})
}

// once does what several ask for at the same time once, for all of them. When the one that it is done for goes away, it is done for the
// next.
func once[T any](ctx context.Context, g *singleflight.Group, key string, do func(context.Context) (T, error)) (T, error) {
	var none T
	for {
		select {
		case <-ctx.Done():
			return none, ctx.Err()
		case r := <-g.DoChan(key, func() (v any, err error) {
			defer object.Recovered(&err) // nothing else does beside the request
			return do(ctx)
		}):
			if r.Err == nil {
				return r.Val.(T), nil
			}
			if ctx.Err() != nil || !errors.Is(r.Err, context.Canceled) {
				return none, r.Err
			}
		}
	}
}

func (s *Frame) readEvidence(ctx context.Context, p form.Page) (*evidence.Page, error) {
	var text *evidence.Text
	if p.Text != "" {
		t, err := s.Text(ctx, p.Text)
		if err != nil {
			return nil, err
		}
		text = &t
	}
	file, err := s.File(ctx, p.File)
	if err != nil {
		return nil, err
	}
	return engine.Read(ctx, file, p, text)
}

// Sources gives the PDF room what the pages of drafts refer to.
func (s *Frame) Sources(ctx context.Context) write.Sources {
	return write.Sources{
		File: func(sha string) ([]byte, error) { return s.File(ctx, sha) },
		Text: func(sha string) (evidence.Text, error) { return s.Text(ctx, sha) },
	}
}

// EvidenceOf reads what is printed on the pages that a form is looked through on.
func (s *Frame) EvidenceOf(ctx context.Context, t form.Template) (map[int]*evidence.Page, error) {
	out := map[int]*evidence.Page{}
	for _, n := range snags.Pages(&t) {
		ev, err := s.PageEvidence(ctx, t.Pages[n-1])
		if err != nil {
			return nil, err
		}
		out[n] = ev
	}
	return out, nil
}

// SnagsOf looks a draft through.
func (s *Frame) SnagsOf(ctx context.Context, d store.Draft) ([]snags.Snag, error) {
	pages, err := s.EvidenceOf(ctx, d.Template)
	if err != nil {
		return nil, err
	}
	t := d.Template
	if t.Details.Title == "" { // a release gives it the document's
		t.Details.Title = d.Document.Title
	}
	return snags.Find(&t, pages, time.Now()), nil
}

// ButtonPictures reads the pictures that a draft's buttons show.
func (s *Frame) ButtonPictures(ctx context.Context, t *form.Template) (map[string][]byte, error) {
	out := map[string][]byte{}
	for _, sha := range t.PicturesUsed() {
		b, err := s.Store.File(ctx, sha)
		if err != nil {
			return nil, err
		}
		out[sha] = b
	}
	return out, nil
}

func ViewSize(p form.Page) (w, h float64) { return geom.ViewSize(p.Width, p.Height, p.Rotate) }
