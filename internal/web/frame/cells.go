package frame

import "strings"

// sparks are the signs with which a cell begins that a spreadsheet takes for a formula.
const sparks = "=+-@\t\r"

// Defused writes a cell of a table so that no spreadsheet takes it for a formula: an apostrophe stands before it (OWASP, CSV injection).
// [Plainly] reads it back.
func Defused(s string) string {
	if s != "" && strings.ContainsAny(s[:1], sparks) {
		return "'" + s
	}
	return s
}

// Plainly is a cell as it was before [Defused].
func Plainly(s string) string {
	if len(s) > 1 && s[0] == '\'' && strings.ContainsAny(s[1:2], sparks) {
		return s[1:]
	}
	return s
}
