package detect

import (
	"regexp"
	"strings"
)

// What names and labels mean beyond the finding of fields; the words stand in the lexicon.

// counted is a name that ends in a number, plain or in brackets.
var counted = regexp.MustCompile(`^([\p{L}]+)[ _-]?\d*(\[\d+\])?$`)

// Nameless tells whether a name says nothing of its field: the word for a kind of field, and perhaps
// a number.
func Nameless(name string) bool {
	m := counted.FindStringSubmatch(strings.ToLower(name))
	return m != nil && loadLexicon().is(m[1], "nameless")
}

// MayFollowSignature tells whether a field with these texts may well come after a signature: it is for
// the office, or it is the date or the place of signing.
func MayFollowSignature(texts ...string) bool {
	l := loadLexicon()
	ws := wordsOf(clean(strings.ReplaceAll(strings.Join(texts, " "), "_", " ")))
	for _, sense := range []string{"office", "date", "place"} {
		if l.speaks(ws, sense) {
			return true
		}
	}
	return false
}
