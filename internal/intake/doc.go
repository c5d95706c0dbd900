// Package intake turns what lies on the desk into a document to work on: PDF files,
// pictures and photographs of paper, word-processor files, plain text and Markdown.
// Scans are made ready (upright, straight, clean) and their text recognised. The
// limits, and the reasons for refusal, are here.
//
// LibreOffice and Tesseract run as processes of their own, within limits of time and
// memory and off the network; everything else happens in this program.
package intake
