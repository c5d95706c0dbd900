package snags

import (
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/form"
)

// allOf begins the key of the mend of all snags of a kind.
const allOf = "all:"

// Together is a mend of several snags of a kind in one press.
type Together struct {
	Key   string
	Words string // what a press does
}

// Kind is what snags have in common that can be mended together.
func (s Snag) Kind() string {
	kind, _, _ := strings.Cut(s.Check, "-")
	if kind == "plain" { // formats that labels ask for, whatever they are
		return kind
	}
	return s.Check
}

// numbers are those of a few things, in words.
var numbers = []string{2: "both", 3: "three", 4: "four", 5: "five", 6: "six", 7: "seven", 8: "eight", 9: "nine", 10: "ten"}

// InOnePress lists what can be mended together: kinds of which several fields have a snag with a mend.
func InOnePress(all []Snag) []Together {
	var kinds []string
	n, first := map[string]int{}, map[string]Snag{}
	for _, s := range all {
		if s.mend == nil || s.Field == "" {
			continue
		}
		k := s.Kind()
		if n[k]++; n[k] == 1 {
			kinds, first[k] = append(kinds, k), s
		}
	}
	var out []Together
	for _, k := range kinds {
		if n[k] < 2 {
			continue
		}
		many := fmt.Sprint(n[k])
		if n[k] < len(numbers) {
			many = numbers[n[k]]
		}
		words := fmt.Sprintf("%s: for all %s", first[k].Mend, many)
		switch {
		case k == "plain" && n[k] == 2:
			words = "make both what their labels ask"
		case k == "plain":
			words = "make all " + many + " what their labels ask"
		case n[k] == 2:
			words = first[k].Mend + ": for both"
		}
		out = append(out, Together{Key: allOf + k, Words: words})
	}
	return out
}

// mendAll is the edit that mends all snags of a kind, field by field; what one mend has changed the next finds changed.
func mendAll(t *form.Template, pages map[int]*evidence.Page, now time.Time, kind string) (form.Edit, error) {
	work := *t
	work.Fields = form.CloneFields(t.Fields)
	e := form.Edit{}
	for _, s := range Find(t, pages, now) {
		if s.mend == nil || s.Field == "" || s.Kind() != kind {
			continue
		}
		one, err := s.mend(&work)
		if errors.Is(err, form.ErrNothing) {
			continue
		}
		if err != nil {
			return form.Edit{}, err
		}
		if one.Details != nil || one.Pages != nil || len(one.Before) != len(one.After) {
			return form.Edit{}, errors.New("these cannot be mended together: mend them one by one")
		}
		if err := work.Apply(one); err != nil {
			return form.Edit{}, err
		}
		for i := range one.Before {
			if k := slices.IndexFunc(e.After, func(f form.Field) bool { return f.ID == one.Before[i].ID }); k >= 0 {
				e.After[k] = one.After[i]
				continue
			}
			e.Before, e.After = append(e.Before, one.Before[i]), append(e.After, one.After[i])
		}
	}
	if len(e.After) == 0 {
		return form.Edit{}, form.ErrNothing
	}
	e.Title = fmt.Sprintf("mended %d snags alike", len(e.After))
	return e, nil
}
