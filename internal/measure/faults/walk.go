package faults

import (
	"fmt"
	"slices"
	"strings"

	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"

	"zealousmargin.example/internal/pdf/object"
)

// leaf is a place in a file: an entry of a dictionary, an element of an array, or the content of a
// stream.
type leaf struct {
	path  string
	value string // as it would be written; the content of a stream
	// put changes it in the file that it was read from, or takes it away with nil.
	put    func(o types.Object)
	object types.Object
	owner  types.IndirectRef // the object that it stands in
	stream *types.StreamDict
}

// skipped are entries that say nothing of a form: how objects are stored, what leads back up, and
// what fonts are made of.
var skipped = map[string]bool{
	"Parent": true, "P": true, "Pages": true, "Length": true, "Filter": true, "DescendantFonts": true, "ToUnicode": true,
	"FontDescriptor": true,
	"Type":           true, "Subtype": true, "FormType": true, "Resources": true, "Limits": true, "Contents": true, "MediaBox": true,
}

// leaves walks everything that a form is made of: the catalog without its page tree, the pages'
// annotations, tab order and actions, and the information dictionary.
func leaves(f *object.File) []leaf {
	w := walker{f: f, seen: map[int]bool{}}
	if cat, err := f.Catalog(); err == nil {
		w.dict(cat, "", *f.Ctx.Root)
	}
	for i, p := range f.Pages {
		for _, k := range []string{"Annots", "Tabs", "AA"} {
			if o, ok := p.Dict.Find(k); ok {
				w.value(o, fmt.Sprintf("page %d/%s", i+1, k), p.Ref, func(o types.Object) { put(p.Dict, k, o) })
			}
		}
	}
	if f.Ctx.Info != nil {
		w.dict(f.Dict(*f.Ctx.Info), "Info", *f.Ctx.Info)
	}
	return w.out
}

func put(d types.Dict, k string, o types.Object) {
	if o == nil {
		d.Delete(k)
	} else {
		d[k] = o
	}
}

type walker struct {
	f    *object.File
	seen map[int]bool
	out  []leaf
}

func (w *walker) dict(d types.Dict, path string, owner types.IndirectRef) {
	for _, k := range slices.Sorted(func(yield func(string) bool) {
		for k := range d {
			if !yield(k) {
				return
			}
		}
	}) {
		if skipped[k] {
			continue
		}
		w.value(d[k], path+"/"+k, owner, func(o types.Object) { put(d, k, o) })
	}
}

func (w *walker) value(o types.Object, path string, owner types.IndirectRef, set func(types.Object)) {
	if ref, ok := o.(types.IndirectRef); ok {
		n := ref.ObjectNumber.Value()
		w.out = append(w.out, leaf{path: path, value: "an object", put: set, object: o, owner: owner})
		if w.seen[n] || strings.Contains(path, "/CO[") { // the order of calculation names fields, which are walked as such
			return
		}
		w.seen[n] = true
		owner = ref
		r, err := w.f.Ctx.Dereference(ref)
		if err != nil {
			return
		}
		o = r
		set = func(types.Object) {} // changed where it stands: the entries below
	}
	switch o := o.(type) {
	case types.Dict:
		if _, isFont := o.Find("BaseFont"); isFont { // its name tells it
			w.out = append(w.out, leaf{
				path: path + "/BaseFont", value: o["BaseFont"].PDFString(),
				put: func(v types.Object) { put(o, "BaseFont", v) }, object: o["BaseFont"], owner: owner,
			})
			return
		}
		w.dict(o, path, owner)
	case types.StreamDict:
		w.stream(&o, path, owner)
	case *types.StreamDict:
		w.stream(o, path, owner)
	case types.Array:
		w.out = append(w.out, leaf{path: path + "[]", value: shape(w.f, o), put: set, object: o, owner: owner})
		if len(o) > 40 {
			return
		}
		for i := range o {
			w.value(o[i], fmt.Sprintf("%s[%d]", path, i), owner, func(v types.Object) {
				if v != nil {
					o[i] = v
				}
			})
		}
	case nil:
	default:
		w.out = append(w.out, leaf{path: path, value: o.PDFString(), put: set, object: o, owner: owner})
	}
}

// shape writes an array with what its references stand for left out, so that the numbers of objects
// do not count.
func shape(f *object.File, a types.Array) string {
	var out []string
	for _, o := range a {
		if _, ok := o.(types.IndirectRef); ok {
			out = append(out, "object")
			continue
		}
		out = append(out, o.PDFString())
	}
	return strings.Join(out, " ")
}

func (w *walker) stream(sd *types.StreamDict, path string, owner types.IndirectRef) {
	w.dict(sd.Dict, path, owner)
	if err := sd.Decode(); err != nil {
		return
	}
	w.out = append(w.out, leaf{path: path + " content", value: string(sd.Content), owner: owner, stream: sd})
}
