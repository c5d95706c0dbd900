package form_test

import (
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"zealousmargin.example/internal/form"
)

// Names come back from the trees that they make: each once, its parts on the way to it, and no part twice under one parent.
func TestNamesComeBackFromTheirBranches(t *testing.T) {
	seed := rand.Uint64()
	t.Logf("seed %d", seed)
	r := rand.New(rand.NewPCG(seed, 11))
	for range 200 {
		var names []string
		for range r.IntN(12) {
			var parts []string
			for range 1 + r.IntN(4) {
				parts = append(parts, string(rune('a'+r.IntN(3))))
			}
			names = append(names, strings.Join(parts, "."))
		}
		var back []string
		var walk func(way []string, in []*form.Branch)
		walk = func(way []string, in []*form.Branch) {
			var parts []string
			for _, b := range in {
				parts = append(parts, b.Part)
				here := append(slices.Clone(way), b.Part)
				if b.Ends {
					assert.Equal(t, strings.Join(here, "."), b.Name)
					back = append(back, b.Name)
				} else {
					assert.NotEmpty(t, b.Kids, "a branch leads to a name")
				}
				walk(here, b.Kids)
			}
			assert.Len(t, slices.Compact(slices.Sorted(slices.Values(parts))), len(parts), "no part is there twice: %v", names)
		}
		walk(nil, form.Branches(names))
		slices.Sort(back)
		assert.Equal(t, slices.Compact(slices.Sorted(slices.Values(names))), back)
	}
}
