// Package bench is the working view of a document: the page between its order margin and its notes
// margin, the finds, the list of fields, and the steps that were done.
package bench
