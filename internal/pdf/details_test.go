package pdf_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/pdf/proof"
	"zealousmargin.example/internal/pdf/read"
)

// withPacket is a file with an XMP packet of another program.
func withPacket(packet string) []byte {
	return assembled(
		"<< /Type /Catalog /Pages 2 0 R /Metadata 4 0 R >>",
		"<< /Type /Pages /Kids [3 0 R] /Count 1 >>",
		"<< /Type /Page /Parent 2 0 R /MediaBox [0 0 400 600] >>",
		fmt.Sprintf("<< /Type /Metadata /Subtype /XML /Length %d >>\nstream\n%s\nendstream", len(packet), packet),
	)
}

const packetHead = "<?xpacket begin=\"\ufeff\" id=\"W5M0MpCehiHzreSzNTczkc9d\"?>" +
	`<x:xmpmeta xmlns:x="adobe:ns:meta/"><r:RDF xmlns:r="http://www.w3.org/1999/02/22-rdf-syntax-ns#">`

// A packet is changed, not replaced: what else it says stays, byte for byte, under whatever prefixes (ISO 16684-1, 7).
func TestMetadataIsChangedAndNotReplaced(t *testing.T) {
	const other = `<r:Description r:about="" xmlns:q="https://quay.example/ns/"><q:Archive>shelf &amp; box 7</q:Archive><!-- kept --></r:Description>`
	const tail = `</r:RDF></x:xmpmeta><?xpacket end="w"?>`
	for name, c := range map[string]struct{ packet, says string }{
		"a title in two languages": {
			packetHead + other + `<r:Description r:about="" xmlns:d="http://purl.org/dc/elements/1.1/"><d:title><r:Alt>` +
				`<r:li xml:lang="de">Antrag</r:li><r:li xml:lang="x-default">Old</r:li></r:Alt></d:title></r:Description>` + tail,
			`<r:li xml:lang="de">Antrag</r:li><r:li xml:lang="x-default">Berth &lt;1&gt;</r:li>`,
		},
		"an empty title in one tag, beside another language": {
			packetHead + other + `<r:Description r:about="" xmlns:d="http://purl.org/dc/elements/1.1/"><d:title><r:Alt>` +
				`<r:li xml:lang="x-default"/><r:li xml:lang="de">Antrag</r:li></r:Alt></d:title></r:Description>` + tail,
			`<r:li xml:lang="x-default">Berth &lt;1&gt;</r:li><r:li xml:lang="de">Antrag</r:li>`,
		},
		"no title":         {packetHead + other + tail, "Berth &lt;1&gt;</rdf:li>"},
		"nothing but ends": {packetHead + `<r:Description r:about=""/>` + other + tail, "Berth &lt;1&gt;</rdf:li>"},
		"an empty frame":   {packetHead + tail, "Berth &lt;1&gt;</rdf:li>"},
	} {
		t.Run(name, func(t *testing.T) {
			src := withPacket(c.packet)
			draft := draftOf(t, src)
			draft.Details.Title, draft.Details.Language = "Berth <1>", "en"
			out := releaseOf(t, src, draft)
			sound(t, out)
			packet := packetOf(t, out)
			assert.Contains(t, packet, c.says)
			if strings.Contains(c.packet, other) {
				assert.Contains(t, packet, strings.TrimSuffix(other, "</r:Description>"))
			}
			assert.Contains(t, tool(t, out, "pdfinfo", "IN"), "Berth <1>")
			said := tool(t, out, "pdfinfo", "-meta", "IN")
			assert.Contains(t, said, "Berth &lt;1&gt;", "poppler reads it")
			again := draftOf(t, out)
			assert.Equal(t, "Berth <1>", again.Details.Title)
			again.Details.Title = ""
			assert.NotContains(t, packetOf(t, releaseOf(t, out, again)), "Berth")
		})
	}
}

func TestMetadataThatLosesSomethingIsNotReleased(t *testing.T) {
	on := func(shelf string) []byte {
		return withPacket(packetHead + `<r:Description r:about="" xmlns:q="https://quay.example/ns/"><q:Archive>` + shelf +
			`</q:Archive></r:Description></r:RDF></x:xmpmeta><?xpacket end="w"?>`)
	}
	src, other := on("shelf 7"), on("shelf 8")
	draft := draftOf(t, src)
	draft.Details.Title = "Berth"
	theirs := releaseOf(t, other, draft)
	broken := slices.Concat(src, theirs[len(other):]) // the update of the other file
	assert.ErrorContains(t, proof.ProveRelease(t.Context(), src, broken, draft), "metadata")
}

func packetOf(t *testing.T, b []byte) string {
	t.Helper()
	said := tool(t, b, "pdfinfo", "-meta", "IN")
	require.NotEmpty(t, said)
	_, err := read.Widgets(b)
	require.NoError(t, err)
	return said
}
