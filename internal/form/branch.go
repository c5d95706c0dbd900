package form

import (
	"slices"
	"strings"
)

// Branch is one part of names with full stops, as fields are nested in a file (ISO 32000-2, 12.7.4.2).
type Branch struct {
	Part string
	Ends bool   // a name ends here, and may go on for others
	Name string // the whole name that ends here
	Kids []*Branch
}

// Branches are the trees that names make, in the order of the names; one that is there twice is there once.
func Branches(names []string) []*Branch {
	root := &Branch{}
	for _, n := range slices.Sorted(slices.Values(names)) {
		at := root
		for part := range strings.SplitSeq(n, ".") {
			i := slices.IndexFunc(at.Kids, func(k *Branch) bool { return k.Part == part })
			if i < 0 {
				i = len(at.Kids)
				at.Kids = append(at.Kids, &Branch{Part: part})
			}
			at = at.Kids[i]
		}
		at.Name, at.Ends = n, true
	}
	return root.Kids
}
