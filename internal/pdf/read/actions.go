package read

import (
	"fmt"
	"slices"
	"strings"

	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/pdf/object"
)

// harmful are the actions that reach out of a document or run somebody's code, each with what it does (ISO 32000-2, table 201).
var harmful = map[string]string{
	"Launch": "starts a program", "GoToR": "opens another file", "GoToE": "opens an embedded file",
	"ImportData": "takes data in from a file",
	"JavaScript": "runs a script", "Rendition": "plays a recording", "Movie": "plays a film", "Sound": "plays a sound",
	"SubmitForm": "sends what is filled in",
}

// Harm tells whether an action could harm: what it does, and of which kind it is. Empty for one that could not.
func Harm(f *object.File, o types.Object) (kind, what string) {
	d := f.Dict(o)
	if d == nil {
		return "", ""
	}
	kind = f.Name(object.Entry(d, "S"))
	if what = harmful[kind]; what == "" {
		return "", ""
	}
	target := func(o types.Object) string {
		if s := f.Dict(o); s != nil {
			for _, k := range []string{"UF", "F"} {
				if t := f.Text(object.Entry(s, k)); t != "" {
					return t
				}
			}
		}
		return f.Text(o)
	}
	if t := target(object.Entry(d, "F")); t != "" && kind != "JavaScript" {
		what += " (" + shortened(t) + ")"
	} else if p := f.Text(object.Entry(f.Dict(object.Entry(d, "Win")), "F")); p != "" {
		what += " (" + shortened(p) + ")"
	}
	return kind, what
}

func shortened(s string) string {
	if r := []rune(s); len(r) > 60 {
		return string(r[:60]) + "…"
	}
	return s
}

// FieldScript tells whether an entry of a field's additional actions is a script that belongs to the answer: as it is typed, shown,
// checked and calculated (ISO 32000-2, table 199).
func FieldScript(key string) bool { return key == "K" || key == "F" || key == "V" || key == "C" }

// Actions lists what a file does by itself that could harm, and when: "starts a program (setup.exe) when the document is opened". What its
// fields do with their answers, and what their buttons do, stands at the fields.
func Actions(f *object.File) []string {
	cat, err := f.Catalog()
	if err != nil {
		return nil
	}
	var out []string
	add := func(what, when string) {
		if one := strings.TrimSpace(what + " " + when); len(out) < 200 && !slices.Contains(out, one) {
			out = append(out, one)
		}
	}
	var follow func(o types.Object, when string, depth int)
	follow = func(o types.Object, when string, depth int) {
		d := f.Dict(o)
		if d == nil || depth > 40 {
			return
		}
		if _, what := Harm(f, d); what != "" {
			add(what, when)
		}
		next := object.Entry(d, "Next")
		if list := f.Array(next); list != nil {
			for _, n := range list {
				follow(n, when, depth+1)
			}
			return
		}
		follow(next, when, depth+1)
	}
	additional := func(o types.Object, field bool, names map[string]string, otherwise string) {
		for k, v := range f.Dict(o) {
			if kind, _ := Harm(f, v); field && FieldScript(k) && kind == "JavaScript" {
				continue
			}
			when := names[k]
			if when == "" {
				when = otherwise
			}
			follow(v, when, 0)
		}
	}
	follow(object.Entry(cat, "OpenAction"), "when the document is opened", 0)
	additional(object.Entry(cat, "AA"), false, map[string]string{
		"WC": "when the document is closed", "WS": "before it is saved", "DS": "after it is saved", "WP": "before it is printed",
		"DP": "after it is printed",
	}, "with the document")
	scripts, _ := DocumentScripts(f) // none where the catalog cannot be read
	foreign := 0
	for name := range scripts {
		if name != ScriptName {
			foreign++
		}
	}
	if foreign > 0 {
		add("runs "+count(foreign, "script", "scripts"), "when the document is opened")
	}
	for i, p := range f.Pages {
		on := fmt.Sprintf("on page %d", i+1)
		additional(object.Entry(p.Dict, "AA"), false, map[string]string{
			"O": fmt.Sprintf("when page %d is shown", i+1), "C": fmt.Sprintf("when page %d is left", i+1),
		}, on)
		for _, o := range f.Array(object.Entry(p.Dict, "Annots")) {
			d := f.Dict(o)
			widget := f.Name(object.Entry(d, "Subtype")) == "Widget"
			if kind, _ := Harm(f, object.Entry(d, "A")); !widget || kind != "JavaScript" && kind != "SubmitForm" {
				follow(object.Entry(d, "A"), "when something is pressed "+on, 0)
			}
			if !widget {
				additional(object.Entry(d, "AA"), false, nil, on)
			}
		}
	}
	var outlines func(o types.Object, depth int)
	seen := 0
	outlines = func(o types.Object, depth int) {
		for d := f.Dict(o); d != nil && depth < 20 && seen < 5000; d = f.Dict(object.Entry(d, "Next")) {
			seen++
			follow(object.Entry(d, "A"), "when a bookmark is pressed", 0)
			outlines(object.Entry(d, "First"), depth+1)
		}
	}
	outlines(object.Entry(f.Dict(object.Entry(cat, "Outlines")), "First"), 0)
	slices.Sort(out)
	return out
}

// ForeignEvents are the scripts of a file that run when something happens to the document or to its pages.
func ForeignEvents(f *object.File) (out []form.Step) {
	for _, s := range Events(f) {
		if s.Do == form.RunScript {
			out = append(out, s)
		}
	}
	return out
}
