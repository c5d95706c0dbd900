package proof

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/dop251/goja"

	"zealousmargin.example/internal/form"
)

// What a press or another event does, in words of our own: once as the written file says it, once as
// the draft does. Scripts are run, with fields that note what is done to them, so that it is their
// effect that counts.

// chain reads an action and those after it (ISO 32000-2, 12.6.2).
func (f *file) chain(o any, pages []sheet) []string {
	var out []string
	for depth := 0; depth < 64; depth++ {
		a := f.dict(o)
		if a == nil {
			return out
		}
		is := f.action(a, pages)
		if to, names, _ := strings.Cut(is, " "); f.name(a["S"]) == "Hide" {
			if n := len(out); n > 0 && out[n-1] == f.displayed(to == "show", strings.Split(names, ", ")) {
				out = out[:n-1] // the script says the same, for readers that do not know the action
			} else {
				is += alone
			}
		}
		out = append(out, is)
		next := f.resolve(a["Next"])
		if list, ok := next.(array); ok {
			for _, n := range list {
				out = append(out, f.chain(n, pages)...)
			}
			return out
		}
		o = next
	}
	return out
}

// alone tells that what is said twice, for readers that know the one or the other, is said once: fields are shown or hidden by an action
// without the script that says the same, fields that are cleared are named but not pointed at.
const alone = " (in some readers)"

// displayed is the effect of the script that shows or hides fields (ISO 21757-1, Field.display: 0 everywhere, 1 nowhere, 2 on the screen
// only, 3 on paper only).
func (f *file) displayed(show bool, names []string) string {
	var out []string
	for _, n := range names {
		to := 1
		if show {
			to = f.displays[n]
		}
		out = append(out, fmt.Sprintf("display of %s is %d", n, to))
	}
	return strings.Join(out, ", ")
}

func (f *file) action(a dict, pages []sheet) string {
	both := true // all are named, and all are pointed at: some readers go by the one only, some by the other
	names := func(k name) []string {
		var named, pointed []string
		list, ok := f.resolve(a[k]).(array)
		if !ok && a[k] != nil {
			list = array{a[k]}
		}
		for _, o := range list {
			if n, isRef := o.(ref); isRef && f.dict(n) != nil {
				pointed = append(pointed, f.fullName(n))
			} else {
				named = append(named, f.words(o))
			}
		}
		if both = slices.Equal(named, pointed); len(named) == 0 {
			return pointed
		}
		return named
	}
	flags := int(f.number(a["Flags"]))
	spec := func(o any) string {
		if d := f.dict(o); d != nil {
			return f.words(d["F"])
		}
		return f.words(o)
	}
	switch kind := f.name(a["S"]); kind {
	case "ResetForm":
		is := said("clear", flags&1 != 0, names("Fields"))
		if !both {
			is += alone
		}
		return is
	case "SubmitForm":
		if fs := f.name(f.dict(a["F"])["FS"]); fs != "URL" { // table 239: an address
			return "send to a file of the kind " + fs
		}
		how := fmt.Sprintf("send to %s with the flags %d,", spec(a["F"]), flags)
		return said(how, flags&1 != 0, names("Fields"))
	case "Named":
		return map[string]string{"Print": "print", "SaveAs": "save"}[f.name(a["N"])]
	case "GoTo":
		dest := f.array(a["D"])
		if len(dest) == 2 && f.name(dest[1]) == "Fit" {
			if n, ok := dest[0].(ref); ok {
				return fmt.Sprintf("go to page %d", 1+slices.IndexFunc(pages, func(s sheet) bool { return s.number == int(n) }))
			}
		}
		return "go nowhere"
	case "URI":
		return "open " + f.words(a["URI"])
	case "GoToR":
		d, window := f.array(a["D"]), f.resolve(a["NewWindow"])
		if len(d) != 2 || f.number(d[0]) != 0 || f.name(d[1]) != "Fit" || window != true {
			return "open some place in the file " + spec(a["F"])
		}
		return "open the file " + spec(a["F"])
	case "Hide":
		hide, given := f.resolve(a["H"]).(bool)
		if !given || hide { // hidden unless it says not
			return said("hide", false, names("T"))
		}
		return said("show", false, names("T"))
	case "ImportData":
		return "bring in " + spec(a["F"])
	case "JavaScript":
		return effect(f.script(a))
	default:
		return "something called " + kind
	}
}

func said(what string, except bool, names []string) string {
	switch {
	case len(names) == 0:
		return what + " all fields"
	case except:
		return what + " all but " + strings.Join(names, ", ")
	}
	return what + " " + strings.Join(names, ", ")
}

// effect runs a script with fields that note what is set on them. A script that does more than that,
// or fails, stands for itself.
func effect(js string) string {
	vm := goja.New()
	vm.SetMaxCallStackSize(64)
	stop := time.AfterFunc(time.Second, func() { vm.Interrupt("too long") })
	defer stop.Stop()
	var done []string
	field := func(name string) goja.Value {
		return vm.NewDynamicObject(&noted{vm: vm, note: func(k string,
			v goja.Value,
		) {
			done = append(done, fmt.Sprintf("%s of %s is %v", k, name, v))
		}})
	}
	event := vm.NewObject()
	target := vm.NewDynamicObject(&noted{vm: vm, note: func(k string, v goja.Value) { done = append(done, k+" of this field") }})
	if vm.Set("getField", func(c goja.FunctionCall) goja.Value { return field(c.Argument(0).String()) }) != nil ||
		event.Set("target", target) != nil || vm.Set("event", event) != nil {
		return "run " + js
	}
	if _, err := vm.RunString(js); err != nil || len(done) == 0 {
		return "run " + js
	}
	return strings.Join(done, ", ")
}

// noted is an object that notes what is set on it and what is called of it.
type noted struct {
	vm   *goja.Runtime
	note func(k string, v goja.Value)
}

// Get gives a function that notes its call.
func (n *noted) Get(k string) goja.Value {
	return n.vm.ToValue(func(goja.FunctionCall) goja.Value { n.note(k, goja.Undefined()); return goja.Undefined() })
}

// Set notes what is set.
func (n *noted) Set(k string, v goja.Value) bool { n.note(k, v); return true }

// Has tells that there is everything.
func (n *noted) Has(string) bool { return true }

// Delete deletes nothing.
func (n *noted) Delete(string) bool { return false }

// Keys lists nothing.
func (n *noted) Keys() []string { return nil }

// asks is what a step asks for, as [file.action] puts it.
func asks(s form.Step) string {
	each := func(what string) string {
		var out []string
		for _, n := range s.Named() {
			out = append(out, fmt.Sprintf(what, n))
		}
		return strings.Join(out, ", ")
	}
	except := s.Except && len(s.Named()) > 0
	switch s.Do {
	case form.ClearForm:
		return said("clear", except, s.Named())
	case form.SubmitForm:
		// ISO 32000-2, table 240: bit 3 is form data, bit 6 XFDF, bit 9 the whole PDF.
		flags := map[string]int{"html": 4, "xfdf": 32, "pdf": 256}[s.As]
		if except {
			flags++
		}
		return said(fmt.Sprintf("send to %s with the flags %d,", s.URL, flags), except, s.Named())
	case form.PrintForm:
		return "print"
	case form.SaveForm:
		return "save"
	case form.GoToPage:
		return fmt.Sprintf("go to page %d", s.Page)
	case form.OpenLink:
		return "open " + s.URL
	case form.OpenPDF:
		return "open the file " + s.URL
	case form.ShowFields:
		return said("show", false, s.Named())
	case form.HideFields:
		return said("hide", false, s.Named())
	case form.LockFields:
		return each("readonly of %s is true")
	case form.FreeFields:
		return each("readonly of %s is false")
	case form.SetValue:
		return each("value of %s is " + strings.ReplaceAll(s.Value, "%", "%%"))
	case form.BringIn:
		return "bring in " + s.URL
	case form.RunScript:
		return effect(s.Script)
	}
	return string(s.Do)
}

// events are the keys of additional actions by what happens (tables 197, 198 and 200).
var events = map[form.Trigger]name{
	form.WhenDown: "D", form.PointerIn: "E", form.PointerOut: "X", form.FieldEntered: "Fo", form.FieldLeft: "Bl",
	form.PageOpened: "O", form.PageClosed: "C",
	form.BeforeClose: "WC", form.BeforeSave: "WS", form.AfterSave: "DS", form.BeforePrint: "WP", form.AfterPrint: "DP",
}

// asked is what steps ask for when something happens.
func asked(steps []form.Step, on func(form.Step) bool) string {
	var out []string
	for _, s := range steps {
		if on(s) {
			out = append(out, asks(s))
		}
	}
	return strings.Join(out, "; ")
}
