package pdf_test

import (
	"context"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/demo"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/pdf/object"
	"zealousmargin.example/internal/pdf/proof"
	"zealousmargin.example/internal/pdf/read"
	"zealousmargin.example/internal/pdf/write"
)

// aForm is the berth application with a few fields, before and after it is written.
func aForm(t *testing.T) (base, out []byte, draft *form.Template) {
	t.Helper()
	d, err := demo.Berth()
	require.NoError(t, err)
	h, err := read.Check(t.Context(), d.Bytes)
	require.NoError(t, err)
	draft = &form.Template{Pages: h.Pages, Details: form.Details{Title: "Berths", Language: "en"}}
	for i := range draft.Pages {
		draft.Pages[i].ID, draft.Pages[i].N = string(rune('a'+i)), i+1
	}
	for i, f := range []form.Field{
		{Kind: form.Text, Name: "vessel", Required: true, Tooltip: "Name of the vessel", Rect: geom.R(60, 500, 260, 518)},
		{Kind: form.Text, Name: "fee", Rect: geom.R(60, 460, 260, 478), Format: form.Format{Kind: form.Number, Decimals: 2, Currency: "€"}},
		{Kind: form.CheckBox, Name: "insured", Rect: geom.R(60, 420, 74, 434)},
		{Kind: form.Choice, Name: "keel", Options: []form.Option{{Label: "Fin"}, {Label: "Long"}}, Rect: geom.R(60, 380, 260, 398)},
	} {
		f.ID, f.Page, f.Order = form.NewID(), 1, float64(i+1)
		draft.Fields = append(draft.Fields, f)
	}
	out, err = write.Release(d.Bytes, draft)
	require.NoError(t, err)
	return d.Bytes, out, draft
}

func stored(t *testing.T, b []byte) string {
	t.Helper()
	f := filepath.Join(t.TempDir(), "form.pdf")
	require.NoError(t, os.WriteFile(f, b, 0o600))
	return f
}

// told runs a program and gives what it prints.
func told(t *testing.T, name string, args ...string) string {
	t.Helper()
	out, err := exec.Command(name, args...).CombinedOutput()
	require.NoError(t, err, "%s %v: %s", name, args, out)
	return string(out)
}

// line tells what a line of a report says behind its colon.
func line(report, begins string) string {
	for _, l := range strings.Split(report, "\n") {
		if rest, ok := strings.CutPrefix(strings.TrimSpace(l), begins); ok {
			return strings.TrimSpace(rest)
		}
	}
	return ""
}

// What is asked for is what readers of other makes find: qpdf says what each flag of ISO 32000-2, table 22, means, poppler which lock it
// is; both and mutool open it with either password, and none without. The protections are drawn anew each time.
func TestAProtectedFormIsLockedAsOtherReadersTellIt(t *testing.T) {
	base, out, draft := aForm(t)
	seed := rand.Uint64()
	t.Logf("seed %d", seed)
	r := rand.New(rand.NewPCG(seed, 2))
	word := map[bool]string{true: "allowed", false: "not allowed"}
	for i := range 8 {
		p := form.Protection{
			Strength: []form.Strength{form.AES256, form.AES128}[i%2], Open: []string{"", "two words"}[i/2%2], Owner: "Hafenmeister-1",
			Fill: r.IntN(2) == 0, Print: r.IntN(2) == 0, Copy: r.IntN(2) == 0, Change: r.IntN(2) == 0, Comment: r.IntN(2) == 0,
		}
		if p.Check() != nil {
			continue
		}
		if p.Strength == form.AES256 && p.Open != "" {
			p.Open = "zwölf Schlüssel" // UTF-8, prepared by SASLprep (RFC 4013)
		}
		locked, err := write.Protect(out, p)
		require.NoError(t, err)
		file := stored(t, locked)
		report := told(t, "qpdf", "--show-encryption", "--password="+p.Open, file)
		assert.Equal(t, word[p.Print], line(report, "print high resolution:"), report)
		assert.Equal(t, word[p.Copy], line(report, "extract for any purpose:"), report)
		assert.Equal(t, word[p.Fill || p.Comment], line(report, "modify forms:"), report)
		assert.Equal(t, word[p.Comment], line(report, "modify annotations:"), report)
		assert.Equal(t, word[p.Change], line(report, "modify other:"), report)
		assert.Equal(t, word[p.Change], line(report, "modify document assembly:"), report)
		assert.Equal(t, "allowed", line(report, "extract for accessibility:"), report)
		method := map[form.Strength]string{form.AES256: "AESv3", form.AES128: "AESv2"}[p.Strength]
		assert.Equal(t, method, line(report, "stream encryption method:"))
		assert.Equal(t, method, line(report, "string encryption method:"))
		for _, password := range []string{p.Open, p.Owner} {
			assert.Contains(t, told(t, "qpdf", "--check", "--password="+password, file), "No syntax or stream encoding errors")
			assert.Contains(t, told(t, "pdftotext", "-upw", p.Open, "-opw", p.Owner, file, "-"), "Gannet Quay")
			assert.Contains(t, told(t, "mutool", "show", "-p", password, file, "trailer/Root/AcroForm/Fields/1/T"), "vessel")
		}
		if p.Open != "" {
			for _, c := range [][]string{{"qpdf", "--check", file}, {"pdfinfo", file}, {"mutool", "info", "-p", "other", file}} {
				_, err := exec.Command(c[0], c[1:]...).CombinedOutput()
				assert.Error(t, err, "%s opens it without its password", c[0])
			}
		}
		rep, err := proof.Protected(context.Background(), base, locked, draft, p)
		require.NoError(t, err, "%+v", p)
		assert.Contains(t, rep.Sentence(), p.Sentence())
	}
}

// The proof is not the writer's: what was locked in another way than was asked for is named.
func TestTheProofNamesALockThatIsAnother(t *testing.T) {
	base, out, draft := aForm(t)
	asked := form.Protection{Strength: form.AES256, Open: "berth", Owner: "quay", Fill: true, Print: true}
	faults := map[string]func(*form.Protection){
		"may copy":              func(p *form.Protection) { p.Copy = true },
		"may print":             func(p *form.Protection) { p.Print = false },
		"may fill in":           func(p *form.Protection) { p.Fill = false },
		"may change":            func(p *form.Protection) { p.Change = true },
		"may comment":           func(p *form.Protection) { p.Comment = true },
		"with its password":     func(p *form.Protection) { p.Open = "birth" },
		"the owner's password":  func(p *form.Protection) { p.Owner = "key" },
		"version 4, revision 4": func(p *form.Protection) { p.Strength = form.AES128 },
	}
	for says, fault := range faults {
		other := asked
		fault(&other)
		locked, err := write.Protect(out, other)
		require.NoError(t, err)
		_, err = proof.Protected(t.Context(), base, locked, draft, asked)
		assert.ErrorContains(t, err, says)
	}
	other := asked
	other.Open = ""
	open, err := write.Protect(out, other)
	require.NoError(t, err)
	_, err = proof.Protected(t.Context(), base, open, draft, asked)
	require.Error(t, err, "a form that opens without the password")
	_, err = proof.Protected(t.Context(), base, out, draft, asked)
	require.Error(t, err, "a form that is not locked at all")
	less := *draft
	less.Fields = draft.Fields[:3]
	short, err := write.Release(base, &less)
	require.NoError(t, err)
	locked, err := write.Protect(short, asked)
	require.NoError(t, err)
	_, err = proof.Protected(t.Context(), base, locked, draft, asked)
	require.ErrorContains(t, err, "keel", "a field that was lost on the way")
}

func TestALockedFormIsBroughtInWithItsPassword(t *testing.T) {
	_, out, _ := aForm(t)
	locked, err := write.Protect(out, form.Protection{Strength: form.AES256, Open: "berth", Fill: true, Change: true})
	require.NoError(t, err)
	_, err = read.Check(t.Context(), locked)
	require.ErrorIs(t, err, object.ErrEncrypted)
	h, err := read.CheckWith(t.Context(), locked, "berth")
	require.NoError(t, err)
	assert.Equal(t, 4, h.Fields)
}

func TestAProtectionThatCannotBeIsRefusedInWords(t *testing.T) {
	long := strings.Repeat("x", 140)
	for _, p := range []form.Protection{
		{Open: "x"},
		{Strength: "rot13", Open: "x"},
		{Strength: form.AES256, Fill: true, Print: true, Copy: true, Change: true, Comment: true},
		{Strength: form.AES256, Open: "same", Owner: "same"},
		{Strength: form.AES256, Open: long},
		{Strength: form.AES128, Open: long[:40]},
		{Strength: form.AES128, Open: "zwölf"},
		{Strength: form.AES256, Open: "a\x00b"},
		{Strength: form.AES256, Owner: "\xff"},
	} {
		require.Error(t, p.Check(), "%+v", p)
		_, err := write.Protect(nil, p)
		require.Error(t, err)
	}
	for says, p := range map[string]form.Protection{
		"Everybody may open it and do everything with it.": {},
		"It opens with a password; who has it may fill it in, print it, but not copy from it, change it, comment on it (AES-256).": {
			Strength: form.AES256, Open: "x", Fill: true, Print: true,
		},
		"It opens with a password; who has it may read it, but not fill it in, print it, copy from it, change it, " +
			"comment on it (AES-128).": {Strength: form.AES128, Open: "x"},
		"Everybody may open it, fill it in, but not print it, copy from it, change it, comment on it (AES-256).": {
			Strength: form.AES256, Fill: true,
		},
	} {
		assert.Equal(t, says, p.Sentence())
	}
}
