package web_test

import (
	"math"
	"os"
	"regexp"
	"strconv"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// luminance of an sRGB colour as WCAG 2.2 defines it ("relative luminance").
func luminance(t *testing.T, hex string) float64 {
	t.Helper()
	channel := func(s string) float64 {
		n, err := strconv.ParseUint(s, 16, 8)
		require.NoError(t, err)
		c := float64(n) / 255
		if c <= 0.04045 {
			return c / 12.92
		}
		return math.Pow((c+0.055)/1.055, 2.4)
	}
	return 0.2126*channel(hex[0:2]) + 0.7152*channel(hex[2:4]) + 0.0722*channel(hex[4:6])
}

// WCAG 2.2, 1.4.3: text has a contrast of at least 4.5:1 against its ground.
func TestEveryTextColourIsReadableOnItsGround(t *testing.T) {
	css, err := os.ReadFile("../../assets/app.css")
	require.NoError(t, err)
	colour := map[string]string{}
	for _, m := range regexp.MustCompile(`--color-([a-z0-9-]+): #([0-9A-Fa-f]{6});`).FindAllStringSubmatch(string(css), -1) {
		colour[m[1]] = m[2]
	}
	for text, grounds := range map[string][]string{
		"ink":       {"paper", "paper-deep", "sheet", "verdigris-wash", "ochre-wash"},
		"ink-2":     {"paper", "sheet", "ochre-wash", "verdigris-wash"},
		"verdigris": {"paper", "sheet", "ochre-wash"}, "ochre": {"paper", "sheet", "ochre-wash"},
		"vermilion": {"paper", "sheet", "vermilion-wash"},
		"sheet":     {"verdigris", "ink"}, "paper": {"ink", "verdigris"},
	} {
		for _, ground := range grounds {
			a, b := luminance(t, colour[text]), luminance(t, colour[ground])
			ratio := (math.Max(a, b) + 0.05) / (math.Min(a, b) + 0.05)
			assert.GreaterOrEqual(t, ratio, 4.5, "%s on %s", text, ground)
		}
	}
}
