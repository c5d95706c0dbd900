// Package simulate makes scans and photographs with known faults from clean
// pictures of pages: for the stand-in scanner, for tests and for measurements.
// Everything is drawn from a seed, so that the same call gives the same picture.
package simulate
