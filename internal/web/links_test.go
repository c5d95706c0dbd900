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
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/form"
)

// released is an office whose berth application is out, with a button that sends it and with what the office knows filled in.
func released(t *testing.T) *office {
	t.Helper()
	o := found(t)
	code, body := o.edit("place", url.Values{"kind": {"submit"}, "x0": {"300"}, "y0": {"740"}, "page": {"1"}})
	require.Equal(t, http.StatusOK, code, body)
	code, body = o.set("submit", "url-here", "")
	require.Equal(t, http.StatusOK, code, body)
	code, _ = o.post("/documents/1/sources", nil)
	require.Equal(t, http.StatusOK, code)
	o.set("date_birth", "format", "date")
	code, body = o.post("/documents/1/editions", url.Values{"anyway": {"yes"}})
	require.Equal(t, http.StatusOK, code, body)
	return o
}

// caller is somebody without an account, in a browser of their own.
func (o *office) caller() *office {
	c := &office{t: o.t, store: o.store, url: o.url}
	c.anew()
	return c
}

// tokens are those of the links of edition 1, by what they are for or whose they are.
func (o *office) tokens() map[string]string {
	o.t.Helper()
	list, err := o.store.FormLinks(o.t.Context(), 1)
	require.NoError(o.t, err)
	out := map[string]string{}
	for _, l := range list {
		out[l.Name+l.Note] = l.Token
	}
	return out
}

// tray are the texts of the letters in the post tray, by whom they went to.
func (o *office) tray(n int) map[string]string {
	o.t.Helper()
	out := map[string]string{}
	o.eventually(func() bool {
		_, body := o.get("/post-tray")
		all := regexp.MustCompile(`<tr><td>([^<]*)</td><td><a class="link strong" href="(/post-tray/\d+)">`).
			FindAllStringSubmatch(body, -1)
		for _, m := range all {
			if _, there := out[m[1]]; !there { // the latest is first
				_, out[m[1]] = o.get(m[2])
			}
		}
		return len(all) >= n
	}, "the letters lie in the tray")
	return out
}

func submitAddresses(t *testing.T, pdf string) []string {
	t.Helper()
	file := filepath.Join(t.TempDir(), "form.pdf")
	require.NoError(t, os.WriteFile(file, []byte(pdf), 0o600))
	out, err := exec.Command("qpdf", "--json", "--json-key=qpdf", file).Output()
	require.NoError(t, err)
	return regexp.MustCompile(`/in/\w+`).FindAllString(string(out), -1)
}

func TestAFormGoesOutByALinkForEverybody(t *testing.T) {
	o := released(t)
	make := func(v url.Values) (int, string) {
		v.Set("edition", "1")
		return o.post("/documents/1/links", v)
	}
	for what, v := range map[string]url.Values{
		"a day that is over":         {"until": {"2020-01-01"}},
		"is not a day":               {"until": {"tomorrow"}},
		"is not a number":            {"most": {"few"}},
		"is not a site":              {"frames": {"gannet-quay"}},
		"a passcode has 4 to 64":     {"passcode": {"ab"}},
		"what the link is for is":    {"note": {strings.Repeat("long ", 60)}},
		"script-src&#34; is not a s": {"frames": {"https://x.example;script-src 'x.example'"}},
	} {
		code, body := make(v)
		assert.Equal(t, http.StatusUnprocessableEntity, code, what)
		assert.Contains(t, strings.ToLower(body), what)
	}
	tomorrow := time.Now().AddDate(0, 0, 1).Format(time.DateOnly)
	code, body := make(url.Values{"note": {"on the web site"}, "until": {tomorrow}, "most": {"2"}})
	require.Equal(t, http.StatusOK, code)
	assert.Contains(t, body, "on the web site")
	assert.Contains(t, body, "for 2 answers")
	token := o.tokens()["on the web site"]

	c := o.caller()
	code, body = c.get("/f/" + token + "?ref=B12")
	require.Equal(t, http.StatusOK, code)
	assert.Contains(t, body, "Berth application")
	assert.NotContains(t, body, "/sign-in", "nobody is asked to sign in")
	assert.Empty(t, c.http.Jar.Cookies(mustURL(t, o.url)), "and no cookie is set")
	file := regexp.MustCompile(`/f/\w+/form\.pdf[^"]*`).FindString(body)
	assert.Contains(t, file, "ref=B12")
	code, pdf := c.get(strings.ReplaceAll(file, "&amp;", "&"))
	require.Equal(t, http.StatusOK, code)
	list, err := o.store.FormLinks(t.Context(), 1)
	require.NoError(t, err)
	assert.Equal(t, []string{"/in/" + list[0].Inbox}, submitAddresses(t, pdf), "answers come back by the link")

	// by the button of the form, by hand, and then no more
	res, err := http.Post(o.url+"/in/"+list[0].Inbox, "", strings.NewReader("%FDF-1.2\n..."))
	require.NoError(t, err)
	require.NoError(t, res.Body.Close())
	require.Equal(t, http.StatusOK, res.StatusCode)
	code, body = c.send("/f/"+token, "note.txt", []byte("hello"), nil)
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	assert.Contains(t, body, "neither the form")
	code, body = c.send("/f/"+token, "berth.pdf", []byte(pdf), nil)
	assert.Equal(t, http.StatusOK, code)
	assert.Contains(t, body, "Your form has arrived", "the last one is thanked for, too")
	returns, err := o.store.Returns(t.Context(), 1)
	require.NoError(t, err)
	require.Len(t, returns, 2)
	assert.Equal(t, "on the web site", *returns[0].By)
	code, body = c.send("/f/"+token, "berth.pdf", []byte(pdf), nil)
	assert.Equal(t, http.StatusGone, code)
	assert.Contains(t, body, "All answers that this link takes have come")
	_, body = o.get("/documents/1/links")
	assert.Contains(t, body, "2 answers")

	for _, wrong := range []string{"/f/GUESSED", "/f/" + list[0].Inbox, "/f/" + strings.ToLower(token)} {
		code, body = c.get(wrong)
		assert.Equal(t, http.StatusNotFound, code)
		assert.Contains(t, body, "There is no form at this address")
	}
}

func mustURL(t *testing.T, s string) *url.URL {
	t.Helper()
	u, err := url.Parse(s)
	require.NoError(t, err)
	return u
}

// A passcode stands before everything; which was said is kept by the page alone, for its own link, and guessing is slowed down.
func TestALinkWithAPasscode(t *testing.T) {
	o := released(t)
	for _, v := range []url.Values{
		{"note": {"first"}, "passcode": {"ebb and flow"}}, {"note": {"second"}, "passcode": {"ebb and flow"}},
	} {
		v.Set("edition", "1")
		code, _ := o.post("/documents/1/links", v)
		require.Equal(t, http.StatusOK, code)
	}
	first, second := o.tokens()["first"], o.tokens()["second"]
	c := o.caller()
	_, body := c.get("/f/" + first)
	assert.Contains(t, body, "Passcode")
	assert.NotContains(t, body, "form.pdf")
	code, _ := c.get("/f/" + first + "/form.pdf")
	assert.Equal(t, http.StatusForbidden, code)
	code, _ = c.send("/f/"+first, "x.pdf", []byte("%PDF-1.7"), nil)
	assert.Equal(t, http.StatusForbidden, code)
	code, body = c.post("/f/"+first, url.Values{"do": {"enter"}, "passcode": {"Ebb and flow"}})
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	assert.Contains(t, body, "not the passcode")
	code, body = c.post("/f/"+first, url.Values{"do": {"enter"}, "passcode": {"ebb and flow"}})
	require.Equal(t, http.StatusOK, code)
	pass := regexp.MustCompile(`name="pass" value="([^"]+)"`).FindStringSubmatch(body)[1]
	code, _ = c.get("/f/" + first + "/form.pdf?pass=" + pass)
	assert.Equal(t, http.StatusOK, code)
	code, _ = c.get("/f/" + second + "/form.pdf?pass=" + pass)
	assert.Equal(t, http.StatusForbidden, code, "it is good for its own link alone")
	for i := range pass { // a changed one is good for nothing
		changed := pass[:i] + string("AB"[map[bool]int{true: 1}[pass[i] == 'A']]) + pass[i+1:]
		if i%9 == 0 {
			code, _ = c.get("/f/" + first + "/form.pdf?pass=" + changed)
			assert.Equal(t, http.StatusForbidden, code, changed)
		}
	}
	code, body = c.send("/f/"+first, "x.pdf", []byte("%PDF-1.7\n"), url.Values{"pass": {pass}})
	require.Equal(t, http.StatusOK, code)
	assert.Contains(t, body, "has arrived")
	slow := 0
	for range 12 {
		code, _ := c.post("/f/"+second, url.Values{"do": {"enter"}, "passcode": {"guess"}})
		if code == http.StatusTooManyRequests {
			slow++
		}
	}
	assert.Positive(t, slow)
}

// A page of a site may show the form where its link names the site, and not otherwise (Content Security Policy Level 3, 6.4.2).
func TestALinkIsShownInAPageOfAnotherSite(t *testing.T) {
	o := released(t)
	code, _ := o.post(
		"/documents/1/links",
		url.Values{"edition": {"1"}, "note": {"framed"}, "frames": {"https://www.office.example http://localhost:8080/"}},
	)
	require.Equal(t, http.StatusOK, code)
	code, _ = o.post("/documents/1/links", url.Values{"edition": {"1"}, "note": {"alone"}})
	require.Equal(t, http.StatusOK, code)
	for note, want := range map[string][2]string{
		"framed": {"frame-ancestors 'self' https://www.office.example http://localhost:8080", ""},
		"alone":  {"frame-ancestors 'none'", "DENY"},
	} {
		res, err := http.Get(o.url + "/f/" + o.tokens()[note])
		require.NoError(t, err)
		require.NoError(t, res.Body.Close())
		assert.Contains(t, res.Header.Get("Content-Security-Policy"), want[0])
		assert.Equal(t, want[1], res.Header.Get("X-Frame-Options"))
		assert.Equal(t, "no-referrer", res.Header.Get("Referrer-Policy"))
	}
}

// Everybody gets a letter with a link of their own; who has not answered is reminded, and what came back is sent elsewhere.
func TestPeopleGetLinksOfTheirOwn(t *testing.T) {
	o := released(t)
	words := url.Values{
		"edition": {"1"},
		"whom":    {"found"},
		"search":  {"upper sandle"},
		"subject": {"For {name}: {form}"},
		"text":    {"Dear {name},\r\n{link}\r\n{until} {office}"},
	}
	with := func(more url.Values) url.Values {
		v := url.Values{}
		for _, m := range []url.Values{words, more} {
			for k, x := range m {
				v[k] = x
			}
		}
		return v
	}
	for what, v := range map[string]url.Values{
		"write {link}":         {"text": {"Dear {name}"}},
		"{nmae} stands for":    {"text": {"Dear {nmae} {link}"}},
		"needs a subject":      {"subject": {""}},
		"choose somebody firs": {"whom": {"chosen"}},
		"does not exist any":   {"whom": {"chosen"}, "person": {"999999"}},
	} {
		code, body := o.post("/documents/1/links/send", with(v))
		assert.Equal(t, http.StatusUnprocessableEntity, code, what)
		assert.Contains(t, strings.ToLower(body), what)
	}
	// somebody without an address, and somebody whose mailbox is not there
	_, said := o.send(
		"/roster",
		"owners.csv",
		[]byte("Customer number,Name,E-mail,Town\nGQ-1,Anselm Rook,,Upper Sandle\nGQ-2,Tilde Garrow,tilde@nowhere.example,Upper Sandle\n"),
		nil,
	)
	require.Contains(t, said, "2 new")
	code, body := o.post("/documents/1/links/send", words)
	require.Equal(t, http.StatusOK, code, body)
	assert.Contains(t, body, "9 letters are on their way. No e-mail address is known of Anselm Rook.")
	letters := o.tray(8)
	require.Len(t, letters, 8)
	letter := letters["odalys.quill@mail.example"]
	token := o.tokens()["Odalys Quill"]
	assert.Contains(t, letter, "For Odalys Quill: Berth application")
	assert.Contains(t, letter, `href="`+o.url+"/f/"+token+`"`)
	assert.Contains(t, letter, "until it is taken back Gannet Quay Harbour Office")

	c := o.caller()
	code, body = c.get("/f/" + token)
	require.Equal(t, http.StatusOK, code)
	assert.Contains(t, body, "Odalys Quill")
	_, pdf := c.get("/f/" + token + "/form.pdf")
	assert.Contains(t, text(t, []byte(pdf)), "Two Sisters", "what the office knows is filled in")
	code, body = c.send("/f/"+token, "berth.pdf", []byte(pdf), nil)
	require.Equal(t, http.StatusOK, code)
	assert.Contains(t, body, "has arrived")

	o.eventually(func() bool {
		_, body = o.get("/documents/1/links")
		return strings.Contains(body, "1 letter came back")
	}, "a letter comes back")
	assert.Contains(t, body, "9 people have a link of their own. 1 opened it, 1 got the form, 1 answered.")
	assert.Contains(t, body, "there is no such mailbox")
	assert.Contains(t, body, "remind the 7 who have not answered")
	_, body = o.get("/documents/1/links?only=answered")
	assert.Contains(t, body, "Odalys Quill")
	assert.NotContains(t, body, "tilde@nowhere.example")
	_, body = o.post("/documents/1/links/send", words)
	assert.Contains(t, body, "There is nobody to send it to", "nobody gets a second link")

	code, body = o.post("/documents/1/links/remind", url.Values{"edition": {"1"}})
	require.Equal(t, http.StatusOK, code)
	assert.Contains(t, body, "7 letters are on their way")
	letters = o.tray(15)
	assert.NotContains(t, letters["odalys.quill@mail.example"], "Not yet here", "who has answered is left in peace")

	id := regexp.MustCompile(`<tr id="link-(\d+)"><td>Tilde Garrow`).FindStringSubmatch(body)[1]
	code, body = o.post("/links/"+id, url.Values{"do": {"again"}, "to": {"no address"}})
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	assert.Contains(t, body, "is not an e-mail address")
	code, _ = o.post("/links/"+id, url.Values{"do": {"again"}, "to": {"tilde@mail.example"}})
	require.Equal(t, http.StatusOK, code)
	assert.Contains(t, o.tray(16)["tilde@mail.example"], o.tokens()["Tilde Garrow"])
	code, csv := o.get("/documents/1/links.csv?edition=1")
	require.Equal(t, http.StatusOK, code)
	assert.Contains(t, csv, "GQ-1004,Odalys Quill,odalys.quill@mail.example,sent,,")

	code, _ = o.post("/links/"+id, url.Values{"do": {"revoke"}})
	require.Equal(t, http.StatusOK, code)
	code, body = c.get("/f/" + o.tokens()["Tilde Garrow"])
	assert.Equal(t, http.StatusGone, code)
	assert.Contains(t, body, "was taken back")
	code, _ = o.post("/editions/1/withdraw", url.Values{"reason": {"the fee has changed"}})
	require.Equal(t, http.StatusOK, code)
	for _, path := range []string{"/f/" + token, "/f/" + token + "/form.pdf"} {
		code, body = c.get(path)
		assert.Equal(t, http.StatusGone, code)
		assert.Contains(t, body, "This form is not used any more: the fee has changed.")
	}
	code, body = c.send("/f/"+token, "berth.pdf", []byte(pdf), nil)
	assert.Equal(t, http.StatusGone, code)
	assert.Contains(t, body, "the fee has changed")
	assert.Equal(t, form.FromPerson, o.field("name_vessel").Source)
}

// What does not go into the copies of people is shown before anything is sent.
func TestWhatDoesNotFitIsSaidBeforeLettersGoOut(t *testing.T) {
	o := released(t)
	o.set("telephone", "format", "email") // of the draft; the edition takes it as text
	_, said := o.send(
		"/roster",
		"owners.csv",
		[]byte("Customer number,Name,E-mail,Name of vessel\nGQ-1,Anselm Rook,anselm@mail.example,"+strings.Repeat("long name ", 30)+"\n"),
		nil,
	)
	require.Contains(t, said, "1 new")
	v := url.Values{"edition": {"1"}, "whom": {"found"}, "search": {"anselm"}, "subject": {"x"}, "text": {"{link}"}}
	code, body := o.post("/documents/1/links/send", v)
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	assert.Contains(t, body, "Nothing was sent yet")
	assert.Contains(t, body, `id="trouble"`)
	assert.Empty(t, o.tokens())
	v.Set("anyway", "yes")
	code, body = o.post("/documents/1/links/send", v)
	require.Equal(t, http.StatusOK, code, body)
	assert.NotEmpty(t, o.tokens())
}

// An edition that was released before forms were kept goes out by a link as it is.
func TestAnEditionWhoseFormWasNotKeptGoesOut(t *testing.T) {
	o := released(t)
	_, before := o.edition()
	_, err := o.store.Pool.Exec(t.Context(), `insert into editions (document_id, number, file, file_name, fields, revision, released_by, proof)
		select document_id, 2, file, 'old.pdf', fields, revision, released_by, proof from editions where id = 1`)
	require.NoError(t, err)
	code, _ := o.post("/documents/1/links", url.Values{"edition": {"2"}, "note": {"old"}})
	require.Equal(t, http.StatusOK, code)
	list, err := o.store.FormLinks(t.Context(), 2)
	require.NoError(t, err)
	code, pdf := o.caller().get("/f/" + list[0].Token + "/form.pdf")
	require.Equal(t, http.StatusOK, code, pdf)
	assert.True(t, strings.HasPrefix(pdf, string(before)))
}

// The code of a link stands on a page where nothing is printed and no field lies.
func TestAFormIsPrintedWithTheCodeOfALink(t *testing.T) {
	o := released(t)
	code, _ := o.post("/documents/1/links", url.Values{"edition": {"1"}, "note": {"on paper"}})
	require.Equal(t, http.StatusOK, code)
	code, pdf := o.get("/links/1/printed")
	require.Equal(t, http.StatusOK, code)
	_, before := o.edition()
	assert.True(t, strings.HasPrefix(pdf, string(before)))
	code, body := o.get("/links/1/printed?page=9")
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	assert.Contains(t, body, "no page 9")
	was, is := gray(t, before), gray(t, []byte(pdf))
	require.Len(t, is, len(was))
	changed, over := 0, 0
	for i := range was {
		if was[i] != is[i] {
			changed++
			if was[i] < 250 {
				over++
			}
		}
	}
	assert.Greater(t, changed, 500)
	assert.Zero(t, over, "nothing that was printed is covered")
}

// gray is the first page of a file as poppler draws it.
func gray(t *testing.T, pdf []byte) []byte {
	t.Helper()
	file := filepath.Join(t.TempDir(), "form.pdf")
	require.NoError(t, os.WriteFile(file, pdf, 0o600))
	out, err := exec.Command("pdftoppm", "-gray", "-r", "72", "-f", "1", "-singlefile", file).Output()
	require.NoError(t, err)
	return out
}
