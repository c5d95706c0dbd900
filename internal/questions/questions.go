package questions

import (
	"cmp"
	"slices"
	"strings"
	"unicode"

	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/outline"
)

// Question is one thing that a recipient is asked: a field, or several of one name.
type Question struct {
	Name    string
	Label   string
	Help    string // beside the label
	Field   form.Field
	Rows    []form.Field  // all of them; the boxes and buttons of a group are its choices
	Options []form.Option // what may be chosen
}

// Card is a row of a table, or questions that stand by themselves when it has no title.
type Card struct {
	Title     string
	Questions []Question
}

// Step is what is asked on one screen.
type Step struct {
	Title string
	Part  int // of a heading with more questions than one screen holds; 0 when it has one step
	Table bool
	Cards []Card
}

// Names are those that a step asks for.
func (s *Step) Names() []string {
	var out []string
	for _, c := range s.Cards {
		for _, q := range c.Questions {
			out = append(out, q.Name)
		}
	}
	return out
}

// beneath is how far below a title its second line ends, in points (common practice, no source).
const beneath = 24

// perStep is how many questions stand on one screen (common practice, no source).
const perStep = 7

// asked tells whether a recipient answers a field: signatures and buttons that take a picture are among them.
func asked(f *form.Field) bool {
	if !f.Placed() || f.Shows() == form.ShowNone || f.Shows() == form.ShowPrint {
		return false
	}
	return f.Kind != form.Button || f.Action.Do == form.TakePicture
}

// Steps are the questions of a form; pages are what is printed on its pages, by number, and may be missing. Only those that keep tells are
// asked.
func Steps(t *form.Template, pages map[int]*evidence.Page, keep func(*form.Field) bool) []Step {
	rows := slices.Clone(t.Fields)
	slices.SortStableFunc(rows, func(a, b form.Field) int { return cmp.Or(cmp.Compare(a.Page, b.Page), cmp.Compare(a.Order, b.Order)) })
	heads := headings(pages)
	var all []Question
	var under []string
	at := map[string]int{}
	for _, f := range rows {
		if !asked(&f) || keep != nil && !keep(&f) {
			continue
		}
		i, had := at[f.Name]
		if !had {
			i = len(all)
			at[f.Name] = i
			all = append(all, Question{Name: f.Name, Field: f})
			under = append(under, headOf(heads, &f, t))
		}
		all[i].Rows = append(all[i].Rows, f)
	}
	for i := range all {
		all[i].finish()
	}
	var out []Step
	for i := 0; i < len(all); {
		j := i
		for j < len(all) && under[j] == under[i] {
			j++
		}
		out = append(out, split(under[i], all[i:j])...)
		i = j
	}
	return out
}

// split lays the questions of one heading on steps.
func split(title string, all []Question) []Step {
	var out []Step
	var plain []Question
	flush := func() {
		for len(plain) > 0 {
			n := min(perStep, len(plain))
			if rest := len(plain) - n; rest == 1 {
				n = min(len(plain), perStep+1)
			}
			out = append(out, Step{Title: title, Cards: []Card{{Questions: slices.Clone(plain[:n])}}})
			plain = plain[n:]
		}
	}
	for i := 0; i < len(all); {
		cards, n := table(all[i:])
		if n == 0 {
			plain = append(plain, all[i])
			i++
			continue
		}
		flush()
		out = append(out, Step{Title: title, Table: true, Cards: cards})
		i += n
	}
	flush()
	if len(out) > 1 {
		for i := range out {
			out[i].Part = i + 1
		}
	}
	return out
}

// table finds the rows of a table at the beginning of questions: two or more cards, whose questions begin with the same words before a
// colon.
func table(all []Question) (cards []Card, n int) {
	for n < len(all) {
		row, _, ok := strings.Cut(all[n].Label, ": ")
		if !ok {
			break
		}
		k := n
		for k < len(all) && strings.HasPrefix(all[k].Label, row+": ") {
			k++
		}
		if k-n < 2 && len(cards) == 0 {
			break
		}
		card := Card{Title: row}
		for _, q := range all[n:k] {
			q.Label = capital(strings.TrimPrefix(q.Label, row+": "))
			card.Questions = append(card.Questions, q)
		}
		cards = append(cards, card)
		n = k
	}
	if len(cards) < 2 {
		return nil, 0
	}
	return cards, n
}

// finish puts a question into words.
func (q *Question) finish() {
	f := &q.Field
	words := cmp.Or(f.Tooltip, f.Label, strings.ReplaceAll(f.Name, "_", " "))
	switch {
	case f.Kind == form.Radio || f.Kind == form.CheckBox && len(q.Rows) > 1 && !f.Linked:
		if before, _, ok := strings.Cut(words, ": "); ok && len(q.Rows) > 1 {
			words = before
		} else if len(q.Rows) > 1 && f.Tooltip == "" {
			words = strings.ReplaceAll(f.Name, "_", " ")
		}
		for _, r := range q.Rows {
			o := form.Option{Label: cmp.Or(r.Label, r.Export, r.OnState()), Export: cmp.Or(r.Export, r.OnState())}
			if !slices.ContainsFunc(q.Options, func(p form.Option) bool { return p.Export == o.Export }) {
				q.Options = append(q.Options, o)
			}
		}
	case f.Kind == form.Choice:
		for _, o := range f.Options {
			q.Options = append(q.Options, form.Option{Label: o.Label, Export: cmp.Or(o.Export, o.Label)})
		}
	}
	q.Label = capital(words)
	switch f.Format.Kind {
	case form.Date, form.Time:
		q.Help = f.Format.Pattern
	case form.Percent:
		q.Help = "per cent"
	case form.Number:
		q.Help = f.Format.Currency
	}
}

func capital(s string) string {
	for i, r := range s {
		return string(unicode.ToUpper(r)) + s[i+len(string(r)):]
	}
	return s
}

// heading is a line of a page that is set as one.
type heading struct {
	page int
	rect geom.Rect
	text string
}

// headings finds them by the size of their type, as package outline does; the title at the top of the first page is none.
func headings(pages map[int]*evidence.Page) []heading {
	var pieces [][]outline.Piece
	var numbers []int
	for n := range pages {
		numbers = append(numbers, n)
	}
	slices.Sort(numbers)
	for _, n := range numbers {
		var of []outline.Piece
		for _, row := range pages[n].Rows() { // a heading has its row to itself
			p := outline.Piece{}
			for i, l := range row {
				if i == 0 {
					p = outline.Piece{Rect: l.Rect, Text: l.Text(), Size: l.Size}
					continue
				}
				p.Rect, p.Text, p.Size = p.Rect.Union(l.Rect), p.Text+" "+l.Text(), min(p.Size, l.Size)
			}
			of = append(of, p)
		}
		pieces = append(pieces, of)
	}
	sizes := outline.SizesOf(pieces)
	var out []heading
	title := -1
	for i, of := range pieces {
		for _, p := range of {
			if !sizes.Heading(p) {
				continue
			}
			out = append(out, heading{numbers[i], p.Rect, strings.TrimSpace(strings.Trim(p.Text, "_. "))})
			if last := len(out) - 1; numbers[i] == numbers[0] && (title < 0 || p.Rect.Y1 > out[title].rect.Y1) {
				title = last
			}
		}
	}
	if title < 0 {
		return out
	}
	t := out[title]
	return slices.DeleteFunc(out, func(h heading) bool { // nor is what stands right below it
		return h.page == t.page && h.rect.Y1 > t.rect.Y0-beneath
	})
}

// headOf is the heading above a field: on its page the lowest one that stands above it, else the last one of a page before.
func headOf(heads []heading, f *form.Field, t *form.Template) string {
	r := f.Rect
	if f.Page >= 1 && f.Page <= len(t.Pages) {
		p := t.Pages[f.Page-1]
		r = r.Apply(upright(p))
	}
	best := heading{}
	for _, h := range heads {
		switch {
		case h.page < f.Page && (best.page < h.page || best.page == h.page && h.rect.Y0 < best.rect.Y0),
			h.page == f.Page && h.rect.Y0 >= r.Mid().Y && (best.page < f.Page || h.rect.Y0 < best.rect.Y0):
			best = h
		}
	}
	return best.text
}

// upright takes page space to the page as it is shown.
func upright(p form.Page) geom.Matrix {
	to, _ := geom.Upright(p.Width, p.Height, p.Rotate)
	return to
}
