package command_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/command"
	"zealousmargin.example/internal/form"
)

func TestListsThatAreReady(t *testing.T) {
	for _, l := range command.ReadyLists {
		got, err := command.ReadyList(l.Value)
		require.NoError(t, err)
		assert.NotEmpty(t, got, l.Value)
	}
	// ISO 3166-1 has 249 officially assigned codes of two letters (from memory).
	all, err := command.ReadyList("countries")
	require.NoError(t, err)
	assert.Len(t, all, 249)
	codes := map[string]string{}
	for _, o := range all {
		codes[o.Export] = o.Label
	}
	for code, name := range map[string]string{"DE": "Germany", "PL": "Poland", "BR": "Brazil", "JP": "Japan", "AX": "Åland Islands"} {
		assert.Equal(t, name, codes[code])
	}
	_, err = command.ReadyList("planets")
	assert.Error(t, err)
}

func TestLengthsAreReadWithTheirUnits(t *testing.T) {
	for s, want := range map[string]float64{
		"12": 12, "12 pt": 12, "25.4 mm": 72, "2,54 cm": 72, "0.5 in": 36, `1"`: 72, "automatic": 0,
		"-3": -3,
	} {
		got, err := form.ReadLength(s, "pt")
		require.NoError(t, err, s)
		assert.InDelta(t, want, got, 1e-9, s)
	}
	_, err := form.ReadLength("a foot", "pt")
	assert.ErrorContains(t, err, "4 mm")
}

func TestPagesAreReadAsNumbersAndRanges(t *testing.T) {
	got, err := command.Numbers("2, 4-6, 4", 9)
	require.NoError(t, err)
	assert.Equal(t, []int{2, 4, 5, 6}, got)
	got, err = command.Numbers("all", 3)
	require.NoError(t, err)
	assert.Equal(t, []int{1, 2, 3}, got)
	for _, bad := range []string{"0", "10", "6-4", "x", ""} {
		_, err := command.Numbers(bad, 9)
		assert.Error(t, err, bad)
	}
}
