package pdf

import (
	"cmp"
	"slices"
	"strings"

	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
)

// Widget is one widget of a field as a file has it. Rect is in page space.
type Widget struct {
	Page     int // from 1
	Rect     geom.Rect
	Kind     form.Kind
	Name     string // fully qualified (ISO 32000-2, 12.7.4.2)
	Tooltip  string
	Flags    int
	Annot    int // annotation flags
	Value    string
	MaxLen   int
	Options  []form.Option
	Export   string // the on state of a check box or radio button
	Checked  bool
	Scripts  map[string]string // trigger, as in ISO 32000-2 table 199, to script
	Presses  []string          // what a press does: "ResetForm", "SubmitForm https://...", "Named Print"
	Index    int               // place among the annotations of its page
	HasLooks bool              // has an appearance stream
	Face     form.Face         // of a button; its picture is told by HasIcon
	HasIcon  bool
	ours     bool // its scripts are of our writing

	widget types.Dict
	refs   []types.IndirectRef // the widget's own object, then its ancestors, nearest first
}

// Comb is how many cells the field is divided into; 0 when it is not a comb.
func (w Widget) Comb() int {
	if w.Kind == form.Text && w.Flags&FlagComb != 0 {
		return w.MaxLen
	}
	return 0
}

// Format names the format that the scripts of the widget stand for, or is empty.
func (w Widget) Format() string {
	s := w.Scripts["F"] + w.Scripts["K"]
	for _, f := range [][2]string{{"AFDate_", "date"}, {"AFTime_", "time"}, {"AFNumber_", "number"}, {"AFPercent_", "percent"}, {"AFSpecial_", "special"}} {
		if strings.Contains(s, f[0]) {
			return f[1]
		}
	}
	return ""
}

// Widgets reads the fields of a file, page by page in the order of its
// annotations, which is the tab order of files that state none.
func Widgets(b []byte) ([]Widget, error) {
	f, err := parse(b)
	if err != nil {
		return nil, err
	}
	return f.widgets()
}

func (f *file) widgets() ([]Widget, error) {
	cat, err := f.catalog()
	if err != nil {
		return nil, err
	}
	o, ok := cat.Find("AcroForm")
	if !ok {
		return nil, nil
	}
	w := walker{f: f, places: map[int][2]int{}, seen: map[int]bool{}}
	for n, p := range f.pages {
		annots, _ := p.dict.Find("Annots")
		for i, a := range f.array(annots) {
			if ref, ok := a.(types.IndirectRef); ok {
				w.places[ref.ObjectNumber.Value()] = [2]int{n + 1, i}
			}
		}
	}
	fields, _ := f.dict(o).Find("Fields")
	for _, o := range f.array(fields) {
		w.walk(o, inherited{}, nil, 0)
	}
	slices.SortStableFunc(w.out, func(a, b Widget) int { return cmp.Or(cmp.Compare(a.Page, b.Page), cmp.Compare(a.Index, b.Index)) })
	return w.out, nil
}

type walker struct {
	f      *file
	places map[int][2]int // annotation object number -> page, index
	seen   map[int]bool
	out    []Widget
}

// inherited are the entries that kids take over from their parent field
// (ISO 32000-2, table 226 and 12.7.4).
type inherited struct {
	name, ft, tooltip     string
	ff, maxlen            int
	value, opt, da, scrip types.Object
}

func (w *walker) walk(o types.Object, in inherited, up []types.IndirectRef, depth int) {
	if depth > 32 {
		return
	}
	ref, isRef := o.(types.IndirectRef)
	if isRef {
		n := ref.ObjectNumber.Value()
		if w.seen[n] {
			return
		}
		w.seen[n] = true
		up = append([]types.IndirectRef{ref}, up...)
	}
	f, d := w.f, w.f.dict(o)
	if d == nil {
		return
	}
	if o, ok := d.Find("T"); ok {
		if in.name != "" {
			in.name += "."
		}
		in.name += f.text(o)
	}
	if o, ok := d.Find("FT"); ok {
		in.ft = f.name(o)
	}
	if o, ok := d.Find("TU"); ok {
		in.tooltip = f.text(o)
	}
	if o, ok := d.Find("Ff"); ok {
		in.ff = f.integer(o)
	}
	if o, ok := d.Find("MaxLen"); ok {
		in.maxlen = f.integer(o)
	}
	for key, at := range map[string]*types.Object{"V": &in.value, "Opt": &in.opt, "DA": &in.da, "AA": &in.scrip} {
		if o, ok := d.Find(key); ok {
			*at = o
		}
	}
	if o, ok := d.Find("Kids"); ok {
		kids := f.array(o)
		for _, k := range kids {
			w.walk(k, in, up, depth+1)
		}
		if len(kids) > 0 {
			return
		}
	}
	place, shown := [2]int{}, false
	if isRef {
		place, shown = w.places[ref.ObjectNumber.Value()]
	}
	if !shown && f.name(entry(d, "Subtype")) != "Widget" {
		return
	}
	w.out = append(w.out, w.widget(d, in, place, up))
}

func entry(d types.Dict, key string) types.Object {
	o, _ := d.Find(key)
	return o
}

func (w *walker) widget(d types.Dict, in inherited, place [2]int, up []types.IndirectRef) Widget {
	f := w.f
	out := Widget{
		Page: place[0], Index: place[1], Name: in.name, Tooltip: in.tooltip, Flags: in.ff, MaxLen: in.maxlen,
		Kind: kindOf(in.ft, in.ff), Annot: f.integer(entry(d, "F")), Scripts: map[string]string{}, widget: d, refs: up,
	}
	if r, ok := f.rect(entry(d, "Rect")); ok {
		if out.Page > 0 {
			p := f.pages[out.Page-1].origin
			r = r.Shift(-p.X, -p.Y)
		}
		out.Rect = r.Rounded()
	}
	if aa := f.dict(in.scrip); aa != nil {
		for _, k := range []string{"K", "F", "V", "C"} { // ISO 32000-2, table 199
			if s := f.script(entry(aa, k)); s != "" {
				out.Scripts[k] = s
			}
		}
	}
	for _, js := range out.Scripts {
		out.ours = out.ours || strings.Contains(js, "zm_")
	}
	out.Presses = f.presses(entry(d, "A"), 0)
	ap := f.dict(entry(d, "AP"))
	out.HasLooks = ap != nil && ap.HasEntry("N")
	switch out.Kind {
	case form.CheckBox, form.Radio:
		out.Value = f.name(in.value)
		out.Export = f.onState(ap)
		state := f.name(entry(d, "AS"))
		out.Checked = state != "" && state != "Off"
		out.MaxLen = 0
	case form.Signature:
		if in.value != nil {
			out.Value = "signed"
		}
	case form.Button:
		out.Face, out.HasIcon = f.faceOf(d)
	default:
		out.Value = f.text(in.value)
		if a := f.array(in.value); out.Value == "" && len(a) > 0 {
			var vs []string
			for _, v := range a {
				vs = append(vs, f.text(v))
			}
			out.Value = strings.Join(vs, "\n")
		}
	}
	for _, o := range f.array(in.opt) {
		if pair := f.array(o); len(pair) == 2 {
			out.Options = append(out.Options, form.Option{Export: f.text(pair[0]), Label: f.text(pair[1])})
		} else {
			out.Options = append(out.Options, form.Option{Label: f.text(o)})
		}
	}
	return out
}

// kindOf maps a field type and its flags to a kind (ISO 32000-2, 12.7.5).
func kindOf(ft string, ff int) form.Kind {
	switch ft {
	case "Btn":
		if ff&FlagPushbutton != 0 {
			return form.Button
		}
		if ff&FlagRadio != 0 {
			return form.Radio
		}
		return form.CheckBox
	case "Ch":
		return form.Choice
	case "Sig":
		return form.Signature
	}
	return form.Text
}

// onState is the name of the one appearance that is not Off (ISO 32000-2, 12.7.5.2.3).
func (f *file) onState(ap types.Dict) string {
	if ap == nil {
		return ""
	}
	for _, which := range []string{"N", "D"} {
		o, err := f.ctx.Dereference(entry(ap, which))
		if err != nil {
			continue
		}
		states, ok := o.(types.Dict)
		if !ok {
			continue
		}
		var names []string
		for k := range states {
			if s, err := types.DecodeName(k); err == nil && s != "Off" {
				names = append(names, s)
			}
		}
		slices.Sort(names)
		if len(names) > 0 {
			return names[0]
		}
	}
	return ""
}

func (f *file) script(o types.Object) string {
	a := f.dict(o)
	if a == nil || f.name(entry(a, "S")) != "JavaScript" {
		return ""
	}
	return f.text(entry(a, "JS"))
}

// presses puts an action and those after it into words of the standard.
func (f *file) presses(o types.Object, depth int) []string {
	a := f.dict(o)
	if a == nil || depth > 16 {
		return nil
	}
	s := f.name(entry(a, "S"))
	switch s {
	case "Named":
		s += " " + f.name(entry(a, "N"))
	case "SubmitForm":
		if spec := f.dict(entry(a, "F")); spec != nil {
			s += " " + f.text(entry(spec, "F"))
		} else {
			s += " " + f.text(entry(a, "F"))
		}
	case "URI":
		s += " " + f.text(entry(a, "URI"))
	case "JavaScript":
		s += " " + f.text(entry(a, "JS"))
	}
	out := []string{s}
	next := entry(a, "Next")
	if list := f.array(next); list != nil {
		for _, n := range list {
			out = append(out, f.presses(n, depth+1)...)
		}
		return out
	}
	return append(out, f.presses(next, depth+1)...)
}
