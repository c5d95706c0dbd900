package api_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/demo"
	"zealousmargin.example/internal/api"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/pdf/engine"
	"zealousmargin.example/internal/scan/simulate"
	"zealousmargin.example/internal/standin"
)

var pages = []form.Page{{Width: 595, Height: 842}, {Width: 595, Height: 842}}

func TestATemplateMayBeAListOfFields(t *testing.T) {
	tpl, err := api.Template([]byte(`{"title": "T", "fields": [
		{"type": "text", "name": "a", "rect": [10, 10, 100, 30], "label": "The a", "format": {"kind": "date", "pattern": "dd.mm.yyyy"}},
		{"type": "text", "name": "b", "page": 2, "rect": [100, 30, 10, 10], "comb": 6, "tooltip": "B"},
		{"type": "button", "name": "c", "rect": [10, 50, 100, 70], "action": {"do": "clear"}}]}`), pages)
	require.NoError(t, err)
	require.Len(t, tpl.Fields, 3)
	assert.Equal(t, "The a", tpl.Fields[0].Tooltip, "a label serves as tooltip")
	assert.Equal(t, form.Date, tpl.Fields[0].Format.Kind)
	assert.Equal(t, form.ClearForm, tpl.Fields[1].Action.Do)
	b := tpl.Fields[2]
	assert.Equal(t, []any{"b", 2, 6, 10.0}, []any{b.Name, b.Page, b.MaxLen, b.Rect.X0}, "page 2 comes last")
}

func TestATemplateMayBeWhatDetectPrinted(t *testing.T) {
	tpl, err := api.Template([]byte(`{"pages": [{"page": 2, "width": 595, "height": 842, "fields": [
		{"type": "text", "rect": [10, 10, 100, 30], "name": "a", "label": "A", "group": "", "multiline": true, "comb": 0, "format": "date", "confidence": 0.9}]}]}`), pages)
	require.NoError(t, err)
	assert.Equal(t, 2, tpl.Fields[0].Page)
	assert.True(t, tpl.Fields[0].Multiline)
	assert.Equal(t, form.NoFormat, tpl.Fields[0].Format.Kind, "a hint in the wording is no rule yet")
}

func TestATemplateThatCannotBeBuiltIsRefused(t *testing.T) {
	for want, in := range map[string]string{
		"not valid JSON": `{"fields": [`,
		"no fields":      `{"fields": []}`,
		"four numbers":   `{"fields": [{"type": "text", "name": "a", "rect": [1, 2]}]}`,
		"pages 1 to 2":   `{"fields": [{"type": "text", "name": "a", "page": 7, "rect": [10, 10, 100, 30]}]}`,
		"already called": `{"fields": [{"type": "text", "name": "a", "rect": [10, 10, 100, 30]}, {"type": "text", "name": "a", "rect": [10, 50, 100, 70]}]}`,
		"not a kind":     `{"fields": [{"type": "slider", "name": "a", "rect": [10, 10, 100, 30]}]}`,
		"full stop":      `{"fields": [{"type": "text", "name": "a.b", "rect": [10, 10, 100, 30]}]}`,
	} {
		_, err := api.Template([]byte(in), pages)
		assert.ErrorContains(t, err, want)
	}
}

// A scan through the contract: rectangles lie on the picture as it came, though it was
// turned and straightened to read it.
func TestDetectOnAScanGivesPlacesOnThePictureAsItCame(t *testing.T) {
	sheet, err := demo.Charges()
	require.NoError(t, err)
	img, err := engine.DrawPage(t.Context(), sheet.Bytes, 1, 200.0/72)
	require.NoError(t, err)
	for quarters := range 4 {
		const skew = 1.5
		b, err := standin.PNG(simulate.Scan(img, 200, simulate.Faults{Skew: skew, Quarters: quarters}), 200)
		require.NoError(t, err)
		got, err := api.Detect(t.Context(), "scan.png", b)
		require.NoError(t, err)
		require.Len(t, got.Pages, 1)
		p := got.Pages[0]
		w, h := geom.ViewSize(595.2, 841.7, 90*quarters)
		assert.InDelta(t, w, p.Width, 1)
		assert.InDelta(t, h, p.Height, 1)
		hit := 0
		for _, want := range sheet.Wants {
			// the paper was turned clockwise by the skew, and then by quarters
			r := want.Rect
			m := geom.Turn(-skew, geom.Point{X: 595.28 / 2, Y: 841.89 / 2}).Apply(r.Mid())
			r = r.Shift(m.X-r.Mid().X, m.Y-r.Mid().Y)
			to, _ := geom.Upright(595.28, 841.89, 90*quarters)
			r = r.Apply(to)
			for _, f := range p.Fields {
				if r.IoU(f.Rect) >= 0.5 {
					hit++
					break
				}
			}
		}
		assert.GreaterOrEqual(t, hit, len(sheet.Wants)*9/10, "turned by %d: %d of %d", quarters, hit, len(sheet.Wants))
	}
}

func TestDetectReadsEveryKindOfFile(t *testing.T) {
	storage, err := demo.Storage()
	require.NoError(t, err)
	for name, b := range map[string][]byte{
		"a.docx": storage.Bytes,
		"a.txt":  []byte("Name of vessel: ______________________\n\n[ ] shore power\n"),
		"a.rtf":  []byte(`{\rtf1\ansi Name of vessel: ______________________\par Telephone: ____________________\par}`),
	} {
		got, err := api.Detect(t.Context(), name, b)
		require.NoError(t, err, name)
		require.Len(t, got.Pages, 1, name)
		if name != "a.docx" {
			require.NotEmpty(t, got.Pages[0].Fields, name)
			assert.Equal(t, "name_vessel", got.Pages[0].Fields[0].Name, name)
		}
	}
}
