// Package measure measures: how well fields are found on forms that nobody here
// made, how long that takes beside drawing the page, and how fast the bench
// answers an edit. Speeds are given as ratios within one run.
package measure
