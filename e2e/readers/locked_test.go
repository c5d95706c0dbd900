package readers_test

import (
	"encoding/json"
	"net/http"
	"net/http/httptest"
	"os"
	"os/exec"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/e2e/readers"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/pdf/write"
)

// beginning is that of a script for pdf.js outside a browser: argument 2 is the library, 3 the file. The library makes a matrix when it is
// loaded, which Node.js has only with a package for drawing; nothing is drawn here, so an empty one does.
const beginning = `import { readFileSync } from "node:fs";
globalThis.DOMMatrix ??= class {};
const { getDocument } = await import(process.argv[2]);
`

// byNode runs a script with pdf.js on a file, and gives what it prints.
func byNode(t *testing.T, script, file string, more ...string) []byte {
	t.Helper()
	name := filepath.Join(t.TempDir(), "script.mjs")
	require.NoError(t, os.WriteFile(name, []byte(beginning+script), 0o600))
	library, err := filepath.Abs(filepath.Join(pdfjsDist, "build", "pdf.mjs"))
	require.NoError(t, err)
	out, err := exec.Command("node", append([]string{name, library, file}, more...)...).Output()
	require.NoError(t, err)
	return out
}

// opening opens a file, and prints how many fields it has and what recipients may do.
const opening = `
try {
  const d = await getDocument({ data: new Uint8Array(readFileSync(process.argv[3])), password: process.argv[4], verbosity: 0 }).promise;
  console.log(JSON.stringify({ fields: Object.keys(await d.getFieldObjects() || {}).length, may: await d.getPermissions() }));
} catch (e) { console.log(JSON.stringify({ refused: e.name })); }
`

// Chromium's viewer asks for the password of a locked form, opens it with that, and with no other.
func TestChromiumOpensALockedFormWithItsPassword(t *testing.T) {
	b, _, err := readers.Specimen("http://127.0.0.1:1")
	require.NoError(t, err)
	for _, s := range []form.Strength{form.AES256, form.AES128} {
		locked, err := write.Protect(b, form.Protection{Strength: s, Open: "ebb and flow", Owner: "quay", Fill: true, Print: true})
		require.NoError(t, err)
		srv := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) {
			w.Header().Set("Content-Type", "application/pdf")
			_, _ = w.Write(locked)
		}))
		for password, want := range map[string]bool{"ebb and flow": true, "another": false} {
			opens, err := readers.Unlocks(srv.URL+"/locked.pdf", password)
			require.NoError(t, err, "%s %s", s, password)
			assert.Equal(t, want, opens, "%s %s", s, password)
		}
		srv.Close()
	}
}

// pdf.js opens a locked form with its password, and with no other; what it says that recipients may do is what was asked for, by the bits
// of ISO 32000-2, table 22: printing is 4 and 2048, filling in 256, reading out 512.
func TestPDFJSOpensALockedFormWithItsPassword(t *testing.T) {
	b, draft, err := readers.Specimen("http://127.0.0.1:1")
	require.NoError(t, err)
	dir := t.TempDir()
	names := map[string]bool{}
	for _, f := range draft.Placed() {
		names[f.Name] = true
	}
	for _, p := range []form.Protection{
		{Strength: form.AES256, Open: "zwölf Schlüssel", Owner: "quay", Fill: true, Print: true},
		{Strength: form.AES128, Open: "ebb and flow", Owner: "quay", Fill: true, Print: true},
	} {
		locked, err := write.Protect(b, p)
		require.NoError(t, err)
		file := filepath.Join(dir, string(p.Strength)+".pdf")
		require.NoError(t, os.WriteFile(file, locked, 0o600))
		open := func(password string) (said struct {
			Fields  int
			May     []int
			Refused string
		},
		) {
			out := byNode(t, opening, file, password)
			require.NoError(t, json.Unmarshal(out, &said), string(out))
			return said
		}
		said := open(p.Open)
		assert.Empty(t, said.Refused)
		assert.Greater(t, said.Fields, len(names)/2)
		assert.Equal(t, []int{4, 256, 512, 2048}, said.May)
		assert.Equal(t, "PasswordException", open("another").Refused)
		assert.Equal(t, "PasswordException", open("").Refused)
	}
}
