package readers

import (
	"cmp"
	"math/rand/v2"
	"os"
	"strconv"
	"time"
)

// All chooses everything.
func All(Property) bool { return true }

// Sample is a sample that is drawn anew each time: its seed is that in the variable ZM_SEED, or the time; with ZM_ALL=yes it is everything.
type Sample struct {
	*rand.Rand
	Seed uint64
	all  bool
}

// NewSample draws a sample.
func NewSample() Sample {
	seed, err := strconv.ParseUint(os.Getenv("ZM_SEED"), 10, 64)
	if err != nil {
		seed = uint64(time.Now().UnixNano())
	}
	return Sample{rand.New(rand.NewPCG(cmp.Or(seed, 1), 77)), seed, os.Getenv("ZM_ALL") == "yes"}
}

// Of gives n of the names, or all where there are fewer.
func (s Sample) Of(names []string, n int) []string {
	if s.all || n >= len(names) {
		return names
	}
	var out []string
	for _, i := range s.Perm(len(names))[:n] {
		out = append(out, names[i])
	}
	return out
}

// OneIn chooses one of n.
func (s Sample) OneIn(n int) bool { return s.all || s.IntN(n) == 0 }

// Properties chooses one of n properties.
func (s Sample) Properties(n int) func(Property) bool {
	chosen := map[string]bool{}
	return func(p Property) bool {
		if _, asked := chosen[p.Title]; !asked {
			chosen[p.Title] = s.OneIn(n)
		}
		return chosen[p.Title]
	}
}
