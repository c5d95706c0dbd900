package form

import (
	"fmt"
	"slices"
	"strings"
)

// Trigger is what has to happen before a step is done (ISO 32000-2, tables 197, 198 and 200).
type Trigger string

// The triggers: of a field, of a page, of the document.
const (
	WhenPressed  Trigger = "" // let go of, over the field: readers do it then
	WhenDown     Trigger = "down"
	PointerIn    Trigger = "pointer-in"
	PointerOut   Trigger = "pointer-out"
	FieldEntered Trigger = "entered"
	FieldLeft    Trigger = "left"

	PageOpened Trigger = "page-opened"
	PageClosed Trigger = "page-closed"

	DocumentOpened Trigger = "opened"
	BeforePrint    Trigger = "before-print"
	AfterPrint     Trigger = "after-print"
	BeforeSave     Trigger = "before-save"
	AfterSave      Trigger = "after-save"
	BeforeClose    Trigger = "before-close"
)

// FieldTriggers are those of a field, DocumentTriggers those of pages and of the document.
var (
	FieldTriggers    = []Trigger{WhenPressed, WhenDown, PointerIn, PointerOut, FieldEntered, FieldLeft}
	DocumentTriggers = []Trigger{DocumentOpened, PageOpened, PageClosed, BeforePrint, AfterPrint, BeforeSave, AfterSave, BeforeClose}
)

// Further deeds, beside those of a plain button.
const (
	GoToPage   Deed = "page"
	OpenLink   Deed = "link"
	OpenPDF    Deed = "pdf"
	ShowFields Deed = "show"
	HideFields Deed = "hide"
	LockFields Deed = "lock"
	FreeFields Deed = "free"
	SetValue   Deed = "set"
	BringIn    Deed = "bring"
	RunScript  Deed = "script"
)

// StepDeeds lists what a step can do.
var StepDeeds = []Deed{
	ClearForm, SubmitForm, PrintForm, SaveForm, GoToPage, OpenLink, OpenPDF, ShowFields, HideFields, LockFields,
	FreeFields, SetValue, BringIn, RunScript,
}

// Step is one thing that is done when something happens. Several are done one after the other.
type Step struct {
	When Trigger `json:"when,omitempty"`
	Do   Deed    `json:"do"`
	// Fields are names, separated by commas: those that are cleared, sent, shown, hidden, locked or set;
	// none is all of them, where that has a meaning. Except turns them round: all but these.
	Fields string `json:"fields,omitempty"`
	Except bool   `json:"except,omitempty"`
	URL    string `json:"url,omitempty"` // an address, or the name of a file
	// As is what is sent: fdf, xfdf, html (form data) or pdf; empty is fdf.
	As     string `json:"as,omitempty"`
	Page   int    `json:"page,omitempty"`   // from 1: to go to
	OnPage int    `json:"onpage,omitempty"` // from 1: whose opening or closing is the trigger
	Value  string `json:"value,omitempty"`
	Script string `json:"script,omitempty"`
}

// Sendings lists what can be sent.
var Sendings = []string{"", "xfdf", "html", "pdf"}

// Named are the fields that a step names.
func (s Step) Named() []string {
	var out []string
	for _, n := range strings.Split(s.Fields, ",") {
		if n = strings.TrimSpace(n); n != "" {
			out = append(out, n)
		}
	}
	return out
}

// Check refuses a step that cannot be done, and says what to do.
func (s Step) Check(triggers []Trigger) error {
	switch {
	case !slices.Contains(triggers, s.When):
		return fmt.Errorf("%q is nothing that happens here", s.When)
	case !slices.Contains(StepDeeds, s.Do):
		return fmt.Errorf("%q is nothing that can be done", s.Do)
	case s.Do == GoToPage && s.Page < 1:
		return fmt.Errorf("name the page to go to")
	case (s.Do == OpenLink || s.Do == OpenPDF || s.Do == BringIn) && strings.TrimSpace(s.URL) == "":
		return fmt.Errorf("name the address or the file that is opened")
	case s.Do == OpenLink && !isAddress(s.URL):
		return fmt.Errorf("%q is no address: one starts with https://, http:// or mailto: and goes on", s.URL)
	case s.Do == SubmitForm && !isAddress(s.URL):
		return fmt.Errorf("sending needs an address, one that starts with https://, with http:// or with mailto: and goes on")
	case !slices.Contains(Sendings, s.As) && s.As != "fdf":
		return fmt.Errorf("%q is not how answers can be sent: use fdf, xfdf, html or pdf", s.As)
	case slices.Contains([]Deed{ShowFields, HideFields, LockFields, FreeFields, SetValue}, s.Do) && len(s.Named()) == 0:
		return fmt.Errorf("name the fields, with commas between")
	case s.Do == RunScript && strings.TrimSpace(s.Script) == "":
		return fmt.Errorf("write the script")
	case len(s.Script) > 20000 || len(s.Fields) > 5000:
		return fmt.Errorf("a step is too long: shorten it")
	}
	return nil
}

func isAddress(s string) bool {
	return strings.HasPrefix(s, "https://") || strings.HasPrefix(s, "http://") || strings.HasPrefix(s, "mailto:")
}

// Sequence is all that a field does, in order: its action and the steps after it.
func (f Field) Sequence() []Step {
	var out []Step
	if f.Action.Do != "" && f.Action.Do != TakePicture {
		out = append(out, Step{Do: f.Action.Do, URL: f.Action.URL, As: f.Action.As})
	}
	return append(out, f.Steps...)
}

// SetSequence makes steps all that a field does. A first step that is a plain action becomes the
// field's action.
func (f *Field) SetSequence(steps []Step) {
	f.Steps = slices.Clone(steps)
	if f.Kind != Button || f.Action.Do == TakePicture {
		return
	}
	f.Action = Action{}
	if len(steps) == 0 {
		return
	}
	first, plain := steps[0], []Deed{ClearForm, PrintForm, SaveForm, SubmitForm}
	if first == (Step{Do: first.Do, URL: first.URL, As: first.As}) && slices.Contains(plain, first.Do) {
		f.Action, f.Steps = Action{Do: first.Do, URL: first.URL, As: first.As}, slices.Clone(steps[1:])
	}
}
