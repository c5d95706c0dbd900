package e2e_test

import (
	"bytes"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"codeberg.org/go-pdf/fpdf"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/e2e/browser"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/store"
)

// look takes a picture of the screen when a folder for pictures is named in the environment.
func (o *office) look(name string) {
	if dir := os.Getenv("ZM_PICTURES"); dir != "" {
		o.must(o.Shot(filepath.Join(dir, name+".png")))
	}
}

// pressPage presses a place of the page, in points from its upper left.
func (o *office) pressPage(x, y float64) {
	o.t.Helper()
	px, py := o.onPage(x, y)
	o.must(o.ClickAt(px, py))
}

func (o *office) field(name string) form.Field {
	o.t.Helper()
	d := o.draft()
	f, ok := d.Template.Field(o.fieldID(name))
	require.True(o.t, ok)
	return f
}

// set types or chooses a value in the open note, unless it is set so already.
func (o *office) set(id, key, value string) {
	o.t.Helper()
	rev := o.draft().Document.Revision
	var same bool
	o.must(o.Eval("document.getElementById('b-"+id+"-"+key+"').value === '"+value+"'", &same))
	if same {
		return
	}
	o.must(o.Eval("(() => { const e = document.getElementById('b-"+id+"-"+key+
		"'); for (const d of document.querySelectorAll('details')) if (d.contains(e)) d.open = true; e.value = '"+value+
		"'; e.dispatchEvent(new Event('change', {bubbles: true})) })()", nil))
	o.eventually(func(d store.Draft) bool { return d.Document.Revision > rev }, key+" is set")
}

func TestRadioButtonsPlacedOneAfterTheOtherAreOneGroup(t *testing.T) {
	o := openOffice(t)
	o.signIn()
	o.bench("/documents/1/fit?zoom=50")
	place := func(kind string, x, y float64) {
		n := len(o.draft().Template.Fields)
		o.must(o.Click("#kit [data-kind=" + kind + "]"))
		o.pressPage(x, y)
		o.eventually(func(d store.Draft) bool { return len(d.Template.Fields) == n+1 }, kind)
	}
	place("radio", 300, 700)
	place("radio", 330, 700)
	place("checkbox", 360, 700)
	place("radio", 390, 700)
	place("checkbox", 420, 700)
	groups := map[string]int{}
	exports := map[string]bool{}
	for _, f := range o.draft().Template.Fields {
		groups[string(f.Kind)+" "+f.Name]++
		if f.Kind == form.Radio {
			assert.False(t, exports[f.Name+f.Export], "each sends a value of its own")
			exports[f.Name+f.Export] = true
		}
	}
	assert.Equal(t, map[string]int{"radio choice": 2, "radio choice_2": 1, "checkbox check": 1, "checkbox check_2": 1}, groups)
}

// Over the boxes of a printed question the group has its name, and each button its answer.
func TestRadioButtonsOverAQuestionTakeItsName(t *testing.T) {
	o := openOffice(t)
	o.signIn()
	o.bench("/documents/1/fit?zoom=50")
	o.must(o.Click("#kit [data-kind=radio]"))
	o.must(o.Click("#kit [data-kind=radio]"))    // it stays armed
	for i, x := range []float64{166, 222, 276} { // fin, bilge, lifting
		o.pressPage(x, 394)
		o.eventually(func(d store.Draft) bool { return len(d.Template.Fields) == i+1 }, "placed")
	}
	sends := []string{}
	for _, f := range o.draft().Template.Fields {
		assert.Equal(t, "keel", f.Name)
		sends = append(sends, f.Export)
	}
	assert.Equal(t, []string{"fin", "bilge", "lifting"}, sends)
}

func TestADropdownTakesFourActions(t *testing.T) {
	o := openOffice(t)
	o.signIn()
	o.bench("/documents/1/fit?zoom=50")
	o.must(o.Click("#kit [data-kind=choice]")) // 1
	o.pressPage(300, 700)                      // 2
	o.eventually(func(d store.Draft) bool { return len(d.Template.Fields) == 1 }, "placed")
	id := o.draft().Template.Fields[0].ID
	o.must(o.Wait("document.getElementById('b-" + id + "-options')"))
	o.look("dropdown")
	o.set(id, "options", "fin\\nbilge\\nlong") // 3: one entry of text
	o.set(id, "blankfirst", "yes")             // 4
	f := o.draft().Template.Fields[0]
	assert.Len(t, f.Options, 3)
	assert.True(t, f.BlankFirst)
	o.look("dropdown-set")
}

func TestSeveralFieldsAreSetLinedUpAndCopiedTogether(t *testing.T) {
	o := openOffice(t)
	o.signIn()
	o.bench("/documents/1/fit?zoom=50")
	for i := range 3 {
		n := i + 1
		o.must(o.Click("#kit [data-kind=text]"))
		o.pressPage(200+7*float64(i), 640+30*float64(i)+3*float64(i*i))
		o.eventually(func(d store.Draft) bool { return len(d.Template.Fields) == n }, "placed")
	}
	o.must(o.Key(browser.Escape))
	o.chooseAll("#n-many h3")
	o.look("many")
	o.must(o.Click("[data-lineup=left]"))
	o.eventually(func(d store.Draft) bool { return d.Undo == "lined up 3 fields" }, "lined up")
	for _, f := range o.draft().Template.Fields {
		assert.InDelta(t, o.draft().Template.Fields[0].Rect.X0, f.Rect.X0, 0.01)
	}
	o.must(o.Wait("document.querySelector('#n-many')"))
	o.must(o.Click("[data-lineup=spread-down]"))
	o.eventually(func(d store.Draft) bool {
		f := d.Template.Fields
		return len(f) == 3 && f[0].Rect.Y0-f[1].Rect.Y1 > 1 && abs((f[0].Rect.Y0-f[1].Rect.Y1)-(f[1].Rect.Y0-f[2].Rect.Y1)) < 0.05
	}, "spread evenly")
	o.must(o.Wait("document.querySelector('#n-many')"))
	o.set("many", "required", "yes")
	o.must(o.Wait("document.querySelector('#n-many')"))
	o.set("many", "fill", "#ffeedd")
	for _, f := range o.draft().Template.Fields {
		assert.True(t, f.Required)
		assert.Equal(t, "#ffeedd", f.Look.Fill)
	}
	// one differs: mixed
	o.must(o.Click("#n-" + o.draft().Template.Fields[0].ID + " .line"))
	o.must(o.Wait("document.getElementById('b-" + o.draft().Template.Fields[0].ID + "-required')"))
	o.set(o.draft().Template.Fields[0].ID, "required", "no")
	o.chooseAll("#b-many-required")
	var shown string
	o.must(o.Eval("document.getElementById('b-many-required').selectedOptions[0].textContent", &shown))
	assert.Equal(t, "mixed", shown)
	o.look("mixed")

	// copies: with a step, then pasted
	o.must(o.Key(browser.Escape))
	first := o.draft().Template.Fields[0]
	o.must(o.Click("#n-" + first.ID + " .line"))
	o.must(o.Wait("document.querySelector('#n-" + first.ID + " #copies-n')"))
	o.must(o.Eval("(() => { document.querySelector('#copies-n').value = 2; document.querySelector('#copies-dy').value = 40; "+
		"document.querySelector('[data-copies=step]').click() })()", nil))
	o.eventually(func(d store.Draft) bool { return d.Undo == "made 2 copies" }, "copied with a step")
	o.must(o.Wait("document.querySelector('#n-many')"))
	o.must(o.Key("c", browser.Ctrl))
	o.must(o.Wait("document.getElementById('say').textContent.startsWith('Copied 2')"))
	o.must(o.Key("v", browser.Ctrl))
	o.eventually(func(d store.Draft) bool { return d.Undo == "pasted 2 fields" && len(d.Template.Fields) == 7 }, "pasted")
	// and all of it is taken back, over a reload
	for range 3 {
		rev := o.draft().Document.Revision
		o.must(o.Click("#undo"))
		o.eventually(func(d store.Draft) bool { return d.Document.Revision > rev }, "taken back")
		o.bench("/documents/1/fit?zoom=50")
	}
	assert.Len(t, o.draft().Template.Fields, 3)
}

func abs(v float64) float64 { return max(v, -v) }

func TestAPlaceIsSetInNumbersWithUnits(t *testing.T) {
	o := openOffice(t)
	o.signIn()
	o.bench("/documents/1/fit?zoom=50")
	o.must(o.Click("#kit [data-kind=text]"))
	o.pressPage(300, 700)
	o.eventually(func(d store.Draft) bool { return len(d.Template.Fields) == 1 }, "placed")
	id := o.draft().Template.Fields[0].ID
	o.must(o.Wait("document.getElementById('b-" + id + "-left')"))
	o.set(id, "left", "20 mm")
	o.set(id, "width", "1.5 in")
	o.set(id, "height", "14")
	r := o.draft().Template.Fields[0].Rect
	assert.InDelta(t, 20*72/25.4, r.X0, 0.02)
	assert.InDelta(t, 108, r.W(), 0.02)
	assert.InDelta(t, 14, r.H(), 0.02)

	o.must(o.Eval("(() => { const e = document.getElementById('b-"+id+
		"-unit'); e.value = 'mm'; e.dispatchEvent(new Event('change', {bubbles: true})) })()", nil))
	o.must(o.Wait("document.getElementById('b-" + id + "-width').value === '38.1'")) // 1.5 in
	o.must(o.Eval("document.getElementById('b-"+id+"-height').focus()", nil))
	o.set(id, "height", "7")
	assert.InDelta(t, 7*72/25.4, o.draft().Template.Fields[0].Rect.H(), 0.02, "typed in the unit that is shown")
	var focused string
	o.must(o.Eval("document.activeElement.id", &focused))
	assert.Equal(t, "b-"+id+"-height", focused, "the focus stays where it was")

	o.set(id, "comb", "8")
	f := o.draft().Template.Fields[0]
	assert.Equal(t, []int{8, 8}, []int{f.Comb, f.MaxLen})
	o.look("units")
}

func TestTabOrderIsPutRightByOnePressOrByPressingFields(t *testing.T) {
	o := openOffice(t)
	o.comeIn()
	o.twoColumns()
	o.bench("/documents/1/order")
	order := func() string {
		s := ""
		d := o.draft()
		for _, f := range d.Template.OnPage(1) {
			s += strings.TrimPrefix(f.Name, "f_")
		}
		return s
	}
	require.Equal(t, "abcdefgh", order())
	o.look("order")
	o.must(o.Click("#structure")) // one action
	o.eventually(func(d store.Draft) bool { return order() == "acegbdfh" }, "column by column")
	o.must(o.Click("#sequence"))
	for _, name := range []string{"f_h", "f_a"} {
		r := o.field(name).Rect
		o.pressPage(r.Mid().X, 841.89-r.Mid().Y)
	}
	o.look("sequence")
	o.must(o.Key(browser.Enter))
	o.eventually(func(d store.Draft) bool { return order() == "hacegbdf" }, "those pressed come first")
}

func TestOneAnswerAtTwoPlacesTakesTwoActions(t *testing.T) {
	o := openOffice(t)
	o.signIn()
	o.bench("/documents/1/fit?zoom=50")
	o.must(o.Click("#kit [data-kind=text]"))
	o.pressPage(300, 700)
	o.eventually(func(d store.Draft) bool { return len(d.Template.Fields) == 1 }, "placed")
	id := o.draft().Template.Fields[0].ID
	o.must(o.Wait("document.querySelector('#n-" + id + " [data-again]')"))
	o.must(o.Click("#n-" + id + " [data-again]")) // 1
	o.pressPage(300, 740)                         // 2
	o.eventually(func(d store.Draft) bool { return len(d.Template.Fields) == 2 && len(d.Template.Places(id)) == 2 }, "at two places")
	o.must(o.Wait("document.querySelector('.note.open [data-do=unlink]')"))
	o.look("linked")
	o.must(o.Click(".note.open [data-do=unlink]")) // one press
	o.eventually(func(d store.Draft) bool { return len(d.Template.Places(id)) == 1 }, "unlinked")

	// a name that is taken asks
	d := o.draft()
	second := d.Template.Fields[1]
	first := d.Template.Fields[0]
	o.must(o.Wait("document.getElementById('b-" + second.ID + "-name') || document.getElementById('b-" + first.ID + "-name')"))
	var open string
	o.must(o.Eval("document.querySelector('.note.open').dataset.id", &open))
	other := first.Name
	if open == first.ID {
		other = second.Name
	}
	o.must(o.Eval("(() => { const e = document.getElementById('b-"+open+"-name'); e.value = '"+other+
		"'; e.dispatchEvent(new Event('change', {bubbles: true})) })()", nil))
	o.must(o.Wait("document.querySelector('#say button')"))
	o.look("taken")
	o.must(o.Click("#say button"))
	o.eventually(func(d store.Draft) bool { return len(d.Template.Places(open)) == 2 }, "linked on purpose")
}

func TestATableIsFilledByOneDrag(t *testing.T) {
	o := openOffice(t)
	o.signIn()
	o.bench("/documents/1/fit?page=2&zoom=50")
	// the crew table of the demo form: a frame across its empty cells
	o.must(o.Click("#kit [data-kind=text]")) // 1
	x0, y0 := o.onPage(60, 290)
	x1, y1 := o.onPage(535, 350)
	o.must(o.Drag(x0, y0, x1, y1)) // 2
	o.eventually(func(d store.Draft) bool { return strings.HasPrefix(d.Undo, "placed") && len(d.Template.Fields) > 5 }, "filled")
	names := map[string]bool{}
	for _, f := range o.draft().Template.Fields {
		names[f.Name] = true
		assert.Equal(t, form.Text, f.Kind)
	}
	for _, want := range []string{"crew_board_1_full_name", "crew_board_1_nationality", "crew_board_2_born"} {
		assert.True(t, names[want], "%s among %v", want, names)
	}
	o.look("table")
}

func TestAGhostShowsWhatAPressWouldPlaceAndEdgesSnap(t *testing.T) {
	o := openOffice(t)
	o.signIn()
	o.bench("/documents/1/fit")
	o.must(o.Key("1"))
	o.must(o.Eval("new Promise(r => setTimeout(r, 600))", nil))
	x, y := o.onPage(250, 138)
	o.must(o.Hover(x, y))
	o.must(o.Wait("!document.getElementById('ghost').hasAttribute('hidden') && " +
		"+document.getElementById('ghost').getAttribute('width') > 200"))
	o.look("ghost")
	o.must(o.ClickAt(x, y))
	o.eventually(func(d store.Draft) bool { return len(d.Template.Fields) == 1 }, "placed")
	f := o.draft().Template.Fields[0]
	assert.Equal(t, "name_applicant", f.Name)
	assert.NotEmpty(t, f.Tooltip, "a field, its name and its tooltip in two actions")

	// moved a little off its rule, it snaps back onto it; with Alt it does not
	cx, cy := o.onPage(f.Rect.Mid().X, 841.89-f.Rect.Mid().Y)
	o.must(o.Drag(cx, cy, cx+120, cy+3))
	o.eventually(func(d store.Draft) bool { return strings.HasPrefix(d.Undo, "moved") }, "moved")
	moved := o.draft().Template.Fields[0]
	assert.InDelta(t, f.Rect.Y0, moved.Rect.Y0, 0.3, "on its rule")
}

func TestStepsAreGoneBackToFromTheirList(t *testing.T) {
	o := openOffice(t)
	o.signIn()
	o.bench("/documents/1/fit?zoom=50")
	for i := range 3 {
		o.must(o.Click("#kit [data-kind=text]"))
		o.pressPage(300, 690+25*float64(i))
		n := i + 1
		o.eventually(func(d store.Draft) bool { return len(d.Template.Fields) == n }, "placed")
	}
	o.bench("/documents/1/fit?zoom=50") // over a reload
	o.must(o.Click("#steps"))
	o.must(o.Wait("document.querySelectorAll('#history li').length >= 3"))
	o.look("steps")
	o.must(o.Click("#history li:nth-child(3) button"))
	o.eventually(func(d store.Draft) bool { return len(d.Template.Fields) == 1 }, "back to the first")
	o.must(o.Click("#steps"))
	o.must(o.Wait("document.querySelector('#history li.now') && document.querySelector('#history').textContent.includes('taken back')"))
	o.must(o.Click("#history li:nth-child(1) button"))
	o.eventually(func(d store.Draft) bool { return len(d.Template.Fields) == 3 }, "and forward again")
}

func TestTwoPeopleSeeEachOthersEdits(t *testing.T) {
	o := openOffice(t)
	o.signIn()
	o.bench("/documents/1/fit?zoom=50")
	other := o.another()
	other.signInAs(1)
	other.bench("/documents/1/fit?zoom=50")
	other.must(other.Click("#kit [data-kind=text]"))
	other.pressPage(300, 700)
	other.eventually(func(d store.Draft) bool { return len(d.Template.Fields) == 1 }, "placed by one")
	id := o.draft().Template.Fields[0].ID
	start := time.Now()
	o.must(o.Wait("document.getElementById('f-" + id + "')"))
	assert.Less(t, time.Since(start), 3*time.Second, "seen by the other")
	o.must(o.Wait("document.getElementById('say').textContent.includes('placed')"))
	o.look("two")

	// both change the same field at once: the second is told, and what each wrote is there
	o.must(o.Click("#n-" + id + " .line"))
	o.must(o.Wait("document.getElementById('b-" + id + "-tooltip')"))
	other.must(other.Wait("document.getElementById('b-" + id + "-tooltip')"))
	o.must(o.Eval("document.getElementById('b-"+id+"-tooltip').focus()", nil)) // about to type: nothing moves below the hand
	other.must(other.Fill("#b-"+id+"-tooltip", "Theirs"))
	o.eventuallyStored(func(d store.Draft) bool { return d.Template.Fields[0].Tooltip == "Theirs" }, "theirs is kept")
	o.must(o.Fill("#b-"+id+"-tooltip", "Mine"))
	o.must(o.Wait("document.getElementById('say').textContent.includes('There it says “Theirs”; you wrote “Mine”')"))
	assert.Equal(t, "Theirs", o.draft().Template.Fields[0].Tooltip, "not overwritten")
	o.must(o.Wait("document.getElementById('b-" + id + "-tooltip').value === 'Theirs'"))
	o.look("clash")
	o.must(o.Click("#say button"))
	o.eventually(func(d store.Draft) bool { return d.Template.Fields[0].Tooltip == "Mine" }, "put in its place on purpose")
}

func TestTheListOfFieldsIsSearchedSortedAndRenamedIn(t *testing.T) {
	o := openOffice(t)
	o.signIn()
	o.bench("/documents/1/find")
	o.must(o.Click("#find-all"))
	o.eventually(func(d store.Draft) bool { return len(d.Template.Fields) > 30 }, "found")
	o.must(o.Eval("document.getElementById('paper').focus()", nil))
	o.must(o.Key("/"))
	o.must(o.Wait("document.querySelectorAll('#field-table tbody tr').length > 30 && document.documentElement.dataset.ready"))
	o.look("list")
	visible := "[...document.querySelectorAll('#field-table tbody tr')].filter(r => !r.hidden).length"
	o.must(o.Type("crew", 20*time.Millisecond))
	var n int
	o.must(o.Eval(visible, &n))
	assert.Greater(t, n, 5)
	assert.Less(t, n, 20)
	o.must(o.Eval("(() => { const e = document.getElementById('field-search'); e.value = ''; e.dispatchEvent(new Event('input', "+
		"{bubbles: true})) })()", nil))
	o.must(o.Click("#field-problems"))
	o.must(o.Eval(visible, &n))
	assert.Equal(t, o.draft().Document.Doubtful, n, "the doubtful ones are the problems")
	o.must(o.Click("#field-problems"))
	o.must(o.Click("[data-sort=name]"))
	var first string
	o.must(o.Eval("document.querySelector('#field-table tbody tr').dataset.name", &first))
	assert.Equal(t, "agree", first)
	o.must(o.Fill("#field-table tbody tr input[data-key=name]", "agreed"))
	o.eventually(func(d store.Draft) bool {
		for _, f := range d.Template.Fields {
			if f.Name == "agreed" {
				return true
			}
		}
		return false
	}, "renamed in place")
	o.must(o.Click("#field-table tbody tr a"))
	o.ready()
	o.must(o.Wait("document.querySelector('.note.open input') && document.querySelector('#overlay .f.sel')"))
}

func TestTheEyeChoosesWhatItSees(t *testing.T) {
	o := openOffice(t)
	o.signIn()
	o.bench("/documents/1/find")
	o.must(o.Click("#find-page"))
	o.eventually(func(d store.Draft) bool { return len(d.Template.Fields) > 15 }, "found")
	o.must(o.Click("#zoom-page"))
	o.must(o.Wait("document.getElementById('picture').getBoundingClientRect().bottom <= innerHeight && " +
		"document.getElementById('picture').height > 500"))
	o.must(o.Click("#view-names"))
	o.must(o.Wait("getComputedStyle(document.querySelector('.f .nm')).display === 'block'"))
	o.look("names")
	o.must(o.Click("#view-tint"))
	o.must(o.Wait("document.body.classList.contains('bare')"))
	o.bench("/documents/1/find")
	o.must(o.Wait("document.body.classList.contains('bare') && document.body.classList.contains('named')"))
}

// twoColumns places two columns of fields whose rows do not match, in the wrong order.
func (o *office) twoColumns() {
	o.t.Helper()
	var fields []form.Field
	for i, at := range [][2]float64{{60, 700}, {330, 693}, {60, 660}, {330, 651}, {60, 620}, {330, 609}, {60, 580}, {330, 567}} {
		fields = append(fields, form.Field{
			Kind: form.Text, Name: "f_" + string("abcdefgh"[i]), Tooltip: "F", Page: 1,
			Rect: geom.R(at[0], at[1], at[0]+180, at[1]+16),
		})
	}
	_, err := o.store.Change(o.t.Context(), o.documentID(), -1, 1, "fit",
		func(t *form.Template) (form.Edit, error) { return t.Add("placed", fields) })
	require.NoError(o.t, err)
}

// bringIn puts a file into the office and gives the number of its document.
func (o *office) bringIn(name string, b []byte) int64 {
	o.t.Helper()
	file := filepath.Join(o.t.TempDir(), name)
	require.NoError(o.t, os.WriteFile(file, b, 0o600))
	o.must(o.Open(o.url + "/"))
	o.must(o.Wait("document.querySelector('#documents') && document.documentElement.dataset.ready"))
	o.must(o.Upload("#drop input[type=file]", file))
	o.must(o.Wait("document.querySelector('#intakes a')"))
	return o.documentID()
}

// tableSheet is a page with a table of empty cells under six heads.
func tableSheet(t *testing.T, columns, rows int) []byte {
	t.Helper()
	f := fpdf.NewCustom(&fpdf.InitType{OrientationStr: "P", UnitStr: "pt", Size: fpdf.SizeType{Wd: 595.28, Ht: 841.89}})
	f.AddPage()
	f.SetFont("Helvetica", "", 9)
	heads := []string{"Berth", "Boat", "Owner", "Length", "Beam", "Draught"}
	w := 495.0 / float64(columns)
	for c := range columns {
		f.Text(54+w*float64(c), 113, heads[c%len(heads)])
		for r := range rows + 1 {
			f.Rect(50+w*float64(c), 100+20*float64(r), w, 20, "D")
		}
	}
	var b bytes.Buffer
	require.NoError(t, f.Output(&b))
	return b.Bytes()
}
