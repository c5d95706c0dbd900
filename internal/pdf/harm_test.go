package pdf_test

import (
	"bytes"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/pdf/pdftest"
	"zealousmargin.example/internal/pdf/read"
	"zealousmargin.example/internal/pdf/write"
)

// hostile is a form with an action of every kind that could harm, in every place (ISO 32000-2, 12.6), beside what a form does for its
// answers.
func hostile() []byte {
	const js = "<< /S /JavaScript /JS (app.alert\\(1\\)) >>"
	return pdftest.Assembled(
		"<< /Type /Catalog /Pages 2 0 R /OpenAction << /S /Launch /Win << /F (setup.exe) >> "+
			"/Next [ << /S /GoToR /F (other.pdf) /D [0 /Fit] >> ] >> "+
			"/AA << /WC "+js+" >> /Names << /JavaScript << /Names [(foreign) "+js+"] >> /EmbeddedFiles << /Names [(a.exe) 9 0 R] >> >> "+
			"/AcroForm << /Fields [5 0 R 6 0 R] /DA (/Helv 10 Tf 0 g) /DR << /Font << /Helv 8 0 R >> >> >> "+
			"/Outlines << /First 10 0 R /Last 10 0 R /Count 1 >> >>",
		"<< /Type /Pages /Kids [3 0 R] /Count 1 >>",
		"<< /Type /Page /Parent 2 0 R /MediaBox [0 0 400 600] /Annots [4 0 R 5 0 R 6 0 R 7 0 R] /AA << /O "+js+" /C "+js+" >> >>",
		"<< /Type /Annot /Subtype /Link /Rect [10 10 60 30] /A << /S /Launch /F (calc.exe) >> >>",
		"<< /Type /Annot /Subtype /Widget /FT /Tx /T (vessel) /F 4 /Rect [40 320 240 340] /DA (/Helv 10 Tf 0 g) /AA << /K "+
			"<< /S /JavaScript /JS (event.rc = true;) >> /Fo << /S /ImportData /F (data.fdf) >> >> >>",
		"<< /Type /Annot /Subtype /Widget /FT /Btn /Ff 65536 /T (go) /F 4 /Rect [40 280 140 300] "+
			"/DA (/Helv 10 Tf 0 g) /A << /S /Launch /F (x) >> >>",
		"<< /Type /Annot /Subtype /Link /Rect [80 10 140 30] /A << /S /URI /URI (https://gannet-quay.example/) >> >>",
		"<< /Type /Font /Subtype /Type1 /BaseFont /Helvetica >>",
		"<< /Type /Filespec /F (a.exe) /EF << /F 11 0 R >> >>",
		"<< /Title (Bookmark) /A << /S /GoToR /F (third.pdf) /D [0 /Fit] >> >>",
		"<< /Type /EmbeddedFile /Length 2 >>\nstream\nMZ\nendstream",
	)
}

// What a stranger's file does by itself is listed with what it is, and left out of a release unless somebody keeps it; mutool, which
// shares no code with the writer, finds none of it then.
func TestWhatAFileDoesByItselfIsLeftOutUnlessKept(t *testing.T) {
	src := hostile()
	list, err := read.Leftovers(src)
	require.NoError(t, err)
	assert.Equal(t, "actions,attachments", read.LeftUnasked(list))
	var said string
	for _, l := range list {
		if l.Key == read.LeaveActions {
			said = l.What
		}
	}
	for _, want := range []string{
		"starts a program (setup.exe) when the document is opened", "opens another file (other.pdf) when the document is opened",
		"runs a script when the document is closed", "runs 1 script when the document is opened", "runs a script when page 1 is shown",
		"starts a program (calc.exe) when something is pressed on page 1", "opens another file (third.pdf) when a bookmark is pressed",
	} {
		if !strings.Contains(said, want) && !strings.Contains(said, "more") {
			assert.Contains(t, said, want)
		}
	}
	assert.NotContains(t, said, "gannet-quay", "a link to a page is none of it")

	tpl := draftOf(t, src)
	inside := func(b []byte) string {
		name := filepath.Join(t.TempDir(), "out.pdf")
		require.NoError(t, os.WriteFile(name, b, 0o600))
		out, err := exec.Command("mutool", "show", name, "trailer", "grep").CombinedOutput()
		require.NoError(t, err, string(out))
		return string(out)
	}
	kept := inside(releaseOf(t, src, tpl))
	for _, bad := range []string{"setup.exe", "other.pdf", "calc.exe", "data.fdf", "a.exe", "app.alert", "third.pdf"} {
		assert.Contains(t, kept, bad, "kept by a person, all stays")
	}
	tpl.Details.Leave = "actions,attachments"
	left := inside(releaseOf(t, src, tpl))
	for _, bad := range []string{"Launch", "GoToR", "setup.exe", "other.pdf", "calc.exe", "a.exe", "app.alert", "third.pdf"} {
		assert.NotContains(t, left, bad)
	}
	f := tpl.Fields[slices.IndexFunc(tpl.Fields, func(f form.Field) bool { return f.Name == "vessel" })]
	assert.NotEmpty(t, f.Steps, "what a row can say of its field stands at the field, where a person sees it")
	assert.Contains(t, left, "event.rc", "what belongs to the answer stays")
	assert.Contains(t, left, "gannet-quay.example", "and an ordinary link")
	assert.Contains(t, left, "vessel")

	// a script that was added here stays, one that came does not
	tpl.Details.Events = append(tpl.Details.Events, form.Step{When: form.DocumentOpened, Do: form.RunScript, Script: "var ours = 1;"})
	out := inside(releaseOf(t, src, tpl))
	assert.Contains(t, out, "var ours")
	assert.NotContains(t, out, "app.alert")
	base, _, err := write.Base(tpl, write.Sources{File: func(string) ([]byte, error) { return src, nil }})
	require.NoError(t, err)
	assert.False(t, bytes.HasPrefix(base, src))
}
