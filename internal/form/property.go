package form

import (
	"cmp"
	"encoding/json"
	"fmt"
	"math"
	"regexp"
	"slices"
	"strconv"
	"strings"
)

// Property is one thing that a T says: a field, a page, the details of a document, or a part of
// one of them. What is known of it stands in its row and nowhere else: notes, styles, commands,
// comparison and the check of what was written all go by the rows.
type Property[T any] struct {
	Key    string // what commands call it, and the blank of its sentence
	Member string // its JSON name; in a part of T behind the part's, as "look.font"
	Kinds  []Kind // of field that have it; nil is all
	Type   Type
	// Group is the heading under which a note says it; empty is among its first sentences. Before
	// and After are the words around the blank, Choices what it can be; none is typed.
	Group         string
	Before, After string
	Choices       []Offer
	Title         string // what an edit of it is called: "changed" and these words and the field's name
	Style         bool   // part of a style: a house style, a favourite
	// Plainly is what an empty blank says of a property that is as a new one has it: no figure means
	// something else than it says.
	Plainly string
	// made are what an edit of a flag is called: "made x optional", "made x required".
	made [2]string
	// Draft says why it is not in the file that is released; empty when it is.
	Draft string
	// Refused is what a field of another kind is told that has it: "x cannot", and these words.
	Refused string
	// Get writes it as words, Set reads it from words and refuses what it cannot be.
	Get func(*T) string
	Set func(*T, string) error

	same  func(a, b *T) bool
	carry func(to, from *T)
	when  func(*T) bool
	words func(*T) []Offer
}

// Offer is a value that a property can have, and the words for it.
type Offer struct{ Value, Words string }

// Type is what the words of a property are.
type Type string

// The types: yes or no, one of some values, free text, a colour "#rrggbb", a length in points, a
// whole number, and data written as JSON.
const (
	AsFlag   Type = "flag"
	AsWord   Type = "word"
	AsText   Type = "text"
	AsColour Type = "colour"
	AsLength Type = "length"
	AsCount  Type = "count"
	AsData   Type = "data"
)

// Has tells whether fields of a kind have the property.
func (p Property[T]) Has(k Kind) bool { return p.Kinds == nil || slices.Contains(p.Kinds, k) }

// Says tells whether the property has a meaning for x beside what x says otherwise: decimals only
// of numbers.
func (p Property[T]) Says(x *T) bool { return p.when == nil || p.when(x) }

// Offers lists what the property of x can be; none is typed.
func (p Property[T]) Offers(x *T) []Offer {
	if p.words != nil {
		return p.words(x)
	}
	return p.Choices
}

// Same tells whether a and b say the same.
func (p Property[T]) Same(a, b *T) bool { return p.same(a, b) }

// Carry gives to what from says.
func (p Property[T]) Carry(to, from *T) { p.carry(to, from) }

// Plain tells whether x says what a new one says.
func (p Property[T]) Plain(x *T) bool {
	var none T
	return p.same(x, &none)
}

// Clear lets x say what a new one says.
func (p Property[T]) Clear(x *T) {
	var none T
	p.carry(x, &none)
}

// PropertyOf finds a row by its key.
func PropertyOf[T any](rows []Property[T], key string) (*Property[T], bool) {
	i := slices.IndexFunc(rows, func(p Property[T]) bool { return p.Key == key })
	if i < 0 {
		return nil, false
	}
	return &rows[i], true
}

func same[T any](rows []Property[T], a, b *T) bool {
	for i := range rows {
		if !rows[i].same(a, b) {
			return false
		}
	}
	return true
}

// row makes a property of a member that can be compared.
func row[T any, V comparable](key, member string, t Type, at func(*T) *V) Property[T] {
	return Property[T]{
		Key: key, Member: member, Type: t,
		same:  func(a, b *T) bool { return *at(a) == *at(b) },
		carry: func(to, from *T) { *at(to) = *at(from) },
	}
}

func flagOf[T any](key, member string, at func(*T) *bool) Property[T] {
	p := row(key, member, AsFlag, at)
	p.Get = func(x *T) string { return YesNo(*at(x)) }
	p.Set = func(x *T, v string) error {
		on, err := ReadYesNo(v)
		if err == nil {
			*at(x) = on
		}
		return err
	}
	return p
}

// wordOf makes a property that is one of some values, or typed when none are named.
func wordOf[T any, S ~string](key, member string, at func(*T) *S) Property[T] {
	p := row(key, member, AsText, at)
	p.Get = func(x *T) string { return string(*at(x)) }
	p.Set = func(x *T, v string) error { *at(x) = S(v); return nil }
	return p
}

func colourOf[T any](key, member string, at func(*T) *string) Property[T] {
	p := row(key, member, AsColour, at)
	p.Get = func(x *T) string { return *at(x) }
	p.Set = func(x *T, v string) error {
		if v = strings.ToLower(v); v == "none" {
			v = ""
		}
		if !ValidColour(v) {
			return fmt.Errorf("%q is no colour: write it as #rrggbb, such as #5b2a55, or none", v)
		}
		*at(x) = v
		return nil
	}
	return p
}

func lengthOf[T any](key, member string, at func(*T) *float64) Property[T] {
	p := row(key, member, AsLength, at)
	p.Get = func(x *T) string { return strconv.FormatFloat(*at(x), 'f', -1, 64) }
	p.Set = func(x *T, v string) error {
		n, err := ReadLength(v, "pt")
		if err == nil {
			*at(x) = n
		}
		return err
	}
	return p
}

// countOf makes a property that is a whole number; what names it where it is refused.
func countOf[T any](key, member, what string, at func(*T) *int) Property[T] {
	p := row(key, member, AsCount, at)
	p.Get = func(x *T) string { return strconv.Itoa(*at(x)) }
	p.Set = func(x *T, v string) error {
		n, err := strconv.Atoi(cmp.Or(v, "0"))
		if err != nil {
			return fmt.Errorf("%q is not %s: type a whole number", v, what)
		}
		*at(x) = n
		return nil
	}
	return p
}

// dataOf makes a property that is written as JSON.
func dataOf[T, V any](key, member string, at func(*T) *V, equal func(a, b V) bool, clone func(V) V) Property[T] {
	return Property[T]{
		Key: key, Member: member, Type: AsData,
		same:  func(a, b *T) bool { return equal(*at(a), *at(b)) },
		carry: func(to, from *T) { *at(to) = clone(*at(from)) },
		Get: func(x *T) string {
			b, err := json.Marshal(*at(x))
			if err != nil {
				return ""
			}
			return string(b)
		},
		Set: func(x *T, v string) error {
			var out V
			dec := json.NewDecoder(strings.NewReader(cmp.Or(v, "null")))
			dec.DisallowUnknownFields()
			if err := dec.Decode(&out); err != nil {
				return fmt.Errorf("%s cannot be read from %q: %w", key, v, err)
			}
			*at(x) = out
			return nil
		},
	}
}

func (p Property[T]) of(kinds ...Kind) Property[T] { p.Kinds = kinds; return p }

// says puts the property into a sentence of a note.
func (p Property[T]) says(group, before, after, title string) Property[T] {
	p.Group, p.Before, p.After, p.Title = group, before, after, title
	return p
}

// Titled is what an edit is called that sets the property of who to a value.
func (p Property[T]) Titled(who, value string) string {
	switch {
	case p.made[0] != "":
		return "made " + who + " " + p.made[map[bool]int{true: 1}[value == "yes"]]
	case strings.Contains(p.Title, "%s"):
		return "changed " + strings.Replace(p.Title, "%s", who, 1)
	}
	return "changed " + cmp.Or(p.Title, "the "+p.Key+" of") + " " + who
}

func (p Property[T]) makes(not, set string) Property[T] { p.made = [2]string{not, set}; return p }

func (p Property[T]) titled(title string) Property[T] { p.Title = title; return p }

// either names the two values of a flag: what it says when it is set, and when not.
func (p Property[T]) either(set, not string) Property[T] {
	p.Choices = []Offer{{"no", not}, {"yes", set}}
	return p
}

// one names the values that the property can have.
func (p Property[T]) one(choices ...Offer) Property[T] {
	if p.Choices = choices; p.Type == AsText {
		p.Type = AsWord
	}
	return p
}

func (p Property[T]) styled() Property[T]             { p.Style = true; return p }
func (p Property[T]) plainly(says string) Property[T] { p.Plainly = says; return p }
func (p Property[T]) drafted(why string) Property[T]  { p.Draft = why; return p }

func (p Property[T]) refused(what string) Property[T]             { p.Refused = what; return p }
func (p Property[T]) only(when func(*T) bool) Property[T]         { p.when = when; return p }
func (p Property[T]) offers(what func(*T) []Offer) Property[T]    { p.words = what; return p }
func (p Property[T]) reads(get func(*T) string) Property[T]       { p.Get = get; return p }
func (p Property[T]) sets(set func(*T, string) error) Property[T] { p.Set = set; return p }

// then does something more after the property was set.
func (p Property[T]) then(after func(*T)) Property[T] {
	set := p.Set
	p.Set = func(x *T, v string) error {
		err := set(x, v)
		if err == nil {
			after(x)
		}
		return err
	}
	return p
}

// YesNo writes a flag as words.
func YesNo(on bool) string {
	if on {
		return "yes"
	}
	return "no"
}

// ReadYesNo reads what YesNo writes; empty is no.
func ReadYesNo(v string) (bool, error) {
	switch v {
	case "yes":
		return true, nil
	case "no", "":
		return false, nil
	}
	return false, fmt.Errorf("%q is neither yes nor no", v)
}

var lengthWords = regexp.MustCompile(`^\s*(-?[0-9]*[.,]?[0-9]+)\s*(pt|mm|cm|in|")?\s*$`)

// Units are those that places and sizes can be shown and typed in, in points.
var Units = map[string]float64{"pt": 1, "mm": 72 / 25.4, "in": 72}

// ReadLength reads a length with its unit, such as "4 mm" or "0,5 in"; one without is in the given
// unit. Empty and "automatic" are 0. The result is in points.
func ReadLength(s, unit string) (float64, error) {
	if strings.EqualFold(strings.TrimSpace(s), "automatic") || strings.TrimSpace(s) == "" {
		return 0, nil
	}
	m := lengthWords.FindStringSubmatch(strings.ToLower(s))
	if m == nil {
		return 0, fmt.Errorf("%q is not a length: write points, or a unit behind it, such as 12, 4 mm or 0.5 in", s)
	}
	v, err := strconv.ParseFloat(strings.Replace(m[1], ",", ".", 1), 64)
	if err != nil {
		return 0, err
	}
	switch m[2] {
	case "":
		return v * Units[unit], nil
	case "cm":
		return v * 10 * Units["mm"], nil
	case `"`:
		return v * Units["in"], nil
	}
	return v * Units[m[2]], nil
}

// WriteLength writes a length in points in a unit.
func WriteLength(v float64, unit string) string {
	unit = cmp.Or(unit, "pt")
	places := map[string]float64{"pt": 10, "mm": 100, "in": 1000}[unit]
	return strconv.FormatFloat(math.Round(v/Units[unit]*places)/places, 'f', -1, 64)
}
