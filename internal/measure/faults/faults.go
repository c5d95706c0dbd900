package faults

import (
	"context"
	"fmt"
	"regexp"
	"slices"
	"strings"

	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/pdf/object"
	"zealousmargin.example/internal/pdf/proof"
	"zealousmargin.example/internal/pdf/read"
	"zealousmargin.example/internal/pdf/write"
)

// Fault is a file that says something else than its draft.
type Fault struct {
	Property string
	Kind     form.Kind
	Field    string
	Where    string // the place in the file: "AcroForm/Fields[0]/MK/CA"
	What     string // was done to it
	Bytes    []byte
	Draft    *form.Template
	Source   []byte
}

func (f Fault) String() string {
	return fmt.Sprintf("%s of a %s: %s %s", f.Property, f.Kind, f.Where, f.What)
}

// Of puts faults into the file of a specimen, each in a file of its own. Sound is the file without
// faults.
func (s Specimen) Of(src []byte) (faults []Fault, sound []byte, err error) {
	sound, err = write.Release(src, s.With)
	if err != nil {
		return nil, nil, err
	}
	without, err := write.Release(src, s.Without)
	if err != nil {
		return nil, nil, err
	}
	add := func(where, what string, b []byte) {
		faults = append(faults, Fault{
			Property: s.Property, Kind: s.Kind, Field: s.Field, Where: where, What: what, Bytes: b,
			Draft: s.With, Source: src,
		})
	}
	add("the whole file", "as if the property had not been written", without)
	has, hasNot, err := both(sound, without)
	if err != nil {
		return nil, nil, err
	}
	for _, path := range paths(has) {
		a, b := has[path], hasNot[path]
		if b != nil && a.value == b.value || a.value == "an object" && b != nil {
			continue // the property does not stand here
		}
		for what, change := range changes(a, b) {
			out, err := mutated(sound, path, change)
			if err != nil {
				return nil, nil, fmt.Errorf("%s %s: %w", path, what, err)
			}
			if out != nil {
				add(strings.TrimPrefix(path, "/"), what, out)
			}
		}
	}
	return faults, sound, nil
}

func both(a, b []byte) (map[string]*leaf, map[string]*leaf, error) {
	x, err := byPath(a)
	if err != nil {
		return nil, nil, err
	}
	y, err := byPath(b)
	return x, y, err
}

func byPath(b []byte) (map[string]*leaf, error) {
	f, err := object.Parse(b)
	if err != nil {
		return nil, err
	}
	out := map[string]*leaf{}
	for _, l := range leaves(f) {
		out[l.path] = &l
	}
	return out, nil
}

// change is what is done to a place.
type change func(l *leaf)

// changes are what can be done to a place: to let it say what it says without the property, to take
// it away, or to let it say something else.
func changes(a, without *leaf) map[string]change {
	out := map[string]change{}
	if a.stream != nil {
		if without != nil && without.stream != nil {
			out["as without the property"] = func(l *leaf) { restream(l, without.value) }
		}
		if i := strings.LastIndex(a.value, ") Tj"); i > 0 && a.value[i-1] != '(' {
			out["with another letter"] = func(l *leaf) { restream(l, a.value[:i-1]+"#"+a.value[i:]) }
		}
		return out
	}
	if without != nil && without.value != a.value {
		out["as without the property"] = func(l *leaf) { l.put(without.object) }
	}
	if without == nil {
		out["taken away"] = func(l *leaf) { l.put(nil) }
	}
	switch o := a.object.(type) {
	case types.Integer:
		out["one more"] = func(l *leaf) { l.put(o + 1) }
	case types.Float:
		out["half as much"] = func(l *leaf) { l.put(types.Float(float64(o)/2 + 0.1)) }
	case types.Name:
		out["another name"] = func(l *leaf) { l.put(o + "x") }
	case types.StringLiteral:
		if len(o) > 0 {
			out["with a sign more"] = func(l *leaf) { l.put("x" + o) }
		}
	case types.HexLiteral:
		out["with a sign more"] = func(l *leaf) { l.put(o + "0078") }
	case types.Boolean:
		out["turned round"] = func(l *leaf) { l.put(!o) }
	case types.Array:
		if len(o) > 1 {
			out["one element short"] = func(l *leaf) { l.put(o[:len(o)-1]) }
		}
	}
	return out
}

func restream(l *leaf, content string) {
	l.stream.Content = []byte(content)
	_ = l.stream.Encode() // as it was encoded before
}

// mutated changes one place of a file; nil when that leaves it as it is.
func mutated(b []byte, path string, c change) ([]byte, error) {
	f, err := object.Parse(b)
	if err != nil {
		return nil, err
	}
	for _, l := range leaves(f) {
		if l.path != path {
			continue
		}
		c(&l)
		if l.stream != nil {
			place, ok := f.Ctx.FindTableEntryLight(l.owner.ObjectNumber.Value())
			if !ok {
				return nil, fmt.Errorf("the stream is lost")
			}
			place.Object = *l.stream
		}
		f.Touch(l.owner)
		out, err := f.Increment()
		if err != nil {
			return nil, err
		}
		if again, err := byPath(out); err == nil && again[path] != nil && again[path].value == l.value {
			return nil, nil
		}
		return out, nil
	}
	return nil, fmt.Errorf("there is nothing at %s", path)
}

func paths(m map[string]*leaf) []string {
	var out []string
	for k := range m {
		out = append(out, k)
	}
	slices.Sort(out)
	return out
}

// Result is what became of a fault.
type Result struct {
	Fault
	Noticed bool // the proof refused the file
	Named   bool // and named the field, or what it is of the document
	Said    string
	Passes  string // why it may pass unnoticed
	Shown   bool   // a document that is brought in with it shows it
	Hidden  string // why it need not show
}

// excuse is a reason for which a fault may pass.
type excuse struct {
	where  *regexp.Regexp // the place and what was done to it
	reason string
}

// passes are faults that the proof may let through: the file says the same all the same.
var passes = []excuse{
	{regexp.MustCompile(`/BS/(S|W) taken away`), "a border is solid and one point wide without saying so (ISO 32000-2, table 168)"},
	{regexp.MustCompile(`/DA (taken away|as without)`), "the default appearance of the form says the same (ISO 32000-2, 12.7.4.3)"},
	{regexp.MustCompile(`/V taken away`), "a box without a value is off (ISO 32000-2, 12.7.5.2.3)"},
	{regexp.MustCompile(`/AP/N content as without`), "both draw nothing"},
}

// hides are faults that a note need not show.
var hides = []excuse{
	{regexp.MustCompile(`/AP/`), "a drawing: a note shows what is said, and a release draws it anew when it changes"},
	{regexp.MustCompile(`/DA `), "readers read past what is no operator, and inherit the same from the form"},
	{regexp.MustCompile(`/A/Fields\[\] one element short`), "a field is named and pointed at: either alone says the same (ISO 32000-2, table 241)"},
	{regexp.MustCompile(`/TU `), "it is said at the field and at its widget"},
	{regexp.MustCompile(`/MK/CA `), "a sign that stands for no mark shows the usual one"},
	{regexp.MustCompile(`/(AS|V|DV) taken away`), "a box without one is off, and a file that was filled in has no value to go back to"},
	{regexp.MustCompile(`/BS/`), "a border is solid and one point wide without saying so, or in a way that the standard does not know"},
	{regexp.MustCompile(`/MK/(I|IF)\b`), "its picture is kept as it came, and said to be"},
	{regexp.MustCompile(`^(Metadata|ViewerPreferences|page \d|AcroForm/SigFlags|.*/Tabs )`), "it is not of a field"},
}

func excused(list []excuse, what string) string {
	for _, e := range list {
		if e.where.MatchString(what) {
			return e.reason
		}
	}
	return ""
}

// Try lets the proof and the arrival see a fault; sound is what arrives of the file without it.
func (f Fault) Try(sound read.Arrival) Result {
	r := Result{Fault: f}
	what := "/" + f.Where + " " + f.What
	if err := proof.ProveRelease(context.Background(), f.Source, f.Bytes, f.Draft); err != nil {
		r.Noticed, r.Said = true, err.Error()
		for _, name := range []string{f.Field, other, "document", "metadata", "page 1", "signature", "when "} {
			r.Named = r.Named || strings.Contains(r.Said, name)
		}
	} else {
		r.Passes = excused(passes, what)
	}
	came, err := read.Arrive(f.Bytes)
	if r.Shown = err != nil || !sameRows(sound, came); !r.Shown {
		if r.Hidden = excused(hides, what); r.Hidden == "" {
			r.Hidden = excused(hides, strings.TrimPrefix(what, "/"))
		}
	}
	return r
}

// All puts every fault into the specimens and gives what became of each.
func All() ([]Result, error) {
	src, err := Source()
	if err != nil {
		return nil, err
	}
	specimens, err := Specimens()
	if err != nil {
		return nil, err
	}
	var out []Result
	for _, s := range append(specimens, Arranged()...) {
		list, sound, err := s.Of(src)
		if err != nil {
			return nil, fmt.Errorf("%s of a %s: %w", s.Property, s.Kind, err)
		}
		if err := proof.ProveRelease(context.Background(), src, sound, s.With); err != nil {
			return nil, fmt.Errorf("%s of a %s is refused without a fault: %w", s.Property, s.Kind, err)
		}
		came, err := read.Arrive(sound)
		if err != nil {
			return nil, err
		}
		for _, f := range list {
			out = append(out, f.Try(came))
		}
	}
	return out, nil
}

// sameRows tells whether two arrivals say the same of their fields and of the document.
func sameRows(a, b read.Arrival) bool {
	if len(a.Fields) != len(b.Fields) || !a.Details.Equal(b.Details) {
		return false
	}
	for i := range a.Fields {
		x, y := a.Fields[i], b.Fields[i]
		if fmt.Sprint(x.Origin.Keeps) != fmt.Sprint(y.Origin.Keeps) {
			return false
		}
		x.ID, y.ID = "", ""
		x.Origin.Object, y.Origin.Object = 0, 0
		if !x.Equal(y) {
			return false
		}
	}
	return true
}
