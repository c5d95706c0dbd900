package notes

import (
	"html/template"
	"slices"
	"unicode"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/rules"
	"zealousmargin.example/internal/web/markup"
)

// Group is a run of sentences under one heading: what is special, and what is as every new field has
// it, which folds into one line.
type Group struct {
	Key, Title string
	Say, Usual []markup.Saying
}

// HTML is the sentences of the group.
func (g Group) HTML() template.HTML {
	var b markup.Builder
	if len(g.Say) == 0 {
		return b.Sentences(g.Usual).HTML()
	}
	b.Sentences(g.Say)
	usual(&b, g.Key, g.Usual)
	return b.HTML()
}

// usual folds sentences that say nothing special into one line.
func usual(b *markup.Builder, key string, say []markup.Saying) {
	if len(say) == 0 {
		return
	}
	b.Open("details", "class", "more usual", "data-more", key+"-usual").Element("summary", "all else as usual").Open("div", "class", "u")
	b.Sentences(say)
	b.Close("div", "details")
}

// sayingOf is the sentence of a property of a field, with a blank of its own for the owner.
func sayingOf(owner string, p *form.Property[form.Field], f *form.Field) markup.Saying {
	s := markup.Saying{
		Key: p.Key, ID: "b-" + owner + "-" + p.Key, Before: p.Before, After: p.After, Value: p.Get(f), Choices: p.Offers(f),
		Colour: p.Type == form.AsColour, Style: p.Style, Formula: p.Group == form.OfRules, Empty: p.Plainly,
	}
	if p.Plainly != "" && p.Plain(f) {
		s.Value = ""
	}
	return s
}

// about is the sentence of a property of several fields; they may differ.
func about(owner string, p *form.Property[form.Field], fields []form.Field) markup.Saying {
	s := sayingOf(owner, p, &fields[0])
	for i := range fields[1:] {
		s.Mixed = s.Mixed || !p.Same(&fields[0], &fields[i+1])
	}
	if s.Mixed {
		s.Value = ""
	}
	return s
}

// Property is the sentence of one property of several fields, which begins with other words.
func Property(owner, key, before, stop string, fields []form.Field) markup.Saying {
	p, ok := form.PropertyOf(form.FieldProperties, key)
	if !ok {
		return markup.Saying{}
	}
	s := about(owner, p, fields)
	s.Before, s.Stop = before, stop
	if s.Formula {
		s.Empty = "always"
	}
	return s
}

// Groups gives what can be said of fields beyond the first sentences of a note: what every one of
// them has.
func Groups(owner string, fields []form.Field) []Group {
	var out []Group
	for _, h := range form.Headings {
		g := Group{Key: h.Key, Title: h.Title}
		for i := range form.FieldProperties {
			p := &form.FieldProperties[i]
			if p.Group != h.Key || slices.ContainsFunc(fields, func(f form.Field) bool { return !p.Has(f.Kind) || !p.Says(&f) }) {
				continue
			}
			if s := about(owner, p, fields); !s.Mixed && p.Plain(&fields[0]) {
				g.Usual = append(g.Usual, s)
			} else {
				g.Say = append(g.Say, s)
			}
		}
		if len(g.Say)+len(g.Usual) > 0 {
			join(g.Say)
			join(g.Usual)
			out = append(out, g)
		}
	}
	return out
}

// join makes sentences of parts: one that begins with a small letter goes on from the one before.
func join(say []markup.Saying) {
	if len(say) == 0 {
		return
	}
	if r := []rune(say[0].Before); len(r) > 0 { // what begins the sentence may be missing from some of the fields
		say[0].Before = string(unicode.ToUpper(r[0])) + string(r[1:])
	}
	for i := range say {
		say[i].Stop = "."
		if i+1 < len(say) {
			if next := []rune(say[i+1].Before + "x"); unicode.IsLower(next[0]) {
				say[i].Stop = ","
			}
		}
	}
}

// Format is the sentences of what a text field, or an entry of one's own, accepts; special ones first.
func Format(f form.Field) template.HTML { return FormatOf(f.ID, []form.Field{f}) }

// FormatOf is the sentences of what fields accept, whatever else they differ in; nothing where some of them
// can have no format.
func FormatOf(owner string, fields []form.Field) template.HTML {
	f := &fields[0]
	var b markup.Builder
	var say, plain []markup.Saying
	for i := range form.FieldProperties {
		p := &form.FieldProperties[i]
		if p.Group != form.OfFormat || slices.ContainsFunc(fields, func(f form.Field) bool { return !p.Has(f.Kind) || !p.Says(&f) }) {
			if p.Key == "format" {
				return ""
			}
			continue
		}
		s := about(owner, p, fields)
		switch {
		case p.Key == "message":
			s.Empty = rules.Message(f.Format)
		case p.Key == "pattern" && f.Format.Kind == form.Postcode:
			s.Before, s.Choices = "of", rules.PostcodeCountries()
		case p.Key == "pattern" && f.Format.Kind == form.Mask:
			s.Before, s.After, s.List, s.Choices = "written as", "(# a figure, @ a letter, ? any sign)", "masks", nil
		case p.Key == "format" && len(fields) > 1:
			s.Before = "They accept"
		}
		if p.Plain(f) && !s.Mixed && p.Key != "format" && p.Key != "pattern" && p.Key != "decimals" {
			plain = append(plain, s)
		} else {
			say = append(say, s)
		}
	}
	if p, ok := form.PropertyOf(form.FieldProperties, "maxlen"); ok && len(fields) == 1 && p.Has(f.Kind) {
		s := sayingOf(owner, p, f)
		s.Before, s.After = "It has at most", "signs"
		if f.MaxLen > 0 {
			say = append(say, s)
		} else {
			plain = append(plain, s)
		}
	}
	join(say)
	join(plain)
	b.Sentences(say)
	usual(&b, "format", plain)
	return b.HTML()
}

// Fill is the blank of a property among the first sentences of a note; label is what it is called
// by those who hear it.
func Fill(f form.Field, key, label, empty string) template.HTML {
	p, ok := form.PropertyOf(form.FieldProperties, key)
	if !ok {
		return ""
	}
	var b markup.Builder
	class, kind := "blank", "text"
	if p.Plain(&f) {
		class = "blank off"
	}
	if p.Type == form.AsCount {
		kind = "number"
	}
	b.Open("input", "class", class, "id", "b-"+f.ID+"-"+key, "data-key", key, "value", p.Get(&f), "aria-label", label, "placeholder",
		empty,
		"type", kind, "min", "0", "autocomplete", "off", "spellcheck", "false")
	return b.HTML()
}

// Pick is the choice of a property among the first sentences of a note.
func Pick(f form.Field, key, label string) template.HTML {
	p, ok := form.PropertyOf(form.FieldProperties, key)
	if !ok {
		return ""
	}
	s := sayingOf(f.ID, p, &f)
	if key == "kind" {
		s.Choices, s.Value = form.KindWords, f.KindWord()
	}
	var b markup.Builder
	b.Choose(&s, label)
	return b.HTML()
}
