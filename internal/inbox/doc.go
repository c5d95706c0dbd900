// Package inbox reads what comes back: it tells to which edition of a form answers belong, by the file or by their names, makes them
// answers of its questions, and holds them to its rules. It keeps nothing itself.
package inbox
