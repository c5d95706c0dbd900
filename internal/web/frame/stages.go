package frame

import (
	"slices"
)

// Stage is one of the steps in which the work is done. Only those that are built
// are listed: nothing on a screen is dead.
type Stage struct{ Key, Name string }

var Stages = []Stage{
	{"bring-in", "Bring in"},
	{"pages", "Pages"},
	{"find", "Find"},
	{"fit", "Fit"},
	{"rules", "Rules"},
	{"order", "Order"},
	{"rehearse", "Rehearse"},
	{"release", "Release"},
	{"returns", "Returns"},
}

// BenchStages are those that work on the bench.
var BenchStages = []string{"find", "fit", "rules", "order"}

func StageIndex(key string) int {
	return max(0, slices.IndexFunc(Stages, func(s Stage) bool { return s.Key == key }))
}

func StageName(key string) string { return Stages[StageIndex(key)].Name }

// Tab is a stage on the strip.
type Tab struct {
	Stage
	Now, Done bool
	Doubtful  int
}

func Tabs(now string, doubtful int) []Tab {
	out := make([]Tab, len(Stages))
	for i, s := range Stages {
		out[i] = Tab{Stage: s, Now: s.Key == now, Done: i < StageIndex(now)}
		if s.Key == "fit" {
			out[i].Doubtful = doubtful
		}
	}
	return out
}
