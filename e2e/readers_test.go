package e2e_test

import (
	"fmt"
	"maps"
	"os"
	"slices"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/e2e/readers"
	"zealousmargin.example/internal/pdf/object"
)

// tried is what became of the specimen in every reader; it takes its time, and is done once.
var tried = sync.OnceValues(func() ([]readers.Row, error) { return readers.Try(pdfjsDist) })

// What five readers of other makes do with everything that is written is what docs/readers.md says, and each difference has its way
// round there.
func TestReadersDoWhatTheTableSays(t *testing.T) {
	rows, err := tried()
	require.NoError(t, err)
	require.Greater(t, len(rows), 68)
	for _, r := range rows {
		assert.Len(t, r.Cells, len(readers.Names), r.Title)
	}
	assert.Empty(t, readers.Unexplained(rows))
	table, err := os.ReadFile("../docs/readers.md")
	require.NoError(t, err)
	ours, _, _ := strings.Cut(string(table), keptTitle)
	assert.Equal(t, strings.Split(strings.TrimSpace(ours), "\n"), strings.Split(strings.TrimSpace(readers.Markdown(rows)), "\n"),
		"make readers writes it anew")
}

// keptTitle begins the second table.
const keptTitle = "\n# What a release without a change keeps"

// Six forms of other makers, each written down in ten ways by qpdf, keep everything over a release without a change, and so does a
// sample of the forms themselves; the table has them all.
func TestFormsOfOthersAreKeptHoweverTheyAreWritten(t *testing.T) {
	all, err := readers.FormsOfOthers("..")
	require.NoError(t, err)
	require.Greater(t, len(all), 150)
	names := slices.Sorted(maps.Keys(all))
	chosen := []string{
		"pdf2json/test/data/f1040ez.pdf", "samples/form/demo/english.pdf", "samples/form/demo/greek.pdf", "samples/form/primitives/listbox.pdf",
		"samples/form/primitives/radiobuttonsHorGroup.pdf", "samples/form/flow/createFormAndUpdatePageCoreFont.pdf",
	}
	forms := map[string][]byte{}
	for i, name := range names {
		if i%8 == 0 {
			forms[name] = all[name]
		}
	}
	for _, name := range chosen {
		require.Contains(t, all, name)
		variants, err := readers.Variants(all[name])
		require.NoError(t, err)
		for what, b := range variants {
			forms[name+", "+what] = b
		}
	}
	table, err := os.ReadFile("../docs/readers.md")
	require.NoError(t, err)
	for _, k := range readers.Keep(forms, 2) {
		if k.Refused == object.ErrDamaged.Error() && !readers.QPDFMends(forms[k.Name]) {
			continue // nor does another reader find its pages
		}
		assert.True(t, k.Whole(), "%s: %s %v", k.Name, k.Refused, k.Differs)
		assert.NotContains(t, string(table), "- "+k.Name+",", "the table says that it is not kept")
	}
	assert.Contains(t, string(table), fmt.Sprintf("%d of %d forms are kept whole", len(all), len(all)))
}
