package e2e_test

import (
	"bytes"
	"image"
	"image/color"
	"image/draw"
	"image/png"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/e2e/browser"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/pdf/read"
	"zealousmargin.example/internal/store"
)

// kitPlaces takes a kind from the kit and presses a place of the page.
func (o *office) kitPlaces(kind string, x, y float64) form.Field {
	o.t.Helper()
	before := o.draft().Template
	o.must(o.Click("#kit [data-kind=" + kind + "]"))
	o.pressPage(x, y)
	var made form.Field
	o.eventually(func(d store.Draft) bool {
		for _, f := range d.Template.Fields {
			if _, had := before.Field(f.ID); !had {
				made = f
			}
		}
		return made.ID != ""
	}, kind+" is placed")
	o.must(o.Wait("document.querySelector('#n-" + made.ID + ".open .s')"))
	return made
}

// unfold opens a heading of the open note.
func (o *office) unfold(more string) {
	o.t.Helper()
	o.must(o.Eval("(d => d.open || d.querySelector('summary').click())(document.querySelector('.note.open [data-more="+more+"]'))", nil))
}

func pennant(t *testing.T) string {
	img := image.NewRGBA(image.Rect(0, 0, 60, 40))
	draw.Draw(img, img.Bounds(), image.NewUniform(color.RGBA{0x20, 0x70, 0xa0, 0xff}), image.Point{}, draw.Src)
	var b bytes.Buffer
	require.NoError(t, png.Encode(&b, img))
	file := filepath.Join(t.TempDir(), "pennant.png")
	require.NoError(t, os.WriteFile(file, b.Bytes(), 0o600))
	return file
}

func TestAStyleIsKeptGivenAndMadeTheHouseStyle(t *testing.T) {
	o := openOffice(t)
	o.signIn()
	o.bench("/documents/1/fit?zoom=50")
	f := o.kitPlaces("text", 300, 700)
	o.set(f.ID, "font", "Liberation-Serif")
	o.set(f.ID, "colour", "#1020a0")
	o.set(f.ID, "size", "10")
	o.set(f.ID, "height", "22")
	want := form.Look{Font: "Liberation-Serif", Colour: "#1020a0", Size: 10}

	o.unfold("styles")
	o.must(o.Fill("#style-name", "Harbour blue"))
	o.must(o.Click("[data-style=keep]"))
	o.must(o.Wait("document.querySelector('.note.open [data-dress]')?.textContent === 'Harbour blue'"))
	o.look("style-kept")
	o.must(o.Click("[data-style=house]"))
	o.must(o.Wait("document.getElementById('say').textContent.includes('text fields look like this one')"))

	second := o.kitPlaces("text", 300, 740)
	assert.Equal(t, want, second.Look, "a new field has the house style")
	assert.InDelta(t, 22, second.Rect.H(), 0.01, "and the size of the house")

	box := o.kitPlaces("choice", 300, 770)
	assert.Empty(t, box.Look, "of its kind only")
	o.must(o.Key(browser.Escape))
	o.chooseAll("#n-many [data-dress]")
	o.unfold("styles")
	o.must(o.Click("#n-many [data-dress]"))
	o.eventually(func(d store.Draft) bool { g, _ := d.Template.Field(box.ID); return g.Look == want }, "the favourite is given")
	assert.Equal(t, "gave "+box.Name+" the style Harbour blue", o.draft().Undo, "what had it already is not touched")

	o.must(o.Open(o.url + "/house-style"))
	o.must(o.Wait("document.documentElement.dataset.ready"))
	o.must(o.Eval("(() => { const e = document.querySelector('#style-text-height'); e.value = '5 mm'; e.dispatchEvent(new "+
		"Event('change', {bubbles: true})) })()", nil))
	o.must(o.Wait("document.querySelector('#style-text-height').value.startsWith('14.17')"))
	o.look("house-style")
	o.must(o.Click("[aria-label='Take out Harbour blue']"))
	o.must(o.Wait("!document.body.textContent.includes('Harbour blue')"))
}

func TestAButtonTakesAPictureAndIsReleasedWithIt(t *testing.T) {
	o := openOffice(t)
	o.signIn()
	o.bench("/documents/1/fit?zoom=50")
	field := o.kitPlaces("picture", 330, 600)
	assert.Equal(t, form.TakePicture, field.Action.Do)
	assert.Equal(t, form.PictureOnly, field.Face.Layout)
	o.must(o.Key(browser.Escape))
	f := o.kitPlaces("button", 300, 740)
	o.must(o.Upload("#b-"+f.ID+"-picture", pennant(t)))
	o.eventually(func(d store.Draft) bool { g, _ := d.Template.Field(f.ID); return g.Face.Picture != "" }, "the button has its picture")
	o.must(o.Wait("document.querySelector('#f-" + f.ID + " image')"))
	o.set(f.ID, "layout", "left")
	o.set(f.ID, "pressedcaption", "Going")
	o.unfold("face")
	o.look("button-picture")

	o.must(o.Open(o.url + "/documents/1/release"))
	o.must(o.Click("#release"))
	o.must(o.Wait("document.getElementById('fresh')"))
	eds, err := o.store.Editions(t.Context(), 1)
	require.NoError(t, err)
	b, err := o.store.File(t.Context(), eds[0].File)
	require.NoError(t, err)
	ws, err := read.Widgets(b)
	require.NoError(t, err)
	for _, w := range ws {
		if w.Name == f.Name {
			assert.True(t, w.HasIcon)
			assert.Equal(t, form.CaptionLeft, w.Face.Layout)
			assert.Equal(t, "Going", w.Face.PressedCaption)
		}
	}
	file := filepath.Join(t.TempDir(), "edition.pdf")
	require.NoError(t, os.WriteFile(file, b, 0o600))
	assert.Contains(t, run(t, "pdfimages", "-list", file), " 60    40 ", "poppler finds the picture")
}

func TestWhatIsAtHandIsChosenAndKeptForOnePerson(t *testing.T) {
	o := openOffice(t)
	o.signIn()
	o.bench("/documents/1/fit?zoom=50")
	f := o.kitPlaces("text", 300, 700)
	o.must(o.Click("#handy-choose"))
	o.must(o.Wait("!document.getElementById('handy-all').hidden"))
	o.look("handy")
	o.must(o.Eval("document.querySelectorAll('#handy-all input').forEach((i) => { i.checked = ['required', 'undo'].includes(i.value) })", nil))
	o.must(o.Click("#handy-keep"))
	o.must(o.Wait("document.querySelector('#handy [data-deed=required]') && !document.querySelector('#handy [data-deed=duplicate]')"))
	o.must(o.Click("#handy [data-deed=required]"))
	o.eventually(func(d store.Draft) bool { g, _ := d.Template.Field(f.ID); return g.Required }, "done from the strip")
	o.must(o.Click("#handy [data-deed=undo]"))
	o.eventually(func(d store.Draft) bool { g, _ := d.Template.Field(f.ID); return !g.Required }, "taken back from the strip")
	o.bench("/documents/1/rules")
	o.must(o.Wait("document.querySelector('#handy [data-deed=required]')"))

	other := o.another()
	other.signInAs(1)
	other.bench("/documents/1/fit")
	other.must(other.Wait("document.querySelector('#handy [data-deed=duplicate]')"))
}
