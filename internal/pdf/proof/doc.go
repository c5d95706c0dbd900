// Package proof opens a form that was written and compares it with the draft that it was written
// from.
//
// It shares no code with the writer: it reads the file with PDFium, and with a small reader of its
// own (syntax.go), and it imports neither package write nor package look; a test holds this. What it
// expects comes from the draft alone. For every property in the registry of package form that a file
// tells, there is a claim (claims.go) that says what the file says and what the draft says; a test
// fails when one is missing. That the claims see what they should is shown by mutations: files that
// were changed on purpose, each of which must be named.
package proof
