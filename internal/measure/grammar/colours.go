package grammar

import (
	"bytes"
	"context"
	"encoding/xml"
	"fmt"
	"io"
	"math"
	"os/exec"
	"strconv"
	"strings"

	"zealousmargin.example/internal/geom"
)

// startColour lies behind the first thing of a form.
var startColour = [3]int{250, 5, 250}

// Colours are made of steps that stay apart when a writer rounds them.
const (
	steps  = 12
	first  = 12
	stride = 20
)

// colourOf is the colour behind the place of a field.
func colourOf(id int) [3]int {
	return [3]int{first + stride*(id%steps), first + stride*(id/steps%steps), 100 + first + stride*(id/steps/steps%6)}
}

// fieldOf is the field whose colour this is, within a third of a step.
func fieldOf(c [3]float64) (int, bool) {
	id, unit := 0, 1
	for i, offset := range []float64{first, first, 100 + first} {
		v := (c[i]*255 - offset) / stride
		n := math.Round(v)
		if math.Abs(v-n) > 0.12 || n < 0 || n >= steps {
			return 0, false
		}
		id += unit * int(n)
		unit *= steps
	}
	return id, true
}

// area is the place of a field as its colour shows it, with y from the bottom of the page.
type area struct {
	page int // from 1
	rect geom.Rect
}

// painted is what the colours of a file show.
type painted struct {
	starts []int // the pages on which forms begin
	areas  []map[int]area
	height []float64
}

// readColours reads where coloured areas lie, from what mutool tells of a file: a reader that is not the one
// by which fields are found.
func readColours(ctx context.Context, file string) (painted, error) {
	var out painted
	cmd := exec.CommandContext(ctx, "mutool", "trace", file)
	var failed bytes.Buffer
	cmd.Stderr = &failed
	raw, err := cmd.Output()
	if err != nil {
		return out, fmt.Errorf("mutool could not read %s: %w %s", file, err, failed.String())
	}
	d := xml.NewDecoder(bytes.NewReader(raw))
	d.Strict = false
	page := 0
	var colour [3]float64
	var path []geom.Point
	var m geom.Matrix
	filling := false
	for {
		tok, err := d.Token()
		if err == io.EOF {
			return out, nil
		}
		if err != nil {
			return out, fmt.Errorf("mutool's words about %s: %w", file, err)
		}
		switch e := tok.(type) {
		case xml.StartElement:
			at := map[string]string{}
			for _, a := range e.Attr {
				at[a.Name.Local] = a.Value
			}
			switch e.Name.Local {
			case "page":
				page++
				box := numbers(at["mediabox"])
				if len(box) == 4 {
					out.height = append(out.height, box[3]-box[1])
				} else {
					return out, fmt.Errorf("page %d of %s has no size", page, file)
				}
			case "fill_path":
				c := numbers(at["color"])
				t := numbers(at["transform"])
				filling = len(c) == 3 && len(t) == 6
				if filling {
					colour = [3]float64(c)
					m = geom.Matrix(t)
				}
				path = path[:0]
			case "moveto", "lineto":
				path = append(path, geom.Point{X: number(at["x"]), Y: number(at["y"])})
			case "curveto":
				for _, n := range []string{"1", "2", "3"} {
					path = append(path, geom.Point{X: number(at["x"+n]), Y: number(at["y"+n])})
				}
			}
		case xml.EndElement:
			if e.Name.Local == "fill_path" && filling && len(path) > 0 {
				out.take(page, colour, path, m)
				filling = false
			}
		}
	}
}

func (p *painted) take(page int, colour [3]float64, path []geom.Point, m geom.Matrix) {
	r := geom.Rect{X0: math.Inf(1), Y0: math.Inf(1), X1: math.Inf(-1), Y1: math.Inf(-1)}
	for _, q := range path {
		q = m.Apply(q)
		r.X0, r.X1 = min(r.X0, q.X), max(r.X1, q.X)
		r.Y0, r.Y1 = min(r.Y0, q.Y), max(r.Y1, q.Y)
	}
	h := p.height[page-1]
	r.Y0, r.Y1 = h-r.Y1, h-r.Y0 // mutool counts from the top
	near := true
	for i, v := range startColour {
		near = near && math.Abs(colour[i]*255-float64(v)) < 3
	}
	if near && len(p.starts) > 0 && p.starts[len(p.starts)-1] == page {
		return // one mark, painted in pieces
	}
	if near {
		p.starts = append(p.starts, page)
		p.areas = append(p.areas, map[int]area{})
		return
	}
	id, ok := fieldOf(colour)
	if !ok || len(p.areas) == 0 {
		return
	}
	of := p.areas[len(p.areas)-1]
	if a, there := of[id]; there && a.page == page {
		r = r.Union(a.rect)
	}
	of[id] = area{page, r}
}

func number(s string) float64 {
	v, _ := strconv.ParseFloat(s, 64)
	return v
}

func numbers(s string) []float64 {
	var out []float64
	for _, f := range strings.Fields(s) {
		out = append(out, number(f))
	}
	return out
}
