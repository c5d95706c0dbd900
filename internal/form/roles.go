package form

import (
	"slices"
	"strings"
)

// RoleOrder is the order of the roles in which a form is filled in: those that the details name, then those that only fields name, by the
// order of their first fields. Fields without a role belong to the first.
func (t *Template) RoleOrder() []string {
	var out []string
	add := func(role string) {
		if role = strings.Join(strings.Fields(role), " "); role != "" && !slices.Contains(out, role) {
			out = append(out, role)
		}
	}
	has := map[string]bool{}
	placed := t.Placed()
	slices.SortStableFunc(placed, func(a, b Field) int {
		if a.Page != b.Page {
			return a.Page - b.Page
		}
		switch {
		case a.Order < b.Order:
			return -1
		case a.Order > b.Order:
			return 1
		}
		return 0
	})
	for _, f := range placed {
		has[strings.Join(strings.Fields(f.Role), " ")] = true
	}
	for role := range strings.SplitSeq(t.Details.Roles, ",") {
		if has[strings.Join(strings.Fields(role), " ")] { // one that no field has any more waits for nobody
			add(role)
		}
	}
	for _, f := range placed {
		add(f.Role)
	}
	return out
}

// OfRole lists the placed fields of a role; those without one belong to the first.
func (t *Template) OfRole(role string) []Field {
	order := t.RoleOrder()
	first := len(order) > 0 && order[0] == role
	var out []Field
	for _, f := range t.Placed() {
		if own := strings.Join(strings.Fields(f.Role), " "); own == role || own == "" && first {
			out = append(out, f)
		}
	}
	return out
}
