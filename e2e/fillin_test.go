package e2e_test

import (
	"fmt"
	"os"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/demo"
	"zealousmargin.example/e2e/browser"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/pdf/engine"
	"zealousmargin.example/internal/pdf/write"
	"zealousmargin.example/internal/store"
)

// A form on the web brings few scripts: they reach a telephone on the quay.
func TestAFormOnTheWebBringsFewScripts(t *testing.T) {
	total := int64(0)
	for _, name := range []string{"fill.js", "sign.js"} {
		at, err := os.Stat("../internal/web/static/" + name)
		require.NoError(t, err)
		total += at.Size()
	}
	assert.LessOrEqual(t, total, int64(150<<10))
}

// hundred is a link to a form with a hundred fields.
func hundred(b *testing.B, s *store.Store) store.FormLink {
	b.Helper()
	ctx := b.Context()
	berth, err := demo.Berth()
	require.NoError(b, err)
	pages, err := engine.Pages(ctx, berth.Bytes)
	require.NoError(b, err)
	d, err := s.Draft(ctx, 1)
	require.NoError(b, err)
	tpl := form.Template{Pages: d.Template.Pages, Details: form.Details{Title: "A hundred", Language: "en"}}
	for i := range 100 {
		f := form.Field{
			ID: fmt.Sprint("f", i), Page: 1, Order: float64(i), Kind: form.Text, Name: fmt.Sprintf("field_%d", i), Tooltip: fmt.Sprintf("Question %d", i),
			Rect: geom.R(40+float64(i%4)*130, 760-float64(i/4)*28, 150+float64(i%4)*130, 774-float64(i/4)*28),
		}
		if i%10 == 9 {
			f.Format, f.Formula, f.ReadOnly = form.Format{Kind: form.Number}, fmt.Sprintf("field_%d + field_%d", i-1, i-2), true
		}
		tpl.Fields = append(tpl.Fields, f)
	}
	base := tpl
	base.Pages = pages
	pdf, err := write.Release(berth.Bytes, &base)
	require.NoError(b, err)
	e, err := s.Release(ctx, store.NewEdition{
		Document: 1, Revision: d.Document.Revision, By: 1, PDF: pdf, Form: tpl, Name: func(n int) string { return fmt.Sprintf("hundred-%d.pdf", n) },
	})
	require.NoError(b, err)
	ids, err := s.MakeFormLinks(ctx, e.ID, 1, store.Terms{}, []store.For{{}})
	require.NoError(b, err)
	l, err := s.FormLink(ctx, ids[0])
	require.NoError(b, err)
	return l
}

// How long it takes until a form of a hundred fields can be filled in on a telephone, and how long until what follows from an answer is told;
// beside it a page of the application that says hardly anything, in the same browser.
func BenchmarkAFormOfAHundredFieldsOnTheWeb(b *testing.B) {
	o := openOffice(b)
	l := hundred(b, o.store)
	w, err := browser.Start(browser.Options{Width: 375, Height: 740})
	require.NoError(b, err)
	b.Cleanup(w.Close)
	var open, answer, plain []float64
	for i := 0; b.Loop(); i++ {
		begun := time.Now()
		o.must(w.Open(o.url + "/sign-in"))
		plain = append(plain, time.Since(begun).Seconds()*1000)
		begun = time.Now()
		o.must(w.Open(o.url + "/f/" + l.Token + "/fill"))
		settled(o, w)
		open = append(open, time.Since(begun).Seconds()*1000)
		begun = time.Now()
		answered(o, w, "field_7", fmt.Sprint(i+1))
		settled(o, w)
		answer = append(answer, time.Since(begun).Seconds()*1000)
	}
	b.ReportMetric(median(open), "ms-until-live(want<=1000)")
	b.ReportMetric(median(answer), "ms-an-answer")
	b.ReportMetric(median(open)/median(plain), "x-a-plain-page")
	b.ReportMetric(0, "ns/op")
}
