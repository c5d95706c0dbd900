package web

import (
	"golang.org/x/text/collate"
	tag "golang.org/x/text/language"
)

// alphabet compares words as a dictionary does: by the Unicode Collation Algorithm (UTS #10).
func alphabet() func(a, b string) int {
	c := collate.New(tag.Und, collate.IgnoreCase)
	return c.CompareString
}
