package command

import (
	"cmp"
	"fmt"
	"slices"

	"golang.org/x/text/language/display"

	tag "golang.org/x/text/language"

	"zealousmargin.example/internal/form"
)

// ReadyLists are lists of options that are ready to be used.
var ReadyLists = []form.Offer{
	{Value: "countries", Words: "countries (ISO 3166-1)"},
	{Value: "months", Words: "months"},
	{Value: "yesno", Words: "yes and no"},
}

// ReadyList gives the options of one of [ReadyLists].
func ReadyList(key string) ([]form.Option, error) {
	switch key {
	case "countries":
		return countries(), nil
	case "months":
		return plainOptions("January", "February", "March", "April", "May", "June", "July", "August", "September", "October",
			"November", "December"), nil
	case "yesno":
		return plainOptions("Yes", "No"), nil
	}
	return nil, fmt.Errorf("%q is not a list that is ready", key)
}

func plainOptions(labels ...string) []form.Option {
	var out []form.Option
	for _, l := range labels {
		out = append(out, form.Option{Label: l})
	}
	return out
}

// countries are the countries of ISO 3166-1, by the English names of CLDR, each sent as
// its code of two letters. Codes that the standard only reserves are left out.
func countries() []form.Option {
	names := display.Regions(tag.English)
	var out []form.Option
	for a := 'A'; a <= 'Z'; a++ {
		for b := 'A'; b <= 'Z'; b++ {
			code := string([]rune{a, b})
			r, err := tag.ParseRegion(code)
			if err != nil || !r.IsCountry() || r.Canonicalize() != r || r.String() != code || slices.Contains(reserved, code) ||
				names.Name(r) == "" {
				continue
			}
			out = append(out, form.Option{Label: cmp.Or(renamed[code], names.Name(r)), Export: code})
		}
	}
	less := form.Alphabet()
	slices.SortFunc(out, func(a, b form.Option) int { return less(a.Label, b.Label) })
	return out
}

// renamed are countries that have changed their name since the names were collected.
var renamed = map[string]string{"MK": "North Macedonia", "SZ": "Eswatini", "TR": "Türkiye"}

// reserved are codes that CLDR takes for countries and ISO 3166-1 does not assign.
var reserved = []string{"AC", "CP", "CQ", "DG", "EA", "EU", "EZ", "IC", "TA", "UN", "XA", "XB", "XK", "ZZ"}
