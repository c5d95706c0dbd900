package rules

import (
	_ "embed" // the prelude
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"

	"zealousmargin.example/internal/form"
)

//go:embed prelude.js
var prelude string

// Prelude is the script that the scripts of formulas need; it belongs to the document
// (ISO 32000-2, 12.6.4.17 and table 32, /JavaScript).
func Prelude() string { return "var zm_doc = this;\n" + prelude }

// known are the fields that a formula can name.
type known struct {
	order  []string
	fields map[string]*form.Field
	self   string // the field that is calculated: no starred name stands for it
}

func knownOf(fields []form.Field) known {
	k := known{fields: map[string]*form.Field{}}
	for i := range fields {
		f := &fields[i]
		if _, had := k.fields[f.Name]; !had && f.Placed() && f.Kind != form.Button && f.Kind != form.Signature {
			k.fields[f.Name] = f
			k.order = append(k.order, f.Name)
		}
	}
	return k
}

// matching lists the fields that a starred name stands for, in tab order.
func (k known) matching(pattern string) []string {
	var out []string
	for _, n := range k.order {
		if n != k.self && Matches(pattern, n) {
			out = append(out, n)
		}
	}
	return out
}

// FormulaFields lists the names that formulas of a draft can use.
func FormulaFields(fields []form.Field) []string { return knownOf(fields).order }

// script writes a part of a formula as ECMAScript.
func (n *node) script(k known) string {
	var args []string
	for _, a := range n.args {
		if a.op == "many" {
			for _, name := range k.matching(a.text) {
				args = append(args, k.read(name))
			}
			continue
		}
		args = append(args, a.script(k))
	}
	list := strings.Join(args, ", ")
	switch n.op {
	case "number":
		return plain(n.number)
	case "text":
		return quote(n.text)
	case "true", "false":
		return n.op
	case "name":
		return k.read(n.text)
	case "not":
		return "!zm_true(" + list + ")"
	case "and":
		return "(zm_true(" + args[0] + ") && zm_true(" + args[1] + "))"
	case "or":
		return "(zm_true(" + args[0] + ") || zm_true(" + args[1] + "))"
	case "minus":
		return "zm_neg(" + list + ")"
	case "&":
		return "(zm_text(" + args[0] + ") + zm_text(" + args[1] + "))"
	case "+", "-", "*", "/", "^":
		return "zm_op(" + quoteSign(n.op) + ", " + list + ")"
	case "call":
		switch n.text {
		case "if":
			if len(args) == 2 {
				args = append(args, "null")
			}
			return "(zm_true(" + args[0] + ") ? " + args[1] + " : " + args[2] + ")"
		case "sum", "average", "min", "max":
			return "zm_gather(" + quote(n.text) + ", [" + list + "])"
		case "count":
			return "zm_count([" + list + "])"
		case "today":
			return "zm_today()"
		case "date":
			return "zm_make(" + list + ")"
		case "blank":
			return "zm_blank(" + list + ")"
		case "days_between":
			return "zm_days(" + list + ")"
		}
		return "zm_fun(" + quote(n.text) + ", " + list + ")"
	}
	return "zm_cmp(" + quoteSign(n.op) + ", " + list + ")"
}

// quoteSign quotes an operator; JSON would write < as \u003c.
func quoteSign(s string) string { return `"` + s + `"` }

// read is the expression for what stands in a field.
func (k known) read(name string) string {
	f := k.fields[name]
	if f == nil {
		return "null"
	}
	switch f.Format.Kind {
	case form.Number, form.Percent:
		return fmt.Sprintf("zm_n(%s, %t, %s, %t)", quote(name), f.Format.Comma, quote(moneyOf(f.Format)), f.Format.Kind == form.Percent)
	case form.Date:
		return fmt.Sprintf("zm_d(%s, %s)", quote(name), quote(f.Format.Pattern))
	}
	return fmt.Sprintf("zm_t(%s)", quote(name))
}

// calculate is the calculation script of a field.
func calculate(f *form.Field, formula *Formula, k known) string {
	k.self = f.Name
	out := "zm_out(r)"
	switch f.Format.Kind {
	case form.Number:
		out = fmt.Sprintf(`zm_out(r, "number", %d, %t)`, f.Format.Decimals, f.Format.Comma)
	case form.Percent:
		out = fmt.Sprintf(`zm_out(typeof r === "number" ? zm_tidy(r * 100) : r, "number", %d, %t)`, f.Format.Decimals, f.Format.Comma)
	case form.Date:
		out = fmt.Sprintf(`zm_out(r, "date", %s)`, quote(f.Format.Pattern))
	}
	return fmt.Sprintf("var r = null;\ntry { r = %s; } catch (e) { r = null; }\nevent.value = %s;", formula.root.script(k), out)
}

// output is what a formula came to as its field takes it, as zm_out writes it.
func output(f *form.Field, v value) (string, error) {
	if isBlank(v) {
		return "", nil
	}
	x, number := v.(float64)
	d, date := v.(day)
	switch {
	case (f.Format.Kind == form.Number || f.Format.Kind == form.Percent) && number:
		if f.Format.Kind == form.Percent {
			var err error
			if x, err = tidy(x * 100); err != nil {
				return "", err
			}
		}
		s := fixed(x, f.Format.Decimals)
		if f.Format.Comma {
			s = strings.Replace(s, ".", ",", 1)
		}
		return s, nil
	case f.Format.Kind == form.Date && date:
		return ShowDate(f.Format.Pattern, d.time()), nil
	}
	return textOf(v), nil
}

// CircleError names the fields whose formulas need each other.
type CircleError struct{ Names []string }

func (e *CircleError) Error() string {
	return "these formulas go round in a circle: " + strings.Join(e.Names, " needs ") + " needs " + e.Names[0] +
		". Take one of them out of the others' formulas"
}

// plan is what is calculated in a form, in the order in which it must be.
type plan struct {
	known
	formulas map[string]*Formula
	calc     []string // names of calculated fields, each after those that it reads
}

// planOf reads the formulas of a form and works out their order.
func planOf(fields []form.Field) (*plan, error) {
	p := &plan{known: knownOf(fields), formulas: map[string]*Formula{}}
	for _, name := range p.order {
		f := p.fields[name]
		if f.Formula == "" {
			continue
		}
		formula, err := ParseFormula(f.Formula)
		if err == nil {
			err = formula.CheckNames(p.order)
		}
		if err != nil {
			return nil, fmt.Errorf("the formula of %s: %w", name, err)
		}
		p.formulas[name] = formula
	}
	state := map[string]int{} // 1 in work, 2 done
	var path []string
	var visit func(name string) error
	visit = func(name string) error {
		formula, ok := p.formulas[name]
		if !ok || state[name] == 2 {
			return nil
		}
		if state[name] == 1 {
			return &CircleError{Names: slices.Clone(path[slices.Index(path, name):])}
		}
		state[name] = 1
		path = append(path, name)
		for _, n := range formula.Names() {
			for _, need := range p.needs(name, n) {
				if err := visit(need); err != nil {
					return err
				}
			}
		}
		path = path[:len(path)-1]
		state[name] = 2
		p.calc = append(p.calc, name)
		return nil
	}
	for _, name := range p.order {
		if err := visit(name); err != nil {
			return nil, err
		}
	}
	return p, nil
}

// KeepsCalculation is what the origin of a field says when the field came with a calculation
// that is kept as it is.
const KeepsCalculation = "a calculation script"

// keepsCalculation tells whether a field came with a calculation of its own.
func keepsCalculation(f *form.Field) bool {
	return f.Origin != nil && slices.Contains(f.Origin.Keeps, KeepsCalculation)
}

// needs lists the fields that a name in the formula of a field stands for.
func (p *plan) needs(self, pattern string) []string {
	k := p.known
	if strings.Contains(pattern, "*") {
		k.self = self
	}
	return k.matching(pattern)
}

// Compiled are the scripts of a whole form.
type Compiled struct {
	Fields map[string]Scripts // by name
	Order  []string           // of calculation, by name (ISO 32000-2, table 224, /CO)
	Needs  bool               // the prelude
}

// CompileForm writes the scripts of all fields of a form: formats, conditions and formulas.
func CompileForm(fields []form.Field) (Compiled, error) {
	p, err := planOf(fields)
	if err != nil {
		return Compiled{}, err
	}
	c := Compiled{Fields: map[string]Scripts{}}
	for _, name := range p.order {
		f := p.fields[name]
		all := Scripts{}
		for trigger, js := range Compile(f.Format) {
			all[trigger] = js
		}
		if formula := p.formulas[name]; formula != nil {
			all["C"] = calculate(f, formula, p.known)
			c.Needs = true
		} else if js := letters(f); js != "" {
			all["C"] = js
			c.Order = append(c.Order, name)
		}
		checks, needs, err := p.checkScripts(f)
		if err != nil {
			return Compiled{}, err
		}
		c.Needs = c.Needs || needs
		if checks != "" {
			if all["V"] != "" {
				all["V"] += "\n"
			}
			all["V"] += checks
		}
		if len(all) > 0 {
			c.Fields[name] = all
		}
	}
	c.Order = append(c.Order, p.calc...)
	if err := p.react(fields, &c); err != nil {
		return c, err
	}
	return c, c.check()
}

// check reads every script as a reader will: one that breaks off would be silently gone there.
func (c Compiled) check() error {
	for _, name := range slices.Sorted(maps.Keys(c.Fields)) {
		for trigger, js := range c.Fields[name] {
			if err := CheckScript(js); err != nil {
				return fmt.Errorf("the script %s of %s cannot be written: %w; take signs out of its pattern or its message", trigger, name,
					err)
			}
		}
	}
	return nil
}

// letters keeps capitals, or small letters, where a reader does not keep what the scripts of the keyboard and of checking say.
func letters(f *form.Field) string {
	to := map[form.FormatKind]string{form.Upper: "toUpperCase", form.Lower: "toLowerCase"}[f.Format.Kind]
	if to == "" || keepsCalculation(f) {
		return ""
	}
	return "event.value = String(event.target.value)." + to + "(); /* zm_letters */"
}

// react writes what shows and hides into the calculation of one field: readers run that after
// every answer, also after those of boxes and lists.
func (p *plan) react(fields []form.Field, c *Compiled) error {
	var lines []string
	done := map[string]bool{}
	for i := range fields {
		f := &fields[i]
		if !f.Placed() || f.ShowIf == "" && f.RequireIf == "" || done[f.Name] {
			continue
		}
		done[f.Name] = true
		conditions := []string{"true", fmt.Sprint(f.Required)}
		for k, text := range []string{f.ShowIf, f.RequireIf} {
			if text == "" {
				continue
			}
			formula, err := ParseFormula(text)
			if err == nil {
				err = formula.CheckNames(p.order)
			}
			if err != nil {
				return fmt.Errorf("when %s shows or must be filled in: %w", f.Name, err)
			}
			conditions[k] = "zm_holds(function () { return " + formula.root.script(p.known) + "; })"
		}
		lines = append(lines, fmt.Sprintf("zm_react(%s, %s, %d, %s);", quote(f.Name), conditions[0], f.Shows().Display(), conditions[1]))
	}
	if len(lines) == 0 {
		return nil
	}
	host := ""
	for _, name := range p.order {
		if keepsCalculation(p.fields[name]) {
			continue
		}
		if p.fields[name].Kind == form.Text && (host == "" || p.formulas[host] != nil && p.formulas[name] == nil) {
			host = name
		}
	}
	if host == "" {
		return errors.New("fields can show and hide only in a form with a text field: place one, hidden if need be")
	}
	if c.Fields[host] == nil {
		c.Fields[host] = Scripts{}
	}
	if own := c.Fields[host]["C"]; own != "" {
		lines = append([]string{own}, lines...)
		c.Order = slices.DeleteFunc(c.Order, func(n string) bool { return n == host })
	}
	c.Fields[host]["C"] = strings.Join(lines, "\n")
	c.Order = append(c.Order, host) // after all that it may depend on
	c.Needs = true
	return nil
}
