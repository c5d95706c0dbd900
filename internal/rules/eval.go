package rules

import (
	"math"
	"strings"
	"time"
)

// lookup gives what stands in a field, and the fields that a starred name stands for.
type lookup interface {
	value(name string) value
	matching(pattern string) []string
	today() time.Time
}

// eval works a part of a formula out.
func (n *node) eval(in lookup) (value, error) {
	switch n.op {
	case "number":
		return n.number, nil
	case "text":
		return n.text, nil
	case "true", "false":
		return n.op == "true", nil
	case "name":
		return in.value(n.text), nil
	case "call":
		return n.evalCall(in)
	case "and", "or":
		a, err := n.args[0].eval(in)
		if err != nil {
			return nil, err
		}
		if truth(a) != (n.op == "and") {
			return truth(a), nil
		}
		b, err := n.args[1].eval(in)
		return truth(b), err
	}
	var args [2]value
	for i, a := range n.args {
		v, err := a.eval(in)
		if err != nil {
			return nil, err
		}
		args[i] = v
	}
	switch n.op {
	case "not":
		return !truth(args[0]), nil
	case "minus":
		x, ok, err := numberOf(args[0])
		if err != nil || !ok {
			return nil, err
		}
		return -x + 0, nil
	case "&":
		return textOf(args[0]) + textOf(args[1]), nil
	case "+", "-", "*", "/", "^":
		return arithmetic(n.op, args[0], args[1])
	}
	return compareValues(n.op, args[0], args[1])
}

// arithmetic adds, subtracts, multiplies, divides and raises. A blank is left out of a sum or
// difference; it makes a product, quotient or power blank. Days can be added to a date, and
// dates subtracted.
func arithmetic(op string, a, b value) (value, error) {
	if d, ok := a.(day); ok {
		return dateArithmetic(op, d, b)
	}
	if d, ok := b.(day); ok && op == "+" {
		return dateArithmetic(op, d, a)
	}
	if a == (noDay{}) || b == (noDay{}) && op == "+" {
		return sinceNoDay(op, a, b)
	}
	if _, ok := b.(day); ok && op == "-" && isBlank(a) {
		return nil, nil
	}
	if b == (noDay{}) {
		return nil, nil
	}
	x, hasX, err := numberOf(a)
	if err != nil {
		return nil, err
	}
	y, hasY, err := numberOf(b)
	if err != nil {
		return nil, err
	}
	if !hasX && !hasY || (!hasX || !hasY) && op != "+" && op != "-" {
		return nil, nil
	}
	var r float64
	switch op {
	case "+":
		r = x + y
	case "-":
		r = x - y
	case "*":
		r = x * y
	case "/":
		if y == 0 {
			return nil, ErrDivision
		}
		r = x / y
	case "^":
		if x == 0 && y < 0 {
			return nil, ErrDivision
		}
		r = math.Pow(x, y)
	}
	return tidy(r)
}

// sinceNoDay is what comes of a date that is blank: another one, or a blank number of days.
func sinceNoDay(op string, a, b value) (value, error) {
	if a != (noDay{}) {
		a, b = b, a
	}
	_, date := b.(day)
	if op != "+" && op != "-" || date || b == (noDay{}) {
		return nil, nil
	}
	if _, _, err := numberOf(b); err != nil {
		return nil, ErrNoDate
	}
	return noDay{}, nil
}

func dateArithmetic(op string, d day, b value) (value, error) {
	switch {
	case b == noDay{}:
		return nil, nil
	case isBlank(b): // so many days as are not known yet
		return noDay{}, nil
	}
	if e, ok := b.(day); ok && op == "-" {
		return float64(d - e), nil
	}
	n, ok, err := numberOf(b)
	if err != nil || !ok || op != "+" && op != "-" {
		return nil, ErrNoDate
	}
	if op == "-" {
		n = -n
	}
	return d + day(math.Floor(n)), nil
}

// compareValues holds two values to each other: numbers by size, dates by time, and
// anything else as text. A blank equals a blank only, and is neither larger nor smaller.
func compareValues(op string, a, b value) (value, error) {
	if isBlank(a) || isBlank(b) {
		same := isBlank(a) && isBlank(b)
		return op == "=" && same || op == "<>" && !same, nil
	}
	var c int
	da, isA := a.(day)
	db, isB := b.(day)
	x, _, errA := numberOf(a)
	y, _, errB := numberOf(b)
	_, boolA := a.(bool)
	_, boolB := b.(bool)
	switch {
	case isA && isB:
		c = int(da) - int(db)
	case boolA || boolB:
		c = 1
		if truth(a) == truth(b) {
			c = 0
		}
	case errA == nil && errB == nil:
		switch {
		case x < y:
			c = -1
		case x > y:
			c = 1
		}
	default:
		c = strings.Compare(textOf(a), textOf(b))
	}
	switch op {
	case "=":
		return c == 0, nil
	case "<>":
		return c != 0, nil
	case "<":
		return c < 0, nil
	case "<=":
		return c <= 0, nil
	case ">":
		return c > 0, nil
	}
	return c >= 0, nil
}

func (n *node) evalCall(in lookup) (value, error) {
	if n.text == "if" { // only the branch that counts is worked out
		c, err := n.args[0].eval(in)
		switch {
		case err != nil:
			return nil, err
		case truth(c):
			return n.args[1].eval(in)
		case len(n.args) == 3:
			return n.args[2].eval(in)
		}
		return nil, nil
	}
	var args []value
	for _, a := range n.args {
		if a.op == "many" {
			for _, name := range in.matching(a.text) {
				args = append(args, in.value(name))
			}
			continue
		}
		v, err := a.eval(in)
		if err != nil {
			return nil, err
		}
		args = append(args, v)
	}
	switch n.text {
	case "today":
		return dayOf(in.today()), nil
	case "blank":
		return isBlank(args[0]), nil
	case "count":
		n := 0.0
		for _, a := range args {
			if !isBlank(a) {
				n++
			}
		}
		return n, nil
	case "sum", "average", "min", "max":
		return gather(n.text, args)
	case "date":
		var part [3]int
		for i, a := range args {
			x, ok, err := numberOf(a)
			if err != nil {
				return nil, err
			}
			if !ok {
				return noDay{}, nil
			}
			part[i] = int(math.Floor(x))
		}
		t := time.Date(part[0], time.Month(part[1]), part[2], 0, 0, 0, 0, time.UTC)
		if part[0] < 1 || part[0] > 9999 || int(t.Month()) != part[1] || t.Day() != part[2] {
			return nil, ErrNoDate
		}
		return dayOf(t), nil
	case "days_between":
		if isBlank(args[0]) || isBlank(args[1]) {
			return nil, nil
		}
		a, okA := args[0].(day)
		b, okB := args[1].(day)
		if !okA || !okB {
			return nil, ErrNoDate
		}
		return float64(b - a), nil
	}
	x, ok, err := numberOf(args[0])
	if n.text == "text" && (err != nil || !ok) { // what is no number is its own text
		return textOf(args[0]), nil
	}
	if err != nil || !ok {
		return nil, err
	}
	places := 0
	if len(args) > 1 {
		p, _, err := numberOf(args[1])
		if err != nil {
			return nil, err
		}
		places = int(max(-9, min(9, math.Floor(p))))
	}
	switch n.text {
	case "round":
		return tidy(Round(x, places, len(args) == 3 && textOf(args[2]) == "even"))
	case "floor":
		return math.Floor(x) + 0, nil
	case "ceil":
		return math.Ceil(x) + 0, nil
	case "abs":
		return math.Abs(x), nil
	case "text":
		if len(args) == 1 {
			return plain(x), nil
		}
		return fixed(x, max(0, places)), nil
	}
	return x, nil // number
}

// gather adds, averages, or finds the smallest or largest; blanks are left out, and of
// nothing but blanks comes a blank. Dates have a smallest and a largest too.
func gather(what string, args []value) (value, error) {
	var total, best float64
	n, dates := 0, 0
	noDays := len(args) > 0
	for _, a := range args {
		noDays = noDays && a == noDay{}
		d, isDate := a.(day)
		x, ok := float64(d), isDate
		if !isDate {
			var err error
			if x, ok, err = numberOf(a); err != nil {
				return nil, err
			}
		}
		if !ok {
			continue
		}
		if isDate {
			dates++
		}
		if n == 0 || what == "min" && x < best || what == "max" && x > best {
			best = x
		}
		n++
		var err error
		if total, err = tidy(total + x); err != nil {
			return nil, err
		}
	}
	if dates > 0 && (dates < n || what == "sum" || what == "average") {
		return nil, ErrNoNumber
	}
	switch {
	case n == 0 && noDays:
		return noDay{}, nil
	case n == 0:
		return nil, nil
	case what == "sum":
		return total, nil
	case what == "average":
		return tidy(total / float64(n))
	case dates > 0:
		return day(best), nil
	}
	return best, nil
}

// fixed writes a number with so many decimal places, halves away from zero.
func fixed(x float64, places int) string {
	r := Round(x, places, false)
	s := plain(math.Abs(r))
	whole, frac, _ := strings.Cut(s, ".")
	if places > 0 {
		whole += "." + (frac + strings.Repeat("0", places))[:places]
	}
	if r < 0 {
		return "-" + whole
	}
	return whole
}
