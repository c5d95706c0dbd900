package links

import (
	"context"
	"errors"
	"fmt"
	"image"
	"math"
	"strings"

	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/arrange"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/pdf/engine"
	"zealousmargin.example/internal/pdf/write"
	"zealousmargin.example/internal/store"
	"zealousmargin.example/internal/web/frame"
)

// Sizes of a printed code, in points: its side with the quiet zone, about 25 mm, and how far it stays from the edge of the page, which many
// printers leave blank (common practice, no source).
const (
	codeSide   = 71
	codeMargin = 17
)

// Printed gives a form with the code of a link on a page, where nothing is printed and no field lies.
func Printed(s *frame.Frame, c *echo.Context) error {
	id, err := frame.IdOf(c)
	if err != nil {
		return err
	}
	ctx := c.Request().Context()
	l, err := s.Store.FormLink(ctx, id)
	if err != nil {
		return err
	}
	n := max(1, frame.Number(c.QueryParam("page"), 1))
	b, err := withCode(ctx, s, l, n)
	if err != nil {
		return frame.Refuse(err)
	}
	s.Noted(ctx, frame.Account(c).ID, store.DeedDownload, l.FileName+" with the code of a link")
	return frame.Download(c, strings.TrimSuffix(l.FileName, ".pdf")+"-with-code.pdf", "application/pdf", b)
}

var errLocked = errors.New(
	"this edition is locked, so nothing can be put on its pages: choose one that is not, or print the code by itself",
)

func withCode(ctx context.Context, s *frame.Frame, l store.FormLink, n int) ([]byte, error) {
	if l.Locked {
		return nil, errLocked
	}
	at, err := address(ctx, s, l.Token)
	if err != nil {
		return nil, err
	}
	src, err := s.File(ctx, l.File)
	if err != nil {
		return nil, err
	}
	t, err := s.Store.EditionForm(ctx, l.EditionID)
	if err != nil {
		return nil, err
	}
	spot, err := freeSpot(ctx, src, &t, n)
	if err != nil {
		return nil, err
	}
	return write.LinkCode(src, at, n, spot)
}

// inked is from where on a sample counts as printed on, of 255 for white.
const inked = 200

// freeSpot finds room for a code on a page, as the page is drawn.
func freeSpot(ctx context.Context, src []byte, t *form.Template, n int) (geom.Rect, error) {
	var img *image.RGBA
	var p form.Page
	err := engine.Use(ctx, src, func(d *engine.Doc) (err error) {
		pages := d.Pages()
		if n > len(pages) {
			return fmt.Errorf("there is no page %d: the form has %d", n, len(pages))
		}
		p = pages[n-1]
		img, err = d.Render(n, 1)
		return err
	})
	if err != nil {
		return geom.Rect{}, err
	}
	shown := geom.R(0, 0, float64(img.Rect.Dx()), float64(img.Rect.Dy()))
	m, back := geom.Upright(p.Width, p.Height, p.Rotate)
	free := func(r geom.Rect) bool {
		q := r.Inset(-2)
		for _, f := range t.Placed() {
			if f.Page == n && f.Rect.Apply(m).Overlaps(q) {
				return false
			}
		}
		x0, x1 := max(0, int(q.X0)), min(img.Rect.Dx(), int(math.Ceil(q.X1)))
		y0, y1 := max(0, int(shown.Y1-q.Y1)), min(img.Rect.Dy(), int(math.Ceil(shown.Y1-q.Y0)))
		for y := y0; y < y1; y++ {
			for x := x0; x < x1; x++ {
				if o := img.PixOffset(x, y); int(img.Pix[o])+int(img.Pix[o+1])+int(img.Pix[o+2]) < 3*inked {
					return false
				}
			}
		}
		return true
	}
	at, ok := arrange.FreeSpot(shown, codeSide, codeMargin, free)
	if !ok {
		return geom.Rect{}, fmt.Errorf(
			"there is no room for the code near the edge of page %d: choose another page, or print the code by itself",
			n,
		)
	}
	return at.Apply(back), nil
}
