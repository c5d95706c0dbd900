// Package house is the screens of what belongs to the office as a whole: its words, its style, its
// favourites, and pictures for buttons.
package house
