package detect

import (
	"strings"
)

// datePartWords are day, month and year in the languages of the lexicon (from general knowledge of the languages, no source).
var datePartWords = map[string][3]string{
	"en": {"day", "month", "year"}, "de": {"Tag", "Monat", "Jahr"}, "fr": {"jour", "mois", "année"}, "es": {"día", "mes", "año"},
	"it": {"giorno", "mese", "anno"}, "nl": {"dag", "maand", "jaar"}, "pl": {"dzień", "miesiąc", "rok"}, "pt": {"dia", "mês", "ano"},
	"sv": {"dag", "månad", "år"}, "el": {"ημέρα", "μήνας", "έτος"}, "uk": {"день", "місяць", "рік"}, "da": {"dag", "måned", "år"},
	"cs": {"den", "měsíc", "rok"}, "fi": {"päivä", "kuukausi", "vuosi"}, "ro": {"zi", "lună", "an"}, "hu": {"nap", "hónap", "év"},
}

// datePart is which part of a date a group of cells takes, in the language of the page: of three groups that follow each other
// the one of four cells is the year, and the others are day and month, unless the printed pattern has them the other way
// round. Empty for anything else.
func (f *finder) datePart(c candidate) string {
	first, before := f.firstGroup(c)
	if c.comb == 0 || formatOf(f.labelFor(first).text, false) != "date" {
		return ""
	}
	groups := make([]candidate, 3)
	n := 0
	for _, o := range f.cands {
		if o.comb == 0 || o.comb > 4 || o.rect.Y0 > c.rect.Y0+1.5 || o.rect.Y0 < c.rect.Y0-1.5 {
			continue
		}
		if head, k := f.firstGroup(o); head.rect == first.rect {
			if k > 2 {
				return ""
			}
			groups[k] = o
			n++
		}
	}
	if n != 3 {
		return ""
	}
	order := ""
	switch cells := [3]int{groups[0].comb, groups[1].comb, groups[2].comb}; cells {
	case [3]int{2, 2, 4}:
		order = "dmy"
		if strings.HasPrefix(DatePattern(f.guideIn(first.rect.Union(groups[2].rect))), "mm") {
			order = "mdy"
		}
	case [3]int{4, 2, 2}:
		order = "ymd"
	default:
		return ""
	}
	words, known := datePartWords[f.language()]
	if !known {
		words = datePartWords["en"]
	}
	return words[strings.IndexByte("dmy", order[before])]
}
