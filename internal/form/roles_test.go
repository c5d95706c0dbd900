package form_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"zealousmargin.example/internal/form"
)

// The order of the parts is what the details say, then that of the fields; a part that no field has waits for nobody, and what is nobody's
// belongs to the first.
func TestPartsComeInOrder(t *testing.T) {
	field := func(name, role string, page int, order float64) form.Field {
		return form.Field{ID: name, Name: name, Kind: form.Text, Role: role, Page: page, Order: order}
	}
	tpl := &form.Template{Fields: []form.Field{
		field("fee", "harbour master", 2, 1), field("vessel", " applicant ", 1, 2), field("note", "", 1, 3),
		field("seen", "quay  desk", 1, 1),
	}}
	assert.Equal(t, []string{"quay desk", "applicant", "harbour master"}, tpl.RoleOrder())
	tpl.Details.Roles = "applicant, nobody, quay desk, applicant"
	assert.Equal(t, []string{"applicant", "quay desk", "harbour master"}, tpl.RoleOrder())
	var names []string
	for _, f := range tpl.OfRole("applicant") {
		names = append(names, f.Name)
	}
	assert.ElementsMatch(t, []string{"vessel", "note"}, names)
	assert.Len(t, tpl.OfRole("harbour master"), 1)
	assert.Empty(t, tpl.OfRole("nobody"))
	assert.Empty(t, (&form.Template{Fields: []form.Field{field("a", "", 1, 1)}}).RoleOrder())
}
