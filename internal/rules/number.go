package rules

import (
	"cmp"
	"fmt"
	"math/big"
	"regexp"
	"strconv"
	"strings"
	"time"

	"zealousmargin.example/internal/form"
)

// parseDate reads day, month and year in the order of the pattern; separators may
// be any of . - / , and space. Two-digit years below 50 are in the 2000s. Months may be
// named in English where the pattern names them.
func parseDate(pattern, s string) (time.Time, bool) {
	want, got := dateParts(pattern), dateParts(s)
	if len(want) != 3 || len(got) != 3 || strings.Trim(s, "-./ ,") != s {
		return time.Time{}, false
	}
	var d, m, y int
	for i, w := range want {
		g := got[i]
		if w[0] == 'm' && len(w) > 2 && strings.Trim(g, "0123456789") != "" {
			for k, name := range monthNames {
				if g = strings.ToLower(g); g == name || g == name[:3] {
					m = k + 1
				}
			}
			continue
		}
		v, err := strconv.Atoi(g)
		if err != nil || strings.Trim(g, "0123456789") != "" {
			return time.Time{}, false
		}
		switch {
		case w[0] == 'y':
			if len(g) != len(w) {
				return time.Time{}, false
			}
			if y = v; w == "yy" {
				y += 1900
				if v < 50 {
					y += 100
				}
			}
		case len(g) > 2:
			return time.Time{}, false
		case w[0] == 'd':
			d = v
		default:
			m = v
		}
	}
	t := time.Date(y, time.Month(m), d, 0, 0, 0, 0, time.UTC)
	return t, y >= 1 && m >= 1 && m <= 12 && d >= 1 && t.Day() == d
}

// calendarDate reads a date as a reader's own calendar gives it (ISO 8601-1, 5.2.2.1), when the pattern can say its year.
func calendarDate(pattern, s string) (time.Time, bool) {
	t, err := time.Parse(time.DateOnly, s)
	long := strings.Contains(pattern, "yyyy")
	return t, err == nil && t.Year() >= 1 && (long || t.Year() >= 1950 && t.Year() < 2050)
}

// readDate reads a date in its pattern, or as a calendar gives it.
func readDate(pattern, s string) (time.Time, bool) {
	if t, ok := calendarDate(pattern, s); ok {
		return t, true
	}
	return parseDate(pattern, s)
}

var isoClock = regexp.MustCompile(`^([01]\d|2[0-3]):([0-5]\d)(:([0-5]\d)(\.\d+)?)?$`)

// fromISOTime writes a time that a reader's own clock gives (ISO 8601-1, 5.3.1.2) in a pattern; anything else stays as it is.
func fromISOTime(pattern, s string) string {
	m := isoClock.FindStringSubmatch(s)
	if m == nil {
		return s
	}
	switch pattern {
	case "HH:MM:ss":
		return m[1] + ":" + m[2] + ":" + cmp.Or(m[4], "00")
	case "h:MM tt":
		hour, _ := strconv.Atoi(m[1])
		return strconv.Itoa((hour+11)%12+1) + ":" + m[2] + map[bool]string{true: " pm", false: " am"}[hour >= 12]
	}
	return m[1] + ":" + m[2]
}

var dateSign = regexp.MustCompile(`d+|m+|y+`)

// ShowDate writes a day in a date pattern.
func ShowDate(pattern string, t time.Time) string {
	return dateSign.ReplaceAllStringFunc(pattern, func(p string) string {
		switch p {
		case "dd":
			return fmt.Sprintf("%02d", t.Day())
		case "d":
			return strconv.Itoa(t.Day())
		case "mm":
			return fmt.Sprintf("%02d", int(t.Month()))
		case "m":
			return strconv.Itoa(int(t.Month()))
		case "mmm":
			return t.Month().String()[:3]
		case "mmmm":
			return t.Month().String()
		case "yy":
			return fmt.Sprintf("%02d", t.Year()%100)
		}
		return fmt.Sprintf("%04d", t.Year())
	})
}

var (
	signed     = regexp.MustCompile(`^([-+])\s*(.*)$`)
	bracketed  = regexp.MustCompile(`^\((.*)\)$`)
	pointed    = regexp.MustCompile(`^(\d+|\d{1,3}(,\d{3})+)?(\.\d*)?$`)
	commaed    = regexp.MustCompile(`^(\d+|\d{1,3}(\.\d{3})+)?(,\d*)?$`)
	oneComma   = regexp.MustCompile(`^\d*,\d*$`)
	groupComma = regexp.MustCompile(`^\d{1,3},\d{3}$`)
	onePoint   = regexp.MustCompile(`^\d*\.\d*$`)
	oneGrouped = regexp.MustCompile(`^\d{1,3}\.\d{3}$`)
)

// parseNumber reads a number as it is written, with its sign of money if it has one. Where a
// comma is the decimal sign, a single full stop followed by three figures groups thousands;
// otherwise it is taken for the decimal sign that it is elsewhere. The same holds for a single comma where a point is.
func parseNumber(f form.Format, s string) (*big.Rat, bool) {
	money := moneyOf(f)
	s = strings.TrimSpace(strings.Replace(s, money, "", 1))
	minus := false
	if m := bracketed.FindStringSubmatch(s); m != nil {
		minus, s = true, strings.TrimSpace(m[1])
	} else if m := signed.FindStringSubmatch(s); m != nil {
		minus, s = m[1] == "-", m[2]
	}
	if f.Comma && (strings.Contains(s, ",") || !onePoint.MatchString(s) || oneGrouped.MatchString(s)) {
		if !commaed.MatchString(s) {
			return nil, false
		}
		s = strings.NewReplacer(".", "", ",", ".").Replace(s)
	} else if oneComma.MatchString(s) && !groupComma.MatchString(s) { // the decimal sign of the reader's country
		s = strings.Replace(s, ",", ".", 1)
	} else {
		if !pointed.MatchString(s) {
			return nil, false
		}
		s = strings.ReplaceAll(s, ",", "")
	}
	if !strings.ContainsAny(s, "0123456789") {
		return nil, false
	}
	v, ok := new(big.Rat).SetString("0" + s + "0")
	if !strings.Contains(s, ".") {
		v, ok = new(big.Rat).SetString(s)
	}
	if ok && minus {
		v.Neg(v)
	}
	return v, ok
}

// showNumber writes v as its format says; halves are rounded away from zero.
func showNumber(f form.Format, v *big.Rat) string {
	s := v.FloatString(f.Decimals)
	minus := strings.HasPrefix(s, "-")
	whole, frac, _ := strings.Cut(strings.TrimPrefix(s, "-"), ".")
	group, point := ",", "."
	if f.Comma {
		group, point = ".", ","
	}
	var b strings.Builder
	for i, c := range whole {
		if i > 0 && (len(whole)-i)%3 == 0 && !f.Ungrouped {
			b.WriteString(group)
		}
		b.WriteRune(c)
	}
	if frac != "" {
		b.WriteString(point + frac)
	}
	out := b.String()
	switch {
	case f.Kind == form.Percent:
		out += " %"
	case f.Currency != "" && f.After:
		out += " " + f.Currency
	case f.Currency != "":
		out = f.Currency + out
	}
	switch {
	case minus && f.Brackets:
		return "(" + out + ")"
	case minus:
		return "-" + out
	}
	return out
}
