package e2e_test

import (
	"bytes"
	"fmt"
	"slices"
	"testing"

	"codeberg.org/go-pdf/fpdf"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/store"
)

// crowd places n small text fields on each of some pages of a document.
func (o *office) crowd(id int64, pages, n int) {
	o.t.Helper()
	d, err := o.store.Draft(o.t.Context(), id)
	require.NoError(o.t, err)
	_, err = o.store.Change(o.t.Context(), id, d.Document.Revision, 1, "fit", func(t *form.Template) (form.Edit, error) {
		var fields []form.Field
		columns := 1 + n/25
		for p := 1; p <= pages; p++ {
			w, h := 520/float64(columns), 740.0/25
			for i := range n {
				x, y := 30+float64(i%columns)*w, 40+float64(i/columns)*h
				fields = append(fields, form.Field{
					Page: p, Kind: form.Text, Name: fmt.Sprintf("field_%d_%d", p, i),
					Tooltip: fmt.Sprintf("Field %d of page %d", i, p), Rect: geom.R(x, y, x+w-3, y+12),
				})
			}
		}
		return t.Add("placed many", fields)
	})
	require.NoError(o.t, err)
}

// frames drags the chosen field about while frames are drawn, and gives how long each frame took
// to work out and how long it was until the next, in milliseconds. The pointer moves
// once a frame, as a hand makes it do at most.
const frames = `((moves) => new Promise((done) => {
	const g = document.querySelector('#overlay .f.sel .body').getBoundingClientRect(), x = g.x + g.width / 2, y = g.y + g.height / 2;
	const send = (type, dx) => document.querySelector('#overlay .f.sel').dispatchEvent(new PointerEvent(type, {bubbles: true, button: 0, pointerId: 1, clientX: x + dx, clientY: y + dx / 2}));
	const work = [], between = [];
	let n = 0, last = 0;
	send('pointerdown', 0);
	const step = (now) => {
		if (last) between.push(now - last);
		last = now;
		const start = performance.now();
		if (moves) send('pointermove', 20 + 60 * Math.sin(n / 9));
		document.body.getBoundingClientRect(); // layout is part of it
		work.push(performance.now() - start);
		if (++n < 120) requestAnimationFrame(step);
		else { send('pointerup', 40); done([work, between]); }
	};
	requestAnimationFrame(step);
}))`

func median(v []float64) float64 { return share(v, 0.5) }

func share(v []float64, p float64) float64 {
	s := slices.Sorted(slices.Values(v))
	return s[int(float64(len(s)-1)*p)]
}

// Dragging a field on a page of 500: a frame at 60 a second has 16.7 ms.
func BenchmarkDraggingAmong500Fields(b *testing.B) {
	o := openOffice(b)
	o.comeIn()
	o.crowd(1, 1, 500)
	o.bench("/documents/1/fit?zoom=75")
	o.must(o.Click("#overlay .f:nth-of-type(250) .body"))
	o.must(o.Wait("document.querySelector('#overlay .f.sel')"))
	var work, between, still []float64
	for b.Loop() {
		var got, rest [2][]float64
		o.must(o.Eval(frames+"(true)", &got))
		o.must(o.Wait("document.querySelector('#overlay .f.sel')"))
		o.must(o.Eval(frames+"(false)", &rest))
		work, between, still = append(work, got[0]...), append(between, got[1]...), append(still, rest[1]...)
	}
	b.ReportMetric(median(work), "ms-work/frame")
	b.ReportMetric(share(work, 0.95), "ms-work-p95/frame")
	b.ReportMetric(median(between), "ms/frame")
	b.ReportMetric(share(between, 0.95), "ms-p95/frame")
	b.ReportMetric(share(still, 0.95), "ms-p95/frame-at-rest") // what the machine does when nothing moves
}

// longForm brings a form of many pages in.
func (o *office) longForm(pages int) int64 {
	o.t.Helper()
	f := fpdf.New("P", "pt", "A4", "")
	f.SetFont("Helvetica", "", 12)
	for p := range pages {
		f.AddPage()
		f.Text(40, 30, fmt.Sprintf("Register of moorings, sheet %d", p+1))
	}
	var b bytes.Buffer
	require.NoError(o.t, f.Output(&b))
	return o.bringIn("register.pdf", b.Bytes())
}

// A thousand fields on forty pages: going to another page and editing there, beside
// the same with one page of 25 fields.
func BenchmarkAThousandFieldsOnFortyPages(b *testing.B) {
	o := openOffice(b)
	o.comeIn()
	took := func(id int64, page string) (open, edit float64) {
		o.bench(fmt.Sprintf("/documents/%d/fit?page=%s&zoom=75", id, page))
		var nav float64
		o.must(o.Eval("performance.getEntriesByType('navigation')[0].duration", &nav))
		o.must(o.Click("#overlay .f .body"))
		o.must(o.Wait("document.querySelector('.note.open .s')"))
		var ms []float64
		for range 5 {
			var one float64
			o.must(o.Eval(`new Promise((done) => { const rev = document.getElementById('bench').dataset.rev, start = performance.now();
				document.dispatchEvent(new KeyboardEvent('keydown', {key: 'ArrowRight', bubbles: true}));
				const look = () => document.getElementById('bench').dataset.rev !== rev ? done(performance.now() - start) : requestAnimationFrame(look);
				look(); })`, &one))
			ms = append(ms, one)
		}
		return nav, median(ms)
	}
	small, large := o.longForm(1), o.longForm(40)
	o.crowd(small, 1, 25)
	o.crowd(large, 40, 25)
	for b.Loop() {
		_, alone := took(small, "1")
		open, many := took(large, "33")
		b.ReportMetric(open, "ms-to-open-a-page")
		b.ReportMetric(many, "ms-to-see-an-edit")
		b.ReportMetric(many/alone, "times-one-page-alone")
	}
}

func TestAThousandFieldsOnFortyPagesAreFoundAndMended(t *testing.T) {
	o := openOffice(t)
	o.comeIn()
	id := o.longForm(40)
	o.crowd(id, 40, 25)
	o.bench(fmt.Sprintf("/documents/%d/fit?zoom=75", id))
	o.must(o.Key("/"))
	o.must(o.Wait("document.querySelectorAll('#field-table tbody tr').length === 1000 && document.documentElement.dataset.ready"))
	o.must(o.Fill("#field-search", "page 33"))
	o.must(o.Wait("[...document.querySelectorAll('#field-table tbody tr')].filter(r => r.offsetParent).length === 25"))
	o.must(o.Eval("[...document.querySelectorAll('#field-table tbody tr')].find(r => r.offsetParent).querySelector('a').click()", nil))
	o.must(o.Wait("document.getElementById('bench')?.dataset.page === '33' && document.querySelector('.note.open .s')"))
	o.ready()
	var thumbs int
	o.must(o.Eval("document.querySelectorAll('.thumb em').length", &thumbs))
	assert.Equal(t, 40, thumbs, "each page with the number of its fields")
	o.look("forty-pages")
	var open string
	o.must(o.Eval("document.querySelector('.note.open').dataset.id", &open))
	o.must(o.Fill("#b-"+open+"-tooltip", "Mooring"))
	o.eventually(func(d store.Draft) bool { f, _ := d.Template.Field(open); return f.Tooltip == "Mooring" }, "mended there")
	o.must(o.Eval("document.getElementById('b-"+open+"-link').focus()", nil))
	o.must(o.Wait("document.querySelectorAll('#same-as option').length === 999"))
	o.must(o.Fill("#b-"+open+"-link", "field_1_3"))
	o.eventually(func(d store.Draft) bool { return len(d.Template.Places(open)) == 2 },
		"the same answer as a field that is 32 pages away")
}
