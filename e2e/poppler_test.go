package e2e_test

import (
	"encoding/json"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
)

// popplerField is a field as poppler tells it.
type popplerField struct {
	Page                               int
	Name, Tooltip, Kind, Button, Value string
	Rect                               geom.Rect
}

func popplerFields(t *testing.T, file string) []popplerField {
	t.Helper()
	var out []popplerField
	dec := json.NewDecoder(strings.NewReader(run(t, "/usr/bin/python3", "testdata/poppler_fields.py", file)))
	for dec.More() {
		var f popplerField
		require.NoError(t, dec.Decode(&f))
		out = append(out, f)
	}
	return out
}

// readByPoppler has poppler read a released form and compares it with the draft.
// Poppler lists the fields of a page last first.
func readByPoppler(t *testing.T, file string, draft form.Template) {
	t.Helper()
	kinds := map[form.Kind][2]string{
		form.Text: {"text", ""}, form.CheckBox: {"button", "check"}, form.Radio: {"button", "radio"},
		form.Button: {"button", "push"}, form.Choice: {"choice", ""}, form.Signature: {"signature", ""},
	}
	all := popplerFields(t, file)
	assert.Len(t, all, len(draft.Placed()))
	for _, want := range draft.Placed() {
		i := slices.IndexFunc(all, func(f popplerField) bool { return f.Name == want.Name && want.Rect.IoU(f.Rect) > 0.9 })
		if !assert.GreaterOrEqual(t, i, 0, want.Name) {
			continue
		}
		g := all[i]
		assert.Equal(t, want.Page, g.Page, want.Name)
		assert.Equal(t, kinds[want.Kind], [2]string{g.Kind, g.Button}, want.Name)
		assert.Equal(t, want.Tooltip, g.Tooltip, want.Name)
		assert.Greater(t, want.Rect.IoU(g.Rect), 0.999, want.Name)
	}
}
