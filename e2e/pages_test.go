package e2e_test

import (
	"bytes"
	"encoding/json"
	"image"
	"image/jpeg"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/demo"
	"zealousmargin.example/e2e/browser"
	"zealousmargin.example/internal/pdf/engine"
	"zealousmargin.example/internal/scan/simulate"
	"zealousmargin.example/internal/store"
)

// photographed is the declaration on a table, seen from the side.
func photographed(t *testing.T) []byte {
	t.Helper()
	d, err := demo.Charges()
	require.NoError(t, err)
	page, err := engine.DrawPage(t.Context(), d.Bytes, 1, 150.0/72)
	require.NoError(t, err)
	var img image.Image = page
	img, _ = simulate.Photograph(img, 0.1, 3, 4)
	var b bytes.Buffer
	require.NoError(t, jpeg.Encode(&b, img, &jpeg.Options{Quality: 88}))
	return b.Bytes()
}

// What lies on the desk comes in: a word-processor file, a scan and a photograph as
// one document, another cancelled on its way; its text is recognised, a doubtful word
// corrected, pages re-ordered and turned, and all of it taken back.
func TestFromPaperToPages(t *testing.T) {
	o := openOffice(t)
	dir := t.TempDir()
	file := func(name string, b []byte) string {
		f := filepath.Join(dir, name)
		require.NoError(t, os.WriteFile(f, b, 0o600))
		return f
	}
	storage, err := demo.Storage()
	require.NoError(t, err)
	scan, err := demo.Declaration()
	require.NoError(t, err)
	docx := file(storage.File, storage.Bytes)
	o.comeIn()

	// one that is cancelled while it is converted
	o.must(o.Upload("#drop input[type=file]", docx))
	o.must(o.Wait("document.querySelector('#intakes progress')"))
	o.must(o.Wait("document.querySelector('#intakes .intake button')"))
	o.must(o.Eval("document.querySelector('#intakes .intake button').click()", nil))
	cancelled := time.Now()
	o.must(o.Wait("document.querySelector('#intakes .intake.cancelled')"))
	assert.Less(t, time.Since(cancelled), 3*time.Second)
	docs, err := o.store.Documents(t.Context(), false)
	require.NoError(t, err)
	assert.Len(t, docs, 1, "nothing came of it")

	// three files become one document, and the screen says how far it is
	o.must(o.Click("#together"))
	o.must(o.Upload("#drop input[type=file]", docx, file(scan.File, scan.Bytes), file("photo.jpg", photographed(t))))
	o.must(o.Wait("document.querySelector('#intakes progress')"))
	o.must(o.Wait("document.querySelector('#intakes a[href$=pages]')"))
	o.must(o.Click("#intakes a[href$=pages]"))
	o.must(o.Wait("document.documentElement.dataset.ready && document.querySelectorAll('.sheetcard').length === 3"))
	d := o.draft()
	require.Len(t, d.Template.Pages, 3)
	assert.Len(t, d.Template.Fields, 8, "the controls of the word-processor file")
	assert.Contains(t, d.Template.Pages[1].Notes, "straightened 1.4°")
	assert.Contains(t, d.Template.Pages[2].Notes, "flattened")
	assert.Equal(t, "made 2 scanned pages ready", d.Undo)

	// recognise: progress, and then words
	o.must(o.Click("#recognise"))
	o.must(o.Wait("document.querySelector('#task progress')"))
	o.must(o.Wait("document.querySelector('.leafnote a[href$=text]') && !document.getElementById('task')"))
	o.eventually(func(d store.Draft) bool {
		return d.Undo == "recognised the text of 2 pages" && d.Template.Pages[1].Text != "" && d.Template.Pages[0].Text == ""
	}, "the scans are recognised, the typeset page is not")

	// a doubtful word is corrected by keyboard
	before := o.draft().Template.Pages
	o.must(o.Open(o.url + "/documents/" + itoa(o.documentID()) + "/words"))
	o.must(o.Wait("document.getElementById('word-text') || document.querySelector('#word .do')"))
	var doubtful bool
	o.must(o.Eval("!!document.getElementById('word-text')", &doubtful))
	if !doubtful { // the engine was sure of everything: make one word doubtful
		p := before[1]
		spoil(t, o, p.ID)
		o.must(o.Open(o.url + "/documents/" + itoa(o.documentID()) + "/words"))
		o.must(o.Wait("document.getElementById('word-text')"))
	}
	o.must(o.Wait("document.querySelector('.wordlook image')"))
	o.must(o.Eval("document.getElementById('word-text').select()", nil))
	o.must(o.Type("Sandpiper", 10*time.Millisecond))
	o.must(o.Key(browser.Enter))
	o.eventually(func(d store.Draft) bool { return strings.Contains(d.Undo, "to “Sandpiper”") }, "the word is corrected")
	var text string
	o.must(o.Eval(`fetch("/documents/`+itoa(o.documentID())+`/text").then(r => r.text())`, &text))
	assert.Contains(t, text, "Sandpiper")
	assert.Contains(t, text, "Name of owner:", "typeset words are in the export too")

	// re-order by dragging, by number and by keys; turn; undo
	o.must(o.Open(o.url + "/documents/" + itoa(o.documentID()) + "/pages"))
	o.must(o.Wait("document.documentElement.dataset.ready && document.querySelectorAll('.sheetcard').length === 3"))
	pages := o.draft().Template.Pages
	x0, y0, w, h, err := o.Rect("#p-" + pages[2].ID)
	o.must(err)
	x1, y1, _, _, err := o.Rect("#p-" + pages[0].ID)
	o.must(err)
	o.must(o.Drag(x0+w/2, y0+h/3, x1+20, y1+h/3))
	o.eventually(func(d store.Draft) bool { return d.Template.Pages[0].ID == pages[2].ID && d.Undo == "moved page 3" },
		"the last page is the first")
	assert.Equal(t, 2, o.draft().Template.Fields[0].Page, "fields travel with their page")
	o.must(o.Fill("#move-to", "3"))
	o.must(o.Click("#move-go"))
	o.eventually(func(d store.Draft) bool { return d.Template.Pages[2].ID == pages[2].ID }, "and the last again, by number")
	o.must(o.Click("#p-" + pages[0].ID))
	o.must(o.Key("r"))
	o.eventually(func(d store.Draft) bool { return d.Template.Pages[0].Rotate == 90 }, "turned right by a key")
	o.must(o.Click("#undo"))
	o.eventually(func(d store.Draft) bool { return d.Template.Pages[0].Rotate == 0 && d.Redo == "turned page 1 right" }, "and back")

	// crop by drawing a frame
	o.must(o.Click("#p-" + pages[1].ID))
	o.must(o.Click("#crop"))
	o.must(o.Wait("document.getElementById('crop-picture').complete && document.getElementById('crop-picture').width > 200"))
	cx, cy, cw, ch, err := o.Rect("#crop-overlay")
	o.must(err)
	o.must(o.Drag(cx+cw*0.05, cy+ch*0.05, cx+cw*0.95, cy+ch*0.6))
	o.must(o.Click("#crop-do"))
	o.eventually(func(d store.Draft) bool {
		p := d.Template.Pages[1]
		return d.Undo == "cropped page 2" && p.Width < 0.92*pages[1].Width && p.Height < 0.6*pages[1].Height
	}, "cropped to the frame")

	// a blank page after it, a page taken out to a document of its own
	o.must(o.Eval("document.getElementById('where').value = 'after'", nil))
	o.must(o.Click("[data-do=insert-blank]"))
	o.eventually(func(d store.Draft) bool { return len(d.Template.Pages) == 4 && d.Undo == "inserted a blank page" }, "a blank page")
	o.must(o.Click("#p-" + pages[2].ID))
	id := o.documentID()
	o.must(o.Click("#kit [data-do=take-out]"))
	require.Eventually(t, func() bool {
		d, err := o.store.Draft(t.Context(), id)
		return err == nil && len(d.Template.Pages) == 3
	}, 10*time.Second, 50*time.Millisecond)
	docs, err = o.store.Documents(t.Context(), false)
	require.NoError(t, err)
	assert.Len(t, docs, 3)

	// everything back to how it came in
	o.must(o.Open(o.url + "/documents/" + itoa(id) + "/pages"))
	o.must(o.Wait("document.documentElement.dataset.ready"))
	for range 12 {
		d, err := o.store.Draft(t.Context(), id)
		require.NoError(t, err)
		if d.Undo == "" {
			break
		}
		o.must(o.Click("#undo"))
		was := d.Document.Revision
		require.Eventually(t, func() bool {
			d, err := o.store.Draft(t.Context(), id)
			return err == nil && d.Document.Revision > was
		}, 10*time.Second, 30*time.Millisecond)
		o.must(o.Wait("!document.querySelector('.htmx-request, .htmx-swapping, .htmx-settling')"))
	}
	back, err := o.store.Draft(t.Context(), id)
	require.NoError(t, err)
	assert.Empty(t, back.Undo)
	assert.Len(t, back.Template.Pages, 3)
	assert.Empty(t, back.Template.Pages[1].Notes, "as it was scanned")
}

// spoil makes the second word of a page doubtful.
func spoil(t *testing.T, o *office, page string) {
	t.Helper()
	d := o.draft()
	p, _, _ := d.Template.PageByID(page)
	b, err := o.store.File(t.Context(), p.Text)
	require.NoError(t, err)
	var text map[string]any
	require.NoError(t, json.Unmarshal(b, &text))
	text["words"].([]any)[1].(map[string]any)["doubt"] = 0.5
	b, err = json.Marshal(text)
	require.NoError(t, err)
	o.rewriteText(page, b)
}
