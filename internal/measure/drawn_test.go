package measure

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/detect"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/measure/sheets"
)

// three fields below each other, the last asked for a date, with the finds that are right.
func three() ([]detect.Find, []sheets.Truth, map[string]string) {
	of := map[string]string{"language": "en"}
	var finds []detect.Find
	var truth []sheets.Truth
	for i, name := range []string{"keeper", "street", "born_on"} {
		r := geom.R(60, 700-30*float64(i), 260, 714-30*float64(i))
		w := sheets.Truth{Page: 1, Rect: r, Kind: form.Text, Words: strings.ReplaceAll(name, "_", " ")}
		w.Of = map[string]string{"language": "en", "mark": []string{"rule", "box", "box"}[i]}
		f := detect.Find{Rect: r, Kind: form.Text, Name: name, Confidence: 0.9}
		if i == 2 {
			w.Format, f.Format = "date", "date"
		}
		finds, truth = append(finds, f), append(truth, w)
	}
	return finds, truth, of
}

func judged(finds []detect.Find, truth []sheets.Truth, of map[string]string) values {
	vs := values{}
	vs.judge(found{finds: finds, truth: truth}, of)
	return vs
}

// Every fault is counted, at the values of the factors that made the field, and nowhere else.
func TestEveryFaultIsCountedWhereItBelongs(t *testing.T) {
	finds, truth, of := three()
	vs := judged(finds, truth, of)
	assert.Equal(t, []float64{1, 1, 1}, []float64{vs.of("all").f1(), vs.of("mark: rule").f1(), vs.of("mark: box").f1()})
	assert.Equal(t, share{1, 1}, vs.of("all").due)
	assert.Equal(t, share{1, 1}, vs.of("all").pages)

	for name, c := range map[string]struct {
		spoil func([]detect.Find) []detect.Find
		check func(values) bool
	}{
		"moved off its place": {
			func(f []detect.Find) []detect.Find { f[0].Rect = f[0].Rect.Shift(0, 20); return f },
			func(v values) bool {
				return v.of("mark: rule").hit == 0 && v.of("mark: rule").none == 1 && v.of("mark: box").hit == 2
			},
		},
		"doubtful": {
			func(f []detect.Find) []detect.Find { f[0].Confidence = 0.4; return f },
			func(v values) bool { return v.of("mark: rule").hit == 0 && v.of("all").none == 0 },
		},
		"found twice": {
			func(f []detect.Find) []detect.Find { return append(f, f[1]) },
			func(v values) bool {
				return v.of("mark: box").none == 1 && v.of("mark: rule").none == 0 && v.of("all").f1() < 1
			},
		},
		"another kind": {
			func(f []detect.Find) []detect.Find { f[1].Kind = form.CheckBox; return f },
			func(v values) bool { return v.of("mark: box").kind == share{1, 2} },
		},
		"another name": {
			func(f []detect.Find) []detect.Find { f[1].Name = "field_1"; return f },
			func(v values) bool { return v.of("mark: box").named == share{1, 2} },
		},
		"a format that nobody asked for": {
			func(f []detect.Find) []detect.Find { f[0].Format = "number"; return f },
			func(v values) bool { return v.of("all").set == share{1, 2} && v.of("all").due == share{1, 1} },
		},
		"a format that is missing": {
			func(f []detect.Find) []detect.Find { f[2].Format = ""; return f },
			func(v values) bool { return v.of("all").due == share{0, 1} && v.of("all").set.all == 0 },
		},
		"out of order": {
			func(f []detect.Find) []detect.Find { f[0], f[2] = f[2], f[0]; return f },
			func(v values) bool { return v.of("language: en").pages == share{0, 1} && v.of("all").f1() == 1 },
		},
	} {
		finds, truth, of := three()
		assert.True(t, c.check(judged(c.spoil(finds), truth, of)), name)
	}
}

func TestTheTableIsWorstFirst(t *testing.T) {
	finds, truth, of := three()
	vs := judged(finds[1:], truth, of)
	var b strings.Builder
	vs.print(&b)
	lines := strings.Split(strings.TrimSpace(b.String()), "\n")
	require.Len(t, lines, 5)
	assert.Contains(t, lines[1], "mark: rule")
	assert.Contains(t, lines[4], "mark: box")
}

// A field that may as well be several is judged in the shape in which it was found, and its cells are then not counted.
func TestSeveralShapesAreRight(t *testing.T) {
	whole := sheets.Truth{
		Page: 1, Rect: geom.R(60, 700, 160, 714), Kind: form.Text, Words: "born on", Comb: 8, Format: "date",
		Alt: [][]geom.Rect{{geom.R(60, 700, 84, 714), geom.R(94, 700, 118, 714), geom.R(124, 700, 160, 714)}},
	}
	one := []detect.Find{{Rect: whole.Rect, Confidence: 0.9}}
	_, truth := asFound(sheets.Sheet{Truth: []sheets.Truth{whole}}, 1, one)
	require.Len(t, truth, 1)
	assert.Equal(t, 8, truth[0].Comb)
	var parts []detect.Find
	for _, r := range whole.Alt[0] {
		parts = append(parts, detect.Find{Rect: r, Confidence: 0.9})
	}
	_, truth = asFound(sheets.Sheet{Truth: []sheets.Truth{whole}}, 1, parts)
	require.Len(t, truth, 3)
	assert.Zero(t, truth[0].Comb)
	_, truth = asFound(sheets.Sheet{Truth: []sheets.Truth{whole}}, 1, parts[:2])
	assert.Len(t, truth, 1, "two of three groups are not the field")
}
