package pdf_test

import (
	"bytes"
	"fmt"
	"image"
	_ "image/png"
	"math/rand/v2"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/makiuchi-d/gozxing"
	"github.com/makiuchi-d/gozxing/qrcode"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/pdf/fill"
	"zealousmargin.example/internal/pdf/write"
)

// drawnBy is the first page of a file as a reader draws it, at 150 dots an inch.
func drawnBy(t *testing.T, reader string, b []byte) image.Image {
	t.Helper()
	in := stored(t, b)
	out := filepath.Join(t.TempDir(), "page")
	if reader == "poppler" {
		told(t, "pdftoppm", "-png", "-r", "150", "-singlefile", in, out)
		out += ".png"
	} else {
		out += ".png"
		told(t, "mutool", "draw", "-q", "-r", "150", "-o", out, in, "1")
	}
	raw, err := os.ReadFile(out)
	require.NoError(t, err)
	img, _, err := image.Decode(bytes.NewReader(raw))
	require.NoError(t, err)
	return img
}

// codeSays is what a reader of codes of another make reads in a picture.
func codeSays(t *testing.T, img image.Image) string {
	t.Helper()
	bits, err := gozxing.NewBinaryBitmapFromImage(img)
	require.NoError(t, err)
	r, err := qrcode.NewQRCodeReader().Decode(bits, map[gozxing.DecodeHintType]any{gozxing.DecodeHintType_TRY_HARDER: true})
	require.NoError(t, err)
	return r.GetText()
}

// A link on a page is read back by a general reader of codes (ISO/IEC 18004) as two readers draw it: on pages that are turned, and on ones
// whose box does not begin at nought.
func TestTheCodeOfALinkIsRead(t *testing.T) {
	for _, extra := range []string{"", "/Rotate 90", "/Rotate 180", "/Rotate 270", "/MediaBox [100 200 500 800]"} {
		link := fmt.Sprintf("https://forms.gannet-quay.example/f/%026d?ref=%d", rand.Int64(), rand.IntN(1e6))
		src := plain(extra, "")
		out, err := write.LinkCode(src, link, 1, geom.R(300, 30, 368, 98))
		require.NoError(t, err)
		assert.True(t, bytes.HasPrefix(out, src), "all else stays as it is")
		assert.Contains(t, told(t, "qpdf", "--check", stored(t, out)), "No syntax or stream encoding errors")
		for _, reader := range []string{"poppler", "mutool"} {
			assert.Equal(t, link, codeSays(t, drawnBy(t, reader, out)), "%s %s", reader, extra)
		}
		assert.Contains(t, told(t, "pdftotext", stored(t, out), "-"), "Name", "and what is written there, too")
	}
	_, err := write.LinkCode(plain(""), "https://x.example", 2, geom.R(0, 0, 50, 50))
	require.ErrorContains(t, err, "no page 2")
	_, err = write.LinkCode(plain(""), strings.Repeat("long", 2000), 1, geom.R(0, 0, 50, 50))
	require.ErrorContains(t, err, "too long")
}

// Wherever a form sends its answers to one address, it sends them to the other; what goes elsewhere still does. qpdf, which knows nothing
// of it, finds the addresses.
func TestAFormSendsItsAnswersElsewhere(t *testing.T) {
	const ours, theirs, elsewhere = "https://office.example/in/DOCUMENT", "https://office.example/in/LINK", "https://other.example/take"
	base, _, draft := aForm(t)
	send := func(url string) form.Step { return form.Step{When: form.WhenPressed, Do: form.SubmitForm, URL: url} }
	draft.Fields = append(draft.Fields,
		form.Field{
			ID: form.NewID(), Page: 1, Kind: form.Button, Name: "one", Order: 90, Rect: geom.R(60, 340, 160, 358),
			Action: form.Action{Do: form.SubmitForm, URL: ours},
		},
		form.Field{
			ID: form.NewID(), Page: 1, Kind: form.Button, Name: "two", Order: 91, Rect: geom.R(60, 310, 160, 328),
			Steps: []form.Step{
				{When: form.WhenPressed, Do: form.ClearForm},
				send(elsewhere),
				send(ours),
				{When: form.PointerIn, Do: form.SubmitForm, URL: ours},
			},
		},
	)
	out, err := write.Release(base, draft)
	require.NoError(t, err)
	addresses := func(b []byte) (n map[string]int) {
		n = map[string]int{}
		all := told(t, "qpdf", "--json", "--json-key=qpdf", stored(t, b))
		for _, a := range []string{ours, theirs, elsewhere} {
			n[a] = strings.Count(all, a)
		}
		return n
	}
	had := addresses(out)
	require.Equal(t, 3, had[ours])
	to, err := fill.Readdress(out, ours, theirs)
	require.NoError(t, err)
	assert.True(t, bytes.HasPrefix(to, out))
	assert.Equal(t, map[string]int{ours: 0, theirs: had[ours], elsewhere: had[elsewhere]}, addresses(to))
	same, err := fill.Readdress(out, "https://nobody.example", theirs)
	require.NoError(t, err)
	assert.Equal(t, out, same)
}
