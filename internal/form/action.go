package form

import (
	"fmt"
	"slices"
)

// Deed is what a button does when it is pressed.
type Deed string

// The deeds of a button.
const (
	ClearForm  Deed = "clear"
	PrintForm  Deed = "print"
	SaveForm   Deed = "save"
	SubmitForm Deed = "submit"
	// TakePicture lets the recipient choose a picture, which the button then shows: a
	// picture field.
	TakePicture Deed = "picture"
)

// Action is a button's deed; URL is where SubmitForm sends the answers, As in what form: one of
// [Sendings].
type Action struct {
	Do  Deed   `json:"do"`
	URL string `json:"url,omitempty"`
	As  string `json:"as,omitempty"`
}

// ActionError refuses an action that cannot be written, and says what to do.
func (f Field) ActionError() error {
	if f.Kind != Button {
		if f.Action != (Action{}) {
			return fmt.Errorf("only a button can do something when pressed; %s is a %s", f.Name, f.Kind)
		}
		return nil
	}
	switch f.Action.Do {
	case "", ClearForm, PrintForm, SaveForm, TakePicture:
	case SubmitForm:
		if !isAddress(f.Action.URL) {
			return fmt.Errorf("a button that sends needs an address, one that starts with https://, with http:// or with mailto: " +
				"and goes on from there")
		}
		if !slices.Contains(Sendings, f.Action.As) {
			return fmt.Errorf("%q is not how answers can be sent: use xfdf, html or pdf, or nothing for FDF", f.Action.As)
		}
	default:
		return fmt.Errorf("%q is not something a button can do: use clear, print, save, submit or picture", f.Action.Do)
	}
	return nil
}
