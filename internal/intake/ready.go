package intake

import (
	"context"
	"fmt"
	"image"
	"math"
	"slices"
	"strings"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/pdf/engine"
	"zealousmargin.example/internal/pdf/write"
	"zealousmargin.example/internal/scan"
)

// readyPage is what makes one page upright, straight and clean: the page as it lies
// then, and the file that it is shown from when its picture was changed.
type readyPage struct {
	page form.Page
	file []byte // nil when the picture stays
}

// surely is how sure the direction of reading must be for a page to be turned unasked.
const surely = 0.35

// MakeReady looks at a page that is a picture of paper: a photograph is cut to its
// sheet and flattened, a page that lies is turned upright, a skewed one straightened,
// speckle and uneven light are cleaned. What needs nothing is left as it is.
func makeReady(ctx context.Context, file []byte, page form.Page, dpi float64) (readyPage, error) {
	out := readyPage{page: page}
	var notes []string
	dpi = math.Max(72, math.Min(dpi, 400))
	img, err := engine.Draw(ctx, file, page, dpi/72)
	if err != nil {
		return out, err
	}
	if ctx.Err() != nil {
		return out, ctx.Err()
	}
	var picture image.Image = img
	changed := false
	if q, ok := scan.PageEdges(img); ok {
		picture = scan.Flatten(img, q)
		changed = true
		notes = append(notes, "cut to the sheet and flattened")
		// The sheet is as high as usual paper; how far away it was is not known.
		b := picture.Bounds()
		dpi = sensible(0, b.Dx(), b.Dy())
		out.page.Rotate = 0
	}
	if ctx.Err() != nil {
		return out, ctx.Err()
	}
	quarters, sure := scan.Turn(scan.Gray(picture))
	if sure < surely && quarters%2 == 0 && readsUpsideDown(ctx, scan.Gray(picture), dpi) {
		quarters, sure = 2, 1
	}
	if quarters != 0 && sure >= surely {
		notes = append(notes, fmt.Sprintf("turned by %d°", 90*quarters))
		picture = scan.Quarters(picture, quarters)
		out.page.Rotate = (out.page.Rotate + 90*quarters) % 360
	}
	skew := scan.Skew(scan.Gray(picture))
	if ctx.Err() != nil {
		return out, ctx.Err()
	}
	if c := scan.Clean(picture, dpi); c.Light || c.Specks > 0 {
		picture, changed = c.Picture, true
		if c.Light {
			notes = append(notes, "light evened")
		}
		if c.Specks > 0 {
			notes = append(notes, "specks removed")
		}
	}
	if changed {
		if g, ok := scan.Colourless(picture); ok {
			picture = g // a third of the file
		}
		packed, err := packJPEG(picture)
		if err != nil {
			return out, err
		}
		p := write.Picture{Image: picture, DPI: dpi, Orientation: 1}
		if !twoTone(picture) {
			p.JPEG = packed
		}
		if out.file, err = write.FromPictures([]write.Picture{p}); err != nil {
			return out, err
		}
		b := picture.Bounds()
		// The new picture is upright already.
		out.page = form.Page{
			ID: page.ID, Scan: true, N: 1, File: shaOf(out.file),
			Width: geom.Round(float64(b.Dx()) * 72 / dpi), Height: geom.Round(float64(b.Dy()) * 72 / dpi),
		}
	}
	if math.Abs(skew) >= 0.1 {
		notes = append(notes, fmt.Sprintf("straightened %.1f°", math.Abs(skew)))
		// seen clockwise on the page as shown; page space turns the same way
		m := geom.Turn(skew, out.page.Rect().Mid())
		out.page.Place = roundedPlace(out.page.Placing().Then(m))
	}
	out.page.Notes = strings.Join(notes, ", ")
	return out, nil
}

// readsUpsideDown tells whether the busiest part of a page reads far better upside down. Pages whose letters say too little of how they
// stand are tried so; without Tesseract they stay as they are.
func readsUpsideDown(ctx context.Context, g *image.Gray, dpi float64) bool {
	band := scan.BusiestBand(g)
	languages := Languages()
	if band.Empty() || len(languages) == 0 {
		return false
	}
	language := languages[0]
	if slices.Contains(languages, "eng") {
		language = "eng"
	}
	read := func(img image.Image) (letters float64) {
		text, err := RecogniseImage(ctx, img, dpi, language)
		if err != nil {
			return 0
		}
		for _, w := range text.Words {
			if n := len([]rune(w.Text)); n >= 3 && w.Doubt < 0.4 {
				letters += float64(n) * (1 - w.Doubt)
			}
		}
		return letters
	}
	part := g.SubImage(band)
	standing := read(part)
	turned := read(scan.Quarters(part, 2))
	return turned > 15 && turned > 2*standing
}

func roundedPlace(m geom.Matrix) geom.Matrix {
	for i, v := range m {
		m[i] = math.Round(v*1e6) / 1e6
	}
	return m
}

// twoTone tells whether a picture is black and white only.
func twoTone(img image.Image) bool {
	for _, v := range scan.Gray(img).Pix {
		if v > 8 && v < 247 {
			return false
		}
	}
	return true
}

// MeasureSkew is how far a page leans, in degrees clockwise, to a tenth.
func MeasureSkew(ctx context.Context, file []byte, page form.Page) (float64, error) {
	img, err := engine.Draw(ctx, file, page, 120.0/72)
	if err != nil {
		return 0, err
	}
	return scan.Skew(scan.Gray(img)), nil
}
