package roster

import (
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strings"
	"unicode"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/rules"
)

// Column is one thing that is known of people.
type Column struct {
	Key   string          `json:"key"` // such as vessel_name
	Title string          `json:"title"`
	Kind  form.FormatKind `json:"kind,omitempty"` // a date, a number, an e-mail address; empty is text
}

// Person is one row of the records: data by the keys of the columns. Dates are written as in ISO 8601, numbers with a decimal point.
type Person struct {
	ID   int64             `json:"id"`
	Key  string            `json:"key"` // that tells them apart in the office, such as a customer number
	Data map[string]string `json:"data"`
}

// The columns that every roster has.
const (
	KeyColumn  = "number"
	NameColumn = "name"
	MailColumn = "email"
)

// Name is what a person is called.
func (p Person) Name() string {
	if n := strings.TrimSpace(p.Data[NameColumn]); n != "" {
		return n
	}
	return p.Key
}

// KeyOf makes the key of a column of its title: "Name of vessel" is name_of_vessel.
func KeyOf(title string) string {
	var b strings.Builder
	gap := false
	for _, r := range strings.ToLower(strings.TrimSpace(title)) {
		switch {
		case unicode.IsLetter(r) || unicode.IsDigit(r):
			if gap && b.Len() > 0 {
				b.WriteByte('_')
			}
			b.WriteRune(r)
			gap = false
		default:
			gap = true
		}
	}
	return b.String()
}

// Limits of what is brought in.
const (
	MostColumns = 60
	MostPeople  = 50_000
	longestCell = 1000
)

// Read makes people of the rows of a table, the first of which has the titles of the columns. The column that tells people apart is the
// one called number, customer number or the like, else the first. Rows that cannot be taken are told, each with its line; the others are
// there all the same.
func Read(rows [][]string) (columns []Column, people []Person, refused []error, err error) {
	for len(rows) > 0 && blank(rows[0]) {
		rows = rows[1:]
	}
	if len(rows) < 2 {
		return nil, nil, nil, errors.New("the table has no people: the first line has the titles of the columns, each further one a person")
	}
	head := rows[0]
	if len(head) > MostColumns {
		return nil, nil, nil, fmt.Errorf("the table has %d columns, the limit is %d: leave out what no form needs", len(head), MostColumns)
	}
	if len(rows)-1 > MostPeople {
		return nil, nil, nil, fmt.Errorf("the table has %d lines, the limit is %d: split it", len(rows)-1, MostPeople)
	}
	seen := map[string]bool{}
	for i, title := range head {
		title = strings.Join(strings.Fields(strings.TrimPrefix(title, "\ufeff")), " ")
		if title == "" {
			title = fmt.Sprintf("Column %d", i+1)
		}
		if err := form.CheckLine("the title of a column", title, 80); err != nil {
			return nil, nil, nil, err
		}
		key := known(title)
		if key == "" || seen[key] {
			key = form.FreeName(KeyOf(title), seen)
		}
		seen[key] = true
		columns = append(columns, Column{Key: key, Title: title})
	}
	at := slices.IndexFunc(columns, func(c Column) bool { return c.Key == KeyColumn })
	if at < 0 {
		at = 0
	}
	keys := map[string]int{}
	for i, row := range rows[1:] {
		if blank(row) {
			continue
		}
		p := Person{Data: map[string]string{}}
		var why error
		for j := range columns {
			if j >= len(row) {
				break
			}
			v := strings.TrimSpace(row[j])
			if e := form.CheckLine("the "+columns[j].Title, v, longestCell); e != nil && why == nil {
				why = e
			}
			if v != "" {
				p.Data[columns[j].Key] = v
			}
		}
		p.Key = p.Data[columns[at].Key]
		switch before, twice := keys[p.Key]; {
		case why != nil:
		case len(row) > len(columns):
			why = fmt.Errorf("it has %d cells, and the table %d columns", len(row), len(columns))
		case p.Key == "":
			why = fmt.Errorf("it has nothing in the column %s, which tells people apart", columns[at].Title)
		case twice:
			why = fmt.Errorf("its %s, %s, is that of line %d too", columns[at].Title, p.Key, before)
		}
		if why != nil {
			refused = append(refused, fmt.Errorf("line %d: %w", i+2, why))
			continue
		}
		keys[p.Key] = i + 2
		people = append(people, p)
	}
	if len(people) == 0 {
		why := "every line of it is empty"
		if len(refused) > 0 {
			why = refused[0].Error()
		}
		return nil, nil, refused, errors.New("nobody could be taken from the table: " + why)
	}
	for j := range columns {
		columns[j].Kind = kindOf(columns[j].Key, people)
	}
	return columns, people, refused, nil
}

func blank(row []string) bool {
	return !slices.ContainsFunc(row, func(s string) bool { return strings.TrimSpace(s) != "" })
}

var (
	isoDay  = regexp.MustCompile(`^\d{4}-\d{2}-\d{2}$`)
	aNumber = regexp.MustCompile(`^-?\d+(\.\d+)?$`)
	address = regexp.MustCompile(`^[^\s@]+@[^\s@]+\.[^\s@]+$`)
)

// kindOf tells what a column holds, when all that stand in it agree; figures that begin with a nought, and numbers that tell people apart,
// are text.
func kindOf(key string, people []Person) form.FormatKind {
	kind, any := form.NoFormat, false
	for i := range people {
		v := people[i].Data[key]
		if v == "" {
			continue
		}
		is := form.NoFormat
		switch {
		case isoDay.MatchString(v):
			is = form.Date
		case address.MatchString(v):
			is = form.Email
		case aNumber.MatchString(v) && !(len(v) > 1 && v[0] == '0' && v[1] != '.') && key != KeyColumn && strings.Contains(v, "."):
			is = form.Number
		}
		if any && is != kind {
			return form.NoFormat
		}
		kind, any = is, true
	}
	return kind
}

// written is a datum as a field writes it: a day in its pattern, a number with its decimal sign.
func written(f *form.Field, v string) string {
	if day, ok := day(v); ok {
		return rules.ShowDate(patternOf(f), day)
	}
	switch f.Format.Kind {
	case form.Number, form.Percent:
		if aNumber.MatchString(v) && f.Format.Comma {
			return strings.Replace(v, ".", ",", 1)
		}
	}
	return v
}
