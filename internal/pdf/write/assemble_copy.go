package write

import (
	"bytes"
	"fmt"

	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"

	"zealousmargin.example/internal/pdf/object"
	"zealousmargin.example/internal/pdf/read"
)

// How objects of the files that a draft is made from are copied into the new one.

// copy gives the object as the new file has it; what it refers to is copied too.
func (a *assembler) copy(f *object.File, o types.Object) types.Object {
	switch o := o.(type) {
	case types.IndirectRef:
		return a.ref(f, o)
	case types.Dict:
		return a.dict(f, o)
	case types.Array:
		out := make(types.Array, 0, len(o))
		for _, v := range o {
			if !a.harms(f, "", v, false) {
				out = append(out, a.copy(f, v))
			}
		}
		return out
	case nil:
		return nil
	}
	return o.Clone()
}

func (a *assembler) dict(f *object.File, d types.Dict) types.Dict {
	out := types.Dict{}
	field := a.leave[read.LeaveActions] && (f.Name(object.Entry(d, "Subtype")) == "Widget" || d.HasEntry("FT") || d.HasEntry("T"))
	for k, v := range d {
		switch {
		case a.harms(f, k, v, field):
		case field && k == "AA":
			out[k] = a.harmless(f, v, true)
		default:
			out[k] = a.copy(f, v)
		}
	}
	return out
}

// harms tells whether an entry of a dictionary is an action that is to be left behind. What belongs to the answer of a field stays, and
// what it does when it is pressed: that stands at the field.
func (a *assembler) harms(f *object.File, key string, v types.Object, field bool) bool {
	if !a.leave[read.LeaveActions] {
		return false
	}
	switch kind, _ := read.Harm(f, v); kind {
	case "":
		return false
	case "JavaScript":
		return !field && !read.FieldScript(key)
	case "SubmitForm":
		return !field
	}
	return true
}

// harmless copies additional actions without any that could harm.
func (a *assembler) harmless(f *object.File, o types.Object, field bool) types.Dict {
	out := types.Dict{}
	for k, v := range f.Dict(o) {
		if kind, _ := read.Harm(f, v); kind == "" || field && !a.harms(f, k, v, true) {
			out[k] = a.copy(f, v)
		}
	}
	return out
}

// ref leads to the copy of an object. Pages that are not part of the draft, and
// widgets that it has dropped, become null.
func (a *assembler) ref(f *object.File, r types.IndirectRef) types.Object {
	key := objectKey{f, r.ObjectNumber.Value()}
	if n, ok := a.pages[key]; ok {
		return *types.NewIndirectRef(n, 0)
	}
	if a.drop[key] {
		return nil
	}
	if n, ok := a.memo[key]; ok {
		return *types.NewIndirectRef(n, 0)
	}
	if d := f.Dict(r); d != nil {
		if t := f.Name(object.Entry(d, "Type")); t == "Page" || t == "Pages" || t == "Catalog" {
			return nil
		}
	}
	n := a.reserve()
	a.memo[key] = n
	a.queue = append(a.queue, key)
	return *types.NewIndirectRef(n, 0)
}

// drain writes the objects that were referred to.
func (a *assembler) drain() error {
	for len(a.queue) > 0 {
		key := a.queue[0]
		a.queue = a.queue[1:]
		n := a.memo[key]
		o, err := key.file.Ctx.Dereference(*types.NewIndirectRef(key.n, 0))
		if err != nil || o == nil {
			a.objects[n] = []byte("null")
			continue
		}
		switch o := o.(type) {
		case types.StreamDict:
			if a.objects[n], err = a.rawStream(key.file, &o); err != nil {
				return err
			}
		case *types.StreamDict:
			if a.objects[n], err = a.rawStream(key.file, o); err != nil {
				return err
			}
		case types.Dict:
			d := a.dict(key.file, o)
			if a.fields[key] { // only the kids that are left
				if kids := key.file.Array(object.Entry(o, "Kids")); kids != nil {
					d["Kids"] = a.onlyKept(key.file, kids)
				}
			}
			if m, ok := a.moved[key]; ok {
				if r, ok := key.file.Rect(object.Entry(o, "Rect")); ok {
					d["Rect"] = object.RectArray(r.Apply(m))
				}
			}
			a.put(n, d)
		default:
			a.put(n, a.copy(key.file, o))
		}
	}
	return nil
}

func (a *assembler) onlyKept(f *object.File, refs types.Array) types.Array {
	out := types.Array{}
	for _, k := range refs {
		if r, ok := k.(types.IndirectRef); ok && a.fields[objectKey{f, r.ObjectNumber.Value()}] {
			out = append(out, a.ref(f, r))
		}
	}
	return out
}

// rawStream keeps a stream as it is encoded.
func (a *assembler) rawStream(f *object.File, sd *types.StreamDict) ([]byte, error) {
	raw := sd.Raw
	if raw == nil {
		if err := sd.Encode(); err != nil {
			return nil, fmt.Errorf("a stream cannot be copied: %w", err)
		}
		raw = sd.Raw
	}
	d := a.dict(f, sd.Dict)
	d["Length"] = types.Integer(len(raw))
	return streamBytes(d, raw), nil
}

func streamBytes(d types.Dict, raw []byte) []byte {
	var b bytes.Buffer
	b.WriteString(d.PDFString())
	b.WriteString("\nstream\n")
	b.Write(raw)
	b.WriteString("\nendstream")
	return b.Bytes()
}
