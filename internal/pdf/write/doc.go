// Package write turns a draft into a PDF file. [Base] gives the file that the fields are written into:
// the one that was brought in, or one put together of pages. [Build] and [Release] write the fields
// behind it as an increment: new ones with their appearances, scripts and actions; those that the file
// brought are changed only where the draft differs from them.
package write
