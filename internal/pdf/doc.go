// Package pdf is the only room that knows PDF syntax. It reads pages and fields,
// renders, turns page content into evidence, writes fields with their
// appearances, fills and flattens.
//
// Two libraries share the work. PDFium, compiled to WebAssembly and run inside
// the process, opens, draws and reads ([Open]); hostile files stay in its
// sandbox. pdfcpu parses the objects that are changed, and what is written is an
// incremental update (ISO 32000-2, 7.5.6): the original bytes stay as they are,
// the change is appended.
//
// Coordinates at this package's border are page space: points, origin at the
// lower left corner of the visible, unrotated page (the crop box). Inside a file
// they are user space, which differs by the crop box's origin.
package pdf
