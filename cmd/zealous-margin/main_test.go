package main_test

import (
	"bytes"
	"encoding/json"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/demo"
	"zealousmargin.example/internal/geom"
)

// command gives a folder with the demo's berth application, and a way to run the program in it.
func command(t *testing.T) (dir string, run func(args ...string) (string, string, int)) {
	t.Helper()
	dir = t.TempDir()
	self, err := os.Executable()
	require.NoError(t, err)
	berth, err := demo.Berth()
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(filepath.Join(dir, "berth.pdf"), berth.Bytes, 0o600))
	return dir, func(args ...string) (string, string, int) {
		c := exec.Command(self, args...)
		c.Dir = dir
		c.Env = append(os.Environ(), "ZM_TEST_PROGRAM=yes", "ZM_DATABASE_URL=") // these need no database
		var stdout, stderr strings.Builder
		c.Stdout, c.Stderr = &stdout, &stderr
		_ = c.Run()
		return stdout.String(), stderr.String(), c.ProcessState.ExitCode()
	}
}

type listing struct {
	Pages []struct {
		Page          int
		Width, Height float64
		Fields        []map[string]any
	}
}

func TestDetectBuildFillAndInspectKeepTheContract(t *testing.T) {
	dir, run := command(t)
	out, stderr, code := run("detect", "--json", "berth.pdf")
	require.Zero(t, code, stderr)
	var found listing
	require.NoError(t, json.Unmarshal([]byte(out), &found))
	require.Len(t, found.Pages, 2)
	assert.Equal(t, 1, found.Pages[0].Page)
	assert.InDelta(t, 595.28, found.Pages[0].Width, 0.01)
	names := map[string]bool{}
	for _, p := range found.Pages {
		for _, f := range p.Fields {
			for _, key := range []string{"type", "rect", "name", "label", "group", "multiline", "comb", "format", "confidence"} {
				assert.Contains(t, f, key)
			}
			assert.NotContains(t, f, "flags", "only inspect knows flags")
			assert.Contains(t, []any{"text", "checkbox", "radio", "choice", "signature", "button"}, f["type"])
			assert.Len(t, f["rect"], 4)
			assert.GreaterOrEqual(t, f["confidence"], 0.5, "only what would be placed is listed")
			assert.True(t, !names[f["name"].(string)] || f["type"] == "radio", "names are unique in the document, but for radio groups")
			names[f["name"].(string)] = true
		}
	}

	require.NoError(t, os.WriteFile(filepath.Join(dir, "t.json"), []byte(out), 0o600))
	_, stderr, code = run("build", "--template", "t.json", "berth.pdf", "-o", "form.pdf")
	require.Zero(t, code, stderr)
	out, _, code = run("inspect", "--json", "form.pdf")
	require.Zero(t, code)
	var has listing
	require.NoError(t, json.Unmarshal([]byte(out), &has))
	for i, p := range has.Pages {
		require.Len(t, p.Fields, len(found.Pages[i].Fields))
		for _, f := range p.Fields {
			for _, key := range []string{"flags", "value", "tooltip", "maxlen", "options", "actions"} {
				assert.Contains(t, f, key)
			}
			assert.True(t, names[f["name"].(string)])
		}
	}

	require.NoError(t, os.WriteFile(filepath.Join(dir, "d.json"), []byte(`{"name_applicant":"Ada Löwe","keel":"fin"}`), 0o600))
	_, stderr, code = run("fill", "--data", "d.json", "--flatten", "form.pdf", "-o", "flat.pdf")
	require.Zero(t, code, stderr)
	out, _, _ = run("inspect", "--json", "flat.pdf")
	var flat listing
	require.NoError(t, json.Unmarshal([]byte(out), &flat))
	assert.Empty(t, flat.Pages[0].Fields)
}

func TestFillRefusesByNameALineEach(t *testing.T) {
	dir, run := command(t)
	for name, text := range map[string]string{
		"t.json": `{"fields": [{"type": "text", "name": "arrival", "rect": [40, 40, 140, 60], "format": {"kind": "date", "pattern": "dd.mm.yyyy"}},
			{"type": "text", "name": "nights", "rect": [40, 80, 140, 100], "checks": [{"test": "between", "a": "1", "b": "10"}]}]}`,
		"bad.json": `{"arrival": "31.02.2027", "nights": 99}`,
	} {
		require.NoError(t, os.WriteFile(filepath.Join(dir, name), []byte(text), 0o600))
	}
	_, stderr, code := run("build", "--template", "t.json", "berth.pdf", "-o", "form.pdf")
	require.Zero(t, code, stderr)
	_, stderr, code = run("fill", "--data", "bad.json", "form.pdf", "-o", "filled.pdf")
	assert.Equal(t, 1, code)
	assert.Contains(t, stderr, "\nfield arrival: ")
	assert.Contains(t, stderr, "\nfield nights: ")
	_, err := os.Stat(filepath.Join(dir, "filled.pdf"))
	assert.Error(t, err, "nothing is written")
	_, stderr, code = run("fill", "--force", "--data", "bad.json", "form.pdf", "-o", "filled.pdf")
	assert.Zero(t, code, stderr)
}

func TestErrorsAreOneLineThatSaysWhatToDo(t *testing.T) {
	dir, run := command(t)
	require.NoError(t, os.WriteFile(filepath.Join(dir, "letter.pdf"), []byte("Dear office"), 0o600))
	require.NoError(t, os.WriteFile(filepath.Join(dir, "bad.json"), []byte(`{"fields": [`), 0o600))
	require.NoError(t, os.WriteFile(filepath.Join(dir, "off.json"),
		[]byte(`{"fields": [{"type":"text","name":"a","rect":[0,0,9000,10]}]}`), 0o600))
	for _, c := range []struct {
		args []string
		code int
		want string
	}{
		{[]string{"detect", "--json", "nowhere.pdf"}, 1, "does not exist"},
		{[]string{"detect", "--json", "letter.pdf"}, 1, "not a PDF file"},
		{[]string{"inspect", "--json", "letter.pdf"}, 1, "not a PDF file"},
		{[]string{"fill", "--data", "bad.json", "berth.pdf", "-o", "x.pdf"}, 1, "JSON"},
		{[]string{"build", "--template", "bad.json", "berth.pdf", "-o", "x.pdf"}, 1, "JSON"},
		{[]string{"build", "--template", "off.json", "berth.pdf", "-o", "x.pdf"}, 1, "off the page"},
		{[]string{"detect"}, 2, "use: zealous-margin detect"},
		{[]string{"detect", "--frobnicate", "berth.pdf"}, 2, "unknown flag"},
		{[]string{"fill", "berth.pdf"}, 2, "needs --data"},
		{[]string{"build", "berth.pdf"}, 2, "needs --template"},
		{[]string{"conjure"}, 2, "no command"},
		{[]string{"serve"}, 2, "name the database"},
	} {
		stdout, stderr, code := run(c.args...)
		assert.Equal(t, c.code, code, "%v: %s", c.args, stderr)
		assert.Contains(t, stderr, c.want, "%v", c.args)
		assert.Equal(t, 1, strings.Count(stderr, "\n"), "%v: one line: %s", c.args, stderr)
		assert.Empty(t, stdout)
	}
	_, err := os.Stat(filepath.Join(dir, "x.pdf"))
	assert.Error(t, err, "nothing half-written is left")
}

// The demo document knows where a careful person would place its fields.
func TestDetectionOnTheDemoDocument(t *testing.T) {
	_, run := command(t)
	out, _, _ := run("detect", "--json", "berth.pdf")
	var found struct {
		Pages []struct {
			Page   int
			Fields []struct {
				Type string
				Rect geom.Rect
				Name string
			}
		}
	}
	require.NoError(t, json.Unmarshal([]byte(out), &found))
	berth, err := demo.Berth()
	require.NoError(t, err)
	hit, total := 0, 0
	for _, p := range found.Pages {
		total += len(p.Fields)
		for _, w := range berth.Wants {
			for _, f := range p.Fields {
				if w.Page == p.Page && w.Rect.IoU(f.Rect) >= 0.5 && string(w.Kind) == f.Type {
					hit++
					break
				}
			}
		}
	}
	assert.Equal(t, len(berth.Wants), hit, "every wanted field is found")
	assert.Equal(t, len(berth.Wants), total, "and nothing else: neither logo, prices, chart nor rules")
}

// What the owner of a file forbids is respected, until the owner's password is given; looking is allowed.
func TestAFormIsLocked(t *testing.T) {
	dir, run := command(t)
	stdout, stderr, code := run("protect", "--open", "ebb", "--may", "fill", "berth.pdf", "-o", "locked.pdf")
	require.Equal(t, 0, code, stderr)
	assert.Contains(t, stdout, "It opens with a password; who has it may fill it in, but not print it")
	require.Error(t, exec.Command("qpdf", "--check", filepath.Join(dir, "locked.pdf")).Run())
	out, err := exec.Command("qpdf", "--check", "--password=ebb", filepath.Join(dir, "locked.pdf")).CombinedOutput()
	require.NoError(t, err, string(out))
	_, stderr, code = run("protect", "--may", "fly", "berth.pdf", "-o", "locked.pdf")
	assert.Equal(t, 2, code)
	assert.Contains(t, stderr, "use fill, print, copy, change or comment")
	_, _, code = run("protect", "--may", "fill,print,copy,change,comment", "berth.pdf", "-o", "locked.pdf")
	assert.Equal(t, 2, code, "it would lock nothing")
	_, stderr, code = run("protect", "--open", "x", "locked.pdf", "-o", "again.pdf")
	assert.Equal(t, 1, code)
	assert.Contains(t, stderr, "give the password")
}

func TestAFormIsSignedAndChecked(t *testing.T) {
	dir, run := command(t)
	at := func(name string) string { return filepath.Join(dir, name) }
	require.NoError(t, os.WriteFile(at("t.json"), []byte(`{"fields": [{"type":"text","name":"vessel","rect":[100,100,300,120]},
		{"type":"signature","name":"applicant","rect":[100,200,300,260]}]}`), 0o600))
	_, stderr, code := run("build", "--template", "t.json", "berth.pdf", "-o", "form.pdf")
	require.Equal(t, 0, code, stderr)
	for _, c := range [][]string{
		strings.Split("req -x509 -newkey rsa:2048 -nodes -keyout key.pem -out cert.pem -days 30 -subj /CN=Odalys_Quill", " "),
		{"pkcs12", "-export", "-inkey", "key.pem", "-in", "cert.pem", "-out", "c.p12", "-passout", "pass:quay"},
	} {
		cmd := exec.Command("openssl", c...)
		cmd.Dir = dir
		out, err := cmd.CombinedOutput()
		require.NoError(t, err, string(out))
	}
	sign := []string{"sign", "--certificate", "c.p12", "--field", "applicant", "form.pdf", "-o", "signed.pdf", "--password"}
	_, stderr, code = run(append(sign, "ebb")...)
	assert.Equal(t, 1, code)
	assert.Contains(t, stderr, "not the password of the certificate")
	_, stderr, code = run(append(sign, "quay", "--certify", "fill", "--lock", "vessel")...)
	require.Equal(t, 0, code, stderr)
	stdout, stderr, code := run("check", "--trust", "cert.pem", "signed.pdf")
	require.Equal(t, 0, code, stderr)
	assert.Contains(t, stdout, "applicant was signed by Odalys_Quill")
	assert.Contains(t, stdout, "it holds, for all of the file.")
	out, err := exec.Command("pdfsig", "-nocert", at("signed.pdf")).CombinedOutput()
	require.NoError(t, err, string(out))
	assert.Contains(t, string(out), "Signature is Valid")
	b, err := os.ReadFile(at("signed.pdf"))
	require.NoError(t, err)
	b[bytes.Index(b, []byte("applicant"))] ^= 1
	require.NoError(t, os.WriteFile(at("changed.pdf"), b, 0o600))
	stdout, _, code = run("check", "changed.pdf")
	assert.Equal(t, 1, code)
	assert.Contains(t, stdout, "What was signed was changed afterwards.")
	_, stderr, code = run("check", "form.pdf")
	assert.Equal(t, 1, code)
	assert.Contains(t, stderr, "nobody has signed this file")
}

func TestAnOwnersWishIsRespected(t *testing.T) {
	dir, run := command(t)
	require.NoError(t, os.WriteFile(filepath.Join(dir, "t.json"),
		[]byte(`{"fields": [{"type":"text","name":"vessel","rect":[100,100,300,120]}]}`), 0o600))
	require.NoError(t, os.WriteFile(filepath.Join(dir, "d.json"), []byte(`{"vessel": "Gannet"}`), 0o600))
	_, stderr, code := run("build", "--template", "t.json", "berth.pdf", "-o", "form.pdf")
	require.Equal(t, 0, code, stderr)
	for name, allows := range map[string]string{"none.pdf": "none", "form-only.pdf": "form"} {
		out, err := exec.Command("qpdf", "--encrypt", "", "quay", "256", "--modify="+allows, "--",
			filepath.Join(dir, "form.pdf"), filepath.Join(dir, name)).CombinedOutput()
		require.NoError(t, err, string(out))
	}
	for _, c := range []struct {
		args []string
		says string
	}{
		{[]string{"build", "--template", "t.json", "none.pdf"}, "lets nobody change it"},
		{[]string{"build", "--template", "t.json", "form-only.pdf"}, "lets nobody change it"},
		{[]string{"fill", "--data", "d.json", "none.pdf"}, "lets nobody fill it in"},
		{[]string{"fill", "--data", "d.json", "--password", "ebb", "none.pdf"}, "not the password"},
		{[]string{"fill", "--data", "d.json", "form-only.pdf"}, ""},
		{[]string{"fill", "--data", "d.json", "--password", "quay", "none.pdf"}, ""},
		{[]string{"inspect", "--json", "none.pdf"}, ""},
		{[]string{"detect", "--json", "none.pdf"}, ""},
	} {
		args := c.args
		if args[0] == "build" || args[0] == "fill" {
			args = append(args, "-o", "out.pdf")
		}
		_, stderr, code := run(args...)
		assert.Equal(t, map[bool]int{true: 0, false: 1}[c.says == ""], code, "%v: %s", c.args, stderr)
		assert.Contains(t, stderr, c.says, "%v", c.args)
	}
}
