// Package api holds the JSON shapes that scripts and other programs depend on:
// the output of the detect and inspect commands, and the template that build
// reads. Rectangles are [x0, y0, x1, y1] in PDF points, origin at the lower left
// corner of the visible, unrotated page.
package api
