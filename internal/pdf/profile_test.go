package pdf_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/pdf/fill"
	"zealousmargin.example/internal/pdf/proof"
	"zealousmargin.example/internal/pdf/write"
)

// The version of the catalog goes before that of the header (ISO 32000-2, 7.5.2), and readers of other makes go by it.
func TestAFormOfPDF20IsOne(t *testing.T) {
	_, out, _ := aForm(t)
	two, err := write.AsPDF20(out)
	require.NoError(t, err)
	require.NoError(t, proof.Profile(t.Context(), out, two, form.PDF20))
	require.ErrorContains(t, proof.Profile(t.Context(), out, out, form.PDF20), "not 2.0")
	require.Error(t, proof.Profile(t.Context(), two, out, form.PDF20), "the proved form was changed")
	file := stored(t, two)
	assert.Equal(t, "2.0", line(told(t, "pdfinfo", file), "PDF version:"))
	assert.Contains(t, told(t, "qpdf", "--check", file), "No syntax or stream encoding errors")
	assert.Contains(t, told(t, "mutool", "show", file, "trailer/Root/Version"), "2.0")
	filled, err := fill.Fill(two, map[string]any{"vessel": "Petrel"})
	require.NoError(t, err)
	assert.Contains(t, told(t, "pdftotext", stored(t, filled), "-"), "Petrel")
}

// What is for the archive has neither fields nor scripts, and looks as the form did, to two readers.
func TestAFlatFormIsStill(t *testing.T) {
	base, _, draft := aForm(t)
	draft.Fields[0].Default = "Petrel"
	draft.Details.Events = []form.Step{{When: form.DocumentOpened, Do: form.RunScript, Script: "app.alert('hello');"}}
	out, err := write.Release(base, draft)
	require.NoError(t, err)
	assert.Contains(t, told(t, "mutool", "show", "-g", stored(t, out), "grep"), "JavaScript")
	flat, err := fill.Still(out)
	require.NoError(t, err)
	require.NoError(t, proof.Profile(t.Context(), out, flat, form.Flat))
	require.Error(t, proof.Profile(t.Context(), out, out, form.Flat))
	onlyFlat, err := fill.Flatten(out)
	require.NoError(t, err)
	require.ErrorContains(t, proof.Profile(t.Context(), out, onlyFlat, form.Flat), "OpenAction", "what the document does by itself is seen")
	file := stored(t, flat)
	assert.Contains(t, told(t, "pdftotext", file, "-"), "Petrel")
	assert.Contains(t, told(t, "pdfinfo", file), "Form:            none")
	assert.Equal(t, "no", line(told(t, "pdfinfo", file), "JavaScript:"))
	for name, draw := range map[string]func(*testing.T, []byte) []byte{"poppler": seenByPoppler, "mutool": seenByMutool} {
		before, after := draw(t, out), draw(t, flat)
		looksAsBefore(t, before, after, name)
	}
}

func TestProfilesAreNamed(t *testing.T) {
	for _, o := range form.Profiles {
		require.NoError(t, form.Profile(o.Value).Check())
	}
	require.Error(t, form.Profile("pdf3").Check())
	assert.True(t, strings.HasPrefix(form.PDF20.Words(), "a form of PDF 2.0"))
	assert.Empty(t, form.Everyday.Words())
}
