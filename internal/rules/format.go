// Package rules holds what a field accepts and how it shows it. A rule is one
// value with three uses: it is evaluated here ([Check]), and compiled into the
// scripts that PDF readers run ([Scripts]); a test holds the two to each other.
//
// The scripts use only the form functions that readers implement widely
// (AFDate_*, AFNumber_*) and plain ECMAScript (ISO 21757-1).
package rules

import (
	"encoding/json"
	"errors"
	"fmt"
	"math/big"
	"strconv"
	"strings"
	"time"

	"zealousmargin.example/internal/form"
)

// Scripts are the scripts of a field by trigger: "K" keystroke, "F" format, "V"
// validate (ISO 32000-2, table 199).
type Scripts map[string]string

// Message is what a recipient reads when f refuses an answer.
func Message(f form.Format) string {
	if f.Message != "" {
		return f.Message
	}
	switch f.Kind {
	case form.Date:
		return "Please write a date as " + strings.ToUpper(f.Pattern) + "."
	case form.Number:
		return "Please write a number."
	}
	return ""
}

// Compile writes the scripts that make a reader enforce f. A field without a
// format has none.
func Compile(f form.Format) Scripts {
	switch f.Kind {
	case form.Date:
		return Scripts{
			"K": fmt.Sprintf("AFDate_KeystrokeEx(%s);", quote(f.Pattern)),
			"F": fmt.Sprintf("AFDate_FormatEx(%s);", quote(f.Pattern)),
			"V": dateGuard(f),
		}
	case form.Number:
		args := fmt.Sprintf("(%d, %d, 0, 0, \"\", true);", f.Decimals, sepStyle(f))
		return Scripts{"K": "AFNumber_Keystroke" + args, "F": "AFNumber_Format" + args, "V": numberGuard(f)}
	}
	return nil
}

// sepStyle is the separator style of AFNumber_*: 0 is 1,234.56 and 2 is 1.234,56
// (from memory of the widely implemented form functions; checked in a reader by a test).
func sepStyle(f form.Format) int {
	if f.Comma {
		return 2
	}
	return 0
}

func quote(s string) string {
	b, err := json.Marshal(s)
	if err != nil {
		return `""`
	}
	return string(b)
}

// dateGuard refuses what is no date in the pattern. The standard function alone
// is weak: some readers show a bad date as today's, without a word.
func dateGuard(f form.Format) string {
	var re, order strings.Builder
	i := 0
	for i < len(f.Pattern) {
		switch c := f.Pattern[i]; {
		case c == 'd' || c == 'm':
			re.WriteString(`(\d{1,2})`)
			order.WriteByte(c)
			i += 2
		case c == 'y':
			n := 2
			if strings.HasPrefix(f.Pattern[i:], "yyyy") {
				n = 4
			}
			re.WriteString(fmt.Sprintf(`(\d{%d})`, n))
			order.WriteByte('y')
			i += n
		default:
			re.WriteString(`[-.\/ ]`)
			i++
		}
	}
	at := func(c byte) int { return strings.IndexByte(order.String(), c) + 1 }
	return fmt.Sprintf(`if (event.value !== "") {
  var m = /^\s*%s\s*$/.exec(String(event.value)), ok = false;
  if (m) {
    var d = Number(m[%d]), mo = Number(m[%d]), y = Number(m[%d]);
    if (y < 100 && m[%d].length === 2) { y += y < 50 ? 2000 : 1900; }
    var last = [31, (y %% 4 === 0 && y %% 100 !== 0) || y %% 400 === 0 ? 29 : 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31];
    ok = mo >= 1 && mo <= 12 && d >= 1 && d <= last[mo - 1] && y >= 1;
  }
  if (!ok) { app.alert(%s); event.rc = false; }
}`, re.String(), at('d'), at('m'), at('y'), at('y'), quote(Message(f)))
}

// numberGuard refuses what is no number: the keystroke function lets pasted text through in some readers.
func numberGuard(f form.Format) string {
	re := `^\s*[-+]?(\d+|\d{1,3}(,\d{3})+)?(\.\d*)?\s*$`
	if f.Comma {
		re = `^\s*[-+]?(\d+|\d{1,3}(\.\d{3})+)?([,.]\d*)?\s*$`
	}
	return fmt.Sprintf(`if (event.value !== "") {
  var s = String(event.value);
  if (!/%s/.test(s) || !/\d/.test(s)) { app.alert(%s); event.rc = false; }
}`, re, quote(Message(f)))
}

// ErrRefused is wrapped by the errors of [Check]; their text is the message for
// the recipient.
var ErrRefused = errors.New("answer refused")

type refusal string

func (r refusal) Error() string        { return string(r) }
func (r refusal) Is(target error) bool { return target == ErrRefused }

// Check evaluates f on an answer: it gives the text to show, or an error with the
// message for the recipient. Blank is accepted and stays blank.
func Check(f form.Format, answer string) (shown string, err error) {
	trimmed := strings.TrimSpace(answer)
	if answer == "" || f.Kind == form.NoFormat {
		return answer, nil
	}
	switch f.Kind {
	case form.Date:
		if t, ok := parseDate(f.Pattern, trimmed); ok {
			return showDate(f.Pattern, t), nil
		}
	case form.Number:
		if v, ok := parseNumber(f, trimmed); ok {
			return showNumber(f, v), nil
		}
	}
	return "", refusal(Message(f))
}

// parseDate reads day, month and year in the order of the pattern; separators may
// be any of . - / and space. Two-digit years below 50 are in the 2000s.
func parseDate(pattern, s string) (time.Time, bool) {
	isSep := func(r rune) bool { return strings.ContainsRune(".-/ ", r) }
	want, got := strings.FieldsFunc(pattern, isSep), strings.Split(strings.Map(func(r rune) rune {
		if isSep(r) {
			return ' '
		}
		return r
	}, s), " ")
	if len(want) != 3 || len(got) != 3 {
		return time.Time{}, false
	}
	var d, m, y int
	for i, w := range want {
		for _, r := range got[i] {
			if r < '0' || r > '9' {
				return time.Time{}, false
			}
		}
		v, err := strconv.Atoi(got[i])
		if err != nil {
			return time.Time{}, false
		}
		switch {
		case w == "yyyy" || w == "yy":
			if len(got[i]) != len(w) {
				return time.Time{}, false
			}
			if y = v; w == "yy" {
				y += 1900
				if v < 50 {
					y += 100
				}
			}
		case len(got[i]) > 2:
			return time.Time{}, false
		case w == "dd":
			d = v
		default:
			m = v
		}
	}
	t := time.Date(y, time.Month(m), d, 0, 0, 0, 0, time.UTC)
	return t, y >= 1 && m >= 1 && m <= 12 && d >= 1 && t.Day() == d
}

func showDate(pattern string, t time.Time) string {
	return strings.NewReplacer("dd", fmt.Sprintf("%02d", t.Day()), "mm", fmt.Sprintf("%02d", int(t.Month())),
		"yyyy", fmt.Sprintf("%04d", t.Year()), "yy", fmt.Sprintf("%02d", t.Year()%100)).Replace(pattern)
}

func parseNumber(f form.Format, s string) (*big.Rat, bool) {
	s = strings.TrimPrefix(s, "+")
	whole, frac := s, ""
	point := "."
	if f.Comma && strings.Contains(s, ",") {
		point = ","
	} else if f.Comma && strings.Count(s, ".") == 1 {
		// A single full stop followed by three figures groups thousands; otherwise it is a decimal point.
		if i := strings.IndexByte(s, '.'); len(s)-i-1 == 3 && i > 0 && i <= 4 {
			point = ","
		}
	} else if f.Comma {
		point = ","
	}
	if i := strings.Index(s, point); i >= 0 {
		whole, frac = s[:i], s[i+len(point):]
	}
	group := map[bool]string{true: ".", false: ","}[f.Comma && point == ","]
	neg := strings.HasPrefix(whole, "-")
	whole = strings.TrimPrefix(whole, "-")
	if strings.Contains(whole, group) {
		parts := strings.Split(whole, group)
		for i, p := range parts {
			if i == 0 && (len(p) < 1 || len(p) > 3) || i > 0 && len(p) != 3 {
				return nil, false
			}
		}
		whole = strings.Join(parts, "")
	}
	digits := whole + frac
	if digits == "" || strings.Trim(digits, "0123456789") != "" {
		return nil, false
	}
	if whole == "" {
		whole = "0"
	}
	v, ok := new(big.Rat).SetString(whole + "." + frac + "0")
	if ok && neg {
		v.Neg(v)
	}
	return v, ok
}

// showNumber writes v with grouped thousands; halves are rounded away from zero.
func showNumber(f form.Format, v *big.Rat) string {
	s := v.FloatString(f.Decimals)
	sign := ""
	if strings.HasPrefix(s, "-") {
		sign, s = "-", s[1:]
	}
	whole, frac, _ := strings.Cut(s, ".")
	var b strings.Builder
	for i, c := range whole {
		if i > 0 && (len(whole)-i)%3 == 0 {
			b.WriteByte(',')
		}
		b.WriteRune(c)
	}
	out := sign + b.String()
	if frac != "" {
		out += "." + frac
	}
	if f.Comma {
		out = strings.Map(func(r rune) rune {
			switch r {
			case ',':
				return '.'
			case '.':
				return ','
			}
			return r
		}, out)
	}
	return out
}
