package demo_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/demo"
)

// A document is made under the name by which it is asked for, alone, and the same each time.
func TestDocumentsAreAskedForByName(t *testing.T) {
	all, err := demo.Documents()
	require.NoError(t, err)
	require.Len(t, all, 6)
	assert.Equal(t, "visiting-craft-declaration.png", all[4].File)
	for _, d := range all {
		if d.File == "visiting-craft-declaration.png" { // which takes longer than all others
			continue
		}
		alone, err := demo.Documents(d.File)
		require.NoError(t, err)
		require.Len(t, alone, 1, d.File)
		assert.Equal(t, d.Title, alone[0].Title)
		assert.Equal(t, d.Wants, alone[0].Wants)
	}
	none, err := demo.Documents("no such file")
	require.NoError(t, err)
	assert.Empty(t, none)
}
