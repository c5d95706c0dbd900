// Package rules holds what a field accepts, how it shows it, and what it comes to. A rule
// is one value with three uses: it is evaluated here ([Check], [Session]), and compiled
// into the scripts that PDF readers run ([Compile], [Script]); a test holds the two to each
// other.
//
// The scripts use only the form functions that readers implement widely
// (AFDate_*, AFNumber_*) and plain ECMAScript (ISO 21757-1).
package rules
