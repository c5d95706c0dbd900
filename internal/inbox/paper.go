package inbox

import (
	"context"
	"fmt"
	"image"
	"math"
	"slices"
	"strings"
	"time"

	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/intake"
	"zealousmargin.example/internal/pdf/engine"
	"zealousmargin.example/internal/returns"
	"zealousmargin.example/internal/rules"
	"zealousmargin.example/internal/scan"
	"zealousmargin.example/internal/store"
)

// How paper is read.
const (
	paperDPI   = 200.0
	enlarge    = 1.5  // of what is recognised; it is looked at twice, the second time
	larger     = 2.2  // so large
	laidLeast  = 0.3  // of a page that must be found in a picture
	triedAtAll = 4    // editions, newest first, where it is not known which
	mostPaper  = 40   // pages of one return
	someInk    = 0.05 // of a box that is ticked, at least
	littleInk  = 0.012
	written    = 0.002 // of the area of a field that somebody has written into, at least
	penned     = 0.6   // mm² of ink are writing in a field of any size: a figure 1 has twice that
	kerned     = 0.23  // of the size of the type: less is no blank (a blank is about a quarter of an em; common practice, no source)
	unread     = 0.04  // of the ink of an answer that no word covers, at most
	certain    = 0.9   // how sure recognition must be not to be doubted
)

// sheetOf is a page of an edition, as it is printed.
type sheetOf struct {
	number, page int
	form         *form.Template
	drawn        *image.Gray
}

// candidates are the editions that a return may belong to: the one that is known, or the newest.
func (f *Forms) candidates(number int) []returns.Edition {
	var out []returns.Edition
	for i := len(f.Editions) - 1; i >= 0 && len(out) < triedAtAll; i-- {
		if number == 0 || f.Editions[i].Number == number {
			out = append(out, f.Editions[i])
		}
	}
	return out
}

// flat reads a PDF without fields: what stands at their places, or the pictures of a scan.
func (r *Reader) flat(ctx context.Context, f *Forms, number int, b []byte, at time.Time) (store.Understood, error) {
	pages, err := engine.Printed(ctx, b)
	if err != nil {
		return Waiting(fmt.Sprintf("the PDF cannot be read: %v", err)), nil
	}
	scanned := true
	for _, p := range pages {
		scanned = scanned && (p.IsScan() || len(p.Words) == 0)
	}
	if !scanned {
		for _, e := range f.candidates(number) {
			u, ok, err := r.printed(ctx, f, e, b, pages, at)
			if err != nil || ok {
				return u, err
			}
		}
	}
	var pictures []image.Image
	for n := 1; n <= min(len(pages), mostPaper); n++ {
		img, err := engine.DrawPage(ctx, b, n, paperDPI/72)
		if err != nil {
			return store.Understood{}, err
		}
		pictures = append(pictures, img)
	}
	return r.laid(ctx, f, number, pictures, at)
}

// paper reads a picture of a form on paper.
func (r *Reader) paper(ctx context.Context, f *Forms, number int, b []byte, at time.Time) (store.Understood, error) {
	made, err := intake.Pages(ctx, intake.Source{Name: "paper", Bytes: b})
	if err != nil {
		if ctx.Err() != nil {
			return store.Understood{}, ctx.Err()
		}
		return Waiting(fmt.Sprintf("the picture cannot be read: %v", err)), nil
	}
	var pictures []image.Image
	for i, p := range made.Pages {
		if i >= mostPaper {
			break
		}
		w, h := p.ViewSize()
		scale := 2400 / math.Max(w, h) // of a page that fills it, about 200 dots an inch
		img, err := engine.DrawPage(ctx, made.PDF, i+1, scale)
		if err != nil {
			return store.Understood{}, err
		}
		pictures = append(pictures, img)
	}
	return r.laid(ctx, f, number, pictures, at)
}

// pixels is where a rectangle of a page is, in pixels from its upper left corner.
func pixels(p form.Page, r geom.Rect, dpi float64) image.Rectangle {
	v := r.Apply(geom.ToView(p.Width, p.Height, p.Rotate))
	k := dpi / 72
	return image.Rect(int(math.Round(v.X0*k)), int(math.Round(v.Y0*k)), int(math.Round(v.X1*k)), int(math.Round(v.Y1*k)))
}

// printed reads a flattened PDF: the words at the places of the fields that the edition does not have there, and the marks of its boxes.
// Ok is false when it was not made of the edition.
func (r *Reader) printed(
	ctx context.Context,
	f *Forms,
	e returns.Edition,
	b []byte,
	pages map[int]*evidence.Page,
	at time.Time,
) (u store.Understood, ok bool, err error) {
	if len(pages) < len(e.Form.Pages) {
		return u, false, nil
	}
	file, err := r.store.File(ctx, f.byNumber[e.Number].File)
	if err != nil {
		return u, false, err
	}
	own, err := engine.Printed(ctx, file)
	if err != nil {
		return u, false, nil //nolint:nilerr // an edition that is locked cannot be compared
	}
	const near = 1.5 // points
	same := func(a, b evidence.Word) bool {
		return a.Text == b.Text && math.Abs(a.Rect.X0-b.Rect.X0) < near && math.Abs(a.Rect.Y0-b.Rect.Y0) < near
	}
	words, there := 0, 0
	extra := map[int][]evidence.Word{}
	for n := 1; n <= len(e.Form.Pages); n++ {
		if own[n] == nil || pages[n] == nil {
			return u, false, nil
		}
		for _, w := range own[n].Words {
			words++
			if slices.ContainsFunc(pages[n].Words, func(o evidence.Word) bool { return same(w, o) }) {
				there++
			}
		}
		for _, w := range pages[n].Words {
			if !slices.ContainsFunc(own[n].Words, func(o evidence.Word) bool { return same(w, o) }) {
				extra[n] = append(extra[n], w)
			}
		}
	}
	if words == 0 || float64(there) < 0.9*float64(words) {
		return u, false, nil
	}
	c := returns.Came{Named: map[string][]string{}}
	ticked := map[int][2]*image.Gray{}
	for _, q := range e.Form.Placed() {
		p := e.Form.Pages[q.Page-1]
		switch q.Kind {
		case form.Text, form.Choice:
			to, _ := geom.Upright(p.Width, p.Height, p.Rotate)
			place := q.Rect.Apply(to).Inset(-1)
			var in []evidence.Word
			for _, w := range extra[q.Page] {
				if place.Contains(w.Rect.Mid()) {
					in = append(in, w)
				}
			}
			c.Named[q.Name] = []string{joined(in, q.Comb > 0)}
		case form.CheckBox, form.Radio:
			drawn, had := ticked[q.Page]
			if !had {
				for i, file := range [][]byte{file, b} {
					img, err := engine.DrawPage(ctx, file, q.Page, 150.0/72)
					if err != nil {
						return u, false, err
					}
					drawn[i] = scan.Gray(img)
				}
				ticked[q.Page] = drawn
			}
			box := pixels(p, q.Rect, 150).Inset(2)
			if _, had := c.Named[q.Name]; !had {
				c.Named[q.Name] = []string{""}
			}
			if scan.Covered(drawn[1], box)-scan.Covered(drawn[0], box) > 0.04 {
				c.Named[q.Name] = []string{exportOf(&q)}
			}
		}
	}
	u, err = f.Understand(e.Number, c, at)
	return u, true, err
}

func exportOf(f *form.Field) string {
	if f.Export != "" {
		return f.Export
	}
	return f.OnState()
}

// joined puts words together in the order in which they are read; those of a comb are one.
func joined(in []evidence.Word, comb bool) string {
	slices.SortStableFunc(in, func(a, b evidence.Word) int {
		if math.Abs(a.Base-b.Base) > math.Max(a.Size, b.Size)*0.5 {
			return int(math.Copysign(1, b.Base-a.Base))
		}
		return int(math.Copysign(1, a.Rect.X0-b.Rect.X0))
	})
	var out strings.Builder
	for i, w := range in {
		if i > 0 {
			switch {
			case math.Abs(w.Base-in[i-1].Base) > math.Max(w.Size, in[i-1].Size)*0.5:
				out.WriteByte('\n')
			case !comb && w.Rect.X0-in[i-1].Rect.X1 > kerned*w.Size: // programs part words where letters are kerned
				out.WriteByte(' ')
			}
		}
		out.WriteString(w.Text)
	}
	return out.String()
}

// laid reads pictures of paper: each is laid over the page that it is most like.
func (r *Reader) laid(ctx context.Context, f *Forms, number int, pictures []image.Image, at time.Time) (store.Understood, error) {
	candidates := f.candidates(number)
	if len(candidates) == 0 {
		return Waiting(whyNone), nil
	}
	best, bestSure := 0, 0.0
	var bestLaid map[int]*image.Gray
	var bestSheets []sheetOf
	for _, e := range candidates {
		file, err := r.store.File(ctx, f.byNumber[e.Number].File)
		if err != nil {
			return store.Understood{}, err
		}
		var sheets []sheetOf
		for i := range e.Form.Pages {
			img, err := engine.DrawPage(ctx, file, i+1, paperDPI/72)
			if err != nil {
				return store.Understood{}, err
			}
			sheets = append(sheets, sheetOf{e.Number, i + 1, e.Form, scan.Gray(img)})
		}
		laid, sure := layAll(ctx, pictures, sheets)
		if ctx.Err() != nil {
			return store.Understood{}, ctx.Err()
		}
		if sure > bestSure {
			best, bestSure, bestLaid, bestSheets = e.Number, sure, laid, sheets
		}
		if sure > 0.7 {
			break
		}
	}
	if best == 0 || bestSure < laidLeast {
		return Waiting("it could not be laid over any page of this form: scan it once more, flat and whole"), nil
	}
	c, err := handwritten(ctx, bestSheets, bestLaid)
	if err != nil {
		return store.Understood{}, err
	}
	u, err := f.Understand(best, c, at)
	if err != nil {
		return u, err
	}
	for n, g := range bestLaid {
		b, err := engine.PNG(scan.RGBA(scan.Shrink(g, 1)))
		if err != nil {
			return u, err
		}
		u.Files = append(u.Files, store.Enclosed{Key: fmt.Sprintf("@%d", n), Name: fmt.Sprintf("page %d.png", n), Bytes: b})
	}
	if missing := len(bestSheets) - len(bestLaid); missing > 0 {
		u.Problem = strings.TrimPrefix(u.Problem+fmt.Sprintf("; %d of its %d pages did not come", missing, len(bestSheets)), "; ")
	}
	return u, nil
}

// layAll lays each picture over the page that it is most like, in the order in which they come where that fits. Sure is the mean of those
// that were laid.
func layAll(ctx context.Context, pictures []image.Image, sheets []sheetOf) (map[int]*image.Gray, float64) {
	out := map[int]*image.Gray{}
	sure := map[int]float64{}
	for i, img := range pictures {
		order := make([]int, 0, len(sheets))
		if i < len(sheets) {
			order = append(order, i)
		}
		for k := range sheets {
			if k != i {
				order = append(order, k)
			}
		}
		for _, k := range order {
			if ctx.Err() != nil {
				return out, 0
			}
			n := sheets[k].page
			laid, s := scan.Overlay(img, sheets[k].drawn)
			if s >= laidLeast && s > sure[n] {
				out[n], sure[n] = laid, s
			}
			if s > 0.6 {
				break
			}
		}
	}
	total := 0.0
	for _, s := range sure {
		total += s
	}
	if len(sure) == 0 {
		return out, 0
	}
	return out, total / float64(len(sure))
}

// handwritten reads what stands on laid pages: boxes by their ink, text by recognition, each with how sure it is.
func handwritten(ctx context.Context, sheets []sheetOf, laid map[int]*image.Gray) (returns.Came, error) {
	c := returns.Came{Named: map[string][]string{}, Sure: map[string]float64{}}
	language := "eng"
	var all []intake.Writing
	var names []string
	lists := map[string][]form.Option{} // of what can be nothing else
	for _, s := range sheets {
		g := laid[s.page]
		if g == nil {
			continue
		}
		language = intake.TesseractFor(s.form.Details.Language)
		added := scan.Written(g, s.drawn, 2)
		fields := s.form.OnPage(s.page)
		readBoxes(&c, s, added, fields)
		for _, q := range fields {
			if !q.Placed() || q.Kind != form.Text && q.Kind != form.Choice {
				continue
			}
			r := pixels(s.form.Pages[s.page-1], q.Rect, paperDPI)
			if scan.Covered(added, r) < min(written, penned*paperDPI*paperDPI/(25.4*25.4)/float64(r.Dx()*r.Dy())) {
				c.Named[q.Name] = []string{""}
				continue
			}
			wide := image.Rect(r.Min.X, r.Min.Y-r.Dy()/6, r.Max.X, r.Max.Y+r.Dy()/6) // hands go over the lines
			names = append(names, q.Name)
			if q.Kind == form.Choice && q.List != form.ComboBox {
				lists[q.Name] = q.Options
			}
			for _, times := range []float64{enlarge, larger} {
				all = append(all, intake.Writing{
					Picture: scan.Enlarged(added, wide, times, 24), Several: q.Multiline && r.Dy() > 60, Digits: figures(&q),
				})
			}
		}
	}
	if len(all) == 0 {
		return c, nil
	}
	read, err := intake.ReadWriting(ctx, all, paperDPI*enlarge, language)
	if err != nil {
		return c, err
	}
	for i, n := range names {
		a, b := read[2*i], read[2*i+1]
		if options := lists[n]; len(options) > 0 {
			a.Text, b.Text = nearest(a.Text, options), nearest(b.Text, options)
		}
		if b.Sure > a.Sure && b.Text != "" || a.Text == "" {
			a, b = b, a
		}
		c.Named[n] = []string{a.Text}
		switch {
		case a.Text == "":
			c.Sure[n] = 0
		case a.Text != b.Text: // two looks that do not agree
			c.Sure[n] = math.Round(50*a.Sure) / 100
		case max(a.Left, b.Left) > unread: // a part of it was not read at all
			c.Sure[n] = math.Round(100*a.Sure*(1-max(a.Left, b.Left))) / 100
		case b.Sure < certain:
			c.Sure[n] = math.Round(100*b.Sure) / 100
		}
	}
	return c, nil
}

// figures tells whether a field takes nothing but figures and what stands between them.
func figures(f *form.Field) bool {
	switch f.Format.Kind {
	case form.Number, form.Percent:
		return true
	case form.Date:
		return !strings.Contains(f.Format.Pattern, "mmm")
	}
	return false
}

// nearest is the option that text is most like, when a third of its signs or fewer differ; else the text.
func nearest(text string, options []form.Option) string {
	best, off := text, 1.0/3
	for _, o := range options {
		label := strings.ToLower(o.Label)
		if d := float64(rules.Distance(strings.ToLower(text), label)) / float64(max(1, len([]rune(label)))); d <= off && text != "" {
			best, off = o.Label, d
		}
	}
	return best
}

// readBoxes tells which boxes are ticked. Of a group of buttons it is the one with most ink; two that have much are in doubt.
func readBoxes(c *returns.Came, s sheetOf, added *image.Gray, fields []form.Field) {
	type mark struct {
		field form.Field
		ink   float64
	}
	groups := map[string][]mark{}
	var order []string
	for _, q := range fields {
		if !q.Placed() || q.Kind != form.CheckBox && q.Kind != form.Radio {
			continue
		}
		r := pixels(s.form.Pages[s.page-1], q.Rect, paperDPI)
		in := r.Inset(max(2, r.Dx()/8))
		if len(groups[q.Name]) == 0 {
			order = append(order, q.Name)
		}
		groups[q.Name] = append(groups[q.Name], mark{q, scan.Covered(added, in)})
	}
	for _, name := range order {
		all := groups[name]
		slices.SortStableFunc(all, func(a, b mark) int { return int(math.Copysign(1, b.ink-a.ink)) })
		top := all[0]
		c.Named[name] = []string{""}
		switch {
		case top.ink >= someInk:
			c.Named[name] = []string{exportOf(&top.field)}
			if len(all) > 1 && all[1].ink >= littleInk {
				c.Sure[name] = math.Round(100*(1-all[1].ink/top.ink)) / 100
			} else if top.ink > 0.75 {
				c.Sure[name] = 0.5 // blacked out: ticked, or struck out
			}
		case top.ink >= littleInk:
			c.Sure[name] = 0.5
			if top.ink >= (someInk+littleInk)/2 {
				c.Named[name] = []string{exportOf(&top.field)}
			}
		}
	}
}
