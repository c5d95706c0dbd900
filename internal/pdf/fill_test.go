package pdf_test

import (
	"bytes"
	"fmt"
	"maps"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/pdf/engine"
	"zealousmargin.example/internal/pdf/fill"
	"zealousmargin.example/internal/pdf/object"
	"zealousmargin.example/internal/pdf/proof"
	"zealousmargin.example/internal/pdf/read"
	"zealousmargin.example/internal/pdf/write"
)

func answers() map[string]any {
	return map[string]any{
		"vessel_name": "Łódź Ωmega", "remarks": "first line\nsecond line that is longer than its field is wide and has to be broken " +
			"somewhere",
		"registration_no": "GQ-12345", "shore_power": true, "keel": "größe 2", "berth": "South pier", "length": 12.5,
	}
}

func TestFilledAnswersAreThereAndShow(t *testing.T) {
	out, _, _ := built(t, plain(""))
	filled, err := fill.Fill(out, answers())
	require.NoError(t, err)
	sound(t, filled)
	ws, err := read.Widgets(filled)
	require.NoError(t, err)
	got := map[string]string{}
	for _, w := range ws {
		got[w.Name] = w.Value
		if w.Name == "keel" {
			assert.Equal(t, w.Export == "größe 2", w.Checked, "one button of a group is on")
		}
	}
	assert.Equal(t, "Łódź Ωmega", got["vessel_name"])
	assert.Equal(t, "GQ-12345", got["registration_no"])
	assert.Equal(t, "Yes", got["shore_power"])
	assert.Equal(t, "größe 2", got["keel"])
	assert.Equal(t, "South pier", got["berth"])
	assert.Equal(t, "12.5", got["length"])
	// poppler reads the appearances, not the values: what a person sees.
	text := tool(t, filled, "pdftotext", "-layout", "IN", "-")
	for _, want := range []string{"Łódź Ωmega", "first line", "second line that is longer", "South pier", "12.5"} {
		assert.Contains(t, text, want)
	}
	assert.Contains(t, strings.Join(strings.Fields(text), ""), "GQ-12345")
}

func TestFlatteningLeavesThePictureAndNoField(t *testing.T) {
	for _, extra := range []string{"", "/Rotate 90", "/CropBox [20 10 400 600]"} {
		src := plain(extra)
		_, tpl, _ := built(t, src)
		tpl.Fields = slices.DeleteFunc(tpl.Fields, func(f form.Field) bool { return f.Kind == form.Button }) // they stay off paper
		out, err := write.Build(src, tpl)
		require.NoError(t, err)
		filled, err := fill.Fill(out, answers())
		require.NoError(t, err)
		flat, err := fill.Flatten(filled)
		require.NoError(t, err)
		sound(t, flat)
		ws, err := read.Widgets(flat)
		require.NoError(t, err)
		assert.Empty(t, ws)
		assert.Contains(t, tool(t, flat, "pdftotext", "IN", "-"), "Łódź Ωmega", extra)
		before, after := seenByPoppler(t, filled), seenByPoppler(t, flat)
		looksAsBefore(t, before, after, "it looks as before (%s)", extra)
	}
}

// looksAsBefore holds two drawings to each other, as rows of grey: no more than two pixels in a thousand differ.
func looksAsBefore(t *testing.T, before, after []byte, what ...any) {
	t.Helper()
	require.Len(t, after, len(before))
	differ := 0
	for i := range before {
		if d := int(before[i]) - int(after[i]); d > 60 || d < -60 {
			differ++
		}
	}
	assert.Less(t, float64(differ)/float64(len(before)), 0.002, what...)
}

// seenByPoppler draws page 1 with another reader, as rows of grey.
func seenByPoppler(t *testing.T, b []byte) []byte {
	t.Helper()
	pgm := tool(t, b, "pdftoppm", "-gray", "-r", "72", "-singlefile", "IN")
	parts := strings.SplitN(pgm, "\n255\n", 2)
	require.Len(t, parts, 2)
	return []byte(parts[1])
}

func TestNoAnswerIsLostUnseen(t *testing.T) {
	out, _, _ := built(t, plain(""))
	for want, data := range map[string]map[string]any{
		`no field called "vessle_name"`: {"vessle_name": "x"},
		"takes at most 8":               {"registration_no": "123456789"},
		"not on the list":               {"berth": "East pier"},
		"not a choice":                  {"keel": "bilge"},
		"say which button":              {"keel": true},
		"check box takes":               {"shore_power": 3.5},
		"no typeface":                   {"vessel_name": "船"},
		"signature cannot":              {"signature": "me"},
		"takes no answer":               {"send": "x"},
		"answers for a check box":       {"vessel_name": true},
		"not a list":                    {"vessel_name": []any{"a", "b"}},
	} {
		_, err := fill.Fill(out, data)
		assert.ErrorContains(t, err, want)
	}
	_, err := fill.Fill(plain(""), answers())
	assert.ErrorContains(t, err, "no fields")
}

func TestReasonsForRefusal(t *testing.T) {
	ok := plain("", "")
	locked := []byte(tool(t, ok, "qpdf", "--encrypt", "user", "owner", "256", "--", "IN", "OUT"))
	for name, c := range map[string]struct {
		b    []byte
		want error
	}{
		"text":       {[]byte("hello, this is a letter"), object.ErrNotPDF},
		"nothing":    {nil, object.ErrNotPDF},
		"locked":     {locked, object.ErrEncrypted},
		"head only":  {ok[:200], object.ErrDamaged},
		"zero pages": {plain(), object.ErrNoPages},
	} {
		_, err := read.Check(t.Context(), c.b)
		assert.ErrorIs(t, err, c.want, name)
	}
}

func TestRepairableDamageIsRepairedAndSaidSo(t *testing.T) {
	ok := plain("", "")
	h, err := read.Check(t.Context(), ok)
	require.NoError(t, err)
	assert.False(t, h.Repaired)
	assert.Equal(t, ok, h.Bytes)
	for name, b := range map[string][]byte{
		"cut off before the cross-reference": ok[:strings.Index(string(ok), "xref\n0")],
		"wrong offset":                       []byte(strings.Replace(string(ok), "startxref\n", "startxref\n9", 1)),
	} {
		h, err := read.Check(t.Context(), b)
		require.NoError(t, err, name)
		assert.True(t, h.Repaired, name)
		assert.Len(t, h.Pages, 2, name)
		sound(t, h.Bytes)
		out, tpl, _ := built(t, h.Bytes)
		require.NoError(t, proof.Prove(t.Context(), h.Bytes, out, tpl), name)
	}
}

func TestLinesAreDrawnSharpAtEveryZoom(t *testing.T) {
	for _, scale := range []float64{0.5, 1, 4} {
		img, err := engine.DrawPage(t.Context(), plain("/Rotate 90"), 1, scale)
		require.NoError(t, err)
		assert.InDelta(t, 600*scale, float64(img.Bounds().Dx()), 1, "a turned page is as wide as it was high")
	}
	_, err := engine.DrawPage(t.Context(), plain(""), 2, 1)
	assert.ErrorContains(t, err, "no page 2")
}

// ruled is a form with rules of our own.
func ruled(t *testing.T) []byte {
	t.Helper()
	draft := &form.Template{Pages: []form.Page{{ID: "p", N: 1, Width: 400, Height: 600}}}
	add := func(f form.Field) {
		n := float64(len(draft.Fields))
		f.ID, f.Page, f.Order, f.Kind, f.Tooltip, f.Rect = form.NewID(), 1, n, form.Text, f.Name, geom.R(40, 540-30*n, 240, 560-30*n)
		draft.Fields = append(draft.Fields, f)
	}
	money := form.Format{Kind: form.Number, Decimals: 2, Currency: "€", After: true}
	add(form.Field{Name: "arrival", Format: form.Format{Kind: form.Date, Pattern: "dd.mm.yyyy"}})
	add(form.Field{Name: "nights", Format: form.Format{Kind: form.Number}, Checks: []form.Check{{Test: form.Between, A: "1", B: "10"}}})
	add(form.Field{Name: "rate", Format: money})
	add(form.Field{Name: "total", Format: money, Formula: "nights * rate"})
	out, err := write.Build(plain(""), draft)
	require.NoError(t, err)
	return out
}

func TestAnswersAreHeldToTheRulesOfTheForm(t *testing.T) {
	src := ruled(t)
	filled, err := fill.Fill(src, map[string]any{"arrival": "2027-10-03", "nights": 3, "rate": "1,234.5"})
	require.NoError(t, err)
	sound(t, filled)
	assert.Equal(t, map[string]string{"arrival": "03.10.2027", "nights": "3", "rate": "1,234.5", "total": "3703.50"}, valuesIn(t, filled))
	text := tool(t, filled, "pdftotext", "-layout", "IN", "-")
	for _, want := range []string{"03.10.2027", "1,234.50 €", "3,703.50 €"} {
		assert.Contains(t, text, want, "numbers show in their format")
	}
	bad := map[string]any{"arrival": "31.02.2027", "nights": 99, "rate": "2", "total": "1"}
	_, err = fill.Fill(src, bad)
	var refused *fill.RefusedError
	require.ErrorAs(t, err, &refused)
	assert.Equal(t, []string{"arrival", "nights", "total"}, slices.Sorted(maps.Keys(refused.Fields)))
	assert.Len(t, strings.Split(err.Error(), "\n"), 3, "a line for each")
	forced, err := fill.With(src, bad, fill.Options{Force: true})
	require.NoError(t, err)
	assert.Equal(t, "31.02.2027", valuesIn(t, forced)["arrival"])
	assert.Equal(t, "99", valuesIn(t, forced)["nights"])
}

func valuesIn(t *testing.T, b []byte) map[string]string {
	t.Helper()
	ws, err := read.Widgets(b)
	require.NoError(t, err)
	out := map[string]string{}
	for _, w := range ws {
		out[w.Name] = w.Value
	}
	return out
}

// The scripts of a form of another make, by the widely implemented form functions (from memory).
func TestAnswersAreHeldToTheStandardFunctionsOfOtherForms(t *testing.T) {
	field := func(name, scripts string, y int) string {
		return fmt.Sprintf("<< /Type /Annot /Subtype /Widget /FT /Tx /T (%s) /F 4 /Rect [40 %d 240 %d] /DA (/Helv 10 Tf 0 g) "+
			"/AA << %s >> >>", name, y, y+20, scripts)
	}
	js := func(key, s string) string { return fmt.Sprintf("/%s << /S /JavaScript /JS (%s) >>", key, s) }
	number := js("K", `AFNumber_Keystroke\(2, 0, 0, 0, "", true\);`) + js("F", `AFNumber_Format\(2, 0, 0, 0, "", true\);`)
	src := assembled(
		"<< /Type /Catalog /Pages 2 0 R /AcroForm << /Fields [4 0 R 5 0 R 6 0 R 7 0 R] /CO [7 0 R] /DA (/Helv 10 Tf 0 g) "+
			"/DR << /Font << /Helv 8 0 R >> >> >> >>",
		"<< /Type /Pages /Kids [3 0 R] /Count 1 >>",
		"<< /Type /Page /Parent 2 0 R /MediaBox [0 0 400 600] /Annots [4 0 R 5 0 R 6 0 R 7 0 R] >>",
		field("left on", js("K", `AFDate_KeystrokeEx\("mm/dd/yyyy"\);`)+js("F", `AFDate_FormatEx\("mm/dd/yyyy"\);`), 500),
		field("dues", number+js("V", `AFRange_Validate\(true, 1, true, 10\);`), 460),
		field("fuel", number, 420),
		field("sum", number+js("C", `AFSimple_Calculate\("SUM", new Array \("dues", "fuel"\)\);`), 380),
		"<< /Type /Font /Subtype /Type1 /BaseFont /Helvetica >>",
	)
	filled, err := fill.Fill(src, map[string]any{"left on": "2/3/2027", "dues": "7.5", "fuel": 1000})
	require.NoError(t, err)
	sound(t, filled)
	assert.Equal(t, "1007.50", valuesIn(t, filled)["sum"])
	assert.Contains(t, tool(t, filled, "pdftotext", "-layout", "IN", "-"), "1,007.50")
	_, err = fill.Fill(src, map[string]any{"left on": "31/2/2027", "dues": 99})
	assert.ErrorContains(t, err, "field dues: ")
	assert.ErrorContains(t, err, "field left on: ")
}

// ISO 32000-2, table 167: what is printed has Print set and Hidden not.
func TestFlatteningDrawsWhatAPrinterPrints(t *testing.T) {
	draft := &form.Template{Pages: []form.Page{{ID: "p", N: 1, Width: 400, Height: 600}}}
	add := func(f form.Field) {
		n := float64(len(draft.Fields))
		f.ID, f.Page, f.Order, f.Kind, f.Tooltip, f.Rect = form.NewID(), 1, n, form.Text, f.Name, geom.R(40, 440-30*n, 240, 460-30*n)
		draft.Fields = append(draft.Fields, f)
	}
	add(form.Field{Name: "both", Default: "everywhere"})
	add(form.Field{Name: "paper", Default: "onpaper", Show: form.ShowPrint})
	add(form.Field{Name: "screen", Default: "onscreen", Show: form.ShowScreen})
	add(form.Field{Name: "none", Default: "nowhere", Show: form.ShowNone})
	add(form.Field{Name: "hinted", Hint: "asinregister"})
	add(form.Field{Name: "answered", Hint: "seelog", Default: "given"})
	out, err := write.Build(plain(""), draft)
	require.NoError(t, err)
	flat, err := fill.Flatten(out)
	require.NoError(t, err)
	sound(t, flat)
	text := tool(t, flat, "pdftotext", "-layout", "IN", "-")
	for words, there := range map[string]bool{
		"everywhere": true, "onpaper": true, "given": true, "onscreen": false, "nowhere": false, "asinregister": false, "seelog": false,
	} {
		assert.Equal(t, there, strings.Contains(text, words), words)
	}
}

// ISO 32000-2, 7.3.5: a name is written with # and two figures for what is no plain sign, once.
func TestExportValuesWithBlanksAreTicked(t *testing.T) {
	src := assembled(
		"<< /Type /Catalog /Pages 2 0 R /AcroForm << /Fields [4 0 R] /DA (/Helv 10 Tf 0 g) /DR << /Font << /Helv 7 0 R >> >> >> >>",
		"<< /Type /Pages /Kids [3 0 R] /Count 1 >>",
		"<< /Type /Page /Parent 2 0 R /MediaBox [0 0 400 600] /Annots [4 0 R] >>",
		"<< /Type /Annot /Subtype /Widget /FT /Btn /T (agree) /F 4 /Rect [40 500 60 520] /AS /Off /V /Off "+
			"/AP << /N << /Ja#20bitte 5 0 R /Off 6 0 R >> >> >>",
		"<< /Type /XObject /Subtype /Form /BBox [0 0 20 20] /Length 19 >>\nstream\n0 g 2 2 16 16 re f \nendstream",
		"<< /Type /XObject /Subtype /Form /BBox [0 0 20 20] /Length 2 >>\nstream\nn \nendstream",
		"<< /Type /Font /Subtype /Type1 /BaseFont /Helvetica >>",
	)
	dark := func(b []byte) (n int) {
		for _, v := range seenByPoppler(t, b) {
			if v < 60 {
				n++
			}
		}
		return n
	}
	for _, answer := range []any{true, "Ja bitte"} {
		filled, err := fill.Fill(src, map[string]any{"agree": answer})
		require.NoError(t, err)
		sound(t, filled)
		assert.Greater(t, dark(filled), 100, "the box is ticked in another reader")
		flat, err := fill.Flatten(filled)
		require.NoError(t, err)
		assert.Greater(t, dark(flat), 100, "and stays so on paper")
	}
	// a release without a change keeps it
	kept := releaseOf(t, src, draftOf(t, src))
	assert.Contains(t, tool(t, kept, "qpdf", "--qdf", "--object-streams=disable", "IN", "-"), "/Ja#20bitte 5 0 R")
}

// What a name cannot say stands among the options of the field, and its place is the name (ISO 32000-2, 12.7.5.2.3): readers differ in
// how they write other letters into names.
func TestExportValuesOutsideASCII(t *testing.T) {
	draft := &form.Template{Pages: []form.Page{{ID: "p", N: 1, Width: 400, Height: 600}}}
	add := func(name, export string, kind form.Kind, unison bool) {
		n := float64(len(draft.Fields))
		draft.Fields = append(draft.Fields, form.Field{
			ID: form.NewID(), Page: 1, Order: n, Kind: kind, Name: name, Tooltip: name, Rect: geom.R(40, 540-40*n, 56, 556-40*n),
			Export: export, Unison: unison,
		})
	}
	add("size", "Größe", form.CheckBox, false)
	add("quay", "Süd", form.Radio, true)
	add("quay", "Süd", form.Radio, true)
	add("quay", "Nord", form.Radio, true)
	draft.Fields[3].Default = "Nord"
	out := releaseOf(t, plain(""), draft)
	sound(t, out)
	qdf := tool(t, out, "qpdf", "--qdf", "--object-streams=disable", "IN", "-")
	assert.NotRegexp(t, `/[A-Za-z]*#C3`, qdf, "names are ASCII")
	again := draftOf(t, out)
	for i, f := range again.Fields {
		assert.Equal(t, draft.Fields[i].Export, f.Export)
		assert.Equal(t, draft.Fields[i].Default, f.Default)
	}
	assert.Equal(t, fieldsByQPDF(t, out), fieldsByQPDF(t, releaseOf(t, out, again)))
	filled, err := fill.Fill(out, map[string]any{"size": "Größe", "quay": "Süd"})
	require.NoError(t, err)
	ws, err := read.Widgets(filled)
	require.NoError(t, err)
	var on []bool
	for _, w := range ws {
		on = append(on, w.Checked)
	}
	assert.Equal(t, []bool{true, true, true, false}, on)
	assert.Equal(t, []string{"Größe", "Süd"}, []string{ws[0].Value, ws[1].Value})
	states := fieldsByQPDF(t, filled)
	assert.Contains(t, states["size"][0], `"value":"/0"`)
	again.Fields[0].Export = "Maß"
	renamed := releaseOf(t, out, again)
	assert.Equal(t, "Maß", draftOf(t, renamed).Fields[0].Export)
}

// Copies that are filled in side by side of a form that was read once are, byte for byte, what each is when it is filled in by itself.
func TestCopiesSideBySideAreWhatEachIsAlone(t *testing.T) {
	_, src, _ := aForm(t)
	now := time.Date(2026, 11, 26, 0, 0, 0, 0, time.UTC)
	answers := func(i int) map[string]any {
		keel := []string{"Fin", "Long"}[i%2]
		return map[string]any{"vessel": fmt.Sprint("Vessel ", i), "fee": float64(i) + 0.5, "insured": i%2 == 0, "keel": keel}
	}
	prepared, err := fill.Prepare(src)
	require.NoError(t, err)
	made := make([][]byte, 24)
	var wait sync.WaitGroup
	for i := range made {
		wait.Go(func() {
			b, err := prepared.With(answers(i), fill.Options{Now: now})
			assert.NoError(t, err)
			made[i] = b
		})
	}
	wait.Wait()
	for i := range made {
		alone, err := fill.With(src, answers(i), fill.Options{Now: now})
		require.NoError(t, err)
		assert.True(t, bytes.Equal(alone, made[i]), "copy %d", i)
	}
	told(t, "qpdf", "--check", stored(t, made[7]))
}

// Some fields flattened: they are content, look as before to two readers, and the rest is filled in as before.
func TestSomeFieldsAreFlattened(t *testing.T) {
	src := plain("")
	out, tpl, _ := built(t, src)
	filled, err := fill.Fill(out, answers())
	require.NoError(t, err)
	names := []string{"vessel_name", "shore_power", "keel"}
	flat, err := fill.FlattenFields(filled, names)
	require.NoError(t, err)
	sound(t, flat)
	ws, err := read.Widgets(flat)
	require.NoError(t, err)
	var left []string
	for _, w := range ws {
		left = append(left, w.Name)
		assert.NotContains(t, names, w.Name)
	}
	for _, f := range tpl.Placed() {
		assert.Equal(t, slices.Contains(names, f.Name), !slices.Contains(left, f.Name), f.Name)
	}
	for name, draw := range map[string]func(*testing.T, []byte) []byte{"poppler": seenByPoppler, "mutool": seenByMutool} {
		before, after := draw(t, filled), draw(t, flat)
		looksAsBefore(t, before, after, "it looks as before in %s", name)
	}
	again, err := fill.Fill(flat, map[string]any{"registration_no": "GQ-1"})
	require.NoError(t, err)
	assert.Contains(t, tool(t, again, "pdftotext", "-layout", "IN", "-"), "Łódź Ωmega")
	_, err = fill.Fill(flat, map[string]any{"vessel_name": "x"})
	require.ErrorContains(t, err, "no field called")
	_, err = fill.FlattenFields(filled, []string{"nothing"})
	require.ErrorContains(t, err, "no field called")
	all, err := fill.FlattenFields(filled, append(left, names...))
	require.NoError(t, err)
	ws, err = read.Widgets(all)
	require.NoError(t, err)
	assert.Empty(t, ws)
}

// A field that another one is worked out from is not flattened alone.
func TestAFieldThatOthersGoByIsNotFlattenedAlone(t *testing.T) {
	base, _, draft := aForm(t)
	draft.Fields = append(draft.Fields, form.Field{
		ID: "total", Page: 1, Order: 9, Kind: form.Text, Name: "total", Formula: "fee * 2", Rect: geom.R(300, 460, 400, 478),
	})
	out, err := write.Release(base, draft)
	require.NoError(t, err)
	_, err = fill.FlattenFields(out, []string{"fee"})
	require.ErrorContains(t, err, "total goes by it")
	both, err := fill.FlattenFields(out, []string{"fee", "total"})
	require.NoError(t, err)
	sound(t, both)
	assert.NotContains(t, tool(t, both, "qpdf", "--qdf", "IN", "OUT"), "/CO [\n    ")
}

// seenByMutool draws page 1 with a third reader, as rows of grey.
func seenByMutool(t *testing.T, b []byte) []byte {
	t.Helper()
	pgm := tool(t, b, "mutool", "draw", "-q", "-r", "72", "-c", "gray", "-F", "pgm", "-o", "-", "IN", "1")
	parts := strings.SplitN(pgm, "\n255\n", 2)
	require.Len(t, parts, 2)
	return []byte(parts[1])
}
