// Package evidence is the one model of what is really on a page: rules, boxes,
// circles, shaded areas, pictures and words, in points of the page as it is read:
// turned upright, origin lower left. [Page.ToPage] leads to page space.
//
// A [Builder] takes the marks of a page, wherever they come from (vector paths,
// glyphs, pixels, recognised words), and tidies them: a thin filled rectangle becomes the rule it
// is meant to be, pieces of one line are joined, four strokes become a box, and
// glyphs become words. Detection and the bench read the resulting [Page] and
// never know what it was made from.
package evidence
