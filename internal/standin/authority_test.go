package standin_test

import (
	"crypto/ecdsa"
	"crypto/elliptic"
	"crypto/rand"
	"crypto/x509"
	"encoding/pem"
	"math/big"
	"os"
	"os/exec"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/standin"
)

// openssl runs it in a folder: it shares nothing with what issues here.
func openssl(t *testing.T, dir string, args ...string) (string, error) {
	t.Helper()
	c := exec.Command("openssl", args...)
	c.Dir = dir
	out, err := c.CombinedOutput()
	return string(out), err
}

func written(t *testing.T, dir, name, kind string, der []byte) {
	t.Helper()
	b := pem.EncodeToMemory(&pem.Block{Type: kind, Bytes: der})
	require.NoError(t, os.WriteFile(filepath.Join(dir, name), b, 0o600))
}

// issued is an authority, and a certificate that it gave to somebody.
func issued(t *testing.T) (*standin.Authority, *x509.Certificate) {
	t.Helper()
	now := time.Now().Add(-time.Hour)
	a, err := standin.NewAuthority(standin.AuthorityName, now)
	require.NoError(t, err)
	key, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	require.NoError(t, err)
	c, err := a.Issue("Ono Brandt", key.Public(), now, now.AddDate(1, 0, 0))
	require.NoError(t, err)
	return a, c
}

// OpenSSL follows a certificate to the authority, and is told by its list what was taken back (RFC 5280, 5 and 6).
func TestOpenSSLBelievesTheTestAuthority(t *testing.T) {
	a, c := issued(t)
	other, _ := issued(t)
	dir := t.TempDir()
	written(t, dir, "ca.pem", "CERTIFICATE", a.Certificate().Raw)
	written(t, dir, "other.pem", "CERTIFICATE", other.Certificate().Raw)
	written(t, dir, "ono.pem", "CERTIFICATE", c.Raw)
	said, err := openssl(t, dir, "verify", "-x509_strict", "-CAfile", "ca.pem", "ono.pem")
	require.NoError(t, err, said)
	said, err = openssl(t, dir, "verify", "-CAfile", "other.pem", "ono.pem")
	require.Error(t, err, said)

	list := func() {
		crl, err := a.CRL(time.Now().Add(-time.Minute))
		require.NoError(t, err)
		written(t, dir, "crl.pem", "X509 CRL", crl)
	}
	list()
	said, err = openssl(t, dir, "verify", "-CAfile", "ca.pem", "-CRLfile", "crl.pem", "-crl_check", "ono.pem")
	require.NoError(t, err, said)
	_, yes := a.Revoked(c)
	assert.False(t, yes)
	at := time.Now().Add(-2 * time.Minute)
	a.Revoke(c, at)
	list()
	said, err = openssl(t, dir, "verify", "-CAfile", "ca.pem", "-CRLfile", "crl.pem", "-crl_check", "ono.pem")
	require.Error(t, err)
	assert.Contains(t, said, "revoked")
	said, err = openssl(t, dir, "crl", "-in", "crl.pem", "-noout", "-text")
	require.NoError(t, err)
	assert.Contains(t, said, at.UTC().Format("Jan _2 15:04:05 2006 GMT"))
	since, yes := a.Revoked(c)
	assert.True(t, yes)
	assert.Equal(t, at, since)
}

// What the clock of the authority stamps, OpenSSL verifies; of anything else it says that it was not stamped (RFC 3161).
func TestOpenSSLVerifiesATimeStamp(t *testing.T) {
	a, _ := issued(t)
	dir := t.TempDir()
	require.NoError(t, os.WriteFile(filepath.Join(dir, "form.pdf"), []byte("the form"), 0o600))
	require.NoError(t, os.WriteFile(filepath.Join(dir, "other.pdf"), []byte("The form"), 0o600))
	written(t, dir, "ca.pem", "CERTIFICATE", a.Certificate().Raw)
	at := time.Now().Truncate(time.Second)
	token, err := a.Stamp([]byte("the form"), at)
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(filepath.Join(dir, "token.der"), token, 0o600))
	said, err := openssl(t, dir, "ts", "-verify", "-data", "form.pdf", "-in", "token.der", "-token_in", "-CAfile", "ca.pem")
	require.NoError(t, err, said)
	said, err = openssl(t, dir, "ts", "-verify", "-data", "other.pdf", "-in", "token.der", "-token_in", "-CAfile", "ca.pem")
	require.Error(t, err, said)
	assert.Contains(t, said, "message imprint mismatch")
	said, err = openssl(t, dir, "ts", "-reply", "-in", "token.der", "-token_in", "-token_out", "-text")
	require.NoError(t, err, said)
	assert.Contains(t, said, at.UTC().Format("Jan _2 15:04:05 2006 GMT"))
	again, err := a.Stamp([]byte("the form"), at)
	require.NoError(t, err)
	assert.NotEqual(t, token, again, "each has a number of its own (RFC 3161, 2.4.2)")
}

// An authority that was kept goes on as the same one, with what it took back, or with nothing yet.
func TestTheAuthorityIsKept(t *testing.T) {
	a, c := issued(t)
	b, err := a.Marshal()
	require.NoError(t, err)
	same, err := standin.OpenAuthority(b, map[string]time.Time{c.SerialNumber.String(): time.Unix(1000, 0)})
	require.NoError(t, err)
	assert.Equal(t, a.Certificate().Raw, same.Certificate().Raw)
	at, yes := same.Revoked(c)
	assert.True(t, yes)
	assert.Equal(t, time.Unix(1000, 0), at)
	fresh, err := standin.OpenAuthority(b, nil)
	require.NoError(t, err)
	fresh.Revoke(c, time.Now())
	_, yes = fresh.Revoked(c)
	assert.True(t, yes)
	key, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	require.NoError(t, err)
	next, err := fresh.Issue("Wiebke Ahlers", key.Public(), time.Now(), time.Now().AddDate(1, 0, 0))
	require.NoError(t, err)
	require.NoError(t, next.CheckSignatureFrom(a.Certificate()))
	assert.Positive(t, next.SerialNumber.Cmp(new(big.Int)), "RFC 5280, 4.1.2.2")
	assert.NotEqual(t, c.SerialNumber, next.SerialNumber)
	for _, bad := range []string{"", "{}", `{"key":"AAAA"}`} {
		_, err := standin.OpenAuthority([]byte(bad), nil)
		assert.Error(t, err, bad)
	}
}
