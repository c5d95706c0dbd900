package sign

import (
	"bytes"
	"crypto/x509"
	"encoding/hex"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/digitorus/pkcs7"
	"github.com/digitorus/timestamp"
	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/pdf/object"
	"zealousmargin.example/internal/pdf/read"
)

// Finding is what the check of one signature came to.
type Finding struct {
	Field  string
	By     string    // the name in the certificate
	Issuer string    // who says so
	At     time.Time // by the time stamp, or else as the signer says
	Stamp  bool      // the time is one of a time stamp that holds
	Holds  bool      // what was signed is as it was signed
	Whole  bool      // nothing was added behind it
	Known  bool      // the certificate leads to one that is trusted here
	// Why says what is wrong, or what a person should know, in sentences.
	Why []string
}

// Trust are the certificates that are trusted, and those that were taken back.
type Trust struct {
	Roots   *x509.CertPool
	Revoked func(*x509.Certificate) (at time.Time, revoked bool) // nil knows of none
}

// Words says in a sentence who signed what, when, and whether it still holds.
func (f Finding) Words() string {
	s := f.Field + " was signed"
	if f.By != "" {
		s += " by " + f.By
	}
	if !f.At.IsZero() {
		s += " on " + f.At.UTC().Format("2 January 2006, 15:04 UTC")
		if f.Stamp {
			s += " (time stamped)"
		}
	}
	switch {
	case !f.Holds:
		s += "; it does not hold: "
	case !f.Whole:
		s += "; it holds for what was signed, and something was added later. "
	default:
		s += "; it holds, for all of the file. "
	}
	return strings.TrimSpace(s + strings.Join(f.Why, " "))
}

// Check looks at every signature of a file. The order is that in which they were made.
func Check(b []byte, t Trust) (_ []Finding, err error) {
	defer object.Recovered(&err)
	f, err := object.Parse(b)
	if err != nil {
		return nil, err
	}
	ws, err := read.WidgetsOf(f)
	if err != nil {
		return nil, err
	}
	type found struct {
		Finding
		end int
	}
	var all []found
	for _, w := range ws {
		if w.Kind != form.Signature || w.Value == "" {
			continue
		}
		x := found{Finding: Finding{Field: w.Name}}
		x.end = x.look(f, b, read.SignatureOf(f, w), t)
		all = append(all, x)
	}
	slices.SortStableFunc(all, func(a, b found) int { return a.end - b.end })
	out := make([]Finding, len(all))
	for i := range all {
		out[i] = all[i].Finding
		if later := all[i+1:]; out[i].Holds && !out[i].Whole && len(later) > 0 && later[len(later)-1].Whole {
			out[i].Why = append(out[i].Why, fmt.Sprintf("Behind it stands what was signed later, in %s.", later[0].Field))
		}
	}
	return out, nil
}

var errPlaces = errors.New("it does not say what it signs in a way that can be checked")

// covered gives what a signature signs and itself, and where what it signs ends. The two parts that it signs must begin with the file and
// leave nothing out but the signature (ISO 32000-2, 12.8.1).
func covered(f *object.File, b []byte, d types.Dict) (signed, signature []byte, end int, err error) {
	places := f.Array(object.Entry(d, "ByteRange"))
	if len(places) != 4 {
		return nil, nil, 0, errPlaces
	}
	var at [4]int
	for i := range at {
		at[i] = f.Integer(places[i])
	}
	end = at[2] + at[3]
	if at[0] != 0 || at[1] <= 0 || at[2] <= at[1]+1 || at[3] < 0 || end > len(b) || end < at[2] {
		return nil, nil, 0, errPlaces
	}
	hole := b[at[1]:at[2]]
	if hole[0] != '<' || hole[len(hole)-1] != '>' {
		return nil, nil, 0, errPlaces
	}
	signature, err = hex.DecodeString(string(bytes.Map(func(r rune) rune {
		if r == ' ' || r == '\n' || r == '\r' {
			return -1
		}
		return r
	}, hole[1:len(hole)-1])))
	if err != nil {
		return nil, nil, 0, errPlaces
	}
	return slices.Concat(b[:at[1]], b[at[2]:end]), signature, end, nil
}

func (x *Finding) say(format string, args ...any) {
	x.Why = append(x.Why, fmt.Sprintf(format, args...))
}

// look checks one signature and gives where what it signs ends.
func (x *Finding) look(f *object.File, b []byte, d types.Dict, t Trust) int {
	x.By, x.At = f.Text(object.Entry(d, "Name")), object.ReadDate(f.Text(object.Entry(d, "M")))
	signed, signature, end, err := covered(f, b, d)
	if err != nil {
		x.say("%s.", sentence(err))
		return 0
	}
	p, err := pkcs7.Parse(trimmed(signature))
	if err != nil {
		x.say("The signature itself cannot be read.")
		return end
	}
	p.Content = signed
	x.Whole = len(bytes.TrimSpace(b[end:])) == 0
	own := p.GetOnlySigner()
	if own == nil {
		x.say("It names no certificate.")
		return end
	}
	x.By, x.Issuer = own.Subject.CommonName, own.Issuer.CommonName
	if err := p.Verify(); err != nil {
		x.say("What was signed was changed afterwards.")
		return end
	}
	x.Holds = true
	x.stamped(p)
	when := x.At
	if when.IsZero() {
		when = time.Now()
	}
	x.trusted(p, own, t, when)
	if !x.Whole {
		x.say("%d bytes were added behind what was signed.", len(b)-end)
	}
	return end
}

// stamped takes the time of a time stamp over, when it is one of this signature.
func (x *Finding) stamped(p *pkcs7.PKCS7) {
	for _, s := range p.Signers {
		for _, a := range s.UnauthenticatedAttributes {
			if !a.Type.Equal(oidTimeStamp) {
				continue
			}
			ts, err := timestamp.Parse(a.Value.Bytes)
			if err != nil {
				x.say("Its time stamp cannot be read.")
				return
			}
			h := ts.HashAlgorithm.New()
			h.Write(s.EncryptedDigest)
			if !bytes.Equal(h.Sum(nil), ts.HashedMessage) {
				x.say("Its time stamp is that of another signature.")
				return
			}
			x.At, x.Stamp = ts.Time, true
		}
	}
}

// trusted tells whether the certificate of a signature leads to one that is trusted, was valid, and was not taken back.
func (x *Finding) trusted(p *pkcs7.PKCS7, own *x509.Certificate, t Trust, at time.Time) {
	switch {
	case at.Before(own.NotBefore):
		x.say("The certificate was not valid yet.")
	case at.After(own.NotAfter):
		x.say("The certificate had expired.")
	}
	if t.Revoked != nil {
		if since, yes := t.Revoked(own); yes && !since.After(at) {
			x.say("The certificate was taken back on %s, before it was signed.", since.UTC().Format("2 January 2006"))
			return
		}
	}
	if t.Roots == nil {
		return
	}
	between := x509.NewCertPool()
	for _, c := range p.Certificates {
		between.AddCert(c)
	}
	_, err := own.Verify(x509.VerifyOptions{
		Roots: t.Roots, Intermediates: between, CurrentTime: at, KeyUsages: []x509.ExtKeyUsage{x509.ExtKeyUsageAny},
	})
	if x.Known = err == nil; !x.Known {
		x.say("Nobody who is trusted here says that the certificate is that of %s.", own.Subject.CommonName)
	}
}

// trimmed is a structure of DER without the noughts behind it that fill its place.
func trimmed(b []byte) []byte {
	if len(b) < 4 || b[0] != 0x30 {
		return b
	}
	n, head := int(b[1]), 2
	if n >= 0x80 {
		count := n - 0x80
		if count == 0 || count > 4 || len(b) < 2+count {
			return b
		}
		n = 0
		for _, c := range b[2 : 2+count] {
			n = n<<8 | int(c)
		}
		head += count
	}
	if n < 0 || head+n > len(b) {
		return b
	}
	return b[:head+n]
}

func sentence(err error) string {
	s := err.Error()
	return strings.ToUpper(s[:1]) + s[1:]
}
