package proof

import (
	"bytes"
	"cmp"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strings"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/pdf/engine"
	"zealousmargin.example/internal/rules"
)

// Prove opens a written form again and compares what it finds with the draft. Src is the file that
// the fields were written into; its own fields are none of the draft's. The error lists every
// difference, each with the name of its field and of the property.
func Prove(ctx context.Context, src, out []byte, t *form.Template) error {
	_, err := check(ctx, src, out, t, false)
	return err
}

// ProveRelease is [Prove] for a release: the file's own fields belong to the draft. Of those, it
// compares what a row can say.
func ProveRelease(ctx context.Context, src, out []byte, t *form.Template) error {
	_, err := check(ctx, src, out, t, true)
	return err
}

// Release is [ProveRelease] with a report of what was compared.
func Release(ctx context.Context, src, out []byte, t *form.Template) (Report, error) {
	return check(ctx, src, out, t, true)
}

// proving is what is compared: the draft, and the file before and after.
type proving struct {
	draft    *form.Template
	whole    bool // the file's own fields belong to the draft
	rows     []form.Field
	widgets  []*widget // those of the rows, in their order
	kept     []*widget // those of the file that no row can be
	base     *file
	out      *file
	pages    []sheet
	compiled rules.Compiled
	comment  map[string]remark
	wrong    []string
}

// remark is what the comment in the document's script says of a field.
type remark struct {
	Format    form.Format  `json:"format"`
	Checks    []form.Check `json:"checks"`
	Formula   string       `json:"formula"`
	ShowIf    string       `json:"showif"`
	RequireIf string       `json:"requireif"`
	Role      string       `json:"role"`
	Hint      string       `json:"hint"`
}

func (p *proving) say(format string, args ...any) {
	p.wrong = append(p.wrong, fmt.Sprintf(format, args...))
}

func check(ctx context.Context, src, out []byte, t *form.Template, whole bool) (Report, error) {
	if len(out) < len(src) || !bytes.Equal(out[:len(src)], src) {
		return Report{}, errors.New("the original bytes were changed")
	}
	return held(ctx, src, out, t, whole)
}

// held holds what was written to the draft.
func held(ctx context.Context, src, out []byte, t *form.Template, whole bool) (Report, error) {
	p := &proving{draft: t, whole: whole, rows: t.Placed()}
	slices.SortStableFunc(p.rows, func(a, b form.Field) int { return cmp.Or(cmp.Compare(a.Page, b.Page), cmp.Compare(a.Order, b.Order)) })
	var err error
	if p.compiled, err = rules.CompileForm(p.rows); err != nil {
		return Report{}, err
	}
	if p.base, err = readable(ctx, src); err != nil {
		return Report{}, fmt.Errorf("the file before: %w", err)
	}
	if p.out, err = readable(ctx, out); err != nil {
		return Report{}, err
	}
	p.out.displays = map[string]int{}
	for _, x := range p.rows {
		p.out.displays[x.Name] = map[form.Show]int{form.ShowScreen: 2, form.ShowPrint: 3}[x.Shows()]
	}
	p.base.displays = p.out.displays
	seen, err := p.throughPDFium(ctx, src, out)
	if err != nil {
		p.say("PDFium cannot read the form: %v", err)
	}
	p.pages = p.out.pages()
	p.remarks()
	if p.match() {
		if err == nil {
			p.second(seen)
		}
		for i := range p.rows {
			p.field(&p.rows[i], p.widgets[i])
		}
	}
	p.document()
	p.rest()
	if len(p.wrong) > 0 {
		return Report{}, errors.New("the written form differs from the draft: " + strings.Join(p.wrong, "; "))
	}
	return p.report(src), nil
}

// readable opens a file with the small reader. One that is encrypted, or whose cross-reference is
// broken, is first written anew by PDFium.
func readable(ctx context.Context, b []byte) (*file, error) {
	f, err := open(b)
	if err == nil && f.trailer["Encrypt"] == nil && len(f.pages()) > 0 {
		return f, nil
	}
	err = engine.Use(ctx, b, func(d *engine.Doc) (err error) {
		b, err = d.Save()
		return err
	})
	if err != nil {
		return nil, fmt.Errorf("the written file does not open: %w", err)
	}
	return open(b)
}

// throughPDFium reads the widgets of the written file with PDFium, and compares how the pages look.
func (p *proving) throughPDFium(ctx context.Context, src, out []byte) ([]engine.Seen, error) {
	var before, after [][]byte
	var own, seen []engine.Seen
	err := engine.Use(ctx, src, func(d *engine.Doc) (err error) {
		if before, err = d.Prints(); err == nil && !p.whole {
			own, err = d.ReadBack()
		}
		return err
	})
	if err != nil {
		return nil, err
	}
	err = engine.Use(ctx, out, func(d *engine.Doc) (err error) {
		if seen, err = d.ReadBack(); err == nil {
			after, err = d.Prints()
		}
		return err
	})
	if err != nil {
		return nil, fmt.Errorf("the written file does not open: %w", err)
	}
	if len(after) != len(before) {
		p.say("there are %d pages, not %d", len(after), len(before))
	}
	for i := range min(len(after), len(before)) {
		if !bytes.Equal(before[i], after[i]) {
			p.say("page %d does not look as before", i+1)
		}
	}
	return slices.DeleteFunc(seen, func(w engine.Seen) bool {
		return p.whole && w.Rect.Empty() || !p.whole && slices.ContainsFunc(own, func(o engine.Seen) bool { return o.Name == w.Name })
	}), nil
}

// match finds the widget of every row: they stand in the order of the draft.
func (p *proving) match() bool {
	all, stray := p.out.tree(p.pages)
	had, strays := p.base.tree(p.base.pages())
	if stray > strays {
		p.say("%d widgets on the pages belong to no field", stray-strays)
	}
	for _, w := range all {
		switch {
		case w.page == 0, p.whole && p.out.rect(w.dict["Rect"]).Empty():
		case p.whole && p.carried(w, had):
			p.kept = append(p.kept, w)
		case !p.whole && slices.ContainsFunc(had, func(o *widget) bool { return o.name == w.name }):
		default:
			p.widgets = append(p.widgets, w)
		}
	}
	if len(p.widgets) != len(p.rows) {
		p.say("%d fields were written, %d are wanted", len(p.widgets), len(p.rows))
		p.missing()
		return false
	}
	return true
}

// carried tells whether a widget is none of the draft but one of the file, which no row could be, and is as it was there.
func (p *proving) carried(w *widget, had []*widget) bool {
	if !odd(w) || slices.ContainsFunc(p.rows, func(x form.Field) bool { return x.Origin != nil && x.Origin.Object == w.refs[0] }) {
		return false
	}
	i := slices.IndexFunc(had, func(o *widget) bool { return o.refs[0] == w.refs[0] && o.name == w.name })
	if i < 0 {
		return false
	}
	if fmt.Sprint(had[i].up) != fmt.Sprint(w.up) {
		p.say("%s, which is no field of the draft, was changed", w.name)
	}
	return true
}

// odd tells whether a field cannot be a row of a draft: too small to press, without a name or with one that is too long, or with room for
// more signs than a row says.
func odd(w *widget) bool {
	r, most := w.f.rect(w.dict["Rect"]), w.f.number(w.field("MaxLen"))
	const least, longest, signs = 4, 127, 32767
	return r.W() < least || r.H() < least || w.name == "" || len(w.name) > longest || most < 0 || most > signs
}

// missing names the fields that are not there, and those that nobody asked for.
func (p *proving) missing() {
	count := map[string]int{}
	for i := range p.rows {
		count[p.rows[i].Name]++
	}
	for _, w := range p.widgets {
		if count[w.name]--; count[w.name] < 0 {
			p.say("nobody asked for %s", w.name)
		}
	}
	for i := range p.rows {
		if x := &p.rows[i]; count[x.Name] > 0 {
			p.say("%s is missing", x.Name)
			count[x.Name] = 0
		}
	}
}

// second holds what PDFium reads to the draft.
func (p *proving) second(seen []engine.Seen) {
	for _, w := range p.kept {
		if i := slices.IndexFunc(seen, func(g engine.Seen) bool { return g.Name == w.name && g.Page == w.page }); i >= 0 {
			seen = slices.Delete(seen, i, i+1)
		}
	}
	if len(seen) != len(p.rows) {
		p.say("PDFium sees %d fields, not %d", len(seen), len(p.rows))
		return
	}
	for i := range p.rows {
		x, g := &p.rows[i], seen[i]
		if x.Name != g.Name || x.Page != g.Page {
			p.say("PDFium sees %s on page %d where %s is wanted", g.Name, g.Page, x.Name)
			continue
		}
		if x.Kind != g.Kind {
			p.say("%s: PDFium takes it for a %s, not a %s", x.Name, g.Kind, x.Kind)
		}
		if !near(x.Rect, g.Rect) && !p.offPage(x, g.Rect) {
			p.say("%s: PDFium sees it at %v, not %v", x.Name, g.Rect, x.Rect)
		}
		for trigger, js := range p.compiled.Fields[x.Name] {
			if x.Origin == nil && g.Scripts[trigger] != js {
				p.say("%s: PDFium reads another %s script", x.Name, trigger)
			}
		}
	}
}

// always are compared beside the properties of the registry.
var always = []struct {
	what  string
	claim claim
}{{"appearance", complete}, {"drawing", framed}, {"words on it", faces}, {"height of its text", upright}}

// field holds one widget to its row.
func (p *proving) field(x *form.Field, w *widget) {
	s := &subject{proving: p, w: w, x: x, ours: x.Origin == nil, kind: w.kind()}
	s.ap = w.appearances()
	if w.name != x.Name { // another one: nothing else can be said
		p.say("where %s is wanted is %s", x.Name, w.name)
		return
	}
	for i := range form.FieldProperties {
		prop := &form.FieldProperties[i]
		c := claims[prop.Key]
		if c == nil || !prop.Has(x.Kind) {
			continue
		}
		if is, should := c(s); is != should {
			p.say("%s: %s is %q, not %q", x.Name, prop.Key, brief(is), brief(should))
		}
	}
	for _, a := range always {
		if is, should := a.claim(s); is != should {
			p.say("%s: its %s is %q, not %q", x.Name, a.what, brief(is), brief(should))
		}
	}
}

func brief(s string) string {
	if r := []rune(s); len(r) > 120 {
		return string(r[:119]) + "…"
	}
	return s
}

// kind is that of the field (12.7.5).
func (w *widget) kind() form.Kind {
	ff := int(w.f.number(w.field("Ff")))
	switch w.f.name(w.field("FT")) {
	case "Btn":
		switch {
		case ff>>16&1 != 0:
			return form.Button
		case ff>>15&1 != 0:
			return form.Radio
		}
		return form.CheckBox
	case "Ch":
		return form.Choice
	case "Sig":
		return form.Signature
	case "Tx":
		return form.Text
	}
	return ""
}

// appearances reads what the widget shows in its states (12.5.5).
func (w *widget) appearances() appearances {
	out := appearances{normal: map[string]drawn{}}
	ap := w.f.dict(w.dict["AP"])
	switch n := w.f.resolve(ap["N"]).(type) {
	case stream:
		out.normal[""] = w.f.draw(n)
	case dict:
		for k, v := range n {
			out.normal[string(k)] = w.f.draw(v)
		}
	}
	if d, ok := w.f.resolve(ap["D"]).(stream); ok {
		pressed := w.f.draw(d)
		out.pressed = &pressed
	}
	return out
}

var comment = regexp.MustCompile(`(?s)/\*zm (\{.*\})\*/`)

// rulesScript is the name of the script of the document that the fields' scripts need.
const rulesScript = "zm_rules"

// remarks reads what the script of the document says of the fields.
func (p *proving) remarks() {
	m := comment.FindStringSubmatch(p.out.scripts()[rulesScript])
	if m != nil && json.Unmarshal([]byte(m[1]), &p.comment) != nil {
		p.say("the rules in the script of the document cannot be read")
	}
}

// Report says what was compared.
type Report struct {
	Fields       int
	Properties   int // that were compared of each field, as far as it has them
	Pages        int
	Calculations int
	Steps        int    // of fields, pages and the document
	Original     bool   // the file before is the one that was brought in
	Bytes        int    // of it
	Lock         string // how it is locked, in words; empty when it is not
}

func (p *proving) report(src []byte) Report {
	sum := sha256.Sum256(src)
	r := Report{
		Fields: len(p.rows), Properties: len(claims) + len(always), Pages: len(p.pages), Calculations: len(p.compiled.Order),
		Bytes: len(src),
		Steps: len(p.draft.Details.Events), Original: len(p.draft.Pages) > 0,
	}
	for i := range p.rows {
		r.Steps += len(p.rows[i].Sequence())
	}
	for _, page := range p.draft.Pages {
		r.Original = r.Original && page.File == hex.EncodeToString(sum[:])
	}
	return r
}

// Sentence says in one sentence what was compared.
func (r Report) Sentence() string {
	many := func(n int, one, several string) string {
		if n == 1 {
			return "1 " + one
		}
		return fmt.Sprintf("%d %s", n, several)
	}
	parts := []string{
		many(r.Fields, "field", "fields") + " in the draft's order, each in up to " + many(r.Properties, "point", "points") +
			" (place, name, kind, flags, texts, values, looks, drawings, rules, steps)",
	}
	if r.Calculations > 0 {
		parts = append(parts, "the order of "+many(r.Calculations, "calculation", "calculations"))
	}
	if r.Steps > 0 {
		parts = append(parts, many(r.Steps, "step", "steps")+" by what they do")
	}
	parts = append(parts, "links and details of the document", "and the picture of "+many(r.Pages, "page", "pages"))
	s := "Opened again with two readers that share no code with the writer, and compared with the draft: " + strings.Join(parts, ", ") +
		". "
	if r.Lock != "" {
		return s + r.Lock + " It was opened with its passwords, and what it lets recipients do was read from it."
	}
	if r.Original {
		return s + fmt.Sprintf("The file that was brought in is in it to the byte (%d bytes), with the form behind it.", r.Bytes)
	}
	return s + "Its pages were put together anew; nothing in them changed when the form was written behind them."
}
