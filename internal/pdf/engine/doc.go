// Package engine is PDFium, compiled to WebAssembly and run inside the process, and nothing of it shows
// outside: [Open] gives a [Doc] whose pages can be drawn, read as evidence, and whose widgets can be
// read back. The engines are a pool; a document must be closed. Hostile files stay in the sandbox.
package engine
