package proof

import (
	"fmt"
	"slices"
	"strings"
)

// Requirement is one thing that a file of a profile holds to, with the clause of its standard that asks for it.
type Requirement struct {
	Clause, Says string
	broken       func(*tags) string // what breaks it; empty is nothing
}

// Requirements are those of ISO 14289-1 (PDF/UA-1) that are checked of an accessible form. What a machine cannot tell, such as whether an
// order of reading makes sense, is not among them; neither are fonts that the file as it came did not have in it (7.21.4.1).
var Requirements = []Requirement{
	{"7.1", "the file says that it is tagged", func(t *tags) string {
		if t.f.resolve(t.f.dict(t.root["MarkInfo"])["Marked"]) != true || t.tree == nil {
			return "it does not say so"
		}
		return ""
	}},
	{"7.1", "everything on a page is tagged, or an artifact", (*tags).unmarked},
	{"7.1", "nothing tagged lies in an artifact, and no artifact in what is tagged", (*tags).mixed},
	{"7.1", "what is numbered on a page belongs to an element, and that to the document", (*tags).loose},
	{"7.1", "elements are of the standard types", (*tags).strange},
	{"7.1", "readers show the title", func(t *tags) string {
		if t.f.resolve(t.f.dict(t.root["ViewerPreferences"])["DisplayDocTitle"]) != true {
			return "they show the name of the file"
		}
		if strings.TrimSpace(t.f.words(t.f.dict(t.f.trailer["Info"])["Title"])) == "" && !strings.Contains(t.f.packet(), "dc:title") {
			return "it has none"
		}
		return ""
	}},
	{"7.2", "the file says in which language it is", func(t *tags) string {
		if strings.TrimSpace(t.f.words(t.root["Lang"])) == "" {
			return "it does not say so"
		}
		return ""
	}},
	{"7.3", "every figure has words for those who cannot see it", func(t *tags) string {
		for _, e := range t.elements {
			if e.kind == "Figure" && strings.TrimSpace(t.f.words(e.dict["Alt"])) == "" && t.f.words(e.dict["ActualText"]) == "" {
				return "one has none"
			}
		}
		return ""
	}},
	{"7.4.2", "no level of headings is left out", (*tags).levels},
	{"7.5", "tables have rows of cells, and heads say what they are the heads of", (*tags).tables},
	{"7.6", "lists have items", (*tags).lists},
	{"7.18.1", "every field has words for those who cannot see it", (*tags).unsaid},
	{"7.18.3", "the tab order is that of the structure", (*tags).order},
	{"7.18.4", "every field is tagged as one", (*tags).fields},
	{"7.18.5", "every link is tagged as one, and says where it leads", (*tags).links},
}

// Failure is a requirement that a file does not hold to.
type Failure struct {
	Standard string
	Requirement
	What string
}

func (e Failure) Error() string {
	return fmt.Sprintf("%s (%s, %s): %s", e.Says, e.Standard, e.Clause, e.What)
}

// Accessible lists what a file does not hold to.
func Accessible(b []byte) ([]Failure, error) {
	f, err := open(b)
	if err != nil {
		return nil, err
	}
	t := readTags(f)
	var out []Failure
	for _, r := range Requirements {
		if what := r.broken(t); what != "" {
			out = append(out, Failure{"ISO 14289-1", r, what})
		}
	}
	return out, nil
}

// tags is the structure of a file as this reader sees it.
type tags struct {
	f        *file
	root     dict
	tree     dict
	elements []*element
	byRef    map[ref]*element
	pages    []sheet
	contents []content // of the pages
	parents  map[int]any
}

// element is a structure element that can be reached from the root.
type element struct {
	dict    dict
	kind    string
	kids    []*element
	parent  *element
	numbers map[[2]int]bool // page and number of marked content
	objects []ref
}

// content is what the marks in the content of a page say.
type content struct {
	numbers  []int
	unmarked string // the first operator that draws outside of all marks
	mixed    string
}

func readTags(f *file) *tags {
	t := &tags{f: f, root: f.root(), byRef: map[ref]*element{}, parents: map[int]any{}}
	t.pages = f.pages()
	t.tree = f.dict(t.root["StructTreeRoot"])
	for _, p := range t.pages {
		t.contents = append(t.contents, f.marks(p))
	}
	if t.tree != nil {
		t.walk(t.tree["K"], nil, 0, 0)
		t.numbers(t.tree["ParentTree"], 0)
	}
	return t
}

func (t *tags) numbers(o any, depth int) {
	d := t.f.dict(o)
	if d == nil || depth > 32 {
		return
	}
	nums := t.f.array(d["Nums"])
	for i := 0; i+1 < len(nums); i += 2 {
		t.parents[int(t.f.number(nums[i]))] = nums[i+1]
	}
	for _, k := range t.f.array(d["Kids"]) {
		t.numbers(k, depth+1)
	}
}

// walk reads the kids of an element: elements, numbers of marked content, and references to objects (ISO 32000-2, 14.7.2).
func (t *tags) walk(o any, parent *element, page, depth int) {
	if depth > 200 {
		return
	}
	if list, ok := t.f.resolve(o).(array); ok {
		for _, k := range list {
			t.walk(k, parent, page, depth+1)
		}
		return
	}
	if n, ok := t.f.resolve(o).(float64); ok && parent != nil {
		parent.numbers[[2]int{page, int(n)}] = true
		return
	}
	d := t.f.dict(o)
	if d == nil {
		return
	}
	if pg, ok := d["Pg"].(ref); ok {
		page = int(pg)
	}
	switch t.f.name(d["Type"]) {
	case "OBJR":
		if r, ok := d["Obj"].(ref); ok && parent != nil {
			parent.objects = append(parent.objects, r)
		}
		return
	case "MCR":
		if parent != nil {
			parent.numbers[[2]int{page, int(t.f.number(d["MCID"]))}] = true
		}
		return
	}
	r, _ := o.(ref)
	if r != 0 && t.byRef[r] != nil {
		return
	}
	e := &element{dict: d, kind: t.kind(t.f.name(d["S"])), parent: parent, numbers: map[[2]int]bool{}}
	t.elements = append(t.elements, e)
	if r != 0 {
		t.byRef[r] = e
	}
	if parent != nil {
		parent.kids = append(parent.kids, e)
	}
	t.walk(d["K"], e, page, depth+1)
}

// kind is the standard type that a type stands for (ISO 32000-2, 14.7.3).
func (t *tags) kind(s string) string {
	roles := t.f.dict(t.tree["RoleMap"])
	for range 8 {
		to := t.f.name(roles[name(s)])
		if to == "" || to == s {
			break
		}
		s = to
	}
	return s
}

// marks reads what the marked-content operators of a page enclose.
func (f *file) marks(p sheet) content {
	var c content
	data, err := f.contents(p.dict["Contents"])
	if err != nil {
		return content{unmarked: "content that cannot be read"}
	}
	const none, artifact, tagged = 0, 1, 2
	var stack []int
	l := lexer{b: data}
	var operands []any
	for {
		v, err := l.next()
		if err != nil {
			return c
		}
		word, ok := v.(keyword)
		if !ok {
			operands = append(operands, v)
			continue
		}
		within := func(what int) bool { return slices.Contains(stack, what) }
		switch word {
		case "BMC", "BDC":
			state := none
			tag := ""
			if len(operands) > 0 {
				n, _ := operands[0].(name)
				tag = string(n)
			}
			if tag == "Artifact" {
				if state = artifact; within(tagged) {
					c.mixed = "an artifact lies in text"
				}
			}
			if len(operands) > 1 {
				props, inline := operands[1].(dict)
				if n, named := operands[1].(name); named && !inline {
					props = f.dict(f.dict(f.dict(p.dict["Resources"])["Properties"])[n])
				}
				if n, has := props["MCID"].(float64); has {
					if state = tagged; within(artifact) {
						c.mixed = "text lies in an artifact"
					}
					c.numbers = append(c.numbers, int(n))
				}
			}
			stack = append(stack, state)
		case "EMC":
			if len(stack) > 0 {
				stack = stack[:len(stack)-1]
			}
		case "Tj", "TJ", "'", "\"", "S", "s", "f", "F", "f*", "B", "B*", "b", "b*", "sh", "Do", "BI":
			if !within(artifact) && !within(tagged) && c.unmarked == "" {
				c.unmarked = "something that " + string(word) + " draws"
			}
			if word == "BI" {
				return c // the data of an inline image are no operators: what comes behind it is not looked at
			}
		}
		operands = nil
	}
}

func (t *tags) unmarked() string {
	for i, c := range t.contents {
		if c.unmarked != "" {
			return fmt.Sprintf("page %d has %s", i+1, c.unmarked)
		}
	}
	return ""
}

func (t *tags) mixed() string {
	for i, c := range t.contents {
		if c.mixed != "" {
			return fmt.Sprintf("on page %d %s", i+1, c.mixed)
		}
	}
	return ""
}

func (t *tags) loose() string {
	for i, c := range t.contents {
		if len(c.numbers) == 0 {
			continue
		}
		key, has := t.f.resolve(t.pages[i].dict["StructParents"]).(float64)
		list := t.f.array(t.parents[int(key)])
		seen := map[int]bool{}
		for _, n := range c.numbers {
			if seen[n] {
				return fmt.Sprintf("the number %d stands twice on page %d", n, i+1)
			}
			seen[n] = true
			if !has || n >= len(list) {
				return fmt.Sprintf("the number %d on page %d belongs to nothing", n, i+1)
			}
			r, _ := list[n].(ref)
			e := t.byRef[r]
			if e == nil || !e.numbers[[2]int{t.pages[i].number, n}] {
				return fmt.Sprintf("the number %d on page %d belongs to nothing that is part of the document", n, i+1)
			}
		}
	}
	return ""
}

// standard are the types of ISO 32000-1, 14.8.4, which ISO 14289-1 goes by.
const standard = " Document Part Art Sect Div BlockQuote Caption TOC TOCI Index NonStruct Private P H H1 H2 H3 H4 H5 H6 L LI Lbl LBody " +
	"Table TR TH TD THead TBody TFoot Span Quote Note Reference BibEntry Code Link Annot Ruby RB RT RP Warichu WT WP Figure Formula Form "

func (t *tags) strange() string {
	for _, e := range t.elements {
		if !strings.Contains(standard, " "+e.kind+" ") {
			return fmt.Sprintf("one is called %q", e.kind)
		}
	}
	return ""
}

func (t *tags) levels() string {
	last := 0
	for _, e := range t.elements {
		if len(e.kind) != 2 || e.kind[0] != 'H' || e.kind[1] < '1' || e.kind[1] > '6' {
			continue
		}
		level := int(e.kind[1] - '0')
		if level > last+1 {
			return fmt.Sprintf("one of level %d follows on level %d", level, last)
		}
		last = level
	}
	return ""
}

func (t *tags) tables() string {
	for _, e := range t.elements {
		up := ""
		if e.parent != nil {
			up = e.parent.kind
		}
		switch e.kind {
		case "TR":
			if !strings.Contains(" Table THead TBody TFoot ", " "+up+" ") {
				return "a row lies outside of a table"
			}
		case "TH", "TD":
			if up != "TR" {
				return "a cell lies outside of a row"
			}
			if e.kind == "TH" && !t.scoped(e.dict) {
				return "a head does not say whether it is that of a row or of a column"
			}
		case "Table":
			if !slices.ContainsFunc(e.kids, func(k *element) bool { return strings.HasPrefix(k.kind, "T") }) {
				return "a table has no rows"
			}
		}
	}
	return ""
}

func (t *tags) scoped(d dict) bool {
	list := t.f.array(d["A"])
	if list == nil {
		list = array{d["A"]}
	}
	return slices.ContainsFunc(list, func(o any) bool { return t.f.name(t.f.dict(o)["Scope"]) != "" }) || t.f.words(d["ID"]) != ""
}

func (t *tags) lists() string {
	for _, e := range t.elements {
		other := func(k *element) bool { return !strings.Contains(" LI L Caption ", " "+k.kind+" ") }
		if e.kind == "L" && slices.ContainsFunc(e.kids, other) {
			return "one has something else"
		}
		if e.kind == "LI" && (e.parent == nil || e.parent.kind != "L") {
			return "an item lies outside of a list"
		}
	}
	return ""
}

// annotations calls do with those of a sort that can be seen; an answer that is not empty ends it.
func (t *tags) annotations(sort string, do func(page int, r ref, d dict) string) string {
	for i, p := range t.pages {
		for _, a := range p.annots {
			r, _ := a.(ref)
			d := t.f.dict(a)
			if t.f.name(d["Subtype"]) != sort || int(t.f.number(d["F"]))&2 != 0 { // hidden
				continue
			}
			if what := do(i+1, r, d); what != "" {
				return what
			}
		}
	}
	return ""
}

func (t *tags) unsaid() string {
	return t.annotations("Widget", func(page int, _ ref, d dict) string {
		for up := d; up != nil; up = t.f.dict(up["Parent"]) {
			if strings.TrimSpace(t.f.words(up["TU"])) != "" {
				return ""
			}
		}
		return fmt.Sprintf("%s on page %d has none: give it a tooltip", t.f.fullName(d), page)
	})
}

func (t *tags) order() string {
	for i, p := range t.pages {
		if len(p.annots) > 0 && t.f.name(p.dict["Tabs"]) != "S" {
			return fmt.Sprintf("it is not on page %d", i+1)
		}
	}
	return ""
}

// taggedAs tells whether an annotation is the object of an element of a kind, and names that by its own key.
func (t *tags) taggedAs(kind string, r ref, d dict) bool {
	key, has := t.f.resolve(d["StructParent"]).(float64)
	if !has || r == 0 {
		return false
	}
	to, _ := t.parents[int(key)].(ref)
	e := t.byRef[to]
	return e != nil && e.kind == kind && slices.Contains(e.objects, r)
}

func (t *tags) fields() string {
	return t.annotations("Widget", func(page int, r ref, d dict) string {
		if !t.taggedAs("Form", r, d) {
			return fmt.Sprintf("%s on page %d is not", t.f.fullName(d), page)
		}
		return ""
	})
}

func (t *tags) links() string {
	return t.annotations("Link", func(page int, r ref, d dict) string {
		switch {
		case !t.taggedAs("Link", r, d):
			return fmt.Sprintf("one on page %d is not", page)
		case strings.TrimSpace(t.f.words(d["Contents"])) == "":
			return fmt.Sprintf("one on page %d does not say", page)
		}
		return ""
	})
}
