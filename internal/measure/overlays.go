package measure

import (
	"cmp"
	"context"
	"fmt"
	"image"
	"image/color"
	"image/draw"
	"io"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/pdf/engine"
)

// drawAll draws pages with truth (outline) and finds (tint), worst first.
func drawAll(w io.Writer, folder string, pages []found) error {
	if err := os.MkdirAll(folder, 0o755); err != nil {
		return err
	}
	slices.SortStableFunc(pages, func(a, b found) int { return cmp.Compare(missed(b), missed(a)) })
	for i, p := range pages {
		name := filepath.Join(folder, fmt.Sprintf("%03d-%s-%d.png", i, strings.ReplaceAll(p.name, "/", "-"), p.page))
		if err := overlay(name, p); err != nil {
			return err
		}
		if err := os.WriteFile(strings.TrimSuffix(name, ".png")+".pdf", p.doc, 0o644); err != nil {
			return err
		}
	}
	fmt.Fprintf(w, "%d pictures and their files in %s, worst first: "+
		"truth in green, hits in blue, false finds in red, doubtful ones in ochre\n",
		len(pages), folder)
	return nil
}

func missed(p found) int { return p.score.wanted + p.score.found - 2*p.score.hit }

func overlay(name string, p found) error {
	const k = 1.25
	img, err := engine.Draw(context.Background(), p.doc, p.as, k)
	if err != nil {
		return err
	}
	view := geom.ToView(p.as.Width, p.as.Height, p.as.Rotate)
	box := func(r geom.Rect, c color.RGBA, fill bool) {
		v := r.Apply(view)
		b := image.Rect(int(v.X0*k), int(v.Y0*k), int(v.X1*k)+1, int(v.Y1*k)+1)
		if fill {
			draw.DrawMask(img, b, image.NewUniform(c), image.Point{}, image.NewUniform(color.Alpha{70}), image.Point{}, draw.Over)
			return
		}
		for _, e := range []image.Rectangle{
			{b.Min, image.Pt(b.Max.X, b.Min.Y+1)},
			{image.Pt(b.Min.X, b.Max.Y-1), b.Max},
			{b.Min, image.Pt(b.Min.X+1, b.Max.Y)},
			{image.Pt(b.Max.X-1, b.Min.Y), b.Max},
		} {
			draw.Draw(img, e, image.NewUniform(c), image.Point{}, draw.Src)
		}
	}
	for _, t := range p.truth {
		box(t.Rect, color.RGBA{0, 140, 40, 255}, false)
	}
	close, _ := alike(p.finds, p.truth)
	hits := match(p.finds, close, true)
	for i, f := range p.finds {
		c := color.RGBA{210, 30, 20, 255}
		if _, hit := hits[i]; hit {
			c = color.RGBA{20, 60, 210, 255}
		} else if f.Confidence < form.LikelyFrom {
			c = color.RGBA{230, 150, 0, 255}
		}
		box(f.Rect, c, true)
	}
	b, err := engine.PNG(img)
	if err != nil {
		return err
	}
	return os.WriteFile(name, b, 0o644)
}
