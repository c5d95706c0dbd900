package rehearsal

import (
	"cmp"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"zealousmargin.example/internal/arrange"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/rules"
)

// Line is one thing that the rehearsal found.
type Line struct {
	What  string // "fit", "refused", "accepted", "total", "reach", "trouble", "tab"
	Field string // id
	Name  string
	Page  int
	Why   string
}

// Report is what came of a rehearsal.
type Report struct {
	Lines   []Line
	People  int
	Answers int // how many were given
}

// Fits tells whether text fits a field as it is set, and the size that its type would have, in
// points; the caller measures with the metrics of its fonts.
type Fits func(f form.Field, text string) (ok bool, size float64)

// smallest is the size of type that can still be read, in points (common practice, no source).
const smallest = 6.0

// Built is the order of the ids of the fields of a page, from 1, as the page is built and printed.
type Built func(page int, fields []form.Field) []string

// Run rehearses a form at a time that today() then gives. Pages, as many as are known, tell how
// the form is turned when Tab walks over it; without built its fields alone say how they are read.
func Run(fields []form.Field, pages []form.Page, fits Fits, built Built, now time.Time) (Report, error) {
	r := &run{
		fields: slices.DeleteFunc(slices.Clone(fields), func(f form.Field) bool { return !f.Placed() }), fits: fits, now: now,
		said: map[string]bool{},
	}
	s, err := rules.NewSession(fields, now)
	if err != nil {
		return Report{}, err
	}
	r.first = s
	reached := map[string]bool{}
	refused := map[string]int{}
	why := map[string]string{}
	for n, p := range people {
		s, err := rules.NewSession(fields, now)
		if err != nil {
			return Report{}, err
		}
		for i := range r.fields {
			f := &r.fields[i]
			if !r.open(s, f) || f.Kind == form.Radio && !r.turn(f, n) || f.Kind == form.CheckBox && (n+i)%2 == 1 {
				continue
			}
			reached[f.Name] = true
			answer := p.answer(f, n, now)
			r.report.Answers++
			if _, err := s.Set(f.Name, answer); err != nil {
				refused[f.Name]++
				why[f.Name] = fmt.Sprintf("%q: %s", answer, err)
				continue
			}
			r.fit(f, s.Shown(f.Name))
		}
		r.totals(s, n)
		r.orderless(fields, s)
	}
	r.report.People = len(people)
	for i := range r.fields {
		f := &r.fields[i]
		if refused[f.Name] == len(people) || refused[f.Name] > 3 {
			r.say("refused", f, "%s refuses answers that seem good, such as %s", f.Name, why[f.Name])
		}
		if (f.Required || f.RequireIf != "") && f.Formula == "" && !reached[f.Name] && f.Kind != form.Signature && f.Kind != form.Button {
			r.say("reach", f, "%s must be filled in, but none of the %d people could reach it", f.Name, len(people))
		}
		r.edges(f)
	}
	r.tabs(pages, built)
	slices.SortStableFunc(r.report.Lines, func(a, b Line) int { return a.Page - b.Page })
	return r.report, nil
}

type run struct {
	fields []form.Field
	fits   Fits
	now    time.Time
	first  *rules.Session
	report Report
	said   map[string]bool
}

func (r *run) say(what string, f *form.Field, why string, args ...any) {
	if key := what + f.ID; !r.said[key] { // once a field
		r.said[key] = true
		r.report.Lines = append(r.report.Lines, Line{What: what, Field: f.ID, Name: f.Name, Page: f.Page, Why: fmt.Sprintf(why, args...)})
	}
}

// open tells whether a recipient can fill a field in now.
func (r *run) open(s *rules.Session, f *form.Field) bool {
	return f.Kind != form.Button && f.Kind != form.Signature && !f.ReadOnly && !s.Hidden(f.Name) && !s.Calculated(f.Name) &&
		f.Shows() != form.ShowPrint
}

// turn lets people choose the buttons of a group one after the other.
func (r *run) turn(f *form.Field, n int) bool {
	i, count := 0, 0
	for _, g := range r.fields {
		if g.Name == f.Name {
			if g.ID == f.ID {
				i = count
			}
			count++
		}
	}
	return n%count == i
}

// fit measures whether text can be read in its field.
func (r *run) fit(f *form.Field, text string) {
	if text == "" || f.Kind != form.Text && f.Kind != form.Choice {
		return
	}
	ok, size := r.fits(*f, text)
	switch {
	case !ok:
		r.say("fit", f, "%q does not fit %s", short(text), f.Name)
	case size < smallest:
		r.say("fit", f, "%q fits %s only at %.1f pt, too small to read", short(text), f.Name, size)
	}
}

func short(s string) string {
	if r := []rune(s); len(r) > 60 {
		return string(r[:60]) + "…"
	}
	return s
}

// tabs walks over the pages as the Tab key does.
func (r *run) tabs(pages []form.Page, built Built) {
	for n, p := range pages {
		on := slices.DeleteFunc(slices.Clone(r.fields), func(f form.Field) bool { return f.Page != n+1 })
		slices.SortStableFunc(on, func(a, b form.Field) int { return cmp.Compare(a.Order, b.Order) })
		read := arrange.Order(on, "structure", geom.ToView(p.Width, p.Height, p.Rotate))
		if built != nil {
			read = built(n+1, on)
		}
		for _, id := range arrange.Jumps(on, read) {
			i := slices.IndexFunc(on, func(f form.Field) bool { return f.ID == id })
			r.say("tab", &on[i], "%s is where Tab jumps to from %s, past others", on[i].Name, on[i-1].Name)
		}
	}
}

// totals looks at what was calculated.
func (r *run) totals(s *rules.Session, n int) {
	for i := range r.fields {
		f := &r.fields[i]
		if !s.Calculated(f.Name) {
			continue
		}
		if err := s.Trouble(f.Name); err != nil {
			r.say("trouble", f, "%s stays empty for %s %s: %v", f.Name, people[n].given, people[n].family, err)
		}
		r.fit(f, s.Shown(f.Name))
	}
}

// orderless fills the same answers in from the last to the first: what is calculated must come
// to the same.
func (r *run) orderless(fields []form.Field, s *rules.Session) {
	back, err := rules.NewSession(fields, r.now)
	if err != nil {
		return
	}
	for i := len(r.fields) - 1; i >= 0; i-- {
		if f := &r.fields[i]; !s.Calculated(f.Name) && s.Value(f.Name) != "" {
			if _, err := back.Set(f.Name, s.Value(f.Name)); err != nil {
				r.say("total", f, "%s takes %q only if it is filled in before others: %v", f.Name, s.Value(f.Name), err)
			}
		}
	}
	for i := range r.fields {
		if f := &r.fields[i]; s.Calculated(f.Name) && s.Value(f.Name) != back.Value(f.Name) {
			r.say("total", f, "%s comes to %s or to %s, by the order in which the form is filled in", f.Name, s.Value(f.Name),
				back.Value(f.Name))
		}
	}
}

// edges gives a field answers at the edge, and such as no one should get through.
func (r *run) edges(f *form.Field) {
	if f.Kind != form.Text || !r.open(r.first, f) {
		return
	}
	asks := strings.ToLower(f.Tooltip + " " + f.Label + " " + f.Name)
	for _, bad := range badFor(f, asks) {
		r.report.Answers++
		if r.first.Accepts(f.Name, bad) == nil {
			r.say("accepted", f, "%s takes %q, which is no good answer to %q", f.Name, bad, strings.TrimSpace(f.Tooltip))
		}
	}
	for _, c := range f.Checks {
		if c.Test != form.Between {
			continue
		}
		for k, limit := range []string{c.A, c.B} {
			v, err := strconv.ParseFloat(strings.TrimSpace(limit), 64)
			if err != nil || f.Format.Kind != form.Number {
				continue
			}
			at, beyond := number(f, v), number(f, v+float64(2*k-1))
			r.report.Answers += 2
			if err := r.first.Accepts(f.Name, at); err != nil {
				r.say("refused", f, "%s refuses %s, its own limit: %v", f.Name, at, err)
			}
			if r.first.Accepts(f.Name, beyond) == nil {
				r.say("accepted", f, "%s takes %s, beyond its limit", f.Name, beyond)
			}
		}
	}
	if n := strings.Contains(asks, "name"); n && f.Format.Kind == form.NoFormat && f.Comb == 0 && len(f.Checks) == 0 {
		long := "Wilhelmina Alexandra Featherstone-Oyelaran"
		if rs := []rune(long); f.MaxLen > 0 && len(rs) > f.MaxLen {
			if f.MaxLen < 20 {
				r.say("refused", f, "%s takes %d signs: many names are longer", f.Name, f.MaxLen)
			}
			long = string(rs[:f.MaxLen])
		}
		r.report.Answers++
		r.fit(f, long)
	}
}

// badFor are answers that a field should refuse, by what it asks for.
func badFor(f *form.Field, asks string) []string {
	switch {
	case f.Format.Kind == form.Date:
		return []string{"tomorrow", "31.02.2027", "2027"}
	case f.Format.Kind == form.Number || f.Format.Kind == form.Percent:
		return []string{"a dozen", "1.2.3"}
	case f.Format.Kind == form.Time:
		return []string{"25:00", "noon"}
	case f.Format.Kind == form.Email:
		return []string{"nobody", "a@b"}
	case f.Format.Kind != form.NoFormat || f.Comb > 0 || f.Multiline:
		return nil
	case strings.Contains(asks, "date of") || strings.HasPrefix(asks, "date"):
		return []string{"tomorrow"}
	case strings.Contains(asks, "e-mail"):
		return []string{"nobody"}
	case strings.Contains(asks, "quantity") || strings.Contains(asks, "amount"):
		return []string{"a dozen"}
	}
	return nil
}

// goodFor is an answer that the format of a field takes.
func goodFor(f *form.Field, n int, now time.Time, p person) (string, bool) {
	switch f.Format.Kind {
	case form.Date:
		day := now.AddDate(0, 0, n)
		for _, c := range f.Checks {
			if c.Test == form.NotAfter {
				day = now.AddDate(0, 0, -n)
			}
		}
		if s := strings.ToLower(f.Tooltip + f.Name); strings.Contains(s, "birth") || strings.Contains(s, "born") {
			day = p.born
		}
		return rules.ShowDate(f.Format.Pattern, day), true
	case form.Number, form.Percent:
		v := float64(1 + n*7%30)
		for _, c := range f.Checks {
			if a, err := strconv.ParseFloat(c.A, 64); err == nil && c.Test == form.Between && v < a {
				v = a
			}
			if b, err := strconv.ParseFloat(c.B, 64); err == nil && c.Test == form.Between && v > b {
				v = b
			}
		}
		return number(f, v), true
	case form.Time:
		return map[string]string{"HH:MM": "17:45", "HH:MM:ss": "17:45:00", "h:MM tt": "5:45 pm"}[f.Format.Pattern], true
	case form.Email:
		return fmt.Sprintf("person%d@gannet-quay.example", n), true
	case form.Phone:
		return fmt.Sprintf("+44 7700 9%05d", n*431), true
	case form.Postcode, form.Mask:
		return "", true // any made at random would be refused by some country
	}
	for _, c := range f.Checks {
		switch c.Test {
		case form.OneOf:
			list := strings.Split(c.A, ",")
			return strings.TrimSpace(list[n%len(list)]), true
		case form.MatchesMask, form.Luhn, form.IBAN, form.Holds:
			return "", true
		}
	}
	return "", false
}

// number writes a number as its field wants it.
func number(f *form.Field, v float64) string {
	s := strconv.FormatFloat(v, 'f', -1, 64)
	if f.Format.Comma {
		s = strings.Replace(s, ".", ",", 1)
	}
	return s
}
