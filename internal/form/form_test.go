package form_test

import (
	"fmt"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
)

func blank() *form.Template {
	return &form.Template{Pages: []form.Page{{Width: 595, Height: 842}, {Width: 842, Height: 595}}}
}

func do(t *testing.T, tpl *form.Template, e form.Edit, err error) form.Edit {
	t.Helper()
	require.NoError(t, err)
	require.NoError(t, tpl.Apply(e))
	return e
}

func place(t *testing.T, tpl *form.Template, f form.Field) form.Field {
	t.Helper()
	e, err := tpl.Place(f)
	return do(t, tpl, e, err).After[0]
}

func box(x, y float64) geom.Rect { return geom.R(x, y, x+100, y+16) }

func TestADuplicateGetsANameOfItsOwn(t *testing.T) {
	tpl := blank()
	a := place(t, tpl, form.Field{Page: 1, Kind: form.CheckBox, Name: "fin", Rect: box(50, 700)})
	e, err := tpl.Duplicate([]string{a.ID, a.ID}, 12, -12)
	do(t, tpl, e, err)
	names := map[string]bool{}
	for _, f := range tpl.Fields {
		assert.False(t, names[f.Name], "%s stands twice: two check boxes would toggle together", f.Name)
		names[f.Name] = true
	}
	assert.Len(t, names, 3)
	assert.Equal(t, "duplicated 2 fields", e.Title)
}

func TestRadioButtonsShareANameAndDifferInExportValue(t *testing.T) {
	tpl := blank()
	a := place(t, tpl, form.Field{Page: 1, Kind: form.Radio, Name: "keel", Export: "fin", Rect: box(50, 700)})
	e, err := tpl.Duplicate([]string{a.ID}, 40, 0)
	do(t, tpl, e, err)
	assert.Equal(t, "keel", e.After[0].Name)
	assert.NotEqual(t, "fin", e.After[0].Export)
}

func TestRenameRefusesATakenNameAndSaysAFreeOne(t *testing.T) {
	tpl := blank()
	place(t, tpl, form.Field{Page: 1, Kind: form.Text, Name: "beam", Rect: box(50, 700)})
	b := place(t, tpl, form.Field{Page: 1, Kind: form.Text, Name: "draught", Rect: box(50, 600)})
	_, err := tpl.Rename(b.ID, "beam")
	assert.ErrorContains(t, err, "beam_2")
	_, err = tpl.Rename(b.ID, "a.b") // ISO 32000-2, 12.7.4.2: no full stop in a partial name
	assert.ErrorContains(t, err, "full stop")
	_, err = tpl.Rename(b.ID, "  ")
	assert.ErrorContains(t, err, "needs a name")
}

func TestFieldsStayOnThePage(t *testing.T) {
	tpl := blank()
	a := place(t, tpl, form.Field{Page: 1, Kind: form.Text, Rect: box(560, 835)})
	assert.True(t, tpl.Pages[0].Rect().Covers(a.Rect, 0), "%v", a.Rect)
	e, err := tpl.Move([]string{a.ID}, -9999, 9999)
	do(t, tpl, e, err)
	f, _ := tpl.Field(a.ID)
	assert.Equal(t, geom.R(0, 826, 100, 842), f.Rect)
	_, err = tpl.Move([]string{a.ID}, -5, 5)
	assert.ErrorIs(t, err, form.ErrNothing, "a move against the edge changes nothing")
	e, err = tpl.Resize(a.ID, geom.R(10, 10, 10.5, 10.5))
	do(t, tpl, e, err)
	f, _ = tpl.Field(a.ID)
	assert.InDelta(t, form.MinSide, f.Rect.W(), 1e-9)
}

func TestAnEditOfARowThatHasChangedClashes(t *testing.T) {
	tpl := blank()
	a := place(t, tpl, form.Field{Page: 1, Kind: form.Text, Name: "beam", Rect: box(50, 700)})
	stale, err := tpl.Move([]string{a.ID}, 5, 0)
	require.NoError(t, err)
	e, err := tpl.Rename(a.ID, "beam_m")
	do(t, tpl, e, err)
	before := fmt.Sprint(tpl.Fields)
	assert.ErrorIs(t, tpl.Apply(stale), form.ErrClash)
	assert.Equal(t, before, fmt.Sprint(tpl.Fields), "a refused edit leaves the draft alone")
}

func finds() []form.Field {
	var out []form.Field
	for i, c := range []float64{0.95, 0.7, 0.6, 0.3, 0.45} {
		out = append(out, form.Field{
			Page: 1 + i%2, Kind: form.Text, Name: fmt.Sprintf("f%d", i), Rect: box(50, 500-float64(i)*30),
			Find: &form.Find{Confidence: c},
		})
	}
	return out
}

func TestKeepDropAndTheirInverses(t *testing.T) {
	tpl := blank()
	e, err := tpl.Add("found 5 fields", finds())
	do(t, tpl, e, err)
	assert.Len(t, tpl.Placed(), 3, "doubtful finds are no part of the form")

	drop, err := tpl.DropBelow(0, form.LikelyFrom)
	do(t, tpl, drop, err)
	assert.Len(t, tpl.Fields, 3)
	assert.Equal(t, "dropped 2 fields", drop.Title)
	require.NoError(t, tpl.Apply(drop.Inverse()))
	assert.Len(t, tpl.Fields, 5)
	require.NoError(t, tpl.Apply(drop))

	keep, err := tpl.KeepAll(1)
	do(t, tpl, keep, err)
	for _, f := range tpl.Fields {
		assert.Equal(t, f.Page != 1, f.OpenFind(), f.Name)
	}
	_, err = tpl.Drop([]string{tpl.OnPage(1)[0].ID})
	assert.ErrorIs(t, err, form.ErrNothing, "what is kept cannot be dropped as a find")
}

func TestWhatAPersonChangesIsKept(t *testing.T) {
	tpl := blank()
	e, err := tpl.Add("found", finds())
	do(t, tpl, e, err)
	id := tpl.Fields[0].ID
	set, err := tpl.Set("made required", []string{id}, func(f *form.Field) error { f.Required = true; return nil })
	do(t, tpl, set, err)
	f, _ := tpl.Field(id)
	assert.False(t, f.OpenFind())
	assert.True(t, f.Required)
}

func TestOrderByHand(t *testing.T) {
	tpl := blank()
	var ids []string
	for i := range 5 {
		ids = append(ids, place(t, tpl, form.Field{
			Page: 1, Kind: form.Text, Name: string(rune('a' + i)),
			Rect: box(50, 700-float64(i)*30),
		}).ID)
	}
	names := func() (s string) {
		for _, f := range tpl.OnPage(1) {
			s += f.Name
		}
		return s
	}
	require.Equal(t, "abcde", names())
	e, err := tpl.MoveInOrder(ids[4], 1)
	do(t, tpl, e, err)
	assert.Equal(t, "aebcd", names())
	assert.Len(t, e.After, 1, "one bead moved is one row changed")
	for range 80 { // halving the gap again and again must not lose the order
		on := tpl.OnPage(1)
		e, err := tpl.MoveInOrder(on[4].ID, 1)
		do(t, tpl, e, err)
	}
	assert.Equal(t, "aebcd", names(), "eighty rotations of four come back to the start")
	_, err = tpl.MoveInOrder(ids[0], 0)
	assert.ErrorIs(t, err, form.ErrNothing)
}

func TestANewFieldTakesItsPlaceInReadingOrder(t *testing.T) {
	tpl := blank()
	place(t, tpl, form.Field{Page: 1, Kind: form.Text, Name: "top", Rect: box(50, 700)})
	place(t, tpl, form.Field{Page: 1, Kind: form.Text, Name: "bottom", Rect: box(50, 100)})
	place(t, tpl, form.Field{Page: 1, Kind: form.Text, Name: "middle", Rect: box(50, 400)})
	on := tpl.OnPage(1)
	assert.Equal(t, []string{"top", "middle", "bottom"}, []string{on[0].Name, on[1].Name, on[2].Name})
}

func TestCheckRefusesWhatNoReaderCouldUse(t *testing.T) {
	ok := form.Field{ID: "x", Page: 1, Kind: form.Text, Name: "n", Rect: box(10, 10)}
	page := form.Page{Width: 595, Height: 842}
	require.NoError(t, ok.Check(page))
	for want, spoil := range map[string]func(*form.Field){
		"kind of field":        func(f *form.Field) { f.Kind = "slider" },
		"smaller than":         func(f *form.Field) { f.Rect.X1 = f.Rect.X0 + 1 },
		"off the page":         func(f *form.Field) { f.Rect = f.Rect.Shift(2000, 0) },
		"date pattern":         func(f *form.Field) { f.Format = form.Format{Kind: form.Date, Pattern: "dd.dd.yyyy"} },
		"0 to 6":               func(f *form.Field) { f.Format = form.Format{Kind: form.Number, Decimals: 9} },
		"cannot have a format": func(f *form.Field) { f.Kind = form.CheckBox; f.Format.Kind = form.Number },
		"only a button":        func(f *form.Field) { f.Action.Do = form.ClearForm },
		"needs an address":     func(f *form.Field) { f.Kind = form.Button; f.Action = form.Action{Do: form.SubmitForm, URL: "ftp://x"} },
		"button can do":        func(f *form.Field) { f.Kind = form.Button; f.Action.Do = "explode" },
		"cells and several":    func(f *form.Field) { f.Comb, f.Multiline = 3, true },
		"0 (no limit)":         func(f *form.Field) { f.MaxLen = -1 },
		"at most 127 bytes":    func(f *form.Field) { f.Name = string(make([]byte, 200)) + "x" },
		"is not a format":      func(f *form.Field) { f.Format.Kind = "sonnet" },
		"a field needs an id":  func(f *form.Field) { f.ID = "" },
	} {
		f := ok
		spoil(&f)
		assert.ErrorContains(t, f.Check(page), want)
	}
}

// Whatever is done, undoing it gives the template as it was: random edits, each
// applied, undone, redone.
func TestEveryEditCanBeUndone(t *testing.T) {
	rng := rand.New(rand.NewPCG(7, 11))
	tpl := blank()
	e, err := tpl.Add("found", finds())
	do(t, tpl, e, err)
	kinds := []form.Kind{form.Text, form.CheckBox, form.Signature, form.Button}
	done := 0
	for range 600 {
		var e form.Edit
		var err error
		pick := func() string {
			if len(tpl.Fields) == 0 {
				return "none"
			}
			return tpl.Fields[rng.IntN(len(tpl.Fields))].ID
		}
		switch rng.IntN(10) {
		case 0, 1:
			e, err = tpl.Place(form.Field{
				Page: 1 + rng.IntN(2), Kind: kinds[rng.IntN(4)],
				Rect: box(rng.Float64()*600, rng.Float64()*800),
			})
		case 2:
			e, err = tpl.Move([]string{pick(), pick()}, rng.Float64()*50-25, rng.Float64()*50-25)
		case 3:
			e, err = tpl.Resize(pick(), geom.R(rng.Float64()*500, rng.Float64()*500, rng.Float64()*500, rng.Float64()*500))
		case 4:
			e, err = tpl.Duplicate([]string{pick()}, 12, -12)
		case 5:
			e, err = tpl.Remove([]string{pick()})
		case 6:
			e, err = tpl.Rename(pick(), fmt.Sprintf("name_%d", rng.IntN(20)))
		case 7:
			e, err = tpl.MoveInOrder(pick(), rng.IntN(6))
		case 8:
			e, err = tpl.Keep([]string{pick()})
		case 9:
			e, err = tpl.DropBelow(0, rng.Float64())
		}
		if err != nil {
			continue // a refusal is fine, and must have changed nothing
		}
		before := append([]form.Field(nil), tpl.Fields...)
		if tpl.Apply(e) != nil {
			assert.Equal(t, before, tpl.Fields)
			continue
		}
		after := append([]form.Field(nil), tpl.Fields...)
		require.NoError(t, tpl.Apply(e.Inverse()), e.Title)
		require.Equal(t, before, tpl.Fields, e.Title)
		require.NoError(t, tpl.Apply(e), e.Title)
		require.Equal(t, after, tpl.Fields, e.Title)
		done++
	}
	assert.Greater(t, done, 300)
}
