package readers_test

import (
	"fmt"
	"maps"
	"os"
	"slices"
	"strconv"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/e2e/readers"
	"zealousmargin.example/internal/pdf/object"
)

// pdfjsDist is where npm puts pdf.js.
const pdfjsDist = "../../node_modules/pdfjs-dist/legacy"

// tried is what became of the specimen in every reader; it takes its time, and is done once, with a seventh of the
// properties.
var tried = sync.OnceValues(func() ([]readers.Row, error) {
	sample := readers.NewSample()
	fmt.Println("a seventh of the properties: ZM_SEED=" + strconv.FormatUint(sample.Seed, 10))
	var once sync.Mutex // five readers ask at once
	chosen := sample.Properties(7)
	return readers.Try(pdfjsDist, func(p readers.Property) bool {
		once.Lock()
		defer once.Unlock()
		return chosen(p)
	})
})

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
	table, err := os.ReadFile("../../docs/readers.md")
	require.NoError(t, err)
	ours, _, _ := strings.Cut(string(table), keptTitle)
	assert.Empty(t, readers.Contradictions(ours, rows), "make readers writes it anew")
}

// keptTitle begins the second table.
const keptTitle = "\n# What a release without a change keeps"

// Six forms of other makers, each written down in one of ten ways by qpdf, keep everything over a release without a change, and so does
// a sample of the forms themselves; the table has them all.
func TestFormsOfOthersAreKeptHoweverTheyAreWritten(t *testing.T) {
	all, err := readers.FormsOfOthers("../..")
	require.NoError(t, err)
	require.Greater(t, len(all), 150)
	sample := readers.NewSample()
	t.Log("ZM_SEED=" + strconv.FormatUint(sample.Seed, 10))
	names := slices.Sorted(maps.Keys(all))
	chosen := []string{
		"pdf2json/test/data/f1040ez.pdf", "samples/form/demo/english.pdf", "samples/form/demo/greek.pdf",
		"samples/form/primitives/listbox.pdf",
		"samples/form/primitives/radiobuttonsHorGroup.pdf", "samples/form/flow/createFormAndUpdatePageCoreFont.pdf",
	}
	forms := map[string][]byte{}
	for _, name := range sample.Of(names, 4) {
		forms[name] = all[name]
	}
	for _, name := range chosen {
		require.Contains(t, all, name)
		variants, err := readers.Variants(all[name])
		require.NoError(t, err)
		for _, what := range sample.Of(slices.Sorted(maps.Keys(variants)), 1) {
			forms[name+", "+what] = variants[what]
		}
	}
	table, err := os.ReadFile("../../docs/readers.md")
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
