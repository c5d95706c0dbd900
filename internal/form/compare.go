package form

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strings"

	"zealousmargin.example/internal/geom"
)

// Sort is the sort of a [Change].
type Sort string

// The sorts of change between two states of a form.
const (
	Added        Sort = "added"
	Removed      Sort = "removed"
	Renamed      Sort = "renamed"
	Moved        Sort = "moved" // or made larger or smaller, or put on another page
	KindChanged  Sort = "kind"
	RuleChanged  Sort = "rule"    // what an answer must be, and what is worked out
	OptsChanged  Sort = "options" // what can be chosen, and what is sent for it
	StepsChanged Sort = "steps"
	LookChanged  Sort = "look"
	SaidChanged  Sort = "said" // tooltips, hints and the like
	TabChanged   Sort = "tab order"
	PageChanged  Sort = "pages"
)

// Sorts are all of them, in the order in which they are told.
var Sorts = []Sort{
	Added, Removed, Renamed, KindChanged, RuleChanged, OptsChanged, StepsChanged, Moved, TabChanged, SaidChanged, LookChanged, PageChanged,
}

// Change is one thing in which a form differs from an earlier state of it.
type Change struct {
	Sort    Sort
	Name    string    // of the field as it is now, as it was when it is gone; empty for pages and the document
	Page    int       // from 1, where it is now, or where it was when it is gone; 0 for the document
	WasPage int       // where it was; 0 when it is new
	Was, Is geom.Rect // where the field stood and stands, in points; zero when it was or is not there
	Words   string    // a sentence without its full stop
	// Answers says what it means for the answers that are in already; empty when it means nothing.
	Answers string
}

// Compare lists in what a form differs from an earlier state of it, by sort and then in tab order. Rows are the same field when they have
// one id, or else, when the two states do not come from one draft, one name and kind. What is not in a released file is not compared.
func Compare(before, after *Template) []Change {
	c := comparing{said: map[Change]bool{}}
	was, is := before.Placed(), after.Placed()
	pairs := pairsOf(was, is)
	for i := range is {
		j, ok := pairs[i]
		if !ok {
			c.lone(Added, &is[i], slices.ContainsFunc(was, func(f Field) bool { return f.Name == is[i].Name }))
			continue
		}
		c.pair(&was[j], &is[i])
	}
	met := map[int]bool{}
	for _, j := range pairs {
		met[j] = true
	}
	for j := range was {
		if !met[j] {
			c.lone(Removed, &was[j], slices.ContainsFunc(is, func(f Field) bool { return f.Name == was[j].Name }))
		}
	}
	c.order(was, is, pairs)
	c.document(before, after)
	slices.SortStableFunc(c.out, func(a, b Change) int {
		return cmp.Or(cmp.Compare(slices.Index(Sorts, a.Sort), slices.Index(Sorts, b.Sort)), cmp.Compare(a.Page, b.Page))
	})
	return c.out
}

// pairsOf gives for rows of is, by place, the rows of was that they are.
func pairsOf(was, is []Field) map[int]int {
	pairs := make(map[int]int, len(is))
	ids := make(map[string]int, len(was))
	for j := range was {
		ids[was[j].ID] = j
	}
	met := map[int]bool{}
	for i := range is {
		if j, ok := ids[is[i].ID]; ok {
			pairs[i], met[j] = j, true
		}
	}
	for i := range is {
		if _, ok := pairs[i]; ok {
			continue
		}
		for j := range was {
			same := was[j].Name == is[i].Name && was[j].Kind == is[i].Kind && was[j].Export == is[i].Export
			if same && !met[j] {
				pairs[i], met[j] = j, true
				break
			}
		}
	}
	return pairs
}

type comparing struct {
	out  []Change
	said map[Change]bool
}

// say keeps a change; what is said of several rows of one name in the same words is said once.
func (c *comparing) say(x Change) {
	key := Change{Sort: x.Sort, Name: x.Name, Words: x.Words}
	if x.Sort != Moved && c.said[key] {
		return
	}
	c.said[key] = true
	c.out = append(c.out, x)
}

// answers tells whether a field has a column among the answers.
func (f *Field) answers() bool { return slices.Contains(answering, f.Kind) && !f.NoExport }

func (c *comparing) lone(s Sort, f *Field, named bool) {
	x := Change{Sort: s, Name: f.Name, Page: f.Page}
	what := "the " + kindWord(f) + " " + f.Name
	if f.Kind == Radio {
		what += " for “" + f.OnState() + "”"
	}
	switch {
	case s == Added && named && f.Kind != Radio:
		x.Words, x.Is = what+" has one more place", f.Rect
	case s == Added:
		x.Words, x.Is = what+" is new", f.Rect
	case named && f.Kind != Radio:
		x.Words, x.Was, x.WasPage = what+" has one place less", f.Rect, f.Page
	default:
		x.Words, x.Was, x.WasPage = what+" is gone", f.Rect, f.Page
	}
	switch {
	case !f.answers():
	case s == Added && !named:
		x.Answers = "a column " + f.Name + " begins; answers that are in have nothing in it"
	case s == Removed && !named:
		x.Answers = "the column " + f.Name + " stays for the answers that are in; new ones have nothing in it"
	case s == Removed && f.Kind == Radio:
		x.Answers = "answers that say “" + f.OnState() + "” stay; new ones cannot say it"
	}
	c.say(x)
}

func kindWord(f *Field) string { return offerWords(KindWords, f.KindWord()) }

func offerWords(offers []Offer, v string) string {
	for _, o := range offers {
		if o.Value == v {
			return o.Words
		}
	}
	return v
}

// pair compares two states of one field.
func (c *comparing) pair(was, is *Field) {
	at := func(s Sort, words, answers string) {
		if !was.answers() && !is.answers() {
			answers = ""
		}
		c.say(Change{Sort: s, Name: is.Name, Page: is.Page, WasPage: was.Page, Was: was.Rect, Is: is.Rect, Words: words, Answers: answers})
	}
	if was.Name != is.Name {
		at(Renamed, was.Name+" is now called "+is.Name, "the column "+was.Name+" goes on as "+is.Name)
	}
	switch {
	case was.Page != is.Page:
		at(Moved, fmt.Sprintf("%s moved from page %d to page %d", is.Name, was.Page, is.Page), "")
	case was.Rect != is.Rect:
		at(Moved, is.Name+" "+moved(was.Rect, is.Rect), "")
	}
	if kindWord(was) != kindWord(is) {
		at(KindChanged, is.Name+" is a "+kindWord(is)+", and was a "+kindWord(was),
			"answers that are in stay as they were given; new ones are those of a "+kindWord(is))
	}
	for i := range FieldProperties {
		p := &FieldProperties[i]
		switch {
		case p.Draft != "" && p.Key != "source" && p.Key != "datum", slices.Contains(toldOtherwise, p.Key):
			continue
		case p.Same(was, is), !p.Has(is.Kind) && !p.Has(was.Kind):
			continue
		case was.Kind != is.Kind && !(p.Has(is.Kind) && p.Has(was.Kind)): // it follows from the kind
			continue
		}
		words, answers := propertyChanged(p, was, is)
		at(sortOf(p), words, answers)
	}
}

// toldOtherwise are the properties that are not told one by one: those of the place, the name and the kind.
var toldOtherwise = []string{"page", "rect", "kind", "name", "order", "list", "multiline", "password", "filepath"}

// sortOf is the sort of change that a property makes.
func sortOf(p *Property[Field]) Sort {
	switch {
	case p.Key == "options", p.Key == "export", p.Group == OfList:
		return OptsChanged
	case p.Key == "steps", strings.HasPrefix(p.Member, "action."):
		return StepsChanged
	case p.Group == OfLook, p.Group == OfMark, p.Group == OfFace, strings.HasPrefix(p.Member, "face."):
		return LookChanged
	case p.Key == "tooltip", p.Key == "hint", p.Key == "caption", p.Key == "message":
		return SaidChanged
	}
	return RuleChanged
}

// moved says how a place differs from another, in millimetres.
func moved(was, is geom.Rect) string {
	mm := func(v float64) string { return WriteLength(v, "mm") + " mm" }
	var says []string
	dx, dy := is.Mid().X-was.Mid().X, is.Mid().Y-was.Mid().Y
	const seen = 0.05 // points: less is rounding
	if dx > seen {
		says = append(says, mm(dx)+" to the right")
	} else if dx < -seen {
		says = append(says, mm(-dx)+" to the left")
	}
	if dy > seen {
		says = append(says, mm(dy)+" up")
	} else if dy < -seen {
		says = append(says, mm(-dy)+" down")
	}
	if len(says) == 0 {
		says = []string{"a little"}
	}
	out := "moved " + strings.Join(says, " and ")
	resized := fmt.Sprintf("%s by %s, and was %s by %s", mm(is.W()), mm(is.H()), mm(was.W()), mm(was.H()))
	switch {
	case math.Abs(is.W()-was.W()) < seen && math.Abs(is.H()-was.H()) < seen:
		return out
	case says[0] == "a little":
		return "is " + resized
	}
	return out + " and is " + resized
}

// propertyChanged says what a property was and is, and what that means for answers.
func propertyChanged(p *Property[Field], was, is *Field) (words, answers string) {
	switch p.Key {
	case "options":
		return optionsChanged(was, is)
	case "steps", "deed", "url", "sendas":
		return is.Name + " " + cmp.Or(doesAll(*is), "does nothing") + "; before it " + cmp.Or(doesAll(*was), "did nothing"), ""
	case "export":
		return fmt.Sprintf("%s sends “%s”, and sent “%s”", is.Name, is.OnState(), was.OnState()),
			fmt.Sprintf("new answers say “%s” where those that are in say “%s”", is.OnState(), was.OnState())
	case "checks":
		return is.Name + " must hold other checks", "answers that are in were held to the earlier checks"
	case "required":
		if is.Required {
			return is.Name + " must be filled in", "answers that are in may have nothing in it"
		}
		return is.Name + " may be left empty", ""
	case "readonly":
		return is.Name + map[bool]string{true: " cannot be changed any more", false: " can be changed"}[is.ReadOnly], ""
	case "noexport":
		if is.NoExport {
			return is.Name + " is no longer sent",
				"the column " + is.Name + " stays for the answers that are in; new ones have nothing in it"
		}
		return is.Name + " is sent", "a column " + is.Name + " begins; answers that are in have nothing in it"
	case "formula":
		answers = "answers that are in keep what was worked out then"
	case "maxlen", "comb":
		answers = "answers that are in may be longer"
	}
	if p.Group == OfFormat && p.Key != "message" {
		answers = "answers that are in were written by the earlier format"
	}
	title := strings.TrimPrefix(p.Titled(is.Name, p.Get(is)), "changed ")
	if p.Before != "" || p.After != "" { // the sentence of the note tells the two apart
		title += ", “" + strings.TrimSpace(p.Before+" … "+p.After) + "”"
	}
	say := func(f *Field) string {
		v := p.Get(f)
		switch w := offerWords(p.Offers(f), v); {
		case w != v:
			return w
		case v == "" || v == "0" && p.Plainly != "":
			return cmp.Or(p.Plainly, "nothing")
		case p.Type == AsText:
			return "“" + v + "”"
		}
		return v
	}
	return title + ": " + say(is) + ", and was " + say(was), answers
}

// doesAll is what a field does at all its triggers, in words.
func doesAll(f Field) string {
	out := f.Does()
	for _, s := range f.Steps {
		if s.When != WhenPressed && s.When != WhenDown {
			out = strings.TrimPrefix(out+", and when "+offerWords(StepProperties[0].Choices, string(s.When))+" "+s.Does(), ", and ")
		}
	}
	return out
}

func optionsChanged(was, is *Field) (words, answers string) {
	value := func(o Option) string { return cmp.Or(o.Export, o.Label) }
	var gone, fresh, sent, says []string
	for _, o := range was.Options {
		i := slices.IndexFunc(is.Options, func(x Option) bool { return x.Label == o.Label })
		switch {
		case i < 0:
			gone = append(gone, "“"+o.Label+"”")
		case value(is.Options[i]) != value(o):
			sent = append(sent, fmt.Sprintf("“%s” for %s where those that are in say “%s”", value(is.Options[i]), o.Label, value(o)))
		}
	}
	for _, o := range is.Options {
		if !slices.ContainsFunc(was.Options, func(x Option) bool { return x.Label == o.Label }) {
			fresh = append(fresh, "“"+o.Label+"”")
		}
	}
	var means []string
	if len(fresh) > 0 {
		says = append(says, "can be "+strings.Join(fresh, ", "))
	}
	if len(gone) > 0 {
		says = append(says, "cannot be "+strings.Join(gone, ", ")+" any more")
		means = append(means, "answers that say "+strings.Join(gone, ", ")+" stay")
	}
	if len(sent) > 0 {
		says = append(says, "sends other values")
		means = append(means, "new answers say "+strings.Join(sent, ", "))
	}
	if len(says) == 0 {
		says = []string{"has its list in another order"}
	}
	return is.Name + " " + strings.Join(says, ", and "), strings.Join(means, "; ")
}

// order tells whether the tab order of what was there before is another one.
func (c *comparing) order(was, is []Field, pairs map[int]int) {
	last, said := map[int]int{}, map[int]bool{}
	for i := range is {
		j, ok := pairs[i]
		if !ok || was[j].Page != is[i].Page {
			continue
		}
		at := is[i].Page
		if before, ok := last[at]; ok && j < before && !said[at] {
			said[at] = true
			c.say(Change{Sort: TabChanged, Page: at, Words: fmt.Sprintf("the tab order of page %d is another, from %s on", at, is[i].Name)})
		}
		last[at] = max(last[at], j)
	}
}

// document compares what is not of a field.
func (c *comparing) document(before, after *Template) {
	if len(before.Pages) != len(after.Pages) {
		c.say(Change{Sort: PageChanged, Words: fmt.Sprintf("the form has %s, and had %d", pagesWord(len(after.Pages)), len(before.Pages))})
	}
	for i := range min(len(before.Pages), len(after.Pages)) {
		a, b := &before.Pages[i], &after.Pages[i]
		switch {
		case a.File != b.File || a.N != b.N:
			c.say(Change{Sort: PageChanged, Page: i + 1, Words: fmt.Sprintf("page %d shows another sheet", i+1)})
		case a.Width != b.Width || a.Height != b.Height || a.Rotate != b.Rotate || a.Place != b.Place:
			c.say(Change{Sort: PageChanged, Page: i + 1, Words: fmt.Sprintf("page %d lies or is turned another way", i+1)})
		}
	}
	for i := range DetailProperties {
		p := &DetailProperties[i]
		if p.Draft != "" || p.Same(&before.Details, &after.Details) {
			continue
		}
		if p.Key == "events" {
			c.say(Change{Sort: StepsChanged, Words: "what the document does by itself is something else"})
			continue
		}
		c.say(Change{Sort: SaidChanged, Words: fmt.Sprintf("the %s of the document is “%s”, and was “%s”", p.Key, p.Get(&after.Details),
			p.Get(&before.Details))})
	}
}

func pagesWord(n int) string {
	if n == 1 {
		return "1 page"
	}
	return fmt.Sprintf("%d pages", n)
}

// BringBack is the edit that makes the form what it was in another state.
func (t *Template) BringBack(title string, to *Template) (Edit, error) {
	e := Edit{Title: title}
	was := make(map[string]*Field, len(t.Fields))
	for i := range t.Fields {
		was[t.Fields[i].ID] = &t.Fields[i]
	}
	for i := range to.Fields {
		f := &to.Fields[i]
		now, there := was[f.ID]
		delete(was, f.ID)
		if there && now.Equal(*f) {
			continue
		}
		if there {
			e.Before = append(e.Before, now.clone())
		}
		e.After = append(e.After, f.clone())
	}
	for i := range t.Fields {
		if was[t.Fields[i].ID] != nil {
			e.Before = append(e.Before, t.Fields[i].clone())
		}
	}
	if !EqualPages(t.Pages, to.Pages) {
		e.Pages = &PagesEdit{Before: t.Pages, After: to.Pages}
	}
	if !same(DetailProperties, &t.Details, &to.Details) {
		e.Details = &DetailsEdit{Before: t.Details, After: to.Details}
	}
	if len(e.Before)+len(e.After) == 0 && e.Pages == nil && e.Details == nil {
		return Edit{}, ErrNothing
	}
	return e, nil
}
