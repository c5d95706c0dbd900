// Package markup is the only place outside the templates that makes HTML and SVG. Shapes, closed
// notes, sentences and live controls are most of what an edit answers with, a hundred and fifty
// times on a full page, and a template takes ten times as long for them.
//
// A [Builder] escapes everything that it is given: there is no way to put text past it.
package markup
