package sign

import (
	"crypto"
	"crypto/x509"
	"encoding/json"
	"fmt"
)

type kept struct {
	Key   []byte   `json:"key"`   // PKCS #8 (RFC 5958)
	Chain [][]byte `json:"chain"` // DER (RFC 5280)
}

// Marshal is an identity as bytes, its key in clear: they are to be encrypted before they are kept.
func (i Identity) Marshal() ([]byte, error) {
	key, err := x509.MarshalPKCS8PrivateKey(i.Key)
	if err != nil {
		return nil, err
	}
	k := kept{Key: key}
	for _, c := range i.Chain {
		k.Chain = append(k.Chain, c.Raw)
	}
	return json.Marshal(k)
}

// Unmarshal reads what [Identity.Marshal] has made.
func Unmarshal(b []byte) (Identity, error) {
	var k kept
	if err := json.Unmarshal(b, &k); err != nil {
		return Identity{}, err
	}
	key, err := x509.ParsePKCS8PrivateKey(k.Key)
	if err != nil {
		return Identity{}, err
	}
	signer, ok := key.(crypto.Signer)
	if !ok || len(k.Chain) == 0 {
		return Identity{}, fmt.Errorf("this identity cannot sign")
	}
	i := Identity{Key: signer}
	for _, der := range k.Chain {
		c, err := x509.ParseCertificate(der)
		if err != nil {
			return Identity{}, err
		}
		i.Chain = append(i.Chain, c)
	}
	return i, nil
}
