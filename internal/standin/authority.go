package standin

import (
	"crypto"
	"crypto/ecdsa"
	"crypto/elliptic"
	"crypto/rand"
	"crypto/sha256"
	"crypto/x509"
	"crypto/x509/pkix"
	"encoding/asn1"
	"encoding/json"
	"errors"
	"maps"
	"math/big"
	"sync"
	"time"

	"github.com/digitorus/timestamp"
)

// Authority is the test authority: it issues certificates to anybody, takes them back, and stamps times. What it says is worth nothing
// outside the office that tries its forms.
type Authority struct {
	key     *ecdsa.PrivateKey
	cert    *x509.Certificate
	clock   *ecdsa.PrivateKey
	stamper *x509.Certificate
	mu      sync.Mutex
	revoked map[string]time.Time
}

// AuthorityName is what the shipped one is called in its certificates.
const AuthorityName = "Test authority, for trying out"

// NewAuthority makes an authority with a certificate of its own, valid for ten years from a time on.
func NewAuthority(name string, from time.Time) (*Authority, error) {
	a := &Authority{revoked: map[string]time.Time{}}
	var err error
	if a.key, err = ecdsa.GenerateKey(elliptic.P256(), rand.Reader); err != nil {
		return nil, err
	}
	t := &x509.Certificate{
		Subject: pkix.Name{CommonName: name}, NotBefore: from, NotAfter: from.AddDate(10, 0, 0), IsCA: true, BasicConstraintsValid: true,
		KeyUsage: x509.KeyUsageCertSign | x509.KeyUsageCRLSign,
	}
	if a.cert, err = a.signed(t, t, a.key.Public()); err != nil {
		return nil, err
	}
	if a.clock, err = ecdsa.GenerateKey(elliptic.P256(), rand.Reader); err != nil {
		return nil, err
	}
	stamping, err := asn1.Marshal([]asn1.ObjectIdentifier{{1, 3, 6, 1, 5, 5, 7, 3, 8}}) // RFC 3161, 2.3: this use alone, and critical
	if err != nil {
		return nil, err
	}
	a.stamper, err = a.signed(&x509.Certificate{
		Subject: pkix.Name{CommonName: name + ", clock"}, NotBefore: from, NotAfter: from.AddDate(10, 0, 0),
		KeyUsage:        x509.KeyUsageDigitalSignature,
		ExtraExtensions: []pkix.Extension{{Id: asn1.ObjectIdentifier{2, 5, 29, 37}, Critical: true, Value: stamping}},
	}, a.cert, a.clock.Public())
	return a, err
}

// keptAuthority is an authority as bytes.
type keptAuthority struct {
	Key     []byte `json:"key"` // PKCS #8 (RFC 5958)
	Cert    []byte `json:"cert"`
	Clock   []byte `json:"clock"`
	Stamper []byte `json:"stamper"`
}

// Marshal is the authority as bytes, its keys in clear: they are to be encrypted before they are kept. What it took back is not in them.
func (a *Authority) Marshal() ([]byte, error) {
	k := keptAuthority{Cert: a.cert.Raw, Stamper: a.stamper.Raw}
	var err error
	if k.Key, err = x509.MarshalPKCS8PrivateKey(a.key); err != nil {
		return nil, err
	}
	if k.Clock, err = x509.MarshalPKCS8PrivateKey(a.clock); err != nil {
		return nil, err
	}
	return json.Marshal(k)
}

// OpenAuthority is the authority that [Authority.Marshal] has written, with what it took back, by the serial numbers in decimal figures.
func OpenAuthority(b []byte, revoked map[string]time.Time) (*Authority, error) {
	var k keptAuthority
	if err := json.Unmarshal(b, &k); err != nil {
		return nil, err
	}
	a := &Authority{revoked: map[string]time.Time{}}
	maps.Copy(a.revoked, revoked)
	for der, to := range map[*[]byte]**ecdsa.PrivateKey{&k.Key: &a.key, &k.Clock: &a.clock} {
		key, err := x509.ParsePKCS8PrivateKey(*der)
		if err != nil {
			return nil, err
		}
		var ok bool
		if *to, ok = key.(*ecdsa.PrivateKey); !ok {
			return nil, errors.New("this is no key of the test authority")
		}
	}
	var err error
	if a.cert, err = x509.ParseCertificate(k.Cert); err == nil {
		a.stamper, err = x509.ParseCertificate(k.Stamper)
	}
	return a, err
}

func (a *Authority) signed(t, parent *x509.Certificate, public crypto.PublicKey) (*x509.Certificate, error) {
	serial, err := rand.Int(rand.Reader, new(big.Int).Lsh(big.NewInt(1), 120))
	if err != nil {
		return nil, err
	}
	t.SerialNumber = serial
	b, err := x509.CreateCertificate(rand.Reader, t, parent, public, a.key)
	if err != nil {
		return nil, err
	}
	return x509.ParseCertificate(b)
}

// Certificate is the authority's own.
func (a *Authority) Certificate() *x509.Certificate { return a.cert }

// Issue gives a certificate for a key to somebody.
func (a *Authority) Issue(name string, public crypto.PublicKey, from, to time.Time) (*x509.Certificate, error) {
	return a.signed(&x509.Certificate{
		Subject: pkix.Name{CommonName: name}, NotBefore: from, NotAfter: to,
		KeyUsage: x509.KeyUsageDigitalSignature | x509.KeyUsageContentCommitment,
	}, a.cert, public)
}

// Revoke takes a certificate back from a time on.
func (a *Authority) Revoke(c *x509.Certificate, at time.Time) {
	a.mu.Lock()
	defer a.mu.Unlock()
	a.revoked[c.SerialNumber.String()] = at
}

// Revoked tells whether a certificate was taken back, and since when.
func (a *Authority) Revoked(c *x509.Certificate) (time.Time, bool) {
	a.mu.Lock()
	defer a.mu.Unlock()
	at, yes := a.revoked[c.SerialNumber.String()]
	return at, yes
}

// CRL is the list of what was taken back (RFC 5280, 5), as of a time.
func (a *Authority) CRL(now time.Time) ([]byte, error) {
	a.mu.Lock()
	defer a.mu.Unlock()
	l := &x509.RevocationList{Number: big.NewInt(now.Unix()), ThisUpdate: now, NextUpdate: now.AddDate(0, 0, 7)}
	for serial, at := range a.revoked {
		n, _ := new(big.Int).SetString(serial, 10)
		l.RevokedCertificateEntries = append(l.RevokedCertificateEntries, x509.RevocationListEntry{SerialNumber: n, RevocationTime: at})
	}
	return x509.CreateRevocationList(rand.Reader, l, a.cert, a.key)
}

// Stamp gives a time-stamp token for some bytes, at a time (RFC 3161).
func (a *Authority) Stamp(b []byte, at time.Time) ([]byte, error) {
	sum := sha256.Sum256(b)
	ts := timestamp.Timestamp{
		HashAlgorithm: crypto.SHA256, HashedMessage: sum[:], Time: at.UTC(), Policy: asn1.ObjectIdentifier{1, 3, 6, 1, 4, 1, 99999, 1},
		AddTSACertificate: true, Accuracy: time.Second,
	}
	response, err := ts.CreateResponseWithOpts(a.stamper, a.clock, crypto.SHA256)
	if err != nil {
		return nil, err
	}
	parsed, err := timestamp.ParseResponse(response)
	if err != nil {
		return nil, err
	}
	return parsed.RawToken, nil
}
