package pdf_test

import (
	"bytes"
	"fmt"
	"image"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/pdf/engine"
	"zealousmargin.example/internal/pdf/read"
	"zealousmargin.example/internal/pdf/write"
)

// pageText is what poppler reads on a page.
func pageText(t *testing.T, b []byte, n int) string {
	t.Helper()
	return tool(t, b, "pdftotext", "-layout", "-f", fmt.Sprint(n), "-l", fmt.Sprint(n), "IN", "-")
}

// picture is a page as PDFium draws it, at half a pixel a point.
func picture(t *testing.T, b []byte, n int) *image.RGBA {
	t.Helper()
	img, err := engine.DrawPage(t.Context(), b, n, 0.5)
	require.NoError(t, err)
	return img
}

// Each operation on pages: the file stays sound, the pages it did not touch look and
// read as before, and the fields travel with their pages.
func TestPagesAreTurnedMovedCutAndCopied(t *testing.T) {
	src := realForms(t)["f1040a.pdf"]
	whole := draftOf(t, src)
	id := func(n int) string { return whole.Pages[n-1].ID }
	for name, c := range map[string]struct {
		op    func(*form.Template) (form.Edit, error)
		pages []int // of the source that must be found unchanged, in order; 0 is another one
	}{
		"turned":     {func(t *form.Template) (form.Edit, error) { return t.TurnPages([]string{id(1)}, 1) }, []int{0, 2}},
		"moved":      {func(t *form.Template) (form.Edit, error) { return t.MovePages([]string{id(1)}, 3) }, []int{2, 1}},
		"deleted":    {func(t *form.Template) (form.Edit, error) { return t.RemovePages([]string{id(1)}) }, []int{2}},
		"duplicated": {func(t *form.Template) (form.Edit, error) { return t.DuplicatePages([]string{id(2)}) }, []int{1, 2, 2}},
		"straightened": {func(t *form.Template) (form.Edit, error) {
			return t.StraightenPages(map[string]float64{id(2): 1.5})
		}, []int{1, 0}},
		"cropped": {func(t *form.Template) (form.Edit, error) { return t.CropPage(id(2), geom.R(30, 300, 580, 780)) }, []int{1, 0}},
		"resized": {func(t *form.Template) (form.Edit, error) { return t.ResizePages([]string{id(2)}, 842, 1191, true) }, []int{1, 0}},
	} {
		t.Run(name, func(t *testing.T) {
			tpl := *whole
			e, err := c.op(&tpl)
			require.NoError(t, err)
			require.NoError(t, tpl.Apply(e))
			out := releaseOf(t, src, &tpl)
			sound(t, out)
			for i, n := range c.pages {
				if n == 0 {
					continue
				}
				assert.Equal(t, pageText(t, src, n), pageText(t, out, i+1), "the words of page %d", n)
				assert.True(t, bytes.Equal(picture(t, src, n).Pix, picture(t, out, i+1).Pix), "the looks of page %d", n)
			}
			ws, err := read.Widgets(out)
			require.NoError(t, err)
			assert.Len(t, ws, len(tpl.Fields))
			for i, f := range tpl.Fields {
				assert.Equal(t, f.Page, ws[i].Page)
			}
			require.NoError(t, tpl.Apply(e.Inverse()))
			assert.Equal(t, whole.Pages, tpl.Pages)
			assert.Len(t, tpl.Fields, len(whole.Fields))
			for _, f := range whole.Fields {
				g, ok := tpl.Field(f.ID)
				assert.True(t, ok && f.Equal(g), f.Name)
			}
		})
	}
}

// A drawn page lies as the released one: by the matrix, and by what is written.
func TestADraftIsDrawnAsItIsReleased(t *testing.T) {
	src := realForms(t)["f1040ez.pdf"]
	tpl := draftOf(t, src)
	id := tpl.Pages[0].ID
	for _, op := range []func() (form.Edit, error){
		func() (form.Edit, error) { return tpl.StraightenPages(map[string]float64{id: -2}) },
		func() (form.Edit, error) { return tpl.CropPage(id, geom.R(20, 100, 500, 760)) },
		func() (form.Edit, error) { return tpl.TurnPages([]string{id}, 3) },
	} {
		e, err := op()
		require.NoError(t, err)
		require.NoError(t, tpl.Apply(e))
	}
	drawn, err := engine.Draw(t.Context(), src, tpl.Pages[0], 0.5)
	require.NoError(t, err)
	tpl.Fields = nil
	written := picture(t, releaseOf(t, src, tpl), 1)
	require.Equal(t, written.Bounds(), drawn.Bounds())
	differ := 0
	for i := range drawn.Pix {
		if d := int(drawn.Pix[i]) - int(written.Pix[i]); d > 90 || d < -90 {
			differ++
		}
	}
	assert.Less(t, float64(differ)/float64(len(drawn.Pix)), 0.005, "pixels that differ")
	ev, err := engine.Read(t.Context(), src, tpl.Pages[0], nil)
	require.NoError(t, err)
	assert.InDelta(t, 660, ev.Width, 0.01, "evidence is of the page as shown")
	assert.NotEmpty(t, ev.Words)
}

// Recognised words become text that poppler reads where they stand, and that
// nobody sees.
func TestRecognisedWordsBecomeInvisibleText(t *testing.T) {
	src := plain("", "")
	tpl := draftOf(t, src)
	words := []evidence.Word{
		{Text: "Gannet", Rect: geom.R(100, 300, 160, 314), Size: 12},
		{Text: "Łódź", Rect: geom.R(170, 300, 210, 314), Size: 12},
	}
	for _, rotate := range []int{0, 90, 180, 270} {
		at := *tpl
		at.Pages = append([]form.Page(nil), tpl.Pages...)
		at.Pages[0].Text, at.Pages[0].Rotate = "words", rotate
		turned := make([]evidence.Word, len(words))
		_, back := geom.Upright(at.Pages[0].Width, at.Pages[0].Height, rotate)
		for i, w := range words { // recognised upright, kept in page space
			w.Rect = w.Rect.Apply(back)
			turned[i] = w
		}
		base, as, err := write.Base(&at, write.Sources{
			File: func(string) ([]byte, error) { return src, nil },
			Text: func(string) (evidence.Text, error) {
				return evidence.Text{Place: geom.Identity, Rotate: rotate, Words: turned}, nil
			},
		})
		require.NoError(t, err)
		sound(t, base)
		html := tool(t, base, "pdftotext", "-bbox", "-f", "1", "-l", "1", "IN", "-")
		var x0, y0, x1, y1 float64
		i := strings.Index(html, `">Gannet<`)
		require.Positive(t, i, html)
		_, err = fmt.Sscanf(html[strings.LastIndex(html[:i], "<word"):], `<word xMin="%f" yMin="%f" xMax="%f" yMax="%f">`, &x0, &y0,
			&x1, &y1)
		require.NoError(t, err)
		_, vh := as.Pages[0].ViewSize()
		seen := geom.R(x0, vh-y1, x1, vh-y0)
		assert.InDelta(t, words[0].Rect.X0, seen.X0, 1.5, "turned by %d", rotate)
		assert.InDelta(t, words[0].Rect.X1, seen.X1, 1.5, "turned by %d", rotate)
		assert.InDelta(t, words[0].Rect.Mid().Y, seen.Mid().Y, 4, "turned by %d", rotate)
		assert.Contains(t, html, ">Łódź<")
		bare := at.Pages[0]
		bare.N = 1
		want, err := engine.Draw(t.Context(), src, bare, 0.5)
		require.NoError(t, err)
		got := picture(t, base, 1)
		different := 0
		for i := range want.Pix {
			if d := int(want.Pix[i]) - int(got.Pix[i]); d > 60 || d < -60 {
				different++
			}
		}
		assert.Less(t, different, 200, "nothing more is to be seen")
	}
}

func TestLeftoversAreListedAndLeftBehind(t *testing.T) {
	dir := t.TempDir()
	note := dir + "/note.txt"
	require.NoError(t, os.WriteFile(note, []byte("a secret price"), 0o600))
	src := []byte(tool(t, plain(""), "qpdf", "IN", "--add-attachment", note, "--", "OUT"))
	tpl := draftOf(t, src)
	tpl.Details.Title, tpl.Details.Author = "Berths & moorings", "Łucja"
	tpl.Fields = []form.Field{{ID: "a", Page: 1, Order: 1, Kind: form.Text, Name: "a", Rect: geom.R(50, 50, 150, 70)}}
	src = releaseOf(t, src, tpl) // now there is an earlier revision too
	sound(t, src)
	assert.Contains(t, tool(t, src, "pdfinfo", "IN"), "Berths & moorings")
	assert.Contains(t, tool(t, src, "pdfinfo", "IN"), "Łucja")
	assert.Contains(t, tool(t, src, "pdfinfo", "-meta", "IN"), "Berths &amp; moorings")

	left, err := read.Leftovers(src)
	require.NoError(t, err)
	keys := map[string]string{}
	for _, l := range left {
		keys[l.Key] = l.What
	}
	assert.Contains(t, keys[read.LeaveAttachments], "note.txt")
	assert.Contains(t, keys[read.LeaveMetadata], "author “Łucja”")
	assert.Contains(t, keys[read.LeaveRevisions], "1 earlier revision")

	again := draftOf(t, src)
	again.Details = form.Details{Title: "Berths", Leave: "metadata,attachments,comments,revisions"}
	out := releaseOf(t, src, again)
	sound(t, out)
	assert.NotContains(t, tool(t, out, "qpdf", "--list-attachments", "IN"), "note.txt")
	info := tool(t, out, "pdfinfo", "IN")
	assert.NotContains(t, info, "Łucja")
	assert.Contains(t, info, "Berths")
	clean, _, err := write.Base(again, write.Sources{File: func(string) ([]byte, error) { return src, nil }})
	require.NoError(t, err)
	left, err = read.Leftovers(clean)
	require.NoError(t, err)
	assert.Empty(t, left)
}
