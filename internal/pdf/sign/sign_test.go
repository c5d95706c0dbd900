package sign_test

import (
	"bytes"
	"crypto"
	"crypto/ecdsa"
	"crypto/elliptic"
	"crypto/rand"
	"crypto/rsa"
	"crypto/x509"
	"encoding/hex"
	"encoding/pem"
	mathrand "math/rand/v2"
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

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/pdf/fill"
	"zealousmargin.example/internal/pdf/sign"
	"zealousmargin.example/internal/pdf/write"
	"zealousmargin.example/internal/standin"
)

var now = time.Now().UTC().Truncate(time.Second)

func authority(t *testing.T) *standin.Authority {
	t.Helper()
	a, err := standin.NewAuthority("Gannet Quay test authority", now.AddDate(-1, 0, 0))
	require.NoError(t, err)
	return a
}

func identity(t *testing.T, a *standin.Authority, name string, elliptical bool) sign.Identity {
	t.Helper()
	var key crypto.Signer
	var err error
	if elliptical {
		key, err = ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	} else {
		key, err = rsa.GenerateKey(rand.Reader, 2048)
	}
	require.NoError(t, err)
	c, err := a.Issue(name, key.Public(), now.Add(-time.Hour), now.AddDate(1, 0, 0))
	require.NoError(t, err)
	return sign.Identity{Key: key, Chain: []*x509.Certificate{c, a.Certificate()}}
}

// unsigned is a form of one page with a text field and two signature fields.
func unsigned(t *testing.T) []byte {
	t.Helper()
	blank, err := write.Blank(595, 842)
	require.NoError(t, err)
	tpl := &form.Template{Pages: []form.Page{{ID: "a", N: 1, Width: 595, Height: 842}}, Fields: []form.Field{
		{ID: "v", Page: 1, Kind: form.Text, Name: "vessel", Rect: geom.R(60, 700, 260, 720), Order: 1},
		{ID: "b", Page: 1, Kind: form.Text, Name: "berth", Rect: geom.R(60, 660, 260, 680), Order: 2},
		{ID: "s", Page: 1, Kind: form.Signature, Name: "applicant", Rect: geom.R(60, 560, 260, 620), Order: 3},
		{ID: "o", Page: 1, Kind: form.Signature, Name: "office", Rect: geom.R(320, 560, 520, 620), Order: 4},
	}}
	out, err := write.Release(blank, tpl)
	require.NoError(t, err)
	return out
}

func trust(a *standin.Authority) sign.Trust {
	pool := x509.NewCertPool()
	pool.AddCert(a.Certificate())
	return sign.Trust{Roots: pool, Revoked: a.Revoked}
}

func stored(t *testing.T, b []byte) string {
	t.Helper()
	f := filepath.Join(t.TempDir(), "signed.pdf")
	require.NoError(t, os.WriteFile(f, b, 0o600))
	return f
}

func told(t *testing.T, name string, args ...string) string {
	t.Helper()
	out, err := exec.Command(name, args...).CombinedOutput()
	require.NoError(t, err, "%s %v: %s", name, args, out)
	return string(out)
}

func checked(t *testing.T, b []byte, a *standin.Authority) []sign.Finding {
	t.Helper()
	f, err := sign.Check(b, trust(a))
	require.NoError(t, err)
	return f
}

func TestPopplerAndOpenSSLSayThatASignatureIsValid(t *testing.T) {
	a := authority(t)
	for _, elliptical := range []bool{false, true} {
		who := identity(t, a, "Odalys Quill", elliptical)
		src := unsigned(t)
		out, err := sign.Sign(src, who, sign.Options{
			Field: "applicant", At: now, Reason: "I apply for a berth", Place: "Gannet Quay",
			Stamp: func(b []byte) ([]byte, error) { return a.Stamp(b, now.Add(time.Second)) },
		})
		require.NoError(t, err)
		assert.True(t, bytes.HasPrefix(out, src), "it is written behind what was there")
		file := stored(t, out)
		said := told(t, "pdfsig", "-nocert", file)
		assert.Contains(t, said, "Signature is Valid")
		assert.Contains(t, said, "Total document signed")
		assert.Contains(t, said, "Odalys Quill")
		assert.Contains(t, said, "ETSI.CAdES.detached")
		told(t, "qpdf", "--check", file)
		assert.Contains(t, told(t, "qpdf", "--json", "--json-key=qpdf", file), `"/Reason": "u:I apply for a berth"`)
		assert.Contains(t, told(t, "pdftotext", "-layout", file, "-"), "Odalys Quill", "it shows")

		content, der := parts(t, out)
		dir := t.TempDir()
		for name, b := range map[string][]byte{
			"content": content, "cms": der, "ca.pem": pem.EncodeToMemory(&pem.Block{Type: "CERTIFICATE", Bytes: a.Certificate().Raw}),
		} {
			require.NoError(t, os.WriteFile(filepath.Join(dir, name), b, 0o600))
		}
		said = told(t, "openssl", "cms", "-verify", "-cades", "-binary", "-inform", "DER", "-in", filepath.Join(dir, "cms"), "-content",
			filepath.Join(dir, "content"), "-CAfile", filepath.Join(dir, "ca.pem"), "-purpose", "any", "-out", "/dev/null")
		assert.Contains(t, strings.ToLower(said), "verification successful", "with the certificate that RFC 5035 has among what is signed")
		printed := told(t, "openssl", "cms", "-cmsout", "-print", "-inform", "DER", "-in", filepath.Join(dir, "cms"))
		signed, unsigned, ok := strings.Cut(printed, "unsignedAttrs")
		require.True(t, ok)
		assert.NotContains(t, signed, "signingTime", "EN 319 142-1 wants it in the dictionary, not here")
		assert.Contains(t, unsigned, "id-smime-aa-timeStampToken")

		f := checked(t, out, a)
		require.Len(t, f, 1)
		assert.True(t, f[0].Holds && f[0].Whole && f[0].Known && f[0].Stamp, f[0].Words())
		assert.Equal(t, "applicant was signed by Odalys Quill on "+now.Add(time.Second).Format("2 January 2006, 15:04 UTC")+
			" (time stamped); it holds, for all of the file.", f[0].Words())
	}
}

var ranges = regexp.MustCompile(`/ByteRange\s*\[0 (\d+) (\d+) (\d+)\s*\]`)

// parts are what the last signature of a file signs, and the signature, found by a pattern and not by a parser of ours.
func parts(t *testing.T, b []byte) (content, der []byte) {
	t.Helper()
	all := ranges.FindAllSubmatch(b, -1)
	require.NotEmpty(t, all)
	var n [3]int
	for i := range n {
		v, err := strconv.Atoi(string(all[len(all)-1][i+1]))
		require.NoError(t, err)
		n[i] = v
	}
	der, err := hex.DecodeString(string(b[n[0]+1 : n[1]-1]))
	require.NoError(t, err)
	return append(bytes.Clone(b[:n[0]]), b[n[1]:n[1]+n[2]]...), bytes.TrimRight(der, "\x00")
}

// Two sign one after the other, and answers are given between them; all signatures hold, and each says what came later.
func TestSeveralSignOneAfterTheOther(t *testing.T) {
	a := authority(t)
	out, err := sign.Sign(unsigned(t), identity(t, a, "Odalys Quill", true), sign.Options{Field: "applicant", At: now, May: sign.Filling})
	require.NoError(t, err)
	out, err = fill.Fill(out, map[string]any{"berth": "B 12"})
	require.NoError(t, err)
	f := checked(t, out, a)
	require.Len(t, f, 1)
	assert.True(t, f[0].Holds)
	assert.False(t, f[0].Whole)
	assert.Contains(t, f[0].Words(), "something was added later")
	out, err = sign.Sign(out, identity(t, a, "The harbour master", false), sign.Options{Field: "office", At: now.Add(time.Minute)})
	require.NoError(t, err)
	f = checked(t, out, a)
	require.Len(t, f, 2)
	assert.Equal(t, []string{"applicant", "office"}, []string{f[0].Field, f[1].Field}, "in the order in which they signed")
	assert.True(t, f[0].Holds && f[1].Holds && f[1].Whole)
	assert.Contains(t, f[0].Words(), "Behind it stands what was signed later, in office.")
	said := told(t, "pdfsig", "-nocert", stored(t, out))
	assert.Equal(t, 2, strings.Count(said, "Signature is Valid"), said)
	_, err = sign.Sign(out, identity(t, a, "x", true), sign.Options{Field: "office", At: now})
	require.ErrorContains(t, err, "signed already")
	_, err = sign.Sign(out, identity(t, a, "x", true), sign.Options{Field: "vessel", At: now})
	require.ErrorContains(t, err, "no signature field")
	_, err = sign.Sign(out, identity(t, a, "x", true), sign.Options{Field: "office", At: now, May: sign.Filling})
	require.Error(t, err)
}

// Whatever byte is changed of what was signed: the check says so, and so does poppler.
func TestAChangedByteIsSeen(t *testing.T) {
	a := authority(t)
	out, err := sign.Sign(unsigned(t), identity(t, a, "Odalys Quill", true), sign.Options{Field: "applicant", At: now})
	require.NoError(t, err)
	seed := mathrand.Uint64()
	t.Logf("seed %d", seed)
	r := mathrand.New(mathrand.NewPCG(seed, 1))
	hole := bytes.Index(out, []byte("<3082"))
	require.Positive(t, hole)
	for i := range 60 {
		at := r.IntN(len(out) - 8)
		if at >= hole-1 && at <= hole+2*16<<10+1 {
			continue
		}
		bad := bytes.Clone(out)
		bad[at] ^= 1 << r.IntN(7)
		f, err := sign.Check(bad, trust(a))
		if err != nil || len(f) == 0 {
			continue // it is no form any more
		}
		assert.False(t, f[0].Holds && f[0].Whole, "byte %d of %d", at, len(out))
		if i < 5 {
			said, _ := exec.Command("pdfsig", "-nocert", stored(t, bad)).CombinedOutput()
			assert.NotContains(t, string(said), "Signature is Valid")
		}
	}
	cut := ranges.ReplaceAllFunc(bytes.Clone(out), func(m []byte) []byte { // it would leave out what it pleases
		return append([]byte("/ByteRange[0 10 20 30"), append(bytes.Repeat([]byte(" "), len(m)-22), ']')...)
	})
	f := checked(t, cut, a)
	assert.False(t, f[0].Holds)
}

func TestACertificateThatIsOutOfDateOrTakenBackIsTold(t *testing.T) {
	a := authority(t)
	who := identity(t, a, "Odalys Quill", true)
	_, err := sign.Sign(unsigned(t), who, sign.Options{Field: "applicant", At: now.AddDate(2, 0, 0)})
	require.ErrorIs(t, err, sign.ErrExpired)
	_, err = sign.Sign(unsigned(t), who, sign.Options{Field: "applicant", At: now.AddDate(-2, 0, 0)})
	require.ErrorIs(t, err, sign.ErrTooSoon)
	out, err := sign.Sign(unsigned(t), who, sign.Options{Field: "applicant", At: now})
	require.NoError(t, err)
	a.Revoke(who.Chain[0], now.Add(time.Minute))
	assert.True(t, checked(t, out, a)[0].Known, "it was signed before")
	a.Revoke(who.Chain[0], now.Add(-time.Minute))
	f := checked(t, out, a)[0]
	assert.False(t, f.Known)
	assert.Contains(t, f.Words(), "was taken back on")
	crl, err := a.CRL(now)
	require.NoError(t, err)
	list, err := x509.ParseRevocationList(crl)
	require.NoError(t, err)
	require.NoError(t, list.CheckSignatureFrom(a.Certificate()))
	assert.Len(t, list.RevokedCertificateEntries, 1)
	assert.Contains(t, checked(t, out, authority(t))[0].Words(), "Nobody who is trusted here")
}

func TestFieldsAreLockedOnceItIsSigned(t *testing.T) {
	a := authority(t)
	out, err := sign.Sign(unsigned(t), identity(t, a, "Odalys Quill", true), sign.Options{
		Field: "applicant", At: now, Lock: []string{"vessel"}, May: sign.Filling,
	})
	require.NoError(t, err)
	file := stored(t, out)
	assert.Contains(t, told(t, "pdfsig", "-nocert", file), "Signature is Valid")
	js := told(t, "qpdf", "--json", "--json-key=acroform", file)
	assert.Regexp(t, `(?s)"fullname": "vessel".*?"ischeckbox"`, js)
	shown := told(t, "mutool", "show", "-g", file, "trailer/Root/Perms/DocMDP")
	assert.Contains(t, shown, "DocMDP")
	assert.Contains(t, shown, "FieldMDP")
	_, err = sign.Sign(unsigned(t), identity(t, a, "x", true), sign.Options{Field: "applicant", At: now, Lock: []string{"nothing"}})
	require.ErrorContains(t, err, "to lock")
}

func TestAnIdentityComesInAPKCS12File(t *testing.T) {
	a := authority(t)
	who := identity(t, a, "Odalys Quill", false)
	b, err := pkcs12.Modern.Encode(who.Key, who.Chain[0], who.Chain[1:], "Ebbe")
	require.NoError(t, err)
	in, err := sign.FromPKCS12(b, "Ebbe")
	require.NoError(t, err)
	assert.Equal(t, "Odalys Quill", in.Chain[0].Subject.CommonName)
	assert.Len(t, in.Chain, 2)
	_, err = sign.FromPKCS12(b, "Flut")
	require.ErrorIs(t, err, sign.ErrWrong)
	_, err = sign.FromPKCS12([]byte("%PDF"), "")
	require.ErrorIs(t, err, sign.ErrPKCS12)
}
