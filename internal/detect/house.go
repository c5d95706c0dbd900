package detect

import (
	"strings"

	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/form"
)

// HouseWord is what the office calls a wording: the name, kind and format that a field
// with that label gets. Empty parts are left to detection.
type HouseWord struct {
	Wording string        // as printed
	Name    string        // lower_snake
	Kind    form.Kind     // empty, or the kind
	Lines   bool          // several lines, with the kind text
	Format  string        // see formatOf
	Options []form.Option // of a list
}

// HouseWords is the office's dictionary, by [Wording].
type HouseWords map[string]HouseWord

// Wording is how a label is looked up: its words in lower case, without marks.
func Wording(label string) string { return strings.Join(wordsOf(clean(label)), " ") }

// NewHouseWords makes a dictionary; later words count before earlier ones.
func NewHouseWords(words []HouseWord) HouseWords {
	out := HouseWords{}
	for _, w := range words {
		if k := Wording(w.Wording); k != "" {
			out[k] = w
		}
	}
	return out
}

// PageWith finds the fields of one page like [Page], and calls them as the office does.
func PageWith(ev *evidence.Page, house HouseWords) []Find {
	finds := Page(ev)
	if len(house) == 0 {
		return finds
	}
	changed := false
	for i := range finds {
		f := &finds[i]
		w, ok := house[Wording(f.Label)]
		if f.Kind == form.Radio {
			w, ok = house[Wording(f.Group)]
		}
		if !ok {
			continue
		}
		w.apply(f)
		changed = true
	}
	if changed {
		nameAll(finds)
	}
	return finds
}

// plainFormat is a format as the office names it, without what a page would add.
func plainFormat(name string) form.Format {
	return map[string]form.Format{
		"date": {Kind: form.Date, Pattern: "dd.mm.yyyy"}, "time": {Kind: form.Time, Pattern: "HH:MM"},
		"number": {Kind: form.Number}, "money": {Kind: form.Number, Decimals: 2}, "percent": {Kind: form.Percent},
		"phone": {Kind: form.Phone}, "email": {Kind: form.Email}, "postcode": {Kind: form.Postcode},
	}[name]
}

// apply gives a find what the office has said of its wording.
func (w HouseWord) apply(f *Find) {
	var said []string
	if w.Name != "" {
		f.Name = w.Name
		said = append(said, "called "+w.Name)
	}
	boxy := f.Kind == form.CheckBox || f.Kind == form.Radio
	if w.Kind != "" && (w.Kind == form.CheckBox || w.Kind == form.Radio) == boxy && (w.Kind != f.Kind || w.Lines != f.Multiline) {
		if f.Kind == form.Radio && w.Kind == form.CheckBox {
			f.Group, f.Export = "", ""
		}
		f.Kind = w.Kind
		f.Multiline = w.Lines
		f.Options = w.Options
		if f.Kind != form.Text {
			f.Format, f.As = "", form.Format{}
		}
		if f.Kind != form.Text || f.Multiline {
			f.Comb = 0
		}
		said = append(said, "a "+string(w.Kind))
	}
	if w.Format != "" && f.Kind == form.Text {
		f.Format = w.Format
		if said := plainFormat(w.Format); f.As.Kind != said.Kind { // else the page adds to it
			f.As = form.Format{}
			if f.Comb == 0 && !f.Multiline {
				f.As = said
			}
		}
		said = append(said, w.Format)
	}
	if len(said) > 0 {
		f.Evidence += "; a house word: " + strings.Join(said, ", ")
	}
}
