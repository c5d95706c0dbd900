package web_test

import (
	"net/http"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// edition is the address of the newest edition of document 1, and its bytes.
func (o *office) edition() (path string, pdf []byte) {
	o.t.Helper()
	_, body := o.get("/documents/1/release")
	path = regexp.MustCompile(`/editions/\d+/[^"]+\.pdf`).FindString(body)
	require.NotEmpty(o.t, path)
	code, b := o.get(path)
	require.Equal(o.t, http.StatusOK, code)
	return path, []byte(b)
}

// An accessible form is refused until it says in which language it is and every field has a tooltip; then a reader of another make finds
// its structure.
func TestAnAccessibleFormIsReleased(t *testing.T) {
	o := found(t)
	code, _ := o.post("/documents/1/details", url.Values{"language": {""}})
	require.Equal(t, http.StatusOK, code)
	code, body := o.post("/documents/1/editions", url.Values{"anyway": {"yes"}, "profile": {"accessible"}})
	require.Equal(t, http.StatusUnprocessableEntity, code)
	assert.Contains(t, body, "an accessible form says in which language it is")
	code, _ = o.post("/documents/1/details", url.Values{"language": {"en-GB"}, "title": {"Berth application"}})
	require.Equal(t, http.StatusOK, code)
	code, body = o.post("/documents/1/editions", url.Values{"anyway": {"yes"}, "profile": {"accessible"}})
	require.Equal(t, http.StatusOK, code, body)
	assert.Contains(t, body, "Then it was tagged, and held to 15 requirements of ISO 14289-1.")
	assert.Contains(t, body, "It is an accessible form")
	_, pdf := o.edition()
	file := filepath.Join(t.TempDir(), "form.pdf")
	require.NoError(t, os.WriteFile(file, pdf, 0o600))
	out, err := exec.Command("pdfinfo", "-struct-text", file).Output()
	require.NoError(t, err)
	assert.Greater(t, strings.Count(string(out), "  Form\n"), 30)
	assert.Contains(t, string(out), "Table (block)")
	out, err = exec.Command("pdfinfo", file).Output()
	require.NoError(t, err)
	assert.Contains(t, string(out), "Tagged:          yes")
}

func TestEditionsAreComparedWithdrawnAndReleasedAgain(t *testing.T) {
	o := open(t)
	o.signIn()
	_, _ = o.post("/documents/1/find", url.Values{"scope": {"all"}, "stage": {"find"}})
	release := func(v url.Values) string {
		v.Set("anyway", "yes")
		code, body := o.post("/documents/1/editions", v)
		require.Equal(t, http.StatusOK, code, body)
		return body
	}
	body := release(url.Values{"notes": {"for the season"}})
	assert.Contains(t, body, "for the season")
	assert.NotContains(t, body, `id="since"`, "nothing has changed since")
	code, body := o.get("/documents/1/compare")
	require.Equal(t, http.StatusOK, code)
	assert.Contains(t, body, "are the same form")

	f := o.field("date_birth")
	code, body = o.set(f.Name, "name", "first_of_all")
	require.Equal(t, http.StatusOK, code, body)
	_, body = o.get("/documents/1/release")
	assert.Contains(t, body, `id="since"`)
	_, body = o.get("/documents/1/compare")
	assert.Contains(t, body, f.Name+" is now called first_of_all.")
	assert.Contains(t, body, "the column "+f.Name+" goes on as first_of_all.")
	assert.Contains(t, body, `class="other"`, "where it stands is marked")
	release(url.Values{})
	_, body = o.get("/documents/1/compare?from=2&to=1")
	assert.Contains(t, body, "first_of_all is now called "+f.Name+".", "and backwards")
	code, _ = o.get("/documents/1/compare?from=77&to=1")
	assert.Equal(t, http.StatusNotFound, code)

	code, body = o.post("/editions/2/withdraw", url.Values{})
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	assert.Contains(t, strings.ToLower(body), "say why it is withdrawn")
	_, body = o.post("/editions/2/withdraw", url.Values{"reason": {"the first name was right"}})
	assert.Contains(t, body, "the first name was right")

	body = release(url.Values{"again": {"1"}})
	assert.Contains(t, body, "again from edition 1")
	_, body = o.get("/documents/1/compare?from=1&to=3")
	assert.Contains(t, body, "are the same form")
	assert.Contains(t, o.names(), "first_of_all", "the draft stays as it was")
	code, _ = o.post("/documents/1/editions", url.Values{"again": {"99"}})
	assert.Equal(t, http.StatusNotFound, code)

	_, _ = o.post("/editions/1/draft", url.Values{})
	assert.Contains(t, o.names(), f.Name)
	assert.Equal(t, "brought back to edition 1", o.draft(1).Undo)
}

// What goes out locked opens with its password for a reader of another make, and the password is nowhere in the database.
func TestAnEditionIsReleasedLocked(t *testing.T) {
	o := open(t)
	o.signIn()
	_, _ = o.post("/documents/1/find", url.Values{"scope": {"all"}, "stage": {"find"}})
	v := url.Values{
		"anyway": {"yes"}, "lock": {"aes256"}, "open": {"Flut und Ebbe"}, "owner": {"Flut und Ebbe"}, "may-fill": {"yes"},
		"may-print": {"yes"},
	}
	code, body := o.post("/documents/1/editions", v)
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	assert.Contains(t, body, "the two passwords are the same")
	assert.Regexp(t, `value="aes256" selected`, body, "what was chosen is still there")
	assert.NotContains(t, body, "Flut", "but no password")
	v.Set("owner", "Hafenkante")
	code, body = o.post("/documents/1/editions", v)
	require.Equal(t, http.StatusOK, code, body)
	assert.Contains(t, body, "It opens with a password; who has it may fill it in, print it, but not copy from it")
	_, pdf := o.edition()
	file := filepath.Join(t.TempDir(), "locked.pdf")
	require.NoError(t, os.WriteFile(file, pdf, 0o600))
	require.Error(t, exec.Command("qpdf", "--check", file).Run())
	out, err := exec.Command("qpdf", "--check", "--password=Flut und Ebbe", file).CombinedOutput()
	require.NoError(t, err, string(out))
	assert.Contains(t, string(out), "modify forms: allowed")
	for _, table := range []string{"editions", "log", "documents", "edits"} {
		var said bool
		row := o.store.Pool.QueryRow(t.Context(), "select exists(select from "+table+" t where t::text like '%Flut und%')")
		require.NoError(t, row.Scan(&said))
		assert.False(t, said, table)
	}
}

// A form goes out as PDF 2.0, and flat for the archive; nothing is filled into the flat one.
func TestAnEditionGoesOutInItsProfile(t *testing.T) {
	o := found(t)
	code, body := o.post("/documents/1/editions", url.Values{"anyway": {"yes"}, "profile": {"pdf20"}})
	require.Equal(t, http.StatusOK, code, body)
	assert.Contains(t, body, "It is a form of PDF 2.0.")
	_, pdf := o.edition()
	file := filepath.Join(t.TempDir(), "two.pdf")
	require.NoError(t, os.WriteFile(file, pdf, 0o600))
	out, err := exec.Command("pdfinfo", file).CombinedOutput()
	require.NoError(t, err, string(out))
	assert.Contains(t, string(out), "PDF version:     2.0")
	code, body = o.post("/documents/1/editions", url.Values{
		"anyway": {"yes"}, "profile": {"flat"}, "lock": {"aes256"}, "owner": {"quay"},
		"may-print": {"yes"},
	})
	require.Equal(t, http.StatusOK, code, body)
	assert.Contains(t, body, "no script is left")
	_, pdf = o.edition()
	require.NoError(t, os.WriteFile(file, pdf, 0o600))
	out, err = exec.Command("pdfinfo", file).CombinedOutput()
	require.NoError(t, err, string(out))
	assert.Contains(t, string(out), "Form:            none")
	assert.Contains(t, string(out), "print:yes copy:no change:no")
	_, body = o.get("/documents/1/people")
	assert.NotContains(t, body, "edition 2</option>")
	code, body = o.post("/documents/1/editions", url.Values{"anyway": {"yes"}, "profile": {"flat"}})
	require.Equal(t, http.StatusOK, code, body)
	assert.Regexp(t, `It is (PDF/A-2u, held to 21 requirements|not PDF/A: [^.]+\(ISO 19005-2, 6)`, body)
	code, body = o.post("/documents/1/editions", url.Values{"anyway": {"yes"}, "profile": {"pdf3"}})
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	assert.Contains(t, body, "nothing that a form can go out as")
}
