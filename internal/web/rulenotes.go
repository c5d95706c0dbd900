package web

import (
	"cmp"
	"errors"
	"fmt"
	"html/template"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/rules"
)

// What a note says of rules: what its field accepts, what an answer must hold, what it is
// calculated from, and when it shows.

// formatNames are the formats as a note names them.
var formatNames = [][2]string{
	{"", "anything"},
	{"date", "a date"},
	{"time", "a time"},
	{"number", "a number"},
	{"percent", "a percentage"},
	{"phone", "a telephone number"},
	{"email", "an e-mail address"},
	{"postcode", "a postcode"},
	{"mask", "signs in a pattern"},
	{"upper", "text in capitals"},
	{"lower", "text in small letters"},
}

var datePatterns = []string{"dd.mm.yyyy", "dd/mm/yyyy", "mm/dd/yyyy", "yyyy-mm-dd", "dd.mm.yy", "d mmm yyyy", "d mmmm yyyy", "mmmm d, yyyy"}

// masks are patterns to begin with, each with what it is for.
var masks = [][2]string{{"## ### ### ###", "tax number"}, {"##/###/#####", "tax number"}, {"###-##-####", "social number"}, {"@@-####", "berth or craft number"}, {"#### #### #### ####", "card number"}}

func pairs(list []string) [][2]string {
	var out [][2]string
	for _, s := range list {
		out = append(out, [2]string{s, s})
	}
	return out
}

// formatSayings are the sentences of what a text field accepts.
func formatSayings(f form.Field) []saying {
	var out []saying
	add := func(key, before, after, value string, choices [][2]string) {
		out = append(out, saying{property: property{Key: key, Before: before, After: after, Choices: choices}, ID: "b-" + f.ID + "-" + key, Value: value, Stop: ","})
	}
	yes := func(b bool) string { return map[bool]string{true: "yes", false: "no"}[b] }
	x := f.Format
	add("format", "It accepts", "", string(x.Kind), formatNames)
	switch x.Kind {
	case form.Date:
		list := datePatterns
		if !slices.Contains(list, x.Pattern) {
			list = append(slices.Clone(list), x.Pattern)
		}
		add("pattern", "written", "", x.Pattern, pairs(list))
	case form.Time:
		add("pattern", "written", "", x.Pattern, [][2]string{{"HH:MM", "17:45"}, {"HH:MM:ss", "17:45:00"}, {"h:MM tt", "5:45 pm"}})
	case form.Number, form.Percent:
		add("decimals", "with", "decimals", strconv.Itoa(x.Decimals), nil)
		style := "point"
		if x.Comma {
			style = "comma"
		}
		add("style", "written", "", style, [][2]string{{"point", "with a decimal point"}, {"comma", "with a decimal comma"}})
		add("ungrouped", "", "", yes(x.Ungrouped), yesNo("without groups", "in groups of thousands"))
		add("brackets", "negative ones", "", yes(x.Brackets), yesNo("in brackets", "with a minus"))
		if x.Kind == form.Number {
			add("currency", "in", "", x.Currency, nil)
			if x.Currency != "" {
				add("after", "which stands", "", yes(x.After), yesNo("behind it", "before it"))
			}
		}
	case form.Postcode:
		add("pattern", "of", "", x.Pattern, rules.PostcodeCountries())
	case form.Mask:
		add("pattern", "written as", "(# a figure, @ a letter, ? any sign)", x.Pattern, nil)
		out[len(out)-1].List = "masks"
	}
	last := &out[len(out)-1]
	last.Stop = "."
	if x.Kind != form.NoFormat && x.Kind != form.Upper && x.Kind != form.Lower {
		add("message", "Otherwise say", "", x.Message, nil)
		out[len(out)-1].Stop, out[len(out)-1].Empty = ".", rules.Message(x)
	}
	return out
}

// FormatSaid is the sentences of what a text field accepts.
func (b benchField) FormatSaid() template.HTML { return sayGroup{Say: formatSayings(b.Field)}.HTML() }

// testNames are the checks as a note names them.
var testNames = [][2]string{
	{"between", "be from … to …"},
	{"oneof", "be one of …"},
	{"length", "have from … to … signs"},
	{"mask", "look like …"},
	{"notbefore", "not be before …"},
	{"notafter", "not be after …"},
	{"luhn", "have the right check digit"},
	{"iban", "be an account number (IBAN)"},
	{"holds", "go with other answers: …"},
}

// checkSayings are the sentences of one check; n counts from 0.
func checkSayings(f form.Field, n int) []saying {
	c := f.Checks[n]
	var out []saying
	add := func(part, before, after, value, stop string) {
		key := fmt.Sprintf("check:%d:%s", n, part)
		out = append(out, saying{property: property{Key: key, Before: before, After: after}, ID: "b-" + f.ID + "-check-" + strconv.Itoa(n) + "-" + part, Value: value, Stop: stop})
	}
	switch c.Test {
	case form.Between:
		add("a", "It must be from", "", c.A, "")
		add("b", "to", "", c.B, ".")
	case form.OneOf:
		add("a", "It must be one of", "", c.A, ".")
	case form.Length:
		add("a", "It must have from", "", c.A, "")
		add("b", "to", "signs", c.B, ".")
	case form.MatchesMask:
		add("a", "It must look like", "(# a figure, @ a letter, ? any sign)", c.A, ".")
	case form.NotBefore:
		add("a", "It must not be before", "", c.A, ".")
	case form.NotAfter:
		add("a", "It must not be after", "", c.A, ".")
	case form.Holds:
		add("a", "It must hold that", "", c.A, ".")
	case form.Luhn:
		out = append(out, saying{property: property{Before: "Its check digit must be right."}})
	case form.IBAN:
		out = append(out, saying{property: property{Before: "It must be an account number (IBAN)."}})
	}
	add("message", "Otherwise say", "", c.Message, ".")
	out[len(out)-1].Empty = rules.CheckWords(c)
	return out
}

// RuleSaid is what a note says of checks, formulas and conditions.
func (b benchField) RuleSaid() template.HTML {
	f := b.Field
	var w strings.Builder
	text := func(key, before, after, value, empty string) {
		s := saying{property: property{Key: key, Before: before, After: after}, ID: "b-" + f.ID + "-" + key, Value: value, Stop: ".", Empty: empty, Formula: true}
		s.put(&w)
		put(&w, "<br>")
	}
	if f.Kind == form.Text || f.Kind == form.Choice {
		for n := range f.Checks {
			put(&w, `<span class="rule">`)
			for _, s := range checkSayings(f, n) {
				s.put(&w)
				w.WriteByte(' ')
			}
			put(&w, `<button class="link" data-set="check:`, strconv.Itoa(n), `:drop" data-value="">take away</button></span> `)
		}
		before := "It must"
		if len(f.Checks) > 0 {
			before = "It must also"
		}
		add := saying{property: property{Key: "check:new", Before: before, Choices: append([][2]string{{"", "…"}}, testNames...)}, ID: "b-" + f.ID + "-check-new", Stop: "."}
		add.put(&w)
		put(&w, "<br>")
	}
	if f.Kind == form.Text {
		text("formula", "It is calculated:", "", f.Formula, "not at all")
		if f.Formula != "" {
			put(&w, `<button class="link" data-do="copy-formula" title="The same for the other rows, with their own names">copy down the table</button> `)
		}
	}
	if f.Kind != form.Button && f.Kind != form.Signature {
		text("requireif", "It must be filled in only if", "", f.RequireIf, "…")
	}
	text("showif", "It shows only if", "", f.ShowIf, "always")
	writeSteps(&w, f)
	put(&w, `<details class="help"><summary>what formulas know</summary><ul>`)
	for _, usage := range append([]string{"+ - * / ^ for numbers, & to join text, = <> < <= > >= and or not", "names of fields; line_*_amount stands for those of all rows"}, rules.FunctionNames()...) {
		put(&w, `<li>`, esc(usage), `</li>`)
	}
	put(&w, `</ul></details>`)
	return template.HTML(w.String())
}

// ruled says in a few words which rules a field has.
func ruled(f form.Field) string {
	var says []string
	if f.Formula != "" {
		says = append(says, "calculated")
	}
	if n := len(f.Checks); n == 1 {
		says = append(says, "1 check")
	} else if n > 1 {
		says = append(says, strconv.Itoa(n)+" checks")
	}
	if f.ShowIf != "" {
		says = append(says, "shows only if")
	}
	if f.RequireIf != "" {
		says = append(says, "must only if")
	}
	if n := len(f.Steps); n > 0 {
		says = append(says, "does things")
	}
	return strings.Join(says, ", ")
}

// setRule changes a check, a formula or a condition.
func setRule(t *form.Template, ids []string, who, key, value string) (form.Edit, error) {
	names := rules.FormulaFields(t.Fields)
	title := map[string]string{"formula": "changed what " + who + " is calculated from", "showif": "changed when " + who + " shows", "requireif": "changed when " + who + " must be filled in"}[key]
	if title != "" {
		if value != "" {
			if err := rules.CheckFormula(value, names); err != nil {
				return form.Edit{}, err
			}
		}
		e, err := t.Set(title, ids, func(f *form.Field) error {
			switch key {
			case "formula":
				f.Formula, f.ReadOnly = value, value != "" || f.Formula == "" && f.ReadOnly
			case "showif":
				f.ShowIf = value
			default:
				f.RequireIf = value
			}
			return nil
		})
		if err != nil || key != "formula" {
			return e, err
		}
		return e, circle(t, e)
	}
	return t.Set("changed what "+who+" must hold", ids, func(f *form.Field) error {
		parts := strings.Split(key, ":")
		if len(parts) == 2 { // check:new
			if !slices.Contains(form.Tests, form.Test(value)) {
				return form.ErrNothing
			}
			f.Checks = append(f.Checks, newCheck(form.Test(value), *f))
			return nil
		}
		n, err := strconv.Atoi(parts[1])
		if err != nil || n < 0 || n >= len(f.Checks) {
			return form.ErrClash
		}
		c := &f.Checks[n]
		switch parts[2] {
		case "drop":
			f.Checks = slices.Delete(f.Checks, n, n+1)
			return nil
		case "message":
			c.Message = value
			return nil
		case "a":
			c.A = value
		case "b":
			c.B = value
		}
		return rules.CheckProblem(f, *c, names)
	})
}

// newCheck is a check to begin with, one that can be done.
func newCheck(test form.Test, f form.Field) form.Check {
	c := form.Check{Test: test}
	switch test {
	case form.Between, form.Length:
		c.A = "1"
		if f.Format.Kind == form.Date {
			c.A = "today"
		}
	case form.OneOf:
		c.A = "yes, no"
	case form.MatchesMask:
		c.A = "@@-####"
	case form.NotBefore, form.NotAfter:
		c.A = "today"
	case form.Holds:
		c.A = rules.QuoteName(f.Name) + " <> \"\""
	}
	return c
}

// circle refuses an edit after which formulas need each other.
func circle(t *form.Template, e form.Edit) error {
	after := *t
	after.Fields = slices.Clone(t.Fields)
	for _, f := range e.After {
		for i := range after.Fields {
			if after.Fields[i].ID == f.ID {
				after.Fields[i] = f
			}
		}
	}
	var round *rules.CircleError
	if _, err := rules.CompileForm(after.Placed()); errors.As(err, &round) {
		return err
	}
	return nil
}

// follow adds to the renaming of a field what formulas that read it say then.
func follow(t *form.Template, e form.Edit, err error) (form.Edit, error) {
	if err != nil || len(e.Before) == 0 {
		return e, err
	}
	from, to := e.Before[0].Name, e.After[0].Name
	for _, f := range t.Fields {
		if g, changed := rules.Renamed(f, from, to); changed {
			i := slices.IndexFunc(e.After, func(x form.Field) bool { return x.ID == f.ID })
			if i >= 0 {
				e.After[i], _ = rules.Renamed(e.After[i], from, to)
				continue
			}
			e.Before, e.After = append(e.Before, f), append(e.After, g)
		}
	}
	return e, nil
}

// copyFormula gives the formula of a field to those of the other rows of its table: line_1_amount's
// to line_2_amount, with the names of their own row.
func copyFormula(t *form.Template, id string) (form.Edit, error) {
	f, ok := t.Field(id)
	if !ok {
		return form.Edit{}, form.ErrClash
	}
	formula, err := rules.ParseFormula(f.Formula)
	if err != nil {
		return form.Edit{}, err
	}
	from, pattern := rules.Row(f.Name)
	stem := formula.Stem(f.Name)
	if from == 0 && stem == "" {
		return form.Edit{}, fmt.Errorf("%s has no row in its name, such as line_1_amount or launching_amount", f.Name)
	}
	names := rules.FormulaFields(t.Fields)
	e := form.Edit{}
	for _, g := range t.Fields {
		s := ""
		switch row, p := rules.Row(g.Name); {
		case g.Kind != form.Text || g.Name == f.Name:
			continue
		case from > 0 && p == pattern:
			s = formula.Lined(from, row)
		case from == 0 && strings.HasSuffix(g.Name, "_"+strings.TrimPrefix(f.Name, stem)):
			s = formula.Stemmed(stem, strings.TrimSuffix(g.Name, strings.TrimPrefix(f.Name, stem)))
		default:
			continue
		}
		if err := rules.CheckFormula(s, names); err != nil {
			if from > 0 {
				return form.Edit{}, fmt.Errorf("for %s: %w", g.Name, err)
			}
			continue // a total, which has no quantity of its own
		}
		h := g
		h.Formula, h.Format, h.ReadOnly = s, f.Format, f.ReadOnly
		if !g.Equal(h) {
			e.Before, e.After = append(e.Before, g), append(e.After, h)
		}
	}
	if len(e.After) == 0 {
		return e, errors.New("there are no other rows: fields of the same name with another figure")
	}
	e.Title = fmt.Sprintf("copied the formula of %s to %d rows", f.Name, len(e.After))
	return e, nil
}

// markFormula tells the bench where in a formula something is wrong, so that it can be marked.
func markFormula(c *echo.Context, err error) {
	var fe *rules.FormulaError
	if errors.As(err, &fe) {
		c.Response().Header().Set("X-ZM-At", fmt.Sprintf("%d,%d,%s", fe.At, fe.End, c.FormValue("key")))
	}
}

// formulaHelp lists the functions of formulas and the fields that they can read, for the list
// that opens beside a formula.
func (s *Server) formulaHelp(c *echo.Context) error {
	d, err := s.draftOf(c)
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, map[string]any{"functions": rules.FunctionNames(), "fields": rules.FormulaFields(d.Template.Fields)})
}

// setFormat changes one thing of what fields accept.
func setFormat(t *form.Template, ids []string, who, key, value string) (form.Edit, error) {
	yes := value == "yes"
	return t.Set("changed what "+who+" accepts", ids, func(f *form.Field) error {
		x := &f.Format
		switch key {
		case "format":
			was := *x
			*x = form.Format{Kind: form.FormatKind(value), Message: ""}
			switch x.Kind {
			case form.Date:
				x.Pattern = datePatterns[0]
			case form.Time:
				x.Pattern = form.TimePatterns[0]
			case form.Mask:
				x.Pattern = masks[3][0]
			case form.Number, form.Percent:
				x.Decimals, x.Comma = 2, was.Comma
				if x.Kind == form.Percent {
					x.Decimals = 0
				}
			}
		case "pattern":
			x.Pattern = value
		case "decimals":
			n, err := strconv.Atoi(cmp.Or(value, "0"))
			if err != nil {
				return fmt.Errorf("%q is not a number of decimal places: type 0 to 6", value)
			}
			x.Decimals = n
		case "style":
			x.Comma = value == "comma"
		case "ungrouped":
			x.Ungrouped = yes
		case "brackets":
			x.Brackets = yes
		case "currency":
			x.Currency = value
			if value == "" {
				x.After = false
			}
		case "after":
			x.After = yes
		case "message":
			x.Message = value
		}
		return nil
	})
}
