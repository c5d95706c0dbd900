package form

import (
	"cmp"
	"slices"
	"strings"
)

// role is whose a field is, in plain words; empty is nobody's.
func (f *Field) role() string { return plainRole(f.Role) }

func plainRole(s string) string { return strings.Join(strings.Fields(s), " ") }

// RoleOrder is the order of the roles in which a form is filled in: those that the details name, then those that only fields name, by the
// order of their first fields. Fields without a role belong to the first.
func (t *Template) RoleOrder() []string {
	placed := t.Placed()
	slices.SortStableFunc(placed, func(a, b Field) int { return cmp.Or(cmp.Compare(a.Page, b.Page), cmp.Compare(a.Order, b.Order)) })
	var had, out []string
	for i := range placed {
		if role := placed[i].role(); role != "" && !slices.Contains(had, role) {
			had = append(had, role)
		}
	}
	for role := range strings.SplitSeq(t.Details.Roles, ",") {
		role = plainRole(role)
		if slices.Contains(had, role) && !slices.Contains(out, role) { // one that no field has any more waits for nobody
			out = append(out, role)
		}
	}
	for _, role := range had {
		if !slices.Contains(out, role) {
			out = append(out, role)
		}
	}
	return out
}

// OfRole lists the placed fields of a role; those without one belong to the first.
func (t *Template) OfRole(role string) []Field {
	order := t.RoleOrder()
	first := len(order) > 0 && order[0] == role
	return slices.DeleteFunc(t.Placed(), func(f Field) bool {
		own := f.role()
		return own != role && (own != "" || !first)
	})
}
