package web

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"net/http"
	"strconv"
	"strings"

	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/pdf/engine"
	"zealousmargin.example/internal/pdf/write"
	"zealousmargin.example/internal/store"
)

// maxPicture is the widest picture of a page that is drawn, in pixels: A2 at 400 %.
const maxPicture = 9600

// pictureURL leads to the picture of a page, so many pixels wide. It says all that
// the picture depends on, so that it can be kept for ever.
func pictureURL(p form.Page, width int) string {
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

// picture draws a page of a file, so many pixels wide.
func (s *Frame) picture(c *echo.Context) error {
	sha, n := c.Param("sha"), number(c.Param("page"), 0)
	width := number(strings.TrimSuffix(c.Param("width"), ".png"), 0)
	if width < 8 || width > maxPicture {
		return refuse(fmt.Errorf("a page can be drawn 8 to %d pixels wide", maxPicture))
	}
	as := c.QueryParam("as")
	key := fmt.Sprintf("%s/%d/%d/%s", sha, n, width, as)
	b, ok := s.pictures.Get(key)
	if !ok {
		d, err := s.openFile(c.Request().Context(), sha)
		if err != nil {
			return err
		}
		defer d.Close()
		if n < 1 || n > len(d.Pages()) {
			return store.ErrMissing
		}
		p := d.Pages()[n-1]
		p.N = n
		if as != "" {
			if p, ok = pageOf(sha, n, as); !ok {
				return store.ErrMissing
			}
		}
		w, _ := p.ViewSize()
		img, err := d.RenderPage(p, float64(width)/w)
		if err != nil {
			return err
		}
		if b, err = engine.PNG(img); err != nil {
			return err
		}
		s.pictures.Add(key, b)
	}
	c.Response().Header().Set("Cache-Control", "private, max-age=31536000, immutable")
	return c.Blob(http.StatusOK, "image/png", b)
}

// file reads a kept file; the last few are at hand.
func (s *Frame) file(ctx context.Context, sha string) ([]byte, error) {
	if b, ok := s.files.Get(sha); ok {
		return b, nil
	}
	b, err := s.store.File(ctx, sha)
	if err == nil {
		s.files.Add(sha, b)
	}
	return b, err
}

func (s *Frame) openFile(ctx context.Context, sha string) (*engine.Doc, error) {
	b, err := s.file(ctx, sha)
	if err != nil {
		return nil, err
	}
	return engine.Open(b)
}

// text reads the recognised words of a page.
func (s *Frame) text(ctx context.Context, sha string) (evidence.Text, error) {
	var t evidence.Text
	b, err := s.store.File(ctx, sha)
	if err != nil {
		return t, err
	}
	err = json.Unmarshal(b, &t)
	return t, err
}

// pageEvidence reads what is on a page, once.
func (s *Frame) pageEvidence(ctx context.Context, p form.Page) (*evidence.Page, error) {
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
	var text *evidence.Text
	if p.Text != "" {
		t, err := s.text(ctx, p.Text)
		if err != nil {
			return nil, err
		}
		text = &t
	}
	d, err := s.openFile(ctx, p.File)
	if err != nil {
		return nil, err
	}
	defer d.Close()
	ev, err := d.EvidenceOf(p, text)
	if err == nil {
		s.evidence.Add(key, ev)
	}
	return ev, err
}

// sources gives the PDF room what the pages of drafts refer to.
func (s *Frame) sources(ctx context.Context) write.Sources {
	return write.Sources{
		File: func(sha string) ([]byte, error) { return s.file(ctx, sha) },
		Text: func(sha string) (evidence.Text, error) { return s.text(ctx, sha) },
	}
}
