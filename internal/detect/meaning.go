package detect

import (
	"regexp"
	"strings"
	"unicode"
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

// isPattern tells whether a word is guide text with letters in it.
func isPattern(word string) bool {
	return strings.ContainsFunc(word, unicode.IsLetter) && IsGuide(word)
}

// noteWords is how many words a sentence has at least that is no label.
const noteWords = 10

// note tells whether words are sentences rather than a label: many, with a stop between or after them.
func note(words string) bool {
	words = strings.TrimSpace(words)
	return len(strings.Fields(words)) >= noteWords && (strings.HasSuffix(words, ".") || strings.Contains(words, ". "))
}

// IsGuide tells whether a word is printed to be written over: the letters of a pattern such as
// DD.MM.YYYY or TT MM JJJJ, each at least twice, or the strokes between its parts (common practice, no source).
func IsGuide(word string) bool {
	if word != "" && isStroke(word) {
		return true
	}
	runs := 0
	for _, part := range strings.FieldsFunc(word, func(r rune) bool { return strings.ContainsRune("./-–| ", r) }) {
		runes := []rune(part)
		for i := 0; i < len(runes); {
			j := i + 1
			for j < len(runes) && runes[j] == runes[i] {
				j++
			}
			if j-i < 2 || !unicode.IsLetter(runes[i]) {
				return false
			}
			runs, i = runs+1, j
		}
	}
	return runs > 0
}
