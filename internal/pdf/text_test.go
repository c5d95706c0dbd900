package pdf_test

import (
	"bytes"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"codeberg.org/go-pdf/fpdf"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/demo"
	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/geom"
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

// The words of a page are the same whether its lines are looked for or not: of pages that are typeset, of scans that bring a layer of words
// with them, one that lies on the ink and one that does not, and of scans that were recognised.
func TestTheWordsOfAPageNeedNoLines(t *testing.T) {
	docs, err := demo.Documents()
	require.NoError(t, err)
	text := &evidence.Text{Place: geom.Identity, Words: []evidence.Word{
		{Text: "Berth", Rect: geom.R(72, 700, 110, 712), Base: 702, Size: 12},
		{Text: "Gannet", Rect: geom.R(72, 500, 110, 512), Base: 502, Size: 12},
	}}
	words := func(p *evidence.Page) []string {
		out := slices.DeleteFunc(strings.Fields(p.Text()), func(w string) bool { return w == "?" }) // ink that was not read
		slices.Sort(out)
		return out
	}
	for _, d := range docs {
		if !strings.HasSuffix(d.File, ".pdf") {
			continue
		}
		require.NoError(t, engine.Use(t.Context(), d.Bytes, func(doc *engine.Doc) error {
			for i, as := range doc.Pages() {
				as.N = i + 1
				plain, err := doc.EvidenceOf(as, nil)
				require.NoError(t, err)
				for _, scan := range []bool{false, true} {
					as.Scan = scan
					for _, said := range []*evidence.Text{nil, text} {
						whole, err := doc.EvidenceOf(as, said)
						require.NoError(t, err)
						alone, err := doc.Written(as, said)
						require.NoError(t, err)
						assert.Equal(t, words(whole), words(alone), "%s %d", d.File, i+1)
						assert.Equal(t, whole.DPI, alone.DPI)
						assert.Equal(t, whole.Layered, alone.Layered)
						if scan && said != nil {
							assert.Equal(t, []string{"Berth", "Gannet"}, words(alone))
						} else if said == nil && !scan {
							assert.Equal(t, words(plain), words(alone))
						}
					}
				}
			}
			return nil
		}))
	}
}
