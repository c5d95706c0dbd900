package grammar

import (
	"context"
	"os/exec"
	"path/filepath"
	"testing"

	"codeberg.org/go-pdf/fpdf"
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
		pages, err := engine.Pages(t.Context(), f.PDF)
		require.NoError(t, err, f.Style)
		for i, a := range f.Truth {
			require.LessOrEqual(t, a.Page, len(pages), f.Style)
			p := pages[a.Page-1]
			assert.True(t, geom.R(0, 0, p.Width, p.Height).Inset(-1).Covers(a.Rect, 0.5), "%s: %q lies at %v", f.Style, a.Words, a.Rect)
			for _, b := range f.Truth[:i] {
				if a.Page == b.Page {
					assert.Less(t, a.Rect.IoU(b.Rect), 0.2, "%s: %q and %q", f.Style, a.Words, b.Words)
				}
			}
		}
	}
	assert.Equal(t, map[string]int{library: 3, browser: 3, office: 3}, writers)
}

// MuPDF says where coloured areas lie, of which the places are known here by construction.
func TestPlacesAreReadFromTheirColours(t *testing.T) {
	if _, err := exec.LookPath("mutool"); err != nil {
		t.Skip("mutool is not installed: run make test")
	}
	f := fpdf.NewCustom(&fpdf.InitType{OrientationStr: "P", UnitStr: "pt", Size: fpdf.SizeType{Wd: 400, Ht: 600}})
	paint := func(c [3]int, x, y, w, h float64) {
		f.SetFillColor(c[0], c[1], c[2])
		f.Rect(x, y, w, h, "F")
	}
	f.AddPage()
	paint(startColour, 10, 10, 5, 5)
	paint(colourOf(3), 50, 100, 120, 20)
	paint(colourOf(4), 50, 140, 20, 20)
	paint(colourOf(4), 80, 140, 20, 20) // one place in two pieces
	f.SetFillColor(200, 200, 200)
	f.Rect(50, 300, 100, 100, "F") // grey is no place
	f.AddPage()
	paint(startColour, 10, 10, 5, 5)
	f.SetFillColor(colourOf(3)[0], colourOf(3)[1], colourOf(3)[2])
	f.Circle(100, 100, 10, "F")
	file := filepath.Join(t.TempDir(), "colours.pdf")
	require.NoError(t, f.OutputFileAndClose(file))

	seen, err := readColours(context.Background(), file)
	require.NoError(t, err)
	assert.Equal(t, []int{1, 2}, seen.starts)
	require.Len(t, seen.areas[0], 2)
	near := func(want, got geom.Rect, within float64) {
		t.Helper()
		assert.InDeltaSlice(t, []float64{want.X0, want.Y0, want.X1, want.Y1}, []float64{got.X0, got.Y0, got.X1, got.Y1}, within)
	}
	near(geom.R(50, 480, 170, 500), seen.areas[0][3].rect, 0.1)
	near(geom.R(50, 440, 100, 460), seen.areas[0][4].rect, 0.1)
	near(geom.R(90, 490, 110, 510), seen.areas[1][3].rect, 0.5) // the handles of curves lie a little outside
	assert.Equal(t, 2, seen.areas[1][3].page)
}
