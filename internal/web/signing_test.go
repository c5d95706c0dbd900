package web_test

import (
	"bytes"
	"crypto/ecdsa"
	"crypto/elliptic"
	"crypto/rand"
	"crypto/sha256"
	"crypto/x509"
	"encoding/hex"
	"image"
	"image/png"
	mathrand "math/rand/v2"
	"net/http"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"software.sslmate.com/src/go-pkcs12"

	"zealousmargin.example/demo"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/pdf/fill"
	"zealousmargin.example/internal/standin"
)

// partsGiven is an office whose berth application has two parts, and is out.
func partsGiven(t *testing.T) *office {
	t.Helper()
	o := found(t)
	signature := ""
	for name := range o.names() {
		switch o.field(name).Kind {
		case form.Signature:
			signature = name
			o.set(name, "role", "applicant")
		}
	}
	require.NotEmpty(t, signature)
	code, body := o.edit("place", url.Values{"kind": {"signature"}, "x0": {"320"}, "y0": {"60"}, "page": {"2"}})
	require.Equal(t, http.StatusOK, code, body)
	for name := range o.names() {
		if o.field(name).Kind == form.Signature && name != signature {
			o.set(name, "role", "harbour master")
		}
	}
	o.set("telephone", "role", "harbour master")
	o.set("name_vessel", "role", "applicant")
	o.set("name_vessel", "required", "yes")
	code, _ = o.post("/documents/1/details", url.Values{"roles": {"applicant, harbour master"}})
	require.Equal(t, http.StatusOK, code)
	code, body = o.post("/documents/1/editions", url.Values{"anyway": {"yes"}})
	require.Equal(t, http.StatusOK, code, body)
	return o
}

// whole posts everything in parts, as the page does.
func (o *office) whole(path string, v url.Values, file []byte) (int, string) {
	o.t.Helper()
	v.Set("csrf", o.token)
	return o.send(path, "form.pdf", file, v)
}

func sum(b []byte) string {
	s := sha256.Sum256(b)
	return hex.EncodeToString(s[:])
}

func told(t *testing.T, pdf []byte, name string, args ...string) string {
	t.Helper()
	file := filepath.Join(t.TempDir(), "form.pdf")
	require.NoError(t, os.WriteFile(file, pdf, 0o600))
	out, _ := exec.Command(name, append(args, file)...).CombinedOutput() // what it says counts
	return string(out)
}

// A form goes round: the applicant fills in their part by a link and signs with its passcode, the harbour master by account and password;
// behind the finished form stands what was done, its seal is valid to a reader of another make, and a changed byte is seen.
func TestAFormGoesRoundToBeSigned(t *testing.T) {
	o := partsGiven(t)
	_, body := o.get("/documents/1/signings")
	assert.Contains(t, body, "who signs as applicant")
	assert.Contains(t, body, "who signs as harbour master")
	people, _, err := o.store.RosterPeople(t.Context(), "odalys", 0, 1)
	require.NoError(t, err)
	person := "person " + strconv.FormatInt(people[0].ID, 10)
	start := url.Values{
		"edition":    {"1"},
		"who-0":      {person},
		"passcode-0": {"slack water"},
		"who-1":      {"account 1"},
		"consent":    {"I agree to the harbour rules."},
	}
	for what, change := range map[string]url.Values{
		"say who signs as harbour master": {"who-1": {""}}, "signs with a passcode": {"passcode-0": {""}},
		"say what those who sign agree to": {"consent": {" "}},
		"choose an edition":                {"edition": {"77"}},
	} {
		v := url.Values{}
		for k, x := range start {
			v[k] = x
		}
		for k, x := range change {
			v[k] = x
		}
		code, body := o.post("/documents/1/signings", v)
		assert.Equal(t, http.StatusUnprocessableEntity, code, what)
		assert.Contains(t, strings.ToLower(body), what)
	}
	code, _ := o.post("/documents/1/signings", start)
	require.Equal(t, http.StatusOK, code)
	letter := o.tray(1)["odalys.quill@mail.example"]
	assert.Contains(t, letter, "it is your turn to fill in your part and to sign")
	token := regexp.MustCompile(`/f/(\w+)`).FindStringSubmatch(letter)[1]
	_, body = o.get("/signings/1")
	assert.Contains(t, body, "Odalys Quill's turn first")
	code, _ = o.get("/signings/1/form.pdf")
	assert.Equal(t, http.StatusForbidden, code)

	c := o.caller()
	_, body = c.get("/f/" + token)
	assert.Contains(t, body, "Passcode")
	_, body = c.post("/f/"+token, url.Values{"do": {"enter"}, "passcode": {"slack water"}})
	require.Contains(t, body, "First: fill in your part")
	assert.NotContains(t, body, `id="signhere"`, "a required field is empty")
	pass := regexp.MustCompile(`name="pass" value="([^"]+)"`).FindStringSubmatch(body)[1]
	with := func(v url.Values) url.Values { v.Set("pass", pass); return v }
	_, pdf := c.get("/f/" + token + "/form.pdf?pass=" + pass)
	mine, err := fill.With([]byte(pdf), map[string]any{"name_vessel": "Two Sisters", "telephone": "0666 66"}, fill.Options{})
	require.NoError(t, err)
	code, body = c.whole(
		"/f/"+token,
		with(url.Values{"do": {"sign"}, "by": {"typed"}, "name": {"Odalys Quill"}, "agree": {"yes"}, "secret": {"slack water"}}),
		nil,
	)
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	assert.Contains(t, body, "Fill in your part first: nothing stands in name_vessel yet")
	code, body = c.whole("/f/"+token, with(url.Values{"do": {"answer"}}), []byte("no form"))
	assert.Equal(t, http.StatusUnprocessableEntity, code, body)
	code, body = c.whole("/f/"+token, with(url.Values{"do": {"answer"}}), mine)
	require.Equal(t, http.StatusOK, code)
	assert.Contains(t, body, "Your part is filled in")
	_, shown := c.get("/f/" + token + "/form.pdf?pass=" + pass)
	got, err := fill.Answers([]byte(shown))
	require.NoError(t, err)
	assert.Equal(t, "Two Sisters", got["name_vessel"])
	assert.Empty(t, got["telephone"], "what is another's is not taken")

	good := url.Values{
		"do":      {"sign"},
		"by":      {"drawn"},
		"strokes": {"[[[1,1],[40,30],[80,5]],[[90,9],[140,30]]]"},
		"name":    {"Odalys Quill"},
		"agree":   {"yes"},
		"secret":  {"slack water"},
	}
	for what, change := range map[string][2]string{
		"say that you agree": {"agree", ""}, "that is not the passcode": {"secret", "high water"},
		"draw your signature first": {"strokes", "[]"},
		"say how you sign":          {"by", "thumb"}, "say your name": {"name", " "}, "only dots": {"strokes", "[[[1,1]]]"},
	} {
		v := url.Values{}
		for k, x := range good {
			v[k] = x
		}
		v.Set(change[0], change[1])
		code, body := c.whole("/f/"+token, with(v), nil)
		assert.Equal(t, http.StatusUnprocessableEntity, code, what)
		assert.Contains(t, strings.ToLower(body), what)
	}
	code, body = c.whole("/f/"+token, with(good), nil)
	require.Equal(t, http.StatusOK, code)
	assert.Contains(t, body, "You signed on")
	assert.Contains(t, body, "turn, as harbour master")
	code, body = c.whole("/f/"+token, with(good), nil)
	assert.Equal(t, http.StatusUnprocessableEntity, code, "nobody signs twice")
	assert.Contains(t, body, "was signed before")

	_, body = o.get("/signings/1")
	assert.Contains(t, body, "First: fill in your part")
	_, second := o.get("/signings/1/form.pdf")
	assert.Contains(t, text(t, []byte(second)), "Odalys Quill, "+time.Now().Local().Format("2 January 2006"))
	theirs, err := fill.With([]byte(second), map[string]any{"telephone": "0555 1", "name_vessel": "Another"}, fill.Options{})
	require.NoError(t, err)
	code, body = o.whole("/signings/1", url.Values{"do": {"answer"}}, theirs)
	require.Equal(t, http.StatusOK, code, body)
	code, body = o.whole(
		"/signings/1",
		url.Values{"do": {"sign"}, "by": {"typed"}, "name": {"Imke Maas"}, "agree": {"yes"}, "secret": {"wrong words"}},
		nil,
	)
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	assert.Contains(t, body, "not your password")
	_, third := o.get("/signings/1/form.pdf")
	code, body = o.whole(
		"/signings/1",
		url.Values{"do": {"sign"}, "by": {"typed"}, "name": {demo.People[0].Name}, "agree": {"yes"}, "secret": {demo.People[0].Password}},
		nil,
	)
	require.Equal(t, http.StatusOK, code)
	assert.Contains(t, body, "All have signed")

	_, done := o.get("/signings/1/signed/0")
	pages := text(t, []byte(done))
	for _, s := range []string{
		"How this form was signed", "1. Odalys Quill, applicant", "by drawing the name", "2. " + demo.People[0].Name + ", harbour master",
		"by typing the name", "127.0.0.1", sum([]byte(shown)), sum([]byte(third)),
		"I agree to the harbour rules.", "odalys.quill@mail.example",
	} {
		assert.Contains(t, pages, s)
	}
	for n, want := range []string{done, shown, third} {
		_, kept := o.get("/signings/1/signed/" + strconv.Itoa(n))
		assert.Equal(t, sum([]byte(want)), sum([]byte(kept)), "what was signed is kept")
	}
	last, err := fill.Answers([]byte(done))
	require.NoError(t, err)
	assert.Equal(t, "Two Sisters", last["name_vessel"], "nobody changes what was signed before them")
	assert.Equal(t, "0555 1", last["telephone"])
	sealed := told(t, []byte(done), "pdfsig", "-nocert")
	assert.Contains(t, sealed, "Signature is Valid")
	assert.Contains(t, sealed, "Total document signed")
	assert.Contains(t, told(t, []byte(done), "qpdf", "--check"), "No syntax or stream encoding errors")
	assert.Contains(t, o.tray(2)["odalys.quill@mail.example"], "all have signed")
	_, body = c.get("/f/" + token + "?pass=" + pass)
	assert.Contains(t, body, "get the finished form")
	_, copied := c.get("/f/" + token + "/form.pdf?pass=" + pass)
	assert.Equal(t, sum([]byte(done)), sum([]byte(copied)))
	returns, err := o.store.Returns(t.Context(), 1)
	require.NoError(t, err)
	require.Len(t, returns, 1)
	assert.Equal(t, "Odalys Quill", *returns[0].By, "it has come back like answers")

	_, body = o.send("/signed-files", "signed.pdf", []byte(done), nil)
	assert.Contains(t, body, "1 signature holds")
	assert.Contains(t, body, "It is the finished form of Berth application")
	assert.Contains(t, body, "Odalys Quill, as applicant")
	for range 3 {
		bad := bytes.Clone([]byte(done))
		at := bytes.Index(bad, []byte("stream\n")) + 20 + mathrand.IntN(200)
		bad[at] ^= 1
		_, body = o.send("/signed-files", "signed.pdf", bad, nil)
		assert.NotContains(t, body, "It is the finished form")
		assert.True(
			t,
			strings.Contains(body, "a signature in it does not hold") || strings.Contains(body, `role="alert"`),
			"a changed byte is seen",
		)
	}
}

// What goes round can be called off, and is then for nobody to sign.
func TestASigningIsCalledOff(t *testing.T) {
	o := partsGiven(t)
	code, _ := o.post(
		"/documents/1/signings",
		url.Values{"edition": {"1"}, "who-0": {"account 1"}, "who-1": {"account 2"}, "consent": {"yes"}},
	)
	require.Equal(t, http.StatusOK, code)
	_, body := o.get("/documents/1/signings")
	assert.Contains(t, body, "sign it")
	_, body = o.get("/")
	assert.Contains(t, body, "waits for your signature")
	code, _ = o.post("/signings/1/end", nil)
	require.Equal(t, http.StatusOK, code)
	code, body = o.whole(
		"/signings/1",
		url.Values{"do": {"sign"}, "by": {"typed"}, "name": {"x"}, "agree": {"yes"}, "secret": {demo.People[0].Password}},
		nil,
	)
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	assert.Contains(t, body, "called off")
	_, body = o.get("/")
	assert.NotContains(t, body, "waits for your signature")
	code, _ = o.post("/signings/1/end", nil)
	assert.Equal(t, http.StatusNotFound, code)
}

// Certificates are kept with their keys encrypted, listed, chosen for sealing and taken out; what is no longer or not yet valid is refused.
func TestCertificatesAreKept(t *testing.T) {
	o := open(t)
	o.signIn()
	a, err := standin.NewAuthority("Harbour authority", time.Now().AddDate(-3, 0, 0))
	require.NoError(t, err)
	file := func(name string, from, to time.Time) []byte {
		key, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
		require.NoError(t, err)
		c, err := a.Issue(name, key.Public(), from, to)
		require.NoError(t, err)
		b, err := pkcs12.Modern.Encode(key, c, []*x509.Certificate{a.Certificate()}, "barnacle")
		require.NoError(t, err)
		return b
	}
	now := time.Now()
	good := file("Quay desk", now.AddDate(0, 0, -1), now.AddDate(1, 0, 0))
	for what, x := range map[string]struct {
		b        []byte
		password string
	}{
		"not the password": {good, "limpet"}, "has expired": {file("Old", now.AddDate(-2, 0, 0), now.AddDate(-1, 0, 0)), "barnacle"},
		"not valid yet": {file("Young", now.AddDate(1, 0, 0), now.AddDate(2, 0, 0)), "barnacle"}, "no pkcs#12": {[]byte("nothing"), "x"},
	} {
		code, body := o.send("/certificates", "x.p12", x.b, url.Values{"password": {x.password}})
		assert.Equal(t, http.StatusUnprocessableEntity, code, what)
		assert.Contains(t, strings.ToLower(body), what)
	}
	code, body := o.send("/certificates", "quay.p12", good, url.Values{"password": {"barnacle"}})
	require.Equal(t, http.StatusOK, code)
	assert.Contains(t, body, "Quay desk")
	assert.Contains(t, body, "Harbour authority")
	var sealed []byte
	require.NoError(t, o.store.Pool.QueryRow(t.Context(), `select sealed from certificates where holder = 'Quay desk'`).Scan(&sealed))
	_, err = x509.ParsePKCS8PrivateKey(sealed)
	require.Error(t, err)
	assert.NotContains(t, string(sealed), "chain", "nothing of it is in clear")
	list, err := o.store.Certificates(t.Context())
	require.NoError(t, err)
	id := strconv.FormatInt(list[len(list)-1].ID, 10)
	code, body = o.post("/certificates/"+id, url.Values{"do": {"seal"}})
	require.Equal(t, http.StatusOK, code)
	assert.Equal(t, 1, strings.Count(body, "seals finished forms"))
	b, err := o.store.OpenCertificate(t.Context(), list[len(list)-1].ID)
	require.NoError(t, err)
	assert.Contains(t, string(b), "chain")
	o.store.Key = bytes.Repeat([]byte{7}, 32)
	_, err = o.store.OpenCertificate(t.Context(), list[len(list)-1].ID)
	require.ErrorContains(t, err, "another key")
	code, _ = o.post("/certificates/"+id, url.Values{"do": {"drop"}})
	require.Equal(t, http.StatusOK, code)
	code, _ = o.post("/certificates/"+id, url.Values{"do": {"drop"}})
	assert.Equal(t, http.StatusNotFound, code)
}

// An edition is signed with the office's certificate and then, as an update behind that, with one of somebody's own, with a picture;
// poppler finds both valid, and the first covers what it did. A preparer does not sign with the office's.
func TestAnEditionIsSignedWithCertificates(t *testing.T) {
	o := partsGiven(t)
	_, body := o.get("/documents/1/release")
	assert.Contains(t, body, "/sign-file?edition=1")
	_, body = o.get("/sign-file?edition=1")
	assert.Contains(t, body, "by the certificate that the office keeps")
	places := regexp.MustCompile(`<option>([^<]+)</option>`).FindAllStringSubmatch(body, -1)
	require.Len(t, places, 2)
	code, first := o.parts(
		"/sign-file",
		url.Values{
			"edition": {"1"},
			"field":   {places[0][1]},
			"with":    {"1"},
			"reason":  {"It is as agreed"},
			"place":   {"Gannet Quay"},
			"certify": {"fill"},
		},
		nil,
	)
	require.Equal(t, http.StatusOK, code, first)
	said := told(t, []byte(first), "pdfsig", "-nocert")
	assert.Contains(t, said, "Signature is Valid")
	assert.Contains(t, said, demo.Office)
	assert.Contains(t, text(t, []byte(first)), "It is as agreed")
	assert.Contains(t, told(t, []byte(first), "qpdf", "--json", "--json-key=qpdf"), "/DocMDP")

	a, err := standin.NewAuthority("Another authority", time.Now().AddDate(-1, 0, 0))
	require.NoError(t, err)
	key, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	require.NoError(t, err)
	cert, err := a.Issue("Odalys Quill", key.Public(), time.Now().AddDate(0, 0, -1), time.Now().AddDate(1, 0, 0))
	require.NoError(t, err)
	p12, err := pkcs12.Modern.Encode(key, cert, []*x509.Certificate{a.Certificate()}, "barnacle")
	require.NoError(t, err)
	img := image.NewNRGBA(image.Rect(0, 0, 40, 40))
	for i := range img.Pix {
		img.Pix[i] = 255 * byte(i%4/3) // black
	}
	var pic bytes.Buffer
	require.NoError(t, png.Encode(&pic, img))
	files := map[string]sentFile{"file": {"form.pdf", []byte(first)}, "certificate": {"c.p12", p12}, "picture": {"p.png", pic.Bytes()}}
	code, both := o.parts("/sign-file", url.Values{"with": {"0"}, "password": {"barnacle"}}, files)
	require.Equal(t, http.StatusOK, code, both)
	assert.True(t, strings.HasPrefix(both, first), "an update behind what was signed")
	said = told(t, []byte(both), "pdfsig", "-nocert")
	assert.Equal(t, 2, strings.Count(said, "Signature is Valid"))
	assert.Contains(t, told(t, []byte(both), "qpdf", "--check"), "No syntax or stream encoding errors")
	dark := func(pdf string) (n int) {
		file := filepath.Join(t.TempDir(), "form.pdf")
		require.NoError(t, os.WriteFile(file, []byte(pdf), 0o600))
		out, err := exec.Command("pdftoppm", "-gray", "-r", "72", "-f", "2", "-singlefile", file).Output()
		require.NoError(t, err)
		for _, p := range out {
			if p < 40 {
				n++
			}
		}
		return n
	}
	assert.Greater(t, dark(both), dark(first)+80, "the picture shows")
	_, body = o.send("/signed-files", "both.pdf", []byte(both), nil)
	assert.Contains(t, body, "who issued one of the office's own, too")
	assert.Contains(t, body, "Nobody who is trusted here says that the certificate is that of Odalys Quill")

	for what, x := range map[string]struct {
		v url.Values
		f map[string]sentFile
	}{
		"choose a pdf file first": {url.Values{"with": {"1"}}, nil},
		"nothing is left to sign": {url.Values{"with": {"1"}}, map[string]sentFile{"file": {"form.pdf", []byte(both)}}},
		"choose a certificate":    {url.Values{"edition": {"1"}}, nil},
		"not the password": {
			url.Values{"edition": {"1"}, "password": {"limpet"}},
			map[string]sentFile{"certificate": {"c.p12", p12}},
		},
		"there is no signature": {url.Values{"edition": {"1"}, "with": {"1"}, "field": {"nowhere"}}, nil},
		"not a picture":         {url.Values{"edition": {"1"}, "with": {"1"}}, map[string]sentFile{"picture": {"p.png", []byte("none")}}},
		"say what may still":    {url.Values{"edition": {"1"}, "with": {"1"}, "certify": {"much"}}, nil},
	} {
		code, body := o.parts("/sign-file", x.v, x.f)
		assert.Equal(t, http.StatusUnprocessableEntity, code, what)
		assert.Contains(t, strings.ToLower(body), what)
	}
	o.signInAs(1)
	code, body = o.parts("/sign-file", url.Values{"edition": {"1"}, "with": {"1"}}, nil)
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	assert.Contains(t, body, "Only those who may release")
	_, body = o.get("/sign-file?edition=1")
	assert.NotContains(t, body, "by the certificate that the office keeps")
}

// The test authority issues a certificate, which signs with a time stamp; when it is taken back, OpenSSL reads so in the list of those, and
// the check of what is signed after that says so.
func TestTheTestAuthorityIssuesAndTakesBack(t *testing.T) {
	o := partsGiven(t)
	for what, v := range map[string]url.Values{
		"say for whom": {"password": {"barnacle"}}, "choose a password": {"name": {"Quay desk"}},
	} {
		code, body := o.post("/test-authority", v)
		assert.Equal(t, http.StatusUnprocessableEntity, code)
		assert.Contains(t, strings.ToLower(body), what)
	}
	code, p12 := o.post("/test-authority", url.Values{"name": {"Quay desk"}, "password": {"barnacle"}})
	require.Equal(t, http.StatusOK, code)
	key, cert, _, err := pkcs12.DecodeChain([]byte(p12), "barnacle")
	require.NoError(t, err)
	require.NotNil(t, key)
	assert.Equal(t, "Quay desk", cert.Subject.CommonName)
	put := func() string {
		code, pdf := o.parts("/sign-file", url.Values{"edition": {"1"}, "password": {"barnacle"}, "stamp": {"yes"}},
			map[string]sentFile{"certificate": {"quay.p12", []byte(p12)}})
		require.Equal(t, http.StatusOK, code, pdf)
		_, body := o.send("/signed-files", "signed.pdf", []byte(pdf), nil)
		return body
	}
	body := put()
	assert.Contains(t, body, "1 signature holds")
	assert.Contains(t, body, "by a time stamp")
	assert.NotContains(t, body, "taken back")
	serials := func() string {
		_, crl := o.caller().get("/test-authority.crl")
		file := filepath.Join(t.TempDir(), "list.crl")
		require.NoError(t, os.WriteFile(file, []byte(crl), 0o600))
		out, err := exec.Command("openssl", "crl", "-inform", "DER", "-in", file, "-noout", "-text").CombinedOutput()
		require.NoError(t, err, string(out))
		return string(out)
	}
	assert.Contains(t, serials(), "No Revoked Certificates")
	code, _ = o.post("/test-authority", url.Values{"do": {"revoke"}, "serial": {cert.SerialNumber.String()}})
	require.Equal(t, http.StatusOK, code)
	code, _ = o.post("/test-authority", url.Values{"do": {"revoke"}, "serial": {cert.SerialNumber.String()}})
	assert.Equal(t, http.StatusNotFound, code)
	assert.Contains(t, serials(), strings.ToUpper(hex.EncodeToString(cert.SerialNumber.Bytes())))
	time.Sleep(time.Second) // signatures have whole seconds
	assert.Contains(t, put(), "The certificate was taken back on")
}
