package roster

import (
	"slices"
	"strings"
	"unicode"
)

// wordings are what the usual columns of people records are called, on forms and in tables (common practice, no source): those of German,
// French and Dutch forms among them. Small words and signs are left out of account.
var wordings = map[string][]string{
	KeyColumn: {
		"number", "customer number", "customer no", "member number", "member no", "account number", "kundennummer",
		"person number",
	},
	NameColumn: {
		"name", "full name", "name applicant", "applicant", "name owner", "owner", "applicant name", "owner name",
		"nom", "naam",
	},
	"given_name": {
		"given name", "given names", "first name", "first names", "forename", "christian name", "vorname", "prenom",
		"voornaam",
	},
	"family_name": {"family name", "surname", "last name", "nachname", "familienname", "achternaam", "nom famille"},
	"birth_date": {
		"birth date", "date birth", "born", "birthday", "date of birth", "geburtsdatum", "geboren", "date naissance",
		"geboortedatum",
	},
	"street":    {"street", "street number", "address line 1", "strasse", "straße", "rue", "straat", "street house number"},
	"address":   {"address", "postal address", "home address", "anschrift", "adresse", "adres"},
	"postcode":  {"postcode", "postal code", "zip", "zip code", "plz", "code postal"},
	"town":      {"town", "city", "place", "ort", "wohnort", "ville", "plaats", "town city"},
	"country":   {"country", "land", "pays"},
	MailColumn:  {"email", "e mail", "email address", "e mail address", "courriel"},
	"telephone": {"telephone", "phone", "telephone number", "phone number", "tel", "mobile", "telefon", "telefoon"},
	"vessel_name": {
		"vessel name", "name vessel", "vessel", "boat name", "name boat", "name yacht", "yacht name", "craft name",
		"schiffsname",
	},
	"registry_port": {"registry port", "port registry", "home port", "port of registry", "heimathafen"},
	"registration":  {"registration", "registration no", "registration number", "sail number", "sail no"},
	"length":        {"length", "length overall", "loa", "length overall m", "length m"},
	"beam":          {"beam", "beam m", "width m"},
	"draught":       {"draught", "draft", "draught m", "draft m"},
	"insurer":       {"insurer", "insured with", "insurance company", "insured", "versicherung"},
	"policy":        {"policy", "policy no", "policy number"},
	"berth":         {"berth", "berth no", "berth number", "mooring"},
}

// asked are sources that forms ask for by these words.
var asked = map[string][]string{
	"today":   {"date", "todays date", "datum", "date signature", "date signed"},
	"edition": {"edition", "edition no", "edition number", "form edition"},
	"serial":  {"serial no", "serial number", "running no", "running number"},
}

var small = []string{
	"of", "the", "your", "des", "der", "die", "das", "du", "de", "la", "le", "van", "het", "and", "a", "an", "his", "her", "please",
}

// plain is a wording without signs, small words and what stands in brackets.
func plain(s string) string {
	if i := strings.IndexByte(s, '('); i > 0 {
		s = s[:i]
	}
	s = strings.ReplaceAll(strings.ToLower(s), "'", "")
	words := strings.FieldsFunc(strings.ReplaceAll(s, "’", ""), func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) })
	words = slices.DeleteFunc(words, func(w string) bool { return slices.Contains(small, w) })
	return strings.Join(words, " ")
}

// known gives the usual key for a wording; empty when it is none of them.
func known(s string) string { return among(wordings, s) }

func among(list map[string][]string, s string) string {
	p := plain(s)
	if p == "" {
		return ""
	}
	for key, words := range list {
		if p == strings.ReplaceAll(key, "_", " ") {
			return key
		}
		for _, w := range words {
			if plain(w) == p {
				return key
			}
		}
	}
	return ""
}
