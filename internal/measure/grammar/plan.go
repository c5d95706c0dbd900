package grammar

import (
	"fmt"
	"math/rand/v2"
	"strconv"
	"strings"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/measure/sheets"
)

// item is one field of a plan with what is printed about it.
type item struct {
	id    int // index in the truth
	label string
	lines int   // of writing
	comb  []int // cells by group
	parts []int // ids of the groups, when they stand apart
	guide string
	unit  string
	hint  string // in brackets behind the label
	below string // small print
	date  bool
	sign  bool
}

// choice is a box to tick with its words.
type choice struct {
	id   int
	text string
}

// table has a cell for every place; cells with words are not to be filled in.
type table struct {
	title string
	heads []string
	rows  [][]cell
	total bool // the last row sums up
	tall  bool // one row with room for several lines
}

type cell struct {
	id   int // -1 for words
	text string
}

// firstPart is the first id of what is a part of a field: no form has so many fields.
const firstPart = 700

// block is one thing on a page.
type block struct {
	kind   string // title, head, prose, fields, combs, ticks, table, signing, and distractors
	text   string
	items  []item
	ticks  []choice
	radio  bool
	table  *table
	column int // of "two by columns": 1 or 2
}

// plan is what a form says and asks, before anybody draws it.
type plan struct {
	name      string
	of        map[string]string
	words     *wording
	blocks    []block
	truth     []sheets.Truth // without places
	partCount int
	parts     map[int][]int // of fields that may as well be several: the ids of these
	empty     bool
	rng       *rand.Rand
}

// at is the factor's value.
func (p *plan) at(name string) string { return p.of[name] }

func (p *plan) chance(percent int) bool { return p.rng.IntN(100) < percent }

func pick[T any](rng *rand.Rand, of []T) T { return of[rng.IntN(len(of))] }

// want adds a field to the truth, tagged with the factors that made it.
func (p *plan) want(t sheets.Truth, sort string) int {
	t.Of = map[string]string{}
	for k, v := range p.of {
		if of := local[k]; of == "" || of == sort {
			t.Of[k] = v
		}
	}
	p.truth = append(p.truth, t)
	return len(p.truth) - 1
}

// newPlan draws the n-th form of a seed; one in ten asks for nothing.
func newPlan(seed uint64, n int) (*plan, error) {
	rng := rand.New(rand.NewPCG(seed, uint64(n)))
	of := draw(rng, writers[n%len(writers)])
	all, err := wordings()
	if err != nil {
		return nil, err
	}
	w := all[of["language"]]
	if w == nil {
		return nil, fmt.Errorf("there are no words for %q", of["language"])
	}
	p := &plan{name: fmt.Sprintf("%d-%03d-%s", seed, n, of["writer"]), of: of, words: w, rng: rng, parts: map[int][]int{}}
	p.settle()
	if n%10 == 9 {
		p.empty = true
		p.nothing()
		return p, nil
	}
	p.compose()
	return p, nil
}

// settle makes values fit where one leaves no choice to another.
func (p *plan) settle() {
	if p.at("mark") == "ruled rows" {
		p.of["label"] = "left"
		if p.at("writer") == library {
			p.of["columns"] = "one"
		}
	}
	typed := map[string]bool{"typed dots": true, "underscores": true, "leader tab": true, "underlined tab": true}
	if typed[p.at("mark")] && p.at("label") == "inside" {
		p.of["label"] = "above"
	}
	if p.at("guide") == "pattern inside" && typed[p.at("mark")] {
		p.of["guide"] = "unit behind"
	}
	if p.at("comb") == "typed" || p.at("comb") == "none" {
		p.of["comb group"] = "none"
	}
	if p.at("comb") == "none" {
		delete(p.of, "comb group")
	}
	if p.at("table") == "none" {
		delete(p.of, "table head")
	}
	if p.at("paper") == "A5 landscape" && p.at("columns") == "three by rows" {
		p.of["columns"] = "two by rows"
	}
	if size, _ := strconv.ParseFloat(p.at("size"), 64); size > 10 && p.at("columns") == "three by rows" {
		p.of["columns"] = "two by rows"
	}
}

// nothing makes a page without any field: what letters, reviews, programmes, time tables look like.
func (p *plan) nothing() {
	for k := range local {
		delete(p.of, k)
	}
	p.of["columns"] = "one"
	p.of["distractor"] = "nothing else"
	p.add(block{kind: "title", text: pick(p.rng, p.words.titles)})
	kinds := []string{"letter", "filled table", "price list", "note in a frame", "chart", "article", "programme", "small print"}
	p.rng.Shuffle(len(kinds), func(i, j int) { kinds[i], kinds[j] = kinds[j], kinds[i] })
	for i, k := range kinds[:4] {
		if i%2 == 0 {
			p.add(block{kind: "head", text: p.words.sections[i%len(p.words.sections)]})
		}
		p.add(block{kind: k})
	}
}

func (p *plan) add(b block) { p.blocks = append(p.blocks, b) }

// compose makes a form of one to three sections.
func (p *plan) compose() {
	if d := p.at("distractor"); d == "letterhead" || d == "page frame" {
		p.add(block{kind: d})
	}
	p.add(block{kind: "title", text: pick(p.rng, p.words.titles)})
	if p.chance(50) {
		p.add(block{kind: "prose", text: pick(p.rng, p.words.prose)})
	}
	fields := p.rng.Perm(len(p.words.fields))
	take := func(n int) []asked {
		var out []asked
		for _, i := range fields[:min(n, len(fields))] {
			out = append(out, p.words.fields[i])
		}
		fields = fields[len(out):]
		return out
	}
	if p.at("columns") == "two by columns" {
		for c := 1; c <= 2; c++ {
			p.section(c, take(3+p.rng.IntN(4)+c))
			if p.chance(50) {
				p.tickBlock(c)
			}
		}
	} else {
		for i := range 1 + p.rng.IntN(2) {
			p.section(0, take(4+p.rng.IntN(4)))
			if i == 0 && p.at("comb") != "none" {
				p.combs()
			}
			if p.chance(75) {
				p.tickBlock(0)
			}
		}
	}
	if p.at("table") != "none" {
		p.tableBlock()
	}
	switch d := p.at("distractor"); d {
	case "filled table", "note in a frame", "price list", "chart":
		p.add(block{kind: d})
	}
	if p.chance(45) {
		l := pick(p.rng, p.words.long)
		p.add(block{kind: "long", items: []item{{
			id: p.want(sheets.Truth{Kind: form.Text, Words: l, Multiline: true}, "text"), label: l, lines: 3 + p.rng.IntN(3),
		}}})
	}
	if p.chance(65) {
		p.signing()
	}
	if p.at("distractor") == "small print" {
		p.add(block{kind: "small print"})
	}
}

// section is a head with fields under it.
func (p *plan) section(column int, as []asked) {
	p.add(block{kind: "head", text: pick(p.rng, p.words.sections), column: column})
	b := block{kind: "fields", column: column}
	for _, a := range as {
		b.items = append(b.items, p.item(a, "text"))
	}
	p.add(b)
}

// item makes a field of a label.
func (p *plan) item(a asked, sort string) item {
	t := sheets.Truth{Kind: form.Text, Words: a.label, Format: a.format}
	it := item{label: a.label, lines: 1, date: a.format == "date"}
	switch p.at("guide") {
	case "pattern inside":
		if it.date {
			it.guide = p.words.guide
		}
	case "unit behind":
		switch a.format {
		case "money":
			it.unit = p.words.euro
		case "percent":
			it.unit = "%"
		}
	case "example in brackets":
		if a.format == "" && p.chance(50) {
			it.hint = "(" + p.words.example + ")"
		}
	case "small print below":
		if p.chance(30) {
			it.below = p.words.example
		}
	}
	it.id = p.want(t, sort)
	return it
}

// combs are fields with a cell for each sign: a date, a short number, a long one.
func (p *plan) combs() {
	b := block{kind: "combs"}
	for i, a := range p.words.fields {
		var cells []int
		switch {
		case a.format == "date" && len(b.items) == 0:
			cells = []int{2, 2, 4}
		case a.format == "postcode":
			cells = []int{5}
		case strings.Contains(strings.ToLower(a.label), "kart") || i == 8 || a.label == "Berth card number":
			cells = []int{4, 4, 4}
		default:
			continue
		}
		if p.at("comb group") == "none" {
			n := 0
			for _, c := range cells {
				n += c
			}
			cells = []int{n}
		}
		it := item{label: a.label, lines: 1, comb: cells, date: a.format == "date"}
		n := 0
		for _, c := range cells {
			n += c
		}
		it.id = p.want(sheets.Truth{Kind: form.Text, Words: a.label, Format: a.format, Comb: n}, "comb")
		if g := p.at("comb group"); g == "gap" || g == "stroke" || g == "stop" {
			for range cells {
				it.parts = append(it.parts, firstPart+p.partCount)
				p.partCount++
			}
			p.parts[it.id] = it.parts
		}
		b.items = append(b.items, it)
		if len(b.items) == 3 {
			break
		}
	}
	p.add(b)
}

// tickBlock is a question with boxes: one answer, several, or yes and no.
func (p *plan) tickBlock(column int) {
	b := block{kind: "ticks", column: column}
	kind, options := form.CheckBox, []string(nil)
	kinds := []form.Kind(nil)
	switch p.rng.IntN(3) {
	case 0:
		q := pick(p.rng, p.words.one)
		b.text, options, kind, b.radio = q.text, q.options, form.Radio, true
		kinds = []form.Kind{form.CheckBox}
	case 1:
		q := pick(p.rng, p.words.many)
		b.text, options = q.text, q.options
		kinds = []form.Kind{form.Radio}
	case 2:
		b.text, options, kind, b.radio = pick(p.rng, p.words.yesno), []string{p.words.yes, p.words.no}, form.Radio, true
	}
	if !b.radio && p.at("tick") == "circle" {
		kinds = []form.Kind{form.Radio}
	}
	for _, o := range options {
		words := o
		if kind == form.Radio {
			words = b.text + " " + o
		}
		id := p.want(sheets.Truth{Kind: kind, Words: words, Group: b.text, Near: true, Kinds: kinds}, "tick")
		b.ticks = append(b.ticks, choice{id, o})
	}
	p.add(b)
}

// tableBlock is a table to be filled in.
func (p *plan) tableBlock() {
	t := &table{title: p.words.table}
	heads := p.words.heads
	units := p.at("table head") == "with units"
	named := func(a asked) string {
		if units && a.format == "money" {
			return a.label + " (" + p.words.euro + ")"
		}
		return a.label
	}
	if p.at("table") == "row heads and total" {
		var money, number asked
		for _, h := range heads {
			switch h.format {
			case "money":
				money = h
			case "number":
				number = h
			}
		}
		t.heads, t.total = []string{p.words.rowHead, named(number), named(money)}, true
		for _, r := range p.words.rows {
			row := []cell{{id: -1, text: r}}
			for _, h := range []asked{number, money} {
				row = append(row, cell{id: p.want(sheets.Truth{Kind: form.Text, Words: r + " " + h.label, Format: h.format}, "cell")})
			}
			t.rows = append(t.rows, row)
		}
		t.rows = append(t.rows, []cell{{id: -1, text: p.words.total}, {id: -1, text: "–"}, {
			id: p.want(sheets.Truth{Kind: form.Text, Words: p.words.total + " " + money.label, Format: "money"}, "cell"),
		}})
		p.add(block{kind: "table", table: t})
		return
	}
	for _, h := range heads {
		t.heads = append(t.heads, named(h))
	}
	rows := 3 + p.rng.IntN(4)
	if t.tall = p.at("table") == "uprights only"; t.tall {
		rows = 1
	}
	for range rows {
		var row []cell
		for _, h := range heads {
			format := h.format
			if t.tall {
				format = "?" // of many answers below each other
			}
			row = append(row, cell{id: p.want(sheets.Truth{
				Kind: form.Text, Words: p.words.table + " " + h.label, Format: format, Multiline: t.tall, Unsaid: true,
			}, "cell")})
		}
		t.rows = append(t.rows, row)
	}
	p.add(block{kind: "table", table: t})
}

// signing is a line for place and date, and one for a hand.
func (p *plan) signing() {
	b := block{kind: "signing"}
	if p.chance(50) {
		b.items = append(b.items, item{label: p.words.placeDate, id: p.want(sheets.Truth{
			Kind: form.Text, Words: p.words.placeDate,
		}, "sign")})
	} else {
		b.items = append(b.items, item{label: p.words.date, id: p.want(sheets.Truth{
			Kind: form.Text, Words: p.words.date, Format: "date",
		}, "sign")})
	}
	b.items = append(b.items, item{label: p.words.sign, sign: true, id: p.want(sheets.Truth{
		Kind: form.Signature, Words: p.words.sign, Kinds: []form.Kind{form.Text},
	}, "sign")})
	p.add(b)
}
