package intake_test

import (
	"bytes"
	"encoding/csv"
	"math/rand/v2"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"

	"zealousmargin.example/internal/intake"
)

func TestTablesAreReadHoweverTheyAreWritten(t *testing.T) {
	want := [][]string{{"Name", "Town"}, {"Ilse Brandt; the elder", "Gannet Quay"}, {"Åse \"Bo\" Ek", "Ö"}}
	for name, s := range map[string]string{
		"commas":       "Name,Town\r\n\"Ilse Brandt; the elder\",Gannet Quay\r\n\"Åse \"\"Bo\"\" Ek\",Ö\r\n", // RFC 4180, 2
		"semicolons":   "Name;Town\n\"Ilse Brandt; the elder\";Gannet Quay\n\"Åse \"\"Bo\"\" Ek\";Ö\n",
		"tabs":         "\ufeffName\tTown\nIlse Brandt; the elder\tGannet Quay\n\"Åse \"\"Bo\"\" Ek\"\tÖ",
		"windows-1252": "Name,Town\n\"Ilse Brandt; the elder\",Gannet Quay\n\"\xc5se \"\"Bo\"\" Ek\",\xd6\n",
	} {
		rows, err := intake.Table([]byte(s))
		require.NoError(t, err, name)
		assert.Equal(t, want, rows, name)
	}
}

// Whatever stands in the cells, it comes back: written by the standard library and by a library for workbooks, drawn anew each time.
func TestAnyTableComesBack(t *testing.T) {
	seed := rand.Uint64()
	t.Logf("seed %d", seed)
	r := rand.New(rand.NewPCG(seed, 3))
	signs := []rune("abc ,;\"'\n\täöß€Ω雪-=+@#0123456789")
	for range 50 {
		rows := [][]string{{"a", "b", "c"}}
		for range 1 + r.IntN(20) {
			row := make([]string, 3)
			for j := range row {
				var s strings.Builder
				for range 1 + r.IntN(12) {
					s.WriteRune(signs[r.IntN(len(signs))])
				}
				row[j] = s.String() + "x"
			}
			rows = append(rows, row)
		}
		var b bytes.Buffer
		require.NoError(t, csv.NewWriter(&b).WriteAll(rows))
		got, err := intake.Table(b.Bytes())
		require.NoError(t, err)
		require.Equal(t, rows, got)
		f := excelize.NewFile()
		for i, row := range rows {
			for j, v := range row {
				cell, err := excelize.CoordinatesToCellName(j+1, i+1)
				require.NoError(t, err)
				require.NoError(t, f.SetCellStr("Sheet1", cell, v))
			}
		}
		b.Reset()
		require.NoError(t, f.Write(&b))
		got, err = intake.Table(b.Bytes())
		require.NoError(t, err)
		require.Equal(t, rows, got)
	}
}

func TestDaysOfAWorkbookAreDays(t *testing.T) {
	f := excelize.NewFile()
	own := "dd.mm.yyyy"
	usual, err := f.NewStyle(&excelize.Style{NumFmt: 14})
	require.NoError(t, err)
	custom, err := f.NewStyle(&excelize.Style{CustomNumFmt: &own})
	require.NoError(t, err)
	born := time.Date(1958, 3, 7, 0, 0, 0, 0, time.UTC)
	for cell, v := range map[string]any{"A1": "Born", "B1": "Length", "A2": born, "B2": 9.4, "A3": 21252} {
		require.NoError(t, f.SetCellValue("Sheet1", cell, v))
	}
	require.NoError(t, f.SetCellStyle("Sheet1", "A2", "A2", usual))
	require.NoError(t, f.SetCellStyle("Sheet1", "A3", "A3", custom))
	var b bytes.Buffer
	require.NoError(t, f.Write(&b))
	rows, err := intake.Table(b.Bytes())
	require.NoError(t, err)
	assert.Equal(t, [][]string{{"Born", "Length"}, {"1958-03-07", "9.4"}, {"1958-03-08"}}, rows)
}

func TestWhatIsNoTableIsRefusedInWords(t *testing.T) {
	for _, b := range [][]byte{[]byte("%PDF-1.7\x00"), []byte("PK\x03\x04 and no more"), make([]byte, intake.MaxTable+1)} {
		_, err := intake.Table(b)
		require.Error(t, err)
	}
	_, err := intake.Table([]byte("a,b\n\"open,b\n"))
	require.ErrorContains(t, err, "mend the quotes")
}
