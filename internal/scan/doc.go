// Package scan measures and mends pictures of paper: how far a page is askew, how
// it lies, where its edges are on a photograph, uneven light and speckle. It works
// on pixels alone and knows no file formats.
//
// Coordinates are pixels, origin upper left, y downwards. Angles are degrees,
// clockwise positive as the picture is seen.
package scan
