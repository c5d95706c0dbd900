package web

import "slices"

// stage is one of the steps in which the work is done. Only those that are built
// are listed: nothing on a screen is dead.
type stage struct{ Key, Name string }

var stages = []stage{
	{"bring-in", "Bring in"}, {"pages", "Pages"}, {"find", "Find"}, {"fit", "Fit"}, {"rules", "Rules"}, {"order", "Order"}, {"rehearse", "Rehearse"}, {"release", "Release"},
}

// benchStages are those that work on the bench.
var benchStages = []string{"find", "fit", "rules", "order"}

func stageIndex(key string) int {
	return max(0, slices.IndexFunc(stages, func(s stage) bool { return s.Key == key }))
}

func stageName(key string) string { return stages[stageIndex(key)].Name }

// tab is a stage on the strip.
type tab struct {
	stage
	Now, Done bool
	Doubtful  int
}

func tabs(now string, doubtful int) []tab {
	out := make([]tab, len(stages))
	for i, s := range stages {
		out[i] = tab{stage: s, Now: s.Key == now, Done: i < stageIndex(now)}
		if s.Key == "fit" {
			out[i].Doubtful = doubtful
		}
	}
	return out
}
