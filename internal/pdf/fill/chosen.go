package fill

import (
	"fmt"
	"path"
	"slices"
	"strings"

	"zealousmargin.example/internal/pdf/object"
	"zealousmargin.example/internal/pdf/read"
	"zealousmargin.example/internal/pdf/write"
	"zealousmargin.example/internal/rules"
)

// FlattenFields turns some fields into page content, by name, as [Flatten] does with all; the others can be filled in as before. It refuses
// a field that another one, which stays, is worked out from or shows by: that one would not know its answer any more.
func FlattenFields(src []byte, names []string) (_ []byte, err error) {
	defer object.Recovered(&err)
	if len(names) == 0 {
		return src, nil
	}
	if src, err = withoutHints(src, names...); err != nil {
		return nil, err
	}
	f, err := object.Parse(src)
	if err != nil {
		return nil, err
	}
	ws, err := read.WidgetsOf(f)
	if err != nil {
		return nil, err
	}
	var has []string
	for _, w := range ws {
		has = append(has, w.Name)
	}
	for _, n := range names {
		if !slices.Contains(has, n) {
			return nil, fmt.Errorf("there is no field called %q: the form has %s", n, read.ShortList(has, 12))
		}
	}
	if err := needed(src, names); err != nil {
		return nil, err
	}
	b := write.NewBuilder(f)
	if err := b.AcroForm(); err != nil {
		return nil, err
	}
	gone, left := map[int]bool{}, 0
	for i, w := range ws {
		if !slices.Contains(names, w.Name) {
			left++
			continue
		}
		gone[w.Refs[0].ObjectNumber.Value()] = true
		content, err := onPaper(f, w, fmt.Sprintf("ZmFlat%d", i+1))
		if err != nil {
			return nil, err
		}
		if content == "" || w.Page == 0 {
			continue
		}
		p := f.Pages[w.Page-1]
		if err := f.AppendContent(p, content); err != nil {
			return nil, err
		}
		f.Touch(p.Ref)
	}
	if left == 0 {
		return Flatten(src)
	}
	b.TakeOut(gone)
	if err := b.Finish(); err != nil {
		return nil, err
	}
	return f.Increment()
}

// needed refuses names that a field which stays needs.
func needed(src []byte, names []string) error {
	fields, err := read.Ruled(src)
	if err != nil {
		return err
	}
	for _, x := range fields {
		if slices.Contains(names, x.Name) {
			continue
		}
		for _, text := range []string{x.Formula, x.ShowIf, x.RequireIf} {
			if text == "" {
				continue
			}
			formula, err := rules.ParseFormula(text)
			if err != nil {
				continue // a reader of another make would not understand it either
			}
			for _, need := range formula.Names() {
				for _, n := range names {
					if ok, _ := path.Match(need, n); ok || strings.EqualFold(need, n) {
						return fmt.Errorf("%s cannot be flattened by itself, since %s goes by it: flatten both, or neither", n, x.Name)
					}
				}
			}
		}
	}
	return nil
}
