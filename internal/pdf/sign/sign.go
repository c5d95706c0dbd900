package sign

import (
	"bytes"
	"cmp"
	"crypto"
	"crypto/sha256"
	"crypto/x509"
	"encoding/hex"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"
	"software.sslmate.com/src/go-pkcs12"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/pdf/object"
	"zealousmargin.example/internal/pdf/read"
	"zealousmargin.example/internal/pdf/write"
)

// Identity is who signs: a key, its certificate, and those that issued it.
type Identity struct {
	Key   crypto.Signer
	Chain []*x509.Certificate // the own one first
}

// Why an identity cannot sign.
var (
	ErrPKCS12  = errors.New("this is no PKCS#12 file with a key and a certificate: choose a .p12 or .pfx file")
	ErrWrong   = errors.New("this is not the password of the certificate: try again")
	ErrExpired = errors.New("this certificate has expired: ask for a new one")
	ErrTooSoon = errors.New("this certificate is not valid yet: wait, or choose another")
)

// FromPKCS12 reads an identity from a PKCS#12 file (RFC 7292).
func FromPKCS12(b []byte, password string) (Identity, error) {
	key, own, more, err := pkcs12.DecodeChain(b, password)
	switch {
	case errors.Is(err, pkcs12.ErrIncorrectPassword):
		return Identity{}, ErrWrong
	case err != nil:
		return Identity{}, fmt.Errorf("%w (%v)", ErrPKCS12, err)
	}
	signer, ok := key.(crypto.Signer)
	if !ok || own == nil {
		return Identity{}, ErrPKCS12
	}
	return Identity{signer, append([]*x509.Certificate{own}, more...)}, nil
}

// PKCS12 is the identity as a PKCS#12 file (RFC 7292), with a password.
func (i Identity) PKCS12(password string) ([]byte, error) {
	return pkcs12.Modern.Encode(i.Key, i.Chain[0], i.Chain[1:], password)
}

// Valid tells whether an identity can sign at a time.
func (i Identity) Valid(at time.Time) error {
	switch {
	case len(i.Chain) == 0 || i.Key == nil:
		return ErrPKCS12
	case at.After(i.Chain[0].NotAfter):
		return ErrExpired
	case at.Before(i.Chain[0].NotBefore):
		return ErrTooSoon
	}
	return nil
}

// May is what may still change in a certified form (ISO 32000-2, table 257, P).
type May int

// What may change: nothing, answers and signatures, those and comments. The zero value certifies nothing.
const (
	NotCertified May = iota
	Nothing
	Filling
	Commenting
)

// Options say how a form is signed.
type Options struct {
	Field  string // the signature field, by name
	At     time.Time
	Name   string // who signs; empty is the name in the certificate
	Reason string
	Place  string
	// Picture shows beside the words: PNG, JPEG, GIF or WebP; nil is none.
	Picture []byte
	May     May
	// Lock names the fields that can be changed no more once this is signed; with All all are (ISO 32000-2, table 258).
	Lock []string
	All  bool
	// Stamp gives a time-stamp token for the bytes of the signature (RFC 3161); nil is none.
	Stamp func(signature []byte) ([]byte, error)
}

// room is how many bytes a signature may take: a chain of certificates and a time stamp have room in it.
const room = 16 << 10

// Sign signs a form in one of its signature fields, as an update behind what is there.
func Sign(src []byte, who Identity, o Options) (_ []byte, err error) {
	defer object.Recovered(&err)
	if err := who.Valid(o.At); err != nil {
		return nil, err
	}
	f, err := object.Parse(src)
	if err != nil {
		return nil, err
	}
	ws, err := read.WidgetsOf(f)
	if err != nil {
		return nil, err
	}
	i := slices.IndexFunc(ws, func(w read.Widget) bool { return w.Name == o.Field && w.Kind == form.Signature })
	switch {
	case i < 0:
		return nil, fmt.Errorf("there is no signature field called %q: place one first", o.Field)
	case ws[i].Value != "":
		return nil, fmt.Errorf("%s is signed already", o.Field)
	}
	all, err := read.SignaturesOf(f)
	if err != nil {
		return nil, err
	}
	if o.May != NotCertified && len(all) > 0 {
		return nil, errors.New("a form is certified by its first signature: this one has signatures already")
	}
	b := write.NewBuilder(f)
	if err := b.AcroForm(); err != nil {
		return nil, err
	}
	o.Name = cmp.Or(o.Name, who.Chain[0].Subject.CommonName)
	value, err := f.Add(dictionary(f, ws[i], o))
	if err != nil {
		return nil, err
	}
	b.FieldDict(ws[i]).Update("V", value)
	ws[i].Dict.Update("F", types.Integer(ws[i].Annot|object.AnnotPrint|object.AnnotLocked))
	if !ws[i].Rect.Empty() {
		ws[i].Flags |= object.FlagMultiline
		if len(o.Picture) > 0 {
			err = b.PicturedLook(ws[i], words(o), o.Picture)
		} else {
			err = b.SetText(ws[i:i+1], words(o))
		}
		if err != nil {
			return nil, err
		}
	}
	b.TouchWidget(ws[i])
	if err := lock(b, ws, o); err != nil {
		return nil, err
	}
	if o.May != NotCertified {
		cat, err := f.Catalog()
		if err != nil {
			return nil, err
		}
		cat.Update("Perms", types.Dict{"DocMDP": value})
		if err := f.TouchCatalog(); err != nil {
			return nil, err
		}
	}
	b.Sign()
	if err := b.Finish(); err != nil {
		return nil, err
	}
	out, err := f.Increment()
	if err != nil {
		return nil, err
	}
	return seal(out, len(src), who, o)
}

// words are what shows of a signature.
func words(o Options) string {
	lines := []string{o.Name, o.At.Format("2 January 2006, 15:04 MST")}
	if o.Reason != "" {
		lines = append(lines, o.Reason)
	}
	if o.Place != "" {
		lines = append(lines, o.Place)
	}
	return strings.Join(lines, "\n")
}

// gap is written where the places of what is signed come to stand, when they are known.
const gap = 9999999999

// These entries have other names of the same length until the signature is put in: the library that writes objects leaves out what it
// does not know of a dictionary that it takes for a signature, such as Reference.
const (
	rangeFor, rangeKey       = "ByteRang_", "ByteRange"
	contentsFor, contentsKey = "Content_", "Contents"
	typeFor, typeKey         = "Typ_", "Type"
)

func dictionary(f *object.File, w read.Widget, o Options) types.Dict {
	d := types.Dict{
		typeFor: types.Name("Sig"), "Filter": types.Name("Adobe.PPKLite"), "SubFilter": types.Name("ETSI.CAdES.detached"),
		rangeFor:    types.Array{types.Integer(0), types.Integer(gap), types.Integer(gap), types.Integer(gap)},
		contentsFor: types.HexLiteral(strings.Repeat("0", 2*room)), "M": types.StringLiteral(object.Date(o.At)), "Name": object.Str(o.Name),
	}
	if o.Reason != "" {
		d["Reason"] = object.Str(o.Reason)
	}
	if o.Place != "" {
		d["Location"] = object.Str(o.Place)
	}
	var refs types.Array
	if o.May != NotCertified {
		refs = append(refs, types.Dict{
			"Type": types.Name("SigRef"), "TransformMethod": types.Name("DocMDP"),
			"TransformParams": types.Dict{"Type": types.Name("TransformParams"), "P": types.Integer(int(o.May)), "V": types.Name("1.2")},
		})
	}
	if p := locked(o); p != nil {
		p["Type"], p["V"] = types.Name("TransformParams"), types.Name("1.2")
		refs = append(refs, types.Dict{"Type": types.Name("SigRef"), "TransformMethod": types.Name("FieldMDP"), "TransformParams": p})
	}
	if refs != nil {
		d["Reference"] = refs
	}
	return d
}

// locked says which fields are locked (ISO 32000-2, tables 236 and 259); nil is none.
func locked(o Options) types.Dict {
	switch {
	case o.All:
		return types.Dict{"Action": types.Name("All")}
	case len(o.Lock) > 0:
		var names types.Array
		for _, n := range o.Lock {
			names = append(names, object.Str(n))
		}
		return types.Dict{"Action": types.Name("Include"), "Fields": names}
	}
	return nil
}

// lock says at the signature field what it locks, and makes the locked fields read-only.
func lock(b *write.Builder, ws []read.Widget, o Options) error {
	p := locked(o)
	if p == nil {
		return nil
	}
	for _, n := range o.Lock {
		if !slices.ContainsFunc(ws, func(w read.Widget) bool { return w.Name == n }) {
			return fmt.Errorf("there is no field called %q to lock", n)
		}
	}
	for _, w := range ws {
		field := b.FieldDict(w)
		if w.Name == o.Field {
			p["Type"] = types.Name("SigFieldLock")
			field.Update("Lock", p)
			continue
		}
		if o.All && w.Kind != form.Signature || slices.Contains(o.Lock, w.Name) {
			field.Update("Ff", types.Integer(w.Flags|object.FlagReadOnly))
			b.TouchWidget(w)
		}
	}
	return nil
}

// seal signs all of a file but the gap that was left in its last update, and puts the signature there (ISO 32000-2, 12.8.1).
func seal(out []byte, from int, who Identity, o Options) ([]byte, error) {
	hole := append(append([]byte("<"), bytes.Repeat([]byte("0"), 2*room)...), '>')
	at, places := bytes.LastIndex(out, hole), bytes.LastIndex(out, []byte("/"+rangeFor))
	for as, is := range map[string]string{contentsFor: contentsKey, typeFor: typeKey} {
		i := bytes.LastIndex(out, []byte("/"+as))
		if i < from || at < from || places < from {
			return nil, errors.New("the place of the signature was lost")
		}
		copy(out[i+1:], is)
	}
	end := bytes.IndexByte(out[places:], ']')
	if end < 0 {
		return nil, errors.New("the place of the signature was lost")
	}
	end += places + 1
	after := at + len(hole)
	filled := fmt.Sprintf("/"+rangeKey+"[0 %d %d %d", at, after, len(out)-after)
	if len(filled)+1 > end-places {
		return nil, errors.New("the file is too large to be signed")
	}
	copy(out[places:], filled+strings.Repeat(" ", end-places-len(filled)-1)+"]")
	h := sha256.New()
	h.Write(out[:at])
	h.Write(out[after:])
	b, err := cms([32]byte(h.Sum(nil)), who.Key, who.Chain, o.Stamp)
	if err != nil {
		return nil, fmt.Errorf("the form could not be signed: %w", err)
	}
	if len(b) > room {
		return nil, errors.New("the certificates are too large to be put into a signature: use a shorter chain")
	}
	hex.Encode(out[at+1:], b)
	return out, nil
}
