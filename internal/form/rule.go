package form

import (
	"fmt"
	"slices"
)

// Test is what a check asks of an answer.
type Test string

// The tests. An answer that is blank passes them all.
const (
	Between     Test = "between" // from A to B; one of them may be empty
	OneOf       Test = "oneof"   // of the values in A, separated by commas
	Length      Test = "length"  // from A to B signs
	MatchesMask Test = "mask"    // A: # a figure, @ a letter, ? any, others themselves
	NotBefore   Test = "notbefore"
	NotAfter    Test = "notafter" // A: a date, today, or a formula such as another field
	Luhn        Test = "luhn"     // the check digit of ISO/IEC 7812-1
	IBAN        Test = "iban"     // ISO 13616
	Holds       Test = "holds"    // the formula A
)

// Tests lists them.
var Tests = []Test{Between, OneOf, Length, MatchesMask, NotBefore, NotAfter, Luhn, IBAN, Holds}

// testWords are the tests in words.
var testWords = []Offer{
	{"between", "be from … to …"},
	{"oneof", "be one of …"},
	{"length", "have from … to … signs"},
	{"mask", "look like …"},
	{"notbefore", "not be before …"},
	{"notafter", "not be after …"},
	{"luhn", "have the right check digit"},
	{"iban", "be an account number (IBAN)"},
	{"holds", "go with other answers: …"},
}

// Check is one thing that an answer must hold, with what is said when it does not.
type Check struct {
	Test    Test   `json:"test"`
	A       string `json:"a,omitempty"`
	B       string `json:"b,omitempty"`
	Message string `json:"message,omitempty"`
}

// checkRules refuses rules that fields of the kind cannot have. What formulas say is package
// rules' to read.
func (f Field) checkRules() error {
	answers := slices.Contains([]Kind{Text, Choice}, f.Kind)
	switch {
	case len(f.Checks) > 0 && !answers:
		return fmt.Errorf("only what is typed or chosen from a list can be checked; %s is a %s", f.Name, f.Kind)
	case f.Formula != "" && f.Kind != Text:
		return fmt.Errorf("only a text field can be calculated; %s is a %s", f.Name, f.Kind)
	case f.RequireIf != "" && f.Kind == Button:
		return fmt.Errorf("a button is never filled in: %s cannot be required", f.Name)
	}
	for _, c := range f.Checks {
		if !slices.Contains(Tests, c.Test) {
			return fmt.Errorf("%q is not a check: use between, oneof, length, mask, notbefore, notafter, luhn, iban or holds", c.Test)
		}
		if len(c.A) > 2000 || len(c.B) > 2000 || len(c.Message) > 500 {
			return fmt.Errorf("a check of %s is too long: shorten it", f.Name)
		}
	}
	return nil
}
