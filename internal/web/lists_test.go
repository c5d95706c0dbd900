package web

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestListsThatAreReady(t *testing.T) {
	for _, l := range readyLists {
		got, err := readyList(l.Key)
		require.NoError(t, err)
		assert.NotEmpty(t, got, l.Key)
	}
	// ISO 3166-1 has 249 officially assigned codes of two letters (from memory).
	all, err := readyList("countries")
	require.NoError(t, err)
	assert.Len(t, all, 249)
	codes := map[string]string{}
	for _, o := range all {
		codes[o.Export] = o.Label
	}
	for code, name := range map[string]string{"DE": "Germany", "PL": "Poland", "BR": "Brazil", "JP": "Japan", "AX": "Åland Islands"} {
		assert.Equal(t, name, codes[code])
	}
	_, err = readyList("planets")
	assert.Error(t, err)
}

func TestLengthsAreReadWithTheirUnits(t *testing.T) {
	for s, want := range map[string]float64{"12": 12, "12 pt": 12, "25.4 mm": 72, "2,54 cm": 72, "0.5 in": 36, `1"`: 72, "automatic": 0, "-3": -3} {
		got, err := length(s)
		require.NoError(t, err, s)
		assert.InDelta(t, want, got, 1e-9, s)
	}
	_, err := length("a foot")
	assert.ErrorContains(t, err, "4 mm")
}

func TestPagesAreReadAsNumbersAndRanges(t *testing.T) {
	got, err := pagesOf("2, 4-6, 4", 9)
	require.NoError(t, err)
	assert.Equal(t, []int{2, 4, 5, 6}, got)
	got, err = pagesOf("all", 3)
	require.NoError(t, err)
	assert.Equal(t, []int{1, 2, 3}, got)
	for _, bad := range []string{"0", "10", "6-4", "x", ""} {
		_, err := pagesOf(bad, 9)
		assert.Error(t, err, bad)
	}
}
