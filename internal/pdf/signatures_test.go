package pdf_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/pdf/pdftest"
	"zealousmargin.example/internal/pdf/write"
)

// A signature of another program holds after a release, as a third one sees it: the signed bytes stay (ISO 32000-2, 12.8.1).
func TestSignaturesOfOthersStayValid(t *testing.T) {
	src, err := pdftest.Signed()
	require.NoError(t, err)
	sources := write.Sources{File: func(string) ([]byte, error) { return src, nil }}
	require.Contains(t, tool(t, src, "pdfsig", "IN"), "Signature is Valid")
	draft := draftOf(t, src)
	require.NoError(t, draft.Apply(form.Edit{After: []form.Field{{
		ID: form.NewID(), Page: 1, Order: 9, Kind: form.Text, Name: "berth", Tooltip: "Berth", Rect: geom.R(40, 300, 200, 320),
	}}}))
	draft.Details.Title = "Signed once"
	hold, end, err := write.Signatures(draft, sources)
	require.NoError(t, err)
	require.Len(t, hold, 1)
	assert.Empty(t, end)
	assert.Contains(t, hold[0].Words(), "the signature in office")
	out := releaseOf(t, src, draft)
	said := tool(t, out, "pdfsig", "IN")
	assert.Contains(t, said, "Signature is Valid")
	assert.Contains(t, said, "Not total document signed")

	draft.Pages[0].Rotate = 90 // the page is assembled anew
	hold, end, err = write.Signatures(draft, sources)
	require.NoError(t, err)
	assert.Empty(t, hold)
	assert.Len(t, end, 1)
	assert.NotContains(t, tool(t, releaseOf(t, src, draft), "pdfsig", "IN"), "Signature is Valid")
}

// A signature that certifies the document holds the form itself: it ends with any release.
func TestACertifyingSignatureEndsWithTheRelease(t *testing.T) {
	src := assembled(
		"<< /Type /Catalog /Pages 2 0 R /AcroForm << /Fields [4 0 R] /SigFlags 3 >> /Perms << /DocMDP 5 0 R >> >>",
		"<< /Type /Pages /Kids [3 0 R] /Count 1 >>",
		"<< /Type /Page /Parent 2 0 R /MediaBox [0 0 400 600] /Annots [4 0 R] >>",
		"<< /Type /Annot /Subtype /Widget /FT /Sig /T (office) /F 4 /Rect [40 400 200 440] /P 3 0 R /V 5 0 R >>",
		"<< /Type /Sig /Filter /Adobe.PPKLite /SubFilter /adbe.pkcs7.detached /Name (Harbour Office) /M (D:20260504101112Z) "+
			"/Reference [<< /Type /SigRef /TransformMethod /DocMDP /TransformParams << /P 2 >> >>] /ByteRange [0 1 2 3] /Contents <00> >>",
	)
	_, end, err := write.Signatures(draftOf(t, src), write.Sources{File: func(string) ([]byte, error) { return src, nil }})
	require.NoError(t, err)
	require.Len(t, end, 1)
	assert.Equal(t, "the certifying signature in office by Harbour Office of 4 May 2026", end[0].Words())
}
