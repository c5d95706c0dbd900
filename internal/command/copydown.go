package command

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/rules"
)

// CopyFormula gives the formula of a field to those of the other rows of its table, each with the names of its own row: where
// the fields stand says which they are, or else their names (line_1_amount and line_2_amount, launching_amount and
// hauling_out_amount). A row that lacks a field is left as it is, and said.
type CopyFormula struct {
	Field string `json:"field"`
}

func (c CopyFormula) plan(d *Desk) (form.Edit, error) {
	f, err := d.one(c.Field)
	if err != nil {
		return form.Edit{}, err
	}
	formula, err := rules.ParseFormula(f.Formula)
	if err != nil {
		return form.Edit{}, err
	}
	t := table{d: d, f: f, formula: formula, names: rules.FormulaFields(d.Draft.Fields)}
	t.read()
	e := form.Edit{}
	var rows, lacks []string
	for _, g := range t.column() {
		s, missing := t.forRow(g)
		if missing != "" {
			lacks = append(lacks, t.rowName(g)+" has no "+missing)
			continue
		}
		if s == "" {
			continue
		}
		h := g
		h.Formula, h.Format, h.ReadOnly = s, f.Format, f.ReadOnly
		if !g.Equal(h) {
			e.Before, e.After = append(e.Before, g), append(e.After, h)
			rows = append(rows, t.rowName(g))
		}
	}
	if len(e.After) == 0 {
		if len(lacks) > 0 {
			return e, fmt.Errorf("nothing was copied: %s", strings.Join(lacks, ", "))
		}
		return e, fmt.Errorf("there are no other rows of %s: its column has no field above or below it, nor has one its name with another "+
			"row in it, such as line_2_amount or launching_amount", f.Name)
	}
	e.Title = fmt.Sprintf("copied the formula of %s to %d rows", f.Name, len(e.After))
	e.Said = "Copied to " + strings.Join(rows, ", ") + "."
	if len(lacks) > 0 {
		e.Said += " Left as it is: " + strings.Join(lacks, ", ") + "."
	}
	return e, nil
}

// table is the table that a calculated field stands in.
type table struct {
	d       *Desk
	f       form.Field
	formula *rules.Formula
	names   []string
	own     []form.Field // of its row, that the formula reads
	row     int          // the figure in the name; 0 is none
	pattern string
	stem    string // what the names of its row have in common, where they have no figure
}

func (t *table) read() {
	t.row, t.pattern = rules.Row(t.f.Name)
	t.stem = t.formula.Stem(t.f.Name)
	for _, n := range t.formula.Names() {
		for _, g := range t.d.Draft.Fields {
			if g.Name == n && g.ID != t.f.ID && g.Page == t.f.Page && inRow(g.Rect, t.f.Rect) {
				t.own = append(t.own, g)
			}
		}
	}
}

// inRow tells whether two fields stand beside each other.
func inRow(a, b geom.Rect) bool { return a.OverlapY(b) > 0.5*math.Min(a.H(), b.H()) }

// inColumn tells whether two fields stand below each other and are about as wide.
func inColumn(a, b geom.Rect) bool {
	return a.OverlapX(b) > 0.7*math.Max(a.W(), b.W()) && !inRow(a, b)
}

// column lists the fields of other rows that the formula could be of: by their names or their places, from the top.
func (t *table) column() []form.Field {
	var out []form.Field
	for _, g := range t.d.Draft.Fields {
		if g.Kind != form.Text || g.ID == t.f.ID || g.Name == t.f.Name || !g.Placed() {
			continue
		}
		if t.byName(g) != "" || len(t.own) > 0 && g.Page == t.f.Page && inColumn(g.Rect, t.f.Rect) {
			out = append(out, g)
		}
	}
	slices.SortStableFunc(out, func(a, b form.Field) int { return int(b.Rect.Y1-a.Rect.Y1) + 10000*(a.Page-b.Page) })
	return out
}

// byName is the formula for a field whose name is that of f with another row; empty when it is none.
func (t *table) byName(g form.Field) string {
	row, p := rules.Row(g.Name)
	switch {
	case t.row > 0 && p == t.pattern && row > 0:
		return t.formula.Lined(t.row, row)
	case t.row == 0 && t.stem != "" && strings.HasSuffix(g.Name, "_"+strings.TrimPrefix(t.f.Name, t.stem)):
		return t.formula.Stemmed(t.stem, strings.TrimSuffix(g.Name, strings.TrimPrefix(t.f.Name, t.stem)))
	}
	return ""
}

// forRow is the formula for the row of g; missing says what the row lacks.
func (t *table) forRow(g form.Field) (formula, missing string) {
	if s := t.byName(g); s != "" && rules.CheckFormula(s, t.names) == nil {
		return s, ""
	}
	if len(t.own) == 0 || g.Page != t.f.Page || !inColumn(g.Rect, t.f.Rect) {
		if s := t.byName(g); s != "" {
			return "", t.lacking(s, g)
		}
		return "", ""
	}
	s := t.f.Formula
	found := 0
	for _, own := range t.own {
		i := slices.IndexFunc(t.d.Draft.Fields, func(m form.Field) bool {
			return m.ID != g.ID && m.Page == g.Page && m.Placed() && inRow(m.Rect, g.Rect) && inColumn(m.Rect, own.Rect)
		})
		if i < 0 {
			missing = cmp.Or(missing, t.part(own.Name))
			continue
		}
		found++
		one, err := rules.ParseFormula(s)
		if err != nil {
			return "", ""
		}
		s = one.Renamed(own.Name, t.d.Draft.Fields[i].Name)
	}
	switch {
	case found == 0 && t.byName(g) != "":
		return "", t.lacking(t.byName(g), g)
	case found == 0: // something else that happens to stand in the column
		return "", ""
	case missing != "":
		return "", missing
	}
	if rules.CheckFormula(s, t.names) != nil {
		return "", t.lacking(s, g)
	}
	return s, ""
}

// lacking names the first field that the formula of a row reads and that is not there.
func (t *table) lacking(s string, g form.Field) string {
	formula, err := rules.ParseFormula(s)
	if err != nil {
		return "formula that can be worked out"
	}
	for _, n := range formula.Names() {
		if !slices.ContainsFunc(t.names, func(have string) bool { return have == n || rules.Matches(n, have) }) {
			if stem := strings.TrimSuffix(g.Name, strings.TrimPrefix(t.f.Name, t.stem)); t.row == 0 && t.stem != "" {
				n = strings.TrimPrefix(n, stem)
			}
			return t.part(n)
		}
	}
	return "formula that can be worked out"
}

// part is what a field is of its row: amount of launching_amount and of line_2_amount.
func (t *table) part(name string) string {
	if t.stem != "" {
		if rest, ok := strings.CutPrefix(name, t.stem); ok {
			return rest
		}
	}
	if row, pattern := rules.Row(name); row > 0 {
		return pattern[strings.LastIndex(pattern, "_")+1:]
	}
	return name
}

// rowName is what the table calls the row of a field: its words, its figure, or else the field's name.
func (t *table) rowName(g form.Field) string {
	if t.stem != "" && t.row == 0 {
		if rest, ok := strings.CutSuffix(g.Name, "_"+strings.TrimPrefix(t.f.Name, t.stem)); ok {
			return strings.ReplaceAll(rest, "_", " ")
		}
	}
	if row, p := rules.Row(g.Name); row > 0 && (t.row == 0 || p == t.pattern) {
		return "row " + strconv.Itoa(row)
	}
	return g.Name
}
