package web_test

import (
	"archive/zip"
	"bytes"
	"io"
	"mime/multipart"
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

	"zealousmargin.example/demo"
	"zealousmargin.example/internal/form"
)

// send posts a file with other values.
func (o *office) send(path, name string, b []byte, v url.Values) (int, string) {
	return o.parts(path, v, map[string]sentFile{"file": {name, b}})
}

// sentFile is a file of a form, with its name.
type sentFile struct {
	name  string
	bytes []byte
}

// parts posts values and files, by the keys of the form.
func (o *office) parts(path string, v url.Values, files map[string]sentFile) (int, string) {
	o.t.Helper()
	var body bytes.Buffer
	w := multipart.NewWriter(&body)
	for k, all := range v {
		for _, x := range all {
			require.NoError(o.t, w.WriteField(k, x))
		}
	}
	for k, file := range files {
		f, err := w.CreateFormFile(k, file.name)
		require.NoError(o.t, err)
		_, err = f.Write(file.bytes)
		require.NoError(o.t, err)
	}
	require.NoError(o.t, w.Close())
	req, err := http.NewRequest(http.MethodPost, o.url+path, &body)
	require.NoError(o.t, err)
	req.Header.Set("Content-Type", w.FormDataContentType())
	req.Header.Set("X-CSRF-Token", o.token)
	code, said, _ := o.do(req)
	return code, said
}

func TestTheRosterIsSearchedAndBroughtUpToDate(t *testing.T) {
	o := open(t)
	o.signIn()
	_, body := o.get("/roster")
	assert.Contains(t, body, "1 to 25 of 40")
	_, body = o.get("/roster?search=petrel")
	assert.Contains(t, body, "1 to 1 of 1")
	assert.Contains(t, body, "Ida Marl")
	_, body = o.get("/roster?search=nobody+of+this+name")
	assert.Contains(t, body, `id="nobody"`)
	code, csv := o.get("/roster.csv")
	require.Equal(t, http.StatusOK, code)
	assert.ElementsMatch(t, strings.Split(string(demo.Owners), "\n"), strings.Split(csv, "\n"), "it comes out as it came in")
	code, body = o.send("/roster", "owners.csv", []byte("Customer number,Telephone\nGQ-1001,'+49 555\nGQ-2,'=1+1\n,0\n"), nil)
	require.Equal(t, http.StatusOK, code)
	assert.Contains(t, body, "1 new, 1 changed, 0 as they were, 0 taken out")
	assert.Contains(t, body, "line 4: it has nothing in the column Customer number")
	people, _, err := o.store.RosterPeople(t.Context(), "ida marl", 0, 1)
	require.NoError(t, err)
	assert.Equal(t, "+49 555", people[0].Data["telephone"])
	_, csv = o.get("/roster.csv")
	assert.Contains(t, csv, "'=1+1", "no spreadsheet works it out")
	for name, b := range map[string]string{"x.csv": "Name\n", "x.pdf": "%PDF-1.7\x00", "x.xlsx": "PK\x03\x04"} {
		code, body = o.send("/roster", name, []byte(b), nil)
		assert.Equal(t, http.StatusUnprocessableEntity, code)
		assert.Contains(t, body, `role="alert"`)
	}
	code, _ = o.post("/roster/1/drop", nil)
	assert.Equal(t, http.StatusOK, code)
	code, _ = o.post("/roster/1/drop", nil)
	assert.Equal(t, http.StatusNotFound, code)
}

// copies waits until the copies that were asked for last are there, and gives them by their names.
func (o *office) copies() (map[string][]byte, string) {
	o.t.Helper()
	var body string
	o.eventually(func() bool {
		_, body = o.get("/documents/1/people/copies")
		return !strings.Contains(body, "hx-trigger")
	}, "the copies are there")
	_, body = o.get("/documents/1/people")
	path := regexp.MustCompile(`/fillings/\d+/file`).FindString(body)
	if path == "" {
		return nil, body
	}
	code, b := o.get(path)
	require.Equal(o.t, http.StatusOK, code)
	out := map[string][]byte{}
	z, err := zip.NewReader(strings.NewReader(b), int64(len(b)))
	if err != nil {
		return map[string][]byte{"": []byte(b)}, body
	}
	for _, f := range z.File {
		r, err := f.Open()
		require.NoError(o.t, err)
		out[f.Name], err = io.ReadAll(r)
		require.NoError(o.t, err)
	}
	return out, body
}

// text is what a reader of another make finds on a form, its answers included.
func text(t *testing.T, pdf []byte) string {
	t.Helper()
	file := filepath.Join(t.TempDir(), "copy.pdf")
	require.NoError(t, os.WriteFile(file, pdf, 0o600))
	out, err := exec.Command("pdftotext", "-layout", file, "-").CombinedOutput()
	require.NoError(t, err, string(out))
	return string(out)
}

func TestAFormIsFilledInForPeople(t *testing.T) {
	o := found(t)
	_, body := o.get("/documents/1/people")
	assert.Contains(t, body, "release one")
	assert.Contains(t, body, `id="take-all"`)
	code, body := o.post("/documents/1/editions", url.Values{"anyway": {"yes"}})
	require.Equal(t, http.StatusOK, code, body)
	code, body = o.post("/documents/1/people", url.Values{"edition": {"1"}, "whom": {"found"}})
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	assert.Contains(t, body, "No field of this edition takes anything")
	code, _ = o.post("/documents/1/sources", nil)
	require.Equal(t, http.StatusOK, code)
	assert.Equal(t, form.FromPerson, o.field("name_vessel").Source)
	assert.Equal(t, "vessel_name", o.field("name_vessel").Datum)
	_, body = o.get("/documents/1/people")
	assert.NotContains(t, body, `id="take-all"`, "all at once")
	o.set("date_birth", "format", "date")
	o.set("date_birth", "pattern", "yyyy-mm-dd")
	o.set("telephone", "format", "email") // which refuses what the office has
	code, _ = o.post("/documents/1/people", url.Values{"edition": {"1"}, "whom": {"found"}, "search": {"quill"}})
	require.Equal(t, http.StatusOK, code, "sources may be said after the release")
	one, _ := o.copies()
	assert.Contains(t, text(t, one["berth-application-edition-1-odalys-quill.pdf"]), "Two Sisters")
	code, body = o.post("/documents/1/editions", url.Values{"anyway": {"yes"}})
	require.Equal(t, http.StatusOK, code, body)

	code, body = o.post("/documents/1/people", url.Values{"edition": {"2"}, "whom": {"chosen"}})
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	assert.Contains(t, body, "Choose somebody first")
	code, _ = o.post("/documents/1/people", url.Values{"edition": {"2"}, "whom": {"found"}, "search": {"upper sandle"}, "as": {"live"}})
	require.Equal(t, http.StatusOK, code)
	all, body := o.copies()
	require.Len(t, all, 8)
	require.NotNil(t, all["berth-application-edition-2-odalys-quill.pdf"])
	said := text(t, all["berth-application-edition-2-odalys-quill.pdf"])
	for _, s := range []string{
		"Odalys Quill", "Two Sisters", "1948-02-12", "7.93", "odalys.quill@mail.example", "14 Old Ropewalk, GQ4 2BQ Upper Sandle",
	} {
		assert.Contains(t, said, s)
	}
	assert.NotContains(t, said, "0555")
	assert.Contains(t, body, "8 answers were refused or do not fit")
	assert.Contains(t, body, "<td>Odalys Quill</td><td>telephone</td>")

	table := "Customer number,Name,Name of vessel\n1,Somebody Else,Guillemot\n" +
		"2,\"A name that is much too long for the line on which it stands, " + strings.Repeat("and so goes on ", 8) + "\",\n"
	asked := url.Values{"edition": {"2"}, "whom": {"table"}, "as": {"one"}}
	code, body = o.send("/documents/1/people", "table.csv", []byte(table), asked)
	require.Equal(t, http.StatusOK, code, body)
	all, body = o.copies()
	require.Len(t, all, 1)
	said = text(t, all[""])
	assert.Contains(t, said, "Guillemot")
	assert.Contains(t, said, "Somebody Else")
	assert.Contains(t, body, "too small to read")
	assert.Contains(t, body, "1 answer was refused or does not fit")
	file := filepath.Join(t.TempDir(), "one.pdf")
	require.NoError(t, os.WriteFile(file, all[""], 0o600))
	out, err := exec.Command("qpdf", "--check", file).CombinedOutput()
	require.NoError(t, err, string(out))
	out, err = exec.Command("qpdf", "--show-npages", file).CombinedOutput()
	require.NoError(t, err)
	assert.Equal(t, "4", strings.TrimSpace(string(out)))
	_, total, err := o.store.RosterPeople(t.Context(), "guillemot", 0, 1)
	require.NoError(t, err)
	assert.Zero(t, total, "nobody of the table is kept")
}
