package form

import (
	"errors"
	"fmt"
	"strings"
	"unicode/utf8"
)

// Strength is how a file is encrypted.
type Strength string

// The strengths (ISO 32000-2, 7.6): AES with a key of 256 bits, security handler revision 6, which makes a file one of PDF 2.0; and of 128
// bits, revision 4, for readers from before 2017.
const (
	NoLock Strength = ""
	AES256 Strength = "aes256"
	AES128 Strength = "aes128"
)

// Protection is how a released file is locked, and what those may do who open it without the owner's password. That what is written can be
// read out loud for those who cannot see it is always allowed.
type Protection struct {
	Strength Strength
	Open     string // the password to open; empty lets everybody open it
	Owner    string // the owner's password, with which everything may be done; empty is one that nobody knows

	Fill, Print, Copy, Change, Comment bool
}

// Locked tells whether a file is locked at all.
func (p Protection) Locked() bool { return p.Strength != NoLock }

// Longest passwords (ISO 32000-2, 7.6.4.3.2 and 7.6.4.3.3).
const (
	longest128 = 32  // bytes of PDFDocEncoding
	longest256 = 127 // bytes of UTF-8
)

// Check says what is wrong with a protection.
func (p Protection) Check() error {
	if !p.Locked() {
		if p.Open != "" || p.Owner != "" {
			return errors.New("say how the file is locked: a password alone locks nothing")
		}
		return nil
	}
	if p.Strength != AES256 && p.Strength != AES128 {
		return fmt.Errorf("%q is no way to lock a file: use aes256 or aes128", p.Strength)
	}
	if p.Open == "" && p.Fill && p.Print && p.Copy && p.Change && p.Comment {
		return errors.New("this would lock nothing: set a password to open it, or forbid something")
	}
	if p.Open != "" && p.Open == p.Owner {
		return errors.New("the two passwords are the same: who can open the file could then do everything; choose another for the owner")
	}
	for _, w := range []struct{ what, password string }{{"the password to open", p.Open}, {"the owner's password", p.Owner}} {
		switch {
		case !utf8.ValidString(w.password) || strings.ContainsFunc(w.password, func(r rune) bool { return r < 0x20 || r == 0x7f }):
			return errors.New(w.what + " has signs that cannot be typed: choose another")
		case p.Strength == AES256 && len(w.password) > longest256:
			return fmt.Errorf("%s can have at most %d bytes: shorten it", w.what, longest256)
		case p.Strength == AES128 && len(w.password) > longest128:
			return fmt.Errorf("%s can have at most %d signs with the older lock: shorten it", w.what, longest128)
		case p.Strength == AES128 && strings.ContainsFunc(w.password, func(r rune) bool { return r > 0x7e }):
			return errors.New(w.what + " can have English letters, figures and signs only with the older lock: choose another")
		}
	}
	return nil
}

// Sentence says how a file is locked.
func (p Protection) Sentence() string {
	if !p.Locked() {
		return "Everybody may open it and do everything with it."
	}
	var may, not []string
	for _, w := range []struct {
		what string
		may  bool
	}{
		{"fill it in", p.Fill || p.Comment},
		{"print it", p.Print},
		{"copy from it", p.Copy},
		{"change it", p.Change},
		{"comment on it", p.Comment},
	} {
		if w.may {
			may = append(may, w.what)
		} else {
			not = append(not, w.what)
		}
	}
	s := "Everybody may open it"
	if p.Open != "" {
		s = "It opens with a password; who has it may"
	} else if len(may) > 0 {
		s += ","
	}
	list := strings.Join(may, ", ")
	switch {
	case len(may) > 0:
		s += " " + list
	case p.Open != "":
		s += " read it"
	}
	if len(not) > 0 {
		s += ", but not " + strings.Join(not, ", ")
	}
	lock := "AES-256"
	if p.Strength == AES128 {
		lock = "AES-128"
	}
	return s + " (" + lock + ")."
}

// Permissions are the flags of ISO 32000-2, table 22, as the signed number of 32 bits that stands in the file.
func (p Protection) Permissions() int32 {
	const (
		printing, changing, copying, commenting = 1 << 2, 1 << 3, 1 << 4, 1 << 5
		filling, reading, assembling, sharp     = 1 << 8, 1 << 9, 1 << 10, 1 << 11
		reserved                                = 0xFFFFF0C0 // bits 7, 8 and 13 to 32 are set, 1 and 2 are not
	)
	bits := uint32(reserved | reading)
	for _, f := range []struct {
		on   bool
		bits uint32
	}{
		{p.Print, printing | sharp},
		{p.Change, changing | assembling},
		{p.Copy, copying},
		{p.Comment, commenting | filling},
		{p.Fill, filling},
	} {
		if f.on {
			bits |= f.bits
		}
	}
	return int32(bits)
}
