package command_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/command"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
)

// cells are the fields of a table, row by row; an empty name is no field.
func cells(rows ...[3]string) []form.Field {
	var out []form.Field
	for r, row := range rows {
		for c, name := range row {
			if name == "" {
				continue
			}
			x, y := 20+100*float64(c), 240-24*float64(r)
			out = append(out, form.Field{ID: "f-" + name, Kind: form.Text, Name: name, Rect: geom.R(x, y, x+90, y+18)})
		}
	}
	return out
}

func TestAFormulaIsCopiedDownATable(t *testing.T) {
	for _, c := range []struct {
		name  string
		rows  [][3]string
		wants map[string]string
		said  string
	}{
		{
			"numbered rows, of which one lacks its rate",
			[][3]string{
				{"line_1_quantity", "line_1_rate", "line_1_amount"},
				{"line_2_quantity", "line_2_rate", "line_2_amount"},
				{"line_3_quantity", "", "line_3_amount"},
				{"line_4_quantity", "line_4_rate", "line_4_amount"},
			},
			map[string]string{
				"line_2_amount": "line_2_quantity * line_2_rate", "line_3_amount": "", "line_4_amount": "line_4_quantity * line_4_rate",
			},
			"Copied to row 2, row 4. Left as it is: row 3 has no rate.",
		},
		{
			"rows in words, with a total below",
			[][3]string{
				{"hauling_quantity", "hauling_rate", "hauling_amount"},
				{"winter_storage_quantity", "winter_storage_rate", "winter_storage_amount"},
				{"", "", "total_amount"},
			},
			map[string]string{"winter_storage_amount": "winter_storage_quantity * winter_storage_rate", "total_amount": ""},
			"Copied to winter storage. Left as it is: total has no quantity.",
		},
		{
			"names that tell nothing: the places do",
			[][3]string{{"q", "price", "sum_here"}, {"text_7", "field9", "x"}, {"q_again", "", "y"}, {"a", "b", "c"}},
			map[string]string{"x": "text_7 * field9", "y": "", "c": "a * b"},
			"Copied to x, c. Left as it is: y has no price.",
		},
	} {
		t.Run(c.name, func(t *testing.T) {
			d := desk(cells(c.rows...)...)
			first := c.rows[0]
			d.Draft = do(t, d, command.Set{Fields: []string{first[2]}, Key: "formula", Value: command.Words(first[0] + " * " + first[1])})
			e, err := d.Do(command.CopyFormula{Field: first[2]})
			require.NoError(t, err)
			assert.Equal(t, c.said, e.Said)
			after := *d.Draft
			require.NoError(t, after.Apply(e))
			for name, want := range c.wants {
				assert.Equal(t, want, named(t, &after, name).Formula, name)
			}
		})
	}
	d := desk(cells([3]string{"a", "b", "c"})...)
	d.Draft = do(t, d, command.Set{Fields: []string{"c"}, Key: "formula", Value: "a * b"})
	_, err := d.Do(command.CopyFormula{Field: "c"})
	assert.ErrorContains(t, err, "there are no other rows of c")
}
