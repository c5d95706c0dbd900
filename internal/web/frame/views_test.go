package frame

import (
	"strings"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Each view has the shared parts and its own, and none of another's.
func TestViewsStandApart(t *testing.T) {
	file := func(words string) *fstest.MapFile { return &fstest.MapFile{Data: []byte(words)} }
	quay := fstest.MapFS{
		"quay.html":  file(`{{define "page"}}{{template "mark"}} at the quay{{end}}`),
		"_part.html": file(`{{define "page"}}no view{{end}}`),
	}
	shed := fstest.MapFS{"shed.html": file(`{{define "page"}}{{template "own" .}}{{end}}{{define "own"}}in the {{.}}{{end}}`)}
	v, err := ReadViews(quay, shed)
	require.NoError(t, err)
	assert.Contains(t, v, "sorry", "the shared ones are there")
	assert.NotContains(t, v, "_part")

	var b strings.Builder
	require.NoError(t, v["quay"].ExecuteTemplate(&b, "page", nil))
	assert.Contains(t, b.String(), "Zealous Margin</span> at the quay")
	assert.Nil(t, v["quay"].Lookup("own"), "another room's part")
	b.Reset()
	require.NoError(t, v["shed"].ExecuteTemplate(&b, "page", "<shed>"))
	assert.Equal(t, "in the &lt;shed&gt;", b.String())

	_, err = ReadViews(quay, fstest.MapFS{"quay.html": file("again")})
	require.ErrorContains(t, err, "two templates are called quay")
	_, err = ReadViews(fstest.MapFS{"broken.html": file("{{if}}")})
	require.ErrorContains(t, err, "template broken")
}
