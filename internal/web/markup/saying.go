package markup

import (
	"cmp"
	"html/template"
	"slices"

	"zealousmargin.example/internal/form"
)

// Saying is a sentence with a blank in it, or a part of one.
type Saying struct {
	Key     string // what the blank sets; empty is a sentence without one
	ID      string // of the blank
	Before  string // the words before the blank
	After   string
	Value   string
	Choices []form.Offer // none is typed
	Colour  bool
	Mixed   bool   // the fields that it is said of differ
	Stop    string // what ends it: a full stop, or a comma where the next goes on
	Empty   string // what an empty blank shows
	Formula bool   // the blank takes a formula
	List    string // of suggestions, by the id of a datalist
	Style   bool   // it is part of a style
	Fields  bool   // the blank takes names of fields, which can be chosen and pointed at
}

// Sentences writes sayings one after the other.
func (b *Builder) Sentences(list []Saying) *Builder {
	for i := range list {
		b.Say(&list[i])
		b.Text(" ")
	}
	return b
}

// HTML is the sentence with its blank.
func (s Saying) HTML() template.HTML {
	var b Builder
	b.Say(&s)
	return b.HTML()
}

// Say writes a sentence.
func (b *Builder) Say(s *Saying) {
	b.Open("span", "class", "saying").Text(s.Before, " ")
	switch {
	case s.Key == "":
	case s.Choices != nil:
		b.choices(s)
	default:
		b.blank(s)
	}
	if s.After != "" {
		b.Text(" ", s.After)
	}
	b.Text(s.Stop)
	if s.Colour {
		b.Close("span")
	}
	b.Close("span")
}

func (b *Builder) blank(s *Saying) {
	if s.Colour {
		b.Open("span", "class", "together")
	}
	class, empty := "blank", cmp.Or(s.Empty, "nothing")
	if s.Value == "" {
		class = "blank off"
	}
	switch {
	case s.Mixed:
		empty = "mixed"
	case s.Colour && s.Empty == "":
		empty = "none"
	}
	attributes := slices.Concat([]string{
		"class", class, "id", s.ID, "data-key", s.Key, "value", s.Value, "aria-label", s.Before + " " + s.After,
		"placeholder", empty, "autocomplete", "off", "spellcheck", "false",
	}, when(s.Formula, "list", "formula-fields", "data-formula", ""), when(s.List != "", "list", s.List))
	b.Open("input", attributes...)
	if s.Fields {
		b.Text(" ").Open("select", "class", "blank off", "id", s.ID+"-more", "data-more-of", s.ID, "aria-label", "Choose one more field").
			Element("option", "one more", "value", "").Close("select").Text(" ")
		b.Element("button", "point at them", "class", "link pointat", "data-point", s.ID, "title",
			"Press the fields on the page, one after the other; Enter keeps them")
	}
	if s.Colour {
		b.Open("input", "type", "color", "class", "swatch", "value", cmp.Or(s.Value, "#ffffff"), "data-for", s.ID, "aria-label",
			"Pick: "+s.Before, "tabindex", "-1")
	}
}

func (b *Builder) choices(s *Saying) {
	class := "blank"
	if s.Mixed {
		class = "blank off"
	}
	b.Open("select", "class", class, "id", s.ID, "data-key", s.Key, "aria-label", s.Before)
	if s.Mixed {
		b.Element("option", "mixed", "value", "", "selected", "", "disabled", "")
	}
	for _, c := range s.Choices {
		b.Element("option", c.Words, append([]string{"value", c.Value}, when(!s.Mixed && c.Value == s.Value, "selected", "")...)...)
	}
	b.Close("select")
}

// Link writes a button that looks like a link; Set is what it sets, to Value.
func (b *Builder) Link(words, set, value string, more ...string) {
	b.Element("button", words, append([]string{"class", "link", "data-set", set, "data-value", value}, more...)...)
	b.Text(" ")
}

// Choose writes the choice of a saying without its words; label is what it is called by those who
// hear it.
func (b *Builder) Choose(s *Saying, label string) {
	one := *s
	one.Before = label
	b.choices(&one)
}
