package intake_test

import (
	"encoding/binary"
	"hash/crc32"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/intake"
	"zealousmargin.example/internal/pdf/engine"
	"zealousmargin.example/internal/pdf/object"
	"zealousmargin.example/internal/pdf/pdftest"
)

// header is a PNG that says how large it is, and has nothing else (ISO/IEC 15948, 5 and 11.2.2).
func header(width, height uint32, bits, colour byte) []byte {
	b := []byte("\x89PNG\r\n\x1a\n")
	data := append([]byte("IHDR"), 0, 0, 0, 0, 0, 0, 0, 0, bits, colour, 0, 0, 0)
	binary.BigEndian.PutUint32(data[4:], width)
	binary.BigEndian.PutUint32(data[8:], height)
	b = binary.BigEndian.AppendUint32(b, 13)
	b = append(b, data...)
	return binary.BigEndian.AppendUint32(b, crc32.ChecksumIEEE(data))
}

// What would take too much memory or time is refused, with what to do; the memory that this process takes stays as it was.
func TestWhatWouldTakeTooMuchIsRefusedInWords(t *testing.T) {
	quick := engine.Within(t.Context(), 3*time.Second)
	for _, c := range []struct {
		name, says string
		b          []byte
	}{
		{"vast.png", "60000 × 60000 pixels", header(60000, 60000, 8, 2)},
		{"wide.png", "more than can be opened", header(1<<30, 1, 16, 6)},
		{"deep.md", "12 deep", []byte(strings.Repeat(">", 400_000) + "a")},
		{"deep lists.md", "12 deep", []byte(strings.Repeat("- ", 40) + "a")},
		{"long.txt", "split it", []byte(strings.Repeat("a long story\n", 200_000))},
		{"many pages.pdf", "100000 pages, the limit is 1000", pdftest.Repeated(100_000)},
		{"swelling.pdf", "memory", pdftest.Swelling(600 << 20)},
	} {
		_, err := intake.Read(quick, intake.Source{Name: c.name, Bytes: c.b}, silent)
		require.Error(t, err, c.name)
		if c.name == "swelling.pdf" && !assert.NotErrorIs(t, err, object.ErrDamaged) {
			continue
		}
		assert.ErrorContains(t, err, c.says, c.name)
	}
	_, err := intake.Read(engine.Within(t.Context(), time.Second/3), intake.Source{Name: "endless.pdf", Bytes: pdftest.Endless()}, silent)
	if err != nil {
		assert.ErrorContains(t, err, "takes too long")
	}
	_, _, err = intake.Folder(zipped(t, map[string]string{
		"1.txt": strings.Repeat("a", 60<<20), "2.txt": strings.Repeat("b", 60<<20), "3.txt": strings.Repeat("c", 60<<20),
		"4.txt": strings.Repeat("d", 60<<20),
	}))
	assert.ErrorContains(t, err, "split it")
	_, skipped, err := intake.Folder(zipped(t, map[string]string{"zeros.pdf": string(make([]byte, 60<<20)), "words.txt": "Berth"}))
	require.NoError(t, err)
	assert.Empty(t, skipped, "what is in it is looked at when it is read")
	// lines across and ordinary lists are no nesting
	plain := "a\n\n--------------------\n\n- one\n  - two\n    - three\n"
	r, err := intake.Pages(t.Context(), intake.Source{Name: "plain.md", Bytes: []byte(plain)})
	require.NoError(t, err)
	assert.Len(t, r.Pages, 1)
}
