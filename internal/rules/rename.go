package rules

import (
	"slices"
	"strconv"
	"strings"

	"zealousmargin.example/internal/form"
)

// Renamed is a field whose rules call another field by its new name; changed tells whether
// they named it at all.
func Renamed(f form.Field, from, to string) (g form.Field, changed bool) {
	g = f
	g.Checks = slices.Clone(f.Checks)
	at := []*string{&g.Formula, &g.ShowIf, &g.RequireIf}
	for i := range g.Checks {
		switch g.Checks[i].Test {
		case form.Holds, form.NotBefore, form.NotAfter, form.Between:
			at = append(at, &g.Checks[i].A, &g.Checks[i].B)
		}
	}
	for _, s := range at {
		if *s == "" {
			continue
		}
		formula, err := ParseFormula(*s)
		if err != nil {
			continue // a limit that is no formula
		}
		if n := formula.Renamed(from, to); n != *s {
			*s, changed = n, true
		}
	}
	g.Steps = slices.Clone(f.Steps)
	for i := range g.Steps {
		names := g.Steps[i].Named()
		for k, n := range names {
			if n == from {
				names[k], changed = to, true
				g.Steps[i].Fields = strings.Join(names, ", ")
			}
		}
	}
	return g, changed
}

// Row is the figure of the row that a field name has, and the name with a star in its place;
// 0 when it has none: line_2_amount is row 2 of line_*_amount, family_name_3 row 3.
func Row(name string) (row int, pattern string) {
	parts := strings.Split(name, "_")
	for i := 1; i < len(parts); i++ {
		if n, err := strconv.Atoi(parts[i]); err == nil && n > 0 {
			parts[i] = "*"
			return n, strings.Join(parts, "_")
		}
	}
	return 0, name
}
