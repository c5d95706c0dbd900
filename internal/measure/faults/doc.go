// Package faults puts faults into written forms on purpose, and sees whether they are noticed.
//
// For every property in the registry of package form and every kind of field that has it, a form is
// written twice: with the property, and without. Where the two files differ is where the property
// stands. Each of these places in the file that has the property is then changed, one at a time: to
// what it is without it, to something else, or away. What comes out is a file that says something
// else than the draft. The proof must notice it and name the field; a document that is brought in
// must show it.
package faults
