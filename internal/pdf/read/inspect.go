package read

import (
	"cmp"
	"slices"
	"strconv"
	"strings"

	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/pdf/object"
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
	Export   string // what a check box or radio button says when it is on
	On       string // the name of its on state: that, or its place among the options of the field
	Checked  bool
	State    string            // the appearance state of a check box or radio button, as Export has it
	Scripts  map[string]string // trigger, as in ISO 32000-2 table 199, to script
	Presses  []string          // what a press does: "ResetForm", "SubmitForm https://...", "Named Print"
	Index    int               // place among the annotations of its page
	HasLooks bool              // has an appearance stream
	Face     form.Face         // of a button; its picture is told by HasIcon
	HasIcon  bool
	Ours     bool // its scripts are of our writing

	Dict types.Dict
	Refs []types.IndirectRef // the widget's own object, then its ancestors, nearest first
}

// Comb is how many cells the field is divided into; 0 when it is not a comb.
func (w Widget) Comb() int {
	if w.Kind == form.Text && w.Flags&object.FlagComb != 0 {
		return w.MaxLen
	}
	return 0
}

// Format names the format that the scripts of the widget stand for, or is empty.
func (w Widget) Format() string {
	s := w.Scripts["F"] + w.Scripts["K"]
	for _, f := range [][2]string{
		{"AFDate_", "date"},
		{"AFTime_", "time"},
		{"AFNumber_", "number"},
		{"AFPercent_", "percent"},
		{"AFSpecial_", "special"},
	} {
		if strings.Contains(s, f[0]) {
			return f[1]
		}
	}
	return ""
}

// Widgets reads the fields of a file, page by page in the order of its
// annotations, which is the tab order of files that state none.
func Widgets(b []byte) (_ []Widget, err error) {
	defer object.Recovered(&err)
	_, ws, err := parsed(b)
	return ws, err
}

// parsed reads a file and its widgets.
func parsed(b []byte) (*object.File, []Widget, error) {
	f, err := object.Parse(b)
	if err != nil {
		return nil, nil, err
	}
	ws, err := WidgetsOf(f)
	return f, ws, err
}

func WidgetsOf(f *object.File) ([]Widget, error) {
	cat, err := f.Catalog()
	if err != nil {
		return nil, err
	}
	o, ok := cat.Find("AcroForm")
	if !ok {
		return nil, nil
	}
	w := walker{f: f, places: map[int][2]int{}, seen: map[int]bool{}}
	for n, p := range f.Pages {
		annots, _ := p.Dict.Find("Annots")
		for i, a := range f.Array(annots) {
			if ref, ok := a.(types.IndirectRef); ok {
				w.places[ref.ObjectNumber.Value()] = [2]int{n + 1, i}
			}
		}
	}
	fields, _ := f.Dict(o).Find("Fields")
	for _, o := range f.Array(fields) {
		w.walk(o, inherited{}, nil, 0)
	}
	slices.SortStableFunc(w.out, func(a, b Widget) int { return cmp.Or(cmp.Compare(a.Page, b.Page), cmp.Compare(a.Index, b.Index)) })
	return w.out, nil
}

type walker struct {
	f      *object.File
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
	f, d := w.f, w.f.Dict(o)
	if d == nil {
		return
	}
	if o, ok := d.Find("T"); ok {
		if in.name != "" {
			in.name += "."
		}
		in.name += f.Text(o)
	}
	if o, ok := d.Find("FT"); ok {
		in.ft = f.Name(o)
	}
	if o, ok := d.Find("TU"); ok {
		in.tooltip = f.Text(o)
	}
	_, named := d.Find("T")
	if o, ok := d.Find("Ff"); ok && (named || depth == 0) { // what has no name of its own is a widget, and its flags are its field's
		in.ff = f.Integer(o)
	}
	if o, ok := d.Find("MaxLen"); ok {
		in.maxlen = f.Integer(o)
	}
	for key, at := range map[string]*types.Object{"V": &in.value, "Opt": &in.opt, "DA": &in.da, "AA": &in.scrip} {
		if o, ok := d.Find(key); ok {
			*at = o
		}
	}
	if o, ok := d.Find("Kids"); ok {
		kids := f.Array(o)
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
	if !shown && f.Name(object.Entry(d, "Subtype")) != "Widget" {
		return
	}
	w.out = append(w.out, w.widget(d, in, place, up))
}

func (w *walker) widget(d types.Dict, in inherited, place [2]int, up []types.IndirectRef) Widget {
	f := w.f
	out := Widget{
		Page: place[0], Index: place[1], Name: in.name, Tooltip: in.tooltip, Flags: in.ff, MaxLen: in.maxlen,
		Kind: kindOf(in.ft, in.ff), Annot: f.Integer(object.Entry(d, "F")), Scripts: map[string]string{}, Dict: d, Refs: up,
	}
	if r, ok := f.Rect(object.Entry(d, "Rect")); ok {
		if out.Page > 0 {
			p := f.Pages[out.Page-1].Origin
			r = r.Shift(-p.X, -p.Y)
		}
		out.Rect = r.Rounded()
	}
	if aa := f.Dict(in.scrip); aa != nil {
		for _, k := range []string{"K", "F", "V", "C"} { // ISO 32000-2, table 199
			if s := Script(f, object.Entry(aa, k)); s != "" {
				out.Scripts[k] = s
			}
		}
	}
	for _, js := range out.Scripts {
		out.Ours = out.Ours || strings.Contains(js, "zm_")
	}
	out.Presses = presses(f, object.Entry(d, "A"), 0)
	ap := f.Dict(object.Entry(d, "AP"))
	out.HasLooks = ap != nil && ap.HasEntry("N")
	switch out.Kind {
	case form.CheckBox, form.Radio:
		said := func(state string) string { return exported(f, in.opt, state) }
		out.On = onState(f, ap)
		out.Value, out.Export, out.State = said(f.Name(in.value)), said(out.On), said(f.Name(object.Entry(d, "AS")))
		out.Checked = out.State != "" && out.State != "Off"
		out.MaxLen = 0
	case form.Signature:
		if in.value != nil {
			out.Value = "signed"
		}
	case form.Button:
		out.Face, out.HasIcon = faceOf(f, d)
	default:
		out.Value = f.Text(in.value)
		if a := f.Array(in.value); out.Value == "" && len(a) > 0 {
			var vs []string
			for _, v := range a {
				vs = append(vs, f.Text(v))
			}
			out.Value = strings.Join(vs, "\n")
		}
	}
	for _, o := range f.Array(in.opt) {
		if pair := f.Array(o); len(pair) == 2 {
			out.Options = append(out.Options, form.Option{Export: f.Text(pair[0]), Label: f.Text(pair[1])})
		} else {
			out.Options = append(out.Options, form.Option{Label: f.Text(o)})
		}
	}
	return out
}

// kindOf maps a field type and its flags to a kind (ISO 32000-2, 12.7.5).
func kindOf(ft string, ff int) form.Kind {
	switch ft {
	case "Btn":
		if ff&object.FlagPushbutton != 0 {
			return form.Button
		}
		if ff&object.FlagRadio != 0 {
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

// exported is what a state stands for: an export value that no name can be is an option, whose place the state is called by (ISO 32000-2,
// 12.7.5.2.3).
func exported(f *object.File, opt types.Object, state string) string {
	list := f.Array(opt)
	n, err := strconv.Atoi(state)
	if err == nil && n >= 0 && n < len(list) && slices.ContainsFunc(list, func(o types.Object) bool { return !object.ASCII(f.Text(o)) }) {
		return f.Text(list[n])
	}
	return state
}

// onState is the name of the one appearance that is not Off (ISO 32000-2, 12.7.5.2.3).
func onState(f *object.File, ap types.Dict) string {
	if ap == nil {
		return ""
	}
	for _, which := range []string{"N", "D"} {
		o, err := f.Ctx.Dereference(object.Entry(ap, which))
		if err != nil {
			continue
		}
		states, ok := o.(types.Dict)
		if !ok {
			continue
		}
		var names []string
		for k := range states {
			if k != "Off" {
				names = append(names, k)
			}
		}
		slices.Sort(names)
		if len(names) > 0 {
			return names[0]
		}
	}
	return ""
}

func Script(f *object.File, o types.Object) string {
	a := f.Dict(o)
	if a == nil || f.Name(object.Entry(a, "S")) != "JavaScript" {
		return ""
	}
	return f.Text(object.Entry(a, "JS"))
}

// presses puts an action and those after it into words of the standard.
func presses(f *object.File, o types.Object, depth int) []string {
	a := f.Dict(o)
	if a == nil || depth > 16 {
		return nil
	}
	s := f.Name(object.Entry(a, "S"))
	switch s {
	case "Named":
		s += " " + f.Name(object.Entry(a, "N"))
	case "SubmitForm":
		if spec := f.Dict(object.Entry(a, "F")); spec != nil {
			s += " " + f.Text(object.Entry(spec, "F"))
		} else {
			s += " " + f.Text(object.Entry(a, "F"))
		}
	case "URI":
		s += " " + f.Text(object.Entry(a, "URI"))
	case "JavaScript":
		s += " " + f.Text(object.Entry(a, "JS"))
	}
	out := []string{s}
	next := object.Entry(a, "Next")
	if list := f.Array(next); list != nil {
		for _, n := range list {
			out = append(out, presses(f, n, depth+1)...)
		}
		return out
	}
	return append(out, presses(f, next, depth+1)...)
}
