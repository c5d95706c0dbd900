package rehearsal

import (
	"fmt"
	"strings"
	"time"

	"zealousmargin.example/internal/form"
)

// person is somebody invented who fills a form in. Some have long names, or letters that only
// part of the typefaces have; they are the ones that forms forget.
type person struct {
	given, family, street, town, vessel string
	born                                time.Time
}

// people are twenty invented persons.
var people = func() []person {
	given := []string{
		"Ida", "Odalys", "Wilhelmina Alexandra", "Bo", "Łucja", "Jean-Baptiste", "Þórunn", "Mirela", "Aurelio", "Nnenna",
		"Søren", "Zoë", "Kjersti", "Maximiliane", "Ines", "Ulf", "Eleftheria", "Tomasz", "Noor", "Bartholomew",
	}
	family := []string{
		"Marl", "Quill", "Featherstone-Oyelaran", "Ek", "Wróblewska", "de la Tremblaye", "Sigurðardóttir", "Petrescu",
		"di Sant'Agnese", "Okonkwo-Adeyemi", "Ørsted", "Müller-Lüdenscheidt", "Ås", "von und zu Hohenfels", "Ó Súilleabháin", "Bo",
		"Papadopoulou", "Brzęczyszczykiewicz", "van den Heuvel", "Cholmondeley",
	}
	towns := []string{"Gannet Quay", "Upper Sandle", "Saint-Marcouf-des-Rochers-sur-Mer", "Ö", "Kreuzsteinach"}
	vessels := []string{"Petrel", "The Honourable Company's Delight", "Ægir", "Two Sisters", "Q"}
	out := make([]person, 20)
	for i := range out {
		out[i] = person{
			given: given[i], family: family[i], town: towns[i%5], vessel: vessels[i%5],
			street: fmt.Sprintf("%d %s Lane", 1+i*37%180,
				[]string{"Slip", "Old Ropewalk", "Lower Lighthouse Battery", "Sand", "Fishermen's Steps and Upper Mole"}[i%5]),
			born: time.Date(1931+i*4, time.Month(1+i%12), 1+(i*7)%28, 0, 0, 0, 0, time.UTC),
		}
	}
	return out
}()

// answer is what a person would write into a field: a good answer, by what the field asks for.
func (p person) answer(f *form.Field, n int, now time.Time) string {
	asks := strings.ToLower(f.Tooltip + " " + f.Label + " " + strings.ReplaceAll(f.Name, "_", " "))
	has := func(words ...string) bool {
		for _, w := range words {
			if strings.Contains(asks, w) {
				return true
			}
		}
		return false
	}
	switch f.Kind {
	case form.CheckBox, form.Radio:
		return f.Export
	case form.Choice:
		if len(f.Options) == 0 {
			return ""
		}
		return f.Options[n%len(f.Options)].Label
	}
	if s, ok := goodFor(f, n, now, p); ok {
		return s
	}
	text := ""
	switch {
	case f.Comb > 0:
		return strings.Repeat("7", f.Comb)
	case f.MaxLen > 0 && f.MaxLen <= 4:
		text = p.given[:1] + p.family[:1]
	case has("e-mail", "email"):
		text = "person" + fmt.Sprint(n) + "@gannet-quay.example"
	case has("telephone", "phone", "mobile"):
		text = fmt.Sprintf("+44 7700 9%05d", n*431)
	case has("vessel", "boat", "craft"):
		text = p.vessel
	case has("address", "street"):
		text = p.street + ", " + p.town
	case has("town", "port", "place", "city", "registry"):
		text = p.town
	case has("date", "born", "birth"):
		text = p.born.Format("02.01.2006")
	case has("quantity", "number", "no.", "length", "beam", "draught", "amount", "rate", "price"):
		text = fmt.Sprint(1 + n*3%40)
	case has("family name", "surname"):
		text = p.family
	case has("given name", "first name"):
		text = p.given
	case f.Multiline:
		text = strings.Repeat("We arrive on the evening tide and leave two days later. ", 1+n%3)
	default:
		text = p.given + " " + p.family
	}
	if r := []rune(text); f.MaxLen > 0 && len(r) > f.MaxLen {
		text = string(r[:f.MaxLen])
	}
	return text
}
