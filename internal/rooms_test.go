// Package internal_test holds the rooms to their places.
package internal_test

import (
	"go/build"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

const module = "zealousmargin.example/"

// floors are the rooms from the ground up: each uses what stands on floors below its own, and
// nothing beside it but what [beside] names. The core ends where the line is.
var floors = [][]string{
	{"internal/geom"},
	{"internal/scan"},
	{"internal/form", "internal/evidence", "internal/scan/simulate"},
	{"internal/rules", "internal/arrange"},
	{"internal/detect", "internal/rehearsal", "internal/roster", "internal/letter", "internal/returns"},
	{"internal/snags", "internal/outline"},
	{"internal/command", "internal/questions"},
	{"---- the line ----"},
	{"internal/pdf", "internal/pdf/object", "internal/pdf/pdftest"},
	{"internal/pdf/engine/pdfium", "internal/post"},
	{"internal/pdf/engine"},
	{"internal/pdf/look", "internal/pdf/proof"},
	{"internal/pdf/read"},
	{"internal/pdf/write"},
	{"internal/pdf/fill", "internal/pdf/sign", "internal/standin"},
	{"internal/intake"},
	{"internal/store", "internal/api"},
	{"internal/inbox"},
	{"internal/jobs"},
	{"internal/web/markup", "internal/web/ask", "internal/web/static"},
	{"internal/web/notes"},
	{"internal/web/frame"},
	{
		"internal/web/bench", "internal/web/workroom", "internal/web/rehearse", "internal/web/release",
		"internal/web/signin", "internal/web/people", "internal/web/signed", "internal/web/signing",
	},
	{"internal/web/pages", "internal/web/house", "internal/web/links", "internal/web/returned"},
	{"internal/web/bringin"},
	{"internal/web"},
	{"demo"},
	{"internal/measure/sheets", "internal/measure/faults", "internal/store/storetest", "e2e/browser"},
	{"internal/web/webtest", "internal/measure/grammar"},
	{"internal/measure", "e2e/screenshots", "e2e/readers"},
	{"cmd/zealous-margin", "e2e", "e2e/printed", "e2e/readers/table"},
}

func line() int {
	return slices.IndexFunc(floors, func(f []string) bool { return f[0] == "---- the line ----" })
}

// packages are those of the module with what each imports.
func packages(t *testing.T) map[string][]string {
	out := map[string][]string{}
	err := filepath.WalkDir("..", func(path string, d os.DirEntry, err error) error {
		if err != nil || !d.IsDir() {
			return err
		}
		if name := d.Name(); name == "node_modules" || strings.HasPrefix(name, ".") && name != ".." {
			return filepath.SkipDir
		}
		p, err := build.ImportDir(path, 0)
		if err != nil || len(p.GoFiles) == 0 {
			return nil
		}
		room := strings.TrimPrefix(filepath.ToSlash(path), "../")
		for _, i := range p.Imports {
			out[room] = append(out[room], strings.TrimPrefix(i, module))
		}
		if out[room] == nil {
			out[room] = []string{}
		}
		return nil
	})
	require.NoError(t, err)
	return out
}

func floorOf(room string) int {
	return slices.IndexFunc(floors, func(f []string) bool { return slices.Contains(f, room) })
}

func TestEveryRoomUsesOnlyTheFloorsBelow(t *testing.T) {
	all := packages(t)
	require.Greater(t, len(all), 30)
	for room, imports := range all {
		at := floorOf(room)
		if !assert.GreaterOrEqual(t, at, 0, "%s stands on no floor: give it one here", room) {
			continue
		}
		for _, i := range imports {
			if to := floorOf(i); to >= 0 {
				assert.Less(t, to, at, "%s uses %s, which does not stand below it", room, i)
			}
		}
	}
}

// The core has no interface, database, process or PDF syntax: none of its packages imports a driver,
// or a way to reach the outside.
func TestTheCoreReachesNothingOutside(t *testing.T) {
	for room, imports := range packages(t) {
		if floorOf(room) > line() {
			continue
		}
		for _, i := range imports {
			assert.NotContains(t, []string{"database/sql", "net/http", "os/exec", "html/template", "os"}, i, "%s reaches outside", room)
			for _, outside := range []string{"pdfcpu", "go-pdfium", "jackc/pgx", "labstack/echo"} {
				assert.NotContains(t, i, outside, "%s reaches outside", room)
			}
		}
	}
}

// reached are the rooms that a room uses, by whatever way.
func reached(all map[string][]string, from string) map[string]bool {
	seen := map[string]bool{}
	var walk func(room string)
	walk = func(room string) {
		for _, i := range all[room] {
			if !seen[i] {
				seen[i] = true
				walk(i)
			}
		}
	}
	walk(from)
	return seen
}

// What is for tests alone, such as passwords that are hashed lightly, is not in the application.
func TestTheApplicationHasNothingOfTests(t *testing.T) {
	seen := reached(packages(t), "cmd/zealous-margin")
	require.True(t, seen["internal/store"])
	for _, room := range []string{"internal/store/storetest", "internal/web/webtest", "e2e/browser"} {
		assert.False(t, seen[room], "the application reaches %s", room)
	}
}

// What the proof reaches, by whatever way, has no code of the writer in it.
func TestTheProofSharesNothingWithTheWriter(t *testing.T) {
	all := packages(t)
	seen := reached(all, "internal/pdf/proof")
	require.True(t, seen["internal/pdf/engine"])
	for _, room := range []string{"internal/pdf/write", "internal/pdf/look", "internal/pdf/read", "internal/pdf/fill"} {
		assert.False(t, seen[room], "the proof reaches %s", room)
	}
	for _, i := range all["internal/pdf/proof"] {
		assert.NotEqual(t, "internal/pdf/object", i, "the proof reads with a reader of its own")
	}
}

// HTML and SVG are made by templates and by package markup only.
func TestMarkupIsMadeInOnePlace(t *testing.T) {
	tag := regexp.MustCompile("[\"`]<[a-z!/]")
	err := filepath.WalkDir("web", func(path string, d os.DirEntry, err error) error {
		if err != nil || d.IsDir() || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") ||
			strings.HasPrefix(path, "web/markup/") {
			return err
		}
		b, err := os.ReadFile(path)
		if err != nil {
			return err
		}
		for n, l := range strings.Split(string(b), "\n") {
			if tag.MatchString(l) && !strings.Contains(l, "bytes.Contains") {
				assert.Fail(t, "HTML outside package markup", "%s:%d: %s", path, n+1, strings.TrimSpace(l))
			}
		}
		return nil
	})
	require.NoError(t, err)
}

// Lines stay short enough to be read, and every room says what it is.
func TestCodeReadsWell(t *testing.T) {
	const longest = 140
	for room := range packages(t) {
		dir := filepath.Join("..", room)
		files, err := filepath.Glob(filepath.Join(dir, "*.go"))
		require.NoError(t, err)
		for _, f := range files {
			b, err := os.ReadFile(f)
			require.NoError(t, err)
			other := false // in a text of another language: XML, a query, a pattern
			for n, l := range strings.Split(string(b), "\n") {
				marks := strings.Count(l, "`")
				in := other || marks > 0
				other = other != (marks%2 == 1)
				if r := len([]rune(strings.ReplaceAll(l, "\t", "    "))); r > longest && !in {
					assert.Fail(t, "a long line", "%s:%d has %d signs", f, n+1, r)
				}
			}
		}
		if strings.HasPrefix(room, "internal/") {
			assert.FileExists(t, filepath.Join(dir, "doc.go"))
		}
		if at := floorOf(room); at >= 0 && at < line() && strings.Count(room, "/") == 1 {
			b, err := os.ReadFile(filepath.Join(dir, "example_test.go"))
			require.NoError(t, err, "%s has no example", room)
			assert.Contains(t, string(b), "// Output:")
		}
	}
}
