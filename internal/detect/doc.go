// Package detect turns the evidence on a page into finds: proposed fields, each
// with a kind, a name and a tooltip from its printed label, a confidence, and the
// evidence for it in words.
//
// The work goes in four steps. Candidates are areas to write in: check boxes,
// the slots that horizontal rules make together with the uprights that stand on
// them, white areas on tinted ground, runs of underscores or dots. Labels are
// then sought for every candidate inside, left, right, above and below it. What
// has the looks of something else (underlined words, filled tables, ornaments) is
// given up or doubted. Last, overlapping candidates are settled and names made
// unique.
//
// Thresholds are in points and come from measuring printed forms unless a
// comment names a source.
package detect
