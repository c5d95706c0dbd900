package rules

import (
	"errors"
	"math"
	"strconv"
	"strings"
	"time"
)

// value is what a part of a formula comes to: nil for blank, float64, string, bool, day, or noDay for a date that is blank.
//
// Numbers are binary, but every step is rounded to 15 significant figures, which is what
// they hold of decimals: 0.1 + 0.2 is 0.3. Go and ECMAScript do the same steps on the same
// numbers (IEEE 754 binary64), so that a reader comes to the same figure.
type value any

// day is a date: days since 1 January 1970.
type day int

// noDay is a date that was not given: what is reckoned from it is blank as well, where a blank number is left out of a sum.
type noDay struct{}

// Reasons why a formula comes to nothing. Its field is left empty.
var (
	ErrDivision = errors.New("it divides by zero")
	ErrNoNumber = errors.New("it calculates with something that is no number")
	ErrNoDate   = errors.New("it takes something for a date that is none")
	ErrTooLarge = errors.New("the number is too large")
)

// figures are how many significant figures a step keeps.
const figures = 15

func tidy(x float64) (float64, error) {
	if math.IsInf(x, 0) || math.IsNaN(x) {
		return 0, ErrTooLarge
	}
	v, err := strconv.ParseFloat(strconv.FormatFloat(x, 'e', figures-1, 64), 64)
	return v + 0, err // -0 is 0
}

// shift moves the decimal point by n places, in decimal.
func shift(x float64, n int) float64 {
	mantissa, exponent, _ := strings.Cut(strconv.FormatFloat(x, 'e', -1, 64), "e")
	e, err := strconv.Atoi(exponent)
	if err != nil {
		return x
	}
	v, _ := strconv.ParseFloat(mantissa+"e"+strconv.Itoa(e+n), 64)
	return v
}

// Round rounds to so many decimal places. Halves go away from zero, as in commerce, or
// with even to the even figure, as in statistics and banking.
func Round(x float64, places int, even bool) float64 {
	s := shift(math.Abs(x), places)
	whole := math.Floor(s)
	switch rest := s - whole; {
	case rest > 0.5, rest == 0.5 && (!even || math.Mod(whole, 2) == 1):
		whole++
	}
	return math.Copysign(shift(whole, -places), x) + 0
}

// numberOf gives a value as a number; ok is false for a blank.
func numberOf(v value) (x float64, ok bool, err error) {
	switch v := v.(type) {
	case nil, noDay:
		return 0, false, nil
	case float64:
		return v, true, nil
	case bool:
		if v {
			return 1, true, nil
		}
		return 0, true, nil
	case string:
		t := strings.TrimSpace(v)
		if t == "" {
			return 0, false, nil
		}
		if !plainNumber(t) {
			return 0, false, ErrNoNumber
		}
		x, err := strconv.ParseFloat(t, 64)
		if err != nil {
			return 0, false, ErrNoNumber
		}
		return x, true, nil
	}
	return 0, false, ErrNoNumber
}

// plainNumber tells whether s is figures with a sign and a point at most.
func plainNumber(s string) bool {
	if strings.HasPrefix(s, "-") || strings.HasPrefix(s, "+") {
		s = s[1:]
	}
	whole, frac, _ := strings.Cut(s, ".")
	return whole+frac != "" && strings.Trim(whole+frac, "0123456789") == ""
}

// textOf gives a value as text.
func textOf(v value) string {
	switch v := v.(type) {
	case float64:
		return plain(v)
	case string:
		return v
	case bool:
		if v {
			return "yes"
		}
		return "no"
	case day:
		return v.time().Format(time.DateOnly)
	}
	return ""
}

// plain writes a number without an exponent.
func plain(x float64) string { return strconv.FormatFloat(x+0, 'f', -1, 64) }

func isBlank(v value) bool {
	s, text := v.(string)
	return v == nil || v == noDay{} || text && s == ""
}

// truth tells whether a value counts as yes.
func truth(v value) bool {
	switch v := v.(type) {
	case bool:
		return v
	case float64:
		return v != 0
	case string:
		return v != ""
	case day:
		return true
	}
	return false
}

func (d day) time() time.Time { return time.Unix(int64(d)*86400, 0).UTC() }

func dayOf(t time.Time) day {
	y, m, dd := t.Date()
	return day(time.Date(y, m, dd, 0, 0, 0, 0, time.UTC).Unix() / 86400)
}
