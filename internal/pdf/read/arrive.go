package read

import (
	"cmp"
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/pdf/object"
	"zealousmargin.example/internal/rules"
)

// Arrival is what a file brings with it beside its pages.
type Arrival struct {
	Fields []form.Field // tied to their objects by [form.Origin], in tab order
	// XFA tells that the form is also defined by XFA, which is not used and is left
	// out on release (ISO 32000-2, 12.7.8: deprecated).
	XFA bool
	// Details are the title, author, subject and language that readers show.
	Details form.Details
	Links   []Link
}

// Link is a link annotation to a web address, in page space.
type Link struct {
	Page int
	URI  string
	Rect [4]float64
}

// Arrive reads the fields and the details of a file as rows of a draft.
func Arrive(b []byte) (_ Arrival, err error) {
	defer object.Recovered(&err)
	f, err := object.Parse(b)
	if err != nil {
		return Arrival{}, err
	}
	out, _, err := arrive(f)
	return out, err
}

// arrive reads them with the widget of each field.
func arrive(f *object.File) (Arrival, []Widget, error) {
	ws, err := WidgetsOf(f)
	if err != nil {
		return Arrival{}, nil, err
	}
	cat, err := f.Catalog()
	if err != nil {
		return Arrival{}, nil, err
	}
	out := Arrival{XFA: f.Dict(object.Entry(cat, "AcroForm")).HasEntry("XFA")}
	out.Details.Language = f.Text(object.Entry(cat, "Lang"))
	if f.Ctx.Info != nil {
		d := f.Dict(*f.Ctx.Info)
		out.Details.Title, out.Details.Author, out.Details.Subject = f.Text(object.Entry(d, "Title")),
			f.Text(object.Entry(d, "Author")), f.Text(object.Entry(d, "Subject"))
	}
	said, err := RulesSaid(f)
	if err != nil {
		return Arrival{}, nil, err
	}
	out.Details.Events = Events(f)
	var came []Widget // those of the fields
	many := map[string]int{}
	for _, w := range ws {
		many[w.Name]++
	}
	for _, w := range ws {
		x, ok := arrives(f, w)
		if !ok {
			continue // it stays in the file as it is
		}
		x.ID = form.NewID()
		x.Order = float64(w.Index + 1)
		x.Origin.Shared = many[w.Name] > 1 && x.Kind != form.Radio
		out.Fields, came = append(out.Fields, x), append(came, w)
	}
	remember(f, out.Fields, came, said)
	values(out.Fields, came)
	return out, came, nil
}

// arrives gives a widget as a row; ok is false for one that a row cannot be: it shows nowhere, nothing can refer to it, or it has no area,
// such as hidden calculations and signatures that do not show. Such fields stay in the file as they are.
func arrives(f *object.File, w Widget) (x form.Field, ok bool) {
	if w.Page == 0 || len(w.Refs) == 0 || w.Name == "" {
		return x, false
	}
	x = Row(f, w)
	x.ID = "-"
	page := form.Page{Width: f.Pages[w.Page-1].Box.W(), Height: f.Pages[w.Page-1].Box.H()}
	if reachesOff(f, w) {
		x.Origin.Keeps = append(x.Origin.Keeps, form.KeepsOffPage)
	}
	if x.Rect = x.Rect.Clamp(page.Rect()); x.Check(page) != nil {
		if x.Format = (form.Format{}); x.Check(page) != nil {
			return x, false
		}
	}
	return x, true
}

// Rowless tells whether a widget is no row of a draft when its file is brought in.
func Rowless(f *object.File, w Widget) bool {
	_, ok := arrives(f, w)
	return !ok
}

// values notes at the first button of a group that its value names none of them.
func values(fields []form.Field, ws []Widget) {
	named := map[string]bool{}
	for i := range fields {
		if ws[i].Value == ws[i].Export || cmp.Or(ws[i].Value, "Off") == "Off" {
			named[fields[i].Name] = true
		}
	}
	for i := range fields {
		if x := &fields[i]; x.Kind == form.Radio && !named[x.Name] && x.Origin.Odd == "" {
			x.Origin.Odd = fmt.Sprintf("its value is %s, which is none of its buttons", ws[i].Value)
			named[x.Name] = true
		}
	}
}

// Row is a widget as a row of a draft.
func Row(f *object.File, w Widget) form.Field {
	x := form.Field{
		Page: w.Page, Rect: w.Rect, Kind: w.Kind, Name: w.Name, Tooltip: w.Tooltip, Label: w.Tooltip,
		Locked: w.Annot&object.AnnotLocked != 0, Show: showOf(w.Annot), Look: LookOf(f, w),
		Origin: &form.Origin{Object: w.Refs[0].ObjectNumber.Value()},
	}
	for i := range form.FieldProperties {
		p := &form.FieldProperties[i]
		if bit, ok := object.FieldFlags[p.Key]; ok && p.Has(x.Kind) {
			_ = p.Set(&x, form.YesNo(w.Flags&bit != 0)) // yes and no are read by all of them
		}
	}
	if turn := f.Integer(object.Entry(f.Dict(object.Entry(w.Dict, "MK")), "R")) - f.Pages[w.Page-1].Rotate; turn%90 == 0 {
		x.Look.Turn = ((turn % 360) + 360) % 360
	}
	switch w.Kind {
	case form.Text:
		x.MaxLen, x.Default = w.MaxLen, w.Value
		if !x.Multiline {
			x.Comb = w.Comb()
		}
		x.Format = formatOf(w.Scripts)
		x.NoScroll = x.NoScroll && x.Comb == 0 // with cells it goes without saying
		if x.Multiline || x.Comb > 0 {         // the standard gives these no meaning together
			x.Password, x.FilePath = false, false
		} else if x.Password {
			x.FilePath = false
		}
	case form.Choice:
		x.Options, x.Default = w.Options, w.Value
		if len(w.Options) > 1 && strings.TrimSpace(w.Options[0].Label+w.Options[0].Export) == "" {
			x.BlankFirst, x.Options = true, w.Options[1:]
		}
		switch {
		case w.Flags&object.FlagCombo == 0 && w.Flags&object.FlagMultiSelect != 0:
			x.List = form.ManyList
		case w.Flags&object.FlagCombo == 0:
			x.List = form.ListBox
		case w.Flags&object.FlagEdit != 0:
			x.List, x.Format = form.ComboBox, formatOf(w.Scripts)
		}
	case form.CheckBox, form.Radio:
		x.Export = w.Export
		if w.Checked {
			x.Default = x.OnState()
		}
		if state := cmp.Or(w.State, "Off"); state != cmp.Or(w.Value, "Off") && (w.Kind == form.CheckBox || w.Checked) {
			x.Origin.Odd = fmt.Sprintf("its value is %s, but it shows %s", cmp.Or(w.Value, "Off"), state)
		}
		x.Mark = markOf(w.Kind, f.Text(object.Entry(f.Dict(object.Entry(w.Dict, "MK")), "CA")))
	case form.Button:
		x.Caption = f.Text(object.Entry(f.Dict(object.Entry(w.Dict, "MK")), "CA"))
		x.Face = w.Face
	}
	steps, takes, whole := stepsOf(f, w.Dict, w.Kind, w.Kind == form.Button)
	if whole && w.Kind != form.Signature {
		if takes {
			x.Action.Do = form.TakePicture
		}
		x.SetSequence(steps)
	}
	x.Origin.Keeps = keeps(f, w, x, whole && w.Kind != form.Signature)
	return x
}

var (
	dateScript   = regexp.MustCompile(`AFDate_FormatEx\(\s*["']([^"']+)["']\s*\);?\s*$`)
	numberScript = regexp.MustCompile(`AFNumber_Format\(\s*(\d)\s*,\s*(\d)\s*,\s*(\d)\s*,[^,]*,\s*["'](.*)["']\s*,\s*(true|false)\s*\);?\s*$`)
	bareFormat   = regexp.MustCompile(`^\s*AF(Number|Date)_Format`)
	alert        = regexp.MustCompile(`app\.alert\(("(?:[^"\\]|\\.)*")\)`)
)

// formatOf reads the format that scripts of the widely implemented form functions
// stand for; none when they say more than a format can.
func formatOf(scripts map[string]string) form.Format {
	var out form.Format
	if m := dateScript.FindStringSubmatch(scripts["F"]); m != nil && form.ValidDatePattern(m[1]) {
		out = form.Format{Kind: form.Date, Pattern: m[1]}
	} else if m := numberScript.FindStringSubmatch(scripts["F"]); m != nil && m[2] <= "3" {
		n, _ := strconv.Atoi(m[1])
		out = form.Format{
			Kind: form.Number, Decimals: min(n, 6), Comma: m[2] >= "2", Ungrouped: m[2] == "1" || m[2] == "3",
			Brackets: m[3] >= "2", Currency: strings.TrimSpace(m[4]), After: m[5] == "false" && m[4] != "",
		}
		if m[4] == " %" {
			out.Kind, out.Currency, out.After = form.Percent, "", false
		}
	}
	if out.Kind == form.NoFormat || out.Check() != nil { // a row cannot say it
		return form.Format{}
	}
	if k := scripts["K"]; k != "" && !says(k, rules.Compile(out)["K"]) && !says(k, rules.StandardKeys(out)) {
		return form.Format{} // it lets in something else than it shows
	}
	if v := scripts["V"]; v != "" { // a guard of our own, and its message
		quoted := alert.FindStringSubmatch(v)
		if quoted != nil {
			if said, err := strconv.Unquote(quoted[1]); err == nil && said != rules.Message(out) {
				out.Message = said
			}
		}
		if v != rules.Compile(out)["V"] {
			return form.Format{}
		}
	}
	if !bareFormat.MatchString(scripts["F"]) && rules.Compile(out)["F"] != scripts["F"] {
		return form.Format{}
	}
	return out
}

// says tells whether a script is ours, but for blanks and the kind of quotation marks, or the plain
// function call that ours ends with.
func says(js, ours string) bool {
	bare := strings.NewReplacer(" ", "", ";", "", "'", `"`, "\n", "", "\r", "")
	js, ours = bare.Replace(js), bare.Replace(ours)
	return js == ours || strings.HasPrefix(js, "AF") && strings.HasSuffix(ours, js)
}

// keeps says what a field has that a row cannot say. It stays as it is.
func keeps(f *object.File, w Widget, x form.Field, whole bool) []string {
	var out []string
	say := func(on bool, what string) {
		if on && !slices.Contains(out, what) {
			out = append(out, what)
		}
	}
	words := map[string]string{"K": "a keystroke script", "F": "a format script", "V": "a validation script", "C": rules.KeepsCalculation}
	for _, k := range []string{"K", "F", "V", "C"} {
		say(w.Scripts[k] != "" && x.Format.Kind == form.NoFormat && !w.Ours, words[k])
	}
	say(w.Scripts["C"] != "" && x.Format.Kind != form.NoFormat && !w.Ours, words["C"])
	if aa := f.Dict(object.Entry(w.Dict, "AA")); aa != nil {
		for _, k := range []string{"E", "X", "D", "U", "Fo", "Bl", "PO", "PC", "PV", "PI"} { // ISO 32000-2, table 197
			say(aa.HasEntry(k) && (!whole || !slices.Contains([]string{"E", "X", "D", "Fo", "Bl"}, k)), "actions of its own")
		}
	}
	say(len(w.Presses) > 0 && !whole, "a press action: "+shorten(strings.Join(w.Presses, ", "), 80))
	mk := f.Dict(object.Entry(w.Dict, "MK"))
	const told = object.AnnotHidden | object.AnnotPrint | object.AnnotNoView | object.AnnotLocked
	say(w.Annot&^told != 0, fmt.Sprintf("further annotation flags, %b", w.Annot&^told))
	if reset, ok := fieldEntry(f, w, "DV"); ok && (x.Kind == form.Text || x.Kind == form.Choice) && f.Text(reset) != x.Default {
		say(true, "another value after a reset, “"+shorten(f.Text(reset), 40)+"”")
	}
	if reset, ok := fieldEntry(f, w, "DV"); ok && (x.Kind == form.CheckBox || x.Kind == form.Radio) && f.Name(reset) != w.Value {
		say(true, "another value after a reset, "+shorten(f.Name(reset), 40))
	}
	ft, _ := fieldEntry(f, w, "FT")
	say(!slices.Contains([]string{"Btn", "Tx", "Ch", "Sig"}, f.Name(ft)),
		"a type that the standard does not know, "+shorten(f.Name(ft), 20))
	say(mk.HasEntry("I"), "its picture")
	say(w.Dict.HasEntry("RV"), "rich text")
	say(w.Kind == form.Signature && w.Value != "", "a signature")
	slices.Sort(out)
	return out
}

// fieldEntry finds an inheritable entry of the field of a widget (ISO 32000-2, 12.7.4.1).
func fieldEntry(f *object.File, w Widget, key string) (types.Object, bool) {
	for _, ref := range w.Refs {
		if o, ok := f.Dict(ref).Find(key); ok {
			return o, true
		}
	}
	return nil, false
}

func shorten(s string, n int) string {
	r := []rune(s)
	if len(r) <= n {
		return s
	}
	return string(r[:n-1]) + "…"
}

// Links lists the links to web addresses that begin with prefix.
func Links(b []byte, prefix string) (_ []Link, err error) {
	defer object.Recovered(&err)
	f, err := object.Parse(b)
	if err != nil {
		return nil, err
	}
	var out []Link
	for i, p := range f.Pages {
		for _, o := range f.Array(object.Entry(p.Dict, "Annots")) {
			uri, r, ok := LinkTo(f, o, prefix)
			if ok {
				r = r.Shift(-p.Origin.X, -p.Origin.Y)
				out = append(out, Link{Page: i + 1, URI: uri, Rect: [4]float64{r.X0, r.Y0, r.X1, r.Y1}})
			}
		}
	}
	return out, nil
}

// LinkTo reads a link annotation to a web address that begins with prefix.
func LinkTo(f *object.File, o types.Object, prefix string) (uri string, r geom.Rect, ok bool) {
	d := f.Dict(o)
	if d == nil || f.Name(object.Entry(d, "Subtype")) != "Link" {
		return "", r, false
	}
	uri = f.Text(object.Entry(f.Dict(object.Entry(d, "A")), "URI"))
	r, ok = f.Rect(object.Entry(d, "Rect"))
	return uri, r, ok && prefix != "" && strings.HasPrefix(uri, prefix)
}
