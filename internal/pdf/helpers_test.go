package pdf_test

import (
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/pdf/pdftest"
)

// plain writes a small PDF by hand: pages with the given extra entries and one content stream each.
func plain(pages ...string) []byte {
	kids := ""
	for i := range pages {
		kids += fmt.Sprintf("%d 0 R ", 4+2*i)
	}
	objects := []string{
		"<< /Type /Catalog /Pages 2 0 R >>",
		fmt.Sprintf("<< /Type /Pages /Kids [%s] /Count %d /MediaBox [0 0 400 600] >>", kids, len(pages)),
		"<< /Type /Font /Subtype /Type1 /BaseFont /Helvetica /Encoding /WinAnsiEncoding >>",
	}
	for i, extra := range pages {
		c := "BT /F1 12 Tf 60 503 Td (Name) Tj ET\n0.8 w 120 500 m 320 500 l S\n"
		objects = append(objects,
			fmt.Sprintf("<< /Type /Page /Parent 2 0 R /Resources << /Font << /F1 3 0 R >> >> /Contents %d 0 R %s >>", 5+2*i, extra),
			fmt.Sprintf("<< /Length %d >>\nstream\n%sendstream", len(c), c))
	}
	return assembled(objects...)
}

// assembled is a PDF of some objects, the catalog first, with a classic cross-reference table (ISO 32000-2, 7.5.4).
func assembled(objects ...string) []byte { return pdftest.Assembled(objects...) }

// tool runs a Debian program on a file and returns what it prints. It fails the
// test when the program is missing: make test installs it.
func tool(t *testing.T, b []byte, name string, args ...string) string {
	t.Helper()
	dir := t.TempDir()
	in := filepath.Join(dir, "in.pdf")
	require.NoError(t, os.WriteFile(in, b, 0o600))
	for i, a := range args {
		switch a {
		case "IN":
			args[i] = in
		case "OUT":
			args[i] = filepath.Join(dir, "out.pdf")
		}
	}
	out, err := exec.Command(name, args...).CombinedOutput()
	require.NoError(t, err, "%s %v: %s", name, args, out)
	if made, err := os.ReadFile(filepath.Join(dir, "out.pdf")); err == nil {
		return string(made)
	}
	return string(out)
}

// sound is what qpdf says of a file without faults.
func sound(t *testing.T, b []byte) {
	t.Helper()
	require.Contains(t, tool(t, b, "qpdf", "--check", "IN"), "No syntax or stream encoding errors found")
}

// every is a template with a field of each kind on page 1.
func every(pages []form.Page) *form.Template {
	t := &form.Template{Pages: pages}
	row := 0.0
	add := func(f form.Field) {
		row++
		f.ID, f.Page, f.Order = fmt.Sprint("id", row), 1, row
		if f.Rect.Empty() {
			f.Rect = geom.R(60, 560-row*28, 260, 580-row*28)
		}
		t.Fields = append(t.Fields, f)
	}
	add(form.Field{Kind: form.Text, Name: "vessel_name", Tooltip: "Name of the vessel", Required: true})
	add(form.Field{Kind: form.Text, Name: "remarks", Tooltip: "Bemerkungen für Łódź", Multiline: true, Rect: geom.R(60, 100, 260, 160)})
	add(form.Field{Kind: form.Text, Name: "registration_no", Tooltip: "Registration number", Comb: 8, MaxLen: 8})
	add(form.Field{Kind: form.Text, Name: "owner", Tooltip: "Owner (as registered)", ReadOnly: true, Default: "Office", MaxLen: 20})
	add(form.Field{
		Kind: form.Text, Name: "arrival", Tooltip: "Day of arrival",
		Format: form.Format{Kind: form.Date, Pattern: "dd.mm.yyyy"},
	})
	add(form.Field{Kind: form.Text, Name: "length", Tooltip: "Length", Format: form.Format{Kind: form.Number, Decimals: 2}})
	add(form.Field{Kind: form.CheckBox, Name: "shore_power", Tooltip: "Shore power", Rect: geom.R(300, 500, 310, 510)})
	add(form.Field{Kind: form.Radio, Name: "keel", Tooltip: "Keel", Export: "fin", Rect: geom.R(300, 460, 310, 470)})
	add(form.Field{Kind: form.Radio, Name: "keel", Tooltip: "Keel", Export: "größe 2", Rect: geom.R(330, 460, 340, 470)})
	add(form.Field{
		Kind: form.Choice, Name: "berth", Tooltip: "Berth",
		Options: []form.Option{{Label: "North pier", Export: "N"}, {Label: "South pier"}},
	})
	add(form.Field{Kind: form.Signature, Name: "signature", Tooltip: "Signature"})
	add(form.Field{Kind: form.Button, Name: "clear", Tooltip: "Clear", Caption: "Clear", Action: form.Action{Do: form.ClearForm}})
	add(form.Field{
		Kind: form.Button, Name: "print", Tooltip: "Print", Caption: "Drucken größer",
		Action: form.Action{Do: form.PrintForm},
	})
	add(form.Field{
		Kind: form.Button, Name: "send", Tooltip: "Send", Caption: "Send",
		Action: form.Action{Do: form.SubmitForm, URL: "https://office.example/returns?a=(b)"},
	})
	return t
}
