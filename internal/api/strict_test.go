package api_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/api"
	"zealousmargin.example/internal/form"
)

func TestWhatATemplateSaysIsKnownOrRefusedByName(t *testing.T) {
	pages := []form.Page{{ID: "p", Width: 400, Height: 600}}
	field := func(more string) string {
		return `{"fields": [{"type": "text", "name": "arrival", "rect": [40, 40, 140, 60]` + more + `}]}`
	}
	for more, want := range map[string]string{
		`, "format": "date"`: `field arrival: its format is the word "date"`, `, "formt": {}`: `field arrival: it has a member "formt"`,
		`, "format": {"kind": "date", "patern": "dd.mm.yyyy"}`: `"patern"`, `, "look": {"colour": "#000000", "wide": 3}`: `"wide"`,
		`, "value": "x"`: `"value"`,
	} {
		_, err := api.Template([]byte(field(more)), pages)
		assert.ErrorContains(t, err, want, more)
	}
	_, err := api.Template([]byte(`{"feilds": []}`), pages)
	assert.ErrorContains(t, err, `"feilds"`)
	// what detect lists is read as it is
	tpl, err := api.Template([]byte(field(`, "format": "date", "confidence": 0.9, "group": "", "label": "Arrival"`)), pages)
	require.NoError(t, err)
	assert.Equal(t, "Arrival", tpl.Fields[0].Tooltip)
}
