package rules

import (
	"fmt"
	"math/big"
	"regexp"
	"strconv"
	"strings"

	"zealousmargin.example/internal/form"
)

// checkLuhn holds figures to their check digit (ISO/IEC 7812-1, annex B).
func checkLuhn(s string) bool {
	sum, n := 0, 0
	for i := len(s) - 1; i >= 0; i-- {
		c := s[i]
		if c == ' ' || c == '-' {
			continue
		}
		if c < '0' || c > '9' {
			return false
		}
		v := int(c - '0')
		if n%2 == 1 {
			if v *= 2; v > 9 {
				v -= 9
			}
		}
		sum += v
		n++
	}
	return n > 1 && sum%10 == 0
}

var ibanShape = regexp.MustCompile(`^[A-Z]{2}\d{2}[A-Z0-9]{11,30}$`)

// checkIBAN holds an account number to its check digits (ISO 13616-1; ISO 7064, MOD 97-10).
func checkIBAN(s string) bool {
	s = strings.ToUpper(strings.ReplaceAll(s, " ", ""))
	if !ibanShape.MatchString(s) {
		return false
	}
	var figures strings.Builder
	for _, c := range s[4:] + s[:4] {
		if c >= 'A' {
			figures.WriteString(strconv.Itoa(int(c-'A') + 10))
		} else {
			figures.WriteRune(c)
		}
	}
	n, ok := new(big.Int).SetString(figures.String(), 10)
	return ok && new(big.Int).Mod(n, big.NewInt(97)).Int64() == 1
}

// CheckWords is what a recipient reads when a check refuses.
func CheckWords(c form.Check) string {
	if c.Message != "" {
		return c.Message
	}
	switch c.Test {
	case form.Between:
		switch {
		case c.A == "":
			return "It can be at most " + c.B + "."
		case c.B == "":
			return "It must be at least " + c.A + "."
		}
		return "It must be from " + c.A + " to " + c.B + "."
	case form.OneOf:
		return "It must be one of: " + strings.Join(listOf(c.A), ", ") + "."
	case form.Length:
		switch {
		case c.A == "":
			return "It can have at most " + c.B + " signs."
		case c.B == "":
			return "It must have at least " + c.A + " signs."
		}
		return "It must have from " + c.A + " to " + c.B + " signs."
	case form.MatchesMask:
		return "It must be written as " + c.A + "."
	case form.NotBefore:
		return "It cannot be before " + c.A + "."
	case form.NotAfter:
		return "It cannot be after " + c.A + "."
	case form.Luhn, form.IBAN:
		return "There is a slip in this number: compare it once more."
	}
	return "This does not go with the other answers: " + c.A + " must hold."
}

// listOf reads values that are separated by commas or line ends.
func listOf(s string) []string {
	var out []string
	for _, v := range strings.FieldsFunc(s, func(r rune) bool { return r == ',' || r == '\n' || r == ';' }) {
		if v = strings.TrimSpace(v); v != "" {
			out = append(out, v)
		}
	}
	return out
}

// condition turns a check into a formula that must hold for an answer which is not blank;
// empty for those that have a test of their own.
func condition(f *form.Field, c form.Check) string {
	me := QuoteName(f.Name)
	limit := func(s string) string { // a number, a date in the field's own way, today, or a formula
		s = strings.TrimSpace(s)
		if f.Format.Kind == form.Date {
			if t, ok := parseDate(f.Format.Pattern, s); ok {
				return fmt.Sprintf("date(%d, %d, %d)", t.Year(), int(t.Month()), t.Day())
			}
		}
		return "(" + s + ")"
	}
	both := func(a, b string) string {
		var out []string
		if a != "" {
			out = append(out, "(blank("+limit(a)+") or "+me+" >= "+limit(a)+")") // a limit that is not filled in yet holds nobody up
		}
		if b != "" {
			out = append(out, "(blank("+limit(b)+") or "+me+" <= "+limit(b)+")")
		}
		return strings.Join(out, " and ")
	}
	switch c.Test {
	case form.Between:
		return both(c.A, c.B)
	case form.NotBefore:
		return both(c.A, "")
	case form.NotAfter:
		return both("", c.A)
	case form.Holds:
		return c.A
	}
	return ""
}

// Passes evaluates a check of a field on an answer; in gives the other fields.
func (p *plan) passes(f *form.Field, c form.Check, answer string, in lookup) bool {
	s := strings.TrimSpace(answer)
	if s == "" {
		return true
	}
	switch c.Test {
	case form.OneOf:
		for _, v := range listOf(c.A) {
			if v == s {
				return true
			}
		}
		return false
	case form.Length:
		n := len([]rune(s))
		return (c.A == "" || n >= whole(c.A)) && (c.B == "" || n <= whole(c.B))
	case form.MatchesMask:
		return regexp.MustCompile(expression(form.Format{Kind: form.Mask, Pattern: c.A})).MatchString(s)
	case form.Luhn:
		return checkLuhn(s)
	case form.IBAN:
		return checkIBAN(s)
	}
	formula, err := ParseFormula(condition(f, c))
	if err != nil {
		return true // CheckProblem tells of it
	}
	v, err := formula.root.eval(in)
	return err == nil && truth(v)
}

func whole(s string) int {
	n, err := strconv.Atoi(strings.TrimSpace(s))
	if err != nil {
		return 0
	}
	return n
}

// CheckProblem tells what is wrong with a check of a field; nil when it can be done.
func CheckProblem(f *form.Field, c form.Check, fields []string) error {
	needs := func(ok bool, what string) error {
		if ok {
			return nil
		}
		return fmt.Errorf("%s", what)
	}
	number := func(s string) bool { _, err := strconv.Atoi(strings.TrimSpace(s)); return s == "" || err == nil }
	switch c.Test {
	case form.OneOf:
		return needs(len(listOf(c.A)) > 0, "write the answers that are taken, with commas between")
	case form.Length:
		return needs(number(c.A) && number(c.B) && c.A+c.B != "", "write how many signs at least, at most, or both")
	case form.MatchesMask:
		return needs(strings.ContainsAny(c.A, "#@?"), "write # for a figure, @ for a letter, ? for any sign, and others as they are")
	case form.Luhn, form.IBAN:
		return nil
	}
	s := condition(f, c)
	if strings.TrimSpace(s) == "" {
		return fmt.Errorf("write what it is held to")
	}
	return CheckFormula(s, fields)
}

// checkScripts writes the checks of a field as a validation script; needs tells whether it
// uses the prelude.
func (p *plan) checkScripts(f *form.Field) (script string, needs bool, err error) {
	var out []string
	for _, c := range f.Checks {
		if err := CheckProblem(f, c, p.order); err != nil {
			return "", false, fmt.Errorf("a check of %s: %w", f.Name, err)
		}
		test := ""
		switch c.Test {
		case form.OneOf:
			test = fmt.Sprintf("ok = zm_has(%s, s);", quoteList(listOf(c.A)))
		case form.Length:
			test = fmt.Sprintf("ok = s.length >= %d && s.length <= %d;", whole(c.A),
				map[bool]int{true: 1 << 30, false: whole(c.B)}[c.B == ""])
		case form.MatchesMask:
			test = "ok = " + pattern(form.Format{Kind: form.Mask, Pattern: c.A}) + ".test(s);"
		case form.Luhn, form.IBAN:
			test = fmt.Sprintf("ok = zm_%s(s);", c.Test)
		default:
			formula, err := ParseFormula(condition(f, c))
			if err != nil {
				return "", false, err
			}
			test = fmt.Sprintf("zm_self = { name: %s, value: event.value };\n  ok = zm_holds(function () { return %s; });\n  "+
				"zm_self = null;", quote(f.Name), formula.root.script(p.known))
		}
		out = append(out, fmt.Sprintf(`if (event.rc && String(event.value).replace(/\s+/g, "") !== "") {
  var s = String(event.value).replace(/^\s+|\s+$/g, ""), ok = false;
  %s
  if (!ok) { app.alert(%s); event.rc = false; }
}`, test, quote(CheckWords(c))))
	}
	return strings.Join(out, "\n"), len(out) > 0, nil
}

func quoteList(list []string) string {
	var out []string
	for _, s := range list {
		out = append(out, quote(s))
	}
	return "[" + strings.Join(out, ", ") + "]"
}
