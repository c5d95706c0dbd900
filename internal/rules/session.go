package rules

import (
	"cmp"
	"fmt"
	"strings"
	"time"

	"zealousmargin.example/internal/form"
)

// Session is a form being filled in: every answer is checked and shaped, what is calculated
// follows, and fields show and hide.
type Session struct {
	plan     *plan
	now      time.Time
	raw      map[string]string // answers as they were typed or calculated
	values   map[string]value  // and as formulas read them
	trouble  map[string]error  // why a calculated field is empty
	hidden   map[string]bool
	required map[string]bool
	readers  map[string][]string // field -> calculated fields that read it
	matched  map[string][]string // calculated field and starred name -> fields
	self     string              // the field that is being calculated
	showIf   map[string]*Formula
	mustIf   map[string]*Formula
}

// NewSession begins to fill a form in, at a time that today() then gives. The answers
// begin as the form's default values. It fails when a formula cannot be understood.
func NewSession(fields []form.Field, now time.Time) (*Session, error) {
	p, err := planOf(fields)
	if err != nil {
		return nil, err
	}
	s := &Session{
		plan: p, now: now, raw: map[string]string{}, values: map[string]value{}, trouble: map[string]error{}, hidden: map[string]bool{},
		required: map[string]bool{},
		readers:  map[string][]string{}, matched: map[string][]string{}, showIf: map[string]*Formula{}, mustIf: map[string]*Formula{},
	}
	for _, name := range p.calc {
		for _, n := range p.formulas[name].Names() {
			for _, need := range p.needs(name, n) {
				s.readers[need] = append(s.readers[need], name)
			}
		}
	}
	for i := range fields { // buttons and signatures show only if, too
		f := &fields[i]
		if !f.Placed() {
			continue
		}
		for _, rule := range []struct {
			text string
			at   map[string]*Formula
		}{{f.ShowIf, s.showIf}, {f.RequireIf, s.mustIf}} {
			if rule.text == "" {
				continue
			}
			formula, err := ParseFormula(rule.text)
			if err == nil {
				err = formula.CheckNames(p.order)
			}
			if err != nil {
				return nil, fmt.Errorf("when %s shows or must be filled in: %w", f.Name, err)
			}
			rule.at[f.Name] = formula
		}
	}
	for _, f := range p.fields {
		s.values[f.Name] = valueOf(f, "")
	}
	for i := range fields { // of a group the button that is chosen at the start
		if f := &fields[i]; f.Placed() && f.Default != "" {
			s.put(f.Name, f.Default)
		}
	}
	s.calculate(p.calc)
	s.react()
	return s, nil
}

func (s *Session) today() time.Time         { return s.now }
func (s *Session) value(name string) value  { return s.values[name] }
func (s *Session) Value(name string) string { return s.raw[name] }

func (s *Session) matching(pattern string) []string {
	key := s.self + " " + pattern
	if m, ok := s.matched[key]; ok {
		return m
	}
	m := s.plan.needs(s.self, pattern)
	s.matched[key] = m
	return m
}

// put keeps an answer, and its value for formulas.
func (s *Session) put(name, answer string) {
	f := s.plan.fields[name]
	if f == nil {
		s.raw[name] = answer
		return
	}
	answer = Stored(f.Format, answer)
	s.raw[name] = answer
	s.values[name] = valueOf(f, answer)
}

// valueOf reads an answer as formulas do.
func valueOf(f *form.Field, answer string) value {
	if (f.Kind == form.CheckBox || f.Kind == form.Radio) && answer == "Off" {
		return nil
	}
	t := strings.TrimSpace(answer)
	if t == "" {
		if f.Format.Kind == form.Date {
			return noDay{}
		}
		if answer == "" || f.Format.Kind == form.Number || f.Format.Kind == form.Percent {
			return nil
		}
		return answer
	}
	switch f.Format.Kind {
	case form.Number, form.Percent:
		v, ok := parseNumber(f.Format, t)
		if !ok {
			return answer
		}
		x, _ := v.Float64()
		if f.Format.Kind == form.Percent {
			x, _ = tidy(x / 100)
		}
		return x + 0
	case form.Date:
		if d, ok := readDate(f.Format.Pattern, t); ok {
			return dayOf(d)
		}
	}
	return answer
}

// Set gives an answer. An answer that its field refuses is not kept; the error has the message
// for the recipient. It tells which calculated fields came to something else.
func (s *Session) Set(name, answer string) (changed []string, err error) {
	f := s.plan.fields[name]
	if f == nil {
		return nil, refusal("there is no field called " + name)
	}
	if s.plan.formulas[name] != nil {
		return nil, refusal("this field is calculated")
	}
	if err := s.Accepts(name, answer); err != nil {
		return nil, err
	}
	if s.raw[name] == answer {
		return nil, nil
	}
	s.put(name, answer)
	changed = s.calculate(s.after(name))
	s.react()
	return changed, nil
}

// SetAll gives answers all at once, works everything out, and then holds each to its rules: it gives the refusals by name. A field
// that is worked out takes nothing but what it comes to.
func (s *Session) SetAll(answers map[string]string) map[string]error {
	refused := map[string]error{}
	for name, answer := range answers {
		if s.plan.fields[name] == nil {
			continue
		}
		if s.plan.formulas[name] == nil {
			s.put(name, answer)
		}
	}
	s.calculate(s.plan.calc)
	s.react()
	for name, answer := range answers {
		switch f := s.plan.fields[name]; {
		case f == nil:
		case s.plan.formulas[name] != nil:
			if want, got := s.raw[name], Stored(f.Format, answer); answer != "" && got != want && !showSame(f.Format, got, want) {
				refused[name] = refusal(fmt.Sprintf("This is worked out: it comes to %s.", cmp.Or(s.Shown(name), "nothing")))
			}
		default:
			if err := s.Accepts(name, answer); err != nil {
				refused[name] = err
			}
		}
	}
	return refused
}

// showSame tells whether two answers show the same.
func showSame(f form.Format, a, b string) bool {
	x, errA := Check(f, a)
	y, errB := Check(f, b)
	return errA == nil && errB == nil && x == y
}

// Accepts tells whether a field takes an answer, without giving it.
func (s *Session) Accepts(name, answer string) error {
	f := s.plan.fields[name]
	if f == nil || answer == "" {
		return nil
	}
	if _, err := Check(f.Format, answer); err != nil {
		return err
	}
	if n := f.MaxLen; n > 0 && len([]rune(answer)) > n {
		return refusal("It can have at most " + plain(float64(n)) + " signs.")
	}
	in := &leaving{Session: s, name: name, answer: valueOf(f, answer)}
	for _, c := range f.Checks {
		if !s.plan.passes(f, c, answer, in) {
			return refusal(CheckWords(c))
		}
	}
	return nil
}

// leaving is a session in which one answer is not kept yet.
type leaving struct {
	*Session
	name   string
	answer value
}

func (l *leaving) value(name string) value {
	if name == l.name {
		return l.answer
	}
	return l.Session.value(name)
}

// after lists the calculated fields that a field has an effect on, in the order of calculation.
func (s *Session) after(name string) []string {
	touched := map[string]bool{}
	queue := []string{name}
	for len(queue) > 0 {
		for _, r := range s.readers[queue[0]] {
			if !touched[r] {
				touched[r] = true
				queue = append(queue, r)
			}
		}
		queue = queue[1:]
	}
	if len(touched) == 0 {
		return nil
	}
	var out []string
	for _, n := range s.plan.calc {
		if touched[n] {
			out = append(out, n)
		}
	}
	return out
}

// calculate works fields out, and tells which came to something else.
func (s *Session) calculate(names []string) []string {
	var changed []string
	for _, name := range names {
		s.self = name
		v, err := s.plan.formulas[name].root.eval(s)
		s.self = ""
		out := ""
		if err == nil {
			out, err = output(s.plan.fields[name], v)
		}
		if err != nil {
			out = ""
			s.trouble[name] = err
		} else {
			delete(s.trouble, name)
		}
		if out != s.raw[name] {
			changed = append(changed, name)
			s.put(name, out)
		}
	}
	return changed
}

// react works out what shows and what must be filled in.
func (s *Session) react() {
	holds := func(f *Formula) bool {
		v, err := f.root.eval(s)
		return err == nil && truth(v)
	}
	for name, f := range s.showIf {
		s.hidden[name] = !holds(f)
	}
	for name, f := range s.mustIf {
		s.required[name] = holds(f)
	}
}

// Shown is what a field shows for its answer.
func (s *Session) Shown(name string) string {
	f := s.plan.fields[name]
	if f == nil {
		return s.raw[name]
	}
	if shown, err := Check(f.Format, s.raw[name]); err == nil {
		return shown
	}
	return s.raw[name]
}

// Trouble is why a calculated field is empty; nil when it is not.
func (s *Session) Trouble(name string) error { return s.trouble[name] }

// Hidden tells whether a field does not show: never, or not with these answers.
func (s *Session) Hidden(name string) bool {
	f := s.plan.fields[name]
	return s.hidden[name] || f != nil && f.Shows() == form.ShowNone
}

// Required tells whether a field must be filled in, with these answers. One that does not
// show never must.
func (s *Session) Required(name string) bool {
	f := s.plan.fields[name]
	return f != nil && (f.Required || s.required[name]) && !s.Hidden(name) && !f.ReadOnly && s.plan.formulas[name] == nil
}

// Calculated tells whether a field has a formula.
func (s *Session) Calculated(name string) bool { return s.plan.formulas[name] != nil }

// Missing lists the fields that must still be filled in, in tab order.
func (s *Session) Missing() []string {
	var out []string
	for _, name := range s.plan.order {
		if s.Required(name) && (s.raw[name] == "" || s.raw[name] == "Off") {
			out = append(out, name)
		}
	}
	return out
}

// Names lists the fields that can be filled in, in tab order.
func (s *Session) Names() []string { return s.plan.order }
