package write

import (
	"bytes"
	"maps"
	"slices"
	"strings"

	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"

	"zealousmargin.example/internal/pdf/object"
)

// FDF writes answers as form data (ISO 32000-2, 12.7.8), file naming the form that they belong to. Names with full stops become nested
// fields; buttons says which answers are the states of buttons, and several which are lists, one a line.
func FDF(file string, values map[string]string, buttons, several func(name string) bool) []byte {
	type node struct {
		name  string
		value types.Object
		kids  []*node
	}
	root := &node{}
	for _, n := range slices.Sorted(maps.Keys(values)) {
		at := root
		for part := range strings.SplitSeq(n, ".") {
			i := slices.IndexFunc(at.kids, func(k *node) bool { return k.name == part })
			if i < 0 {
				at.kids = append(at.kids, &node{name: part})
				i = len(at.kids) - 1
			}
			at = at.kids[i]
		}
		switch {
		case buttons(n):
			at.value = object.NameOf(values[n])
		case several(n):
			list := types.Array{}
			for v := range strings.SplitSeq(values[n], "\n") {
				list = append(list, object.Str(v))
			}
			at.value = list
		default:
			at.value = object.Str(values[n])
		}
	}
	var fields func(kids []*node) types.Array
	fields = func(kids []*node) types.Array {
		var out types.Array
		for _, k := range kids {
			d := types.Dict{"T": object.Str(k.name)}
			if k.value != nil {
				d["V"] = k.value
			}
			if len(k.kids) > 0 {
				d["Kids"] = fields(k.kids)
			}
			out = append(out, d)
		}
		return out
	}
	data := types.Dict{"Fields": fields(root.kids)}
	if file != "" {
		data["F"] = object.Str(file)
	}
	var b bytes.Buffer
	b.WriteString("%FDF-1.2\n%\xe2\xe3\xcf\xd3\n1 0 obj\n" + types.Dict{"FDF": data}.PDFString() +
		"\nendobj\ntrailer\n<< /Root 1 0 R >>\n%%EOF\n")
	return b.Bytes()
}
