package returned

import (
	"fmt"
	"math"
	"net/http"
	"slices"
	"strconv"
	"time"

	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/returns"
	"zealousmargin.example/internal/store"
	"zealousmargin.example/internal/web/frame"
)

// bar is one bar of a chart, in units of its drawing.
type bar struct {
	X, Y, W, H float64
	Word       string
	Number     int
	Last       bool
	Link       string
}

// chart shows how often something was answered.
type chart struct {
	Title string
	Bars  []bar
	Lying bool // its bars lie, with words before them
	Sides [2]string
	Note  string
	Ticks bool // what is ticked can be drawn in its place
}

const (
	shownDays  = 14
	chartWide  = 200.0
	chartHigh  = 56.0
	mostBars   = 6
	newestOnly = 20_000 // returns that a map or a distribution is made of
)

// Charts are what can be seen in the numbers of a form.
func Charts(s *frame.Frame, c *echo.Context) error {
	d, forms, err := formsOf(s, c)
	if err != nil {
		return err
	}
	ctx := c.Request().Context()
	v := view{Shell: s.Shell(c, "", ""), Doc: d, Columns: forms.Columns}
	v.seek(c, d.ID)
	days, err := s.Store.CountByDay(ctx, d.ID, shownDays, time.Now())
	if err != nil {
		return err
	}
	v.Days = upright(days)
	filled, n, err := s.Store.CountFilled(ctx, d.ID, newestOnly)
	if err != nil {
		return err
	}
	boxes := ticks(forms.Columns, filled, &v)
	col := drawnColumn(forms.Columns, v.Chart)
	switch chosen := slices.ContainsFunc(forms.Columns, func(c returns.Column) bool { return c.Key == v.Chart }); {
	case len(boxes.Bars) > 1 && !chosen && (v.Chart == "ticked" || col == nil || len(col.Choice) < 2):
		v.Chart = "ticked"
		v.Charts = append(v.Charts, boxes)
	case col != nil:
		v.Chart = col.Key
		one, err := chartOf(s, c, d.ID, col, &v)
		if err != nil {
			return err
		}
		one.Ticks = len(boxes.Bars) > 1
		v.Charts = append(v.Charts, one)
	}
	if n > 0 {
		v.Empty = emptyOf(forms.Columns, filled, n, &v)
		if len(forms.Editions) > 0 && c.QueryParam("open") == "" {
			newest := forms.Editions[len(forms.Editions)-1]
			v.Map = emptyMap(newest.Form, returns.Keys(forms.Columns, newest.Number), filled, n)
		}
	}
	return s.Render(c, http.StatusOK, "returned", "charts", v)
}

// ticks counts the boxes that stand by themselves.
func ticks(columns []returns.Column, filled map[string]int, v *view) chart {
	out := chart{Title: "what is ticked", Lying: true, Ticks: true}
	var list []store.Count
	links := map[string]string{}
	for i := range columns {
		col := &columns[i]
		if col.Field.Kind == form.CheckBox && len(col.Choice) == 1 && !col.Gone && !inTable(&col.Field) && len(list) < mostBars {
			list = append(list, store.Count{Word: col.Label, Number: filled[col.Key]})
			links[col.Label] = v.Link("key", col.Key, "answer", col.Choice[0].Export)
		}
	}
	out.Bars = lying(list, func(n store.Count) string { return links[n.Word] })
	return out
}

// drawnColumn is the question that is drawn: the one that is asked for, or the first with choices.
func drawnColumn(columns []returns.Column, key string) *returns.Column {
	for _, rank := range []func(*returns.Column) bool{
		func(c *returns.Column) bool { return c.Key == key },
		func(c *returns.Column) bool { return len(c.Choice) > 1 && !c.Gone },
		func(c *returns.Column) bool {
			return c.Field.Format.Kind == form.Number && c.Field.Formula != "" && c.Name != "" && !inTable(&c.Field) && !c.Gone
		},
		func(c *returns.Column) bool {
			return c.Field.Format.Kind == form.Number && !c.Field.ReadOnly && !c.Gone
		},
		func(c *returns.Column) bool { return !c.Gone },
	} {
		for i := range columns {
			if rank(&columns[i]) {
				return &columns[i]
			}
		}
	}
	return nil
}

// upright lays counts out as bars that stand.
func upright(list []store.Count) []bar {
	most := 1
	for _, c := range list {
		most = max(most, c.Number)
	}
	w := chartWide / float64(max(1, len(list)))
	var out []bar
	for i, c := range list {
		h := chartHigh * float64(c.Number) / float64(most)
		out = append(
			out,
			bar{X: float64(i)*w + 1, W: w - 2, Y: chartHigh - h, H: h, Word: c.Word, Number: c.Number, Last: i == len(list)-1},
		)
	}
	return out
}

// lying lays counts out as bars that lie.
func lying(list []store.Count, link func(store.Count) string) []bar {
	most := 1
	for _, c := range list {
		most = max(most, c.Number)
	}
	var out []bar
	for _, c := range list {
		out = append(out, bar{W: 100 * float64(c.Number) / float64(most), Word: c.Word, Number: c.Number, Link: link(c)})
	}
	return out
}

// chartOf draws the answers to a question: of numbers how they spread, of all others how often each was given.
func chartOf(s *frame.Frame, c *echo.Context, document int64, col *returns.Column, v *view) (chart, error) {
	ctx := c.Request().Context()
	out := chart{Title: col.Label}
	if k := col.Field.Format.Kind; k == form.Number || k == form.Percent {
		all, err := s.Store.Numbers(ctx, document, col.Key, newestOnly)
		if err != nil || len(all) == 0 {
			return out, err
		}
		counts, low, high := spread(all)
		out.Bars = upright(counts)
		out.Sides = [2]string{col.Shown(plain(low)), col.Shown(plain(high))}
		out.Note = "half are up to " + col.Shown(plain(all[(len(all)-1)/2]))
		return out, nil
	}
	list, err := s.Store.CountAnswers(ctx, document, col.Key, mostBars)
	if err != nil {
		return out, err
	}
	out.Lying = true
	out.Bars = lying(list, func(n store.Count) string { return v.Link("key", col.Key, "answer", n.Word) })
	for i := range out.Bars {
		out.Bars[i].Word = shown(col, out.Bars[i].Word)
	}
	return out, nil
}

func plain(v float64) string { return strconv.FormatFloat(v, 'f', -1, 64) }

// spread counts numbers in at most twelve steps of one size (by Sturges's rule: as many as the logarithm of their number asks for).
func spread(all []float64) (counts []store.Count, low, high float64) {
	low, high = all[0], all[len(all)-1]
	n := min(12, int(math.Ceil(math.Log2(float64(len(all)))))+1)
	if high == low {
		return []store.Count{{Word: plain(low), Number: len(all)}}, low, high
	}
	counts = make([]store.Count, n)
	step := (high - low) / float64(n)
	for i := range counts {
		counts[i].Word = fmt.Sprintf("%.4g to %.4g", low+float64(i)*step, low+float64(i+1)*step)
	}
	for _, v := range all {
		counts[min(n-1, int((v-low)/step))].Number++
	}
	return counts, low, high
}

// emptyOf lists the questions that are left empty most; what is worked out, and boxes that need no tick, are not among them.
func emptyOf(columns []returns.Column, filled map[string]int, n int, v *view) *chart {
	type one struct {
		col  *returns.Column
		left int
	}
	var all []one
	for i := range columns {
		col := &columns[i]
		if col.Gone || col.Field.ReadOnly || col.Field.Formula != "" || col.Field.Kind == form.CheckBox || inTable(&col.Field) {
			continue
		}
		if left := n - filled[col.Key]; left > 0 {
			all = append(all, one{col, left})
		}
	}
	if len(all) == 0 {
		return nil
	}
	slices.SortStableFunc(all, func(a, b one) int { return b.left - a.left })
	out := &chart{Title: "left empty most", Lying: true}
	for _, o := range all[:min(3, len(all))] {
		out.Bars = append(out.Bars, bar{
			W: 100 * float64(o.left) / float64(n), Word: o.col.Label, Number: o.left, Link: v.Link("key", o.col.Key, "answer", "-"),
		})
	}
	return out
}

// emptyMap is every page with its fields, tinted by how often they are left empty.
func emptyMap(t *form.Template, keys map[string]string, filled map[string]int, n int) []leaf {
	return leavesOf(t, keys, func(f *form.Field, m mapped) (mapped, bool) {
		left := n - filled[m.Key]
		m.Share = math.Round(10*float64(left)/float64(n)) * 10
		m.Label = fmt.Sprintf("%s: left empty by %d of %d", f.Tooltip, left, n)
		return m, !f.ReadOnly && f.Formula == ""
	})
}
