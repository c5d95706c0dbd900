// Package snags looks for what is wrong or risky in a form before it is released. Every snag
// names its place and its reason; where a mend is safe, it comes as an edit.
//
// [Find] looks through the draft by itself and, on the pages whose evidence it is given, holds it to what
// is printed. A check is a method of desk that says what it found; [Mend] carries out the mend of one
// snag by its key.
package snags
