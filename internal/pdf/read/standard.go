package read

import (
	"regexp"
	"slices"
	"strings"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/pdf/object"
	"zealousmargin.example/internal/rules"
)

// Ruled reads the fields of a file with the rules that answers are held to: those that it brings as a form of ours, and those that the
// widely implemented form functions of other makers' scripts stand for (AFDate_*, AFNumber_*, AFRange_Validate, AFSimple_Calculate; from
// memory). What other scripts ask for is not known.
func Ruled(b []byte) (_ []form.Field, err error) {
	defer object.Recovered(&err)
	f, err := object.Parse(b)
	if err != nil {
		return nil, err
	}
	return RuledOf(f)
}

// RuledOf is [Ruled] for a file that is parsed already.
func RuledOf(f *object.File) ([]form.Field, error) {
	a, ws, err := arrive(f)
	if err != nil {
		return nil, err
	}
	var names []string
	for _, x := range a.Fields {
		names = append(names, x.Name)
	}
	for i := range a.Fields {
		x := &a.Fields[i]
		if len(x.Checks) == 0 {
			x.Checks = rangeOf(ws[i].Scripts["V"])
		}
		if x.Formula == "" {
			x.Formula = simpleFormula(ws[i].Scripts["C"], names)
		}
	}
	return a.Fields, nil
}

var (
	rangeScript = regexp.MustCompile(
		`^\s*AFRange_Validate\(\s*(true|false)\s*,\s*["']?(-?[\d.]*)["']?\s*,\s*(true|false)\s*,\s*["']?(-?[\d.]*)["']?\s*\);?\s*$`)
	simpleScript = regexp.MustCompile(
		`^\s*AFSimple_Calculate\(\s*["'](SUM|PRD|AVG|MIN|MAX)["']\s*,\s*(?:new Array\s*\(([^)]*)\)|\[([^\]]*)\]|["']([^"']*)["'])\s*\);?\s*$`)
	quotedName = regexp.MustCompile(`"([^"]*)"|'([^']*)'`)
)

// rangeOf is the check that a standard validation stands for; none for any other script.
func rangeOf(js string) []form.Check {
	m := rangeScript.FindStringSubmatch(js)
	if m == nil {
		return nil
	}
	c := form.Check{Test: form.Between}
	if m[1] == "true" {
		c.A = m[2]
	}
	if m[3] == "true" {
		c.B = m[4]
	}
	if c.A == "" && c.B == "" {
		return nil
	}
	return []form.Check{c}
}

// simpleFormula is the formula that a standard calculation stands for; empty for any other script, or when it names a field that the
// form does not have.
func simpleFormula(js string, known []string) string {
	m := simpleScript.FindStringSubmatch(js)
	if m == nil {
		return ""
	}
	var names []string
	if m[4] != "" {
		for n := range strings.SplitSeq(m[4], ",") {
			names = append(names, strings.TrimSpace(n))
		}
	}
	for _, q := range quotedName.FindAllStringSubmatch(m[2]+m[3], -1) {
		names = append(names, q[1]+q[2])
	}
	for i, n := range names {
		if !slices.Contains(known, n) {
			return ""
		}
		names[i] = rules.QuoteName(n)
	}
	switch {
	case len(names) == 0:
		return ""
	case m[1] == "PRD":
		return strings.Join(names, " * ")
	}
	return map[string]string{"SUM": "sum", "AVG": "average", "MIN": "min", "MAX": "max"}[m[1]] + "(" + strings.Join(names, ", ") + ")"
}
