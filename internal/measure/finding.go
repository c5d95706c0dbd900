package measure

import (
	"cmp"
	"context"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"zealousmargin.example/internal/detect"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/intake"
	"zealousmargin.example/internal/measure/sheets"
	"zealousmargin.example/internal/pdf/engine"
	"zealousmargin.example/internal/pdf/fill"
	"zealousmargin.example/internal/pdf/read"
	"zealousmargin.example/internal/pdf/write"
	"zealousmargin.example/internal/scan/simulate"
)

// tally counts what became of the fields of some pages.
type tally struct {
	pages, wanted, found, hit, lenient     int
	kind, named, comb, combs, lines, lined int
	inked                                  int // finds that lie over printed words
	finding, drawing, reading              time.Duration
	sure                                   [10][2]int // by tenth of confidence: finds, right ones
	atLeast                                [3][2]int  // sure, likely, doubtful: finds, right ones
}

func (t *tally) add(o tally) {
	t.pages, t.wanted, t.found, t.hit, t.lenient = t.pages+o.pages, t.wanted+o.wanted, t.found+o.found, t.hit+o.hit, t.lenient+o.lenient
	t.kind, t.named, t.comb, t.combs, t.lines, t.lined = t.kind+o.kind, t.named+o.named, t.comb+o.comb, t.combs+o.combs,
		t.lines+o.lines, t.lined+o.lined
	t.inked += o.inked
	t.finding, t.drawing, t.reading = t.finding+o.finding, t.drawing+o.drawing, t.reading+o.reading
	for i := range t.sure {
		t.sure[i][0], t.sure[i][1] = t.sure[i][0]+o.sure[i][0], t.sure[i][1]+o.sure[i][1]
	}
	for i := range t.atLeast {
		t.atLeast[i][0], t.atLeast[i][1] = t.atLeast[i][0]+o.atLeast[i][0], t.atLeast[i][1]+o.atLeast[i][1]
	}
}

func f1(hit, found, wanted int) float64 { return ratio(2*hit, found+wanted) }

// F1 is the harmonic mean of precision and recall at IoU >= 0.5.
func (t tally) F1() float64 { return f1(t.hit, t.found, t.wanted) }

const tallyHead = "%-26s %6s %6s %6s %6s %7s %6s %6s %6s %6s\n"

func (t tally) print(w io.Writer, name string) {
	share := func(a, b int) string {
		if b == 0 {
			return "–"
		}
		return fmt.Sprintf("%.3f", ratio(a, b))
	}
	fmt.Fprintf(w, tallyHead, name, fmt.Sprint(t.wanted), fmt.Sprint(t.found), fmt.Sprint(t.hit), fmt.Sprintf("%.3f", t.F1()),
		fmt.Sprintf("%.3f", f1(t.lenient, t.found, t.wanted)),
		share(t.kind, t.hit), share(t.named, t.hit), share(t.comb, t.combs), share(t.lined, t.lines))
}

// found is a page with what was found on it, for the pictures.
type found struct {
	name  string
	page  int
	doc   []byte
	as    form.Page
	finds []detect.Find
	truth []sheets.Truth
	score tally
}

// typeset measures one sheet.
func typeset(s sheets.Sheet) (out []found, err error) {
	err = engine.Use(context.Background(), s.PDF, func(d *engine.Doc) (err error) {
		out, err = typesetIn(d, s)
		return err
	})
	return out, err
}

func typesetIn(d *engine.Doc, s sheets.Sheet) ([]found, error) {
	var out []found
	for i, p := range d.Pages() {
		p.N = i + 1
		start := time.Now()
		ev, err := d.Evidence(i + 1)
		if err != nil {
			return nil, err
		}
		read := time.Since(start)
		finds := detect.Page(ev)
		find := time.Since(start)
		start = time.Now()
		if _, err := d.Render(i+1, 150.0/72); err != nil {
			return nil, err
		}
		f := found{name: s.Style, page: i + 1, doc: s.PDF, as: p, finds: finds}
		f.finds, f.truth = asFound(s, i+1, finds)
		f.score = compareTruth(f.finds, f.truth)
		for _, one := range finds {
			if one.Confidence >= form.LikelyFrom && overInk(ev, one) {
				f.score.inked++
			}
		}
		f.score.reading, f.score.finding, f.score.drawing = read, find, time.Since(start)
		out = append(out, f)
	}
	return out, nil
}

// ScanFaults are the ways in which scans are simulated.
var ScanFaults = []struct {
	Name string
	simulate.Faults
}{
	{"clean 200", simulate.Faults{}},
	{"skewed, specks", simulate.Faults{Skew: 1.3, Specks: 150}},
	{"grey, uneven, JPEG", simulate.Faults{Skew: -0.7, Light: 0.25, Grey: 0.08, JPEG: 60}},
	{"1-bit", simulate.Faults{Skew: 0.5, Specks: 60, OneBit: true}},
	{"blurred, noisy", simulate.Faults{Blur: 1, Noise: 8, Skew: 2.2}},
	{"turned", simulate.Faults{Quarters: 2, Skew: 0.8}},
}

// scanned makes a scan of a sheet's first page and measures it, through bringing in and
// recognising like any scan.
func scanned(ctx context.Context, s sheets.Sheet, faults simulate.Faults) (found, error) {
	const dpi = 200.0
	pages, err := engine.Pages(ctx, s.PDF)
	if err != nil {
		return found{}, err
	}
	p0 := pages[0]
	img, err := engine.DrawPage(ctx, s.PDF, 1, dpi/72)
	if err != nil {
		return found{}, err
	}
	b, err := write.FromPictures([]write.Picture{{Image: simulate.Scan(img, dpi, faults), DPI: dpi, Orientation: 1}})
	if err != nil {
		return found{}, err
	}
	r, err := intake.Read(ctx, intake.Source{Name: "scan.pdf", Bytes: b}, silent)
	if err != nil {
		return found{}, err
	}
	page := r.Pages[0]
	file := r.PDF
	if r.Ready != nil {
		page = r.Ready[0]
		if f := r.Files[page.File]; f != nil {
			file = f
		}
	}
	out := found{name: s.Style, page: 1, doc: file, as: page}
	text, err := intake.Recognise(ctx, file, page, 200, cmp.Or(s.Language, "eng"))
	if err != nil {
		return found{}, err
	}
	start := time.Now()
	ev, err := engine.Read(ctx, file, page, &text)
	if err != nil {
		return found{}, err
	}
	out.finds = detect.Page(ev)
	took := time.Since(start)
	// The truth as it lies on the page made ready: turned back, straightened by what was
	// measured. Seen upright, both pages are the same paper.
	out.finds, out.truth = asFound(sheets.Sheet{Truth: onScan(s.Truth, p0, page)}, 1, out.finds)
	out.score = compareTruth(out.finds, out.truth)
	out.score.finding = took
	return out, nil
}

// onScan takes the truth of a typeset page to the page that was scanned from it and made
// ready: both stand upright, and are the same size but for rounding.
func onScan(truth []sheets.Truth, from, to form.Page) []sheets.Truth {
	up, _ := geom.Upright(from.Width, from.Height, from.Rotate)
	_, back := geom.Upright(to.Width, to.Height, to.Rotate)
	fw, fh := from.ViewSize()
	tw, th := to.ViewSize()
	m := up.Then(geom.Matrix{tw / fw, 0, 0, th / fh, 0, 0}).Then(back)
	var out []sheets.Truth
	for _, t := range truth {
		if t.Page == 1 {
			t.Rect = t.Rect.Apply(m)
			var alts [][]geom.Rect
			for _, alt := range t.Alt {
				var rects []geom.Rect
				for _, r := range alt {
					rects = append(rects, r.Apply(m))
				}
				alts = append(alts, rects)
			}
			t.Alt = alts
			out = append(out, t)
		}
	}
	return out
}

// Sets says what finding is measured on, besides the typeset styles.
type Sets struct {
	Forms    string // the folder of the real forms, for their pictures
	Printed  string // a folder of sheets that another program made; empty for none
	Scans    bool
	Overlays string // a folder for pictures of every page with truth and finds; empty for none
}

// Finding measures detection on typeset styles and on scans simulated from them, and
// prints what confidence means.
func Finding(ctx context.Context, w io.Writer, sets Sets) error {
	all, err := sheets.All()
	if err != nil {
		return err
	}
	empty, err := sheets.Empty()
	if err != nil {
		return err
	}
	head := func(title string) {
		fmt.Fprintf(w, "\n%s\n"+tallyHead, title, "style", "wanted", "found", "hit", "F1", "lenient", "kind", "name", "comb", "lines")
	}
	head("Finding fields on typeset forms of our own making (IoU >= 0.5; lenient: same line, 70 % of the width)")
	var tuned, held tally
	byStyle := map[string]*tally{}
	var order []string
	var pages []found
	for _, s := range all {
		fs, err := typeset(s)
		if err != nil {
			return err
		}
		style, _, _ := strings.Cut(s.Style, "/")
		if s.Held {
			style += " *"
		}
		for _, f := range fs {
			if byStyle[style] == nil {
				byStyle[style] = &tally{}
				order = append(order, style)
			}
			byStyle[style].add(f.score)
			if s.Held {
				held.add(f.score)
			} else {
				tuned.add(f.score)
			}
			pages = append(pages, f)
		}
	}
	for _, style := range order {
		byStyle[style].print(w, style)
	}
	tuned.print(w, "all but *")
	held.print(w, "* kept out of tuning")
	false0 := 0
	for _, s := range empty {
		fs, err := typeset(s)
		if err != nil {
			return err
		}
		for _, f := range fs {
			false0 += f.score.found
			pages = append(pages, f)
		}
	}
	fmt.Fprintf(w, "false fields on %d pages without any: %d\n", len(empty), false0)
	both := tuned
	both.add(held)
	both.reliability(w)
	both.speed(w, 1)
	if sets.Printed != "" {
		pp, err := printed(w, sets.Printed, head)
		if err != nil {
			return err
		}
		pages = append(pages, pp...)
	}
	if sets.Scans {
		for _, set := range []struct {
			title string
			of    func() ([]sheets.Sheet, error)
		}{
			{"Finding fields on scans of our own forms at 200 dpi, text recognised", func() ([]sheets.Sheet, error) {
				return slices.DeleteFunc(all, func(s sheets.Sheet) bool { return !strings.HasSuffix(s.Style, "/en") }), nil
			}},
			{
				"Finding fields on scans of forms that a browser printed",
				func() ([]sheets.Sheet, error) { return printedSheets(sets.Printed) },
			},
			{"Finding fields on scans of the real forms, first pages", func() ([]sheets.Sheet, error) { return realSheets(sets.Forms) }},
		} {
			from, err := set.of()
			if err != nil {
				return err
			}
			sp, err := scanSet(ctx, w, set.title, from, head)
			if err != nil {
				return err
			}
			pages = append(pages, sp...)
		}
	}
	if sets.Overlays == "" {
		return nil
	}
	real, err := realPages(sets.Forms)
	if err != nil {
		return err
	}
	return drawAll(w, sets.Overlays, append(pages, real...))
}

// scanSet measures scans of the first pages of sheets, under the faults in turn.
func scanSet(ctx context.Context, w io.Writer, title string, all []sheets.Sheet, head func(string)) ([]found, error) {
	if len(all) == 0 {
		return nil, nil
	}
	head(title)
	by := map[string]*tally{}
	var total tally
	var pages []found
	n := 0
	for _, s := range all {
		f := ScanFaults[n%len(ScanFaults)]
		n++
		p, err := scanned(ctx, s, f.Faults)
		if err != nil {
			return nil, err
		}
		p.name = "scan-" + p.name
		if by[f.Name] == nil {
			by[f.Name] = &tally{}
		}
		by[f.Name].add(p.score)
		total.add(p.score)
		pages = append(pages, p)
	}
	for _, f := range ScanFaults {
		if by[f.Name] != nil {
			by[f.Name].print(w, f.Name)
		}
	}
	total.print(w, "all scans")
	total.reliability(w)
	fmt.Fprintf(w, "milliseconds a scan without recognising: %.0f (wanted <= 400)\n", total.finding.Seconds()*1000/float64(total.pages))
	return pages, nil
}

func (t tally) reliability(w io.Writer) {
	fmt.Fprint(w, "what confidence means, right of all finds: ")
	for i, level := range []form.Level{form.Sure, form.Likely, form.Doubtful} {
		fmt.Fprintf(w, "%s %d of %d (%.3f)  ", level, t.atLeast[i][1], t.atLeast[i][0], ratio(t.atLeast[i][1], t.atLeast[i][0]))
	}
	fmt.Fprint(w, "\n  by tenths of confidence: ")
	for i := 3; i < 10; i++ {
		if t.sure[i][0] > 0 {
			fmt.Fprintf(w, "0.%d: %d/%d  ", i, t.sure[i][1], t.sure[i][0])
		}
	}
	fmt.Fprintln(w)
}

// speed prints what finding costs beside drawing, and how many finds lie over printed words.
func (t tally) speed(w io.Writer, wanted float64) {
	fmt.Fprintf(w, "finds over printed words: %d of %d (wanted 0)\n", t.inked, t.found)
	if t.drawing == 0 {
		return // scans are timed apart
	}
	pages := float64(max(1, t.pages))
	fmt.Fprintf(w, "seconds a page: evidence %.4f, finding %.4f; PDFium's drawing at 150 dpi %.4f; ratio %.2f (wanted <= %.1f)\n",
		t.reading.Seconds()/pages, (t.finding-t.reading).Seconds()/pages, t.drawing.Seconds()/pages,
		t.finding.Seconds()/t.drawing.Seconds(), wanted)
}

// realSheets are the real forms without their fields, which are the truth.
func realSheets(folder string) ([]sheets.Sheet, error) {
	files, err := filepath.Glob(filepath.Join(folder, "*.pdf"))
	if err != nil {
		return nil, err
	}
	var out []sheets.Sheet
	for _, f := range files {
		b, err := os.ReadFile(f)
		if err != nil {
			return nil, err
		}
		wanted, err := read.Widgets(b)
		if err != nil {
			return nil, err
		}
		bare, err := fill.Strip(b)
		if err != nil {
			return nil, err
		}
		s := sheets.Sheet{Style: "real-" + strings.TrimSuffix(filepath.Base(f), ".pdf"), PDF: bare}
		for _, w := range wanted {
			s.Truth = append(s.Truth, sheets.Truth{Page: w.Page, Rect: w.Rect, Kind: w.Kind, Comb: w.Comb(), Words: w.Name})
		}
		out = append(out, s)
	}
	return out, nil
}

// realPages finds fields on the real forms, for their pictures.
func realPages(folder string) ([]found, error) {
	all, err := realSheets(folder)
	if err != nil {
		return nil, err
	}
	var out []found
	for _, s := range all {
		pages, err := typeset(s)
		if err != nil {
			return nil, err
		}
		out = append(out, pages...)
	}
	return out, nil
}
