package grammar

import (
	"math/rand/v2"
	"slices"
)

// The writers.
const (
	library = "library"
	browser = "browser"
	office  = "office"
)

var writers = []string{library, browser, office}

// factor is one thing in which forms differ, with its values. Values that some writer cannot
// draw are left out for it.
type factor struct {
	name   string
	values []string
	not    map[string][]string // by writer
}

// factors are independent of each other: every value goes with every other.
var factors = []factor{
	{name: "label", values: []string{"left", "left at a stop", "left, ragged", "above", "inside", "below"}},
	{
		name: "mark", values: []string{
			"rule", "dotted rule", "dashed rule", "typed dots", "underscores", "leader tab", "underlined tab", "box", "rounded box",
			"double box", "bevel", "ridge", "tint", "tint and rule", "white on tint", "ruled rows",
		},
		not: map[string][]string{
			library: {"leader tab", "underlined tab"}, browser: {"leader tab", "underlined tab"},
			office: {"rounded box", "ridge"},
		},
	},
	{name: "stroke", values: []string{"hairline grey", "fine black", "black", "heavy", "blue", "light grey"}},
	{name: "typeface", values: []string{"sans", "serif", "typewriter", "round", "narrow"}},
	{name: "size", values: []string{"7.5", "8.5", "9.5", "10.5", "12"}},
	{name: "spacing", values: []string{"tight", "snug", "normal", "roomy", "wide"}},
	{name: "columns", values: []string{"one", "two by rows", "two by columns", "three by rows", "wide and narrow"}},
	{name: "table", values: []string{"none", "grid", "rows only", "zebra", "uprights only", "row heads and total"}},
	{name: "table head", values: []string{"plain", "tinted", "reversed", "small", "with units"}},
	{name: "comb", values: []string{"none", "boxes", "ticks", "tall ticks", "apart", "dashed", "dots", "typed"}},
	{name: "comb group", values: []string{"none", "gap", "stroke", "stop", "heavy line"}},
	{
		name: "tick", values: []string{
			"square", "rounded", "circle", "heavy", "coloured", "bevel", "glyph", "brackets", "cell",
			"several shapes",
		},
		not: map[string][]string{office: {"rounded", "bevel", "circle", "several shapes"}},
	},
	{name: "tick place", values: []string{
		"before, in a row", "before, stacked", "after, in a row", "after, stacked",
		"beside the question",
	}},
	{name: "head", values: []string{"bold", "tinted bar", "reversed bar", "rule below", "thick rule above", "numbered", "framed"}},
	{name: "guide", values: []string{"none", "pattern inside", "unit behind", "example in brackets", "small print below"}},
	{name: "distractor", values: []string{
		"none", "letterhead", "filled table", "note in a frame", "price list", "small print",
		"page frame", "chart",
	}},
	{name: "language", values: []string{"en", "de", "fr", "es", "it", "nl", "pl", "pt", "sv", "el", "uk"}},
	{name: "paper", values: []string{"A4", "Letter", "A5 landscape", "A4 landscape", "Legal", "A4 turned"}, not: map[string][]string{
		browser: {"A4 turned"}, office: {"A4 turned"},
	}},
}

// draw picks a value of every factor.
func draw(rng *rand.Rand, writer string) map[string]string {
	out := map[string]string{"writer": writer}
	for _, f := range factors {
		for {
			v := f.values[rng.IntN(len(f.values))]
			if !slices.Contains(f.not[writer], v) {
				out[f.name] = v
				break
			}
		}
	}
	return out
}

// local are the factors of one sort of field; the others belong to the whole form.
var local = map[string]string{
	"label": "text", "mark": "text", "comb": "comb", "comb group": "comb", "tick": "tick", "tick place": "tick",
	"table": "cell", "table head": "cell",
}
