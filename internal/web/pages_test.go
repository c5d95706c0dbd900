package web_test

import (
	"archive/zip"
	"bytes"
	"context"
	"net/http"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/demo"
	"zealousmargin.example/internal/pdf/pdftest"
	"zealousmargin.example/internal/pdf/read"
	"zealousmargin.example/internal/store"
)

func (o *office) draft(id int64) store.Draft {
	o.t.Helper()
	d, err := o.store.Draft(context.Background(), id)
	require.NoError(o.t, err)
	return d
}

// newest is the document that was changed last.
func (o *office) newest() store.Draft {
	o.t.Helper()
	docs, err := o.store.Documents(context.Background(), false)
	require.NoError(o.t, err)
	return o.draft(docs[0].ID)
}

func (o *office) eventually(ok func() bool, what string) {
	o.t.Helper()
	require.Eventually(o.t, ok, 30*time.Second, 60*time.Millisecond, what)
}

func TestALockedFileAsksForItsPassword(t *testing.T) {
	o := open(t)
	o.signIn()
	d, err := demo.Crew()
	require.NoError(t, err)
	follow := func(body string) string {
		for range 200 {
			m := regexp.MustCompile(`hx-get="(/intakes/\d+)"`).FindStringSubmatch(body)
			if m == nil {
				return body
			}
			time.Sleep(40 * time.Millisecond)
			_, body = o.get(m[1])
		}
		return body
	}
	for _, c := range []struct {
		user, owner, forbids, says, opens string
	}{
		{"tide", "gale", "--", "locked with a password", "tide"},
		{"tide", "gale", "--modify=none", "locked with a password", "gale"},
		{"", "gale", "--modify=none", "lets nobody change it", "gale"}, // anybody can read it
		{"", "gale", "--modify=form", "lets nobody change it", "gale"},
	} {
		dir := t.TempDir()
		plain, locked := filepath.Join(dir, "a.pdf"), filepath.Join(dir, "b.pdf")
		require.NoError(t, os.WriteFile(plain, d.Bytes, 0o600))
		args := []string{"--encrypt", c.user, c.owner, "256", c.forbids, "--", plain, locked}
		if c.forbids == "--" {
			args = slices.Delete(args, 4, 5)
		}
		out, err := exec.Command("qpdf", args...).CombinedOutput()
		require.NoError(t, err, string(out))
		b, err := os.ReadFile(locked)
		require.NoError(t, err)
		body := follow(o.upload("crew.pdf", b))
		assert.Contains(t, body, c.says)
		at := regexp.MustCompile(`/intakes/\d+/unlock`).FindString(body)
		require.NotEmpty(t, at)
		_, body = o.post(at, url.Values{"password": {"ebb"}})
		assert.Contains(t, follow(body), "not the password")
		if c.user != "" && c.opens != c.user {
			_, body = o.post(at, url.Values{"password": {c.user}})
			assert.Contains(t, follow(body), "lets nobody change it", "it opens, and may not be changed")
		}
		_, body = o.post(at, url.Values{"password": {c.opens}})
		assert.Contains(t, follow(body), "find its fields", c)
		assert.Equal(t, "Crew", o.newest().Document.Title)
	}
}

func TestAFolderIsWorkedThroughInTheBackground(t *testing.T) {
	o := open(t)
	o.signIn()
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	put := func(name string, content []byte) {
		w, err := z.Create(name)
		require.NoError(t, err)
		_, err = w.Write(content)
		require.NoError(t, err)
	}
	crew, err := demo.Crew()
	require.NoError(t, err)
	scan, err := demo.Declaration()
	require.NoError(t, err)
	put("quay/crew.pdf", crew.Bytes)
	put("quay/declaration.png", scan.Bytes)
	put("quay/broken.pdf", []byte("%PDF-1.4 nothing"))
	put("quay/song.mp3", []byte{0, 1, 2})
	require.NoError(t, z.Close())
	body := o.upload("quay.zip", b.Bytes())
	at := regexp.MustCompile(`/folders/\d+`).FindString(body)
	require.NotEmpty(t, at, body)
	o.eventually(func() bool { _, body = o.get(at); return strings.Contains(body, "all worked through") }, "the folder is worked through")
	for _, want := range []string{"Crew", "Declaration", "recognised", "damaged beyond repair", "song.mp3"} {
		assert.Contains(t, body, want)
	}
	words := regexp.MustCompile(`<td>(\d{2,})</td>`).FindStringSubmatch(body)
	require.NotNil(t, words, "the table says how many words were recognised")
	_, body = o.get("/")
	assert.Contains(t, body, "quay.zip")

	// and its fields are found in the background
	o.get(at)
	o.post(at+"/find", url.Values{})
	o.eventually(func() bool {
		docs, err := o.store.Documents(context.Background(), false)
		if err != nil {
			return false
		}
		found := 0
		for _, d := range docs {
			if d.Fields > 5 {
				found++
			}
		}
		return found == 2
	}, "both documents have fields")
}

// Finding on many pages goes to the queue: it shows how far it is and can be cancelled.
func TestFindingOnManyPagesIsATask(t *testing.T) {
	o := open(t)
	o.signIn()
	id := o.newest().Document.ID
	room := "/documents/" + itoa(id)
	for range 4 {
		var ids []string
		for _, p := range o.draft(id).Template.Pages {
			ids = append(ids, p.ID)
		}
		o.post(room+"/pages", url.Values{
			"do": {"duplicate"}, "ids": {strings.Join(ids, ",")},
			"base": {itoa(o.draft(id).Document.Revision)},
		})
	}
	require.Len(t, o.draft(id).Template.Pages, 32)
	_, body := o.post(room+"/find", url.Values{"scope": {"all"}, "stage": {"find"}})
	assert.Contains(t, body, `id="task"`)
	at := time.Now()
	_, body = o.post(room+"/task/cancel?kind=find", url.Values{"stage": {"find"}})
	assert.Less(t, time.Since(at), time.Second)
	assert.NotContains(t, body, `id="task"`)
	time.Sleep(300 * time.Millisecond)
	assert.Empty(t, o.draft(id).Template.Fields, "what was found until then is dropped")
	o.post(room+"/find", url.Values{"scope": {"all"}, "stage": {"find"}})
	o.eventually(func() bool { return len(o.draft(id).Template.Fields) > 32*10 }, "found on all pages")
	names := map[string]bool{}
	for _, f := range o.draft(id).Template.Fields {
		assert.True(t, f.Kind == "radio" || !names[f.Name], "%s stands twice", f.Name)
		names[f.Name] = true
	}
}

func TestDetailsAndLeftoversGoIntoTheRelease(t *testing.T) {
	o := open(t)
	o.signIn()
	id := o.newest().Document.ID
	room := "/documents/" + itoa(id)
	_, body := o.get(room + "/bring-in")
	assert.Contains(t, body, "producer “FPDF")
	o.post(room+"/details", url.Values{
		"title": {"Berths & boats"}, "language": {"en-GB"}, "author": {""}, "subject": {"Season 2027"},
		"leave": {"metadata"},
	})
	d := o.draft(id)
	assert.Equal(t, "changed the document details", d.Undo)
	assert.Equal(t, "metadata", d.Template.Details.Leave)
	o.post(room+"/find", url.Values{"scope": {"all"}})
	_, body = o.post(room+"/editions", url.Values{})
	m := regexp.MustCompile(`/editions/\d+/[^"]+\.pdf`).FindString(body)
	require.NotEmpty(t, m, body)
	req, err := http.NewRequest(http.MethodGet, o.url+m, nil)
	require.NoError(t, err)
	_, edition, _ := o.do(req)
	file := filepath.Join(t.TempDir(), "e.pdf")
	require.NoError(t, os.WriteFile(file, []byte(edition), 0o600))
	info, err := exec.Command("pdfinfo", file).Output()
	require.NoError(t, err)
	assert.Contains(t, string(info), "Berths & boats")
	assert.Contains(t, string(info), "Season 2027")
	assert.NotContains(t, string(info), "FPDF")
	assert.NotContains(t, string(info), "Author")
	a, err := read.Arrive([]byte(edition))
	require.NoError(t, err)
	assert.Equal(t, "en-GB", a.Details.Language)
}

func TestScansComeFromTheTrayAndAreReleasedSearchable(t *testing.T) {
	o := open(t)
	o.signIn()
	id := o.newest().Document.ID
	_, body := o.get("/scan-tray?into=" + itoa(id))
	assert.Contains(t, body, "Berth application")
	code, body := o.post("/scan-tray", url.Values{"device": {"quay"}, "dpi": {"73"}, "colour": {"grey"}, "source": {"flatbed"}})
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	assert.Contains(t, body, "not at 73")
	first := o.draft(id).Template.Pages[0].ID
	o.post("/scan-tray", url.Values{
		"device": {"quay"}, "dpi": {"150"}, "colour": {"black and white"}, "source": {"flatbed"},
		"into": {itoa(id)}, "ids": {first}, "where": {"before"},
	})
	o.eventually(func() bool { return len(o.draft(id).Template.Pages) == 3 }, "the sheet is in")
	d := o.draft(id)
	require.True(t, d.Template.Pages[0].Scan, "before the page in hand")
	assert.Equal(t, "inserted 1 page", d.Undo)

	room := "/documents/" + itoa(id)
	for span, want := range map[string]string{"7": "not a page", "2-1": "not a page", "x": "not a page"} {
		code, body = o.post(room+"/recognise", url.Values{"language": {"eng"}, "range": {span}})
		assert.Equal(t, http.StatusUnprocessableEntity, code)
		assert.Contains(t, body, want)
	}
	_, body = o.post(room+"/recognise", url.Values{"language": {"xxx"}})
	assert.Contains(t, body, "Choose a language")
	_, _ = o.post(room+"/recognise", url.Values{"language": {"eng"}, "range": {"1"}})
	o.eventually(func() bool { return o.draft(id).Template.Pages[0].Text != "" }, "recognised")
	_, text := o.get(room + "/text?page=1")
	assert.Contains(t, text, "Name of vessel")
	_, all := o.get(room + "/text")
	assert.Contains(t, all, "Postal address", "the typeset page is in the whole text")

	o.post(room+"/find", url.Values{"scope": {"all"}})
	_, body = o.post(room+"/editions", url.Values{})
	m := regexp.MustCompile(`/editions/\d+/[^"]+\.pdf`).FindString(body)
	require.NotEmpty(t, m, body)
	_, edition := o.get(m)
	file := filepath.Join(t.TempDir(), "e.pdf")
	require.NoError(t, os.WriteFile(file, []byte(edition), 0o600))
	seen, err := exec.Command("pdftotext", "-f", "1", "-l", "1", file, "-").Output()
	require.NoError(t, err)
	assert.Contains(t, string(seen), "Persons on board", "a released scan can be searched")
	out, err := exec.Command("qpdf", "--check", file).CombinedOutput()
	require.NoError(t, err, string(out))
}

func TestPageOperationsAndTheirRefusals(t *testing.T) {
	o := open(t)
	o.signIn()
	id := o.newest().Document.ID
	room := "/documents/" + itoa(id)
	p := o.draft(id).Template.Pages
	edit := func(v url.Values) (int, string) {
		v.Set("base", itoa(o.draft(id).Document.Revision))
		return o.post(room+"/pages", v)
	}
	for _, c := range []struct {
		v    url.Values
		want string
	}{
		{url.Values{"do": {"remove"}, "ids": {p[0].ID + "," + p[1].ID}}, "needs a page"},
		{url.Values{"do": {"take-out"}, "ids": {p[0].ID + "," + p[1].ID}}, "all the pages"},
		{url.Values{"do": {"turn"}, "ids": {"nonsense"}, "quarters": {"1"}}, "look at it and try again"},
		{url.Values{"do": {"crop"}, "ids": {p[0].ID}, "x0": {"10"}, "y0": {"10"}, "x1": {"20"}, "y1": {"20"}}, "larger frame"},
		{url.Values{"do": {"straighten"}, "ids": {p[0].ID}}, "no skew"},
		{url.Values{"do": {"straighten"}, "ids": {p[0].ID}, "angle": {"forty"}}, "not an angle"},
		{url.Values{"do": {"straighten"}, "ids": {p[0].ID}, "angle": {"40"}}, "at most 15"},
		{url.Values{"do": {"resize"}, "ids": {p[0].ID}, "width": {"2"}, "height": {"2"}}, "points wide"},
		{url.Values{"do": {"fold"}, "ids": {p[0].ID}}, "can be done to pages"},
	} {
		code, body := edit(c.v)
		assert.NotEqual(t, http.StatusOK, code, c.want)
		assert.Contains(t, strings.ToLower(body), strings.ToLower(c.want))
	}
	assert.Zero(t, o.draft(id).Document.Revision, "a refusal changes nothing")
	edit(url.Values{"do": {"resize"}, "ids": {p[1].ID}, "size": {"A5"}, "lying": {"1"}, "fit": {"1"}})
	d := o.draft(id)
	assert.Equal(t, "changed the size of page 2", d.Undo)
	assert.InDelta(t, 595, d.Template.Pages[1].Width, 0.1)
	edit(url.Values{"do": {"straighten"}, "ids": {p[0].ID}, "angle": {"1,5"}})
	assert.Equal(t, "straightened page 1", o.draft(id).Undo)
	edit(url.Values{"do": {"duplicate"}, "ids": {p[0].ID}})
	assert.Len(t, o.draft(id).Template.Pages, 3)
	// the pictures follow the pages
	_, body := o.get(room + "/pages")
	pics := regexp.MustCompile(`src="(/pictures/[^"]+)"`).FindAllStringSubmatch(body, -1)
	require.GreaterOrEqual(t, len(pics), 3)
	for _, m := range pics {
		code, _ := o.get(strings.ReplaceAll(m[1], "&amp;", "&"))
		assert.Equal(t, http.StatusOK, code)
	}
	code, _ := o.get("/pictures/" + p[0].File + "/1/200.png?as=0,nonsense,3")
	assert.Equal(t, http.StatusNotFound, code)
	req, err := http.NewRequest(http.MethodGet, o.url+room+"/originals/1", nil)
	require.NoError(t, err)
	_, original, _ := o.do(req)
	berth, err := demo.Berth()
	require.NoError(t, err)
	assert.Equal(t, string(berth.Bytes), original, "the original is kept")
}

func itoa(n int64) string { return strconv.FormatInt(n, 10) }

// The release page says what becomes of a file's signatures, and ends none without being told to.
func TestASignatureEndsOnlyWhenSomebodySaysSo(t *testing.T) {
	o := open(t)
	o.signIn()
	src, err := pdftest.Signed()
	require.NoError(t, err)
	o.upload("agreement.pdf", src)
	o.eventually(func() bool { return o.newest().Document.Title == "Agreement" }, "brought in")
	d := o.newest()
	room := "/documents/" + itoa(d.Document.ID)
	_, body := o.get(room + "/release")
	assert.Contains(t, body, "stays valid")
	assert.NotContains(t, body, `name="unsigned"`)
	_, body = o.post(room+"/editions", url.Values{"anyway": {"yes"}})
	assert.Contains(t, body, "Edition 1 is out")

	code, body := o.post(room+"/pages", url.Values{
		"do": {"turn"}, "ids": {d.Template.Pages[0].ID}, "quarters": {"1"}, "base": {itoa(d.Document.Revision)},
	})
	require.Equal(t, http.StatusOK, code, body)
	_, body = o.get(room + "/release")
	assert.Contains(t, body, "This release ends the signature in office")
	code, body = o.post(room+"/editions", url.Values{"anyway": {"yes"}})
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	assert.Contains(t, body, "it would end the signature in office")
	_, body = o.post(room+"/editions", url.Values{"anyway": {"yes"}, "unsigned": {"yes"}})
	assert.Contains(t, body, "Edition 2 is out")
}

// Fields of a file that cannot be worked on are in the list of fields, with the reason; those off the page are marked.
func TestOddFieldsAreListed(t *testing.T) {
	o := open(t)
	o.signIn()
	o.upload("odd.pdf", pdftest.Odd())
	o.eventually(func() bool { return o.newest().Document.Title == "Odd" }, "brought in")
	assert.Contains(t, o.newest().Document.Notice, "4 more fields stay as they came")
	_, body := o.get("/documents/" + itoa(o.newest().Document.ID) + "/fields")
	assert.Contains(t, body, "4 fields of the file cannot be worked on here")
	for _, why := range []string{
		"smaller than 4 points", "it has no size", "its name has 160 bytes", "it takes 99999 signs", "off the page: it shows at the edge",
	} {
		assert.Contains(t, body, why)
	}
}

// A file that brings fields says so where it has been read, and leads to them.
func TestAFileWithFieldsLeadsToThem(t *testing.T) {
	o := open(t)
	o.signIn()
	body := o.upload("odd.pdf", pdftest.Odd())
	for range 200 {
		m := regexp.MustCompile(`hx-get="(/intakes/\d+)"`).FindStringSubmatch(body)
		if m == nil {
			break
		}
		time.Sleep(40 * time.Millisecond)
		_, body = o.get(m[1])
	}
	assert.Contains(t, body, "2 fields came with it")
	assert.Contains(t, body, "/documents/"+itoa(o.newest().Document.ID)+"/fit")
	assert.NotContains(t, body, "find its fields")
}
