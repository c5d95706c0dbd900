package evidence_test

import (
	"encoding/binary"
	"image"
	"math"
	"testing"

	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/geom"
)

// Whatever is drawn, the builder gives a page: no panic, no rule without length, no
// number that is none.
func FuzzBuilder(f *testing.F) {
	f.Add([]byte("a path and some glyphs to begin with, 0123456789"))
	f.Add(make([]byte, 64))
	f.Add([]byte{0xff, 0xf0, 0, 0, 0, 0, 0, 0, 1, 2, 3, 4, 5, 6, 7, 8, 9})
	f.Fuzz(func(t *testing.T, b []byte) {
		if len(b) > 4096 {
			return
		}
		at := 0
		number := func() float64 {
			if at+4 > len(b) {
				return 7
			}
			v := float64(math.Float32frombits(binary.LittleEndian.Uint32(b[at:])))
			at += 4
			if at%3 == 0 { // mostly numbers that lie on the page
				v = math.Mod(v, 700)
			}
			return v
		}
		d := evidence.NewBuilder(600, 800, []int{0, 90, 180, 270}[len(b)%4])
		for at+8 < len(b) {
			kind := b[at]
			at++
			switch kind % 4 {
			case 0:
				var s evidence.Subpath
				for range int(kind%7) + 1 {
					s.Points = append(s.Points, geom.Point{X: number(), Y: number()})
				}
				s.Closed, s.Curved = kind&16 != 0, kind&32 != 0
				d.Path(evidence.Path{
					Subpaths: []evidence.Subpath{s}, Stroke: kind&8 != 0, Fill: kind&64 != 0, Width: number(),
					Tone: number(), Dashed: kind&128 != 0,
				})
			case 1:
				d.Glyph(rune(kind), geom.R(number(), number(), number(), number()))
			case 2:
				d.Word(evidence.Word{
					Text: string(rune(kind)), Rect: geom.R(number(), number(), number(), number()), Size: number(),
					Doubt: 0.4,
				})
			default:
				d.Picture(geom.R(number(), number(), number(), number()))
			}
		}
		g := image.NewGray(image.Rect(0, 0, 40, 50))
		for i := range g.Pix {
			g.Pix[i] = 255
			if i < len(b) {
				g.Pix[i] = b[i]
			}
		}
		d.Pixels(g)
		p := d.Page()
		for _, r := range append(p.H, p.V...) {
			if !(r.Len() > 0) || math.IsNaN(r.At) || math.IsInf(r.At, 0) {
				t.Errorf("a rule that is none: %+v", r)
			}
		}
	})
}
