// Package look draws what a field shows: the text of an answer, marks, borders, buttons (ISO 32000-2,
// 12.5.5 and 12.7.4.3), and brings the fonts for it into a file, each once ([Kit]).
package look
