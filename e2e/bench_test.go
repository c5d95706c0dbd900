package e2e_test

import (
	"os"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/e2e/browser"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/store"
)

// overlaps counts notes that cover their neighbour, and fields without a note.
const overlaps = `(() => {
	const notes = [...document.querySelectorAll('#notes .note')].map(n => n.getBoundingClientRect()).sort((a, b) => a.top - b.top);
	let covered = 0;
	for (let i = 1; i < notes.length; i++) if (notes[i].top < notes[i-1].bottom - 0.6) covered++;
	const bare = [...document.querySelectorAll('#overlay .f')].filter(g => !document.getElementById('n-' + g.dataset.id)).length;
	return [covered, bare, notes.length, document.documentElement.scrollWidth - innerWidth];
})()`

// A dense form that nobody here made: the notes margin stays usable.
func TestNotesNeverCoverEachOtherOnADenseForm(t *testing.T) {
	o := openOffice(t)
	o.comeIn()
	o.must(o.Upload("#drop input[type=file]", realForm(t)))
	o.must(o.Wait("document.querySelector('#intakes a')"))
	o.must(o.Wait("document.querySelector('#intakes').textContent.includes('fields came with it')"))
	o.must(o.Click("#intakes a")) // leads to the fields
	o.ready()
	o.must(o.Wait("location.pathname.endsWith('/fit')"))
	o.must(o.Click(".stages a[href$='/find']"))
	o.must(o.Wait("location.pathname.endsWith('/find')"))
	o.ready()
	o.must(o.Click("#find-page"))
	o.must(o.Wait("document.getElementById('say').textContent.startsWith('Nothing new was found')")) // it has its own fields
	for _, open := range []bool{false, true} {
		if open {
			o.must(o.Eval("document.querySelectorAll('.note .line')[40].click()", nil))
			o.must(o.Wait("document.querySelector('.note.open .s')"))
		}
		o.must(o.Wait(overlaps + "[0] === 0")) // once they are laid
		var n [4]int
		o.must(o.Eval(overlaps, &n))
		assert.Zero(t, n[0], "notes that cover each other")
		assert.Zero(t, n[1], "fields without a note")
		assert.Greater(t, n[2], 80)
		assert.LessOrEqual(t, n[3], 0, "the screen does not scroll sideways")
		o.must(o.Eval("document.getElementById('say').hidden = true", nil))
		o.look("dense-real")
	}
	// Zoomed in, the page is drawn afresh, four pixels for one.
	for _, z := range []string{"50", "400"} {
		o.bench("/documents/" + itoa(o.documentID()) + "/fit?zoom=" + z)
		var drawn []int
		o.must(o.Eval("[document.getElementById('picture').naturalWidth, document.getElementById('picture').width, "+
			"document.documentElement.scrollWidth - innerWidth]", &drawn))
		assert.Equal(t, drawn[1], drawn[0], "one pixel drawn for one shown at %s %%", z)
		assert.LessOrEqual(t, drawn[2], 0)
	}
}

func realForm(t *testing.T) string {
	t.Helper()
	const name = "../node_modules/pdf2json/test/data/f1040.pdf"
	_, err := os.Stat(name)
	require.NoError(t, err, "the real forms are missing: run make test")
	return mustAbs(t, name)
}

func TestPlacingAndOrderingByHand(t *testing.T) {
	o := openOffice(t)
	o.comeIn()
	doc := "/documents/" + itoa(o.documentID())
	o.bench(doc + "/fit")
	// The kit armed twice stays armed: three presses, three check boxes on the printed ones.
	o.must(o.Key("3"))
	o.must(o.Key("3"))
	for i, x := range []float64{165, 216, 276} {
		px, py := o.onPage(x, 394)
		o.must(o.ClickAt(px, py))
		o.eventually(func(d store.Draft) bool { return len(d.Template.Fields) == i+1 }, "placed")
		o.must(o.Wait("document.querySelectorAll('#overlay .f').length === " + itoa(int64(i+1))))
	}
	o.must(o.Key(browser.Escape))
	f := o.draft().Template.Fields
	assert.Equal(t, []string{"fin", "bilge", "lifting"}, []string{f[0].Name, f[1].Name, f[2].Name})
	for _, x := range f {
		assert.Equal(t, form.CheckBox, x.Kind)
		assert.InDelta(t, 10, x.Rect.W(), 0.1, "it takes the printed box's shape")
	}
	// duplicate: a new name
	o.must(o.Click("#f-" + f[0].ID))
	o.must(o.Key("d", browser.Ctrl))
	o.eventually(func(d store.Draft) bool { return len(d.Template.Fields) == 4 }, "duplicated")
	assert.NotEmpty(t, o.fieldID("fin_2"))
	o.must(o.Wait("document.querySelectorAll('#overlay .f').length === 4"))

	// order: drag the first bead onto the third
	o.bench(doc + "/order")
	first := o.draft().Template.Fields[0]
	third := o.draft().Template.Fields[2]
	x0, y0, w, h, err := o.Rect("#bead-" + first.ID)
	o.must(err)
	x1, y1, _, _, err := o.Rect("#bead-" + third.ID)
	o.must(err)
	o.must(o.Drag(x0+w/2, y0+h/2, x1+w/2, y1+h/2))
	o.eventually(func(d store.Draft) bool { return d.Template.Fields[2].ID == first.ID }, "the bead is third now")
	o.must(o.Click("#rows"))
	o.eventually(func(d store.Draft) bool { return d.Undo == "ordered by rows" && d.Template.Fields[0].ID == first.ID }, "by rows again")

	// a clear button from the rules kit, and a date on a field
	o.bench(doc + "/rules")
	o.must(o.Click("[data-kind=clear]"))
	px, py := o.onPage(430, 222)
	o.must(o.ClickAt(px, py))
	o.eventually(func(d store.Draft) bool {
		return slices.ContainsFunc(d.Template.Fields, func(b form.Field) bool {
			return b.Name == "clear" && b.Kind == form.Button && b.Action.Do == form.ClearForm && b.Caption == "Clear"
		})
	}, "the button is there")
	// remove everything with two keys, and take it back with one
	o.must(o.Wait("document.querySelectorAll('#overlay .f').length === 5"))
	o.must(o.Eval("document.activeElement.blur()", nil))
	o.must(o.Key("a", browser.Ctrl))
	o.must(o.Key(browser.Delete))
	o.eventually(func(d store.Draft) bool { return len(d.Template.Fields) == 0 }, "all removed")
	o.must(o.Key("z", browser.Ctrl))
	o.eventually(func(d store.Draft) bool { return len(d.Template.Fields) == 5 }, "all back in one step")
}

// Files can be dropped anywhere on the workroom; what is no form is refused with its
// reason, and the list follows by itself.
func TestDroppingFilesOnTheWorkroom(t *testing.T) {
	o := openOffice(t)
	o.comeIn()
	o.must(o.Eval(`fetch("/documents/`+itoa(o.documentID())+`/originals/1").then(r => r.blob()).then(b => {
		const dt = new DataTransfer();
		dt.items.add(new File([b], "dropped-form.pdf"));
		dt.items.add(new File(["a letter"], "letter.pdf"));
		document.body.dispatchEvent(new DragEvent("drop", {dataTransfer: dt, bubbles: true, cancelable: true}));
	})`, nil))
	o.must(o.Wait("document.querySelectorAll('#intakes .intake').length === 2 && document.querySelector('#intakes a') && " +
		"document.querySelector('#intakes .wrong')"))
	var said string
	o.must(o.Eval("document.querySelector('#intakes .wrong').textContent", &said))
	assert.Contains(t, said, "not a PDF file")
	o.must(o.Wait("[...document.querySelectorAll('#documents .title')].some(i => i.value === 'Dropped form')"))
	o.must(o.Wait("!document.querySelector('.htmx-request, .htmx-swapping, .htmx-settling, .htmx-added')"))
	time.Sleep(200 * time.Millisecond) // the new row begins to listen
	// named anew in place, archived, and brought back
	id := itoa(o.documentID())
	o.must(o.Fill("#title-"+id, "Guest form"))
	o.eventually(func(d store.Draft) bool { return d.Document.Title == "Guest form" }, "renamed in place")
	o.must(o.Wait("document.getElementById('title-" + id + "').value === 'Guest form'"))
	o.must(o.Click("#doc-" + id + " .go button"))
	o.must(o.Wait("!document.getElementById('doc-" + id + "')"))
	o.must(o.Open(o.url + "/?archived=1"))
	o.must(o.Wait("document.documentElement.dataset.ready"))
	o.must(o.Click("#doc-" + id + " .go button"))
	o.must(o.Wait("!document.getElementById('doc-" + id + "')"))
	o.must(o.Open(o.url + "/"))
	o.must(o.Wait("document.getElementById('doc-" + id + "')"))
}
