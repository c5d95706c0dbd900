package web_test

import (
	"bytes"
	"net/http"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/demo"
	"zealousmargin.example/internal/pdf/pdftest"
)

// A file that mutool has signed is checked: it holds, and with a byte changed it does not.
func TestASignedFileIsCheckedInSentences(t *testing.T) {
	o := open(t)
	o.signIn()
	file, err := pdftest.Signed()
	require.NoError(t, err)
	code, body := o.send("/signed-files", "signed.pdf", file, nil)
	require.Equal(t, http.StatusOK, code)
	assert.Contains(t, body, "1 signature holds.")
	assert.Contains(t, body, "<strong>GannetQuay</strong> in the field office")
	assert.Contains(t, body, "It holds, for all of the file.")
	bad := bytes.Replace(file, []byte("/TU (Vessel)"), []byte("/TU (Vassal)"), 1)
	require.NotEqual(t, file, bad)
	_, body = o.send("/signed-files", "signed.pdf", bad, nil)
	assert.Contains(t, body, "Do not rely on this file")
	assert.Contains(t, body, "What was signed was changed afterwards.")
	berth, err := demo.Berth()
	require.NoError(t, err)
	_, body = o.send("/signed-files", "berth.pdf", berth.Bytes, nil)
	assert.Contains(t, body, "Nobody has signed this file with a certificate.")
	code, body = o.send("/signed-files", "no.pdf", []byte("no PDF"), nil)
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	assert.Contains(t, body, "This is not a PDF file")
}
