//go:build !race

package engine

// watched is how many times as much memory a process takes that notes who reads and writes what: this one does not.
const watched = 1
