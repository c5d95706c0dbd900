package arrange

import (
	"cmp"
	"math"
	"slices"
	"strings"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
)

// Alike are fields that have something in common.
type Alike struct {
	Words string // what they are: "check boxes", "that ask for a date"
	IDs   []string
}

// kindWords are the kinds in the plural, in the order in which they are offered.
var kindWords = []Alike{
	{Words: "text fields"}, {Words: "check boxes"}, {Words: "radio buttons"}, {Words: "lists"}, {Words: "signatures"}, {Words: "buttons"},
}

var kindOrder = []form.Kind{form.Text, form.CheckBox, form.Radio, form.Choice, form.Signature, form.Button}

// Kinds parts fields by their kind.
func Kinds(fields []form.Field) []Alike {
	out := slices.Clone(kindWords)
	for _, f := range fields {
		if i := slices.Index(kindOrder, f.Kind); i >= 0 {
			out[i].IDs = append(out[i].IDs, f.ID)
		}
	}
	return slices.DeleteFunc(out, func(a Alike) bool { return len(a.IDs) == 0 })
}

// asked are what labels ask for, by the word that finding has for it, and what the format that says so is.
var asked = []struct {
	looks, words string
	format       form.FormatKind
}{
	{"date", "dates", form.Date},
	{"number", "numbers", form.Number},
	{"money", "sums of money", ""},
	{"phone", "telephone numbers", form.Phone},
	{"email", "e-mail addresses", form.Email},
	{"postcode", "postcodes", form.Postcode},
	{"time", "times", form.Time},
	{"percent", "percentages", form.Percent},
}

// Asks parts text fields by what their labels ask for, or what their formats say that they take.
func Asks(fields []form.Field) []Alike {
	var out []Alike
	for _, a := range asked {
		one := Alike{Words: a.words}
		for _, f := range fields {
			if f.Find != nil && f.Find.Looks == a.looks || a.format != "" && f.Format.Kind == a.format {
				one.IDs = append(one.IDs, f.ID)
			}
		}
		if len(one.IDs) > 0 {
			out = append(out, one)
		}
	}
	without := Alike{Words: "without a tooltip"}
	must := Alike{Words: "that must be filled in"}
	for _, f := range fields {
		if f.Tooltip == "" {
			without.IDs = append(without.IDs, f.ID)
		}
		if f.Required {
			must.IDs = append(must.IDs, f.ID)
		}
	}
	return slices.DeleteFunc(append(out, must, without), func(a Alike) bool { return len(a.IDs) == 0 })
}

// Row lists the fields that stand in a row with one of the fields, which is named by its id, from the left; view turns the
// page as it is shown. It holds the one itself.
func Row(fields []form.Field, id string, view geom.Matrix) []string {
	return beside(fields, id, view, func(a, b geom.Rect) bool { return a.OverlapY(b) > 0.5*math.Max(a.H(), b.H()) },
		func(r geom.Rect) float64 { return r.X0 })
}

// Column lists the fields that stand in a column with one of the fields, and are about as wide, from the top.
func Column(fields []form.Field, id string, view geom.Matrix) []string {
	return beside(fields, id, view, func(a, b geom.Rect) bool { return a.OverlapX(b) > 0.7*math.Max(a.W(), b.W()) },
		func(r geom.Rect) float64 { return r.Y0 })
}

func beside(fields []form.Field, id string, view geom.Matrix, with func(a, b geom.Rect) bool, from func(geom.Rect) float64) []string {
	i := slices.IndexFunc(fields, func(f form.Field) bool { return f.ID == id })
	if i < 0 {
		return nil
	}
	one := fields[i].Rect.Apply(view)
	all := slices.DeleteFunc(slices.Clone(fields), func(f form.Field) bool {
		return f.Page != fields[i].Page || f.ID != id && !with(f.Rect.Apply(view), one)
	})
	slices.SortStableFunc(all, func(a, b form.Field) int { return cmp.Compare(from(a.Rect.Apply(view)), from(b.Rect.Apply(view))) })
	out := make([]string, len(all))
	for k := range all {
		out[k] = all[k].ID
	}
	return out
}

// Named lists the fields whose names match a pattern: a star stands for anything, and a pattern without one may stand
// anywhere in the name or the tooltip. Capitals do not matter.
func Named(fields []form.Field, pattern string) []string {
	pattern = strings.ToLower(strings.TrimSpace(pattern))
	var out []string
	for _, f := range fields {
		name := strings.ToLower(f.Name)
		if pattern != "" && (glob(pattern, name) || !strings.Contains(pattern, "*") &&
			(strings.Contains(name, pattern) || strings.Contains(strings.ToLower(f.Tooltip), pattern))) {
			out = append(out, f.ID)
		}
	}
	return out
}

// glob tells whether a pattern with stars matches the whole of a text.
func glob(pattern, text string) bool {
	parts := strings.Split(pattern, "*")
	if len(parts) == 1 {
		return pattern == text
	}
	first, last := parts[0], parts[len(parts)-1]
	if len(text) < len(first)+len(last) || !strings.HasPrefix(text, first) || !strings.HasSuffix(text, last) {
		return false
	}
	text = text[len(first) : len(text)-len(last)]
	for _, p := range parts[1 : len(parts)-1] {
		i := strings.Index(text, p)
		if i < 0 {
			return false
		}
		text = text[i+len(p):]
	}
	return true
}
