package form

import (
	"fmt"
	"regexp"
	"slices"
	"strings"
)

// FormatKind names a format that a text field can ask for.
type FormatKind string

// The formats.
const (
	NoFormat FormatKind = ""
	Date     FormatKind = "date"
	Time     FormatKind = "time"
	Number   FormatKind = "number"
	Percent  FormatKind = "percent"
	Phone    FormatKind = "phone"
	Email    FormatKind = "email"
	Postcode FormatKind = "postcode"
	Mask     FormatKind = "mask"
	Upper    FormatKind = "upper"
	Lower    FormatKind = "lower"
)

// FormatKinds lists them.
var FormatKinds = []FormatKind{NoFormat, Date, Time, Number, Percent, Phone, Email, Postcode, Mask, Upper, Lower}

// formatChoices are the formats in words.
var formatChoices = []Offer{
	{"", "anything"},
	{"date", "a date"},
	{"time", "a time"},
	{"number", "a number"},
	{"percent", "a percentage"},
	{"phone", "a telephone number"},
	{"email", "an e-mail address"},
	{"postcode", "a postcode"},
	{"mask", "signs in a pattern"},
	{"upper", "text in capitals"},
	{"lower", "text in small letters"},
}

// Format says what a text field accepts and how it shows it. Package rules
// evaluates it and compiles it into the scripts that readers run.
type Format struct {
	Kind FormatKind `json:"kind"`
	// Pattern is, of a date, its order and separators, made of d, dd, m, mm, mmm, mmmm, yy or
	// yyyy: "dd.mm.yyyy"; of a time one of [TimePatterns]; of a postcode the country by ISO
	// 3166-1; of a mask its signs: # a figure, @ a letter, ? any, others themselves.
	Pattern string `json:"pattern,omitempty"`
	// Decimals is how many places a number shows, 0 to 6.
	Decimals int `json:"decimals,omitempty"`
	// Comma writes numbers as 1.234,56 instead of 1,234.56.
	Comma bool `json:"comma,omitempty"`
	// Ungrouped writes numbers as 1234.56.
	Ungrouped bool `json:"ungrouped,omitempty"`
	// Brackets writes negative numbers as (1.00) instead of -1.00.
	Brackets bool `json:"brackets,omitempty"`
	// Currency is a sign of money that is shown with a number, before it or After it.
	Currency string `json:"currency,omitempty"`
	After    bool   `json:"after,omitempty"`
	// Message is what a recipient reads when the answer is refused.
	Message string `json:"message,omitempty"`
}

// TimePatterns are how times can be written: hours of the day, or of its half with am or pm.
var TimePatterns = []string{"HH:MM", "HH:MM:ss", "h:MM tt"}

var datePattern = regexp.MustCompile(`^(dd?|mm?m?m?|yyyy|yy)[-./ ,]{1,2}(dd?|mm?m?m?|yyyy|yy)[-./ ,]{1,2}(dd?|mm?m?m?|yyyy|yy)$`)

// check refuses a format that cannot be compiled, and says what to do.
func (f Format) Check() error {
	switch f.Kind {
	case Date:
		if !ValidDatePattern(f.Pattern) {
			return fmt.Errorf("%q is not a date pattern: use dd, mm and yyyy with . / - or a space between, such as dd.mm.yyyy or d "+
				"mmm yyyy", f.Pattern)
		}
	case Time:
		if !slices.Contains(TimePatterns, f.Pattern) {
			return fmt.Errorf("%q is not how a time is written: use %s", f.Pattern, strings.Join(TimePatterns, ", "))
		}
	case Number, Percent:
		if f.Decimals < 0 || f.Decimals > 6 {
			return fmt.Errorf("a number shows 0 to 6 decimal places, not %d", f.Decimals)
		}
		if len(f.Currency) > 12 || strings.ContainsAny(f.Currency, "0123456789.,-()") {
			return fmt.Errorf("%q is not a sign of money: write up to four letters or a sign, such as € or GBP", f.Currency)
		}
	case Mask:
		if !strings.ContainsAny(f.Pattern, "#@?") || len(f.Pattern) > 60 {
			return fmt.Errorf("%q is not a mask: write # for a figure, @ for a letter, ? for any sign, and others as they are, such "+
				"as @@-####", f.Pattern)
		}
	case NoFormat, Phone, Email, Postcode, Upper, Lower:
	default:
		return fmt.Errorf("%q is not a format: use date, time, number, percent, phone, email, postcode, mask, upper or lower", f.Kind)
	}
	return nil
}

// ValidDatePattern tells whether p has day, month and year once each.
func ValidDatePattern(p string) bool {
	m := datePattern.FindStringSubmatch(p)
	return m != nil && m[1][0] != m[2][0] && m[2][0] != m[3][0] && m[1][0] != m[3][0]
}

// FormatFor is a format to begin with, one that can be compiled. Money is a number with two
// decimals.
func FormatFor(k FormatKind) Format {
	x := Format{Kind: k}
	switch k {
	case "money":
		x.Kind, x.Decimals = Number, 2
	case Date:
		x.Pattern = DatePatterns[0]
	case Time:
		x.Pattern = TimePatterns[0]
	case Mask:
		x.Pattern = Masks[3].Value
	case Number:
		x.Decimals = 2
	}
	return x
}
