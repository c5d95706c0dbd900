package pdf_test

import (
	"bytes"
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"codeberg.org/go-pdf/fpdf"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/pdf/engine"
)

// leaflet is a page with a headline across, two columns of running text with one leading, a line across, and a table of four
// columns below; seed varies its words. It gives the page, and the words in the order in which a person reads them.
func leaflet(t *testing.T, seed uint64) (pdf []byte, columns []string) {
	t.Helper()
	r := rand.New(rand.NewPCG(seed, 7))
	f := fpdf.New("P", "pt", "A4", "")
	f.SetFont("Helvetica", "", 10)
	f.AddPage()
	f.Text(50, 60, "Notes for those who berth at the quay between the first of April and the end of October")
	for side := range 2 {
		for line := range 9 + r.IntN(6) {
			x, y := 50+270*float64(side), 90+14*float64(line)
			words := ""
			for f.GetStringWidth(words) < 190+25*r.Float64() {
				words += fmt.Sprintf("%c%d", 'a'+rune(side), len(columns))
				columns = append(columns, words[strings.LastIndex(" "+words, " "):])
				words += " "
			}
			f.Text(x, y, strings.TrimSpace(words))
		}
	}
	f.Text(50, 320, "The charges of the harbour office for the season, in the order in which they fall due, all taxes included")
	for row := range 5 {
		for column, x := range []float64{50, 210, 330, 450} {
			f.Text(x, 350+18*float64(row), fmt.Sprintf("r%dc%d", row, column))
		}
	}
	var b bytes.Buffer
	require.NoError(t, f.Output(&b))
	return b.Bytes(), columns
}

// The words of a page come out in the order in which poppler's reader, that shares no code with ours, has them; and rows of a
// table stay rows, which it parts.
func TestTextComesOutInReadingOrder(t *testing.T) {
	for seed := range uint64(12) {
		b, columns := leaflet(t, seed)
		ev, err := engine.ReadPage(t.Context(), b, 1)
		require.NoError(t, err)
		said := ev.Text()
		only := func(text string) (out []string) {
			for _, w := range strings.Fields(text) {
				if len(w) < 5 && (w[0] == 'a' || w[0] == 'b') && strings.ContainsAny(w, "0123456789") {
					out = append(out, w)
				}
			}
			return out
		}
		require.Equal(t, columns, only(said), "seed %d", seed)
		assert.Equal(t, only(tool(t, b, "pdftotext", "IN", "-")), only(said), "seed %d", seed)
		assert.Less(t, strings.Index(said, "Notes for those"), strings.Index(said, columns[0]))
		for row := range 5 {
			assert.Contains(t, said, fmt.Sprintf("\nr%dc0\tr%dc1\tr%dc2\tr%dc3\n", row, row, row, row), "columns of a table stay columns")
		}
	}
}
