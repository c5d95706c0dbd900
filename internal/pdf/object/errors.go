package object

import (
	"errors"
)

// Reasons for which a file cannot be used. Each says what to do.
var (
	ErrNotPDF    = errors.New("this is not a PDF file: choose a file that a PDF reader opens")
	ErrEncrypted = errors.New("this file is locked with a password: give the password, or bring in a copy without one")
	ErrPassword  = errors.New("this is not the password of the file: try again, or bring in a copy without one")
	// What an owner has forbidden (ISO 32000-2, table 22).
	ErrNoChange = errors.New("the owner of this file lets nobody change it: " +
		"give the owner's password, or ask for a copy that may be changed")
	ErrNoFilling = errors.New("the owner of this file lets nobody fill it in: " +
		"give the owner's password, or ask for a copy that may be filled in")
	ErrNoPages = errors.New("this file has no pages: choose another file")
	ErrDamaged = errors.New("this file is damaged beyond repair: ask for it again, or print it to PDF once more")
)
