package grammar

import (
	"embed"
	"fmt"
	"strings"
	"sync"
)

//go:embed words/*.txt
var wordFiles embed.FS

// asked is a label and what its field is asked to hold.
type asked struct {
	format string // as finding names it, empty for nothing special, ? where opinions differ
	label  string
}

// question is asked with boxes to tick.
type question struct {
	text    string
	options []string
}

// wording is what forms of one language say.
type wording struct {
	fields, heads                     []asked
	one, many                         []question
	sections, yesno, rows, long       []string
	prose, letters, titles, months    []string
	yes, no, table, total, rowHead    string
	placeDate, sign, date, guide      string
	euro, example, statistics, locale string
}

var wordings = sync.OnceValues(func() (map[string]*wording, error) {
	files, err := wordFiles.ReadDir("words")
	if err != nil {
		return nil, err
	}
	out := map[string]*wording{}
	for _, f := range files {
		b, err := wordFiles.ReadFile("words/" + f.Name())
		if err != nil {
			return nil, err
		}
		w := &wording{locale: strings.TrimSuffix(f.Name(), ".txt")}
		for n, line := range strings.Split(string(b), "\n") {
			if err := w.read(line); err != nil {
				return nil, fmt.Errorf("words/%s, line %d: %w", f.Name(), n+1, err)
			}
		}
		out[w.locale] = w
	}
	return out, nil
})

func parts(s, by string) []string {
	out := strings.Split(s, by)
	for i := range out {
		out[i] = strings.TrimSpace(out[i])
	}
	return out
}

// read takes one line of a file of words.
func (w *wording) read(line string) error {
	if line == "" || strings.HasPrefix(line, "#") {
		return nil
	}
	key, rest, _ := strings.Cut(line, ": ")
	one := map[string]*string{
		"yes": &w.yes, "no": &w.no, "table": &w.table, "total": &w.total, "rowhead": &w.rowHead, "placedate": &w.placeDate,
		"sign": &w.sign, "date": &w.date, "guide": &w.guide, "euro": &w.euro, "example": &w.example, "stat": &w.statistics,
	}
	many := map[string]*[]string{
		"section": &w.sections, "yesno": &w.yesno, "row": &w.rows, "long": &w.long, "prose": &w.prose, "letter": &w.letters,
		"title": &w.titles,
	}
	if to := one[key]; to != nil {
		*to = rest
		return nil
	}
	if to := many[key]; to != nil {
		*to = append(*to, rest)
		return nil
	}
	switch key {
	case "month":
		w.months = parts(rest, "|")
	case "one", "many":
		text, options, _ := strings.Cut(rest, " = ")
		q := question{text, parts(options, "/")}
		if key == "one" {
			w.one = append(w.one, q)
		} else {
			w.many = append(w.many, q)
		}
	case "field", "head":
		format, label, ok := strings.Cut(rest, " | ")
		if !ok {
			return fmt.Errorf("%q has no format", line)
		}
		if format == "-" {
			format = ""
		}
		if key == "field" {
			w.fields = append(w.fields, asked{format, label})
		} else {
			w.heads = append(w.heads, asked{format, label})
		}
	default:
		return fmt.Errorf("%q is not known", key)
	}
	return nil
}
