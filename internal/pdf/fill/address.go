package fill

import (
	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"

	"zealousmargin.example/internal/pdf/object"
	"zealousmargin.example/internal/pdf/read"
)

// Readdress has a form send its answers elsewhere: every action that sends to one address sends to the other (ISO 32000-2, 12.7.6.2). It is
// an increment; a form that sends nothing there comes back as it was.
func Readdress(src []byte, from, to string) (_ []byte, err error) {
	defer object.Recovered(&err)
	f, err := object.Parse(src)
	if err != nil {
		return nil, err
	}
	ws, err := read.WidgetsOf(f)
	if err != nil {
		return nil, err
	}
	a := addresser{File: f, from: from, to: to, seen: map[int]bool{}}
	for _, w := range ws {
		for _, key := range []string{"A", "AA"} {
			if o := object.Entry(w.Dict, key); o != nil {
				a.walk(o, func() { f.Touch(w.Refs[0]) }, 0)
			}
		}
	}
	cat, err := f.Catalog()
	if err != nil {
		return nil, err
	}
	for _, key := range []string{"OpenAction", "AA"} {
		if o := object.Entry(cat, key); o != nil {
			a.walk(o, func() { a.err = f.TouchCatalog() }, 0)
		}
	}
	if a.err != nil || a.changed == 0 {
		return src, a.err
	}
	return f.Increment()
}

type addresser struct {
	*object.File
	from, to string
	seen     map[int]bool // objects that were looked at
	changed  int
	err      error
}

// deepest is how far actions are followed: each may name the next.
const deepest = 200

// walk looks through an action and those that follow it. Touch marks the object that holds it as changed.
func (a *addresser) walk(o types.Object, touch func(), depth int) {
	if depth > deepest {
		return
	}
	if ref, ok := o.(types.IndirectRef); ok {
		n := ref.ObjectNumber.Value()
		if a.seen[n] {
			return
		}
		a.seen[n] = true
		touch = func() { a.Touch(ref) }
	}
	for _, one := range a.Array(o) {
		a.walk(one, touch, depth+1)
	}
	d := a.Dict(o)
	if d == nil {
		return
	}
	if a.Name(object.Entry(d, "S")) == "SubmitForm" {
		a.readdress(d, touch)
	}
	for key, next := range d {
		switch next.(type) {
		case types.Dict, types.Array, types.IndirectRef:
			if key == "Next" || d["S"] == nil { // of additional actions each entry is an action
				a.walk(next, touch, depth+1)
			}
		}
	}
}

// readdress changes the address of one action: a text, or a file specification with one (ISO 32000-2, 7.11.5).
func (a *addresser) readdress(d types.Dict, touch func()) {
	o := object.Entry(d, "F")
	if spec := a.Dict(o); spec != nil {
		if a.Text(object.Entry(spec, "F")) != a.from {
			return
		}
		spec.Update("F", object.Str(a.to))
		if ref, ok := o.(types.IndirectRef); ok {
			touch = func() { a.Touch(ref) }
		}
	} else {
		if a.Text(o) != a.from {
			return
		}
		d.Update("F", object.Str(a.to))
	}
	a.changed++
	touch()
}
