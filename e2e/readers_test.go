package e2e_test

import (
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/e2e/readers"
)

// What five readers of other makes do with everything that is written is what docs/readers.md says, and each difference has its way
// round there.
func TestReadersDoWhatTheTableSays(t *testing.T) {
	rows, err := readers.Try(pdfjsDist)
	require.NoError(t, err)
	require.Greater(t, len(rows), 68)
	for _, r := range rows {
		assert.Len(t, r.Cells, len(readers.Names), r.Title)
	}
	assert.Empty(t, readers.Unexplained(rows))
	table, err := os.ReadFile("../docs/readers.md")
	require.NoError(t, err)
	assert.Equal(t, strings.Split(string(table), "\n"), strings.Split(readers.Markdown(rows), "\n"), "make readers writes it anew")
}
