// Package arrange puts fields into an order and lays out what stands beside them.
//
// [Order] gives the tab order of a page by rows, by columns, or by structure: blocks of fields one after
// the other, the columns of a block one after the other. [Jumps] tells where an order does not lead on as
// people read. [LineUp] gives rectangles that are aligned, spread or made alike, and [Beads] the places of
// the beads of the tab order beside a page.
package arrange
