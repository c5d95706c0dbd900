package returns

import (
	"cmp"
	"slices"
	"strings"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/rules"
)

// Edition is a released form, by its number.
type Edition struct {
	Number int
	Form   *form.Template
}

// Column is a question of a form over all its editions.
type Column struct {
	Key    string // the id of its first row in the first edition that has it; answers are kept by it
	Name   string // in the newest edition that has it
	Label  string // what is printed beside it, or its name
	Field  form.Field
	Choice []form.Option  // what may be chosen; Label is what a person reads, Export what is kept
	Names  map[int]string // by the number of the edition
	Gone   bool           // the newest edition has it no more
}

// answers tells whether a field takes an answer.
func answers(f *form.Field) bool {
	switch f.Kind {
	case form.Text, form.Choice, form.CheckBox, form.Radio:
		return f.Placed()
	}
	return false
}

// question is a name of one edition with its rows, in tab order.
type question struct {
	name string
	rows []form.Field
}

func questions(t *form.Template) []question {
	rows := slices.Clone(t.Fields)
	slices.SortStableFunc(rows, func(a, b form.Field) int {
		return cmp.Or(cmp.Compare(a.Page, b.Page), cmp.Compare(a.Order, b.Order))
	})
	var out []question
	at := map[string]int{}
	for _, f := range rows {
		if !answers(&f) {
			continue
		}
		i, had := at[f.Name]
		if !had {
			i = len(out)
			at[f.Name] = i
			out = append(out, question{name: f.Name})
		}
		out[i].rows = append(out[i].rows, f)
	}
	return out
}

// Columns lists the questions of all editions, those of the newest first, in tab order. Rows that share an id are one question under
// whatever name; so are rows that share a name where the ids of the older ones are gone.
func Columns(editions []Edition) []Column {
	editions = slices.Clone(editions)
	slices.SortFunc(editions, func(a, b Edition) int { return cmp.Compare(a.Number, b.Number) })
	var all []*Column
	byID, byName := map[string]*Column{}, map[string]*Column{}
	last := map[*Column]int{} // the place in the newest edition that has it
	for _, e := range editions {
		qs := questions(e.Form)
		here := map[*Column]bool{}
		found := make([]*Column, len(qs))
		for i, q := range qs {
			for _, f := range q.rows {
				if c := byID[f.ID]; c != nil && !here[c] {
					found[i], here[c] = c, true
					break
				}
			}
		}
		for i, q := range qs {
			c := found[i]
			if c == nil {
				if same := byName[q.name]; same != nil && !here[same] {
					c = same
				} else {
					c = &Column{Key: q.rows[0].ID, Names: map[int]string{}}
					all = append(all, c)
				}
				here[c] = true
			}
			for _, f := range q.rows {
				byID[f.ID] = c
			}
			byName[q.name] = c
			first := q.rows[0]
			c.Name, c.Field, c.Label, c.Choice = q.name, first, cmp.Or(first.Tooltip, first.Label, q.name), choices(q.rows)
			c.Names[e.Number] = q.name
			last[c] = e.Number*100_000 + i
		}
	}
	newest := 0
	if len(editions) > 0 {
		newest = editions[len(editions)-1].Number
	}
	out := make([]Column, len(all))
	slices.SortStableFunc(all, func(a, b *Column) int {
		return cmp.Or(cmp.Compare(last[b]/100_000, last[a]/100_000), cmp.Compare(last[a], last[b]))
	})
	for i, c := range all {
		c.Gone = last[c]/100_000 != newest
		out[i] = *c
	}
	return out
}

// choices are what can be chosen at a question.
func choices(rows []form.Field) []form.Option {
	var out []form.Option
	for _, f := range rows {
		switch f.Kind {
		case form.CheckBox, form.Radio:
			o := form.Option{Label: cmp.Or(f.Label, f.Export, f.OnState()), Export: exportOf(&f)}
			if !slices.ContainsFunc(out, func(p form.Option) bool { return p.Export == o.Export }) {
				out = append(out, o)
			}
		case form.Choice:
			if len(out) > 0 {
				continue
			}
			for _, o := range f.Options {
				out = append(out, form.Option{Label: o.Label, Export: cmp.Or(o.Export, o.Label)})
			}
		}
	}
	return out
}

func exportOf(f *form.Field) string { return cmp.Or(f.Export, f.OnState()) }

// Said is an answer in words: of a choice what a person reads.
func (c *Column) Said(answer string) string {
	for _, o := range c.Choice {
		if o.Export == answer && c.Field.Kind == form.Choice {
			return o.Label
		}
	}
	return answer
}

// Shown is an answer as its field shows it.
func (c *Column) Shown(answer string) string {
	if c.Field.Kind == form.Choice {
		var out []string
		for one := range strings.SplitSeq(answer, "\n") {
			out = append(out, c.Said(one))
		}
		return strings.Join(out, "\n")
	}
	if shown, err := rules.Check(c.Field.Format, answer); err == nil {
		return shown
	}
	return answer
}

// FileName is the last part of the name of a file, fit to be kept and shown.
func FileName(name string) string {
	name = legible(name)
	if i := strings.LastIndexAny(name, `/\`); i >= 0 {
		name = name[i+1:]
	}
	name = strings.Map(func(r rune) rune {
		if r < ' ' || r == 0x7f {
			return -1
		}
		return r
	}, name)
	if r := []rune(name); len(r) > 120 {
		name = string(r[len(r)-120:])
	}
	return cmp.Or(strings.TrimSpace(name), "a file")
}

// Keys are the keys of the columns of an edition by the names that it has for them.
func Keys(columns []Column, edition int) map[string]string {
	out := map[string]string{}
	for _, c := range columns {
		if name, ok := c.Names[edition]; ok {
			out[name] = c.Key
		}
	}
	return out
}
