// Package pdf is where PDF syntax is known; its rooms are the only ones that know it.
//
// object parses a file and writes what was changed as an increment behind the original bytes
// (ISO 32000-2, 7.5.6). engine is PDFium, compiled to WebAssembly and run inside the process: it
// opens, draws, and turns page content into evidence; hostile files stay in its sandbox. read turns
// what a file has into rows of a draft. look draws appearances and embeds fonts. write turns a draft
// into a file, fill fills and flattens. proof opens what was written once more and compares it with
// the draft; it shares no code with write and look.
//
// Coordinates at the border of these rooms are page space: points, origin at the lower left corner of
// the visible, unrotated page (the crop box). Inside a file they are user space, which differs by the
// crop box's origin.
package pdf
