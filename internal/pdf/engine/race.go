//go:build race

package engine

// watched is how many times as much memory a process takes that notes who reads and writes what (the race detector of Go: five to ten
// times, by its own manual; the engine's was measured as three).
const watched = 4
