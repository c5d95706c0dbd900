// Package notes says what fields do, as sentences whose blanks are changed in place. The properties
// and their words are those of the registry in package form; what stands here is how sentences of
// several parts (formats, checks, steps) are put together.
package notes
