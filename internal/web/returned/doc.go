// Package returned is the room of what came back of a form: the table of returns over all its editions, one of them beside its page, what
// can be seen in their numbers, and the ways in which they are taken out.
package returned
