package write

import (
	"fmt"
	"strings"

	qrcode "github.com/skip2/go-qrcode"

	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/pdf/object"
)

// LinkCode draws a link as a QR code (ISO/IEC 18004) into a square on a page, as content of the page, black on white, with the quiet zone
// of four modules that the standard asks for. The square is in page points from the lower left of the page's box. It is an increment: all
// else stays as it is.
func LinkCode(src []byte, link string, page int, at geom.Rect) (_ []byte, err error) {
	defer object.Recovered(&err)
	dots, err := Code(link)
	if err != nil {
		return nil, err
	}
	f, err := object.Parse(src)
	if err != nil {
		return nil, err
	}
	if page < 1 || page > len(f.Pages) {
		return nil, fmt.Errorf("there is no page %d: the form has %d", page, len(f.Pages))
	}
	p := f.Pages[page-1]
	at = at.Shift(p.Origin.X, p.Origin.Y)
	n := float64(len(dots))
	var c strings.Builder
	fmt.Fprintf(&c, "q\n1 g\n%s %s %s %s re f\n0 g\n", object.Dec(at.X0), object.Dec(at.Y0), object.Dec(at.W()), object.Dec(at.H()))
	// one unit a module, from the upper left; a run of dark ones is one rectangle
	fmt.Fprintf(&c, "%s 0 0 %s %s %s cm\n", object.DecFine(at.W()/n), object.DecFine(-at.H()/n), object.Dec(at.X0), object.Dec(at.Y1))
	for y, row := range dots {
		for x := 0; x < len(row); x++ {
			from := x
			for x < len(row) && row[x] {
				x++
			}
			if x > from {
				fmt.Fprintf(&c, "%d %d %d 1 re\n", from, y, x-from)
			}
		}
	}
	c.WriteString("f\nQ\n")
	if err := f.AppendContent(p, c.String()); err != nil {
		return nil, err
	}
	f.Touch(p.Ref)
	return f.Increment()
}

// Code is a link as the modules of a QR code with their quiet zone, row by row from the top; true is dark. Up to 15 % of it may be soiled.
func Code(link string) ([][]bool, error) {
	q, err := qrcode.New(link, qrcode.Medium)
	if err != nil {
		return nil, fmt.Errorf("this link is too long for a QR code: %w", err)
	}
	return q.Bitmap(), nil
}
