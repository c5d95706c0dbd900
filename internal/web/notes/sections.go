package notes

import (
	"slices"
	"strconv"
	"strings"

	"zealousmargin.example/internal/form"
)

// Section is a part of a note that folds.
type Section struct {
	Key, Title string
	Note       string // what it says, in a few words, while it is folded
	First      bool   // it is what the stage is about, and says something: it stands open until a person folds it
	Group      *Group // of sentences; none for those that a template writes
}

// stageSections are the sections that a stage is about, in their order: they come first and stand open.
var stageSections = map[string][]string{
	"find":  {"takes"},
	"fit":   {"place", form.OfLook},
	"rules": {"rules", "takes"},
}

// Sections are the parts of a field's note in a stage. Place is where the field lies, in words.
func Sections(f form.Field, stage, place string) []Section {
	all := []Section{
		{Key: "takes", Title: "what it takes", Note: takes(&f)},
		{Key: "rules", Title: "rules", Note: Ruled(f)},
		{Key: "place", Title: "place and size", Note: place},
	}
	for _, g := range Groups(f.ID, []form.Field{f}) {
		s := Section{Key: g.Key, Title: g.Title, Group: &g}
		if len(g.Say) == 0 {
			s.Note = "as usual"
		}
		all = append(all, s)
	}
	all = append(all, Section{Key: "styles", Title: "style"}, Section{Key: "copies", Title: "copies"})
	if f.Kind != form.Text && f.List != form.ComboBox {
		all = all[1:]
	}
	first := stageSections[stage]
	for i := range all {
		all[i].First = slices.Contains(first, all[i].Key) && (all[i].Group == nil || len(all[i].Group.Say) > 0)
	}
	slices.SortStableFunc(all, func(a, b Section) int { return rank(first, a.Key) - rank(first, b.Key) })
	return all
}

func rank(first []string, key string) int {
	if i := slices.Index(first, key); i >= 0 {
		return i
	}
	return len(first)
}

// takes says in a few words what a text field takes.
func takes(f *form.Field) string {
	var says []string
	if f.Format.Kind == form.NoFormat {
		says = append(says, "anything")
	} else {
		says = append(says, kindBadge(&form.Field{Kind: f.Kind, Format: f.Format}))
	}
	switch {
	case f.Comb > 0:
		says = append(says, "a sign in each cell")
	case f.Multiline:
		says = append(says, "several lines")
	case f.Kind == form.Text:
		says = append(says, "one line")
	}
	if f.MaxLen > 0 && f.Comb == 0 {
		says = append(says, "at most "+strconv.Itoa(f.MaxLen)+" signs")
	}
	return strings.Join(says, ", ")
}
