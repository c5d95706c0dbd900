package object

import (
	"errors"
	"fmt"
)

// MaxPages is how many pages a file may have.
const MaxPages = 1000

// ManyPages is an ErrManyPages that says how many they are.
func ManyPages(n int) error {
	return manyPages(fmt.Sprintf("this file has %d pages, the limit is %d: split it", n, MaxPages))
}

type manyPages string

func (m manyPages) Error() string      { return string(m) }
func (manyPages) Is(target error) bool { return target == ErrManyPages }

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
	ErrNoPages   = errors.New("this file has no pages: choose another file")
	ErrManyPages = errors.New("this file has too many pages: split it")
	ErrSlow      = errors.New("this file takes too long to read: print it to PDF once more, or leave the page out that takes so long")
	ErrHeavy     = errors.New("this file needs more memory than a file may have: print it to PDF once more, or bring it in " +
		"page by page")
	ErrBusy    = errors.New("the PDF engine is busy: try again in a moment")
	ErrDamaged = errors.New("this file is damaged beyond repair: ask for it again, or print it to PDF once more")
)

// Recovered turns a panic into an ErrDamaged: the parser panics on some broken files, at whatever object of theirs it is asked for. It is
// deferred, with the error that the function returns.
func Recovered(err *error) {
	if r := recover(); r != nil {
		*err = fmt.Errorf("%w (%v)", ErrDamaged, r)
	}
}
