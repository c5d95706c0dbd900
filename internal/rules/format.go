package rules

import (
	"encoding/json"
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strings"

	"zealousmargin.example/internal/form"
)

// Scripts are the scripts of a field by trigger: "K" keystroke, "F" format, "V"
// validate, "C" calculate (ISO 32000-2, table 199).
type Scripts map[string]string

// Message is what a recipient reads when f refuses an answer.
func Message(f form.Format) string {
	if f.Message != "" {
		return f.Message
	}
	switch f.Kind {
	case form.Date:
		return "Please write a date as " + strings.ToUpper(f.Pattern) + "."
	case form.Time:
		return "Please write a time as " + map[string]string{
			"HH:MM": "17:45", "HH:MM:ss": "17:45:00",
			"h:MM tt": "5:45 pm",
		}[f.Pattern] + "."
	case form.Number:
		return "Please write a number."
	case form.Percent:
		return "Please write a number of per cent."
	case form.Phone:
		return "Please write a telephone number, with its country code if it is abroad."
	case form.Email:
		return "Please write an e-mail address, such as name@example.org."
	case form.Postcode:
		return "Please write a postcode, such as " + postcodeOf(f.Pattern).example + "."
	case form.Mask:
		return "Please write " + MaskWords(f.Pattern) + "."
	}
	return ""
}

// Compile writes the scripts that make a reader enforce f. A field without a
// format has none.
func Compile(f form.Format) Scripts {
	switch f.Kind {
	case form.Date:
		iso := isoDate(f.Pattern)
		return Scripts{
			"K": "if (event.willCommit) { " + iso + " }\n" + fmt.Sprintf("AFDate_KeystrokeEx(%s);", quote(f.Pattern)),
			"F": iso + "\n" + fmt.Sprintf("AFDate_FormatEx(%s);", quote(f.Pattern)),
			"V": iso + "\n" + refuseUnless(f, dateTest(f.Pattern)),
		}
	case form.Number, form.Percent:
		show := plainFirst(f) + "\nAFNumber_Format" + numberArgs(f)
		if f.Kind == form.Percent { // some readers lose the sign where it is an argument
			show += "\nif (event.value !== \"\") { event.value = event.value + \" %\"; }"
		}
		return Scripts{"K": numberKeys(f), "F": show, "V": refuseUnless(f, numberTest(f))}
	case form.Upper, form.Lower:
		to := map[form.FormatKind]string{form.Upper: "toUpperCase", form.Lower: "toLowerCase"}[f.Kind]
		all := fmt.Sprintf("event.value = String(event.value).%s();", to)
		return Scripts{ // what is shown is kept: readers differ in which of these they listen to
			"K": fmt.Sprintf("if (event.willCommit) { %s } else { event.change = String(event.change).%s(); }", all, to),
			"F": all, "V": all,
		}
	case form.Time:
		iso := isoTime(f.Pattern)
		return Scripts{
			"K": "if (event.willCommit) { " + iso + " }\n" + keys(f), "F": iso + "\n" + shape(f),
			"V": iso + "\n" + refuseUnless(f, "ok = "+pattern(f)+".test(s);"),
		}
	case form.Phone, form.Email, form.Postcode, form.Mask:
		return Scripts{"K": keys(f), "F": shape(f), "V": refuseUnless(f, "ok = "+pattern(f)+".test(s);")}
	}
	return nil
}

// isoDate writes a date that came as a reader's own calendar gives it (ISO 8601-1, 5.2.2.1, extended) in a pattern; anything else stays
// as it is.
func isoDate(p string) string {
	var out []string
	at := 0
	for _, m := range dateSign.FindAllStringIndex(p, -1) {
		if at < m[0] {
			out = append(out, quote(p[at:m[0]]))
		}
		at = m[1]
		out = append(out, map[string]string{
			"dd": "z[3]", "d": "Number(z[3])", "mm": "z[2]", "m": "Number(z[2])", "mmm": "n[Number(z[2]) - 1].substring(0, 3)",
			"mmmm": "n[Number(z[2]) - 1]", "yy": "z[1].substring(2)", "yyyy": "z[1]",
		}[p[m[0]:m[1]]])
	}
	if at < len(p) {
		out = append(out, quote(p[at:]))
	}
	names := ""
	if strings.Contains(p, "mmm") {
		names = fmt.Sprintf("var n = %s.split(\" \"); ", quote(monthTitles))
	}
	year := `\d{4}`
	if !strings.Contains(p, "yyyy") {
		year = shortYears
	}
	return `var z = /^\s*(` + year + `)-(0[1-9]|1[0-2])-(\d\d)\s*$/.exec(String(event.value)); ` +
		`if (z) { ` + names + `event.value = "" + ` + strings.Join(out, " + ") + `; }`
}

// shortYears are the years that two figures stand for.
const shortYears = `19[5-9]\d|20[0-4]\d`

const monthTitles = "January February March April May June July August September October November December"

// isoTime writes a time that came as a reader's own clock gives it (ISO 8601-1, 5.3.1.2, extended, with seconds or without) in a
// pattern; anything else stays as it is.
func isoTime(p string) string {
	return `var z = /^\s*([01]\d|2[0-3]):([0-5]\d)(:([0-5]\d)(\.\d+)?)?\s*$/.exec(String(event.value)); if (z) { event.value = ` + map[string]string{
		"HH:MM": `z[1] + ":" + z[2]`, "HH:MM:ss": `z[1] + ":" + z[2] + ":" + (z[4] || "00")`,
		"h:MM tt": `(Number(z[1]) % 12 || 12) + ":" + z[2] + (z[1] < "12" ? " am" : " pm")`,
	}[p] + `; }`
}

// sepStyle is the separator style of AFNumber_*: 0 is 1,234.56, 1 is 1234.56, 2 is 1.234,56 and 3
// is 1234,56 (from memory of the widely implemented form functions; checked in a reader
// by a test).
func sepStyle(f form.Format) int {
	n := 0
	if f.Comma {
		n = 2
	}
	if f.Ungrouped {
		n++
	}
	return n
}

func quote(s string) string {
	b, err := json.Marshal(s)
	if err != nil {
		return `""`
	}
	return string(b)
}

// refuseUnless is a validation script: test sets ok from s, the trimmed answer. The standard
// functions alone are weak: some readers show a bad date as today's, without a word.
func refuseUnless(f form.Format, test string) string {
	return fmt.Sprintf(`if (event.value !== "") {
  var s = String(event.value).replace(/^\s+|\s+$/g, ""), ok = false;
  %s
  if (!ok) { app.alert(%s); event.rc = false; }
}`, test, quote(Message(f)))
}

var monthNames = []string{
	"january", "february", "march", "april", "may", "june", "july", "august", "september", "october", "november",
	"december",
}

// dateTest tells whether s is a day of the calendar written in the pattern.
func dateTest(p string) string {
	var re, order strings.Builder
	words := false
	for i, part := range dateParts(p) {
		if i > 0 {
			re.WriteString(`[-.\/ ,]+`)
		}
		switch {
		case part[0] == 'y':
			fmt.Fprintf(&re, `(\d{%d})`, len(part))
		case part[0] == 'm' && len(part) > 2:
			words = true
			re.WriteString(`(\d{1,2}|[A-Za-z]+)`)
		default:
			re.WriteString(`(\d{1,2})`)
		}
		order.WriteByte(part[0])
	}
	at := func(c byte) int { return strings.IndexByte(order.String(), c) + 1 }
	month := fmt.Sprintf("Number(m[%d])", at('m'))
	if words {
		month = fmt.Sprintf(`month(m[%d])`, at('m'))
	}
	names := ""
	if words {
		names = fmt.Sprintf(`
  var names = %s;
  var month = function (w) {
    if (/^\d+$/.test(w)) { return Number(w); }
    for (var i = 0; i < 12; i++) { if (w.toLowerCase() === names[i] || w.toLowerCase() === names[i].substring(0, 3)) { return i + 1; } }
    return 0;
  };`, quote(strings.Join(monthNames, " "))+`.split(" ")`)
	}
	return fmt.Sprintf(`var m = /^%s$/.exec(s);%s
  if (m) {
    var d = Number(m[%d]), mo = %s, y = Number(m[%d]);
    if (m[%d].length === 2) { y += y < 50 ? 2000 : 1900; }
    var last = [31, (y %% 4 === 0 && y %% 100 !== 0) || y %% 400 === 0 ? 29 : 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31];
    ok = mo >= 1 && mo <= 12 && d >= 1 && d <= last[mo - 1] && y >= 1;
  }`, re.String(), names, at('d'), month, at('y'), at('y'))
}

// dateParts are the parts of a date pattern without what stands between them.
func dateParts(p string) []string {
	return strings.FieldsFunc(p, func(r rune) bool { return strings.ContainsRune("-./ ,", r) })
}

// numberTest tells whether s is a number as the format writes it. The keystroke function lets
// pasted text through in some readers.
func numberTest(f form.Format) string {
	re := `((\d+|\d{1,3}(,\d{3})+)?(\.\d*)?|\d*,\d*)`
	if f.Comma {
		re = `((\d+|\d{1,3}(\.\d{3})+)?(,\d*)?|\d*\.\d*)`
	}
	strip := ""
	if sign := moneyOf(f); sign != "" {
		strip = fmt.Sprintf(`s = s.replace(%s, "").replace(/^\s+|\s+$/g, ""); `, quote(sign))
	}
	return fmt.Sprintf(`%sok = /^([-+]?\s*%s|\(\s*%s\s*\))$/.test(s) && /\d/.test(s);`, strip, re, re)
}

// moneyOf is the sign that may stand with a number: of money, or of per cent.
func moneyOf(f form.Format) string {
	if f.Kind == form.Percent {
		return "%"
	}
	return f.Currency
}

// plainFirst writes an answer with a point and without groups, brackets and signs of money, as
// every reader's AFNumber_Format understands it: they differ in what else they do.
func plainFirst(f form.Format) string {
	money, comma := "", `t = /^\d*,\d*$/.test(t) && !/^\d{1,3},\d{3}$/.test(t) ? t.replace(",", ".") : t.replace(/,/g, "");`
	if sign := moneyOf(f); sign != "" {
		money = fmt.Sprintf("\nt = t.replace(%s, \"\").replace(/^\\s+|\\s+$/g, \"\");", quote(sign))
	}
	if f.Comma {
		comma = `if (t.indexOf(",") >= 0 || !/^\d*\.\d*$/.test(t) || /^\d{1,3}\.\d{3}$/.test(t)) { t = t.replace(/\./g, "").replace(",", "."); }`
	}
	return fmt.Sprintf(`var t = String(event.value).replace(/^\s+|\s+$/g, ""), m, minus = false;%s
m = /^\((.*)\)$/.exec(t) || /^-\s*(.*)$/.exec(t);
if (m) { minus = true; t = m[1]; }
t = t.replace(/^\+|\s/g, "");
%s
if (/\d/.test(t)) {
  %s
  event.value = (minus ? "-" : "") + t;
}`, money, comma, roundedText(f.Decimals))
}

// roundedText rounds t, figures with a point, to so many places: by its figures, for readers round a binary number, some up and some
// down where it is half way. Halves go away from zero.
func roundedText(places int) string {
	point := ""
	if places > 0 {
		point = fmt.Sprintf(`
    t = t.substring(0, t.length - %[1]d) + "." + t.substring(t.length - %[1]d);`, places)
	}
	return fmt.Sprintf(`var p = t.split("."), w = p[0] || "0", r = p[1] || "";
  if (r.length > %[1]d) {
    var g = (w + r.substring(0, %[1]d)).split(""), i = g.length - 1, up = r.charAt(%[1]d) >= "5";
    for (; up && i >= 0; i--) { if (g[i] === "9") { g[i] = "0"; } else { g[i] = String(Number(g[i]) + 1); up = false; } }
    t = (up ? "1" : "") + g.join("");%[2]s
  }`, places, point)
}

// numberKeys refuses the keys that no number has. The standard function knows less than is accepted: readers differ in what it does with
// groups, brackets, signs of money and the decimal sign of another country.
func numberKeys(f form.Format) string {
	return fmt.Sprintf(`if (!event.willCommit && event.change && !/^[-+(). ,\d%s]*$/.test(event.change)) { event.rc = false; }`,
		regexp.QuoteMeta(moneyOf(f)))
}

// StandardKeys is the keystroke script that other programs write for a format; empty where there is none.
func StandardKeys(f form.Format) string {
	switch f.Kind {
	case form.Date:
		return fmt.Sprintf("AFDate_KeystrokeEx(%s);", quote(f.Pattern))
	case form.Number, form.Percent:
		return "AFNumber_Keystroke" + numberArgs(f)
	}
	return ""
}

// numberArgs are the arguments of AFNumber_*.
func numberArgs(f form.Format) string {
	sign, before := f.Currency, !f.After
	if f.Kind == form.Percent {
		sign = ""
	} else if sign != "" && f.After {
		sign = " " + sign
	}
	return fmt.Sprintf("(%d, %d, %d, 0, %s, %t);", f.Decimals, sepStyle(f), map[bool]int{true: 2}[f.Brackets], quote(sign), before)
}

// keys refuses the keys that the answer cannot have.
func keys(f form.Format) string {
	only := func(class string) string {
		return fmt.Sprintf(`if (!event.willCommit && event.change && !/^[%s]*$/.test(event.change)) { event.rc = false; }`, class)
	}
	switch f.Kind {
	case form.Time:
		return only(`\d: aApPmM.`)
	case form.Phone:
		return only(`\d+() .\/-`)
	case form.Email:
		return only(`^\s`)
	case form.Postcode:
		return `if (!event.willCommit) { event.change = event.change.toUpperCase(); }` + "\n" + only(`A-Za-z\d -`)
	}
	return fmt.Sprintf(`if (!event.willCommit && event.change) {
  var v = String(event.value), s = v.substring(0, event.selStart) + event.change + v.substring(event.selEnd);
  if (!/^%s$/.test(s) && !/^%s$/.test(s)) { event.rc = false; }
}`, begun(f.Pattern, true), begun(f.Pattern, false))
}

// sign is the class of a sign of a mask; empty for one that stands for itself.
func sign(r rune) string { return map[rune]string{'#': `\d`, '@': `[A-Za-z]`, '?': `.`}[r] }

// begun matches the beginning of a mask: with its fixed signs, or the free ones only.
func begun(mask string, fixed bool) string {
	out, closing := "", ""
	for _, r := range mask {
		c := sign(r)
		if c == "" {
			if !fixed {
				continue
			}
			c = regexp.QuoteMeta(string(r))
			if r == '/' {
				c = `\/`
			}
		}
		out += "(" + c
		closing += ")?"
	}
	return out + closing
}

// pattern is the regular expression that an answer matches, in ECMAScript and in Go.
func pattern(f form.Format) string { return "/" + expression(f) + "/" }

// expression is the same without its slashes.
func expression(f form.Format) string {
	switch f.Kind {
	case form.Time:
		return map[string]string{
			"HH:MM": `^([01]?\d|2[0-3])[:.][0-5]\d$`, "HH:MM:ss": `^([01]?\d|2[0-3])[:.][0-5]\d[:.][0-5]\d$`,
			"h:MM tt": `^(0?[1-9]|1[0-2])[:.][0-5]\d ?[aApP]\.?[mM]\.?$`,
		}[f.Pattern]
	case form.Phone: // at most 15 figures (ITU-T E.164, 6.1); at least 4 (common practice, no source)
		return `^\+?\(?(\d[ .\/()-]*){4,15}$`
	case form.Email: // as HTML has it (HTML Standard, "valid e-mail address"), with a full stop in the domain
		return `^[a-zA-Z0-9.!#$%&'*+\/=?^_{|}~-]+@[a-zA-Z0-9]([a-zA-Z0-9-]*[a-zA-Z0-9])?(\.[a-zA-Z0-9]([a-zA-Z0-9-]*[a-zA-Z0-9])?)+$`
	case form.Postcode:
		return postcodeOf(f.Pattern).re
	}
	free, whole := "", ""
	for _, r := range f.Pattern {
		c := sign(r)
		free += c
		if c == "" {
			c = regexp.QuoteMeta(string(r))
			if r == '/' {
				c = `\/`
			}
		}
		whole += c
	}
	return `^(` + whole + `|` + free + `)$`
}

// shape writes the format script: how an accepted answer is shown.
func shape(f form.Format) string {
	tidy := `var s = String(event.value).replace(/^\s+|\s+$/g, "");` + "\n"
	switch f.Kind {
	case form.Time:
		return tidy + `var m = /^(\d{1,2})[:.](\d\d)([:.](\d\d))? ?([aApP])?/.exec(s);
if (s !== "" && m) { event.value = ` + map[string]string{
			"HH:MM":    `(m[1].length < 2 ? "0" : "") + m[1] + ":" + m[2]`,
			"HH:MM:ss": `(m[1].length < 2 ? "0" : "") + m[1] + ":" + m[2] + ":" + m[4]`,
			"h:MM tt":  `Number(m[1]) + ":" + m[2] + (/[pP]/.test(m[5]) ? " pm" : " am")`,
		}[f.Pattern] + `; }`
	case form.Phone:
		return tidy + `event.value = s.replace(/\s+/g, " ");`
	case form.Postcode:
		return tidy + `event.value = ` + postcodeOf(f.Pattern).script + `;`
	case form.Mask:
		var build strings.Builder
		build.WriteString(`""`)
		i := 0
		for _, r := range f.Pattern {
			if sign(r) == "" {
				build.WriteString(" + " + quote(string(r)))
			} else {
				fmt.Fprintf(&build, " + s.charAt(%d)", i)
				i++
			}
		}
		return tidy + fmt.Sprintf("if (s.length === %d && /^%s$/.test(s)) { event.value = %s; } else { event.value = s; }", i,
			freeOf(f.Pattern), build.String())
	}
	return tidy + "event.value = s;"
}

func freeOf(mask string) string {
	out := ""
	for _, r := range mask {
		out += sign(r)
	}
	return out
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
	s := strings.TrimSpace(answer)
	if answer == "" || f.Kind == form.NoFormat {
		return answer, nil
	}
	switch f.Kind {
	case form.Date:
		if t, ok := readDate(f.Pattern, s); ok {
			return ShowDate(f.Pattern, t), nil
		}
	case form.Number, form.Percent:
		if v, ok := parseNumber(f, s); ok {
			return showNumber(f, v), nil
		}
	case form.Upper:
		return strings.ToUpper(answer), nil
	case form.Lower:
		return strings.ToLower(answer), nil
	default:
		if f.Kind == form.Time {
			s = fromISOTime(f.Pattern, s)
		}
		if regexp.MustCompile(expression(f)).MatchString(s) {
			return shownAs(f, s), nil
		}
	}
	return "", refusal(Message(f))
}

// Stored is what a reader keeps of an accepted answer: dates and times as a reader's own calendar and clock give them are kept in the
// pattern, letters as they are shown; everything else as it was written.
func Stored(f form.Format, answer string) string {
	s := strings.TrimSpace(answer)
	switch f.Kind {
	case form.Date:
		if t, ok := calendarDate(f.Pattern, s); ok {
			return ShowDate(f.Pattern, t)
		}
	case form.Time:
		if isoClock.MatchString(s) {
			return fromISOTime(f.Pattern, s)
		}
	case form.Upper:
		return strings.ToUpper(answer)
	case form.Lower:
		return strings.ToLower(answer)
	}
	return answer
}

var (
	clock  = regexp.MustCompile(`^(\d{1,2})[:.](\d\d)([:.](\d\d))? ?([aApP])?`)
	spaces = regexp.MustCompile(`\s+`)
)

// shownAs shows an accepted answer, as the script of [shape] does.
func shownAs(f form.Format, s string) string {
	switch f.Kind {
	case form.Time:
		m := clock.FindStringSubmatch(s)
		hour := m[1]
		if f.Pattern == "h:MM tt" {
			return strings.TrimPrefix(hour, "0") + ":" + m[2] + map[bool]string{true: " pm", false: " am"}[strings.EqualFold(m[5], "p")]
		}
		if len(hour) < 2 {
			hour = "0" + hour
		}
		if f.Pattern == "HH:MM:ss" {
			return hour + ":" + m[2] + ":" + m[4]
		}
		return hour + ":" + m[2]
	case form.Phone:
		return spaces.ReplaceAllString(s, " ")
	case form.Postcode:
		return postcodeOf(f.Pattern).show(s)
	case form.Mask:
		if !regexp.MustCompile("^" + freeOf(f.Pattern) + "$").MatchString(s) {
			return s
		}
		signs, i := []rune(s), 0
		var b strings.Builder
		for _, r := range f.Pattern {
			if sign(r) != "" {
				r = signs[i]
				i++
			}
			b.WriteRune(r)
		}
		return b.String()
	}
	return s
}

// postcode is how a country writes its postcodes.
type postcode struct {
	name, example string
	re            string // of an answer, in capitals or not, with or without its gap
	gap           int    // signs from the end before which the gap stands; 0 is none
	between       string
	script        string
}

// postcodes by country (ISO 3166-1 alpha-2), from memory of the Universal Postal Union's
// addressing sheets.
var postcodes = map[string]postcode{
	"":   {name: "any country", example: "12345", re: `^[A-Za-z0-9][A-Za-z0-9 -]{1,9}$`},
	"AT": {name: "Austria", example: "1010", re: `^\d{4}$`},
	"BE": {name: "Belgium", example: "1000", re: `^\d{4}$`},
	"CH": {name: "Switzerland", example: "3000", re: `^\d{4}$`},
	"DE": {name: "Germany", example: "10115", re: `^\d{5}$`},
	"ES": {name: "Spain", example: "28001", re: `^\d{5}$`},
	"FR": {name: "France", example: "75001", re: `^\d{5}$`},
	"GB": {name: "United Kingdom", example: "SW1A 1AA", re: `^[A-Za-z]{1,2}\d[A-Za-z\d]? ?\d[A-Za-z]{2}$`, gap: 3, between: " "},
	"IT": {name: "Italy", example: "00118", re: `^\d{5}$`},
	"NL": {name: "Netherlands", example: "1011 AB", re: `^[1-9]\d{3} ?[A-Za-z]{2}$`, gap: 2, between: " "},
	"PL": {name: "Poland", example: "00-001", re: `^\d{2}-?\d{3}$`, gap: 3, between: "-"},
	"PT": {name: "Portugal", example: "1000-001", re: `^\d{4}-?\d{3}$`, gap: 3, between: "-"},
	"SE": {name: "Sweden", example: "111 22", re: `^\d{3} ?\d{2}$`, gap: 2, between: " "},
	"US": {name: "United States", example: "20500 or 20500-0005", re: `^\d{5}(-\d{4})?$`},
}

func postcodeOf(country string) postcode {
	p, ok := postcodes[country]
	if !ok {
		p = postcodes[""]
	}
	p.script = `s.toUpperCase()`
	if p.gap > 0 {
		p.script = fmt.Sprintf(`s.toUpperCase().replace(/[ -]/g, "").replace(/(.{%d})$/, %s)`, p.gap, quote(p.between+"$1"))
	}
	return p
}

func (p postcode) show(s string) string {
	s = strings.ToUpper(s)
	if p.gap == 0 {
		return s
	}
	s = strings.NewReplacer(" ", "", "-", "").Replace(s)
	return s[:len(s)-p.gap] + p.between + s[len(s)-p.gap:]
}

// PostcodeCountries lists the countries whose postcodes are known, by code and name; the first
// is any country.
func PostcodeCountries() []form.Offer {
	var out []form.Offer
	for code, p := range postcodes {
		out = append(out, form.Offer{Value: code, Words: p.name})
	}
	slices.SortFunc(out, func(a, b form.Offer) int { return strings.Compare(a.Value, b.Value) })
	return out
}
