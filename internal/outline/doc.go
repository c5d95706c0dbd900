// Package outline finds the logical structure of pages that say nothing of it themselves: which lines are headings, paragraphs, items of
// lists and cells of tables, and in which order they are read, with the fields among them ([Page]). It goes by where the lines stand and
// how large their type is. How a file says all that is not its concern.
package outline
