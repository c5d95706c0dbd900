// Package engine has PDF files opened by PDFium in processes of their own, each of which can be stopped at any time and has a limit of
// memory: [Use] gives a [Doc] whose pages can be drawn, read as evidence, and whose widgets can be read back. The processes are the
// running program itself, started once more; they wait for the next file, and one that was stopped is replaced.
package engine
