package web_test

import (
	"archive/zip"
	"bytes"
	"encoding/json"
	"encoding/xml"
	"fmt"
	"image"
	"image/png"
	"io"
	"net/http"
	"net/http/httptest"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/pdf/fill"
	"zealousmargin.example/internal/pdf/read"
	"zealousmargin.example/internal/store"
)

// linked is an office with an edition and an open link to it.
func linked(t *testing.T, terms url.Values) (o, c *office, token string) {
	t.Helper()
	o = released(t)
	terms.Set("edition", "1")
	terms.Set("note", "here")
	code, body := o.post("/documents/1/links", terms)
	require.Equal(t, http.StatusOK, code, body)
	return o, o.caller(), o.tokens()["here"]
}

// follows asks what follows from answers, as the page does.
func (o *office) follows(token string, v map[string]any) (int, map[string]any) {
	o.t.Helper()
	b, err := json.Marshal(v)
	require.NoError(o.t, err)
	res, err := http.Post(o.url+"/f/"+token+"/answers", "application/json", bytes.NewReader(b))
	require.NoError(o.t, err)
	defer res.Body.Close()
	said, err := io.ReadAll(res.Body)
	require.NoError(o.t, err)
	out := map[string]any{}
	_ = json.Unmarshal(said, &out)
	return res.StatusCode, out
}

// A form is filled in on the web by whoever has its link: its questions stand there in order, the rules answer, what is begun is come
// back to by a code, and what is sent arrives as answers and as a PDF. It works where no script runs, too.
func TestAFormIsFilledInOnTheWeb(t *testing.T) {
	o, c, token := linked(t, url.Values{})
	_, body := c.get("/f/" + token)
	assert.Contains(t, body, `id="here"`)
	assert.Contains(t, body, "/fill?as=pages", "on a wide screen it is filled in on its pages")
	code, body := c.get("/f/" + token + "/fill")
	require.Equal(t, http.StatusOK, code)
	assert.Contains(t, body, "Name of vessel")
	assert.Less(t, strings.Index(body, "Name of applicant"), strings.Index(body, "Name of vessel"), "in tab order")
	assert.NotContains(t, body, "/sign-in")
	code, body = c.get("/f/" + token + "/fill?as=pages")
	require.Equal(t, http.StatusOK, code)
	picture := regexp.MustCompile(`/f/\w+/pages/2\?[^"]*`).FindString(body)
	require.NotEmpty(t, picture)
	code, img := c.get(strings.ReplaceAll(picture, "&amp;", "&"))
	require.Equal(t, http.StatusOK, code)
	assert.True(t, strings.HasPrefix(img, "\x89PNG"))

	code, state := c.follows(token, map[string]any{"answers": map[string]string{"name_vessel": "Petrel", "date_birth": "31.02.1971"}})
	require.Equal(t, http.StatusOK, code)
	assert.Contains(t, state["refused"], "date_birth")
	code, state = c.follows(token, map[string]any{"answers": map[string]string{"name_vessel": "Petrel"}, "keep": true})
	require.Equal(t, http.StatusOK, code)
	kept, _ := state["code"].(string)
	require.Len(t, kept, 10)
	code, body = c.get("/f/" + token + "/fill?code=" + strings.ToLower(kept))
	require.Equal(t, http.StatusOK, code)
	assert.Contains(t, body, `value="Petrel"`)
	code, _ = c.get("/f/" + token + "/fill?code=GUESSED")
	assert.Equal(t, http.StatusNotFound, code)

	// refused: nothing is kept, and what was typed is still there
	code, body = c.parts("/f/"+token+"/fill", url.Values{"a.name_vessel": {"Petrel"}, "a.date_birth": {"31.02.1971"}}, nil)
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	assert.Contains(t, body, "31.02.1971")
	all, err := o.store.Returns(t.Context(), 1)
	require.NoError(t, err)
	assert.Empty(t, all)

	// sent, without a script, with a file, and signed
	code, body = c.parts("/f/"+token+"/fill", url.Values{
		"a.name_vessel": {
			"Petrel",
		}, "a.name_applicant": {"Łucja Brandt"}, "name": {"Łucja Brandt"}, "by": {"typed"}, "agree": {"yes"}, "code": {kept},
	}, map[string]sentFile{"more": {`C:\papers\insurance.txt`, []byte("insured")}})
	require.Equal(t, http.StatusOK, code, body)
	assert.Contains(t, body, "Your form has arrived")
	assert.Contains(t, body, "Łucja Brandt")
	all, err = o.store.Returns(t.Context(), 1)
	require.NoError(t, err)
	require.Len(t, all, 1)
	r := all[0]
	assert.Equal(t, []string{"web", "new"}, []string{r.Road, r.State})
	require.NotNil(t, r.Copy)
	link := strings.ReplaceAll(regexp.MustCompile(`/f/\w+/sent/\d+\?[^"]*flat=1`).FindString(body), "&amp;", "&")
	code, pdf := c.get(link)
	require.Equal(t, http.StatusOK, code)
	file := filepath.Join(t.TempDir(), "copy.pdf")
	require.NoError(t, os.WriteFile(file, []byte(pdf), 0o600))
	said, err := exec.Command("pdftotext", file, "-").Output()
	require.NoError(t, err)
	assert.Contains(t, string(said), "Petrel")
	assert.Contains(t, string(said), "Łucja Brandt, "+time.Now().UTC().Format("2 January 2006"), "signed")
	code, _ = c.get(strings.Replace(link, "key=", "key=x", 1))
	assert.Equal(t, http.StatusNotFound, code, "nobody else sees it")
	code, _ = c.get("/f/" + token + "/fill?code=" + kept)
	assert.Equal(t, http.StatusNotFound, code, "what was sent is not begun any more")

	// in the office
	code, body = o.get(fmt.Sprintf("/documents/1/returns?open=%d", r.ID))
	require.Equal(t, http.StatusOK, code)
	assert.Contains(t, body, "insurance.txt")
	assert.Contains(t, body, "Łucja Brandt")
	code, _ = o.get(regexp.MustCompile(`/returns/\d+/files/\d+`).FindString(body))
	assert.Equal(t, http.StatusOK, code)
}

// Bounds of a link hold for what is filled in on the web, too: passcode, number of answers, the size of what is sent.
func TestTheBoundsOfALinkHoldOnTheWeb(t *testing.T) {
	o, c, token := linked(t, url.Values{"passcode": {"high water"}, "most": {"1"}})
	code, body := c.get("/f/" + token + "/fill")
	assert.Equal(t, http.StatusForbidden, code)
	assert.Contains(t, body, "passcode")
	code, _ = c.follows(token, map[string]any{"answers": map[string]string{}})
	assert.Equal(t, http.StatusForbidden, code)
	code, _ = c.get("/f/" + token + "/pages/1")
	assert.Equal(t, http.StatusForbidden, code)
	_, body = c.post("/f/"+token, url.Values{"passcode": {"high water"}})
	pass := regexp.MustCompile(`name="pass" value="([^"]+)"`).FindStringSubmatch(body)
	require.Len(t, pass, 2)
	code, _ = c.get("/f/" + token + "/fill?pass=" + pass[1])
	assert.Equal(t, http.StatusOK, code)
	code, _ = c.follows(token, map[string]any{"answers": map[string]string{"name_vessel": strings.Repeat("x", 2<<20)}, "pass": pass[1]})
	assert.GreaterOrEqual(t, code, 400)
	sent := url.Values{"a.name_vessel": {"Petrel"}, "pass": {pass[1]}}
	code, body = c.parts("/f/"+token+"/fill", sent, nil)
	require.Equal(t, http.StatusOK, code, body)
	assert.Contains(t, body, "Your form has arrived", "the last one is thanked for")
	code, _ = c.parts("/f/"+token+"/fill", sent, nil)
	assert.Equal(t, http.StatusGone, code)
	code, _ = c.follows(token, map[string]any{"answers": map[string]string{}, "pass": pass[1]})
	assert.Equal(t, http.StatusGone, code)
	all, err := o.store.Returns(t.Context(), 1)
	require.NoError(t, err)
	assert.Len(t, all, 1)
}

// Pages are drawn for strangers in two sizes only; what is begun and left is forgotten after some months.
func TestWhatStrangersLeaveIsForgotten(t *testing.T) {
	o, c, token := linked(t, url.Values{})
	code, _ := c.get("/f/" + token + "/pages/1?w=1234")
	assert.Equal(t, http.StatusNotFound, code)
	list, err := o.store.FormLinks(t.Context(), 1)
	require.NoError(t, err)
	require.NoError(t, o.store.KeepBegun(t.Context(), list[0].ID, "OLD", true, map[string]string{"a": "b"}))
	_, err = o.store.Pool.Exec(t.Context(), `update begun set changed_at = now() - interval '100 days'`)
	require.NoError(t, err)
	_, err = o.store.RetainReturns(t.Context())
	require.NoError(t, err)
	_, err = o.store.BegunAt(t.Context(), list[0].ID, "OLD")
	require.ErrorIs(t, err, store.ErrMissing)
}

// A picture for the button that takes one stands in the form that comes back.
func TestAPictureComesBackInTheForm(t *testing.T) {
	o := released(t)
	_, err := o.store.Change(t.Context(), 1, -1, 1, "", func(f *form.Template) (form.Edit, error) {
		for _, q := range f.Fields {
			if q.Kind == form.Button {
				was := q
				q.Action, q.Name = form.Action{Do: form.TakePicture}, "photograph"
				return form.Edit{Title: "picture", Before: []form.Field{was}, After: []form.Field{q}}, nil
			}
		}
		return form.Edit{}, form.ErrNothing
	})
	require.NoError(t, err)
	code, body := o.post("/documents/1/editions", url.Values{"anyway": {"yes"}})
	require.Equal(t, http.StatusOK, code, body)
	code, body = o.post("/documents/1/links", url.Values{"edition": {"2"}, "note": {"pics"}})
	require.Equal(t, http.StatusOK, code, body)
	list, err := o.store.FormLinks(t.Context(), 2)
	require.NoError(t, err)
	var b bytes.Buffer
	require.NoError(t, png.Encode(&b, image.NewGray(image.Rect(0, 0, 40, 30))))
	c := o.caller()
	code, body = c.parts(
		"/f/"+list[0].Token+"/fill",
		url.Values{"a.name_vessel": {"Petrel"}},
		map[string]sentFile{"f.photograph": {"quay.png", b.Bytes()}},
	)
	require.Equal(t, http.StatusOK, code, body)
	all, err := o.store.Returns(t.Context(), 1)
	require.NoError(t, err)
	pdf, err := o.store.File(t.Context(), *all[0].Copy)
	require.NoError(t, err)
	file := filepath.Join(t.TempDir(), "copy.pdf")
	require.NoError(t, os.WriteFile(file, pdf, 0o600))
	said, err := exec.Command("pdfimages", "-list", file).CombinedOutput()
	require.NoError(t, err, string(said))
	checked, err := exec.Command("qpdf", "--check", file).CombinedOutput()
	require.NoError(t, err, string(checked))
	code, body = c.parts(
		"/f/"+list[0].Token+"/fill",
		url.Values{},
		map[string]sentFile{"f.photograph": {"quay.png", []byte("no picture")}},
	)
	assert.Equal(t, http.StatusUnprocessableEntity, code, body)
}

// Returns are brought in by hand, many at once, found, put right, and taken out in every way; what a spreadsheet would take for a formula
// is text.
func TestReturnsAreBroughtInAndTakenOut(t *testing.T) {
	o := released(t)
	csv := "name_vessel,name_applicant,length_overall\r\nPetrel,\"=HYPERLINK(\"\"x\"\")\",9.4\r\nCurlew,Bo,ten\r\n"
	code, body := o.send("/documents/1/returns", "answers.csv", []byte(csv), nil)
	require.Equal(t, http.StatusOK, code)
	assert.Contains(t, body, "2 came in")
	code, body = o.send("/documents/1/returns", "odd.bin", []byte{0, 1, 2, 3}, nil)
	require.Equal(t, http.StatusOK, code)
	assert.Contains(t, body, "needs a person", "nothing is dropped")
	_, pdf := o.edition()
	code, body = o.send("/documents/1/returns", "berth.pdf", pdf, nil)
	require.Equal(t, http.StatusOK, code)
	assert.Contains(t, body, "still being read")
	require.Eventually(t, func() bool {
		r, err := o.store.Return(t.Context(), 4)
		return err == nil && r.State == "new"
	}, 20*time.Second, 50*time.Millisecond, "the queue reads it")

	_, body = o.get("/documents/1/returns?search=curlew")
	assert.Contains(t, body, `id="r2"`)
	assert.NotContains(t, body, `id="r1"`)
	_, body = o.get("/documents/1/returns?state=broken")
	assert.Contains(t, body, `id="r2"`)
	assert.NotContains(t, body, `id="r1"`)
	_, body = o.get("/documents/1/returns?part=charts")
	assert.Contains(t, body, "by day")
	_, body = o.get("/documents/1/returns?open=2")
	key := regexp.MustCompile(`name="key" value="([^"]+)"><textarea name="was"[^>]*>ten<`).FindStringSubmatch(body)
	require.Len(t, key, 2)
	code, _ = o.post("/returns/2/correct", url.Values{"key": {key[1]}, "was": {"ten"}, "is": {"10"}})
	require.Equal(t, http.StatusOK, code)
	code, _ = o.post("/returns/2/correct", url.Values{"key": {key[1]}, "was": {"ten"}, "is": {"12"}})
	assert.Equal(t, http.StatusConflict, code)
	code, body = o.post("/returns/2/deed", url.Values{"do": {"checked"}})
	require.Equal(t, http.StatusOK, code)
	assert.Contains(t, body, "checked")
	assert.Contains(t, body, "<del>ten</del>")

	_, out := o.get("/documents/1/returns/export?as=csv")
	assert.Contains(t, out, `"'=HYPERLINK(""x"")"`)
	assert.Contains(t, out, ",9.4,")
	code, out = o.get("/documents/1/returns/export?as=xlsx")
	require.Equal(t, http.StatusOK, code)
	book, err := excelize.OpenReader(strings.NewReader(out))
	require.NoError(t, err)
	rows, err := book.GetRows("Returns")
	require.NoError(t, err)
	require.Len(t, rows, 5)
	at := map[string]int{}
	for i, h := range rows[0] {
		at[h] = i
	}
	assert.Equal(t, "=HYPERLINK(\"x\")", rows[1][at["name_applicant"]])
	cell, err := excelize.CoordinatesToCellName(at["name_applicant"]+1, 2)
	require.NoError(t, err)
	formula, err := book.GetCellFormula("Returns", cell)
	require.NoError(t, err)
	assert.Empty(t, formula, "it is text")
	_, out = o.get("/documents/1/returns/export?as=json&state=checked")
	var list []struct{ Answers map[string]string }
	require.NoError(t, json.Unmarshal([]byte(out), &list))
	require.Len(t, list, 1)
	assert.Equal(t, "10", list[0].Answers["length_overall"])
	_, out = o.get("/returns/2/xfdf")
	assert.Contains(t, out, `<field name="name_vessel"><value>Curlew</value></field>`)
	_, out = o.get("/returns/2/fdf")
	back, err := read.FDF([]byte(out))
	require.NoError(t, err)
	assert.Equal(t, []string{"Curlew"}, back.Named["name_vessel"])
	code, out = o.get("/returns/2/pdf")
	require.Equal(t, http.StatusOK, code)
	assert.True(t, strings.HasPrefix(out, "%PDF-"))
	code, _ = o.get("/documents/1/returns/export?as=doc")
	assert.Equal(t, http.StatusUnprocessableEntity, code)

	code, body = o.post("/documents/1/returns/delete", url.Values{"search": {"curlew"}, "number": {"1"}, "reason": {"asked for"}})
	require.Equal(t, http.StatusOK, code)
	assert.Contains(t, body, "1 deleted for good")
	o.signInAs(1)
	code, _ = o.post("/documents/1/returns/delete", url.Values{"return": {"1"}, "reason": {"x"}})
	assert.Equal(t, http.StatusForbidden, code)
}

// An address of the office's is told of each return, with a signature that it can check (RFC 9421), and told again when it does not answer.
func TestAnAddressIsToldOfReturns(t *testing.T) {
	o := released(t)
	type call struct {
		head http.Header
		body []byte
	}
	calls := make(chan call, 8)
	failed := false
	office := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		b, _ := io.ReadAll(r.Body)
		if !failed { // the first time it is not there
			failed = true
			w.WriteHeader(http.StatusServiceUnavailable)
			return
		}
		calls <- call{r.Header, b}
	}))
	defer office.Close()
	code, body := o.post("/documents/1/onward", url.Values{"do": {"hook"}, "url": {"gannet"}})
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	assert.Contains(t, body, "whole address")
	code, _ = o.post("/documents/1/onward", url.Values{"do": {"hook"}, "url": {office.URL + "/told"}})
	require.Equal(t, http.StatusOK, code)
	code, _ = o.send("/documents/1/returns", "a.json", []byte(`{"name_vessel": "Petrel"}`), nil)
	require.Equal(t, http.StatusOK, code)
	var got call
	select {
	case got = <-calls:
	case <-time.After(30 * time.Second):
		t.Fatal("nobody was told")
	}
	var told struct{ Answers map[string]string }
	require.NoError(t, json.Unmarshal(got.body, &told))
	assert.Equal(t, "Petrel", told.Answers["name_vessel"])
	hooks, err := o.store.Hooks(t.Context(), 1)
	require.NoError(t, err)
	signedAs(t, got.head, got.body, hooks[0].Secret, office.URL+"/told")
	require.Eventually(t, func() bool {
		hooks, err := o.store.Hooks(t.Context(), 1)
		return err == nil && hooks[0].Sent == 1
	}, 10*time.Second, 50*time.Millisecond)
}

// The returns go into a table of a database of the office's own; a second time they are replaced, and new columns come.
func TestReturnsGoIntoATable(t *testing.T) {
	o := released(t)
	code, _ := o.send("/documents/1/returns", "a.json", []byte(`[{"name_vessel": "Petrel"}, {"name_vessel": "Curlew"}]`), nil)
	require.Equal(t, http.StatusOK, code)
	address := os.Getenv("ZM_DATABASE_URL")
	table := fmt.Sprintf("zm_own_%d", time.Now().UnixNano())
	t.Cleanup(func() { sql(t, address, "drop table if exists "+table) })
	for range 2 {
		code, body := o.post("/documents/1/onward", url.Values{"do": {"table"}, "address": {address}, "table": {table}})
		require.Equal(t, http.StatusOK, code, body)
		assert.Contains(t, body, "2 returns stand in")
	}
	assert.Equal(t, "Curlew,Petrel", sql(t, address, "select string_agg(name_vessel, ',' order by name_vessel) from "+table))
	for address, want := range map[string]string{"gannet": "whole address", "postgres://nobody@127.0.0.1:1/x": "does not answer"} {
		code, body := o.post("/documents/1/onward", url.Values{"do": {"table"}, "address": {address}, "table": {table}})
		assert.Equal(t, http.StatusUnprocessableEntity, code)
		assert.Contains(t, body, want)
	}
	code, body := o.post("/documents/1/onward", url.Values{"do": {"table"}, "address": {address}, "table": {"x; drop table y"}})
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	assert.Contains(t, body, "small letters")
}

// A file of answers fills the form: to be looked at, or to be gone on with by its recipient.
func TestAFileOfAnswersFillsTheForm(t *testing.T) {
	o, c, _ := linked(t, url.Values{})
	for name, b := range map[string]string{
		"a.csv":  "name_vessel\nPetrel\n",
		"a.xfdf": `<xfdf><fields><field name="name_vessel"><value>Petrel</value></field></fields></xfdf>`,
		"a.fdf":  "%FDF-1.2\n1 0 obj << /FDF << /Fields [<< /T (name_vessel) /V (Petrel) >>] >> >> endobj\ntrailer << /Root 1 0 R >>",
	} {
		code, out := o.send("/documents/1/prefill", name, []byte(b), url.Values{"edition": {"1"}, "to": {"pdf"}})
		require.Equal(t, http.StatusOK, code, name)
		require.True(t, strings.HasPrefix(out, "%PDF-"), name)
		code, out = o.send("/documents/1/prefill", name, []byte(b), url.Values{"edition": {"1"}, "to": {"link"}})
		require.Equal(t, http.StatusOK, code, name)
		at := regexp.MustCompile(`/f/\w+/fill\?code=\w+`).FindString(out)
		_, body := c.get(at)
		assert.Contains(t, body, `value="Petrel"`, name)
	}
	code, body := o.send("/documents/1/prefill", "a.csv", []byte("name_vessel\nPetrel\nCurlew\n"), url.Values{"edition": {"1"}})
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	assert.Contains(t, body, "2 sets of answers")
}

// Somebody whose turn it is to sign fills their part in on the page of their link, and signs then; what is others' they are not asked, and
// cannot change.
func TestAPartOfARoundIsFilledInOnTheWeb(t *testing.T) {
	o := partsGiven(t)
	people, _, err := o.store.RosterPeople(t.Context(), "odalys", 0, 1)
	require.NoError(t, err)
	code, body := o.post("/documents/1/signings", url.Values{
		"edition": {
			"1",
		}, "who-0": {fmt.Sprint("person ", people[0].ID)}, "passcode-0": {"slack water"}, "who-1": {"account 1"}, "consent": {"I agree."},
	})
	require.Equal(t, http.StatusOK, code, body)
	token := regexp.MustCompile(`/f/(\w+)`).FindStringSubmatch(o.tray(1)["odalys.quill@mail.example"])[1]
	c := o.caller()
	_, body = c.post("/f/"+token, url.Values{"do": {"enter"}, "passcode": {"slack water"}})
	pass := regexp.MustCompile(`name="pass" value="([^"]+)"`).FindStringSubmatch(body)[1]
	code, body = c.get("/f/" + token + "/fill?pass=" + pass)
	require.Equal(t, http.StatusOK, code)
	assert.Contains(t, body, "Name of vessel")
	assert.NotContains(t, body, `data-name="telephone"`, "that is the harbour master's")
	code, body = c.parts("/f/"+token+"/fill", url.Values{"pass": {pass}, "a.name_vessel": {""}}, nil)
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	assert.Contains(t, body, "must be filled in")
	code, body = c.parts("/f/"+token+"/fill", url.Values{"pass": {pass}, "a.name_vessel": {"Two Sisters"}, "a.telephone": {"0666 66"}}, nil)
	require.Equal(t, http.StatusOK, code, body)
	assert.Contains(t, body, "Your part is filled in")
	assert.Contains(t, body, `id="signhere"`)
	_, pdf := c.get("/f/" + token + "/form.pdf?pass=" + pass)
	answers, err := fill.Answers([]byte(pdf))
	require.NoError(t, err)
	assert.Equal(t, "Two Sisters", answers["name_vessel"])
	assert.Empty(t, answers["telephone"])
}

// zipped packs files.
func zipped(t *testing.T, files ...[2]string) []byte {
	t.Helper()
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for _, f := range files {
		w, err := z.Create(f[0])
		require.NoError(t, err)
		_, err = w.Write([]byte(f[1]))
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	return b.Bytes()
}

// Returns that are taken out as XFDF in a zip, and brought in as that zip, are the same again, and known to be doubles; what else a zip
// has in it is brought in too, or named.
func TestAZipOfReturnsGoesOutAndIn(t *testing.T) {
	o := released(t)
	csv := "name_vessel,name_applicant,length_overall\r\nPetrel,Ölund & Söhne,9.4\r\n\"Two\nlines\",<Bo>,ten\r\n"
	code, _ := o.send("/documents/1/returns", "answers.csv", []byte(csv), nil)
	require.Equal(t, http.StatusOK, code)
	code, out := o.get("/documents/1/returns/export?as=xfdf")
	require.Equal(t, http.StatusOK, code)
	z, err := zip.NewReader(strings.NewReader(out), int64(len(out)))
	require.NoError(t, err)
	require.Len(t, z.File, 2)
	for _, f := range z.File { // well formed, with the namespace of ISO 19444-1
		r, err := f.Open()
		require.NoError(t, err)
		var root struct {
			XMLName xml.Name
			Fields  []struct {
				Name  string `xml:"name,attr"`
				Value string `xml:"value"`
			} `xml:"fields>field"`
		}
		require.NoError(t, xml.NewDecoder(r).Decode(&root))
		assert.Equal(t, xml.Name{Space: "http://ns.adobe.com/xfdf/", Local: "xfdf"}, root.XMLName)
		assert.Len(t, root.Fields, 3)
	}
	code, body := o.send("/documents/1/returns", "returns.zip", []byte(out), nil)
	require.Equal(t, http.StatusOK, code)
	assert.Contains(t, body, "2 came in")
	list, err := o.store.Returns(t.Context(), 1)
	require.NoError(t, err)
	require.Len(t, list, 4)
	var doubles, answers []string
	for _, r := range list {
		if r.DoubleOf != nil {
			doubles = append(doubles, r.Name)
		}
		answers = append(answers, string(r.AnswersJSON))
	}
	assert.ElementsMatch(t, []string{"return-1.xfdf", "return-2.xfdf"}, doubles)
	slices.Sort(answers)
	assert.Len(t, slices.Compact(answers), 2, "the same answers, letter by letter")

	code, body = o.send("/documents/1/returns", "mixed.zip", zipped(t, [2]string{"a/one.json", `{"name_vessel": "Merlin"}`},
		[2]string{"__MACOSX/._one.json", "x"}, [2]string{".hidden", "x"}, [2]string{"a/", ""}, [2]string{"deep.zip", string(zipped(t))},
		[2]string{"form.txt", "name_vessel=Curlew"}), nil)
	require.Equal(t, http.StatusOK, code)
	assert.Contains(t, body, "came in")
	found, _, err := o.store.FindReturns(t.Context(), store.Sought{Document: 1, Words: "merlin"})
	require.NoError(t, err)
	require.Len(t, found, 1)
	assert.Equal(t, "one.json", found[0].Name)
	code, body = o.send("/documents/1/returns", "cut.zip", []byte(out)[:len(out)/2], nil)
	require.Equal(t, http.StatusOK, code)
	assert.Contains(t, body, "cut.zip is a damaged zip")
}

// Numbers are drawn as they spread, choices by how often they were made, and a question that most leave empty is named.
func TestChartsSayWhatWasAnswered(t *testing.T) {
	o := found(t)
	code, body := o.set("length_overall", "format", "number")
	require.Equal(t, http.StatusOK, code, body)
	code, body = o.post("/documents/1/editions", url.Values{"anyway": {"yes"}})
	require.Equal(t, http.StatusOK, code, body)
	var csv strings.Builder
	csv.WriteString("name_vessel,length_overall\r\n")
	for i := range 16 {
		fmt.Fprintf(&csv, "%s,%d\r\n", []string{"Petrel", "Merlin", "Petrel", ""}[i%4], 5+i)
	}
	code, _ = o.send("/documents/1/returns", "answers.csv", []byte(csv.String()), nil)
	require.Equal(t, http.StatusOK, code)
	code, body = o.get("/documents/1/returns?part=charts")
	require.Equal(t, http.StatusOK, code)
	assert.Contains(t, body, "left empty most")
	drawn := func(label string) string {
		key := regexp.MustCompile(`<option value="([^"]+)"[^>]*>` + label + `</option>`).FindStringSubmatch(body)
		require.Len(t, key, 2, label)
		_, out := o.get("/documents/1/returns?part=charts&chart=" + key[1])
		return out
	}
	assert.Contains(t, drawn("Length overall[^<]*"), "half are up to 12")
	assert.Regexp(t, `(?s)<span>Petrel</span>.{0,200}<b>8</b>.*<span>Merlin</span>.{0,200}<b>4</b>`, drawn("Name of vessel"))
}
