package faults_test

import (
	"bytes"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/measure/faults"
	"zealousmargin.example/internal/pdf/read"
	"zealousmargin.example/internal/pdf/write"
)

// Faults in every property of every kind, each at every place where the property stands in the file,
// are named by the proof; those that may pass are few and have a reason.
func TestTheProofNamesFaults(t *testing.T) {
	all, err := faults.All()
	require.NoError(t, err)
	require.Greater(t, len(all), 300)
	passed, kinds := 0, map[form.Kind]int{}
	for _, r := range all {
		kinds[r.Kind]++
		if !r.Noticed {
			passed++
			assert.NotEmpty(t, r.Passes, "%s passes unnoticed", r)
			continue
		}
		assert.True(t, r.Named, "%s is refused without its name: %s", r, r.Said)
	}
	for _, k := range form.Kinds {
		assert.Greater(t, kinds[k], 50, k)
	}
	assert.LessOrEqual(t, 100*passed, 2*len(all), "%d of %d pass", passed, len(all))
}

// The same faults in a document that is brought in are to be seen in its notes.
func TestADocumentThatIsBroughtInShowsFaults(t *testing.T) {
	all, err := faults.All()
	require.NoError(t, err)
	for _, r := range all {
		assert.True(t, r.Shown || r.Hidden != "", "%s does not show", r)
	}
}

// Every property of the registry is written, noticed when it is not, and comes back with its form:
// but those that say why they are not in the file.
func TestEveryPropertyIsWrittenAndComesBack(t *testing.T) {
	src, err := faults.Source()
	require.NoError(t, err)
	specimens, err := faults.Specimens()
	require.NoError(t, err)
	seen := map[string]bool{"page": true, "kind": true, "order": true, "linked": true} // faults.Arranged has them
	for _, s := range specimens {
		p, ok := form.PropertyOf(form.FieldProperties, s.Property)
		require.True(t, ok)
		seen[p.Key] = true
		with, err := write.Release(src, s.With)
		require.NoError(t, err)
		without, err := write.Release(src, s.Without)
		require.NoError(t, err)
		assert.False(t, bytes.Equal(with, without), "%s of a %s is not written", p.Key, s.Kind)
		came, err := read.Arrive(with)
		require.NoError(t, err)
		want, ok := s.With.Field("a")
		require.True(t, ok)
		for _, got := range came.Fields {
			if got.Name != want.Name || got.Kind != want.Kind || got.Export != want.Export {
				continue
			}
			if p.Key != "picture" { // it stays in the file, and is said to
				assert.Equal(t, p.Get(&want), p.Get(&got), "%s of a %s does not come back", p.Key, s.Kind)
			} else {
				assert.Contains(t, got.Origin.Keeps, "its picture")
			}
			break
		}
	}
	for _, p := range form.FieldProperties {
		assert.True(t, seen[p.Key] || p.Draft != "", "%s has no specimen", p.Key)
	}
}
