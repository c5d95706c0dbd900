package readers_test

import (
	"encoding/json"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/e2e/readers"
	"zealousmargin.example/internal/pdf/engine"
	"zealousmargin.example/internal/pdf/proof"
	"zealousmargin.example/internal/pdf/write"
)

// structure asks pdf.js for the structure of the first page, outside a browser: how many elements there are of each role, and whether every
// annotation that it names is there.
const structure = `
const d = await getDocument({ data: new Uint8Array(readFileSync(process.argv[3])), verbosity: 0 }).promise;
const page = await d.getPage(1), all = new Set((await page.getAnnotations()).map((a) => a.id)), roles = {}, named = [];
(function walk(e) {
  if (e.role) roles[e.role] = (roles[e.role] ?? 0) + 1;
  if (e.type === "annotation") named.push(e.id);
  (e.children ?? []).forEach(walk);
})(await page.getStructTree());
console.log(JSON.stringify({ roles, named: named.length, annotations: all.size, marked: (await d.getMarkInfo())?.Marked }));
`

// The form with everything is tagged, holds to all that is asked of it, and pdf.js finds an element for every field on its page.
func TestPDFJSFindsTheStructureOfAnAccessibleForm(t *testing.T) {
	src, _, err := readers.Specimen("http://127.0.0.1:1")
	require.NoError(t, err)
	pages, err := engine.Printed(t.Context(), src)
	require.NoError(t, err)
	out, err := write.Tagged(src, pages, nil)
	require.NoError(t, err)
	broken, err := proof.Accessible(out)
	require.NoError(t, err)
	for _, b := range broken {
		assert.Equal(t, "7.18.1", b.Clause, "nothing but tooltips may be missing: %v", b) // of some on purpose
	}
	file := filepath.Join(t.TempDir(), "tagged.pdf")
	require.NoError(t, os.WriteFile(file, out, 0o600))
	said := byNode(t, structure, file)
	var got struct {
		Roles              map[string]int
		Named, Annotations int
		Marked             bool
	}
	require.NoError(t, json.Unmarshal(said, &got), string(said))
	assert.True(t, got.Marked)
	assert.Equal(t, got.Annotations, got.Named, "every annotation has its element")
	assert.Equal(t, got.Annotations, got.Roles["Form"]+got.Roles["Link"])
}
