// Package sheets draws forms of many styles together with the truth about them: which
// fields a careful person would place, where, of which kind, and what they are called.
// They are for measuring detection. Everything is drawn by code, from a seed.
package sheets
