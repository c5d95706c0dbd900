package api_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/api"
	"zealousmargin.example/internal/form"
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
