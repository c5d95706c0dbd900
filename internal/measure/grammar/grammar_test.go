package grammar

import (
	"context"
	"os/exec"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/pdf/engine"
)

func TestEveryFactorHasFiveValuesAndEveryWriterDrawsMostOfThem(t *testing.T) {
	for _, f := range factors {
		assert.GreaterOrEqual(t, len(f.values), 5, f.name)
		for writer, not := range f.not {
			assert.Less(t, len(not), len(f.values), "%s by %s", f.name, writer)
		}
	}
}

func TestASeedDrawsTheSameFormsAgain(t *testing.T) {
	seen := map[string]bool{}
	for n := range 30 {
		a, err := newPlan(7, n)
		require.NoError(t, err)
		b, err := newPlan(7, n)
		require.NoError(t, err)
		assert.Equal(t, a.of, b.of)
		assert.Equal(t, a.truth, b.truth)
		assert.Equal(t, n%10 == 9, len(a.truth) == 0, "one in ten asks for nothing")
		seen[a.at("language")] = true
	}
	assert.Greater(t, len(seen), 5)
}

func TestColoursStayApartWhenTheyAreRounded(t *testing.T) {
	for _, id := range []int{0, 11, 12, 143, 144, 400, firstPart, firstPart + 9} {
		c := colourOf(id)
		for _, off := range []int{-2, 0, 2} {
			got, ok := fieldOf([3]float64{float64(c[0]+off) / 255, float64(c[1]+off) / 255, float64(c[2]+off) / 255})
			require.True(t, ok, id)
			assert.Equal(t, id, got)
		}
	}
	_, ok := fieldOf([3]float64{0.5, 0.5, 0.5})
	assert.False(t, ok, "grey is no place")
}

// All three writers give forms whose places lie on their pages, apart from each other.
func TestTheWritersPutEveryPlaceOnThePage(t *testing.T) {
	for _, name := range []string{"chromium", "soffice", "mutool"} {
		if _, err := exec.LookPath(name); err != nil {
			t.Skip(name + " is not installed: run make test")
		}
	}
	forms, err := Make(context.Background(), 3, 9)
	require.NoError(t, err)
	require.Len(t, forms, 9)
	writers := map[string]int{}
	for _, f := range forms {
		writers[f.Of["writer"]]++
		d, err := engine.Open(f.PDF)
		require.NoError(t, err, f.Style)
		for i, a := range f.Truth {
			require.LessOrEqual(t, a.Page, len(d.Pages()), f.Style)
			p := d.Pages()[a.Page-1]
			assert.True(t, geom.R(0, 0, p.Width, p.Height).Inset(-1).Covers(a.Rect, 0.5), "%s: %q lies at %v", f.Style, a.Words, a.Rect)
			for _, b := range f.Truth[:i] {
				if a.Page == b.Page {
					assert.Less(t, a.Rect.IoU(b.Rect), 0.2, "%s: %q and %q", f.Style, a.Words, b.Words)
				}
			}
		}
		d.Close()
	}
	assert.Equal(t, map[string]int{library: 3, browser: 3, office: 3}, writers)
}
