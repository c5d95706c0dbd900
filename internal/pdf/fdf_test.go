package pdf_test

import (
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"unicode/utf8"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/pdf/read"
	"zealousmargin.example/internal/pdf/write"
	"zealousmargin.example/internal/returns"
)

// FDF is read as ISO 32000-2, 12.7.8 has it: nested fields whose names are joined, names for boxes, several values, strings in UTF-16 and
// in figures, references, and no cross-reference table.
func TestFDFIsRead(t *testing.T) {
	b := []byte("%FDF-1.2\n%\xe2\xe3\xcf\xd3\n1 0 obj\n<< /FDF << /F (berth.pdf) /Fields [\n" +
		"<< /T (vessel) /V (Petrel \\(of Aldsea\\)\\r\\nand dinghy) >>\n" +
		"<< /T (owner) /Kids [ << /T (name) /V <FEFF01410075> >> << /T (post) /Kids [ << /T (street) /V 2 0 R >> ] >> ] >>\n" +
		"<< /T <6B65656C> /V /fin#20keel >> << /T (ashore) /V /Off >>\n" +
		"<< /T (extras) /V [ (water) (power) ] >> << /T (empty) >> << /V (nameless) >>\n] >> >>\nendobj\n" +
		"2 0 obj\n(Mill Lane)\nendobj\ntrailer\n<< /Root 1 0 R >>\n%%EOF\n")
	c, err := read.FDF(b)
	require.NoError(t, err)
	assert.Equal(t, map[string][]string{
		"vessel": {"Petrel (of Aldsea)\r\nand dinghy"}, "owner.name": {"Łu"}, "owner.post.street": {"Mill Lane"}, "keel": {"fin keel"},
		"ashore": {"Off"}, "extras": {"water", "power"}, "empty": {""},
	}, c.Named)
	for _, bad := range []string{"%FDF-1.2", "%FDF-1.2\n1 0 obj << /FDF << >> >> endobj", "%FDF-1.2\n1 0 obj << /FDF << /Fields [", ""} {
		_, err := read.FDF([]byte(bad))
		require.Error(t, err)
	}
}

// Loops and depths of a hostile file end.
func TestAnFDFThatGoesRoundEnds(t *testing.T) {
	b := []byte(
		"%FDF-1.2\n1 0 obj << /FDF << /Fields [2 0 R] >> >> endobj\n" +
			"2 0 obj << /T (a) /Kids [2 0 R 2 0 R] >> endobj\ntrailer << /Root 1 0 R >>",
	)
	c, err := read.FDF(b)
	require.NoError(t, err)
	assert.Empty(t, c.Named)
}

// A form that another engine (mutool) has filled in comes back as what was typed.
func TestAFormFilledByMutoolComesBack(t *testing.T) {
	out, draft, _ := built(t, plain(""))
	dir := t.TempDir()
	in, filled, script := filepath.Join(dir, "in.pdf"), filepath.Join(dir, "filled.pdf"), filepath.Join(dir, "fill.js")
	require.NoError(t, os.WriteFile(in, out, 0o600))
	require.NoError(t, os.WriteFile(script, []byte(`var d = new PDFDocument(scriptArgs[0]);
for (var p = 0; p < d.countPages(); p++) { var ws = d.loadPage(p).getWidgets();
  for (var i = 0; i < ws.length; i++) { var w = ws[i];
    var k = w.getFieldType(); if (k === "text") { w.setTextValue("7"); w.update(); } else if (k === "checkbox") { w.toggle(); w.update(); } } }
d.save(scriptArgs[1], "incremental");`), 0o600))
	said, err := exec.Command("mutool", "run", script, in, filled).CombinedOutput()
	require.NoError(t, err, string(said))
	b, err := os.ReadFile(filled)
	require.NoError(t, err)
	c, err := read.Answered(b)
	require.NoError(t, err)
	texts := 0
	for _, f := range draft.Placed() {
		if f.Kind == form.Text && f.Formula == "" && !f.ReadOnly {
			texts++
			assert.Equal(t, []string{"7"}, c.Named[f.Name], f.Name)
		}
		if f.Kind == form.CheckBox {
			assert.NotEqual(t, []string{""}, c.Named[f.Name], f.Name)
		}
	}
	assert.Positive(t, texts)
}

// Whatever strangers send as answers is read or refused; nothing panics and nothing goes on for ever.
func FuzzAnswers(f *testing.F) {
	for _, b := range []string{
		"%FDF-1.2\n1 0 obj << /FDF << /Fields [<< /T (a) /V (b) /Kids [2 0 R] >>] >> >> endobj\n" +
			"2 0 obj [1 0 R] endobj\ntrailer << /Root 1 0 R >>",
		`<xfdf><fields><field name="a"><value>b</value></field></fields></xfdf>`, `{"a": ["b", 1, null, {"c": true}]}`, "a=b&c=%E4", "a;b\n1;2\n",
		"--x\r\nContent-Disposition: form-data; name=\"a\"\r\n\r\nb\r\n--x--\r\n",
	} {
		f.Add([]byte(b))
	}
	f.Fuzz(func(t *testing.T, b []byte) {
		kind := returns.KindOf(b)
		if kind == returns.PDF {
			return
		}
		all, err := read.Came(kind, b)
		if err != nil {
			return
		}
		for _, c := range all {
			for name, values := range c.Legible().Named {
				for _, v := range append(values, name) {
					if !utf8.ValidString(v) || strings.ContainsRune(v, 0) {
						t.Fatalf("%q cannot be kept", v)
					}
				}
			}
		}
	})
}

// What is written as FDF is read back the same: nested names, letters of all alphabets, brackets, line ends, states of buttons, lists.
func TestFDFComesBackTheSame(t *testing.T) {
	values := map[string]string{
		"owner.name": "Łucja (Bo) \\ Жук", "owner.post.street": "Mill\nLane", "keel": "fin keel", "extras": "water\npower",
	}
	b := write.FDF("berth (1).pdf", values, func(n string) bool { return n == "keel" }, func(n string) bool { return n == "extras" })
	assert.Equal(t, returns.FDF, returns.KindOf(b))
	c, err := read.FDF(b)
	require.NoError(t, err)
	for name, v := range values {
		assert.Equal(t, v, strings.Join(c.Named[name], "\n"), name)
	}
	assert.Len(t, c.Named["extras"], 2)
	assert.Len(t, c.Named["owner.post.street"], 1)
}
