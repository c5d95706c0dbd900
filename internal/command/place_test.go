package command_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/command"
	"zealousmargin.example/internal/form"
)

// A field for something that the office knows has its name, what it asks for, its format and its source at once; it takes the shape of the
// rule that it is placed on, and is as wide as its answers where nothing is printed.
func TestADatumIsPlaced(t *testing.T) {
	d := desk()
	vessel := &command.Datum{Key: "vessel_name", Title: "Name of vessel", Signs: 12}
	on := do(t, d, command.Place{Page: 1, Kind: "text", At: &command.Point{200, 252}, Datum: vessel})
	f := named(t, on, "name_vessel")
	assert.Equal(t, form.FromPerson, f.Source)
	assert.Equal(t, "vessel_name", f.Datum)
	assert.Equal(t, "Name of vessel", f.Tooltip)
	assert.InDelta(t, 220, f.Rect.W(), 6, "the shape of the rule")

	born := &command.Datum{Key: "birth_date", Title: "Date of birth", Format: form.Date, Signs: 10}
	free := do(t, d, command.Place{Page: 1, Kind: "text", At: &command.Point{250, 20}, Datum: born})
	f = named(t, free, "date_birth")
	assert.Equal(t, form.Date, f.Format.Kind)
	assert.InDelta(t, 64, f.Rect.W(), 1, "as wide as it needs")
	_, err := d.Do(command.Place{Page: 1, Kind: "checkbox", At: &command.Point{45, 155}, Datum: born})
	require.ErrorContains(t, err, "text fields")
}
