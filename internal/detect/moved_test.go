package detect_test

import (
	"fmt"
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/demo"
	"zealousmargin.example/internal/detect"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/pdf/engine"
)

// apart says what of one list of finds is not in the other, moved by as much as is said.
func apart(was, is []detect.Find, by geom.Point) (out []string) {
	taken := make([]bool, len(is))
	line := func(f detect.Find, r geom.Rect) string {
		return fmt.Sprintf("%v %q %q %v", f.Kind, f.Name, f.Label, r.Rounded())
	}
next:
	for _, f := range was {
		r := f.Rect.Shift(by.X, by.Y)
		for i, g := range is {
			far := math.Max(math.Max(math.Abs(r.X0-g.Rect.X0), math.Abs(r.X1-g.Rect.X1)),
				math.Max(math.Abs(r.Y0-g.Rect.Y0), math.Abs(r.Y1-g.Rect.Y1)))
			if !taken[i] && far < 0.5 && f.Kind == g.Kind && f.Name == g.Name && f.Label == g.Label && f.Format == g.Format &&
				f.Comb == g.Comb && f.Multiline == g.Multiline {
				taken[i] = true
				continue next
			}
		}
		out = append(out, "no more "+line(f, r))
	}
	for i, g := range is {
		if !taken[i] {
			out = append(out, "new "+line(g, g.Rect))
		}
	}
	return out
}

// A page that is moved on a larger sheet has the same fields, moved with it, and so has one whose content lies a little elsewhere.
func TestAPageThatIsMovedHasItsFieldsMoved(t *testing.T) {
	docs, err := demo.Documents("berth-application.pdf", "crew-list.pdf", "slipway-charges.pdf")
	require.NoError(t, err)
	for _, d := range docs {
		require.NoError(t, engine.Use(t.Context(), d.Bytes, func(doc *engine.Doc) error {
			for i, p := range doc.Pages() {
				p.N = i + 1
				still, err := doc.EvidenceOf(p, nil)
				require.NoError(t, err)
				was := detect.Page(still)
				require.NotEmpty(t, was)
				seed := rand.Uint64()
				r := rand.New(rand.NewPCG(seed, 5))
				moves := []geom.Point{{X: 10}, {Y: 30}, {X: 13.37, Y: 27.91}}
				for range 4 {
					moves = append(moves, geom.Point{X: 40 * r.Float64(), Y: 60 * r.Float64()})
				}
				for _, by := range moves {
					as := p
					as.Width, as.Height, as.Place = p.Width+40, p.Height+60, p.Placing().Then(geom.Matrix{1, 0, 0, 1, by.X, by.Y})
					moved, err := doc.EvidenceOf(as, nil)
					require.NoError(t, err)
					assert.Empty(t, apart(was, detect.Page(moved), by), "%s %d %v seed %d", d.File, i+1, by, seed)
				}
			}
			return nil
		}))
	}
}

// What is found does not hang on the order in which a page is drawn: neither of its lines and areas, nor of its runs of text.
func TestTheOrderOfDrawingChangesNoFind(t *testing.T) {
	seed := rand.Uint64()
	t.Logf("seed %d", seed)
	r := rand.New(rand.NewPCG(seed, 3))
	labels := []string{"Name of vessel", "Home port", "Date", "Owner", "Telephone", "Length (m)", "Crew", "Flag", "Remarks", "Fee due"}
	for range 40 {
		var strokes []func(drawing)
		y := 760.0
		for _, i := range r.Perm(len(labels))[:4+r.IntN(6)] {
			label, x := labels[i], 50+float64(r.IntN(60))
			wide, high := 80+float64(r.IntN(300)), 14+float64(r.IntN(20))
			end := x + 5*float64(len(label)) + 8
			at := y
			strokes = append(strokes, func(d drawing) { d.text(x, at, label) })
			switch r.IntN(4) {
			case 0:
				strokes = append(strokes, func(d drawing) { d.rule(end, at-1, end+wide/2) })
			case 1:
				strokes = append(strokes, func(d drawing) { d.box(x, at-6-high, x+wide, at-4) })
			case 2:
				strokes = append(strokes, func(d drawing) { d.box(end, at-1, end+9, at+8) })
			default:
				for k := range 3 {
					left := x + wide/3*float64(k)
					strokes = append(strokes, func(d drawing) { d.box(left, at-6-high, left+wide/3, at-4) })
				}
			}
			y -= 50 + float64(r.IntN(20))
		}
		in := func(order []int) []detect.Find {
			d := draw()
			for _, i := range order {
				strokes[i](d)
			}
			return d.find()
		}
		first := make([]int, len(strokes))
		for i := range first {
			first[i] = i
		}
		was := in(first)
		require.NotEmpty(t, was)
		for range 5 {
			order := r.Perm(len(strokes))
			assert.Empty(t, apart(was, in(order), geom.Point{}), "%v", order)
		}
	}
}
