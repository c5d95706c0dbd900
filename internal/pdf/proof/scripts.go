package proof

import (
	"fmt"
	"slices"

	"zealousmargin.example/internal/pdf/object"
	"zealousmargin.example/internal/rules"
)

// compareOrder holds the order of calculation in a written file to the draft's.
func compareOrder(out []byte, compiled rules.Compiled) []string {
	f, err := object.Parse(out)
	if err != nil {
		return []string{err.Error()}
	}
	cat, err := f.Catalog()
	if err != nil {
		return []string{err.Error()}
	}
	var names []string
	for _, o := range f.Array(object.Entry(f.Dict(object.Entry(cat, "AcroForm")), "CO")) {
		names = append(names, f.Text(object.Entry(f.Dict(o), "T")))
	}
	if len(names) < len(compiled.Order) || !slices.Equal(names[len(names)-len(compiled.Order):], compiled.Order) {
		return []string{fmt.Sprintf("fields are calculated in the order %v, not %v", names, compiled.Order)}
	}
	return nil
}
