package detect

import (
	"slices"
	"strings"
	"unicode"

	"golang.org/x/text/unicode/norm"

	"zealousmargin.example/internal/form"
)

// Words that add nothing to a name. English, German, French and Spanish; from
// general knowledge of the languages, no source.
var stopWords = wordSet(`a an the of or and in on at to for from by with as is are be if it its this that these those
your you my our their his her please enter write print type see do does did not no. any all use only block capitals letters
der die das des dem den ein eine und oder für von mit im am zu bitte in ist sind
le la les un une des du de et ou pour par avec sur au aux votre vos veuillez
el los las una y o para por con su sus del`)

// Wording that asks for a format or a kind, as word stems looked for in the label.
var (
	dateWords      = wordSet("date dated birthday datum geburtsdatum fecha jour geboren dob")
	phoneWords     = wordSet("telephone phone tel mobile fax telefon handy téléphone teléfono mobil")
	emailWords     = wordSet("email e-mail mail courriel correo")
	numberWords    = wordSet("amount total sum number quantity qty price cost fee betrag anzahl summe preis montant nombre cantidad importe length width beam draught height weight")
	signatureWords = wordSet("signature signed sign unterschrift firma signatur")
)

func wordSet(s string) map[string]bool {
	m := map[string]bool{}
	for _, w := range strings.Fields(s) {
		m[w] = true
	}
	return m
}

// wordsOf splits a label into lower-case words without marks.
func wordsOf(s string) []string {
	return strings.FieldsFunc(strings.ToLower(s), func(r rune) bool {
		return !unicode.IsLetter(r) && !unicode.IsDigit(r) && r != '-' && r != '\'' && r != '’'
	})
}

func has(label string, set map[string]bool) bool {
	return slices.ContainsFunc(wordsOf(label), func(w string) bool { return set[w] })
}

// formatOf tells what a label asks for: "date", "phone", "email", "number" or nothing.
func formatOf(label string) string {
	switch {
	case has(label, emailWords):
		return "email"
	case has(label, phoneWords):
		return "phone"
	case has(label, dateWords):
		return "date"
	case has(label, numberWords) && !strings.Contains(strings.ToLower(label), "number of vessel") && !isIdentity(label):
		return "number"
	}
	return ""
}

// isIdentity tells whether "number" in a label means a mark that identifies
// something and may have letters or leading zeros, not a quantity.
func isIdentity(label string) bool {
	ws := wordsOf(label)
	if !slices.Contains(ws, "number") {
		return false
	}
	i := slices.Index(ws, "number")
	return i+1 >= len(ws) || ws[i+1] != "of"
}

// isSignature tells whether the words ask for a signature, not merely speak of one.
func isSignature(label string) bool {
	ws := wordsOf(label)
	if len(ws) > 9 || has(label, dateWords) {
		return false
	}
	for i, w := range ws {
		if signatureWords[w] && w != "sign" && w != "signed" {
			return true
		}
		if w == "sign" && i+1 < len(ws) && ws[i+1] == "here" {
			return true
		}
	}
	return false
}

// maxNameWords keeps names short enough to read in a list.
const maxNameWords = 5

// nameFrom makes a short lower_snake name of a label.
func nameFrom(l label) string {
	words := significant(l.text, maxNameWords)
	if len(words) == 1 { // "wanted from" says more than "wanted"
		if all := wordsOf(l.text); len(all) == 2 || len(all) == 3 {
			words = nil
			for _, w := range all {
				if w = ascii(strings.Trim(w, "-'’")); w != "" {
					words = append(words, w)
				}
			}
		}
	}
	if l.row != "" {
		row := significant(l.row, 3)
		head := significant(l.text, 3)
		words = append(row, head...)
	}
	if len(words) == 0 {
		return ""
	}
	return strings.Join(words, "_")
}

func significant(s string, most int) []string {
	var out []string
	if i := strings.IndexAny(s, ".;("); i > 8 { // the first sentence says what it is
		s = s[:i]
	}
	for _, w := range wordsOf(s) {
		w = ascii(strings.Trim(w, "-'’"))
		if w == "" || stopWords[w] || len(w) == 1 && !unicode.IsDigit(rune(w[0])) {
			continue
		}
		out = append(out, w)
		if len(out) == most {
			break
		}
	}
	if len(out) == 0 && len(s) > 0 { // nothing but small words: they must do
		for _, w := range wordsOf(s) {
			if w = ascii(strings.Trim(w, "-'’")); w != "" && len(out) < most {
				out = append(out, w)
			}
		}
	}
	return out
}

// unusual letters have no base letter in Unicode's decomposition.
var unusual = strings.NewReplacer("ß", "ss", "ø", "o", "ł", "l", "æ", "ae", "œ", "oe", "'", "", "’", "")

// ascii folds letters to a-z, 0-9 and underscores, which every reader and every
// script can address.
func ascii(s string) string {
	s = unusual.Replace(s)
	var b strings.Builder
	for _, r := range norm.NFD.String(s) {
		switch {
		case r >= 'a' && r <= 'z', r >= '0' && r <= '9':
			b.WriteRune(r)
		case r == '-':
			b.WriteByte('_')
		}
	}
	return strings.Trim(b.String(), "_")
}

// tooltip is the label as a person would say it.
func tooltip(l label) string {
	t := l.text
	if l.row != "" && l.row != l.text {
		t = l.row + ": " + l.text
	}
	t = shorten(t, 180)
	if r := []rune(t); len(r) > 0 && unicode.IsLower(r[0]) {
		r[0] = unicode.ToUpper(r[0])
		t = string(r)
	}
	return t
}

// nameAll gives every find a name of its own, in reading order.
func nameAll(finds []Find) {
	taken := map[string]bool{}
	for i := range finds {
		f := &finds[i]
		base := f.Name
		if base == "" {
			base = map[form.Kind]string{form.CheckBox: "tick", form.Signature: "signature"}[f.Kind]
			if base == "" {
				base = "field"
			}
			base += "_1"
		}
		if base[0] >= '0' && base[0] <= '9' {
			base = "n" + base
		}
		f.Name = form.FreeName(base, taken)
		taken[f.Name] = true
	}
}

// NameOf makes a field name of any words: short, lower_snake, in letters and figures
// that every reader can address. It is empty when the words have none.
func NameOf(words string) string {
	spaced := strings.Map(func(r rune) rune {
		if r == '_' || r == '.' {
			return ' '
		}
		return r
	}, words)
	name := strings.Join(significant(spaced, maxNameWords), "_")
	if name != "" && name[0] >= '0' && name[0] <= '9' {
		name = "n" + name
	}
	return name
}
