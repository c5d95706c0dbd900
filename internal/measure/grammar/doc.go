// Package grammar makes forms that nobody has tuned to: each is drawn at random from independent
// factors (where labels stand, what marks the place to write, lines, type, columns, tables, boxes
// to tick, heads, guide text, distractors, language, paper) and written by one of three programs that share
// no code: a PDF library, a browser that prints HTML, and a word processor that opens DOCX.
//
// The places to write in are known by construction for the library. The other two get every form
// a second time with a colour of its own behind each place, and where the colours lie is read from their PDF
// by a reader that finding does not use.
//
// A seed and a number make the same form again on every machine with the same programs.
package grammar
