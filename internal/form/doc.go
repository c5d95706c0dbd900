// Package form is the model of a fillable form: its pages, its fields, and the
// edits that change them.
//
// A [Template] is a set of field rows over the pages of a document. It changes
// only through an [Edit], which is data: the rows before and the rows after. An
// edit can be kept in a journal, undone and redone by swapping its sides, and
// compared with another person's edit. The methods that start with a verb
// (Place, Move, Rename ...) work out an edit and change nothing; [Template.Apply]
// carries one out. [Template.Settled] adds what follows from an edit: of a radio group one button is on.
//
// What is known of a property of a field, a page, the document, a step, a check or an option stands in
// one row of a registry ([FieldProperties], [PageProperties] ...): its key, its JSON name, the kinds that
// have it, how it is read from words and written as words, and its sentence. Notes, styles, commands,
// comparison and the proof of what was written all go by the rows.
//
// Terms follow ISO 32000-2, 12.7 (forms) and 12.5.6.19 (widget annotations).
package form
