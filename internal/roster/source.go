package roster

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/rules"
)

// Proposal is a source that a field seems to ask for.
type Proposal struct {
	Field  string // its id
	Name   string // and name
	Source form.Source
	Datum  string
	Why    string // the words that tell so
}

// Propose lists the fields that ask for something that the records have, or that the office knows by itself. Fields that have a source, are
// calculated or are not text are left alone; so is what a field asks for of somebody else than the person, as the rows of a table do.
func Propose(t *form.Template, columns []Column) []Proposal {
	var out []Proposal
	for _, f := range t.Placed() {
		if f.Kind != form.Text || f.Source != form.NoSource || f.Formula != "" {
			continue
		}
		for _, words := range []string{f.Label, f.Tooltip, strings.ReplaceAll(f.Name, "_", " ")} {
			if words == "" {
				continue
			}
			p := Proposal{Field: f.ID, Name: f.Name, Why: words}
			if key := columnOf(words, columns); key != "" {
				p.Source, p.Datum = form.FromPerson, key
			} else if own := among(asked, words); own != "" {
				p.Source = form.Source(own)
			} else {
				continue
			}
			out = append(out, p)
			break
		}
	}
	return slices.DeleteFunc(slices.Clone(out), func(p Proposal) bool { return repeated(out, p) })
}

// repeated tells whether several fields ask for the same datum of a person in the same words: those are the rows of a table, for others.
func repeated(all []Proposal, p Proposal) bool {
	return p.Source == form.FromPerson && slices.ContainsFunc(all, func(q Proposal) bool {
		return q.Name != p.Name && q.Source == p.Source && q.Datum == p.Datum && plain(q.Why) == plain(p.Why)
	})
}

// columnOf finds the column that a wording asks for.
func columnOf(words string, columns []Column) string {
	key := known(words)
	has := func(key string) bool {
		return slices.ContainsFunc(columns, func(c Column) bool { return c.Key == key })
	}
	if key == "address" && has("street") && has("town") || key == NameColumn && has("given_name") && has("family_name") {
		return key // put together of its parts
	}
	for _, c := range columns {
		if c.Key == key && key != "" || plain(c.Title) == plain(words) {
			return c.Key
		}
	}
	return ""
}

// Accept is the edit that takes proposals over.
func Accept(t *form.Template, proposals []Proposal) (form.Edit, error) {
	e := form.Edit{}
	for _, p := range proposals {
		f, ok := t.Field(p.Field)
		if !ok || f.Source != form.NoSource {
			continue
		}
		g := f
		g.Source, g.Datum = p.Source, p.Datum
		e.Before, e.After = append(e.Before, f), append(e.After, g)
	}
	switch len(e.After) {
	case 0:
		return e, form.ErrNothing
	case 1:
		e.Title = "took the source of " + e.After[0].Name
	default:
		e.Title = fmt.Sprintf("took the sources of %d fields", len(e.After))
	}
	return e, nil
}

// Overlaid is the form of an edition with the sources that its fields have in the draft now: they are not in the file, so they may be said
// after it was released. Fields that the draft has no more keep theirs. The second result tells whether any field has one.
func Overlaid(edition, draft *form.Template) (form.Template, bool) {
	out := *edition
	out.Fields = form.CloneFields(edition.Fields)
	any := false
	for i := range out.Fields {
		f := &out.Fields[i]
		if now, there := draft.Field(f.ID); there && now.Kind == f.Kind {
			f.Source, f.Datum = now.Source, now.Datum
		}
		any = any || f.Placed() && f.Source != form.NoSource
	}
	return out, any
}

// With is what a form is filled in with beside a person.
type With struct {
	Today   time.Time
	Edition int
	Serial  int
	Link    map[string]string // what the address of a link says
	Signer  string            // who signs; empty while nobody does
	Signed  time.Time         // when; the zero time while nobody does
}

// Values works out what the office fills a form in with for a person, by the names of the fields. A datum that the person does not have
// leaves its field empty; missing names the fields that stay so.
func Values(t *form.Template, p Person, w With) (values map[string]string, missing []string) {
	values = map[string]string{}
	for _, f := range t.Placed() {
		if f.Source == form.NoSource {
			continue
		}
		v := ""
		switch f.Source {
		case form.FromPerson:
			v = written(&f, p.datum(f.Datum))
		case form.FromToday:
			v = rules.ShowDate(patternOf(&f), w.Today)
		case form.FromEdition:
			v = strconv.Itoa(w.Edition)
		case form.FromSerial:
			v = strconv.Itoa(w.Serial)
		case form.FromLink:
			v = written(&f, w.Link[f.Datum])
		case form.FromText:
			v = f.Datum
		case form.FromSigner:
			v = w.Signer
		case form.FromSigned:
			if !w.Signed.IsZero() {
				v = rules.ShowDate(patternOf(&f), w.Signed)
			}
		}
		switch f.Kind {
		case form.CheckBox, form.Radio:
			if f.Kind == form.Radio && v != f.OnState() { // another button of the group may be the one
				continue
			}
			v = ticked(&f, v)
		}
		if v == "" {
			if !slices.Contains(missing, f.Name) {
				missing = append(missing, f.Name)
			}
			continue
		}
		values[f.Name] = v
	}
	return values, missing
}

// ticked is the state of a box for a datum: yes, true, x and its own value tick it.
func ticked(f *form.Field, v string) string {
	if v == f.OnState() || slices.Contains([]string{"yes", "true", "x", "1", "ja", "oui"}, strings.ToLower(v)) {
		return f.OnState()
	}
	return ""
}

// datum is what is known of a person under a key. An address is put together where the records have its parts only, and a name too.
func (p Person) datum(key string) string {
	if v := p.Data[key]; v != "" {
		return v
	}
	parts := map[string][]string{"address": {"street", "postcode town", "country"}, NameColumn: {"given_name family_name"}}[key]
	var lines []string
	for _, part := range parts {
		var words []string
		for _, k := range strings.Fields(part) {
			if v := p.Data[k]; v != "" {
				words = append(words, v)
			}
		}
		if len(words) > 0 {
			lines = append(lines, strings.Join(words, " "))
		}
	}
	return strings.Join(lines, ", ")
}

func patternOf(f *form.Field) string {
	if f.Format.Kind == form.Date && f.Format.Pattern != "" {
		return f.Format.Pattern
	}
	return form.FormatFor(form.Date).Pattern
}

func day(v string) (time.Time, bool) {
	t, err := time.Parse(time.DateOnly, v)
	return t, err == nil
}
