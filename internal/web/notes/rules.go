package notes

import (
	"fmt"
	"html/template"
	"strconv"
	"strings"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/rules"
	"zealousmargin.example/internal/web/markup"
)

// choicesOf are what a property of a part can be, after an empty one that says something.
func choicesOf[T any](rows []form.Property[T], key, empty string) []form.Offer {
	p, ok := form.PropertyOf(rows, key)
	if !ok {
		return nil
	}
	if empty == "" {
		return p.Choices
	}
	return append([]form.Offer{{Words: empty}}, p.Choices...)
}

// checkSayings are the sentences of one check; n counts from 0.
func checkSayings(f form.Field, n int) []markup.Saying {
	c := f.Checks[n]
	var out []markup.Saying
	add := func(part, before, after, value, stop string) {
		out = append(out, markup.Saying{
			Key: fmt.Sprintf("check:%d:%s", n, part), Before: before, After: after,
			ID: "b-" + f.ID + "-check-" + strconv.Itoa(n) + "-" + part, Value: value, Stop: stop,
		})
	}
	switch c.Test {
	case form.Between:
		add("a", "It must be from", "", c.A, "")
		add("b", "to", "", c.B, ".")
	case form.OneOf:
		add("a", "It must be one of", "", c.A, ".")
	case form.Length:
		add("a", "It must have from", "", c.A, "")
		add("b", "to", "signs", c.B, ".")
	case form.MatchesMask:
		add("a", "It must look like", "(# a figure, @ a letter, ? any sign)", c.A, ".")
	case form.NotBefore:
		add("a", "It must not be before", "", c.A, ".")
	case form.NotAfter:
		add("a", "It must not be after", "", c.A, ".")
	case form.Holds:
		add("a", "It must hold that", "", c.A, ".")
	case form.Luhn:
		out = append(out, markup.Saying{Before: "Its check digit must be right."})
	case form.IBAN:
		out = append(out, markup.Saying{Before: "It must be an account number (IBAN)."})
	}
	add("message", "Otherwise say", "", c.Message, ".")
	out[len(out)-1].Empty = rules.CheckWords(c)
	return out
}

// emptyRules are what formulas that are not there say.
var emptyRules = map[string]string{"formula": "not at all", "requireif": "…", "showif": "always"}

// Rules is what a note says of checks, formulas, conditions and steps.
func Rules(f form.Field) template.HTML {
	var b markup.Builder
	if f.Kind == form.Text || f.Kind == form.Choice {
		for n := range f.Checks {
			b.Open("span", "class", "rule")
			b.Sentences(checkSayings(f, n))
			b.Link("take away", fmt.Sprintf("check:%d:drop", n), "")
			b.Close("span").Text(" ")
		}
		before := "It must"
		if len(f.Checks) > 0 {
			before = "It must also"
		}
		b.Say(&markup.Saying{
			Key: "check:new", Before: before, Choices: choicesOf(form.CheckProperties, "test", "…"),
			ID: "b-" + f.ID + "-check-new", Stop: ".",
		})
		b.Open("br")
	}
	for i := range form.FieldProperties {
		p := &form.FieldProperties[i]
		if p.Group != form.OfRules || !p.Has(f.Kind) {
			continue
		}
		s := sayingOf(f.ID, p, &f)
		s.Stop, s.Empty = ".", emptyRules[p.Key]
		b.Say(&s)
		b.Open("br")
		if p.Key == "formula" && f.Formula != "" {
			b.Element("button", "copy down the table", "class", "link", "data-do", "copy-formula", "title",
				"The same for the other rows, with their own names").Text(" ")
		}
	}
	steps(&b, f)
	b.Open("details", "class", "help").Element("summary", "what formulas know").Open("ul")
	for _, usage := range append([]string{
		"+ - * / ^ for numbers, & to join text, = <> < <= > >= and or not", "names of fields; line_*_amount stands for those of all rows",
	}, rules.FunctionNames()...) {
		b.Element("li", usage)
	}
	b.Close("ul", "details")
	return b.HTML()
}

// Ruled says in a few words which rules a field has.
func Ruled(f form.Field) string {
	var says []string
	if f.Formula != "" {
		says = append(says, "calculated")
	}
	if n := len(f.Checks); n == 1 {
		says = append(says, "1 check")
	} else if n > 1 {
		says = append(says, strconv.Itoa(n)+" checks")
	}
	if f.ShowIf != "" {
		says = append(says, "shows only if")
	}
	if f.RequireIf != "" {
		says = append(says, "must only if")
	}
	if n := len(f.Steps); n > 0 {
		says = append(says, "does things")
	}
	return strings.Join(says, ", ")
}
