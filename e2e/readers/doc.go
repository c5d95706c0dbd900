// Package readers tries what the application writes in readers that share no code with it: Chromium's viewer, pdf.js, mutool, poppler
// and qpdf. One form has everything ([Specimen]); each property of it is tried in each reader ([Properties], [Try]); what comes of it is
// the table that [Markdown] writes and docs/readers.md holds.
package readers
