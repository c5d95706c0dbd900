package snags

import (
	"errors"
	"fmt"
	"maps"
	"math"
	"slices"
	"strconv"
	"strings"

	"zealousmargin.example/internal/arrange"
	"zealousmargin.example/internal/detect"
	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/rules"
)

// field holds one field to what it can be held to by itself.
func (d *desk) field(f *form.Field) {
	if f.Tooltip == "" {
		s := d.say("no-tooltip", Risky, f, "%s has no tooltip: who cannot see the page is told nothing", f.Name)
		if text := words(f.Label); text != "" {
			s.by("give it its label as a tooltip", func(f *form.Field) { f.Tooltip = text })
		} else if !detect.Nameless(f.Name) {
			text := words(f.Name)
			s.by("give it its name as a tooltip", func(f *form.Field) { f.Tooltip = text })
		}
	}
	if detect.Nameless(f.Name) {
		d.say("machine-name", Hint, f, "%s is a working name: whoever reads the answers will wonder what it was", f.Name)
	}
	if f.Page <= len(d.t.Pages) && !d.t.Pages[f.Page-1].Rect().Covers(f.Rect, 0.5) {
		d.say("off-page", Serious, f, "%s lies off the page", f.Name)
	}
	d.size(f)
	d.promises(f)
	d.looks(f)
	d.value(f)
	d.button(f)
	d.start(f)
	d.does(f)
	d.scripts(f)
}

// size looks at whether a field can be read and pressed.
func (d *desk) size(f *form.Field) {
	h, w := f.Rect.H(), f.Rect.W()
	if f.Look.Turn%180 != 0 {
		h, w = w, h
	}
	typed := f.Kind == form.Text || f.Kind == form.Choice
	switch {
	// ascent and descent of Helvetica, 0.718 + 0.207 em (Adobe font metrics), and its inset
	case typed && f.Look.Size > 0 && h < f.Look.Size*0.925+1:
		d.say("too-small", Risky, f, "%s is %.0f pt high, too low for type of %.0f pt", f.Name, h, f.Look.Size).
			by("let the type fit by itself", func(f *form.Field) { f.Look.Size = 0 })
	case typed && h < 8:
		d.say("too-small", Risky, f, "%s is %.0f pt high: what is typed into it cannot be read", f.Name, h)
	case typed && f.Comb == 0 && w < 12:
		d.say("too-narrow", Risky, f, "%s is %.0f pt wide: hardly a sign fits", f.Name, w)
	case (f.Kind == form.CheckBox || f.Kind == form.Radio) && math.Min(h, w) < 6:
		d.say("too-small", Hint, f, "%s is hard to hit: it is %.0f pt wide", f.Name, math.Min(h, w))
	}
}

// promises looks for what excludes each other.
func (d *desk) promises(f *form.Field) {
	must := f.Required || f.RequireIf != ""
	free := func(f *form.Field) { f.Required, f.RequireIf = false, "" }
	switch {
	case must && f.Shows() == form.ShowNone:
		d.say("required-hidden", Serious, f, "%s must be filled in, but it shows nowhere: nobody could send the form", f.Name).
			by("let it be left empty", free)
	case must && f.ReadOnly && f.Formula == "" && f.Default == "":
		d.say("required-readonly", Serious, f, "%s must be filled in, but it cannot be changed", f.Name).by("let it be left empty", free)
	case must && f.Shows() == form.ShowPrint:
		d.say("required-hidden", Risky, f, "%s must be filled in, but it shows in print only", f.Name).by("let it be left empty", free)
	case f.Shows() == form.ShowNone && f.Formula == "" && f.Default == "":
		d.say("never-seen", Hint, f, "%s shows nowhere and nothing fills it in", f.Name)
	}
	if f.Formula != "" && !f.ReadOnly {
		d.say("calculated-editable", Risky, f, "%s is calculated, but a recipient can type over it", f.Name).
			by("make it read-only", func(f *form.Field) { f.ReadOnly = true })
	}
	if f.Password && f.Default != "" {
		d.say("password-default", Serious, f, "%s hides what is typed, but its first value stands in the file for all to read", f.Name).
			by("begin empty", func(f *form.Field) { f.Default = "" })
	}
}

// looks holds colours to each other (WCAG 2.2, 1.4.3: 4.5 to 1).
func (d *desk) looks(f *form.Field) {
	ink, ground := f.Look.Colour, f.Look.Fill
	if f.Kind == form.Button && ground == "" {
		ground = "#f0f0f0" // as a button is drawn
	}
	if c := Contrast(ink, ground); c < 4.5 {
		d.say("contrast", Risky, f, "the type of %s can hardly be told from its ground: contrast %.1f to 1, it should be 4.5", f.Name,
			c).by("write it in black", func(f *form.Field) {
			if f.Look.Colour = ""; Contrast("", f.Look.Fill) < 4.5 {
				f.Look.Colour = "#ffffff"
			}
		})
	}
}

// Contrast is the contrast of two colours "#rrggbb" (WCAG 2.2, "contrast ratio"): 1 to 21. An empty ink
// is black, an empty ground white paper.
func Contrast(ink, ground string) float64 {
	light := func(s string, otherwise float64) float64 {
		v, err := strconv.ParseUint(strings.TrimPrefix(s, "#"), 16, 32)
		if err != nil || len(s) != 7 {
			return otherwise
		}
		part := func(n uint64) float64 {
			c := float64(n&255) / 255
			if c <= 0.04045 {
				return c / 12.92
			}
			return math.Pow((c+0.055)/1.055, 2.4)
		}
		return 0.2126*part(v>>16) + 0.7152*part(v>>8) + 0.0722*part(v)
	}
	a, b := light(ink, 0), light(ground, 1)
	return (math.Max(a, b) + 0.05) / (math.Min(a, b) + 0.05)
}

// value holds the first value, the list and the checks of a field to each other.
func (d *desk) value(f *form.Field) {
	if f.Default != "" {
		if _, err := rules.Check(f.Format, f.Default); err != nil {
			d.say("default-refused", Serious, f, "%s begins with %q, which its own format refuses", f.Name, f.Default).
				by("begin empty", func(f *form.Field) { f.Default = "" })
		}
		if f.MaxLen > 0 && len([]rune(f.Default)) > f.MaxLen {
			d.say("default-too-long", Risky, f, "%s begins with more signs than the %d it takes", f.Name, f.MaxLen).
				by("begin empty", func(f *form.Field) { f.Default = "" })
		}
		if f.Kind == form.Choice && f.List != form.ComboBox &&
			!slices.ContainsFunc(f.Options, func(o form.Option) bool { return o.Label == f.Default || o.Export == f.Default }) {
			d.say("default-unknown", Risky, f, "%s begins with %q, which is not in its list", f.Name, f.Default).
				by("begin empty", func(f *form.Field) { f.Default = "" })
		}
	}
	for _, c := range f.Checks {
		if err := rules.CheckProblem(f, c, d.names); err != nil {
			d.say("check-broken", Serious, f, "a check of %s cannot be done: %v", f.Name, err)
			continue
		}
		if why := contradicts(f, c); why != "" {
			d.say("contradiction", Serious, f, "%s can never be right: %s", f.Name, why)
		}
	}
	if asks := f.Find; asks != nil && f.Kind == form.Text && f.Format.Kind == form.NoFormat && f.Formula == "" {
		if as, ok := map[string]form.Format{
			"date": {Kind: form.Date, Pattern: "dd.mm.yyyy"}, "number": {Kind: form.Number}, "money": {Kind: form.Number, Decimals: 2},
			"email": {Kind: form.Email}, "phone": {Kind: form.Phone},
			"percent": {Kind: form.Percent}, "time": {Kind: form.Time, Pattern: "HH:MM"}, "postcode": {Kind: form.Postcode},
		}[asks.Looks]; ok && !(as.Kind == form.Date && f.Comb > 0) {
			what := map[string]string{
				"money": "a sum of money", "email": "an e-mail address", "phone": "a telephone number",
				"percent": "a percentage",
			}[asks.Looks]
			if what == "" {
				what = "a " + asks.Looks
			}
			d.say("plain-"+asks.Looks, Hint, f, "%s takes anything, but its label asks for %s", f.Name, what).
				by("make it "+what, func(f *form.Field) { f.Format = as })
		}
	}
}

// contradicts tells why no answer can pass a check and the format of its field.
func contradicts(f *form.Field, c form.Check) string {
	number := func(s string) (float64, bool) {
		v, err := strconv.ParseFloat(strings.TrimSpace(s), 64)
		return v, err == nil
	}
	switch c.Test {
	case form.Between, form.Length:
		a, okA := number(c.A)
		b, okB := number(c.B)
		if okA && okB && a > b {
			return fmt.Sprintf("from %s to %s is nothing", c.A, c.B)
		}
		if c.Test == form.Length && okA && f.MaxLen > 0 && int(a) > f.MaxLen {
			return fmt.Sprintf("it needs %s signs, but takes %d", c.A, f.MaxLen)
		}
		if c.Test == form.Between && (okA || okB) && f.Format.Kind == form.Date {
			return "it is a date, but is held to a number"
		}
	case form.OneOf:
		good := slices.ContainsFunc(strings.Split(c.A, ","), func(s string) bool {
			_, err := rules.Check(f.Format, strings.TrimSpace(s))
			return err == nil
		})
		if !good {
			return "its format refuses all the answers that it is held to"
		}
	case form.MatchesMask:
		if n := len([]rune(c.A)); f.MaxLen > 0 && n > f.MaxLen &&
			strings.Count(c.A, "#")+strings.Count(c.A, "@")+strings.Count(c.A, "?") > f.MaxLen {
			return fmt.Sprintf("the pattern has %d signs, but it takes %d", n, f.MaxLen)
		}
	case form.NotBefore, form.NotAfter:
		if f.Format.Kind != form.Date {
			return "it is held to a date, but is none: let it accept a date"
		}
	}
	return ""
}

// does looks at what a field does when something happens.
func (d *desk) does(f *form.Field) {
	for i, s := range f.Sequence() {
		switch url := s.URL; {
		case s.Do == form.SubmitForm && (url == "https://" || url == "http://" || url == "mailto:" || url == ""):
			d.say("no-address", Serious, f, "%s sends the answers, but has no address to send them to", f.Name)
		case s.Do == form.SubmitForm && strings.HasPrefix(url, "http://"):
			d.say("plain-http", Risky, f, "%s sends the answers over plain http: anybody on the way can read them", f.Name).
				by("send over https", func(f *form.Field) {
					all := f.Sequence()
					all[i].URL = "https://" + strings.TrimPrefix(all[i].URL, "http://")
					f.SetSequence(all)
				})
		case s.Do == form.GoToPage && s.Page > len(d.t.Pages):
			d.say("step-lost", Serious, f, "%s goes to page %d, which is not there", f.Name, s.Page)
		case s.Do == form.RunScript:
			if err := rules.CheckScript(s.Script); err != nil {
				d.say("script-broken", Serious, f, "%s: %v", f.Name, err)
			} else {
				d.say("own-script", Hint, f, "%s runs a script of your own: try it in the readers that your recipients have", f.Name)
			}
		}
		for _, n := range s.Named() {
			if !slices.ContainsFunc(d.t.Fields, func(o form.Field) bool { return o.Name == n }) {
				d.say("step-lost", Serious, f, "%s is to do something with %s, which is not there", f.Name, n)
			}
		}
	}
}

// start looks at first values that contradict each other in the file that a field came with.
func (d *desk) start(f *form.Field) {
	if f.Origin == nil || f.Origin.Odd == "" {
		return
	}
	on, _ := form.PropertyOf(form.FieldProperties, "checked")
	d.say("start-disagrees", Risky, f, "%s came with the document, and %s: readers show one or the other", f.Name, f.Origin.Odd).
		by("start with what it shows", func(f *form.Field) { _ = on.Set(f, on.Get(f)) }) // what it says is no error
}

func (d *desk) button(f *form.Field) {
	if f.Kind != form.Button {
		return
	}
	if len(f.Sequence()) == 0 && f.Action.Do == "" && f.Origin == nil {
		d.say("no-action", Risky, f, "%s does nothing when it is pressed", f.Name)
	}
	if f.Caption == "" && f.Face.Picture == "" && f.Action.Do != form.TakePicture && f.Origin == nil {
		caption := words(f.Name)
		d.say("no-caption", Hint, f, "%s shows its name for want of words", f.Name).
			by("let it say "+caption, func(f *form.Field) { f.Caption = caption })
	}
}

// scripts tells what needs a reader that runs scripts.
func (d *desk) scripts(f *form.Field) {
	if f.ShowIf != "" && f.Required {
		d.say("needs-scripts", Risky, f, "%s must be filled in and shows only if …: where no scripts run it shows always, and "+
			"blocks those whom it does not concern", f.Name)
	}
}

// pairs holds the fields of a page to each other.
func (d *desk) pairs() {
	byPage := map[int][]*form.Field{}
	names := map[string]*form.Field{}
	tips := map[string]*form.Field{}
	for i := range d.fields {
		f := &d.fields[i]
		byPage[f.Page] = append(byPage[f.Page], f)
		if o := names[f.Name]; o != nil && o.Kind != f.Kind {
			d.say("double-name", Serious, f, "%s is the name of a %s and of a %s: readers take them for one field", f.Name, o.Kind,
				f.Kind)
		}
		names[f.Name] = f
		if o := tips[f.Tooltip]; f.Tooltip != "" && o != nil && o.Name != f.Name && f.Kind != form.Radio && o.Page == f.Page {
			d.say("same-tooltip", Hint, f, "%s and %s have the same tooltip %q: who hears them cannot tell them apart", o.Name, f.Name,
				f.Tooltip)
		} else if f.Tooltip != "" {
			tips[f.Tooltip] = f
		}
	}
	for _, on := range byPage {
		for i, a := range on {
			for _, b := range on[i+1:] {
				if share := a.Rect.Intersect(b.Rect).Area() / math.Min(a.Rect.Area(), b.Rect.Area()); share > 0.2 &&
					a.Shows() != form.ShowNone && b.Shows() != form.ShowNone {
					d.say("overlap", Serious, b, "%s covers %s by %.0f %%", b.Name, a.Name, share*100)
				}
			}
		}
	}
}

// lists looks at groups and lists.
func (d *desk) lists() {
	groups := map[string][]*form.Field{}
	for i := range d.fields {
		f := &d.fields[i]
		switch f.Kind {
		case form.Radio:
			groups[f.Name] = append(groups[f.Name], f)
		case form.Choice:
			if len(f.Options) == 0 && f.List != form.ComboBox {
				d.say("empty-list", Serious, f, "%s offers nothing to choose from", f.Name)
			}
			seen := map[string]bool{}
			for _, o := range f.Options {
				v := o.Export
				if v == "" {
					v = o.Label
				}
				if strings.TrimSpace(o.Label) == "" || seen[v] {
					d.say("option", Risky, f, "%s has options that send the same (%q), or that say nothing", f.Name, v)
					break
				}
				seen[v] = true
			}
		}
	}
	for _, f := range form.Excess(d.fields) {
		d.say("two-on", Serious, &f, "%s has more than one button that is on at the start: readers show one of them, and not always "+
			"the same", f.Name).
			by("leave the first one on", func(f *form.Field) { f.Default = "" })
	}
	for _, name := range slices.Sorted(maps.Keys(groups)) {
		g := groups[name]
		if len(g) == 1 {
			id := g[0].ID
			s := d.say("lone-radio", Serious, g[0], "%s is a radio button by itself: once chosen, it can never be left again", name)
			s.Mend = "make it a check box"
			s.mend = func(t *form.Template) (form.Edit, error) {
				return t.Set("made a check box of "+name, []string{id},
					func(f *form.Field) error { f.Kind, f.Unison = form.CheckBox, false; return nil })
			}
		}
		sends := map[string]bool{}
		for _, f := range g {
			if sends[f.Export] && !f.Unison {
				d.say("same-export", Serious, f, "two buttons of %s send the same, %q: nobody can tell which was chosen", name, f.Export)
			}
			sends[f.Export] = true
		}
	}
}

// formulas reads all formulas.
func (d *desk) formulas() {
	broken := false
	for i := range d.fields {
		f := &d.fields[i]
		for what, s := range map[string]string{
			"what it is calculated from": f.Formula, "when it shows": f.ShowIf,
			"when it must be filled in": f.RequireIf,
		} {
			if s == "" {
				continue
			}
			if err := rules.CheckFormula(s, d.names); err != nil {
				broken = true
				d.say("formula-broken", Serious, f, "%s: %s cannot be worked out: %v", f.Name, what, err)
			}
		}
	}
	if broken {
		return
	}
	var circle *rules.CircleError
	if _, err := rules.CompileForm(d.t.Fields); errors.As(err, &circle) {
		i := slices.IndexFunc(d.fields, func(f form.Field) bool { return f.Name == circle.Names[0] })
		d.say("circle", Serious, &d.fields[max(0, i)], "%v", err)
	}
}

// printed holds the fields to what is printed on their pages.
func (d *desk) printed() {
	for n := 1; n <= len(d.t.Pages); n++ {
		on := slices.DeleteFunc(slices.Clone(d.fields), func(f form.Field) bool { return f.Page != n })
		d.order(n, on)
		ev := d.pages[n]
		if ev == nil {
			continue
		}
		toPage, _ := ev.ToPage()
		for i := range on {
			f := &on[i]
			for _, w := range ev.Words {
				r := w.Rect.Apply(toPage)
				if f.Kind != form.Button && r.Area() > 0 && f.Rect.Intersect(r).Area() > 0.5*r.Area() &&
					strings.Trim(w.Text, "_.…-–|:") != "" && len([]rune(w.Text)) > 1 {
					d.say("covers-words", Risky, f, "%s covers the printed words %q", f.Name, w.Text)
					break
				}
			}
			if f.Comb > 0 {
				if x, ok := detect.At(ev, f.Rect.Mid(), form.Text); ok && x.Comb > 1 && x.Comb != f.Comb {
					cells := x.Comb
					d.say("comb", Risky, f, "%s has %d cells, but %d are printed", f.Name, f.Comb, cells).
						by("as many cells as are printed", func(f *form.Field) { f.Comb, f.MaxLen = cells, cells })
				}
			}
		}
		var missed []form.Field
		for _, x := range detect.Page(ev) {
			if form.LevelOf(x.Confidence) != form.Sure || slices.ContainsFunc(d.t.Fields, func(f form.Field) bool {
				return f.Page == n && f.Rect.Intersect(x.Rect).Area() > 0.2*math.Min(f.Rect.Area(), x.Rect.Area())
			}) {
				continue
			}
			g := x.Field(n)
			g.Find.Kept = true
			missed = append(missed, g)
		}
		if len(missed) > 0 {
			s := d.say("missed", Risky, nil, "%d places of page %d look as if something were to be written there, such as %q, but "+
				"have no field", len(missed), n, words(missed[0].Name))
			s.Page, s.Mend = n, "place fields there"
			s.mend = func(t *form.Template) (form.Edit, error) { return t.AddNew(missed) }
		}
	}
}

// Read is the order in which the fields of page n are read: by what is printed about them when that is known, else by where
// they stand.
func Read(t *form.Template, pages map[int]*evidence.Page, n int, on []form.Field) []string {
	if ev := pages[n]; ev != nil {
		return detect.Order(ev, on)
	}
	p := t.Pages[n-1]
	return arrange.Order(on, "structure", geom.ToView(p.Width, p.Height, p.Rotate))
}

// order looks at the tab order of a page.
func (d *desk) order(n int, on []form.Field) {
	if len(on) < 3 {
		return
	}
	want := Read(d.t, d.pages, n, on)
	jumps := len(arrange.Jumps(on, want))
	if jumps == 0 {
		d.byHand(n, on, want)
	}
	if jumps > 0 {
		s := d.say("tab-order", Risky, nil, "the tab order of page %d jumps about (%d times)", n, jumps)
		s.Page, s.Mend = n, "order it as the page is built"
		s.mend = func(t *form.Template) (form.Edit, error) { return t.Reorder(n, "ordered as the page is built", want) }
	}
}

// asRead tells whether the tab order of a page is the one in which it is read.
func (d *desk) asRead(page int) bool {
	on := slices.DeleteFunc(slices.Clone(d.fields), func(f form.Field) bool { return f.Page != page })
	order := make([]string, len(on))
	for i := range on {
		order[i] = on[i].ID
	}
	return slices.Equal(order, Read(d.t, d.pages, page, on))
}

// languageNames are the names of the languages that pages are recognised to be in, by ISO 639-1.
var languageNames = map[string]string{
	"cs": "Czech", "da": "Danish", "de": "German", "el": "Greek", "en": "English", "es": "Spanish", "fi": "Finnish", "fr": "French",
	"hu": "Hungarian", "it": "Italian", "nl": "Dutch", "pl": "Polish", "pt": "Portuguese", "ro": "Romanian", "sv": "Swedish",
	"uk": "Ukrainian",
}

// document looks at what is about the form as a whole.
// pictures asks for the words of those that have none.
func (d *desk) pictures() {
	for i, p := range d.t.Pages {
		ev := d.pages[i+1]
		if ev == nil || len(ev.Pictures) == 0 || p.Scan || p.Shows != "" {
			continue
		}
		s := d.say("picture-unsaid", Hint, nil, "page %d has pictures without words for those who cannot see them (ISO 14289-1, "+
			"7.3): say in Pages what they show", i+1)
		s.Page, s.Mend = i+1, "say that they are decoration"
		s.mend = func(t *form.Template) (form.Edit, error) {
			return t.ChangePages("said that pictures are decoration", []string{p.ID}, func(p *form.Page) { p.Shows = form.Decoration })
		}
	}
}

func (d *desk) document() {
	det := d.t.Details
	d.pictures()
	if strings.TrimSpace(det.Title) == "" {
		title := d.t.Title
		s := d.say("no-title", Risky, nil, "the document has no title of its own: readers show its file name, and PDF/UA (ISO "+
			"14289-1, 7.1) asks for one")
		if title != "" {
			s.Mend = "call it " + title
			s.mend = func(t *form.Template) (form.Edit, error) { x := t.Details; x.Title = title; return t.Describe(x) }
		}
	}
	if det.Language == "" {
		s := d.say("no-language", Risky, nil, "the document does not say its language: who has it read aloud hears the wrong voice (ISO "+
			"32000-2, 14.9.2)")
		if spoken := detect.Language(slices.Collect(maps.Values(d.pages))...); spoken != "" {
			s.Mend = "say that it is in " + languageNames[spoken]
			s.mend = func(t *form.Template) (form.Edit, error) { x := t.Details; x.Language = spoken; return t.Describe(x) }
		}
	}
	calculated := 0
	for _, f := range d.fields {
		if f.Formula != "" && f.ReadOnly {
			calculated++
		}
	}
	if calculated > 0 {
		d.say("needs-scripts", Hint, nil, "%d fields are calculated: where no scripts run they stay empty, and nobody can fill them in",
			calculated)
	}
	doubtful := 0
	for _, f := range d.t.Fields {
		if f.OpenFind() && f.Level() == form.Doubtful {
			doubtful++
		}
	}
	if doubtful > 0 {
		d.say("doubtful", Risky, nil, "%d doubtful finds were neither kept nor dropped: they will not be in the form", doubtful)
	}
	signed := false
	last := ""
	for i := range d.fields {
		f := &d.fields[i]
		if f.Kind == form.Signature {
			signed = true
			last = f.ID
			continue
		}
		if signed && f.Kind != form.Button && f.Kind != form.Signature && !f.ReadOnly {
			if s, ok := d.t.Field(last); ok && s.Page == f.Page && !detect.MayFollowSignature(f.Tooltip, f.Label, f.Name) {
				if d.asRead(s.Page) {
					return // the page itself has it so
				}
				d.say("signature-not-last", Hint, &s, "%s comes before %s in the tab order: people sign before they are through",
					s.Name, f.Name)
				return
			}
		}
	}
}
