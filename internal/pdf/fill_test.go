package pdf_test

import (
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/form"
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
		differ := 0
		for i := range before {
			if d := int(before[i]) - int(after[i]); d > 60 || d < -60 {
				differ++
			}
		}
		assert.Less(t, float64(differ)/float64(len(before)), 0.002, "it looks as before (%s)", extra)
	}
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
		_, err := read.Check(c.b)
		assert.ErrorIs(t, err, c.want, name)
	}
}

func TestRepairableDamageIsRepairedAndSaidSo(t *testing.T) {
	ok := plain("", "")
	h, err := read.Check(ok)
	require.NoError(t, err)
	assert.False(t, h.Repaired)
	assert.Equal(t, ok, h.Bytes)
	for name, b := range map[string][]byte{
		"cut off before the cross-reference": ok[:strings.Index(string(ok), "xref\n0")],
		"wrong offset":                       []byte(strings.Replace(string(ok), "startxref\n", "startxref\n9", 1)),
	} {
		h, err := read.Check(b)
		require.NoError(t, err, name)
		assert.True(t, h.Repaired, name)
		assert.Len(t, h.Pages, 2, name)
		sound(t, h.Bytes)
		out, tpl, _ := built(t, h.Bytes)
		require.NoError(t, proof.Prove(h.Bytes, out, tpl), name)
	}
}

func TestLinesAreDrawnSharpAtEveryZoom(t *testing.T) {
	d, err := engine.Open(plain("/Rotate 90"))
	require.NoError(t, err)
	defer d.Close()
	for _, scale := range []float64{0.5, 1, 4} {
		img, err := d.Render(1, scale)
		require.NoError(t, err)
		assert.InDelta(t, 600*scale, float64(img.Bounds().Dx()), 1, "a turned page is as wide as it was high")
	}
	_, err = d.Render(2, 1)
	assert.ErrorContains(t, err, "no page 2")
}
