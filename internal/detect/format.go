package detect

import (
	"fmt"
	"regexp"
	"strings"
	"unicode"

	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
)

// formatOf tells what a label asks for: "date", "time", "phone", "email", "postcode",
// "percent", "money", "number" or nothing. Table says that it heads a column or a row.
func formatOf(label string, table bool) string {
	l, ws := loadLexicon(), wordsOf(label)
	if len(ws) == 0 || len(ws) > askingWords {
		return "" // a sentence is no label of one sort of answer, whatever it counts
	}
	asks := func(sense string) bool { return l.speaks(ws, sense) && !l.speaks(ws, "not-"+sense) }
	for _, sense := range []string{"email", "phone", "postcode"} {
		if asks(sense) {
			return sense
		}
	}
	date, time := asks("date") || onOrUntil(ws), asks("time")
	switch {
	case date && time:
		return "" // both in one place are neither
	case date && (l.speaks(ws, "place") || l.speaks(ws, "signature")):
		return "" // a line for a place and a date, or for a date and a hand, takes more than a date
	case date:
		return "date"
	case time:
		return "time"
	case asks("percent") || strings.Contains(label, "%"):
		return "percent"
	case counts(ws):
		return "number"
	case inCurrency(label):
		return "money"
	case identifies(ws):
		if table && len(ws) == 1 && l.speaks(ws, "counted-alone") {
			return "number" // the head of a column of counts
		}
		return ""
	case inUnits(label):
		return "number"
	case asks("money"):
		return "money"
	case asks("number"), table && len(ws) <= 2 && l.speaks(ws, "things"):
		return "number"
	}
	return ""
}

// askingWords is how many words a label has at most that asks for one sort of answer.
const askingWords = 9

// onOrUntil tells whether a short label ends in a word that a date must follow: "born on", "ausgestellt am", "valid until".
func onOrUntil(ws []string) bool {
	l := loadLexicon()
	last := ws[len(ws)-1]
	return len(ws) >= 2 && len(ws) <= 5 && (l.is(last, "on-day") && !l.is(ws[0], "place") && len([]rune(ws[0])) > 2 || l.is(last, "until"))
}

// Counts of things, by how each language says "number of" and the plural that follows.
var countOf = regexp.MustCompile(`(?i)(^| )(number of (\p{L}+ )?(\p{L}+s|people|children|crew|staff)|no of \p{L}+s|nombre (de |d['’])\p{L}+[sx]|` +
	`número de \p{L}+s|numero (di \p{L}+[ei]|dei|delle|degli)|αριθμός \p{L}+ων|număr(ul)? de \p{L}+)( |$)`)

// counts tells whether words ask for a count.
func counts(ws []string) bool {
	said := strings.Join(ws, " ")
	return loadLexicon().speaks(ws, "count") || countOf.MatchString(said) && !strings.Contains(said, "numero di serie")
}

// identifies tells whether words ask for a mark that may have letters or leading zeros, not for a quantity.
func identifies(ws []string) bool { return loadLexicon().speaks(ws, "identity") }

var currency = regexp.MustCompile(`(^|[\s(\[])(€|£|\$|₴|₺|zł|kr|Kč|Ft|EUR|USD|GBP|CHF|PLN|SEK|NOK|DKK|CZK|HUF|RON|UAH|TRY|lei)([\s)\].,:]|$)`)

// inCurrency tells whether a label names a currency by its sign or code (ISO 4217).
func inCurrency(label string) bool { return currency.MatchString(label) }

var (
	unitInBrackets = regexp.MustCompile(`[(\[]\s*(in |en )?(mm|cm|m|km|m²|m2|m³|m3|g|kg|t|l|ml|kw|kwh|ps|hp|pk|cv|ch|v|a|w|h|min|°c|st|stk|pcs|szt|шт|м|кг)\.?\s*[)\]]`)
	unitWords      = regexp.MustCompile(`(^| )(in|en|em|w|i|σε|в|у|v|m) (\p{L}*met(re|er|ro|ri|rach|ry|rech|riä)\p{L}*|mètres?|μέτρα|метрах|kilo\p{L}*|кілограмах|litr\p{L}*|liter|tonnen?|tonnes|tons|m|cm|mm|km|kg|t|kw|hp|ps)$`)
)

// inUnits tells whether a label ends in a unit of measure: in brackets, or after "in".
func inUnits(label string) bool {
	return unitInBrackets.MatchString(strings.ToLower(label)) || unitWords.MatchString(strings.Join(wordsOf(label), " "))
}

// unitReach is how far right of a place, in points, its unit stands.
const unitReach = 14.0

// formatBeside tells what a printed unit right behind a place says, or at its right end: a currency, a per cent sign, a unit.
func (f *finder) formatBeside(r geom.Rect) string {
	for i := range f.ev.Words {
		w := &f.ev.Words[i]
		if w.Rect.X0 < r.X1-0.4*r.W() || w.Rect.X0 > r.X1+unitReach || w.Rect.OverlapY(r) < 0.5*w.Rect.H() ||
			len([]rune(w.Text)) > longestUnit {
			continue
		}
		switch {
		case w.Text == "%":
			return "percent"
		case inCurrency(w.Text):
			return "money"
		case inUnits("(" + w.Text + ")"):
			return "number"
		}
	}
	return ""
}

// guideIn reads the pattern that is printed to be written over in a place, or right below or behind it: its letters and
// strokes, such as "DD.MM.YYYY". Empty when there is none.
func (f *finder) guideIn(r geom.Rect) string {
	near := r.Inset(-2)
	near.Y0 -= 9
	var parts []evidence.Word
	for _, w := range f.ev.Words {
		if near.Contains(w.Rect.Mid()) && IsGuide(w.Text) {
			parts = append(parts, w)
		}
	}
	text := ""
	for i, w := range parts {
		if i > 0 && !strings.HasSuffix(text, "/") && !strings.HasSuffix(text, ".") && !strings.HasSuffix(text, "-") && !isStroke(w.Text) {
			text += " "
		}
		text += w.Text
	}
	return strings.TrimSpace(text)
}

func isStroke(s string) bool { return strings.Trim(s, "/.-–|") == "" }

// Letters that stand for the parts of a date in guide text, of the languages of the lexicon (common practice, no source).
const (
	dayLetters   = "DTGHΗДPN" // day, Tag, giorno, ημέρα, день, päivä, nap
	monthLetters = "MΜМKH"
	yearLetters  = "YJARÅΕРГVÉ"
)

// DatePattern turns guide text into the order and the separators of a date, in the letters of the formats: "TT.MM.JJJJ" into
// "dd.mm.yyyy". Empty when the text is no guide to a date.
func DatePattern(guide string) string {
	var out strings.Builder
	seen := ""
	runes := []rune(strings.ToUpper(strings.TrimSpace(guide)))
	for i := 0; i < len(runes); {
		if !unicode.IsLetter(runes[i]) {
			out.WriteRune(runes[i])
			i++
			continue
		}
		j := i + 1
		for j < len(runes) && runes[j] == runes[i] {
			j++
		}
		part := ""
		in := func(letters string) bool { return strings.ContainsRune(letters, runes[i]) }
		switch n := j - i; {
		case n == 4 && in(yearLetters):
			part = "yyyy"
		case n != 2:
			return ""
		case in(monthLetters) && strings.Contains(seen, "d") && !strings.Contains(seen, "m"), in("MΜМ"):
			part = "mm"
		case !strings.Contains(seen, "d") && (in(dayLetters) || runes[i] == 'J'): // jour
			part = "dd"
		case in(yearLetters):
			part = "yy"
		default:
			return ""
		}
		if strings.Contains(seen, part[:1]) {
			return ""
		}
		seen += part[:1]
		out.WriteString(part)
		i = j
	}
	if len(seen) != 3 {
		return ""
	}
	return out.String()
}

// formatFor is the format of a settled candidate: what is printed in its place or behind it tells before its label does.
func (f *finder) formatFor(c settled) string {
	if c.multiline {
		return ""
	}
	if DatePattern(f.guideIn(c.rect)) != "" {
		return "date"
	}
	key := fmt.Sprint(c.table != nil, c.label.text)
	said, known := f.formats[key]
	if !known {
		said = formatOf(c.label.text, c.table != nil)
		if f.formats == nil {
			f.formats = map[string]string{}
		}
		f.formats[key] = said
	}
	beside := f.formatBeside(c.rect)
	if said == "" || said == "number" && beside != "" {
		return beside
	}
	return said
}

// dateOrders are the dates of each language as they are written in figures (Unicode CLDR, the short patterns with four figures
// for the year; from memory).
var dateOrders = map[string]string{
	"en": "dd/mm/yyyy", "de": "dd.mm.yyyy", "fr": "dd/mm/yyyy", "es": "dd/mm/yyyy", "it": "dd/mm/yyyy", "nl": "dd-mm-yyyy",
	"pl": "dd.mm.yyyy", "pt": "dd/mm/yyyy", "sv": "yyyy-mm-dd", "el": "dd/mm/yyyy", "uk": "dd.mm.yyyy", "da": "dd.mm.yyyy",
	"cs": "dd.mm.yyyy", "fi": "dd.mm.yyyy", "ro": "dd.mm.yyyy", "hu": "yyyy.mm.dd",
}

const (
	sureOfFormat = 0.7 // confidence from which a find's format is set
	sureWords    = 6   // of the label, at most
	leastSmall   = 3   // small words of a language on a page that is in it
)

// sureFormat is the format of a find that is set at once: of text that takes one line, found with some confidence, with a short
// label.
func (f *finder) sureFormat(c settled, find Find) form.Format {
	if find.Format == "" || c.comb > 0 || c.multiline || c.conf < sureOfFormat || len(wordsOf(c.label.text)) > sureWords {
		return form.Format{}
	}
	language := f.language()
	comma := language != "en" && language != ""
	switch find.Format {
	case "date":
		as := form.Format{Kind: form.Date, Pattern: DatePattern(f.guideIn(c.rect))}
		if as.Pattern == "" {
			as.Pattern = dateOrders[language]
		}
		if as.Pattern == "" || as.Check() != nil {
			return form.Format{} // in which order is not known
		}
		return as
	case "time":
		return form.Format{Kind: form.Time, Pattern: "HH:MM"}
	case "money":
		as := form.Format{Kind: form.Number, Decimals: 2, Comma: comma}
		if m := currency.FindStringSubmatch(c.label.raw); m != nil && f.formatBeside(c.rect) == "" {
			as.Currency, as.After = m[2], comma
		}
		return as
	case "number":
		as := form.Format{Kind: form.Number, Comma: comma}
		if !counts(wordsOf(c.label.text)) && !loadLexicon().speaks(wordsOf(c.label.text), "things") {
			as.Decimals = 2 // a measure
		}
		return as
	case "percent":
		return form.Format{Kind: form.Percent, Comma: comma}
	}
	kind := map[string]form.FormatKind{"phone": form.Phone, "email": form.Email, "postcode": form.Postcode}[find.Format]
	return form.Format{Kind: kind}
}

// saidFormat tells what was set, in words.
func saidFormat(as form.Format) string {
	switch as.Kind {
	case form.Date:
		return "a date, " + as.Pattern
	case form.Time:
		return "a time of day"
	case form.Number:
		switch {
		case as.Currency != "":
			return "an amount in " + as.Currency
		case as.Decimals > 0:
			return "a number with decimals"
		}
		return "a whole number"
	case form.Percent:
		return "a percentage"
	case form.Phone:
		return "a telephone number"
	case form.Email:
		return "an e-mail address"
	}
	return "a postcode"
}

// Language is that of the words of pages, as ISO 639-1 has it, by its small words; empty when there are too few of them or two languages
// have as many.
func Language(pages ...*evidence.Page) string {
	hits := map[string]int{}
	for _, ev := range pages {
		if ev == nil {
			continue
		}
		for _, w := range ev.Words {
			word := strings.ToLower(strings.Trim(w.Text, ".,:;()"))
			for language, small := range loadLexicon().small {
				if small[word] {
					hits[language]++
				}
			}
		}
	}
	best, second := "", ""
	for language, n := range hits {
		switch {
		case best == "" || n > hits[best] || n == hits[best] && language < best:
			best, second = language, best
		case second == "" || n > hits[second]:
			second = language
		}
	}
	if best != "" && (hits[best] < leastSmall || second != "" && hits[second] == hits[best]) {
		best = ""
	}
	return best
}

// language is that of the words of the page.
func (f *finder) language() string {
	if f.spoken != nil {
		return *f.spoken
	}
	best := Language(f.ev)
	f.spoken = &best
	return best
}
