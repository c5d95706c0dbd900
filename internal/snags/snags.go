package snags

import (
	"cmp"
	"fmt"
	"slices"
	"strings"
	"time"

	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/rules"
)

// Severity is how much a snag matters.
type Severity int

// The severities: a form with a serious snag does not do what it promises; a risky one may
// not, for some recipients; a hint could be better.
const (
	Hint Severity = iota
	Risky
	Serious
)

func (s Severity) String() string { return [...]string{"hint", "risky", "serious"}[s] }

// Snag is one thing that is wrong or risky.
type Snag struct {
	Check    string // which check found it
	Severity Severity
	Field    string // id; empty when it is about a page or the document
	Name     string // of the field
	Page     int    // from 1; 0 is the document
	Why      string
	Mend     string // what a press would do; empty when there is no safe mend
	mend     func(t *form.Template) (form.Edit, error)
}

// Key names the snag within its form, so that its mend can be asked for.
func (s Snag) Key() string { return s.Check + ":" + s.Field + ":" + fmt.Sprint(s.Page) }

// Rest is the reason without the name of the field that it begins with; a page shows that as a
// link before it.
func (s Snag) Rest() string {
	if rest, ok := strings.CutPrefix(s.Why, s.Name+" "); ok && s.Name != "" {
		return rest + "."
	}
	if rest, ok := strings.CutPrefix(s.Why, s.Name+":"); ok && s.Name != "" {
		return ":" + rest + "."
	}
	return "· " + s.Why + "."
}

// desk is what a check has to look at.
type desk struct {
	t      *form.Template
	fields []form.Field           // placed, in tab order
	pages  map[int]*evidence.Page // those that were looked at
	names  []string
	out    []Snag
	now    time.Time
}

// Find looks a form through. Pages is what is printed on its pages, by number from 1; checks
// that need it leave out pages that are not there.
func Find(t *form.Template, pages map[int]*evidence.Page, now time.Time) []Snag {
	d := &desk{t: t, fields: t.Placed(), pages: pages, now: now}
	d.names = rules.FormulaFields(t.Fields)
	for i := range d.fields {
		d.field(&d.fields[i])
	}
	d.pairs()
	d.lists()
	d.readers()
	d.formulas()
	d.printed()
	d.document()
	slices.SortStableFunc(d.out, func(a, b Snag) int {
		return cmp.Or(cmp.Compare(b.Severity, a.Severity), cmp.Compare(a.Page, b.Page))
	})
	return d.out
}

// lookedThrough is on how many pages what is printed is looked through: as many as nobody waits for.
const lookedThrough = 12

// Pages lists the pages, from 1, whose print a form is held to: not those of which nothing is known
// yet.
func Pages(t *form.Template) []int {
	var out []int
	for i, p := range t.Pages {
		if i < lookedThrough && (!p.Scan || p.Text != "") {
			out = append(out, i+1)
		}
	}
	return out
}

// Mend is the edit that mends the snag of a key, or the snags of one of [InOnePress]; it fails when there is none.
func Mend(t *form.Template, pages map[int]*evidence.Page, now time.Time, key string) (form.Edit, error) {
	if kind, all := strings.CutPrefix(key, allOf); all {
		return mendAll(t, pages, now, kind)
	}
	for _, s := range Find(t, pages, now) {
		if s.Key() == key && s.mend != nil {
			return s.mend(t)
		}
	}
	return form.Edit{}, fmt.Errorf("this snag is gone already: look at the list once more")
}

func (d *desk) say(check string, s Severity, f *form.Field, why string, args ...any) *Snag {
	n := Snag{Check: check, Severity: s, Why: fmt.Sprintf(why, args...)}
	if f != nil {
		n.Field, n.Name, n.Page = f.ID, f.Name, f.Page
	}
	d.out = append(d.out, n)
	return &d.out[len(d.out)-1]
}

// by gives a snag its mend: a change of its own field.
func (s *Snag) by(what string, change func(f *form.Field)) {
	id := s.Field
	s.Mend = what
	s.mend = func(t *form.Template) (form.Edit, error) {
		f, ok := t.Field(id)
		if !ok {
			return form.Edit{}, form.ErrClash
		}
		return t.Set(what+": "+f.Name, []string{id}, func(f *form.Field) error { change(f); return nil })
	}
}

// words makes a sentence of a name or a label.
func words(s string) string {
	s = strings.TrimSpace(strings.ReplaceAll(s, "_", " "))
	if s == "" {
		return ""
	}
	r := []rune(s)
	return strings.ToUpper(string(r[:1])) + string(r[1:])
}
