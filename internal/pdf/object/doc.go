// Package object parses PDF files and writes changes to them as increments (ISO 32000-2, 7.5.6): the
// original bytes stay as they are, the change is appended.
//
// A [File] reads objects with the accessors of their kinds ([File.Dict], [File.Name], [File.Text] ...),
// which give the zero value where a file says something else than it should. What is changed is marked
// with [File.Touch], or made with [File.Add]; [File.Increment] writes it. Names are kept decoded and are
// encoded when they are written (7.3.5).
package object
