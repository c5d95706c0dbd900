// Package internal_test holds the rooms to their places.
package internal_test

import (
	"os/exec"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

const module = "zealousmargin.example/internal/"

// The core has no interface, database, process or PDF syntax: none of its packages
// imports a room below the line, a driver, or a way to reach the outside.
func TestTheCoreImportsNothingBelowTheLine(t *testing.T) {
	core := []string{"geom", "form", "evidence", "scan", "detect", "arrange", "rules", "snags", "rehearsal"}
	for _, room := range core {
		out, err := exec.Command("go", "list", "-deps", module+room).CombinedOutput()
		require.NoError(t, err, string(out))
		for dep := range strings.FieldsSeq(string(out)) {
			if inner, ok := strings.CutPrefix(dep, module); ok {
				assert.True(t, slices.Contains(core, inner), "%s imports %s", room, inner)
			}
			assert.NotContains(t, []string{"database/sql", "net/http", "os/exec", "html/template"}, dep, "%s reaches outside", room)
			for _, outside := range []string{"pdfcpu", "go-pdfium", "jackc/pgx", "labstack/echo"} {
				assert.NotContains(t, dep, outside, "%s reaches outside", room)
			}
		}
	}
}
