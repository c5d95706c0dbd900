package sign

import (
	"bytes"
	"crypto"
	"crypto/ecdsa"
	"crypto/rand"
	"crypto/rsa"
	"crypto/sha256"
	"crypto/x509"
	"crypto/x509/pkix"
	"encoding/asn1"
	"errors"
	"math/big"
	"slices"
)

// Object identifiers: RFC 5652 for CMS, RFC 5035 for signing-certificate-v2, RFC 3161 for the time stamp, RFC 8017 and RFC 5758 for
// the algorithms.
var (
	oidData          = asn1.ObjectIdentifier{1, 2, 840, 113549, 1, 7, 1}
	oidSignedData    = asn1.ObjectIdentifier{1, 2, 840, 113549, 1, 7, 2}
	oidContentType   = asn1.ObjectIdentifier{1, 2, 840, 113549, 1, 9, 3}
	oidMessageDigest = asn1.ObjectIdentifier{1, 2, 840, 113549, 1, 9, 4}
	oidCertificateV2 = asn1.ObjectIdentifier{1, 2, 840, 113549, 1, 9, 16, 2, 47}
	oidTimeStamp     = asn1.ObjectIdentifier{1, 2, 840, 113549, 1, 9, 16, 2, 14}
	oidSHA256        = asn1.ObjectIdentifier{2, 16, 840, 1, 101, 3, 4, 2, 1}
	oidRSA           = asn1.ObjectIdentifier{1, 2, 840, 113549, 1, 1, 11}
	oidECDSA         = asn1.ObjectIdentifier{1, 2, 840, 10045, 4, 3, 2}
)

type attribute struct {
	Type   asn1.ObjectIdentifier
	Values []asn1.RawValue `asn1:"set"`
}

type signerInfo struct {
	Version   int
	SID       issuerAndSerial
	Digest    pkix.AlgorithmIdentifier
	Signed    asn1.RawValue // [0] IMPLICIT SET OF Attribute
	Algorithm pkix.AlgorithmIdentifier
	Signature []byte
	Unsigned  asn1.RawValue `asn1:"optional"` // [1] IMPLICIT SET OF Attribute
}

type issuerAndSerial struct {
	Issuer asn1.RawValue
	Serial *big.Int
}

type signedData struct {
	Version      int
	Digests      []pkix.AlgorithmIdentifier `asn1:"set"`
	Content      struct{ Type asn1.ObjectIdentifier }
	Certificates asn1.RawValue // [0] IMPLICIT SET OF Certificate
	Signers      []signerInfo  `asn1:"set"`
}

// cms is a detached signature over content whose SHA-256 is digest. It has the attributes that PAdES asks for, and not the signing time,
// which it forbids: that stands in the signature dictionary (EN 319 142-1, 6.3). Stamp gives a time stamp for the signature; nil is none.
func cms(digest [32]byte, key crypto.Signer, chain []*x509.Certificate, stamp func([]byte) ([]byte, error)) ([]byte, error) {
	if len(chain) == 0 {
		return nil, errors.New("a signature needs a certificate")
	}
	own := sha256.Sum256(chain[0].Raw)
	signed, err := attributes(
		value{oidContentType, oidData},
		value{oidMessageDigest, digest[:]},
		value{oidCertificateV2, struct{ Certs []struct{ Hash []byte } }{[]struct{ Hash []byte }{{own[:]}}}}, // SHA-256 is what is meant
	)
	if err != nil {
		return nil, err
	}
	set := slices.Clone(signed)
	set[0] = 0x31 // what is signed is the SET OF itself (RFC 5652, 5.4)
	sum := sha256.Sum256(set)
	signature, err := key.Sign(rand.Reader, sum[:], crypto.SHA256)
	if err != nil {
		return nil, err
	}
	info := signerInfo{
		Version: 1, SID: issuerAndSerial{asn1.RawValue{FullBytes: chain[0].RawIssuer}, chain[0].SerialNumber},
		Digest: pkix.AlgorithmIdentifier{Algorithm: oidSHA256, Parameters: asn1.NullRawValue}, Signed: asn1.RawValue{FullBytes: signed},
		Signature: signature,
	}
	switch key.Public().(type) {
	case *rsa.PublicKey:
		info.Algorithm = pkix.AlgorithmIdentifier{Algorithm: oidRSA, Parameters: asn1.NullRawValue}
	case *ecdsa.PublicKey:
		info.Algorithm = pkix.AlgorithmIdentifier{Algorithm: oidECDSA}
	default:
		return nil, errors.New("this kind of key cannot sign here: use one of RSA or of an elliptic curve of NIST")
	}
	if stamp != nil {
		token, err := stamp(signature)
		if err != nil {
			return nil, err
		}
		if info.Unsigned.FullBytes, err = attributes(value{oidTimeStamp, asn1.RawValue{FullBytes: token}}); err != nil {
			return nil, err
		}
		info.Unsigned.FullBytes[0] = 0xA1
	}
	var certificates bytes.Buffer
	for _, c := range chain {
		certificates.Write(c.Raw)
	}
	data := signedData{
		Version: 1, Digests: []pkix.AlgorithmIdentifier{info.Digest},
		Certificates: asn1.RawValue{Class: asn1.ClassContextSpecific, Tag: 0, IsCompound: true, Bytes: certificates.Bytes()},
		Signers:      []signerInfo{info},
	}
	data.Content.Type = oidData
	inner, err := asn1.Marshal(data)
	if err != nil {
		return nil, err
	}
	return asn1.Marshal(struct {
		Type    asn1.ObjectIdentifier
		Content asn1.RawValue
	}{oidSignedData, asn1.RawValue{Class: asn1.ClassContextSpecific, Tag: 0, IsCompound: true, Bytes: inner}})
}

type value struct {
	kind asn1.ObjectIdentifier
	v    any
}

// attributes is a SET OF attributes with the tag [0], in the order of DER.
func attributes(values ...value) ([]byte, error) {
	var all []attribute
	for _, x := range values {
		b, err := asn1.Marshal(x.v)
		if err != nil {
			return nil, err
		}
		all = append(all, attribute{x.kind, []asn1.RawValue{{FullBytes: b}}})
	}
	b, err := asn1.MarshalWithParams(all, "set")
	if err != nil {
		return nil, err
	}
	b[0] = 0xA0
	return b, nil
}
