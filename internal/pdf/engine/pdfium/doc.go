// Package pdfium opens PDF files with PDFium, compiled to WebAssembly: pages can be drawn, read as evidence, and their widgets read back.
// PDFium can neither be stopped nor held from inside: package engine runs this in processes of their own, and nothing else uses it.
package pdfium
