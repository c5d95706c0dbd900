package object_test

import (
	"math"
	"math/rand/v2"
	"regexp"
	"strconv"
	"strings"
	"testing"
	"time"
	"unicode/utf16"

	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/pdf/object"
)

// Dates are read as ISO 32000-2, 7.9.4, has them: its own example, and with everything left out that may be.
func TestDatesAreReadHoweverShortTheyAre(t *testing.T) {
	west := time.FixedZone("", -8*3600)
	for said, want := range map[string]time.Time{
		"D:199812231952-08'00":    time.Date(1998, 12, 23, 19, 52, 0, 0, west), // the example there
		"D:19981223195200-08'00'": time.Date(1998, 12, 23, 19, 52, 0, 0, west), // as PDF 1.7 wrote it
		"D:20260301120000Z":       time.Date(2026, 3, 1, 12, 0, 0, 0, time.UTC),
		"D:20260301120000Z00'00'": time.Date(2026, 3, 1, 12, 0, 0, 0, time.UTC),
		"D:20260301120000+05'30":  time.Date(2026, 3, 1, 12, 0, 0, 0, time.FixedZone("", 19800)),
		"D:20260301120000+02":     time.Date(2026, 3, 1, 12, 0, 0, 0, time.FixedZone("", 7200)),
		"20260301120000":          time.Date(2026, 3, 1, 12, 0, 0, 0, time.UTC),
		"D:2026030112":            time.Date(2026, 3, 1, 12, 0, 0, 0, time.UTC),
		"D:20260301":              time.Date(2026, 3, 1, 0, 0, 0, 0, time.UTC),
		"D:202603":                time.Date(2026, 3, 1, 0, 0, 0, 0, time.UTC),
		"D:2026":                  time.Date(2026, 1, 1, 0, 0, 0, 0, time.UTC),
		"D:20260301996161Z":       time.Date(2026, 3, 1, 0, 0, 0, 0, time.UTC),
		"":                        {}, "D:": {}, "yesterday": {}, "D:203": {}, "D:20261341": {},
	} {
		got := object.ReadDate(said)
		assert.True(t, want.Equal(got), "%q is %s, not %s", said, got, want)
	}
	rng := rand.New(rand.NewPCG(rand.Uint64(), 2))
	for range 500 {
		at := time.Unix(rng.Int64N(4_000_000_000), 0)
		assert.True(t, at.Equal(object.ReadDate(object.Date(at))), at)
	}
}

// Numbers of content streams have no exponent (ISO 32000-2, 7.3.3), and are what they were to the last place that is written.
func TestNumbersAreWrittenAsPDFHasThem(t *testing.T) {
	plain := regexp.MustCompile(`^-?\d+(\.\d+)?$`)
	rng := rand.New(rand.NewPCG(rand.Uint64(), 3))
	for i := range 2000 {
		v := rng.NormFloat64() * math.Pow(10, float64(rng.IntN(16)-9))
		if i%4 == 0 {
			v = math.Round(v)
		}
		for _, c := range []struct {
			s   string
			off float64
		}{{object.Dec(v), 0.0005}, {object.DecFine(v), 0.0000005}} {
			require.Regexp(t, plain, c.s, v)
			back, err := strconv.ParseFloat(c.s, 64)
			require.NoError(t, err)
			require.InDelta(t, v, back, c.off*1.001+math.Abs(v)*1e-12, c.s)
		}
		assert.NotEqual(t, "-0", object.Dec(v))
		assert.False(t, strings.Contains(object.Dec(v), ".") && strings.HasSuffix(object.Dec(v), "0"), object.Dec(v))
	}
}

// Texts come back as they were, whatever is in them: in ASCII as they are, else in UTF-16 with its mark (ISO 32000-2, 7.9.2.2).
func TestTextsComeBack(t *testing.T) {
	rng := rand.New(rand.NewPCG(rand.Uint64(), 4))
	signs := []rune(`abc ()\<>%/[]{}` + "\n\r\tÄéßŁЖ日本🙂’–\u00a0")
	for range 1000 {
		var s []rune
		for range rng.IntN(12) {
			s = append(s, signs[rng.IntN(len(signs))])
		}
		o := object.Str(string(s))
		require.Equal(t, string(s), object.StringText(o), "%v", o)
		if h, wide := o.(types.HexLiteral); wide {
			assert.False(t, object.ASCII(strings.NewReplacer("\n", "", "\r", "", "\t", "").Replace(string(s))))
			want := "feff"
			for _, u := range utf16.Encode(s) {
				want += strconv.FormatUint(uint64(u)+1<<16, 16)[1:]
			}
			assert.Equal(t, want, strings.ToLower(string(h)))
		}
	}
	assert.Equal(t, "é", object.StringText(types.StringLiteral("\xef\xbb\xbfé")), "UTF-8 with its mark, as PDF 2.0 allows")
	assert.Empty(t, object.StringText(types.Integer(3)))
}

func TestRectanglesAreWrittenToAHundredth(t *testing.T) {
	a := object.RectArray(geom.Rect{X0: 1.004, Y0: 2.006, X1: 3, Y1: 1e6 + 0.5})
	assert.Equal(t, types.Array{types.Float(1), types.Float(2.01), types.Float(3), types.Float(1e6 + 0.5)}, a)
	assert.True(t, object.Near(geom.R(0, 0, 1, 1), geom.R(0.01, 0, 1, 1.015)))
	assert.False(t, object.Near(geom.R(0, 0, 1, 1), geom.R(0.03, 0, 1, 1)))
	b, err := object.Read(strings.NewReader("12345"), 5)
	require.NoError(t, err)
	assert.Equal(t, "12345", string(b))
	_, err = object.Read(strings.NewReader("123456"), 5)
	assert.ErrorIs(t, err, object.ErrTooLarge)
}
