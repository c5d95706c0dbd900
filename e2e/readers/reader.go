package readers

import (
	"errors"

	"zealousmargin.example/internal/form"
)

// ErrCannot tells that a reader has no way to do what was asked of it.
var ErrCannot = errors.New("cannot")

// Reader is a program that a recipient could open the form with. Fields are called by their names; on the screens of a
// recipient they are found by the places that the draft says.
type Reader interface {
	// Told is what the reader says that the fields are, before anybody has written into them.
	Told() (map[string]Told, error)
	// Write replaces what stands in a field by a text and leaves the field.
	Write(name, text string) error
	// Press lets a pointer down on a field and up again; of several places of one name the nth, from 0.
	Press(name string, nth int) error
	// Choose picks options of a list, by what they show.
	Choose(name string, labels ...string) error
	// Do lets something else happen to a field.
	Do(name string, what form.Trigger) error
	// Walk enters a field and gives the one that the next field of the keyboard is.
	Walk(from string) (string, error)
	// Save gives the form as it is filled in now.
	Save() ([]byte, error)
	// Shown is the text that stands in a field.
	Shown(name string) (string, error)
	// Seen tells whether a field shows on the screen, Printed whether it shows on paper.
	Seen(name string) (bool, error)
	Printed(name string) (bool, error)
	// Page is the page that is looked at, from 1.
	Page() (int, error)
	// Messages are what scripts have said so far.
	Messages() ([]string, error)
	Close()
}

// Told is what a reader says that a field is. What it does not tell is nil.
type Told struct {
	Kind, Name, Tooltip, Value                             *string
	Rect                                                   *[4]float64
	MaxLen                                                 *int
	Required, ReadOnly, Multiline, Comb, Password, NoSpell *bool
	Options                                                *[]string
}

// unable is a reader that can do nothing: the ground of those that can do some things.
type unable struct{}

func (unable) Told() (map[string]Told, error) { return nil, ErrCannot }
func (unable) Write(string, string) error     { return ErrCannot }
func (unable) Press(string, int) error        { return ErrCannot }
func (unable) Choose(string, ...string) error { return ErrCannot }
func (unable) Do(string, form.Trigger) error  { return ErrCannot }
func (unable) Walk(string) (string, error)    { return "", ErrCannot }
func (unable) Save() ([]byte, error)          { return nil, ErrCannot }
func (unable) Shown(string) (string, error)   { return "", ErrCannot }
func (unable) Seen(string) (bool, error)      { return false, ErrCannot }
func (unable) Printed(string) (bool, error)   { return false, ErrCannot }
func (unable) Page() (int, error)             { return 0, ErrCannot }
func (unable) Messages() ([]string, error)    { return nil, ErrCannot }
func (unable) Close()                         {}
