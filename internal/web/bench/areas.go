package bench

import (
	"math"
	"net/http"
	"slices"

	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/detect"
	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/store"
	"zealousmargin.example/internal/web/frame"
)

// areasView is what the bench needs to know of a page before a press: the places that a
// field would take the shape of, and the lines that edges snap to. All is in points of
// the page as shown, from its upper left.
type areasView struct {
	Areas []areaView `json:"areas"`
	X     []float64  `json:"x"` // upright lines
	Y     []float64  `json:"y"` // level lines and baselines
}

type areaView struct {
	Hit  [4]float64 `json:"hit"` // x, y, width, height
	Rect [4]float64 `json:"rect"`
	Tick bool       `json:"tick,omitempty"`
	Name string     `json:"name"`
}

func Areas(s *frame.Frame, c *echo.Context) error {
	id, err := frame.IdOf(c)
	if err != nil {
		return err
	}
	ctx := c.Request().Context()
	doc, err := s.Store.Document(ctx, id)
	if err != nil {
		return err
	}
	pages := doc.Pages()
	n := frame.Number(c.FormValue("page"), 1)
	if n < 1 || n > len(pages) {
		return store.ErrMissing
	}
	p := pages[n-1]
	ev, err := s.PageEvidence(ctx, p)
	if err != nil {
		return err
	}
	view := geom.ToView(p.Width, p.Height, p.Rotate)
	box := func(r geom.Rect) [4]float64 {
		r = r.Apply(view)
		return [4]float64{geom.Round(r.X0), geom.Round(r.Y0), geom.Round(r.W()), geom.Round(r.H())}
	}
	v := areasView{Areas: []areaView{}}
	for _, a := range detect.Areas(ev) {
		v.Areas = append(v.Areas, areaView{Hit: box(a.Hit), Rect: box(a.Rect), Tick: a.Tick, Name: a.Name})
	}
	v.X, v.Y = snapLines(ev)
	return c.JSON(http.StatusOK, v)
}

// snapLines are the places of rules and baselines, each once.
func snapLines(ev *evidence.Page) (xs, ys []float64) {
	for _, r := range ev.V {
		xs = append(xs, r.At)
	}
	for _, r := range ev.H {
		ys = append(ys, ev.Height-r.At)
	}
	for _, b := range ev.Boxes {
		xs = append(xs, b.Rect.X0, b.Rect.X1)
		ys = append(ys, ev.Height-b.Rect.Y0, ev.Height-b.Rect.Y1)
	}
	for _, l := range ev.Lines {
		ys = append(ys, ev.Height-l.Base)
	}
	once := func(v []float64) []float64 {
		for i := range v {
			v[i] = math.Round(v[i]*10) / 10
		}
		slices.Sort(v)
		v = slices.Compact(v)
		if v == nil {
			v = []float64{}
		}
		return v
	}
	return once(xs), once(ys)
}
