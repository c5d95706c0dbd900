package faults_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/measure/faults"
	"zealousmargin.example/internal/pdf/proof"
	"zealousmargin.example/internal/pdf/read"
)

func TestX(t *testing.T) {
	src, err := faults.Source()
	require.NoError(t, err)
	all, err := faults.Specimens()
	require.NoError(t, err)
	n, bad, unnamed, unshown := 0, 0, 0, 0
	for _, s := range all {
		fs, sound, err := s.Of(src)
		require.NoError(t, err, s.Property, s.Kind)
		if err := proof.ProveRelease(src, sound, s.With); err != nil {
			fmt.Println("SOUND", s.Property, s.Kind, err)
			continue
		}
		a, err := read.Arrive(sound)
		require.NoError(t, err)
		for _, f := range fs {
			r := f.Try(a)
			n++
			if !r.Noticed {
				bad++
				fmt.Println("ESCAPES", f)
			} else if !r.Named {
				unnamed++
				fmt.Println("UNNAMED", f, r.Said)
			}
			if !r.Shown {
				unshown++
				fmt.Println("UNSHOWN", f)
			}
		}
	}
	fmt.Println(len(all), n, bad, unnamed, unshown)
}
