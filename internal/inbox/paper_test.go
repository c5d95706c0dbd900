package inbox_test

import (
	"bytes"
	"fmt"
	"image"
	"image/color"
	"image/jpeg"
	"math/rand/v2"
	"os"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/image/font"
	"golang.org/x/image/font/opentype"
	"golang.org/x/image/math/fixed"

	"zealousmargin.example/demo"
	"zealousmargin.example/internal/detect"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/inbox"
	"zealousmargin.example/internal/pdf/engine"
	"zealousmargin.example/internal/pdf/write"
	"zealousmargin.example/internal/returns"
	"zealousmargin.example/internal/scan/simulate"
	"zealousmargin.example/internal/store"
	"zealousmargin.example/internal/store/storetest"
)

// released is the demo's berth application with the fields that are found on it, as an edition.
func released(t *testing.T) (*store.Store, *inbox.Reader, store.Edition) {
	t.Helper()
	ctx := t.Context()
	s := storetest.Open(t)
	require.NoError(t, demo.Load(ctx, s, "berth-application.pdf"))
	d, err := s.Draft(ctx, 1)
	require.NoError(t, err)
	_, err = s.Change(ctx, 1, -1, 1, "", func(f *form.Template) (form.Edit, error) {
		file, err := s.File(ctx, d.Template.Pages[0].File)
		if err != nil {
			return form.Edit{}, err
		}
		var all []form.Field
		for n := range f.Pages {
			ev, err := engine.ReadPage(ctx, file, n+1)
			if err != nil {
				return form.Edit{}, err
			}
			for _, x := range detect.Page(ev) {
				one := x.Field(n + 1)
				one.Find.Kept = true
				all = append(all, one)
			}
		}
		return f.Add("found", all)
	})
	require.NoError(t, err)
	return s, inbox.NewReader(s), releasedEdition(t, s)
}

// releasedEdition releases the draft of document 1.
func releasedEdition(t *testing.T, s *store.Store) store.Edition {
	t.Helper()
	ctx := t.Context()
	d, err := s.Draft(ctx, 1)
	require.NoError(t, err)
	f := d.Template
	f.Details.Title, f.Details.Language = "Berth application", "en"
	base, draft, err := write.Base(&f, write.Sources{File: func(sha string) ([]byte, error) { return s.File(ctx, sha) }})
	require.NoError(t, err)
	out, err := write.Release(base, draft)
	require.NoError(t, err)
	e, err := s.Release(ctx, store.NewEdition{
		Document: 1, Revision: d.Document.Revision, By: 1, PDF: out, Form: f,
		Name: func(n int) string { return fmt.Sprintf("berth-%d.pdf", n) },
	})
	require.NoError(t, err)
	return e
}

// printed is the edition as it is read: its form, its file, and all editions.
func printed(t *testing.T) (*inbox.Reader, form.Template, []byte, *inbox.Forms) {
	t.Helper()
	s, reader, e := released(t)
	f, err := s.EditionForm(t.Context(), e.ID)
	require.NoError(t, err)
	file, err := s.File(t.Context(), e.File)
	require.NoError(t, err)
	forms, err := reader.FormsOf(t.Context(), 1)
	require.NoError(t, err)
	return reader, f, file, forms
}

// hand letters text into a place of a picture, as somebody does with a pen: slanting a little, not quite on the line.
func hand(t *testing.T, img *image.RGBA, r image.Rectangle, text string, rng *rand.Rand) {
	t.Helper()
	b, err := os.ReadFile("/usr/share/fonts/opentype/comic-neue/ComicNeue-Bold.otf")
	require.NoError(t, err)
	f, err := opentype.Parse(b)
	require.NoError(t, err)
	size := min(float64(r.Dy())*0.72, 38)
	for {
		face, err := opentype.NewFace(f, &opentype.FaceOptions{Size: size, DPI: 72, Hinting: font.HintingNone})
		require.NoError(t, err)
		d := font.Drawer{Dst: img, Src: image.NewUniform(color.RGBA{30, 30, 90, 255}), Face: face}
		if wide := d.MeasureString(text).Ceil(); wide > r.Dx()-8 && size > 14 {
			size *= 0.92
			continue
		}
		base := float64(r.Min.Y) + float64(r.Dy())*0.5 + size*0.33
		d.Dot = fixed.P(r.Min.X+6+rng.IntN(4), int(base)+rng.IntN(4)-2)
		d.DrawString(text)
		return
	}
}

// tick marks a box with a cross or a check, which goes over its edge.
func tick(img *image.RGBA, r image.Rectangle, rng *rand.Rand) {
	line := func(x0, y0, x1, y1 float64) {
		for i := range 200 {
			k := float64(i) / 199
			x, y := x0+(x1-x0)*k, y0+(y1-y0)*k
			for dy := -1.5; dy <= 1.5; dy++ {
				for dx := -1.5; dx <= 1.5; dx++ {
					img.Set(int(x+dx), int(y+dy), color.RGBA{30, 30, 90, 255})
				}
			}
		}
	}
	x0, y0, x1, y1 := float64(r.Min.X), float64(r.Min.Y), float64(r.Max.X), float64(r.Max.Y)
	j := func() float64 { return rng.Float64()*4 - 2 }
	if rng.IntN(2) == 0 {
		line(x0+j(), y0+j(), x1+j(), y1+j())
		line(x0+j(), y1+j(), x1+j(), y0+j())
		return
	}
	mid := x0 + (x1-x0)*0.4
	line(x0+j(), (y0+y1)/2+j(), mid, y1+j())
	line(mid, y1, x1+j()+3, y0+j()-3)
}

var words = strings.Fields(
	"Petrel Sanderling Curlew Redshank Avocet Merlin Dunlin Harbour Aldsea Quay Marl Brandt North Lane Mill Street " +
		"Gannet Ferry Reed Island",
)

// answersFor invents what somebody writes into a form.
func answersFor(f *form.Template, rng *rand.Rand) map[string]string {
	out := map[string]string{}
	groups := map[string][]form.Field{}
	var order []string // the same answers for the same seed
	for _, q := range f.Placed() {
		switch q.Kind {
		case form.Text:
			if rng.IntN(5) == 0 {
				continue
			}
			switch {
			case q.Format.Kind == form.Date:
				out[q.Name] = fmt.Sprintf("%02d.%02d.20%02d", 1+rng.IntN(28), 1+rng.IntN(12), 20+rng.IntN(7))
			case q.Format.Kind == form.Number:
				out[q.Name] = fmt.Sprint(1 + rng.IntN(40))
			case q.Comb > 0: // cells are lettered one by one: another matter
			default:
				n := 1 + rng.IntN(2)
				var w []string
				for range n {
					w = append(w, words[rng.IntN(len(words))])
				}
				out[q.Name] = strings.Join(w, " ")
			}
		case form.CheckBox, form.Radio:
			if len(groups[q.Name]) == 0 {
				order = append(order, q.Name)
			}
			groups[q.Name] = append(groups[q.Name], q)
		}
	}
	for _, name := range order {
		all := groups[name]
		if k := rng.IntN(len(all) + 1); k < len(all) {
			out[name] = all[k].Export
			if out[name] == "" {
				out[name] = all[k].OnState()
			}
		}
	}
	return out
}

// onPaper prints an edition and fills it in by hand.
func onPaper(t *testing.T, file []byte, f *form.Template, answers map[string]string, rng *rand.Rand) []image.Image {
	t.Helper()
	const dpi = 200.0
	var out []image.Image
	for n, p := range f.Pages {
		img, err := engine.DrawPage(t.Context(), file, n+1, dpi/72)
		require.NoError(t, err)
		for _, q := range f.OnPage(n + 1) {
			v := answers[q.Name]
			if v == "" || !q.Placed() {
				continue
			}
			k := dpi / 72
			r := q.Rect.Apply(geom.ToView(p.Width, p.Height, p.Rotate))
			at := image.Rect(int(r.X0*k), int(r.Y0*k), int(r.X1*k), int(r.Y1*k))
			switch q.Kind {
			case form.Text:
				hand(t, img, at, v, rng)
			case form.CheckBox, form.Radio:
				if v == q.Export || v == q.OnState() {
					tick(img, at, rng)
				}
			}
		}
		out = append(out, img)
	}
	return out
}

// distance is how many signs must be changed, put in or taken out to make one text of another (V. Levenshtein, 1966).
func distance(a, b string) int {
	x, y := []rune(a), []rune(b)
	row := make([]int, len(y)+1)
	for j := range row {
		row[j] = j
	}
	for i := range x {
		last := row[0]
		row[0] = i + 1
		for j := range y {
			cost := 1
			if x[i] == y[j] {
				cost = 0
			}
			last, row[j+1] = row[j+1], min(row[j+1]+1, row[j]+1, last+cost)
		}
	}
	return row[len(y)]
}

// tally is how well paper was read.
type tally struct{ boxes, rightBoxes, signs, wrongSigns, unsaid, unsure, texts int }

// compare holds what was read of one form to what was written.
func (n *tally) compare(t *testing.T, f *form.Template, forms *inbox.Forms, u *store.Understood, answers map[string]string) {
	t.Helper()
	require.False(t, u.Waits, u.Problem)
	got, unsure, broken := forms.Named(1, u.Values), forms.Named(1, texts(u.Unsure)), forms.Named(1, u.Broken)
	seen := map[string]bool{}
	for _, q := range f.Placed() {
		if seen[q.Name] {
			continue
		}
		seen[q.Name] = true
		is, should := got[q.Name], answers[q.Name]
		wrong := is != should
		switch q.Kind {
		case form.CheckBox, form.Radio:
			n.boxes++
			if !wrong {
				n.rightBoxes++
			}
		case form.Text:
			if should != "" {
				n.texts++
				if unsure[q.Name] != "" {
					n.unsure++
				}
			}
			n.signs += len([]rune(should))
			n.wrongSigns += min(distance(should, is), max(1, len([]rune(should))))
		default:
			continue
		}
		if wrong {
			t.Logf("%s is %q, read %q, %s %s", q.Name, should, is, unsure[q.Name], broken[q.Name])
			if unsure[q.Name] == "" && broken[q.Name] == "" {
				n.unsaid++
			}
		}
	}
}

// sheet says by which seed, and as which of them, a form is filled in.
type sheet struct{ seed, n uint64 }

// Forms that were printed, ticked and lettered by hand, and scanned askew: what is read is right, and what is wrong is among what is said
// to be unsure. Two are those in which something wrong was once taken for sure; one is another each time, and one answer of it may be
// wrong unsaid, since reading is no exact science. With ZM_ALL=yes there are eighteen more, and one answer in two hundred may be.
func TestPaperThatCameBackIsRead(t *testing.T) {
	reader, f, file, forms := printed(t)
	seed := rand.Uint64()
	if v, err := strconv.ParseUint(os.Getenv("ZM_SEED"), 10, 64); err == nil {
		seed = v
	}
	t.Logf("ZM_SEED=%d", seed)
	known := []sheet{{11360326062732181286, 1}, {109, 2}}
	fresh := []sheet{{seed, 0}}
	for i := uint64(1); os.Getenv("ZM_ALL") != "" && i < 19; i++ {
		fresh = append(fresh, sheet{seed, i})
	}
	read := func(sheets []sheet) (all tally) {
		for _, at := range sheets {
			rng := rand.New(rand.NewPCG(at.seed, at.n))
			answers := answersFor(&f, rng)
			pages := onPaper(t, file, &f, answers, rng)
			for k := range pages {
				pages[k] = simulate.Scan(pages[k], 200, simulate.Faults{
					Skew: rng.Float64()*5 - 2.5, Specks: 60, Light: 0.15, Grey: 0.06, Blur: rng.IntN(2), JPEG: 80, Noise: 4,
					Seed: rng.Uint64(), Quarters: 2 * rng.IntN(2),
				})
			}
			read, err := reader.Read(t.Context(), store.Target{Document: 1}, returns.PDF, asPDF(t, pages), time.Now())
			require.NoError(t, err)
			all.compare(t, &f, forms, &read[0], answers)
			assert.Len(t, read[0].Files, len(f.Pages), "the paper is kept, laid over the pages")
		}
		t.Logf("%d of %d boxes right, %d of %d signs wrong, %d wrong and not said, %d of %d answers unsure", all.rightBoxes, all.boxes,
			all.wrongSigns, all.signs, all.unsaid, all.unsure, all.texts)
		assert.LessOrEqual(t, all.boxes-all.rightBoxes, max(1, all.boxes/50))
		assert.LessOrEqual(t, float64(all.wrongSigns), 0.1*float64(all.signs))
		return all
	}
	once := read(known)
	assert.Zero(t, once.unsaid)
	now := read(fresh)
	assert.LessOrEqual(t, now.unsaid, max(1, (now.boxes+now.texts)/200))
}

// A photograph of one of its pages, from aside on a table, is read too; it is said that the other page did not come. A picture of something
// else waits for a person.
func TestAPhotographOfPaperIsRead(t *testing.T) {
	reader, f, file, forms := printed(t)
	rng := rand.New(rand.NewPCG(7, 7))
	answers := answersFor(&f, rng)
	pages := onPaper(t, file, &f, answers, rng)
	for _, q := range f.Placed() {
		if q.Page != 1 {
			delete(answers, q.Name)
		}
	}
	shot, _ := simulate.Photograph(pages[0], 0.06, 1.5, 3)
	var b bytes.Buffer
	require.NoError(t, jpeg.Encode(&b, shot, &jpeg.Options{Quality: 88}))
	kind := returns.KindOf(b.Bytes())
	assert.Equal(t, returns.Picture, kind)
	read, err := reader.Read(t.Context(), store.Target{Document: 1}, kind, b.Bytes(), time.Now())
	require.NoError(t, err)
	var n tally
	n.compare(t, &f, forms, &read[0], answers)
	assert.Contains(t, read[0].Problem, "1 of its 2 pages did not come")
	assert.GreaterOrEqual(t, float64(n.rightBoxes), 0.95*float64(n.boxes))
	assert.LessOrEqual(t, float64(n.wrongSigns), 0.15*float64(n.signs))
	assert.Zero(t, n.unsaid)

	other := image.NewGray(image.Rect(0, 0, 800, 1100))
	for i := range other.Pix {
		other.Pix[i] = uint8(rng.IntN(256))
	}
	b.Reset()
	require.NoError(t, jpeg.Encode(&b, other, nil))
	read, err = reader.Read(t.Context(), store.Target{Document: 1}, returns.Picture, b.Bytes(), time.Now())
	require.NoError(t, err)
	assert.True(t, read[0].Waits)
	assert.Contains(t, read[0].Problem, "could not be laid over any page")
}

func texts(m map[string]float64) map[string]string {
	out := map[string]string{}
	for k, v := range m {
		out[k] = fmt.Sprint(v)
	}
	return out
}

// asPDF puts pictures into a PDF, as scanners do.
func asPDF(t *testing.T, pages []image.Image) []byte {
	t.Helper()
	var pics []write.Picture
	for _, p := range pages {
		pics = append(pics, write.Picture{Image: p, DPI: 200, Orientation: 1})
	}
	b, err := write.FromPictures(pics)
	require.NoError(t, err)
	return b
}
