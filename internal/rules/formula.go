package rules

import (
	"slices"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"
)

// A formula is ordinary arithmetic over field names:
//
//	sum(line_*_amount) * if(member, 0.9, 1)
//
// From weakest to strongest bind: or; and; not; = <> < <= > >=; & (joins text); + -; * /;
// the sign; ^. A name of letters, figures and underscores stands for a field; any other
// field name is put in single quotes. Text stands in double quotes. A * in a name stands
// for anything, where a function takes several values: line_*_amount, *_amount. The field that
// is calculated is never among them.

// node is a part of a parsed formula. At and end are its place in the text, in bytes.
type node struct {
	op      string // "number", "text", "name", "many", "call", or an operator
	text    string // of a text, a name, or the function's name
	number  float64
	args    []*node
	at, end int
}

// FormulaError is what is wrong with a formula, at its place in the text.
type FormulaError struct {
	At, End  int // bytes
	Say      string
	Proposal string // what to write instead; empty when nothing is near
}

func (e *FormulaError) Error() string {
	if e.Proposal == "" {
		return e.Say
	}
	return e.Say + ": " + e.Proposal
}

// Span tells where in the formula it is, in bytes.
func (e *FormulaError) Span() (at, end int) { return e.At, e.End }

// Formula is a formula that was understood.
type Formula struct {
	Text string
	root *node
}

// function says how many values a function takes; at most -1 is any number.
type function struct {
	least, most int
	usage       string
}

var functions = map[string]function{
	"sum":          {1, -1, "sum(a, b, ...): all of them added; blanks are left out"},
	"average":      {1, -1, "average(a, b, ...): blanks are left out"},
	"min":          {1, -1, "min(a, b, ...): the smallest"},
	"max":          {1, -1, "max(a, b, ...): the largest"},
	"count":        {1, -1, "count(a, b, ...): how many are not blank"},
	"round":        {1, 3, `round(a, places, "even"): to so many decimal places; halves go away from zero, or with "even" to the even figure`},
	"floor":        {1, 1, "floor(a): the whole number below"},
	"ceil":         {1, 1, "ceil(a): the whole number above"},
	"abs":          {1, 1, "abs(a): without its sign"},
	"if":           {2, 3, "if(condition, then, otherwise)"},
	"days_between": {2, 2, "days_between(from, to): whole days from the first date to the second"},
	"today":        {0, 0, "today(): the date of filling in"},
	"date":         {3, 3, "date(year, month, day)"},
	"text":         {1, 2, "text(a, places): a number as text, with so many decimal places"},
	"number":       {1, 1, "number(a): a text as a number"},
	"blank":        {1, 1, "blank(a): whether nothing is filled in"},
}

// FunctionNames lists the functions of formulas, each with how it is used.
func FunctionNames() []string {
	var out []string
	for _, f := range functions {
		out = append(out, f.usage)
	}
	slices.Sort(out)
	return out
}

// ParseFormula reads a formula. Errors are of type [*FormulaError].
func ParseFormula(s string) (*Formula, error) {
	p := &parser{s: s}
	p.next()
	root, err := p.binary(0)
	if err != nil {
		return nil, err
	}
	if p.kind != endToken {
		return nil, p.unexpected()
	}
	return &Formula{Text: s, root: root}, nil
}

// tokens of a formula
const (
	endToken = iota
	numberToken
	textToken
	nameToken
	signToken // operators, brackets, commas
	wrongToken
)

type parser struct {
	s       string
	pos     int // after the token
	at      int // of the token
	kind    int
	text    string
	number  float64
	problem string
}

func (p *parser) next() {
	for p.pos < len(p.s) && strings.ContainsRune(" \t\r\n", rune(p.s[p.pos])) {
		p.pos++
	}
	p.at = p.pos
	if p.pos >= len(p.s) {
		p.kind, p.text = endToken, ""
		return
	}
	c, size := utf8.DecodeRuneInString(p.s[p.pos:])
	switch {
	case c >= '0' && c <= '9' || c == '.' && p.pos+1 < len(p.s) && p.s[p.pos+1] >= '0' && p.s[p.pos+1] <= '9':
		for p.pos < len(p.s) && (p.s[p.pos] >= '0' && p.s[p.pos] <= '9' || p.s[p.pos] == '.') {
			p.pos++
		}
		p.kind, p.text = numberToken, p.s[p.at:p.pos]
		v, err := strconv.ParseFloat(p.text, 64)
		if p.number = v; err != nil {
			p.kind, p.problem = wrongToken, "a number has one decimal point"
		}
	case c == '"' || c == '\'' || c == '“' || c == '”':
		closing := map[rune]string{'"': `"`, '\'': `'`, '“': "”", '”': "”"}[c]
		i := strings.Index(p.s[p.pos+size:], closing)
		if i < 0 {
			p.kind, p.problem, p.pos = wrongToken, "the text has no closing "+closing, len(p.s)
			return
		}
		p.text = p.s[p.pos+size : p.pos+size+i]
		p.pos += size + i + len(closing)
		if p.kind = textToken; c == '\'' {
			p.kind = nameToken
		}
	case c == '_' || unicode.IsLetter(c):
		for p.pos < len(p.s) {
			r, n := utf8.DecodeRuneInString(p.s[p.pos:])
			starred := r == '*' && (p.pos+1 < len(p.s) && p.s[p.pos+1] == '_' || p.s[p.pos-1] == '_') // line_*_amount, not a*b
			if r != '_' && !unicode.IsLetter(r) && !unicode.IsDigit(r) && !starred {
				break
			}
			p.pos += n
		}
		p.kind, p.text = nameToken, p.s[p.at:p.pos]
	default:
		p.kind, p.text = signToken, string(c)
		p.pos += size
		for _, two := range []string{"<=", ">=", "<>", "!=", "==", "&&", "||"} {
			if strings.HasPrefix(p.s[p.at:], two) {
				p.text, p.pos = two, p.at+2
			}
		}
	}
}

// same are other ways to write an operator.
var same = map[string]string{
	"==": "=", "!=": "<>", "&&": "and", "||": "or", "×": "*", "÷": "/", "−": "-", "≤": "<=", "≥": ">=",
	"≠": "<>", "!": "not",
}

// levels are the operators from the weakest to the strongest.
var levels = [][]string{{"or"}, {"and"}, nil, {"=", "<>", "<", "<=", ">", ">="}, {"&"}, {"+", "-"}, {"*", "/"}}

func (p *parser) operator() string {
	if p.kind == signToken {
		if s, ok := same[p.text]; ok {
			return s
		}
		return p.text
	}
	if p.kind == nameToken && p.s[p.at] != '\'' {
		switch w := strings.ToLower(p.text); w {
		case "and", "or", "not":
			return w
		}
	}
	return ""
}

func (p *parser) binary(level int) (*node, error) {
	if level == 2 && p.operator() == "not" {
		at := p.at
		p.next()
		x, err := p.binary(level)
		if err != nil {
			return nil, err
		}
		return &node{op: "not", args: []*node{x}, at: at, end: x.end}, nil
	}
	if level == 2 {
		return p.binary(level + 1)
	}
	if level == len(levels) {
		return p.unary()
	}
	left, err := p.binary(level + 1)
	if err != nil {
		return nil, err
	}
	for slices.Contains(levels[level], p.operator()) {
		op := p.operator()
		p.next()
		right, err := p.binary(level + 1)
		if err != nil {
			return nil, err
		}
		left = &node{op: op, args: []*node{left, right}, at: left.at, end: right.end}
	}
	return left, nil
}

func (p *parser) unary() (*node, error) {
	if op := p.operator(); op == "-" || op == "+" {
		at := p.at
		p.next()
		x, err := p.unary()
		if err != nil || op == "+" {
			return x, err
		}
		return &node{op: "minus", args: []*node{x}, at: at, end: x.end}, nil
	}
	x, err := p.primary()
	if err != nil || p.operator() != "^" {
		return x, err
	}
	p.next()
	y, err := p.unary()
	if err != nil {
		return nil, err
	}
	return &node{op: "^", args: []*node{x, y}, at: x.at, end: y.end}, nil
}

func (p *parser) primary() (*node, error) {
	at, text, kind := p.at, p.text, p.kind
	switch {
	case kind == numberToken:
		n := &node{op: "number", number: p.number, at: at, end: p.pos}
		p.next()
		return n, nil
	case kind == textToken:
		n := &node{op: "text", text: text, at: at, end: p.pos}
		p.next()
		return n, nil
	case kind == nameToken && p.operator() == "":
		n := &node{op: "name", text: text, at: at, end: p.pos}
		quotedName := p.s[at] == '\''
		p.next()
		if p.kind == signToken && p.text == "(" && !quotedName {
			return p.call(n)
		}
		if strings.Contains(text, "*") {
			n.op = "many"
		}
		if !quotedName && strings.EqualFold(text, "today") {
			return &node{op: "call", text: "today", at: at, end: n.end}, nil
		}
		if low := strings.ToLower(text); !quotedName && (low == "true" || low == "false") {
			return &node{op: low, at: at, end: n.end}, nil
		}
		return n, nil
	case kind == signToken && text == "*" && p.pos < len(p.s) && p.s[p.pos] == '_': // *_amount
		for p.pos < len(p.s) {
			r, n := utf8.DecodeRuneInString(p.s[p.pos:])
			if r != '_' && r != '*' && !unicode.IsLetter(r) && !unicode.IsDigit(r) {
				break
			}
			p.pos += n
		}
		n := &node{op: "many", text: p.s[at:p.pos], at: at, end: p.pos}
		p.next()
		return n, nil
	case kind == signToken && text == "(":
		p.next()
		x, err := p.binary(0)
		if err != nil {
			return nil, err
		}
		if p.kind != signToken || p.text != ")" {
			return nil, &FormulaError{At: at, End: at + 1, Say: "this bracket is not closed", Proposal: "write ) where it ends"}
		}
		p.next()
		return x, nil
	}
	return nil, p.unexpected()
}

func (p *parser) call(n *node) (*node, error) {
	f, ok := functions[strings.ToLower(n.text)]
	if !ok {
		e := &FormulaError{At: n.at, End: n.end, Say: n.text + " is no function"}
		if near := nearest(n.text, functionNames()); near != "" {
			e.Proposal = "did you mean " + near + "?"
		} else {
			e.Proposal = "there are " + strings.Join(functionNames(), ", ")
		}
		return nil, e
	}
	c := &node{op: "call", text: strings.ToLower(n.text), at: n.at}
	p.next()
	for p.kind != signToken || p.text != ")" {
		if p.kind == endToken {
			return nil, &FormulaError{
				At: n.at, End: n.end, Say: "the bracket after " + n.text + " is not closed",
				Proposal: "write ) after its last value",
			}
		}
		x, err := p.binary(0)
		if err != nil {
			return nil, err
		}
		c.args = append(c.args, x)
		if p.kind == signToken && (p.text == "," || p.text == ";") {
			comma := p.at
			p.next()
			if p.kind == signToken && p.text == ")" {
				return nil, &FormulaError{
					At: comma, End: p.at, Say: "a value is missing after the comma",
					Proposal: "take the comma away, or write a value",
				}
			}
			continue
		}
		if p.kind != signToken || p.text != ")" {
			return nil, p.unexpected()
		}
	}
	c.end = p.pos
	p.next()
	several := slices.ContainsFunc(c.args, func(a *node) bool { return a.op == "many" })
	if len(c.args) < f.least || f.most >= 0 && len(c.args) > f.most || several && f.most >= 0 {
		return nil, &FormulaError{At: c.at, End: c.end, Say: n.text + " takes other values", Proposal: f.usage}
	}
	return c, nil
}

func functionNames() []string {
	var out []string
	for n := range functions {
		out = append(out, n)
	}
	slices.Sort(out)
	return out
}

// unexpected says what is wrong with the token in hand.
func (p *parser) unexpected() error {
	e := &FormulaError{At: p.at, End: max(p.pos, p.at+1)}
	switch {
	case p.kind == wrongToken:
		e.Say = p.problem
	case p.kind == endToken:
		e.At, e.End = max(0, len(p.s)-1), len(p.s)
		e.Say, e.Proposal = "the formula breaks off here", "write a field, a number or a bracket"
	case p.text == ")":
		e.Say, e.Proposal = "this bracket was never opened", "take it away, or write ( before it"
	case p.text == ",":
		e.Say, e.Proposal = "a comma stands only between the values of a function", "write a decimal with a point, such as 0.9"
	case p.text == "*" || p.text == "%":
		e.Say = "there is nothing before the " + p.text
		if p.text == "%" {
			e.Say, e.Proposal = "% is no sign of formulas", "divide by 100"
		}
	case p.kind == signToken && !strings.ContainsAny(p.text, "+-/^&=<>("):
		e.Say = p.text + " is no sign of formulas"
	case p.kind == signToken:
		e.Say, e.Proposal = "a value is missing before "+p.text, "write a field or a number"
	default:
		e.Say, e.Proposal = "a sign is missing before "+p.s[p.at:p.pos], "write + - * / or & between"
	}
	return e
}

// nearest is the one of some words that is like w but for a slip or two; empty when none is.
func nearest(w string, words []string) string {
	best, least := "", 3
	for _, x := range words {
		if d := Distance(strings.ToLower(w), strings.ToLower(x)); d < least && 2*d <= len(x)+1 {
			best, least = x, d
		}
	}
	return best
}

// Distance counts the letters to add, take away or change to make one word of another (V. Levenshtein, 1966).
func Distance(a, b string) int {
	ra, rb := []rune(a), []rune(b)
	row := make([]int, len(rb)+1)
	for j := range row {
		row[j] = j
	}
	for i, x := range ra {
		diagonal := row[0]
		row[0] = i + 1
		for j, y := range rb {
			cost := diagonal
			if x != y {
				cost++
			}
			diagonal = row[j+1]
			row[j+1] = min(cost, row[j+1]+1, row[j]+1)
		}
	}
	return row[len(rb)]
}

// walk visits a node and all that it is made of.
func (n *node) walk(visit func(*node)) {
	visit(n)
	for _, a := range n.args {
		a.walk(visit)
	}
}

// Names lists the fields that the formula reads, those with a star as they are written.
func (f *Formula) Names() []string {
	var out []string
	f.root.walk(func(n *node) {
		if (n.op == "name" || n.op == "many") && !slices.Contains(out, n.text) {
			out = append(out, n.text)
		}
	})
	return out
}

// Matches tells whether a field name is one that a name with stars stands for: a star is
// one sign or more.
func Matches(pattern, field string) bool {
	head, rest, starred := strings.Cut(pattern, "*")
	if !starred {
		return pattern == field
	}
	if !strings.HasPrefix(field, head) {
		return false
	}
	field = field[len(head):]
	for i, r := range field {
		if Matches(rest, field[i+utf8.RuneLen(r):]) {
			return true
		}
	}
	return false
}

// CheckNames refuses a formula that names fields which are not there.
func (f *Formula) CheckNames(fields []string) error {
	var err error
	f.root.walk(func(n *node) {
		if err != nil || n.op != "name" && n.op != "many" ||
			slices.ContainsFunc(fields, func(x string) bool { return Matches(n.text, x) }) {
			return
		}
		e := &FormulaError{At: n.at, End: n.end, Say: "there is no field called " + n.text}
		if near := nearest(n.text, fields); near != "" {
			e.Proposal = "did you mean " + near + "?"
		}
		err = e
	})
	return err
}

// CheckFormula reads a formula and holds its names to the fields that there are.
func CheckFormula(s string, fields []string) error {
	f, err := ParseFormula(s)
	if err != nil {
		return err
	}
	return f.CheckNames(fields)
}

// Renamed is the formula with a field's new name in the place of its old one.
func (f *Formula) Renamed(from, to string) string {
	var at []*node
	f.root.walk(func(n *node) {
		if n.op == "name" && n.text == from {
			at = append(at, n)
		}
	})
	slices.SortFunc(at, func(a, b *node) int { return b.at - a.at })
	s := f.Text
	for _, n := range at {
		s = s[:n.at] + QuoteName(to) + s[n.end:]
	}
	return s
}

// QuoteName writes a field name as a formula needs it.
func QuoteName(name string) string {
	p := &parser{s: name}
	p.next()
	if p.kind == nameToken && p.pos == len(name) && p.operator() == "" && !strings.Contains(name, "*") {
		return name
	}
	return "'" + name + "'"
}

// Lined is the formula for another row of a table: the figure of the row it stands in, in
// the names of the same row, is changed to that of the other: line_1_rate to line_2_rate.
func (f *Formula) Lined(from, to int) string {
	var at []*node
	f.root.walk(func(n *node) {
		if n.op == "name" {
			at = append(at, n)
		}
	})
	slices.SortFunc(at, func(a, b *node) int { return b.at - a.at })
	s := f.Text
	for _, n := range at {
		s = s[:n.at] + QuoteName(RowName(n.text, from, to)) + s[n.end:]
	}
	return s
}

// Stemmed is the formula for another row of a table whose rows are called by words: names that
// begin with from begin with to: hauling_out_rate becomes launching_rate.
func (f *Formula) Stemmed(from, to string) string {
	var at []*node
	f.root.walk(func(n *node) {
		if n.op == "name" && strings.HasPrefix(n.text, from) {
			at = append(at, n)
		}
	})
	slices.SortFunc(at, func(a, b *node) int { return b.at - a.at })
	s := f.Text
	for _, n := range at {
		s = s[:n.at] + QuoteName(to+strings.TrimPrefix(n.text, from)) + s[n.end:]
	}
	return s
}

// Stem is the beginning, up to an underscore, that a field shares with names that its formula
// reads: what its row is called. Empty when there is none.
func (f *Formula) Stem(field string) string {
	best := ""
	for _, n := range f.Names() {
		for i, r := range n {
			if r == '_' && strings.HasPrefix(field, n[:i+1]) && i+1 > len(best) {
				best = n[:i+1]
			}
		}
	}
	return best
}

// RowName changes the figure of a row in a field name: the first part of it, between
// underscores, that is the figure.
func RowName(name string, from, to int) string {
	parts := strings.Split(name, "_")
	for i, p := range parts {
		if i > 0 && p == strconv.Itoa(from) {
			parts[i] = strconv.Itoa(to)
			return strings.Join(parts, "_")
		}
	}
	return name
}

func (f *Formula) String() string { return f.Text }
