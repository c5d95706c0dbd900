package rules

import (
	"fmt"
	"strings"
)

// numerals are numbers as people write them.
var numerals = []string{"no", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve"}

// signWords are the signs of a mask that stand for themselves, in words.
var signWords = map[rune]string{
	'-': "a hyphen", ' ': "a space", '/': "a slash", '.': "a full stop", ',': "a comma", ':': "a colon", '(': "a bracket",
	')': "a closing bracket", '+': "a plus sign", '_': "an underscore",
}

// MaskWords says what a mask asks for in words for who fills in, with an example: "two letters, a hyphen and three digits, such as
// AB-123".
func MaskWords(pattern string) string {
	var parts []string
	var example strings.Builder
	signs := []rune(pattern)
	digits, letters := 0, 0 // of the example
	for i := 0; i < len(signs); {
		k := i
		for k < len(signs) && signs[k] == signs[i] {
			k++
		}
		run := k - i
		switch signs[i] {
		case '#':
			parts = append(parts, counted(run, "digit"))
		case '@':
			parts = append(parts, counted(run, "letter"))
		case '?':
			parts = append(parts, counted(run, "sign")+" of any kind")
		default:
			said := signWords[signs[i]]
			if k = i + 1; said == "" { // a word of signs that have no name
				for k < len(signs) && !strings.ContainsRune("#@?", signs[k]) && signWords[signs[k]] == "" {
					k++
				}
				said = "“" + string(signs[i:k]) + "”"
			}
			parts = append(parts, said)
		}
		for _, s := range signs[i:k] {
			switch s {
			case '#':
				digits++
				example.WriteByte(byte('0' + digits%10))
			case '@', '?':
				example.WriteByte(byte('A' + letters%26))
				letters++
			default:
				example.WriteRune(s)
			}
		}
		i = k
	}
	said := strings.Join(parts, ", ")
	if last := len(parts) - 1; last > 0 {
		said = strings.Join(parts[:last], ", ") + " and " + parts[last]
	}
	return said + ", such as " + example.String()
}

// counted is a number of things in words.
func counted(n int, what string) string {
	if n > 1 {
		what += "s"
	}
	if n < len(numerals) {
		return numerals[n] + " " + what
	}
	return fmt.Sprint(n, " ", what)
}
