// Package command is everything that a person or a program can do to a draft.
//
// A command is data: a value with a JSON name, such as
//
//	{"do": "set", "fields": ["arrival"], "key": "format", "value": "date"}
//
// The bench, the command line and programs send the same ones. A [Desk] holds what they work on:
// the draft, what is printed on its pages, the house style. [Desk.Do] carries one or several out
// and gives one edit, or an error that says what to do; the draft itself is not changed. Several
// commands are all or nothing.
//
// Fields are named by id, or by their name, which stands for all buttons of a group and all places
// of a field. Pages are named by id or number. Lengths and places are points of the page, origin at
// the lower left corner of the visible, unrotated page, unless a command says that it counts as the
// page is shown.
//
// Adding a command is a type with a plan method, and a line in the table of names.
package command
