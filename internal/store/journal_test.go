package store_test

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/store"
)

func asJSON(t *testing.T, v any) string {
	t.Helper()
	b, err := json.Marshal(v)
	require.NoError(t, err)
	return string(b)
}

// Random edits of every kind are taken back one by one and done again, and the draft is at each step what it was then, as a copy says
// that the journal has never seen.
func TestRandomEditsAreTakenBackToWhatWasThere(t *testing.T) {
	seed := rand.Uint64()
	r := rand.New(rand.NewPCG(seed, 1))
	s, who, doc := office(t)
	at := func() string {
		d, err := s.Draft(ctx, doc)
		require.NoError(t, err)
		slices.SortFunc(d.Template.Fields, func(a, b form.Field) int { return len(a.ID) - len(b.ID) })
		slices.SortStableFunc(d.Template.Fields, func(a, b form.Field) int { return map[bool]int{true: -1, false: 1}[a.ID < b.ID] })
		return asJSON(t, d.Template)
	}
	states := []string{at()}
	for i := range 60 {
		_, err := s.Change(ctx, doc, -1, who, "", func(d *form.Template) (form.Edit, error) {
			n := len(d.Fields)
			pick := func() form.Field { return d.Fields[r.IntN(n)] }
			switch k := r.IntN(7); {
			case n < 3 || k == 0:
				return d.Place(form.Field{
					Page: 1, Kind: form.Text, Name: fmt.Sprintf("f%d", i), Rect: geom.R(50, 700-float64(i)*10, 150, 708-float64(i)*10),
				})
			case k == 1:
				f := pick()
				return form.Edit{Title: "removed", Before: []form.Field{f}}, nil
			case k == 2:
				f := d.Pages[0]
				f.Notes = fmt.Sprintf("note %d", i)
				after := slices.Clone(d.Pages)
				after[0] = f
				return form.Edit{Title: "page", Pages: &form.PagesEdit{Before: d.Pages, After: after}}, nil
			case k == 3:
				after := d.Details
				after.Title = fmt.Sprintf("title %d", i)
				return form.Edit{Title: "details", Details: &form.DetailsEdit{Before: d.Details, After: after}}, nil
			default:
				f := pick()
				g := f
				switch r.IntN(5) {
				case 0:
					g.Tooltip = fmt.Sprintf("tip %d", i)
				case 1:
					g.Required = !g.Required
				case 2:
					g.Rect = g.Rect.Shift(float64(1+r.IntN(5)), 0)
				case 3:
					g.Checks = append(slices.Clone(g.Checks), form.Check{Test: form.NotAfter, A: "today", Message: fmt.Sprint(i)})
				case 4:
					g.Tooltip, g.Default, g.Checks = "", fmt.Sprint(i), nil
				}
				return form.Edit{Title: "changed", Before: []form.Field{f}, After: []form.Field{g}}, nil
			}
		})
		require.NoError(t, err, "seed %d, edit %d", seed, i)
		states = append(states, at())
	}
	for range 3 {
		for i := len(states) - 2; i >= 0; i-- {
			_, err := s.Undo(ctx, doc, who, -1, false)
			require.NoError(t, err, "seed %d, back to %d", seed, i)
			require.Equal(t, states[i], at(), "seed %d, back to %d", seed, i)
		}
		for i := 1; i < len(states); i++ {
			_, err := s.Undo(ctx, doc, who, -1, true)
			require.NoError(t, err, "seed %d, again %d", seed, i)
			require.Equal(t, states[i], at(), "seed %d, again %d", seed, i)
		}
	}
}

// Five thousand edits of a document of three hundred fields take little room, the last five hundred can be taken back, and steps that an
// earlier release has kept whole can be, too.
func TestTheJournalLasts(t *testing.T) {
	s, who, doc := office(t)
	_, err := s.Change(ctx, doc, -1, who, "", func(d *form.Template) (form.Edit, error) {
		var all []form.Field
		for i := range 300 {
			x, y := float64(30+i%10*50), float64(30+i/10*26)
			all = append(all, form.Field{
				Page: 1, Kind: form.Text, Name: fmt.Sprintf("field_%d", i), Rect: geom.R(x, y, x+44, y+16), MaxLen: 40,
				Tooltip: "What is asked in this place", Label: "What is asked in this place",
				Checks: []form.Check{{Test: form.NotAfter, A: "today", Message: "Not ahead."}},
			})
		}
		return d.AddNew(all)
	})
	require.NoError(t, err)
	const edits = 1200 // the bench has all five thousand
	for i := range edits {
		_, err := s.Change(ctx, doc, -1, who, "", func(d *form.Template) (form.Edit, error) {
			f := d.Fields[i%len(d.Fields)]
			g := f
			g.Tooltip = fmt.Sprintf("What is asked in this place, said for the %d. time", i)
			return form.Edit{Title: "tooltip", Before: []form.Field{f}, After: []form.Field{g}}, nil
		})
		require.NoError(t, err)
	}
	bytes := count(t, s, `select sum(pg_column_size(e.*))::int from edits e where state in ('done', 'folded') and document_id = $1`, doc)
	assert.Less(t, bytes, edits*1000, "bytes a step")
	back := 0
	for ; ; back++ {
		if _, err := s.Undo(ctx, doc, who, -1, false); err != nil {
			assert.ErrorIs(t, err, store.ErrNoUndo)
			break
		}
	}
	assert.GreaterOrEqual(t, back, store.UndoSteps)
	assert.LessOrEqual(t, back, store.UndoSteps+60)
	steps := count(t, s, `select count(*) from edits where document_id = $1`, doc)
	assert.Equal(t, edits+1, steps, "who has done what stays on record")
	_, err = s.Undo(ctx, doc, who, -1, true)
	require.NoError(t, err, "and they are done again")
}
