package read

import (
	"maps"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/pdf/look"
	"zealousmargin.example/internal/pdf/object"
)

// Actions that come with a file are read as steps, where a step can say all that they do. Those of
// which it cannot say all stay in the file as they are.

// FieldTriggers, PageTriggers and DocumentTriggers are the keys of additional actions (ISO 32000-2,
// tables 197, 198 and 200).
var (
	FieldTriggers = map[form.Trigger]string{
		form.WhenDown: "D", form.PointerIn: "E", form.PointerOut: "X", form.FieldEntered: "Fo",
		form.FieldLeft: "Bl",
	}
	PageTriggers     = map[form.Trigger]string{form.PageOpened: "O", form.PageClosed: "C"}
	DocumentTriggers = map[form.Trigger]string{
		form.BeforeClose: "WC", form.BeforeSave: "WS", form.AfterSave: "DS",
		form.BeforePrint: "WP", form.AfterPrint: "DP",
	}
)

// PressedAsUp tells that a press on a field of a kind is written as the additional action of the pointer that is let go (table 197, /U):
// readers run the other, /A, of buttons only (seen in two of them).
func PressedAsUp(k form.Kind) bool { return k == form.Text || k == form.Choice }

// KeysOf are the keys of the additional actions of fields of a kind.
func KeysOf(k form.Kind) map[form.Trigger]string {
	keys := maps.Clone(FieldTriggers)
	if PressedAsUp(k) {
		keys[form.WhenPressed] = "U"
	}
	return keys
}

// SubmitKinds are the flags of what is sent (ISO 32000-2, table 240): bit 3 is form data, bit 6 XFDF,
// bit 9 the whole PDF; none is FDF. SubmitExcept is bit 1: the fields are those to leave out.
var SubmitKinds = map[string]int{"": 0, "html": 1 << 2, "xfdf": 1 << 5, "pdf": 1 << 8}

// SubmitExcept tells that the fields of a submit action are those to leave out.
const SubmitExcept = 1

// stepsOf reads what a widget does; whole tells that steps say all of it.
func stepsOf(f *object.File, d types.Dict, kind form.Kind, dear bool) (steps []form.Step, takes, whole bool) {
	whole = true
	add := func(when form.Trigger, o types.Object) {
		list, ok := chain(f, o, when, 0)
		if !ok {
			whole = false
			return
		}
		steps = append(steps, list...)
	}
	if a, ok := d.Find("A"); ok {
		add(form.WhenPressed, a)
	}
	aa := f.Dict(object.Entry(d, "AA"))
	keys := KeysOf(kind)
	for _, when := range form.FieldTriggers {
		if o, ok := aa.Find(keys[when]); ok && keys[when] != "" {
			add(when, o)
		}
	}
	if dear && len(steps) > 0 && steps[0] == (form.Step{Do: form.RunScript, Script: look.TakePicture}) {
		return steps[1:], true, whole
	}
	return steps, false, whole
}

// chain reads an action and those after it; the bool is false when steps cannot say all of it.
func chain(f *object.File, o types.Object, when form.Trigger, depth int) ([]form.Step, bool) {
	a := f.Dict(o)
	if a == nil || depth > 16 {
		return nil, false
	}
	s, ok := stepOf(f, a)
	s.When = when
	if !ok || s.Check(slices.Concat(form.FieldTriggers, form.DocumentTriggers)) != nil {
		return nil, false
	}
	next, more := a.Find("Next")
	if !more {
		return []form.Step{s}, true
	}
	if f.Array(next) != nil { // branches: a step has one successor
		return nil, false
	}
	rest, ok := chain(f, next, when, depth+1)
	if ok && displays(s, rest[0]) {
		return rest, true
	}
	return append([]form.Step{s}, rest...), ok
}

// stepOf reads one action (ISO 32000-2, 12.6.4 and 12.7.6).
func stepOf(f *object.File, a types.Dict) (s form.Step, ok bool) {
	has := func(keys ...string) bool { // nothing else that has a meaning
		for k := range a {
			if k != "Type" && k != "S" && k != "Next" && !slices.Contains(keys, k) {
				return false
			}
		}
		return true
	}
	flags := f.Integer(object.Entry(a, "Flags"))
	switch f.Name(object.Entry(a, "S")) {
	case "ResetForm":
		s.Do = form.ClearForm
		s.Fields, ok = namesOf(f, object.Entry(a, "Fields"))
		s.Except = flags&1 != 0 && s.Fields != ""
		return s, ok && has("Fields", "Flags") && flags&^1 == 0
	case "SubmitForm":
		return submitOf(f, a, flags, has("F", "Fields", "Flags"))
	case "Named":
		s.Do = map[string]form.Deed{"Print": form.PrintForm, "SaveAs": form.SaveForm}[f.Name(object.Entry(a, "N"))]
		return s, s.Do != "" && has("N")
	case "GoTo":
		d := f.Array(object.Entry(a, "D"))
		if len(d) != 2 || f.Name(d[1]) != "Fit" {
			return s, false
		}
		ref, isRef := d[0].(types.IndirectRef)
		s.Do, s.Page = form.GoToPage, 1+slices.IndexFunc(f.Pages,
			func(p object.PageObject) bool { return p.Ref.ObjectNumber == ref.ObjectNumber })
		return s, isRef && s.Page > 0 && has("D")
	case "URI":
		s.Do, s.URL = form.OpenLink, f.Text(object.Entry(a, "URI"))
		return s, has("URI")
	case "GoToR":
		d := f.Array(object.Entry(a, "D"))
		window, _ := object.Entry(a, "NewWindow").(types.Boolean)
		s.Do, s.URL = form.OpenPDF, f.Text(object.Entry(a, "F"))
		return s, len(d) == 2 && f.Integer(d[0]) == 0 && f.Name(d[1]) == "Fit" && bool(window) && has("F", "D", "NewWindow")
	case "Hide":
		s.Do = form.HideFields
		if hide, given := object.Entry(a, "H").(types.Boolean); given && !bool(hide) {
			s.Do = form.ShowFields
		}
		s.Fields, ok = namesOf(f, object.Entry(a, "T"))
		return s, ok && has("T", "H")
	case "ImportData":
		s.Do, s.URL = form.BringIn, f.Text(object.Entry(a, "F"))
		return s, has("F")
	case "JavaScript":
		return scripted(f.Text(object.Entry(a, "JS"))), has("JS")
	}
	return s, false
}

func submitOf(f *object.File, a types.Dict, flags int, whole bool) (s form.Step, ok bool) {
	spec := f.Dict(object.Entry(a, "F"))
	s.Do, s.URL = form.SubmitForm, f.Text(object.Entry(spec, "F"))
	s.Fields, ok = namesOf(f, object.Entry(a, "Fields"))
	s.Except = flags&SubmitExcept != 0 && s.Fields != ""
	known := false
	for as, flag := range SubmitKinds {
		if flags&^SubmitExcept == flag {
			s.As, known = as, true
		}
	}
	return s, ok && known && whole && f.Name(object.Entry(spec, "FS")) == "URL" && !(flags&SubmitExcept != 0 && s.Fields == "")
}

// namesOf reads the names of fields, with commas between; references stand for their full names. Where fields are both named and pointed
// at, the two must be the same.
func namesOf(f *object.File, o types.Object) (string, bool) {
	if o == nil {
		return "", true
	}
	list := f.Array(o)
	if list == nil {
		list = types.Array{o}
	}
	var named, pointed []string
	for _, o := range list {
		name, d := f.Text(o), f.Dict(o)
		if d != nil {
			name = fullName(f, d)
		}
		if name == "" || strings.Contains(name, ",") {
			return "", false
		}
		if d != nil {
			pointed = append(pointed, name)
		} else {
			named = append(named, name)
		}
	}
	if len(named) == 0 {
		named, pointed = pointed, nil
	}
	return strings.Join(named, ", "), len(pointed) == 0 || slices.Equal(named, pointed)
}

func fullName(f *object.File, d types.Dict) string {
	var parts []string
	for depth := 0; d != nil && depth < 32; depth++ {
		if o, ok := d.Find("T"); ok {
			parts = append([]string{f.Text(o)}, parts...)
		}
		d = f.Dict(object.Entry(d, "Parent"))
	}
	return strings.Join(parts, ".")
}

// ourSet is a line of a script that sets the value of a field, or locks or frees it.
var ourSet = regexp.MustCompile(`^var f = this\.getField\(("(?:[^"\\]|\\.)*")\); if \(f\) \{ f\.(readonly|value) = (.*); \}$`)

// ourDisplay is a line of a script that goes before the action that shows or hides a field.
var ourDisplay = regexp.MustCompile(`^var f = this\.getField\(("(?:[^"\\]|\\.)*")\); if \(f\) \{ f\.display = ([0-3]); \}$`)

// displays tells whether a step is the script that says the same as the step after it.
func displays(s, next form.Step) bool {
	if s.Do != form.RunScript || next.Do != form.ShowFields && next.Do != form.HideFields {
		return false
	}
	var fields []string
	for _, line := range strings.Split(s.Script, "\n") {
		m := ourDisplay.FindStringSubmatch(line)
		if m == nil || (m[2] == "1") != (next.Do == form.HideFields) {
			return false
		}
		name, err := strconv.Unquote(m[1])
		if err != nil {
			return false
		}
		fields = append(fields, name)
	}
	return strings.Join(fields, ", ") == next.Fields
}

// scripted reads a script as a step: one of those that steps are written as, or itself.
func scripted(js string) form.Step {
	own := form.Step{Do: form.RunScript, Script: js}
	var s form.Step
	var fields []string
	for i, line := range strings.Split(js, "\n") {
		m := ourSet.FindStringSubmatch(line)
		if m == nil {
			return own
		}
		name, err := strconv.Unquote(m[1])
		one := form.Step{Do: map[string]form.Deed{"true": form.LockFields, "false": form.FreeFields}[m[3]]}
		if m[2] == "value" {
			one.Do = form.SetValue
			v, verr := strconv.Unquote(m[3])
			if one.Value = v; verr != nil {
				return own
			}
		}
		if err != nil || one.Do == "" || i > 0 && one != s {
			return own
		}
		s, fields = one, append(fields, name)
	}
	s.Fields = strings.Join(fields, ", ")
	return s
}

// Events reads what is done when something happens to the document or to its pages, as far as steps
// say all that is done then.
func Events(f *object.File) []form.Step {
	cat, err := f.Catalog()
	if err != nil {
		return nil
	}
	var out []form.Step
	add := func(d types.Dict, key string, when form.Trigger, page int) {
		o, ok := d.Find(key)
		if !ok {
			return
		}
		list, ok := chain(f, o, when, 0)
		if !ok {
			return
		}
		for i := range list {
			list[i].OnPage = page
		}
		out = append(out, list...)
	}
	add(cat, "OpenAction", form.DocumentOpened, 0)
	for i, p := range f.Pages {
		aa := f.Dict(object.Entry(p.Dict, "AA"))
		for _, when := range []form.Trigger{form.PageOpened, form.PageClosed} {
			add(aa, PageTriggers[when], when, i+1)
		}
	}
	aa := f.Dict(object.Entry(cat, "AA"))
	for _, when := range form.DocumentTriggers {
		if key := DocumentTriggers[when]; key != "" {
			add(aa, key, when, 0)
		}
	}
	return out
}
