package pdf_test

import (
	"image/color"
	"image/png"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/pdf/fill"
	"zealousmargin.example/internal/pdf/object"
	"zealousmargin.example/internal/pdf/proof"
	"zealousmargin.example/internal/pdf/read"
	"zealousmargin.example/internal/pdf/write"
)

// everyProperty is a field of every kind with everything set that it can have.
func everyProperty() *form.Template {
	t := &form.Template{Pages: []form.Page{{ID: "p", N: 1, Width: 400, Height: 600}}}
	add := func(f form.Field) {
		f.ID, f.Page, f.Order = form.NewID(), 1, float64(len(t.Fields)+1)
		t.Fields = append(t.Fields, f)
	}
	blue := form.Look{
		Font: "Times-Bold", Size: 11, Colour: "#1020a0", Align: form.AlignRight, Border: "#c03020", BorderWidth: 2,
		Fill: "#e0f0d0",
	}
	add(form.Field{
		Kind: form.Text, Name: "styled", Tooltip: "Styled", Rect: geom.R(20, 540, 180, 560), Default: "Gannet", Look: blue,
		NoScroll: true, NoSpell: true, NoExport: true, Locked: true,
	})
	add(form.Field{Kind: form.Text, Name: "secret", Tooltip: "Secret", Rect: geom.R(20, 510, 180, 530), Password: true})
	add(form.Field{Kind: form.Text, Name: "papers", Tooltip: "Papers", Rect: geom.R(20, 480, 180, 500), FilePath: true})
	add(form.Field{Kind: form.Text, Name: "hinted", Tooltip: "Hinted", Rect: geom.R(20, 450, 180, 470), Hint: "as in the register"})
	list := []form.Option{{Label: "fin", Export: "f"}, {Label: "bilge", Export: "b"}, {Label: "long", Export: "l"}}
	for i, style := range []form.ListStyle{form.Dropdown, form.ComboBox, form.ListBox, form.ManyList} {
		add(form.Field{
			Kind: form.Choice, Name: "keel_" + string("abcd"[i]), Tooltip: "Keel",
			Rect: geom.R(200, 540-float64(i)*50, 380, 580-float64(i)*50), List: style, Options: list, BlankFirst: i == 0, Sort: i == 1,
			Default: "b",
		})
	}
	for i, m := range form.Marks {
		add(form.Field{
			Kind: form.CheckBox, Name: "mark_" + string("abcdefg"[i]), Tooltip: "Mark",
			Rect: geom.R(20+float64(i)*20, 420, 34+float64(i)*20, 434), Mark: m, Export: "on", Default: "on",
			Look: form.Look{Colour: "#a00000", Border: "#000000"},
		})
	}
	for i := range 2 {
		add(form.Field{
			Kind: form.Radio, Name: "side", Tooltip: "Side", Rect: geom.R(20+float64(i)*20, 390, 34+float64(i)*20, 404),
			Export: "port", Unison: true,
		})
	}
	add(form.Field{Kind: form.Text, Name: "screen", Tooltip: "Screen", Rect: geom.R(20, 350, 180, 370), Show: form.ShowScreen})
	add(form.Field{Kind: form.Text, Name: "paper", Tooltip: "Paper", Rect: geom.R(20, 320, 180, 340), Show: form.ShowPrint})
	add(form.Field{Kind: form.Text, Name: "nowhere", Tooltip: "Nowhere", Rect: geom.R(20, 290, 180, 310), Show: form.ShowNone})
	for i, s := range []form.BorderStyle{form.SolidBorder, form.DashedBorder, form.BevelBorder, form.InsetBorder, form.UnderlineOnly} {
		add(form.Field{
			Kind: form.Text, Name: "border_" + string("abcde"[i]), Tooltip: "Border",
			Rect: geom.R(20+float64(i)*70, 250, 80+float64(i)*70, 270),
			Look: form.Look{Border: "#204060", BorderWidth: 3, BorderStyle: s},
		})
	}
	add(form.Field{
		Kind: form.Text, Name: "turned", Tooltip: "Turned", Rect: geom.R(350, 100, 370, 240), Default: "upwards",
		Look: form.Look{Turn: 90},
	})
	add(form.Field{
		Kind: form.Button, Name: "go", Tooltip: "Go", Caption: "Go", Rect: geom.R(20, 200, 110, 222),
		Action: form.Action{Do: form.PrintForm}, Look: form.Look{Fill: "#204060", Colour: "#ffffff"},
	})
	return t
}

func TestEverythingThatCanBeSetIsWrittenAndReadBack(t *testing.T) {
	want := everyProperty()
	out, err := write.Build(plain(""), want)
	require.NoError(t, err)
	sound(t, out)
	require.NoError(t, proof.Prove(t.Context(), plain(""), out, want), "PDFium reads what the draft says")
	a, err := read.Arrive(out)
	require.NoError(t, err)
	require.Len(t, a.Fields, len(want.Fields))
	for i, got := range a.Fields {
		x := want.Fields[i]
		if x.Kind == form.Button { // its light face is drawn when it has no look of its own
			continue
		}
		assert.Equal(t, x.Look, got.Look, x.Name)
		assert.Equal(t, x.Shows(), got.Shows(), x.Name)
		assert.Equal(t, x.Hint, got.Hint, x.Name)
		for what, same := range map[string]bool{
			"locked": x.Locked == got.Locked, "not sent": x.NoExport == got.NoExport, "scrolling": x.NoScroll == got.NoScroll,
			"spelling": x.NoSpell == got.NoSpell,
			"password": x.Password == got.Password, "file": x.FilePath == got.FilePath, "list": x.List == got.List,
			"sorted": x.Sort == got.Sort, "unison": x.Unison == got.Unison,
		} {
			assert.True(t, same, "%s: %s", x.Name, what)
		}
	}
}

// shownByPoppler gives the colour that poppler shows at a point of page 1.
func shownByPoppler(t *testing.T, b []byte) func(x, y float64) color.RGBA {
	img, err := png.Decode(strings.NewReader(tool(t, b, "pdftoppm", "-r", "144", "-png", "IN")))
	require.NoError(t, err)
	return func(x, y float64) color.RGBA {
		r, g, b, a := img.At(int(x*2), int((600-y)*2)).RGBA()
		return color.RGBA{uint8(r >> 8), uint8(g >> 8), uint8(b >> 8), uint8(a >> 8)}
	}
}

func TestLooksAreSeen(t *testing.T) {
	want := everyProperty()
	out, err := write.Build(plain(""), want)
	require.NoError(t, err)
	at := shownByPoppler(t, out)
	assert.Equal(t, color.RGBA{0xe0, 0xf0, 0xd0, 255}, at(30, 550), "the fill")
	assert.Equal(t, color.RGBA{0xc0, 0x30, 0x20, 255}, at(60, 541), "the border")
	assert.Equal(t, color.RGBA{0x20, 0x40, 0x60, 255}, at(25, 211), "the face of the button")
	assert.Equal(t, color.RGBA{255, 255, 255, 255}, at(100, 300), "what is hidden does not show")
	text := tool(t, out, "pdftotext", "IN", "-")
	assert.NotContains(t, text, "ebb", "a password is not shown")
}

func TestALookIsMendedInAFieldThatCameWithTheFile(t *testing.T) {
	src, err := write.Build(plain(""), everyProperty())
	require.NoError(t, err)
	tpl := draftOf(t, src)
	for i := range tpl.Fields {
		f := &tpl.Fields[i]
		switch f.Name {
		case "styled":
			f.Look.Fill, f.Look.Align, f.NoScroll, f.Locked = "#ffee00", form.AlignCentre, false, false
		case "paper":
			f.Show = form.ShowBoth
		case "keel_c":
			f.List = form.ManyList
		}
	}
	out := releaseOf(t, src, tpl)
	sound(t, out)
	ws, err := read.Widgets(out)
	require.NoError(t, err)
	for _, w := range ws {
		switch w.Name {
		case "styled":
			assert.Zero(t, w.Flags&object.FlagDoNotScroll)
			assert.NotZero(t, w.Flags&object.FlagNoExport, "what was not changed stays")
			assert.Zero(t, w.Annot&object.AnnotLocked)
		case "paper":
			assert.Equal(t, object.AnnotPrint, w.Annot)
		case "keel_c":
			assert.NotZero(t, w.Flags&object.FlagMultiSelect)
		}
	}
	assert.Equal(t, color.RGBA{0xff, 0xee, 0, 255}, shownByPoppler(t, out)(30, 550))
}

func TestAnAnswerTypedOnceShowsAtBothPlaces(t *testing.T) {
	tpl := &form.Template{Pages: []form.Page{{ID: "p", N: 1, Width: 400, Height: 600}}, Fields: []form.Field{
		{ID: "a", Page: 1, Order: 1, Kind: form.Text, Name: "vessel", Tooltip: "Vessel", MaxLen: 20, Rect: geom.R(20, 540, 180, 560)},
		{ID: "c", Page: 1, Order: 3, Kind: form.CheckBox, Name: "agree", Tooltip: "Agree", Export: "on", Rect: geom.R(20, 400, 30, 410)},
	}}
	for _, id := range []string{"a", "c"} {
		f, _ := tpl.Field(id)
		e, err := tpl.PlaceAgain(id, 1, f.Rect.Shift(0, -200))
		require.NoError(t, err)
		require.NoError(t, tpl.Apply(e))
	}
	src := plain("")
	out, err := write.Build(src, tpl)
	require.NoError(t, err)
	sound(t, out)
	require.NoError(t, proof.Prove(t.Context(), src, out, tpl))
	filled, err := fill.Fill(out, map[string]any{"vessel": "Gannet", "agree": true})
	require.NoError(t, err)
	assert.Equal(t, 2, strings.Count(tool(t, filled, "pdftotext", "IN", "-"), "Gannet"), "shown at both places by poppler")
	ws, err := read.Widgets(filled)
	require.NoError(t, err)
	require.Len(t, ws, 4)
	for _, w := range ws {
		if w.Name == "agree" {
			assert.True(t, w.Checked)
		} else {
			assert.Equal(t, 20, w.MaxLen)
		}
	}
}

// A hint is seen in other readers, and is no text there.
func TestAHintIsSeenAndIsNoText(t *testing.T) {
	draft := &form.Template{Pages: []form.Page{{ID: "p", N: 1, Width: 400, Height: 600}}, Fields: []form.Field{{
		ID: "h", Page: 1, Kind: form.Text, Name: "vessel", Tooltip: "Vessel", Rect: geom.R(40, 300, 240, 320), Hint: "as in the passport",
	}}}
	out := releaseOf(t, plain(""), draft)
	assert.NotContains(t, tool(t, out, "pdftotext", "IN", "-"), "passport")
	for name, drawn := range map[string]string{
		"poppler": tool(t, out, "pdftoppm", "-r", "72", "-png", "IN"),
		"mutool":  tool(t, out, "mutool", "draw", "-q", "-r", "72", "-F", "png", "-o", "-", "IN", "1"),
	} {
		at := strings.Index(drawn, "\x89PNG")
		require.GreaterOrEqual(t, at, 0, name)
		img, err := png.Decode(strings.NewReader(drawn[at:]))
		require.NoError(t, err, name)
		grey := 0
		for x := 42; x < 238; x++ {
			for y := img.Bounds().Dy() - 318; y < img.Bounds().Dy()-302; y++ {
				if c, _, _, _ := img.At(x, y).RGBA(); c < 0xe000 {
					grey++
				}
			}
		}
		assert.Greater(t, grey, 100, "%s shows the hint", name)
	}
}
