// Package geom holds the plane geometry that every other room shares: points,
// rectangles, affine transforms, and the turn of a page.
//
// Lengths are PDF points (1/72 inch). Unless a function says otherwise the
// origin is the lower left corner of the unrotated page, x grows to the right
// and y grows upwards, as in ISO 32000-2, 8.3.2.
//
// A [Rect] is two corners; [R] makes one of corners in any order. A [Matrix] takes points of one space
// to another and is applied from left to right: a.Then(b) is first a, then b. Pages are shown turned;
// [ToView] takes page space to the page as shown, with y downwards, and [FromView] leads back.
package geom
